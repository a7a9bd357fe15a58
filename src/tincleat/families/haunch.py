"""A haunch under a beam at its end plate: a web plate and a flange plate, welded to the beam, the plate and each other."""

import math

import numpy as np

from tincleat.details.assembled import role_words
from tincleat.details.parts import Plate, Weld
from tincleat.errors import NoFit
from tincleat.families.declare import rounded
from tincleat.geometry.frames import Array, Frame, crossed, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.joints.case import Case
from tincleat.kit.packs import stocked
from tincleat.kit.stiffen import beside_web, room_beside, stiffener
from tincleat.kit.weld import both_sides, fillet
from tincleat.project.entities import HouseRules
from tincleat.steel.cuts import EndCut

MOST_FILLET = math.radians(29.9)  # off square, beyond which one side is narrower than the 60 degrees a fillet needs


def haunch(
    case: Case, number: int, side: float, normal: Array, up_way: Array, origin: Array, front: Array, depth: float, length: float, sizes: tuple[float, float], grade: str,
    legs: tuple[float, float], house: HouseRules, plates: list[Plate], welds: list[Weld], tag: str,
) -> tuple[float, float]:  # fmt: skip
    """Add a haunch of a ``depth`` at the plate and a ``length`` along the beam; gives how far up the plate its lower edge lies (mm), and how steeply its flange rises off it.

    ``origin`` is where heights up the plate are counted from, ``front`` a point of the plane the beam ends at, ``normal`` its normal towards the first beam, ``side`` -1 for the beam
    beyond it.  ``sizes`` are the thicknesses of web and flange, ``legs`` those of flange and web welds.
    """
    member = case.members[number]
    shape, f = member.shape, member.frame
    out = np.array(member.away)
    n = normal * side
    # in the plane of the beam's web: a along the beam, d down its depth
    down_way = np.array(f.z) * (-1.0 if float(np.array(f.z) @ up_way) > 0 else 1.0)
    tw, tf = sizes
    under = f.o + down_way * shape.h / 2
    under = under + out * float(n @ (front - under)) / float(n @ out)  # where the beam's lower face meets the plate

    def at(a: float, d: float) -> Array:
        return under + out * a + down_way * d

    lean = float(n @ down_way) / float(n @ out)  # how far the plate's plane goes back along the beam for every mm down

    def on_plate(d: float) -> float:
        return -lean * d

    slope = math.atan2(depth, length - on_plate(depth))
    if not math.radians(5) < slope < math.radians(45):
        raise NoFit(f"the haunch would rise {math.degrees(slope):.0f}°", right="5° to 45°: a longer or a deeper one")
    if math.radians(90) - slope < math.radians(60):
        raise NoFit(f"the haunch would rise {math.degrees(slope):.0f}°, too steep to weld its tip", right="at most 30°: a longer one")
    drop = tf / math.cos(slope)
    # the flange's upper face runs from the plate up to the beam; the web fills the triangle over it
    inner = depth - drop
    start = on_plate(inner)
    web_name, flange_name = f"haunch web{tag}", f"haunch flange{tag}"
    beam = role_words(member.role)
    plate = "end plate" if not tag else f"end plate{tag}"
    foot = on_plate(0.0)
    trim_ = 1.5 * max(legs)  # runs stop short of the corners they would meet in
    # where the upper face meets the beam
    tip = start + inner / math.tan(slope)
    far, whole = abs(float((at(tip, 0.0) - f.o) @ np.array(f.x))), max(abs(member.low), abs(member.high))
    if far > whole:
        raise NoFit(f"the haunch ends {far:.0f} mm along {shape.name}, of which {whole:.0f} mm are there", right="a shorter haunch")
    blunt = max(2 * legs[1], 10.0)  # height at which the web's sharp end is cut off
    end = tip - blunt / math.tan(slope)
    across = crossed(down_way, out)  # the web's normal
    frame = Frame.of(under - across * tw / 2, out, across)
    ring = [(foot, 0.0), (start, inner), (end, blunt), (end, 0.0)]
    local = []
    for a, d in ring:
        p = frame.to_local(at(a, d)[None])[0]
        local.append((float(p[0]), float(p[1]), 0.0))
    area = sum(p[0] * q[1] - q[0] * p[1] for p, q in zip(local, local[1:] + local[:1], strict=True))
    plates.append(Plate(web_name, Outline(tuple(local if area > 0 else local[::-1])), tw, frame, grade, (), ("", "")))
    welds += both_sides(f"{web_name} to beam", legs[1], (at(foot + trim_, 0.0), at(end, 0.0)), across, tw, down_way, (beam, web_name))
    welds += both_sides(f"{web_name} to plate", legs[1], (at(on_plate(trim_), trim_), at(on_plate(inner - trim_), inner - trim_)), across, tw, out, (plate, web_name))
    way = unit(at(tip, 0.0) - at(start, inner))
    square = unit(down_way - way * float(down_way @ way))  # out of the flange, away from the beam
    welds += both_sides(f"{web_name} to its flange", legs[1], (at(start + trim_, inner - trim_ * math.tan(slope)), at(end, blunt)), across, tw, -square, (flange_name, web_name))
    # the flange: bevelled at the plate, square at the tip, where its upper edge touches the beam
    b = rounded(shape.b, house.rounding.get("stiffener"), house.flats)
    flat = Frame.of(at(tip, 0.0), -way, -square)
    back = float(np.linalg.norm(at(tip, 0.0) - at(start, inner))) + 4 * tf
    where = Frame(vec(at(tip, 0.0) + square * tf), flat.x, flat.z)
    trim = EndCut(0, vec(where.to_local(front[None])[0]), vec(where.unturn(n)))
    corner = at(start, inner)
    lean = math.acos(min(1.0, abs(float(n @ way))))
    groove = lean > MOST_FILLET
    if groove and float(n @ square) < 0:
        raise NoFit(f"the haunch's flange meets the plate {math.degrees(lean):.0f}° off square, open to the inside", right="at most 30° off square, or a shallower haunch")
    if groove:  # cut square it touches with its upper edge, and the opening under it is the weld's preparation
        length_ = float(np.linalg.norm(at(tip, 0.0) - corner))
        plates.append(Plate(flange_name, Outline.rectangle(0.0, -b / 2, length_, b / 2), tf, where, grade, (), ("", "")))
    else:
        plates.append(Plate(flange_name, _to(where, front, n, b, tf, back), tf, where, grade, (), ("", ""), (trim,)))
    lower = corner + square * tf
    lower = lower + way * float(n @ (front - lower)) / float(n @ way)
    if groove:
        one, other = (vec(corner + across * s * b / 2) for s in (-1.0, 1.0))
        welds.append(Weld(f"{flange_name} groove weld", tf, one, other, vec(-up_way), vec(square), (plate, flange_name), kind="groove"))

    def slid(p: Array) -> Array:
        """A point of the flange's face, along it onto the plate."""
        return p + way * float(n @ (front - p)) / float(n @ way)

    for flank in () if groove else (1.0, -1.0):
        first, last = (slid(corner + across * flank * w) for w in (tw / 2 + legs[1], b / 2))
        welds.append(fillet(f"{flange_name} to plate, inside", legs[0], first, last, up_way, way, (plate, flange_name)))
    if not groove:
        welds.append(fillet(f"{flange_name} to plate, outside", legs[0], slid(lower - across * b / 2), slid(lower + across * b / 2), -up_way, way, (plate, flange_name)))
    touch = at(tip, 0.0)
    welds.append(fillet(f"{flange_name} tip", min(legs[0], tf), touch - across * b / 2, touch + across * b / 2, out, square, (beam, flange_name)))
    # the beam is stiffened where the haunch's flange pushes into it
    t = stocked(tf, house)
    width, snipe = beside_web(shape, max(legs[1], 5.0), rounded(room_beside(shape), house.rounding.get("stiffener"), house.flats), house)
    station = float((touch - f.o) @ np.array(f.x))
    for s in (-1.0, 1.0):
        piece, some = stiffener(shape, f.moved(x=station), s, f"haunch stiffener{tag} " + ("near" if s < 0 else "far"), beam, grade, t, width, snipe, max(legs[1], 5.0))
        plates.append(piece)
        welds += some
    return float((lower - origin) @ up_way), max(0.0, float(way @ up_way) / abs(float(way @ n)))


def _to(where: Frame, front: Array, n: Array, b: float, t: float, most: float) -> Outline:
    """The flange's outline from its tip to where the plate's plane cuts the face that reaches further."""
    local, turned = where.to_local(front[None])[0], where.unturn(n)
    reach = [float((np.dot(turned, local) - turned[2] * z) / turned[0]) for z in (0.0, t)]
    return Outline.rectangle(0.0, -b / 2, min(max(reach), most), b / 2)
