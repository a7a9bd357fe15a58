"""Commands that cut a member's own steel by polygons, and take its own cuts back."""

import msgspec
from shapely.geometry import Polygon

from tincleat.catalogue.sections import STEEL_DENSITY, section
from tincleat.commands.frame import Length, to_mm
from tincleat.commands.picking import picked
from tincleat.commands.registry import command
from tincleat.commands.shape import several
from tincleat.errors import BadValue, Refused
from tincleat.geometry.frames import vec
from tincleat.geometry.mesh import volumes_apart
from tincleat.geometry.outline import Outline
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Cutout, Delta, Member, Units
from tincleat.project.members import MOST_CORNERS, axis_frame, check_member, length
from tincleat.project.project import Project
from tincleat.steel.body import steel_mesh
from tincleat.steel.members import net_mass, own_cuts
from tincleat.units import format_mass

VIEWS = ("side", "top")


class CutPolygon(msgspec.Struct, forbid_unknown_fields=True):
    """Members to cut, seen from the ``side`` or the ``top``; corners are (along from ``origin``, across from the section's middle).

    Across is towards the section's top seen from the side, towards its y axis seen from the top.  Corners that lie in the
    steel are rounded by ``radius``.
    """

    ids: list[str]
    corners: list[tuple[Length, Length]]
    view: str = "side"
    origin: str = "start"
    radius: Length = 0.0


@command("cut-polygon", "Cut a polygon out of members", CutPolygon, ("cope", "notch", "hole", "opening", "burn", "shape"))
def cut_polygon(project: Project, ledger: Ledger, args: CutPolygon) -> tuple[str, list[Delta]]:
    """Cut a polygon through members' steel: a cope, an opening, a shaped end; it goes with the member."""
    if args.view not in VIEWS:
        raise BadValue(f"there is no view {args.view!r}", "cut-polygon, view", "side or top")
    if args.origin not in ("start", "end"):
        raise BadValue(f"{args.origin!r} is no end of a member", "cut-polygon, origin", "start or end")
    if len(args.corners) > MOST_CORNERS:
        raise BadValue(f"{len(args.corners)} corners", "cut-polygon", f"at most {MOST_CORNERS}")
    corners = [(to_mm(u, project.house, f"corner {i + 1}, along"), to_mm(v, project.house, f"corner {i + 1}, across")) for i, (u, v) in enumerate(args.corners)]
    plan = Polygon(corners) if len(corners) > 2 else Polygon()
    if not plan.is_valid or plan.area < 1.0:
        raise BadValue("the corners do not enclose an area: three or more are needed, and sides must not cross", "cut-polygon", "corners in order round it")
    radius = to_mm(args.radius, project.house, "radius")
    out = [_cut(m, corners, args, radius, project.house.units) for m in picked(project, ledger, args.ids)]
    return f"Cut a polygon out of {several(len(out))}", project.put(*out)


def _cut(m: Member, corners: list[tuple[float, float]], args: CutPolygon, radius: float, units: Units) -> Member:
    shape, full, frame = section(m.section), length(m), axis_frame(m)
    half = (shape.h if args.view == "side" else shape.b) / 2
    placed = [(u if args.origin == "start" else full - u, v) for u, v in corners]
    if Polygon(placed).exterior.is_ccw is False:
        placed = placed[::-1]
    if not Polygon(placed).intersects(Polygon([(0, -half), (full, -half), (full, half), (0, half)])):
        raise BadValue(
            f"the polygon lies beside {m.name}", "cut-polygon", f"corners within its length of {full:.0f} mm and {half:.0f} mm either way of its middle"
        )
    inside = [0 < u < full and abs(v) < half for u, v in placed]
    radii = tuple(radius if one else 0.0 for one in inside)
    Outline.rounded(placed, list(radii))  # says if an arc does not fit
    # seen from the side the cut runs across the web, so that v is the depth; from the top along the depth, so that v is y
    z = vec([-c for c in frame.y]) if args.view == "side" else frame.z
    made = msgspec.structs.replace(m, outs=(*m.outs, Cutout(frame.origin, frame.x, z, tuple(placed), radii)))
    if net_mass(made, own_cuts(made)) <= 0:
        raise BadValue(f"nothing of {m.name} would be left", "cut-polygon", "a smaller polygon")
    before, after = (volumes_apart(steel_mesh(shape, own_cuts(x), 0.0, full, 16)) for x in (m, made))
    if len(after) > max(len(before), 1):
        parts = " and ".join(format_mass(v * STEEL_DENSITY, units) for v in after[:4])
        raise BadValue(f"{m.name} would fall into {len(after)} pieces, of {parts}", "cut-polygon", "a polygon that leaves it in one; split-members where it shall be two, a trimmed end where one is waste")
    return check_member(made)


class DropCuts(msgspec.Struct, forbid_unknown_fields=True):
    """Members whose own cuts go: their planes, their polygons, or both."""

    ids: list[str]
    kind: str = "all"


@command("drop-cuts", "Take members' own cuts back", DropCuts, ("uncut", "whole", "remove cope", "undo cut"))
def drop_cuts(project: Project, ledger: Ledger, args: DropCuts) -> tuple[str, list[Delta]]:
    """Make members whole again: their own planes and polygons go; what connections cut stays."""
    if args.kind not in ("all", "planes", "polygons"):
        raise BadValue(f"there are no cuts called {args.kind!r}", "drop-cuts, kind", "all, planes or polygons")
    gone = {"cuts": ()} if args.kind == "planes" else {"outs": ()} if args.kind == "polygons" else {"cuts": (), "outs": ()}
    found = [m for m in picked(project, ledger, args.ids) if any(getattr(m, name) for name in gone)]
    if not found:
        raise Refused("none of them has such a cut of its own", "drop-cuts", "members with a mitre, a trimmed end or a polygon cut")
    return f"Take the cuts of {several(len(found))} back", project.put(*(msgspec.structs.replace(m, **gone) for m in found))
