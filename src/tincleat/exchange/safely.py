"""Write a file whole or not at all."""

import os
from collections.abc import Callable
from pathlib import Path

from tincleat.errors import BadFile


def write_whole(path: "str | Path", write: Callable[[Path], None]) -> Path:
    """Let ``write`` fill a temporary neighbour, then put it in place; raises :class:`BadFile` and leaves what was there."""
    target = Path(path)
    if target.is_dir():
        raise BadFile("this is a folder, not a file", str(target), "a file name")
    if not target.parent.is_dir():
        raise BadFile("its folder does not exist", str(target), "make the folder first or choose another")
    part = target.with_name(f".{target.name}.part{target.suffix}")
    try:
        write(part)
        os.replace(part, target)
    except OSError as error:
        raise BadFile(f"cannot be written: {error.strerror or error}", str(target), "a place you may write to") from error
    finally:
        part.unlink(missing_ok=True)
    return target
