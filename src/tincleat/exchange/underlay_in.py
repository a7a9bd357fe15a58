"""Drawings read to be laid under the model: DXF as line segments, PNG and JPEG as they are with their size, a PDF page as a picture."""

import io
import struct
from pathlib import Path
from typing import Any

import numpy as np

from tincleat.errors import BadFile
from tincleat.geometry.frames import Array

MOST_BYTES = 60_000_000
MOST_SEGMENTS = 300_000
PAGE_DPI = 200.0  # a page's lines stay apart at this, and an A1 sheet within the pixels below
MOST_PIXELS = 7000.0
CHORD = 2.0  # drawing units an arc's chord may lie off it, before scaling
UNITS = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # DXF $INSUNITS to mm; 0 is not given


def _bytes(path: Path) -> bytes:
    try:
        if path.is_dir():
            raise BadFile("this is a folder, not a file", str(path), "a DXF, PDF, PNG or JPEG file")
        if path.stat().st_size > MOST_BYTES:
            raise BadFile(f"the file has {path.stat().st_size / 1e6:.0f} MB", str(path), f"at most {MOST_BYTES // 1_000_000} MB")
        return path.read_bytes()
    except FileNotFoundError:
        raise BadFile("there is no such file", str(path), "a DXF, PDF, PNG or JPEG file") from None
    except OSError as error:
        raise BadFile(f"cannot be read: {error.strerror}", str(path)) from error


def read_dxf(path: "str | Path") -> Array:
    """Line segments (n, 4) in mm of everything drawn in model space, blocks and curves taken apart; raises BadFile."""
    import ezdxf.recover
    from ezdxf.disassemble import recursive_decompose, to_primitives

    path = Path(path)
    _bytes(path)
    try:
        document, _ = ezdxf.recover.readfile(str(path))
        scale = UNITS.get(int(document.header.get("$INSUNITS", 0)), 1.0)
        out: list[Any] = []
        count = 0
        for primitive in to_primitives(recursive_decompose(document.modelspace())):
            outline = primitive.path
            if outline is None or primitive.entity.dxftype() in ("TEXT", "MTEXT", "ATTRIB", "ATTDEF"):
                continue  # of words only the box is known
            points = np.array([(p.x, p.y) for p in outline.flattening(CHORD / scale)])
            if len(points) > 1 and np.isfinite(points).all():
                out.append(np.concatenate([points[:-1], points[1:]], axis=1))
                count += len(points) - 1
            if count > MOST_SEGMENTS:
                raise BadFile(f"it holds more than {MOST_SEGMENTS} lines", str(path), "freeze layers that are not needed and save it again")
    except BadFile:
        raise
    except Exception as error:  # the reader raises many kinds on broken files
        raise BadFile(f"the DXF cannot be read: {str(error)[:160]}", str(path), "a DXF file") from error
    if not out:
        raise BadFile("nothing is drawn in its model space", str(path), "a drawing with lines")
    lines: Array = np.concatenate(out) * scale
    return lines


def read_picture(path: "str | Path") -> tuple[bytes, int, int]:
    """A PNG or JPEG file's bytes, width and height in pixels; raises BadFile for anything else."""
    path = Path(path)
    data = _bytes(path)
    if data[:8] == b"\x89PNG\r\n\x1a\n" and len(data) > 24:
        width, height = struct.unpack(">II", data[16:24])
    elif data[:2] == b"\xff\xd8":
        width, height = _jpeg_size(data, path)
    else:
        raise BadFile("this is neither DXF nor PDF nor PNG nor JPEG", str(path), "a DXF, PDF, PNG or JPEG file")
    if not (0 < width <= 20_000 and 0 < height <= 20_000):
        raise BadFile(f"the picture measures {width} x {height} pixels", str(path), "at most 20,000 each way")
    return data, int(width), int(height)


def read_page(path: "str | Path", page: int = 1) -> tuple[bytes, int, int, float]:
    """A page (counted from 1) of a PDF as a PNG: its bytes, width and height in pixels, and mm of paper a pixel; raises BadFile."""
    import pypdfium2

    path = Path(path)
    data = _bytes(path)
    try:
        document = pypdfium2.PdfDocument(data)
    except pypdfium2.PdfiumError as error:
        raise BadFile(f"the PDF cannot be read: {str(error)[:120]}", str(path), "a PDF without a password") from None
    try:
        if not 1 <= page <= len(document):
            raise BadFile(f"there is no page {page}", str(path), f"1 to {len(document)}" if len(document) else "a PDF with pages")
        sheet = document[page - 1]
        size = max(sheet.get_size())
        if not 1 < size < 100_000:
            raise BadFile(f"page {page} measures {size:.0f} points", str(path), "a page of a drawing")
        # points are 1/72 inch; a large sheet is drawn coarser, so that the picture stays within its bounds
        zoom = min(PAGE_DPI / 72, MOST_PIXELS / size)
        picture = sheet.render(scale=zoom).to_pil().convert("RGB")
        out = io.BytesIO()
        picture.save(out, "PNG")
        return out.getvalue(), picture.width, picture.height, 25.4 / 72 / zoom
    except pypdfium2.PdfiumError as error:
        raise BadFile(f"page {page} cannot be drawn: {str(error)[:120]}", str(path)) from None
    finally:
        document.close()


def _jpeg_size(data: bytes, path: Path) -> tuple[int, int]:
    at = 2
    while at + 9 < len(data):
        if data[at] != 0xFF:
            at += 1
            continue
        kind = data[at + 1]
        if kind in (0xC0, 0xC1, 0xC2, 0xC3, 0xC5, 0xC6, 0xC7, 0xC9, 0xCA, 0xCB, 0xCD, 0xCE, 0xCF):
            height, width = struct.unpack(">HH", data[at + 5 : at + 9])
            return width, height
        if kind in (0xD8, 0x01) or 0xD0 <= kind <= 0xD7 or kind == 0xFF:
            at += 1 if kind == 0xFF else 2
            continue
        at += 2 + struct.unpack(">H", data[at + 2 : at + 4])[0]
    raise BadFile("the JPEG is damaged: it has no size", str(path), "another picture")
