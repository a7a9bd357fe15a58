"""Which catalogue section an IFC profile is: by its parameters, its name, what the name was said to mean, or its outline."""

from collections.abc import Mapping
from typing import Any

import numpy as np

from tincleat.catalogue.recognise import SURE, Match, by_name, by_outline, by_sizes
from tincleat.catalogue.sections import Section, plain, section
from tincleat.exchange.ifc_shapes import axes, curve_points, numbers
from tincleat.geometry.frames import Array


def match_profile(profile: Any, scale: float, meanings: Mapping[str, str], notes: list[str]) -> "tuple[Match | None, Array]":
    """The section a profile is, and the (4, 4) matrix from the section's axes (y, z, along) to the profile's plane (x, y, normal).

    ``scale`` is mm a unit of the file, ``meanings`` what names stand for, by plain name; a shape that its name belies is noted.
    """
    name = profile.ProfileName or ""
    meant = meanings.get(plain(name))
    called = section(meant) if meant else by_name(name) if name else None
    plane = axes(getattr(profile, "Position", None))
    # a profile is one end of a tapered girder only: its name tells the whole
    match = Match(called.name, 1.0, "name") if called is not None and called.h_end else _by_parameters(profile, scale, called)
    if match is None:
        rings = _rings(profile)
        if rings is not None:
            flat = [np.array(r)[:, :2] * scale for r in rings]
            match, middle = by_outline(flat, called)
            plane = np.eye(4)
            plane[:2, 3] = np.array(middle) / scale
    if called is not None and (meant or match is None or match.confidence < SURE):
        # a name in so many words, or an entry of the mapping table, outweighs an unsure shape
        match = Match(called.name, 1.0 if meant else 0.8, "name" if not meant else "mapping", match.turn if match else 0, match.mirrored if match else False)
    elif match is not None and called is not None and called.name != match.section:
        notes.append(f"profile {name!r} has the shape of {match.section}; its shape was followed")
    if match is None or (match.confidence < SURE and match.by == "outline"):
        return None, plane
    return match, plane @ section_axes(match)


def section_axes(match: Match) -> Array:
    """The (4, 4) matrix from a section's axes (y, z, along) to the outline it was matched with, about the middle of both."""
    c, s = ((1, 0), (0, 1), (-1, 0), (0, -1))[match.turn % 4]
    turn = np.eye(4)
    # columns: where the section's y and z lie in the profile's plane
    turn[:2, 0], turn[:2, 1] = (c, s), (-s, c)
    if match.mirrored:
        turn = np.diag([-1.0, 1.0, 1.0, 1.0]) @ turn
    return turn


def _by_parameters(profile: Any, scale: float, called: "Section | None") -> Match | None:
    def mm(*names: str) -> list[float]:
        values = [getattr(profile, n, None) for n in names]
        return [numbers((v if v is not None else 0.0,), 1, "a profile's size")[0] * scale for v in values]

    kind, name = profile.is_a(), called.name if called is not None else profile.ProfileName or ""
    if kind == "IfcIShapeProfileDef":
        h, b, tw, tf = mm("OverallDepth", "OverallWidth", "WebThickness", "FlangeThickness")
        return by_sizes("I", h, b, tw, tf, name) or (None if mm("FilletRadius")[0] else _girder(h, b, tw, tf))
    if kind in ("IfcUShapeProfileDef", "IfcTShapeProfileDef"):
        h, b, tw, tf = mm("Depth", "FlangeWidth", "WebThickness", "FlangeThickness")
        return by_sizes("C" if kind == "IfcUShapeProfileDef" else "T", h, b, tw, tf, name)
    if kind == "IfcLShapeProfileDef":
        h, b, t = mm("Depth", "Width", "Thickness")
        return by_sizes("L", h, b or h, t, 0.0, name) if h >= (b or h) - 0.01 else None
    if kind == "IfcRectangleHollowProfileDef":
        h, b, t = mm("YDim", "XDim", "WallThickness")
        return by_sizes("RHS", h, b, t, 0.0, name)
    if kind == "IfcCircleHollowProfileDef":
        r, t = mm("Radius", "WallThickness")
        return by_sizes("CHS", 2 * r, 2 * r, t, 0.0, name)
    if kind in ("IfcCircleProfileDef", "IfcRectangleProfileDef"):
        return _bar(*mm("Radius")) if kind == "IfcCircleProfileDef" else _bar(*mm("XDim", "YDim"))
    return None


def _girder(h: float, b: float, tw: float, tf: float) -> Match | None:
    """An I without root radii that no list has: plates welded together."""
    found = by_name(f"PG{h:.1f}X{b:.1f}X{tw:.1f}X{tf:.1f}")
    return Match(found.name, 0.9, "sizes") if found is not None else None


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
    if profile.is_a("IfcDerivedProfileDef"):
        return _rings(profile.ParentProfile)
    if profile.is_a("IfcArbitraryClosedProfileDef"):
        curves = [profile.OuterCurve, *(profile.InnerCurves if profile.is_a("IfcArbitraryProfileDefWithVoids") else ())]
        return [list(curve_points(c)) for c in curves]
    if profile.is_a("IfcLShapeProfileDef"):
        h, b, t = (float(v or 0.0) for v in (profile.Depth, profile.Width or profile.Depth, profile.Thickness))
        return [[[-b / 2, -h / 2, 0], [b / 2, -h / 2, 0], [b / 2, -h / 2 + t, 0], [-b / 2 + t, -h / 2 + t, 0], [-b / 2 + t, h / 2, 0], [-b / 2, h / 2, 0]]]
    return None
