"""Which section an IFC profile is: by its parameters, its name, what the name was said to mean, its outline; or a section of its own made of its parameters."""

from collections.abc import Mapping
from typing import Any

import numpy as np
import shapely
from shapely.geometry import Polygon

from tincleat.catalogue.recognise import SURE, Match, by_name, by_outline, by_sizes
from tincleat.catalogue.sections import OwnName, Section, is_listed, plain, row_section, section
from tincleat.errors import BadValue
from tincleat.exchange.ifc_shapes import Broken, axes, curve_points, numbers, operator
from tincleat.geometry.frames import Array

DIFFERS = 0.02  # share by which a named section's depth or width may differ from the profile's before the shape is followed


def profile_label(profile: Any, scale: float) -> str:
    """What a profile is called in a report: its name, or its kind and sizes, so that unnamed ones of different sizes are different rows."""
    name = (profile.ProfileName or "").strip()
    if name:
        return name
    kind = str(profile.is_a()).removeprefix("Ifc").removesuffix("Def")
    if not profile.is_a("IfcParameterizedProfileDef"):
        return f"{kind} #{profile.id()}"
    info = profile.get_info(recursive=False)
    sizes = [f"{v * scale:.4g}" for k, v in info.items() if isinstance(v, float) and not k.endswith(("Slope", "Angle"))]
    return f"{kind} {'x'.join(sizes)}"


def match_profile(profile: Any, scale: float, meanings: Mapping[str, str], notes: list[str]) -> "tuple[Match | None, Array]":
    """The section a profile is, and the (4, 4) matrix from the section's axes (y, z, along) to the profile's plane (x, y, normal).

    ``scale`` is mm a unit of the file, ``meanings`` what names stand for, by plain name; a shape that its name belies is noted.
    """
    inner, plane, factor = _underlying(profile)
    name = profile.ProfileName or inner.ProfileName or ""
    meant = meanings.get(plain(name))
    called = section(meant) if meant else by_name(name) if name else None
    match, at = _matched(inner, scale * factor, called, bool(meant), name, notes)
    if match is None:
        return None, plane
    at = at.copy()
    at[:3, 3] *= factor
    return match, plane @ at


def _underlying(profile: Any) -> tuple[Any, Array, float]:
    """A derived or mirrored profile's parent, the (4, 4) matrix from the parent's plane, and its scale; Broken for uneven scales."""
    matrix, factor = np.eye(4), 1.0
    for _ in range(20):
        if profile.is_a("IfcMirroredProfileDef"):
            matrix = matrix @ np.diag([-1.0, 1.0, 1.0, 1.0])
        elif profile.is_a("IfcDerivedProfileDef"):
            turn, _ = operator(profile.Operator)
            sizes = [float(np.linalg.norm(turn[:3, i])) for i in (0, 1)]
            if abs(sizes[0] - sizes[1]) > 1e-6 * sizes[0]:
                raise Broken("its profile is derived with uneven scales")
            turn[:3, :3] /= sizes[0]
            turn[2, 2] = 1.0
            turn[:3, 3] *= factor
            matrix, factor = matrix @ turn, factor * sizes[0]
        else:
            return profile, matrix, factor
        profile = profile.ParentProfile
    raise Broken("its profile refers to itself")


