"""Cuts among loose parts: a rectangle, round or slot taken out of the member's steel behind a face, or out of a plate."""

import math
from dataclasses import dataclass
from dataclasses import replace as replace_

import msgspec
import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.details.parts import Piece, Plate
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.loose.place import Face, Made, across_from
from tincleat.families.loose.plates import cut_out
from tincleat.families.loose.settings import ACCESS, BEVEL, RECTANGLE, ROUND
from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.kit.access import access_usual
from tincleat.steel.cuts import Cuts, EndCut, Notch

replace = msgspec.structs.replace
PAST = 1.0  # mm that a cutter reaches past the steel either way


def _bevel(given: Given, face: Face, made: "dict[int, Made]") -> None:
    """The edge of a plate next to a place on one of its faces, bevelled from that face; raises NoFit where there is no such edge, or nothing left."""
    number = next((k for k, p in made.items() if p.name == face.owner), 0)
    plate = made.get(number)
    if not isinstance(plate, Plate):
        raise NoFit("a bevel goes along the edge of a flat plate" + ("" if plate is None else f"; {plate.name} is none"), right="part 1, or the back of it, where that is a plate")
    along, across = float(given.value("along")), across_from(face, str(given.value("from_")), float(given.value("across")))
    x, y = plate.frame.to_local(face.point(along, across)[None])[0, :2]
    if any(bulge for _, _, bulge in plate.outline.vertices):
        raise NoFit(f"{plate.name} has round corners or edges", right="square or sniped corners, or a cut of another shape")
    ring = np.array([(a, b) for a, b, _ in plate.outline.vertices])
    ends = np.roll(ring, -1, axis=0)
    spot = shapely.Point(x, y)
    i = min(range(len(ring)), key=lambda k: float(shapely.distance(spot, shapely.LineString([ring[k], ends[k]]))))
    way = (ends[i] - ring[i]) / np.linalg.norm(ends[i] - ring[i])
    out = np.array((way[1], -way[0]))  # the outline runs counter-clockwise: out of the steel
    if float(((ring - ring[i]) @ out).max()) > 0.01:
        raise NoFit(f"that edge of {plate.name} lies in an inner corner: a plane along it would cut more off", right="an edge that all of the plate lies behind")
    slant, deep = float(given.value("slant")), float(given.worked_out("deep", plate.thickness))
    if deep > plate.thickness + 0.01:
        raise NoFit(f"a bevel {deep:g} mm deep goes further than {plate.name}, {plate.thickness:g} mm thick", right=f"at most {plate.thickness:g} mm")
    if deep * math.tan(slant) > float(((ring - ring[i]) @ -out).max()) - 1.0:
        raise NoFit(f"a bevel of {math.degrees(slant):.0f}° takes {deep * math.tan(slant):.0f} mm of {plate.name}: nothing is left of it there", right="less of an angle or depth")
    back = float(np.dot(face.n, plate.frame.z)) < 0
    sign, level = (1.0, deep) if back else (-1.0, plate.thickness - deep)
    normal = (-float(out[0]) * math.cos(slant), -float(out[1]) * math.cos(slant), sign * math.sin(slant))
    made[number] = replace(plate, trims=(*plate.trims, EndCut(0, (float(ring[i][0]), float(ring[i][1]), level), normal)))


def _access(given: Given, face: Face, across: float, length: float, height: float) -> tuple[float, Outline]:
    """An access hole beside the edge of a web's face that is next to a place ``across`` it: where its middle lies across, and its outline, with
    its two inner corners rounded.  A web's flat ends where the fillets at its flanges begin; the hole goes on to the flange's inner face."""
    m = face.owner == "member"
    if not m or face.root <= 0.0:
        raise NoFit("an access hole goes into a web beside a flange", right="the near or far side of an I-section or channel")
    if float(given.value("turn")):
        raise NoFit("an access hole lies along its flange", right="no turn")
    radius = float(given.worked_out("corner_size", min(10.0 if not given.house.inch else 9.525, height - 1.0, length / 2 - 1.0)))
    upper = across >= (face.low + face.high) / 2
    edge = face.high + face.root if upper else face.low - face.root
    side = face.hand * (1.0 if upper else -1.0)  # of the outline's y that the flange is on
    h = height / 2
    ring = [(-length / 2, -h), (length / 2, -h), (length / 2, h), (-length / 2, h)]
    inner = (0, 1) if side > 0 else (2, 3)
    return edge - (h if upper else -h), Outline.rounded(ring, [radius if i in inner else 0.0 for i in range(4)])


@dataclass(frozen=True)
class Taken:
    """What a cut took out: its outline in the plane of the frame, whose z runs out of the face ``depth`` mm off; the notch, where it is the
    member's."""

    frame: Frame
    outline: Outline
    depth: float
    notch: Notch | None = None

    @property
    def face(self) -> Frame:
        """Its frame on the face."""
        return self.frame.moved(z=self.depth)


def cut_in(given: Given, face: Face, name: str, made: "dict[int, Made]") -> Taken | None:
    """What a cut takes out: a notch of the member, or of a plate or piece among the parts, which are left in ``made``; None for a bevel."""
    shape = str(given.value("shape"))
    if shape == BEVEL:
        _bevel(given, face, made)
        return None
    along, turn = float(given.value("along")), float(given.value("turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    usual = access_usual(face.thick, 0.0, given.house.inch) if shape == ACCESS else (60.0, 100.0)
    length = float(given.worked_out("length", usual[1]))
    width = length if shape == ROUND else float(given.worked_out("width", usual[0]))
    if shape == ACCESS:
        across, outline = _access(given, face, across, length, width)
    elif shape == RECTANGLE:
        size = float(given.worked_out("corner_size", 0.0)) if given.has("corner_size") else 0.0
        outline = Outline.rounded([(-length / 2, -width / 2), (length / 2, -width / 2), (length / 2, width / 2), (-length / 2, width / 2)], [size] * 4)
    else:
        outline = Outline.circle(0.0, 0.0, length) if shape == ROUND else Outline.slot(0.0, 0.0, min(length, width), max(length, width), 0.0 if length >= width else math.pi / 2)
    past = PAST + (face.root if shape == ACCESS else 0.0)  # the fillets beside the web go with it
    at = face.frame(along, across, -face.thick - past, turn)
    taken = Taken(at, outline, face.thick + past)
    if face.owner == "member":
        return replace_(taken, notch=Notch(name, 0, at, outline, face.thick + 2 * past))
    number = next(k for k, p in made.items() if p.name == face.owner)
    plate = made[number]
    if isinstance(plate, Piece):
        notch = Notch(name, 0, at, outline, face.thick + 2 * PAST)
        left = replace(plate, cuts=plate.cuts + Cuts((), (notch,)).seen_from(plate.frame))
        if left.volume > plate.volume - 0.5:
            raise NoFit(f"{name} misses {plate.name}", right="a place on it")
        made[number] = left
        return taken
    if not isinstance(plate, Plate):
        raise NoFit(f"cuts go into the member, a piece or a flat plate; {plate.name} is none of them", right="holes, which go into bent plates too")
    ring = plate.frame.to_local(at.to_world(np.column_stack([outline.points(0.02), np.zeros(len(outline.points(0.02)))])))[:, :2]
    made[number] = cut_out(plate, Polygon(ring), name)
    return taken
