"""Loose pieces of sections: laid on a face or standing on it, cut along it or to the true outline of the member."""

import math

import msgspec
import numpy as np
import shapely

from tincleat.catalogue.sections import section
from tincleat.details.parts import Piece
from tincleat.errors import NoFit
from tincleat.families.declare import Given
from tincleat.families.loose.place import Face, across_from
from tincleat.families.loose.settings import COPED, DEPTH, FACED, STRAIGHT, TO_POINT
from tincleat.geometry.frames import Array, Frame, crossed, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import CaseMember
from tincleat.steel.cuts import Cuts, EndCut, Notch

STEEPEST = math.radians(80)  # off the way out of a face, up to which an end is cut along it
USUAL = {False: "L 90x90x8", True: "L3-1/2X3-1/2X5/16"}


def piece_on(given: Given, face: Face, name: str, member: CaseMember) -> Piece:
    """The piece that a part's settings tell of, on a face."""
    shape = section(str(given.worked_out("section", USUAL[given.house.inch])))
    length = float(given.worked_out("length", 200.0))
    lies, spin = str(given.value("lies")), float(given.value("spin"))
    along, off, turn = (float(given.value(n)) for n in ("along", "off", "turn"))
    across = across_from(face, str(given.value("from_")), float(given.value("across")))
    grade = str(given.value("grade"))
    base = turn + (math.pi / 2 if lies == "across" else 0.0)
    way = face.u * math.cos(base) + face.v * math.sin(base)
    foot = face.point(along, across, off)
    if lies == TO_POINT:
        to = face.point(float(given.value("to_along")), across_from(face, str(given.value("from_")), float(given.value("to_across"))), float(given.value("to_off")))
        length = float(np.linalg.norm(to - foot))
        if length < 3.0:
            raise NoFit(f"it begins and ends at one point, {length:.1f} mm apart", right="another point to end at, at least 3 mm away")
        x = (to - foot) / length
        lean = math.acos(max(-1.0, min(1.0, float(x @ face.n))))
        z0 = way if math.sin(lean) < 1e-6 else face.n - x * float(face.n @ x)
        z0 = z0 / np.linalg.norm(z0)
        return _standing(given, face, name, member, shape.name, length, foot, x, z0 * math.cos(spin) + crossed(x, z0) * math.sin(spin), lean)
    if lies != "upright":  # on its own lower side, its middle where it is told
        lift = shape.h / 2 if shape.shape in ("CHS", "RD") else _reach(shape.outer.points(0.05), spin)
        x = way
        z = face.n * math.cos(spin) + crossed(face.n, way) * -math.sin(spin)
        at = Frame.of(face.point(along, across, off + lift) - x * length / 2, x, z)
        return _mitred(given, Piece(name, shape.name, grade, at, length), 0.0, True)
    tilt = float(given.value("tilt"))
    x = face.n * math.cos(tilt) + way * math.sin(tilt)
    z0 = way * math.cos(tilt) - face.n * math.sin(tilt)
    return _standing(given, face, name, member, shape.name, length, foot, x, z0 * math.cos(spin) + crossed(x, z0) * math.sin(spin), abs(tilt))