def _matched(profile: Any, scale: float, called: "Section | None", meant: bool, name: str, notes: list[str]) -> "tuple[Match | None, Array]":
    plane = axes(getattr(profile, "Position", None))
    # a profile is one end of a tapered girder only: its name tells the whole
    match = Match(called.name, 1.0, "name") if called is not None and called.h_end else _by_parameters(profile, scale, called)
    if match is None:
        rings = _rings(profile)
        if rings is not None:
            flat = [np.array(r)[:, :2] * scale for r in rings]
            match, plane = _by_rings(flat, called, scale)
            if match is not None and match.confidence >= SURE:
                _say_off(np.ptp(flat[0] @ plane[:2, :2], axis=0), section(match.section), name, notes)
    size = profile_size(profile, scale)
    if called is not None and not meant and match is None and size is not None:
        wrong = max(abs(a - b) / max(a, 1.0) for a, b in zip(sorted(size), sorted((called.h, called.b)), strict=True))
        if wrong > DIFFERS and not called.h_end:
            notes.append(f"profile {name!r} is {size[0]:.1f} x {size[1]:.1f}, which {called.name} ({called.h:g} x {called.b:g}) is not; its shape was followed")
            called = None
    if called is not None and (meant or match is None or match.confidence < SURE):
        # a name in so many words, or an entry of the mapping table, outweighs an unsure shape
        turn, mirrored = (match.turn, match.mirrored) if match else (0, False)
        match = Match(called.name if not meant else _kept(called), 1.0 if meant else 0.8, "name" if not meant else "mapping", turn, mirrored)
    elif match is not None and called is not None and called.name != match.section:
        notes.append(f"profile {name!r} has the shape of {match.section}; its shape was followed")
    if match is not None and match.by == "sizes" and size is not None:
        _say_off(size, section(match.section), name, notes)
    if match is None or (match.confidence < SURE and match.by == "outline"):
        match = _own(profile, scale, name)
    if match is None:
        return None, plane
    return match, plane @ section_axes(match)


def _say_off(size: Any, s: Section, name: str, notes: list[str]) -> None:
    """Note a profile whose depth or width is not its section's to a tenth of a millimetre."""
    off = max(abs(a - b) for a, b in zip(sorted(size), sorted((s.h, s.b)), strict=True))
    if off > 0.1:
        notes.append(f"profile {name!r} is {size[0]:.2f} x {size[1]:.2f}, {s.name} is {s.h:g} x {s.b:g}: members of it differ by {off:.2f} mm")


def _kept(called: Section) -> str:
    return called.name if is_listed(called.name) else OwnName.of(called)


def section_axes(match: Match) -> Array:
    """The (4, 4) matrix from a section's axes (y, z, along) to the outline it was matched with, about the middle of both."""
    c, s = ((1, 0), (0, 1), (-1, 0), (0, -1))[match.turn % 4]
    turn = np.eye(4)
    # columns: where the section's y and z lie in the profile's plane
    turn[:2, 0], turn[:2, 1] = (c, s), (-s, c)
    if match.mirrored:
        turn = np.diag([-1.0, 1.0, 1.0, 1.0]) @ turn
    return turn


def _by_rings(flat: list[Array], called: "Section | None", scale: float) -> "tuple[Match | None, Array]":
    """The section an outline is, along its own sides if it lies at an angle, and the (4, 4) matrix from the matched outline's middle to the profile's plane (file units)."""
    match, middle = by_outline(flat, called)
    plane = np.eye(4)
    plane[:2, 3] = np.array(middle) / scale
    if match is not None and match.confidence >= SURE:
        return match, plane
    for angle in _leanings(flat[0]):
        c, s = np.cos(angle), np.sin(angle)
        turn = np.array([(c, -s), (s, c)])
        other, at = by_outline([r @ turn for r in flat], called)
        if other is not None and (match is None or other.confidence > match.confidence + 0.01):
            match, plane = other, np.eye(4)
            plane[:2, :2], plane[:2, 3] = turn, turn @ np.array(at) / scale
    return match, plane


def _leanings(ring: Array) -> list[float]:
    """Angles (rad) at which an outline may lie: of its longest side, and of its least box."""
    steps = np.diff(np.vstack([ring, ring[:1]]), axis=0)
    long = steps[int(np.hypot(*steps.T).argmax())]
    out = [float(np.arctan2(long[1], long[0]))]
    hull = Polygon(ring)
    if hull.is_valid and hull.area > 0:
        box = np.asarray(shapely.minimum_rotated_rectangle(hull).exterior.coords)
        side = box[1] - box[0]
        out.append(float(np.arctan2(side[1], side[0])))
    return [a for a in out if abs(np.sin(2 * a)) > 1e-4]


def _mm(profile: Any, scale: float, *names: str) -> list[float]:
    values = [getattr(profile, n, None) for n in names]
    return [numbers((v if v is not None else 0.0,), 1, "a profile's size")[0] * scale for v in values]


