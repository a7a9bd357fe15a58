"""The file of an IFC: unpacked, its letters made plain, parsed by the library, mended where its lines are damaged."""

import io
import re
import zipfile
from functools import cache
from pathlib import Path
from typing import Any

from tincleat.errors import BadFile
from tincleat.files import plain_file

MOST_FILE = 1_000_000_000
RIGHT = "an IFC 2x3, 4 or 4x3 file (.ifc, .ifczip)"


@cache
def library() -> Any:
    """The IFC library, loaded when a file is first read: it takes half a second that every start of the program would pay."""
    import ifcopenshell
    import ifcopenshell.geom
    import ifcopenshell.util.unit

    return ifcopenshell


def check_plain(path: Path) -> None:
    """Raises BadFile for what is plainly no IFC, without loading the library."""
    size = plain_file(path, RIGHT).st_size
    if size > MOST_FILE:
        raise BadFile(f"the file has {size / 1e9:.1f} GB", str(path), f"at most {MOST_FILE / 1e9:.0f} GB")


def _text_of(path: Path) -> tuple[str, bytes]:
    """What had to be done to a file before it can be parsed, and its bytes; raises BadFile for what is no IFC."""
    check_plain(path)
    try:
        data = path.read_bytes()
    except OSError as error:
        raise BadFile(f"cannot be read: {error.strerror}", str(path), RIGHT) from error
    done = ""
    if data[:4] == b"PK\x03\x04":
        data, done = _unzipped(path, data), "unpacked"
    if data[:3] == b"\xef\xbb\xbf":
        data, done = data[3:], done or "its byte-order mark passed over"
    if data[:2] in (b"\xff\xfe", b"\xfe\xff"):
        data, done = data.decode("utf-16", "replace").encode(), "read as UTF-16"
    head = data[:4096]
    if not head.strip():
        raise BadFile("the file is empty", str(path), RIGHT)
    if b"<ifc" in head.lower() or head.lstrip()[:5] == b"<?xml":
        raise BadFile("this is IFC written as XML, which is not read", str(path), "the same model saved as .ifc (STEP)")
    if not head.lstrip().startswith(b"ISO-10303-21"):
        raise BadFile("this is not an IFC file: its first line is not ISO-10303-21", str(path), RIGHT)
    if not re.search(rb"FILE_SCHEMA\s*\(\s*\(\s*'\s*IFC", data[:200_000]):
        raise BadFile("its header names no IFC schema", str(path), RIGHT)
    if not data.isascii():
        data, done = _plain_letters(data), done or " "
    return done, data


def _unzipped(path: Path, data: bytes) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as packed:
            inside = [i for i in packed.infolist() if i.filename.lower().endswith(".ifc") and not i.is_dir()]
            if len(inside) != 1:
                raise BadFile(f"the archive holds {len(inside)} .ifc files", str(path), "one .ifc in it")
            if inside[0].file_size > MOST_FILE:
                raise BadFile(f"the file in it has {inside[0].file_size / 1e9:.1f} GB", str(path), f"at most {MOST_FILE / 1e9:.0f} GB")
            with packed.open(inside[0]) as file:
                out = file.read(MOST_FILE + 1)
    except (zipfile.BadZipFile, RuntimeError, NotImplementedError, EOFError, OSError) as error:
        if isinstance(error, BadFile):
            raise
        raise BadFile(f"the archive cannot be unpacked: {str(error)[:120]}", str(path), RIGHT) from error
    if len(out) > MOST_FILE:
        raise BadFile("the file in it is larger than it says", str(path), RIGHT)
    return out


def _plain_letters(data: bytes) -> bytes:
    """Letters written as they are, in UTF-8 or Latin-1, as the escapes that STEP has for them."""
    try:
        text = data.decode("utf-8")
    except UnicodeDecodeError:
        text = data.decode("latin-1")
    return re.sub(r"[^\x00-\x7f]+", lambda m: "\\X4\\" + "".join(f"{ord(c):08X}" for c in m[0]) + "\\X0\\", text).encode("ascii")


def opened(path: Path) -> tuple[Any, str]:
    """The model of a file, and what had to be done to read it; raises BadFile."""
    done, data = _text_of(path)
    model, mended = None, ""
    try:
        model = library().file.from_string(data.decode("ascii", "replace")) if done else library().open(str(path))
        model.schema  # noqa: B018 - a file of an unknown schema fails only when asked
    except Exception as error:  # the parser raises its own errors, of many kinds
        text, mended = _mended(data)
        try:
            model = library().file.from_string(text)
            model.schema  # noqa: B018
        except Exception:
            raise BadFile(f"the IFC cannot be read: {str(error)[:200]}", str(path), RIGHT) from error
    if not isinstance(model, library().file) or not model.schema.startswith(("IFC2X3", "IFC4")):
        raise BadFile("its schema is not read", str(path), RIGHT)
    if b"END-ISO-10303-21" not in data[-400:]:
        mended = (mended + "; " if mended else "") + "the file ends in the middle: it is damaged, and what comes after is lost"
    return model, "; ".join(w for w in (done.strip(), mended) if w)


_LINE = re.compile(r"#\d+\s*=\s*IFC\w+\s*\(.*\)\s*$", re.DOTALL)
_NO_NUMBER = re.compile(r"(?<=[(,])\s*[-+]?(?:nan|inf(?:inity)?|[\d.]+E[-+]?\d{3,}|[\d.]*\d\.\d*\.\d*)\s*(?=[,)])", re.IGNORECASE)


def _mended(whole: bytes) -> tuple[str, str]:
    """The whole statements of a file that does not parse, those with values that are no numbers left out, and what was done, for the report."""
    head, _, data = whole.decode("latin-1").partition("DATA;")
    head = re.sub(r"IFC4X3\w*", "IFC4X3_ADD2", head)  # by its short name too
    rows = [row.strip() for row in data.replace("ENDSEC;", "").replace("END-ISO-10303-21;", "").split(";\n")]
    good = [row for row in rows if _LINE.match(row) and not _NO_NUMBER.search(row)]
    text = f"{head}DATA;\n" + ";\n".join(good) + ";\nENDSEC;\nEND-ISO-10303-21;\n"
    lost = len([r for r in rows if r]) - len(good)
    return text, f"the file is damaged: {lost} of its lines could not be read and were passed over" if lost else ""