def _standing(given: Given, face: Face, name: str, member: CaseMember, size: str, length: float, foot: Array, x: Array, z: Array, lean: float) -> Piece:
    """A piece that runs from a point on or over a face, its end there cut as it is told; ``lean`` (rad) is how far it runs off the way out of the face."""
    shape, grade, end, off = section(size), str(given.value("grade")), str(given.value("end")), float((foot - face.at) @ face.n)
    if end != STRAIGHT and lean > STEEPEST:
        raise NoFit(f"it runs {math.degrees(lean):.0f}° off the way out of the face: its end is not cut along that", right=f"{STRAIGHT!r}, or at most {math.degrees(STEEPEST):.0f}°")
    least = max(shape.h, shape.b) * math.tan(lean) + 5.0 if end != STRAIGHT else 0.0
    if length < least:
        raise NoFit(f"a {shape.name} {length:.0f} mm long that leans {math.degrees(lean):.0f}° has no whole end", right=f"at least {least:.0f} mm, or less of a tilt")
    if end == STRAIGHT:
        return _mitred(given, Piece(name, shape.name, grade, Frame.of(foot, x, z), length), 0.0, True)
    # it begins far enough behind the face that every fibre reaches it, and is cut there
    behind = max(shape.h, shape.b) * math.tan(lean) + (max(member.shape.h, member.shape.b) if end == COPED else 0.0) + 1.0
    at = Frame.of(foot - x * behind, x, z)
    if end == FACED:
        cut = Cuts((EndCut(0, vec(foot), vec(face.n)),)).seen_from(at)
        return _mitred(given, Piece(name, shape.name, grade, at, length + behind, cut), behind, False)
    if face.owner != "member":
        raise NoFit("only the member has an outline to be cut to", right=f"{FACED!r}, or a piece that stands on the member")
    if abs(off) > 0.01:
        raise NoFit(f"a piece {off:.0f} mm off the face is not cut to the member's outline", right="no gap off the face; the clearance is told by itself")
    clear = float(given.value("clear"))
    flat = shapely.simplify(member.shape.outer.polygon().buffer(clear, join_style="mitre", mitre_limit=1.5), 0.01)
    ring = np.asarray(shapely.orient_polygons(flat).exterior.coords)[:-1, :2]
    long = 2 * (behind + length)
    # across the member's frame: its y and z are the notch's x and y, along it the depth
    f = member.frame
    own = Frame.of(f.o - np.array(f.x) * long / 2 + np.array(f.x) * float((foot - f.o) @ np.array(f.x)), f.y, f.x)
    notch = Notch("true outline", 0, own, Outline(tuple((float(a), float(b), 0.0) for a, b in ring)), long)
    inside = Cuts((EndCut(0, vec(f.o + np.array(f.x) * float((foot - f.o) @ np.array(f.x))), vec(x)),), (notch,)).seen_from(at)
    piece = _mitred(given, Piece(name, shape.name, grade, at, length + behind, inside), behind, False)
    if piece.volume < shape.area * 5.0:
        raise NoFit(f"nothing of a {shape.name} {length:.0f} mm long is left {clear:.0f} mm clear of {member.shape.name}", right="a longer piece, or less clearance")
    return piece


def _mitred(given: Given, piece: Piece, begins: float, free: bool) -> Piece:
    """A piece with its ends cut off square: the longest corner stays where the end was.  It begins ``begins`` mm up its frame; its first end is
    cut already where it is not ``free``."""
    first, last = float(given.value("mitre_start")), float(given.value("mitre"))
    if first and not free:
        raise NoFit("its first end is cut along what it stands on", right=f"{STRAIGHT!r} for its end, or nothing off square there")
    deep = given.value("mitre_way") == DEPTH
    points = piece.shape.outer.points(0.05)[:, 1 if deep else 0]
    taken = sum(abs(math.tan(a)) for a in (first, last)) * float(np.ptp(points))
    if taken > piece.length - begins - 1.0:
        raise NoFit(f"ends cut off square take {taken:.0f} mm of the {piece.length - begins:.0f} mm that it is long", right="a longer piece, or less off square")
    cuts = []
    for angle, x, way in ((first, begins, 1.0), (last, piece.length, -1.0)):
        if angle:
            far = float(points.min() if angle > 0 else points.max())  # the corner that keeps its whole length
            across = math.sin(angle)
            at, normal = ((x, 0.0, far), (way * math.cos(angle), 0.0, -across)) if deep else ((x, far, 0.0), (way * math.cos(angle), -across, 0.0))
            cuts.append(EndCut(0, at, normal))
    return msgspec.structs.replace(piece, cuts=piece.cuts + Cuts(tuple(cuts))) if cuts else piece


def _reach(points: "np.ndarray", spin: float) -> float:
    """How far a section turned about its middle reaches down, mm."""
    return float(-(points[:, 1] * math.cos(spin) - points[:, 0] * -math.sin(spin)).min()) if spin else float(-points[:, 1].min())