def profile_size(profile: Any, scale: float) -> "tuple[float, float] | None":
    """Depth and width a parametric profile has, mm."""
    for kind, names in (("IfcAsymmetricIShapeProfileDef", ("OverallDepth", "BottomFlangeWidth")), ("IfcIShapeProfileDef", ("OverallDepth", "OverallWidth")),
                        ("IfcUShapeProfileDef", ("Depth", "FlangeWidth")), ("IfcTShapeProfileDef", ("Depth", "FlangeWidth")), ("IfcLShapeProfileDef", ("Depth", "Width")),
                        ("IfcCShapeProfileDef", ("Depth", "Width")), ("IfcRectangleProfileDef", ("YDim", "XDim")), ("IfcCircleProfileDef", ("Radius", "Radius"))):  # fmt: skip
        if profile.is_a(kind):
            a, b = _mm(profile, scale, *names)
            return (2 * a, 2 * b) if kind == "IfcCircleProfileDef" else (a, b or a)
    return None


def _by_parameters(profile: Any, scale: float, called: "Section | None") -> Match | None:
    def mm(*names: str) -> list[float]:
        return _mm(profile, scale, *names)

    kind, name = profile.is_a(), called.name if called is not None else profile.ProfileName or ""
    if kind == "IfcAsymmetricIShapeProfileDef":
        h, b, tw, tf, top, top_tf = mm("OverallDepth", "BottomFlangeWidth", "WebThickness", "BottomFlangeThickness", "TopFlangeWidth", "TopFlangeThickness")
        if not b:  # of IFC 2x3, where it is an I with another top flange
            b, tf = mm("OverallWidth", "FlangeThickness")
        if abs(b - top) > 0.1 or abs(tf - (top_tf or tf)) > 0.1:
            return None
        return by_sizes("I", h, b, tw, tf, name) or _girder(h, b, tw, tf)
    if kind == "IfcIShapeProfileDef":
        h, b, tw, tf = mm("OverallDepth", "OverallWidth", "WebThickness", "FlangeThickness")
        return by_sizes("I", h, b, tw, tf, name) or (None if mm("FilletRadius")[0] else _girder(h, b, tw, tf))
    if kind in ("IfcUShapeProfileDef", "IfcTShapeProfileDef"):
        h, b, tw, tf = mm("Depth", "FlangeWidth", "WebThickness", "FlangeThickness")
        return by_sizes("C" if kind == "IfcUShapeProfileDef" else "T", h, b, tw, tf, name)
    if kind == "IfcCShapeProfileDef":
        h, b, t, lip = mm("Depth", "Width", "WallThickness", "Girth")
        found = by_name(f"CF{h:g}X{b:g}X{lip:g}X{t:g}")
        return Match(found.name, 0.97, "sizes") if found is not None else None
    if kind == "IfcLShapeProfileDef":
        h, b, t = mm("Depth", "Width", "Thickness")
        return by_sizes("L", h, b or h, t, 0.0, name) if h >= (b or h) - 0.01 else None
    if kind == "IfcRectangleHollowProfileDef":
        h, b, t, outer = mm("YDim", "XDim", "WallThickness", "OuterFilletRadius")
        return by_sizes("RHS", h, b, t, 0.0, name, outer)
    if kind == "IfcCircleHollowProfileDef":
        r, t = mm("Radius", "WallThickness")
        return by_sizes("CHS", 2 * r, 2 * r, t, 0.0, name)
    if kind in ("IfcCircleProfileDef", "IfcRectangleProfileDef"):
        return _bar(*mm("Radius")) if kind == "IfcCircleProfileDef" else _bar(*mm("XDim", "YDim"))
    return None


