"""Drawings read to be laid under the model: DXF as line segments, PNG and JPEG as they are with their size, a PDF page as a picture."""

import io
import itertools
import math
import struct
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from tincleat.errors import BadFile, Progress
from tincleat.exchange.worker import Line, read
from tincleat.files import read_whole
from tincleat.geometry.frames import Array

MOST_BYTES = 60_000_000
MOST_SEGMENTS = 300_000
MOST_DRAWN = 1_000_000
MOST_AREA = 60_000_000  # pixels of a picture
MOST_REACH = 1e8  # mm
RIGHT = "a DXF, PDF, PNG or JPEG file"
PAGE_DPI = 200.0  # a page's lines stay apart at this, and an A1 sheet within the pixels below
MOST_PIXELS = 7000.0
CHORD = 2.0  # drawing units an arc's chord may lie off it, before scaling
UNITS = {0: 1.0, 1: 25.4, 2: 304.8, 4: 1.0, 5: 10.0, 6: 1000.0}  # DXF $INSUNITS to mm; 0 is not given


def _bytes(path: Path) -> bytes:
    return read_whole(path, MOST_BYTES, RIGHT)


def read_dxf(path: "str | Path", progress: "Progress | None" = None) -> Array:
    """Line segments (n, 4) in mm of everything drawn in model space, blocks and curves taken apart; read in a process of its own.  Raises BadFile, Cancelled."""
    _bytes(Path(path))
    return np.frombuffer(read("dxf", path, {}, progress), dtype="<f8").reshape(-1, 4).copy()


def worked_dxf(line: Line, path: str) -> bytes:
    """The worker's side of :func:`read_dxf`."""
    return _dxf(Path(path), line).astype("<f8").tobytes()


def _dxf(path: Path, line: Line) -> Array:
    import ezdxf.recover
    from ezdxf.disassemble import recursive_decompose, to_primitives

    try:
        document, _ = ezdxf.recover.readfile(str(path))
        line.step(0.3, "lines and curves")
        given = document.header.get("$INSUNITS", 0)
        scale = UNITS.get(int(given) if isinstance(given, int | float) and math.isfinite(given) else 0, 1.0)
        drawn = _drawn(document, document.modelspace(), {}, ())
        if drawn > MOST_DRAWN:
            raise BadFile(f"with its blocks in place it holds {drawn:.3g} things", str(path), f"at most {MOST_DRAWN}: freeze or delete what is not needed and save it again")
        out: list[Any] = []
        count = 0
        for number, primitive in enumerate(to_primitives(recursive_decompose(document.modelspace()))):
            if number % 2000 == 0:
                line.step(0.3 + 0.6 * min(1.0, number / max(1.0, drawn)), f"lines and curves, {number}")
            if primitive.entity.dxftype() in ("TEXT", "MTEXT", "ATTRIB", "ATTDEF"):
                continue  # of words only the box is known
            outline = primitive.path
            if outline is None:
                continue
            ends = [c for c in (outline.start, outline.end) if not (abs(c.x) < MOST_REACH / scale and abs(c.y) < MOST_REACH / scale)]
            if ends:
                raise BadFile(f"it reaches {max(abs(ends[0].x), abs(ends[0].y)) * scale:.3g} mm from its origin", str(path), f"a drawing within {MOST_REACH:.0e} mm")
            points = np.array([(p.x, p.y) for p in itertools.islice(outline.flattening(CHORD / scale), MOST_SEGMENTS + 2 - count)])
            if len(points) > 1 and np.isfinite(points).all():
                if float(np.abs(points).max()) * scale > MOST_REACH:
                    raise BadFile(f"it reaches {float(np.abs(points).max()) * scale:.3g} mm from its origin", str(path), f"a drawing within {MOST_REACH:.0e} mm")
                out.append(np.concatenate([points[:-1], points[1:]], axis=1))
                count += len(points) - 1
            if count > MOST_SEGMENTS:
                raise BadFile(f"it holds more than {MOST_SEGMENTS} lines", str(path), "freeze layers that are not needed and save it again")
    except (BadFile, MemoryError):
        raise
    except Exception as error:  # the reader raises many kinds on broken files
        raise BadFile(f"the DXF cannot be read: {str(error)[:160]}", str(path), "a DXF file") from error
    if not out:
        raise BadFile("nothing is drawn in its model space", str(path), "a drawing with lines")
    lines: Array = np.concatenate(out) * scale
    return lines


def _drawn(document: Any, layout: Any, known: "dict[str, float]", inside: "tuple[str, ...]") -> float:
    """How many things a layout draws with every block in its place, counted without putting any there; a block in itself counts as endless."""
    total = 0.0
    for entity in layout:
        if entity.dxftype() != "INSERT":
            total += 1
            continue
        name = str(entity.dxf.name)
        times = max(1, abs(int(entity.dxf.get("row_count", 1)))) * max(1, abs(int(entity.dxf.get("column_count", 1))))
        if name in inside or len(inside) > 40:
            return math.inf
        if name not in known:
            block = document.blocks.get(name)
            known[name] = _drawn(document, block, known, (*inside, name)) if block is not None else 0.0
        total += times * (known[name] + 1)
    return total


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
    if not (0 < width <= 20_000 and 0 < height <= 20_000 and width * height <= MOST_AREA):
        raise BadFile(f"the picture measures {width} x {height} pixels", str(path), f"at most 20,000 each way and {MOST_AREA // 1_000_000} million in all")
    return data, int(width), int(height)


def read_page(path: "str | Path", page: int = 1, progress: "Progress | None" = None) -> tuple[bytes, int, int, float]:
    """A page (counted from 1) of a PDF as a PNG: its bytes, width and height in pixels, and mm of paper a pixel; read in a process of its own.

    Raises BadFile, Cancelled.
    """
    _bytes(Path(path))
    data, width, height, paper = msgspec.msgpack.decode(read("pdf", path, {"page": page}, progress), type=tuple[bytes, int, int, float])
    return data, width, height, paper


def worked_pdf(line: Line, path: str, page: int) -> bytes:
    """The worker's side of :func:`read_page`."""
    return msgspec.msgpack.encode(_page(Path(path), page))


def _page(path: Path, page: int) -> tuple[bytes, int, int, float]:
    import pypdfium2

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
