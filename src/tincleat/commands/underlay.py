"""Commands for drawings laid under the model."""

import math
import zlib
from dataclasses import dataclass
from pathlib import Path

import msgspec
import numpy as np

from tincleat.commands.frame import Length, point_of, to_mm
from tincleat.commands.registry import command
from tincleat.errors import BadValue, Progress, TinCleatError
from tincleat.exchange.underlay_in import read_dxf, read_page, read_picture
from tincleat.geometry.frames import Array
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Delta, Underlay
from tincleat.project.limits import LONGEST_NAME, shown
from tincleat.project.places import elevation
from tincleat.project.project import Project


class AddUnderlay(msgspec.Struct, forbid_unknown_fields=True):
    """A DXF, PDF, PNG or JPEG file to lay at a level; ``scale`` is mm a pixel of a picture (a DXF tells its own unit).

    Of a PDF the ``page`` is laid, drawn at 1 : ``paper_scale``.
    """

    path: str
    level: Length = 0.0
    scale: float = 10.0
    page: int = 1
    paper_scale: float = 100.0


@command("add-underlay", "Lay a drawing under the model", AddUnderlay, ("dxf", "pdf", "png", "jpeg", "reference drawing", "picture", "background"))
def add_underlay(project: Project, ledger: Ledger, args: AddUnderlay) -> tuple[str, list[Delta]]:
    """Lay a DXF or a picture of a page under the model at a level; fit it by two known points afterwards."""
    return lay_drawing(project, args, read_drawing(args))


@dataclass(frozen=True)
class Drawing:
    """A drawing as read: segments (n, 4) in mm, or a picture's bytes with its size in pixels and mm of paper a pixel (0 where it does not tell)."""

    lines: "Array | None" = None
    data: bytes = b""
    size: tuple[int, int] = (0, 0)
    paper: float = 0.0


def read_drawing(args: AddUnderlay, progress: "Progress | None" = None) -> Drawing:
    """Read the file of an underlay, off the window's thread if need be; raises BadFile, BadValue, Cancelled."""
    path = Path(args.path)
    if not 1e-4 < args.scale < 1e5:
        raise BadValue(f"a scale of {args.scale:g} mm a pixel", "add-underlay", "more than 0")
    if not 1e-4 < args.paper_scale < 1e5:
        raise BadValue(f"a scale of 1 : {args.paper_scale:g}", "add-underlay", "more than 0, such as 100 for 1:100")
    if path.suffix.lower() == ".dxf":
        return Drawing(read_dxf(path, progress))
    if path.suffix.lower() == ".pdf":
        data, width, height, paper = read_page(path, args.page, progress)
        return Drawing(None, data, (width, height), paper)
    data, width, height = read_picture(path)
    return Drawing(None, data, (width, height))


def lay_drawing(project: Project, args: AddUnderlay, found: Drawing) -> tuple[str, list[Delta]]:
    """Changes that lay a drawing which was read; raises BadValue, NotFound for the level."""
    path = Path(args.path)
    try:
        high = to_mm(elevation(project, args.level), project.house, "level")
    except TinCleatError as error:
        raise error.at("level") from None
    key = project.new_id("u")
    if found.lines is not None:
        low = np.concatenate([found.lines[:, :2], found.lines[:, 2:]]).min(axis=0)
        body, base = zlib.compress(found.lines.astype("<f8").tobytes()), (float(low[0]), float(low[1]))
        made = Underlay(key, shown(path.name)[:LONGEST_NAME], "lines", high, body, (0, 0), base, (0.0, 0.0), 1.0, 0.0)
    else:
        scale, name = (found.paper * args.paper_scale, f"{path.name} page {args.page}") if found.paper else (args.scale, path.name)
        made = Underlay(key, shown(name)[:LONGEST_NAME], "picture", high, found.data, found.size, (0.0, 0.0), (0.0, 0.0), scale, 0.0)
    return f"Lay {shown(path.name)[:LONGEST_NAME]} under the model", project.put(made)


class FitUnderlay(msgspec.Struct, forbid_unknown_fields=True):
    """Two points of an underlay as it lies now (plan, mm) and where they belong: three lengths, or crossings such as ``A1``."""

    id: str
    points: tuple[tuple[float, float], tuple[float, float]]
    belong: tuple[tuple[Length, Length, Length] | str, tuple[Length, Length, Length] | str]


@command("fit-underlay", "Fit a drawing by two points", FitUnderlay, ("scale", "align", "two points", "calibrate"))
def fit_underlay(project: Project, ledger: Ledger, args: FitUnderlay) -> tuple[str, list[Delta]]:
    """Scale, turn and shift an underlay so that two of its points come to lie where they belong."""
    old = project.find("underlay", args.id)
    assert isinstance(old, Underlay)
    a, b = (np.array(p, dtype=float) for p in args.points)
    p, q = (np.array(point_of(v, project, "belongs")[:2]) for v in args.belong)
    size, want = float(np.linalg.norm(b - a)), float(np.linalg.norm(q - p))
    if size < 1.0 or want < 1.0:
        raise BadValue("the two points are one", "fit-underlay", "points well apart, the farther the better")
    factor = want / size
    turn = math.atan2(*(q - p)[::-1]) - math.atan2(*(b - a)[::-1])
    c, s = math.cos(turn), math.sin(turn)
    at = p + factor * np.array([(c, -s), (s, c)]) @ (np.array(old.at) - a)
    new = msgspec.structs.replace(old, scale=old.scale * factor, angle=(old.angle + turn + math.pi) % math.tau - math.pi, at=(float(at[0]), float(at[1])))
    return f"Fit {old.name}", project.put(new)


class ChangeUnderlay(msgspec.Struct, forbid_unknown_fields=True):
    """An underlay, and how faint it is (0 to 1) or at which level it lies."""

    id: str
    dim: float | None = None
    level: Length | None = None


@command("change-underlay", "Dim or lift a drawing", ChangeUnderlay, ("faint", "brightness", "level"))
def change_underlay(project: Project, ledger: Ledger, args: ChangeUnderlay) -> tuple[str, list[Delta]]:
    """Change how faint an underlay is drawn, or the level it lies at."""
    old = project.find("underlay", args.id)
    assert isinstance(old, Underlay)
    if args.dim is not None and not 0 <= args.dim <= 1:
        raise BadValue(f"dim {args.dim:g}", "change-underlay", "0 (as drawn) to 1 (unseen)")
    high = old.level if args.level is None else to_mm(elevation(project, args.level), project.house, "level")
    return f"Change {old.name}", project.put(msgspec.structs.replace(old, dim=old.dim if args.dim is None else args.dim, level=high))


class OfUnderlay(msgspec.Struct, forbid_unknown_fields=True):
    """An underlay, by id or name."""

    id: str


@command("delete-underlay", "Delete a drawing under the model", OfUnderlay, ("remove underlay",))
def delete_underlay(project: Project, ledger: Ledger, args: OfUnderlay) -> tuple[str, list[Delta]]:
    """Take an underlay away."""
    old = project.find("underlay", args.id)
    return f"Delete {old.id}", [Delta("underlay", old.id, old, None)]