def _own(profile: Any, scale: float, name: str) -> Match | None:
    """A section of its own for a parametric profile that no list has; None for kinds that are no steel section of ours, or sizes that make no shape."""

    def mm(*names: str) -> list[float]:
        return _mm(profile, scale, *names)

    kind = profile.is_a()
    turn = 0
    if kind == "IfcIShapeProfileDef":
        h, b, tw, tf, r1, r2 = mm("OverallDepth", "OverallWidth", "WebThickness", "FlangeThickness", "FilletRadius", "FlangeEdgeRadius")
        shape = "I"
    elif kind in ("IfcUShapeProfileDef", "IfcTShapeProfileDef"):
        h, b, tw, tf, r1, r2 = mm("Depth", "FlangeWidth", "WebThickness", "FlangeThickness", "FilletRadius", "EdgeRadius" if kind == "IfcUShapeProfileDef" else "FlangeEdgeRadius")
        shape = "C" if kind == "IfcUShapeProfileDef" else "T"
    elif kind == "IfcLShapeProfileDef":
        h, b, tw, r1, r2 = mm("Depth", "Width", "Thickness", "FilletRadius", "EdgeRadius")
        b, tf, shape = b or h, tw, "L"
        if b > h:
            return None
    elif kind == "IfcRectangleHollowProfileDef":
        h, b, tw, r1, r2 = mm("YDim", "XDim", "WallThickness", "OuterFilletRadius", "InnerFilletRadius")
        tf, shape = tw, "RHS"
    elif kind == "IfcCircleHollowProfileDef":
        r, tw = mm("Radius", "WallThickness")
        h = b = 2 * r
        tf, r1, r2, shape = tw, 0.0, 0.0, "CHS"
    else:
        return None
    if getattr(profile, "FlangeSlope", None) or getattr(profile, "LegSlope", None) or getattr(profile, "WebSlope", None):
        return None
    sizes = "x".join(f"{v:.4g}" for v in dict.fromkeys((h, b, tw, tf)))
    label = name.strip()[:50]
    if not label or is_listed(label) or by_name(label) is not None:
        label = f"{shape} {sizes} own"
    row = {"designation": label, "shape": shape, **{k: f"{v:.4f}" for k, v in (("h", h), ("b", b), ("tw", tw), ("tf", tf), ("r1", r1), ("r2", r2))}}
    try:
        made = row_section(row)
    except BadValue:
        return None
    return Match(OwnName.of(made), 1.0, "own sizes", turn)


def own_row(name: str) -> dict[str, str]:
    """The row of an own section that an import made, for the project to keep."""
    s = section(name)
    return {"designation": s.name, "shape": s.shape, **{k: f"{getattr(s, k):.4f}" for k in ("h", "b", "tw", "tf", "r1", "r2")}, "slope": "0", "tf_at": "0", "mass": ""}


def _girder(h: float, b: float, tw: float, tf: float) -> Match | None:
    """An I without root radii that no list has: plates welded together."""
    found = by_name(f"PG{h:.1f}X{b:.1f}X{tw:.1f}X{tf:.1f}")
    return Match(found.name, 0.9, "sizes") if found is not None and abs(found.h - h) + abs(found.b - b) < 0.1 else None


def _bar(first: float, second: float = 0.0) -> Match | None:
    """A round of a radius, or a flat of two sides: steel bars only, thicker or wider ones are no flats."""
    if not second:
        found = by_name(f"RD{2 * first:.3f}".rstrip("0").rstrip("."))
    else:
        found = by_name(f"FL{max(first, second):.3f}".rstrip("0").rstrip(".") + f"X{min(first, second):.3f}".rstrip("0").rstrip("."))
        if found is not None and min(first, second) > 100:
            found = None
    return Match(found.name, 1.0, "sizes", 1 if second and first > second else 0) if found is not None else None


def _rings(profile: Any) -> "list[list[list[float]]] | None":
    """Outline and voids of a profile as points; None for kinds without a curve."""
    if profile.is_a("IfcArbitraryClosedProfileDef"):
        curves = [profile.OuterCurve, *(profile.InnerCurves if profile.is_a("IfcArbitraryProfileDefWithVoids") else ())]
        return [list(curve_points(c)) for c in curves]
    if profile.is_a("IfcLShapeProfileDef") and (profile.Width or profile.Depth) > profile.Depth:
        h, b, t = (float(v or 0.0) for v in (profile.Depth, profile.Width or profile.Depth, profile.Thickness))
        return [[[-b / 2, -h / 2, 0], [b / 2, -h / 2, 0], [b / 2, -h / 2 + t, 0], [-b / 2 + t, -h / 2 + t, 0], [-b / 2 + t, h / 2, 0], [-b / 2, h / 2, 0]]]
    return None
