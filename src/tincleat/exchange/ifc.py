"""IFC4 out: members with their cuts and holes, plates, bolts, welds, anchor rods, concrete, assemblies, property sets.

Like details share their shapes as mapped items; a bolt group is one fastener.  Lengths mm, masses kg.
"""

import datetime
import math
from bisect import bisect_right
from collections.abc import Callable
from pathlib import Path

import msgspec
import numpy as np

from tincleat import __version__
from tincleat.catalogue.fasteners import anchor_size, bolt_size, countersunk_head
from tincleat.catalogue.sections import STEEL_DENSITY, Section, section
from tincleat.catalogue.timber import density
from tincleat.details.assembled import bolt_frame, tie_frame
from tincleat.details.bolting import Stack, stack
from tincleat.details.fittings import Stud
from tincleat.details.parts import BentPlate, Block, Bolts, Fitting, Piece, Plate, Plug, Rod, Tie, Weld
from tincleat.details.tapers import Taper, square
from tincleat.errors import Progress, go_on
from tincleat.exchange.spf import DERIVED, Enum, Ref, Spf, Typed, global_id, real, text
from tincleat.files import write_whole
from tincleat.geometry.frames import Array, Frame, Vec3, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import member_cuts
from tincleat.project.entities import Grid, Member, Site
from tincleat.project.members import axis_frame, length
from tincleat.steel.body import drill_depth, end_station, steel_volume
from tincleat.steel.cuts import Cuts, EndCut
from tincleat.steel.members import cut_length, own_cuts
from tincleat.units import format_force

CLASSES = {"column": ("IFCCOLUMN", "COLUMN"), "post": ("IFCCOLUMN", "COLUMN"), "brace": ("IFCMEMBER", "BRACE"), "purlin": ("IFCMEMBER", "PURLIN"),
           "girt": ("IFCMEMBER", "MEMBER"), "rafter": ("IFCMEMBER", "RAFTER"), "joist": ("IFCBEAM", "JOIST"), "beam": ("IFCBEAM", "BEAM"), "other": ("IFCMEMBER", "MEMBER")}  # fmt: skip
COLOURS = {"steel": (0.61, 0.64, 0.65), "plate": (0.45, 0.50, 0.52), "bolt": (0.18, 0.33, 0.41), "weld": (0.72, 0.51, 0.17), "concrete": (0.80, 0.79, 0.75)}


PAST = 1500.0  # mm that grid lines go past the outer ones


class _Writer:
    """Builds one file; every ``_`` method adds what its name says and returns its reference."""

    def __init__(self, ledger: Ledger, name: str, stamp: str) -> None:
        self.ledger, self.project, self.f = ledger, ledger.project, Spf()
        f, p = self.f, self.project
        self.place: Site = p.tables["site"].get("site", Site())
        self.stamp = stamp
        self.origin = f.share("IFCCARTESIANPOINT", (0.0, 0.0, 0.0))
        self.world = self._axes(Frame())
        turn = math.radians(p.house.north_deg)
        north = f.add("IFCDIRECTION", (round(math.cos(turn), 12) + 0.0, round(math.sin(turn), 12) + 0.0))
        context = f.add("IFCGEOMETRICREPRESENTATIONCONTEXT", None, "Model", 3, 1e-5, self.world, north)
        self.body = f.add("IFCGEOMETRICREPRESENTATIONSUBCONTEXT", "Body", "Model", DERIVED, DERIVED, DERIVED, DERIVED, context, None, Enum("MODEL_VIEW"), None)
        self.axis = f.add("IFCGEOMETRICREPRESENTATIONSUBCONTEXT", "Axis", "Model", DERIVED, DERIVED, DERIVED, DERIVED, context, None, Enum("GRAPH_VIEW"), None)
        self.footprint = f.add(
            "IFCGEOMETRICREPRESENTATIONSUBCONTEXT", "FootPrint", "Model", DERIVED, DERIVED, DERIVED, DERIVED, context, None, Enum("MODEL_VIEW"), None
        )
        units = [f.add("IFCSIUNIT", DERIVED, Enum(kind), Enum(pre) if pre else None, Enum(unit_)) for kind, pre, unit_ in (
            ("LENGTHUNIT", "MILLI", "METRE"), ("AREAUNIT", "", "SQUARE_METRE"), ("VOLUMEUNIT", "", "CUBIC_METRE"), ("PLANEANGLEUNIT", "", "RADIAN"), ("MASSUNIT", "KILO", "GRAM"))]  # fmt: skip
        self.guid_root = p.identity
        self._map(context)
        self.top = f.add("IFCPROJECT", self._guid("project"), None, p.house.title or name, None, None, None, None, [context], f.add("IFCUNITASSIGNMENT", units))
        shift = vec(np.array(self.place.shift) * 1000.0)
        self.site_at = f.add("IFCLOCALPLACEMENT", None, self._axes(Frame(shift)))
        site = f.add("IFCSITE", self._guid("site"), None, "Site", None, None, self.site_at, None, None, Enum("ELEMENT"), None, None, None, None, None)
        self.building_at = f.add("IFCLOCALPLACEMENT", self.site_at, self.world)
        f.add("IFCRELAGGREGATES", self._guid("site in"), None, None, None, self.top, [site])
        levels = sorted(p.levels.values(), key=lambda v: v.elevation) or []
        self.row = {v.id: i for i, v in enumerate(levels)}
        names = list(dict.fromkeys(v.building for v in levels)) or [""]
        buildings = {n: f.add("IFCBUILDING", self._guid("building", n), None, n or p.house.title or name, None, None, self.building_at, None, None, Enum("ELEMENT"), None, None, None) for n in names}
        f.add("IFCRELAGGREGATES", self._guid("building in"), None, None, None, site, list(buildings.values()))
        self.heights = [v.elevation for v in levels] or [0.0]
        self.storeys: list[Ref] = []
        self.storey_at: list[Ref] = []
        self.contained: list[list[Ref]] = []
        for i, height in enumerate(self.heights):
            at = f.add("IFCLOCALPLACEMENT", self.building_at, self._axes(Frame((0.0, 0.0, height))))
            label = levels[i].name if levels else "Ground"
            self.storeys.append(
                f.add("IFCBUILDINGSTOREY", self._guid("storey", levels[i].id if levels else "ground"), None, label, None, None, at, None, None, Enum("ELEMENT"), float(height))
            )
            self.storey_at.append(at)
            self.contained.append([])
        for n, building in buildings.items():
            mine = [s for i, s in enumerate(self.storeys) if not levels or levels[i].building == n]
            f.add("IFCRELAGGREGATES", self._guid("storeys in", n), None, None, None, building, mine)
        self.maps: dict[object, Ref] = {}
        self.styles = {k: self._style(k, c) for k, c in COLOURS.items()}
        self.materials: dict[str, list[Ref]] = {}
        self.places: dict[str, Ref] = {}
        self.elements: dict[str, Ref] = {}

    def _guid(self, *names: str) -> str:
        return global_id(self.guid_root, *names)

    def _style(self, name: str, colour: tuple[float, float, float]) -> Ref:
        shade = self.f.add("IFCSURFACESTYLESHADING", self.f.add("IFCCOLOURRGB", None, *colour), None)
        return self.f.add("IFCSURFACESTYLE", name, Enum("BOTH"), [shade])

    def _point(self, p: Vec3) -> Ref:
        return self.f.share("IFCCARTESIANPOINT", tuple(float(v) for v in p))

    def _axes(self, frame: Frame) -> Ref:
        f = self.f
        if frame.x == (1.0, 0.0, 0.0) and frame.z == (0.0, 0.0, 1.0):
            return f.share("IFCAXIS2PLACEMENT3D", self._point(frame.origin), None, None)
        z, x = (f.share("IFCDIRECTION", Typed("(" + ",".join(f"{v:.12f}".rstrip("0") for v in d) + ")")) for d in (frame.z, frame.x))
        return f.share("IFCAXIS2PLACEMENT3D", self._point(frame.origin), z, x)

    def _map(self, context: Ref) -> None:
        """Where the model stands on the map, as it came in; our lengths are mm, the map's metres."""
        f, s = self.f, self.place
        if s.eastings is None and s.northings is None and not s.crs:
            return
        metre = f.add("IFCSIUNIT", DERIVED, Enum("LENGTHUNIT"), None, Enum("METRE"))
        words = [s.crs_words or None, s.datum or None, s.vertical or None, s.projection or None, s.zone or None]
        crs = f.add("IFCPROJECTEDCRS", s.crs or "unnamed", *words, metre)
        f.add("IFCMAPCONVERSION", context, crs, s.eastings or 0.0, s.northings or 0.0, s.height or 0.0, s.abscissa, s.ordinate, Typed(repr(s.scale if s.scale is not None else 0.001)))

    def _storey(self, z: float) -> int:
        return max(0, bisect_right(self.heights, z + 100.0) - 1)

    def _placed(self, frame: Frame, storey: int) -> Ref:
        x, y, z = frame.origin
        return self.f.add("IFCLOCALPLACEMENT", self.storey_at[storey], self._axes(Frame((x, y, z - self.heights[storey]), frame.x, frame.z)))

    def _curve(self, outline: Outline) -> Ref:
        """An indexed polycurve with true arcs."""
        f, v = self.f, outline.vertices
        points: list[tuple[float, float]] = []
        segments: list[str] = []
        for i, (x, y, bulge) in enumerate(v):
            x1, y1, _ = v[(i + 1) % len(v)]
            points.append((x, y))
            here = len(points)
            if bulge:
                # the arc's middle lies half the chord times the bulge to the right of the chord's middle
                points.append(((x + x1) / 2 + (y1 - y) / 2 * bulge, (y + y1) / 2 - (x1 - x) / 2 * bulge))
                segments.append(f"IFCARCINDEX(({here},{here + 1},{{}}))")
            else:
                segments.append(f"IFCLINEINDEX(({here},{{}}))")
        starts = [int(s.split("((")[1].split(",")[0]) for s in segments]
        closed = [s.format(starts[(i + 1) % len(starts)]) for i, s in enumerate(segments)]
        listed = f.share("IFCCARTESIANPOINTLIST2D", Typed("(" + ",".join(f"({real(a)},{real(b)})" for a, b in points) + ")"))
        return f.share("IFCINDEXEDPOLYCURVE", listed, Typed("(" + ",".join(closed) + ")"), False)

    def _area(self, outline: Outline, holes: tuple[Outline, ...] = (), name: str | None = None) -> Ref:
        kind = Enum("AREA")
        v = outline.vertices
        if not holes and len(v) == 2 and v[0][2] == v[1][2] == 1.0:
            centre = self.f.share("IFCCARTESIANPOINT", ((v[0][0] + v[1][0]) / 2, (v[0][1] + v[1][1]) / 2))
            return self.f.share("IFCCIRCLEPROFILEDEF", kind, name, self.f.share("IFCAXIS2PLACEMENT2D", centre, None), abs(v[1][0] - v[0][0]) / 2)
        if holes:
            return self.f.share("IFCARBITRARYPROFILEDEFWITHVOIDS", kind, name, self._curve(outline), [self._curve(h) for h in holes])
        return self.f.share("IFCARBITRARYCLOSEDPROFILEDEF", kind, name, self._curve(outline))

    def _profile(self, s: Section) -> Ref:
        f, kind = self.f, Enum("AREA")
        if s.shape == "I" and not s.slope:
            return f.share("IFCISHAPEPROFILEDEF", kind, s.name, None, s.b, s.h, s.tw, s.tf, s.r1, None, None)
        if s.shape == "RHS":
            return f.share("IFCRECTANGLEHOLLOWPROFILEDEF", kind, s.name, None, s.b, s.h, s.tw, s.r2, s.r1)
        if s.shape == "CHS":
            return f.share("IFCCIRCLEHOLLOWPROFILEDEF", kind, s.name, None, s.h / 2, s.tw)
        if s.shape == "L":
            return f.share("IFCLSHAPEPROFILEDEF", kind, s.name, None, s.h, s.b, s.tw, s.r1, s.r2, None)
        if s.shape == "C" and not s.slope:
            return f.share("IFCUSHAPEPROFILEDEF", kind, s.name, None, s.h, s.b, s.tw, s.tf, s.r1, None, None)
        if s.shape == "FL":
            return f.share("IFCRECTANGLEPROFILEDEF", kind, s.name, None, s.tw, s.h)
        return self._area(s.outer, s.inner, s.name)

    def _tapered(self, s: Section, share: float) -> Ref:
        """A tapered girder's profile at a share of its length, shifted to where its middle lies there; named as the whole girder."""
        f = self.f
        low, high = s.slopes
        middle = f.share("IFCCARTESIANPOINT", (0.0, (low + high) / 2 * share))
        at = f.share("IFCAXIS2PLACEMENT2D", middle, None)
        return f.share("IFCISHAPEPROFILEDEF", Enum("AREA"), s.name, at, s.b, s.h + (high - low) * share, s.tw, s.tf, None, None, None)

    def _extruded(self, profile: Ref, frame: Frame, depth: float) -> Ref:
        return self.f.share("IFCEXTRUDEDAREASOLID", profile, self._axes(frame), self.f.share("IFCDIRECTION", (0.0, 0.0, 1.0)), depth)

    def _shape(self, items: list[Ref], kind: str, line: "Array | None" = None) -> Ref:
        shapes = [self.f.add("IFCSHAPEREPRESENTATION", self.body, "Body", kind, items)]
        if line is not None:
            curve = self.f.add("IFCPOLYLINE", [self._point(vec(p)) for p in line])
            shapes.insert(0, self.f.add("IFCSHAPEREPRESENTATION", self.axis, "Axis", "Curve3D", [curve]))
        return self.f.add("IFCPRODUCTDEFINITIONSHAPE", None, None, shapes)

    def _styled(self, item: Ref, colour: str) -> Ref:
        self.f.share("IFCSTYLEDITEM", item, [self.styles[colour]], None)
        return item

    def _cone(self, at: Frame, across: float, angle: float) -> Ref:
        """A cone from a circle round the origin of a frame to its point along z."""
        long = across / 2 / float(np.tan(angle / 2))
        side = Outline(((0.0, 0.0, 0.0), (across / 2, 0.0, 0.0), (0.0, long, 0.0)))
        lies = Frame(at.origin, at.x, vec(-np.array(at.y)))  # its half section, turned about its second axis
        axis = self.f.share("IFCAXIS1PLACEMENT", self._point((0.0, 0.0, 0.0)), self.f.share("IFCDIRECTION", Typed("(0.,1.,0.)")))
        return self.f.add("IFCREVOLVEDAREASOLID", self._area(side), self._axes(lies), axis, 2 * float(np.pi))

    def _mapped(self, key: object, make: Callable[[], list[Ref]], frame: Frame, kind: str = "SweptSolid") -> Ref:
        f = self.f
        if key not in self.maps:
            self.maps[key] = f.add("IFCREPRESENTATIONMAP", self.world, f.add("IFCSHAPEREPRESENTATION", self.body, "Body", kind, make()))
        axes = [f.share("IFCDIRECTION", Typed("(" + ",".join(f"{v:.12f}".rstrip("0") for v in d) + ")")) for d in (frame.x, frame.y, frame.z)]
        return f.add(
            "IFCMAPPEDITEM", self.maps[key], f.share("IFCCARTESIANTRANSFORMATIONOPERATOR3D", axes[0], axes[1], self._point(frame.origin), None, axes[2])
        )

    def _facts(self, element: Ref, key: str, pset: str, values: "dict[str, str | float | int | bool]") -> None:
        f, rows = self.f, []
        for name, value in values.items():
            if isinstance(value, bool):
                shown = f"IFCBOOLEAN({'.T.' if value else '.F.'})"
            elif isinstance(value, int):
                shown = f"IFCINTEGER({value})"
            elif isinstance(value, float):
                shown = f"IFCREAL({real(value)})"
            else:
                shown = f"IFCLABEL({text(value[:250])})"
            rows.append(f.share("IFCPROPERTYSINGLEVALUE", name, None, Typed(shown), None))
        made = f.add("IFCPROPERTYSET", self._guid(key, pset), None, pset, None, rows)
        f.add("IFCRELDEFINESBYPROPERTIES", self._guid(key, pset, "of"), None, None, None, [element], made)

    def _quantities(self, element: Ref, key: str, name: str, length_: float, volume: float, heavy: float = STEEL_DENSITY) -> None:
        f = self.f
        rows = [] if not length_ else [f.share("IFCQUANTITYLENGTH", "Length", None, None, length_, None)]
        rows.append(f.share("IFCQUANTITYVOLUME", "NetVolume", None, None, Typed(f"{volume * 1e-9:.12f}"), None))
        rows.append(f.share("IFCQUANTITYWEIGHT", "NetWeight", None, None, Typed(f"{volume * heavy:.6f}"), None))
        made = f.add("IFCELEMENTQUANTITY", self._guid(key, name), None, name, None, None, rows)
        f.add("IFCRELDEFINESBYPROPERTIES", self._guid(key, name, "of"), None, None, None, [element], made)

    def member(self, m: Member, cuts: Cuts) -> None:
        """One member with end cuts, notches and holes."""
        f, shape, full = self.f, section(m.section), length(m)
        frame = axis_frame(m)
        corners = [end_station(cuts.ends, 0.0, full, y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.reach, shape.reach)]
        low, high = min(c[0] for c in corners), max(c[1] for c in corners)
        # the profile's plane has y to the right and z up, and is drawn along x
        laid, upward = self._axes(Frame((low, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), f.share("IFCDIRECTION", (0.0, 0.0, 1.0))
        if shape.h_end:
            first, last = (self._tapered(shape, x / full) for x in (low, high))
            body = f.add("IFCEXTRUDEDAREASOLIDTAPERED", first, laid, upward, high - low, last)
        else:
            body = f.add("IFCEXTRUDEDAREASOLID", self._profile(shape), laid, upward, high - low)
        kind = "SweptSolid"
        for end in cuts.ends:
            if abs(abs(end.normal[0]) - 1.0) > 1e-9:
                body, kind = f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(end)), "Clipping"
        self._styled(body, "steel")
        storey = self.row.get(m.level, self._storey(min(m.start[2], m.end[2])))
        at = self._placed(frame, storey)
        name, predefined = CLASSES[m.role]
        system = np.round(frame.to_local((m.start, m.end)), 6) + 0.0
        element = f.add(
            name, m.guid or self._guid("member", m.id), None, m.name, None, m.section, at, self._shape([body], kind, system), m.id, Enum(predefined)
        )
        self.contained[storey].append(element)
        self.elements[m.id] = element
        self.materials.setdefault(m.grade, []).append(element)
        self._openings(element, at, m.id, cuts, shape)
        volume = steel_volume(shape, cuts, 0.0, full)
        self._facts(element, m.id, {"IFCCOLUMN": "Pset_ColumnCommon", "IFCBEAM": "Pset_BeamCommon"}.get(name, "Pset_MemberCommon"), {"Reference": m.section})
        self._facts(element, m.id, "TinCleat_Member", {"Section": m.section, "Grade": m.grade, "Role": m.role, "Cardinal": m.cardinal, "Roll": float(m.roll), **_own_ends(m)})
        self._quantities(
            element,
            m.id,
            {"IFCCOLUMN": "Qto_ColumnBaseQuantities", "IFCBEAM": "Qto_BeamBaseQuantities"}.get(name, "Qto_MemberBaseQuantities"),
            cut_length(m, cuts),
            volume,
            density(shape, m.grade),
        )

    def _beyond(self, end: EndCut) -> Ref:
        outward = -np.array(end.normal)
        aside = np.array([0.0, 0.0, 1.0]) if abs(outward[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
        frame = Frame.of(end.point, aside - outward * float(aside @ outward), outward)
        return self.f.add("IFCHALFSPACESOLID", self.f.add("IFCPLANE", self._axes(frame)), False)

    def _openings(self, element: Ref, at: Ref, key: str, cuts: Cuts, shape: Section) -> None:
        """Notches and holes of a bar, as openings in it."""
        for i, notch in enumerate(cuts.notches):
            self._opening(element, at, f"{key} notch {i}", self._extruded(self._area(notch.outline), notch.frame, notch.depth), notch.name)
        for i, hole in enumerate(cuts.holes):
            t = drill_depth(shape, hole.element)
            edge = Outline.circle(0, 0, hole.width) if hole.length <= hole.width else Outline.slot(0, 0, hole.width, hole.length, 0.0)
            along = Frame.of(hole.point, hole.along, hole.axis).moved(z=-t / 2)
            self._opening(element, at, f"{key} hole {i}", self._extruded(self._area(edge), along, t), "hole")

    def _opening(self, element: Ref, at: Ref, key: str, solid: Ref, label: str) -> None:
        f = self.f
        here = f.add("IFCLOCALPLACEMENT", at, self.world)
        made = f.add("IFCOPENINGELEMENT", self._guid(key), None, label, None, None, here, self._shape([solid], "SweptSolid"), None, Enum("OPENING"))
        f.add("IFCRELVOIDSELEMENT", self._guid(key, "in"), None, None, None, element, made)

    def connection(self, entry: Entry) -> None:
        """One connection as an assembly of its parts."""
        f, joint, made, c = self.f, entry.joint, entry.made, entry.connection
        assert made is not None and c is not None
        storey = self._storey(joint.frame.origin[2])
        at = self._placed(joint.frame, storey)
        inner = f.add("IFCLOCALPLACEMENT", at, self.world)
        parts: list[Ref] = []
        for i, plate in enumerate(made.detail.plates):
            parts.append(self._plate(plate, inner, f"{c.id} plate {i}"))
        for i, bent in enumerate(made.detail.bents):
            parts.append(self._bent(bent, at, f"{c.id} bent plate {i}"))
        for i, piece in enumerate(made.detail.pieces):
            parts.append(self._piece(piece, at, f"{c.id} piece {i}"))
        for g, group in enumerate(made.detail.bolts):
            parts.append(self._bolts(entry, g, group, inner, f"{c.id} bolts {g}"))
        for i, rod in enumerate(made.detail.rods):
            parts.append(self._rod(rod, inner, f"{c.id} rod {i}"))
        for i, tie in enumerate(made.detail.ties):
            parts.append(self._tie(tie, inner, f"{c.id} tie {i}"))
        for i, fitting in enumerate(made.detail.fittings):
            parts.append(self._fitting(fitting, inner, f"{c.id} fitting {i}"))
        for i, weld in enumerate(made.detail.welds):
            parts.append(self._weld(weld, inner, f"{c.id} weld {i}"))
        for i, plug in enumerate(made.detail.plugs):
            parts.append(self._plug(plug, inner, f"{c.id} plug {i}"))
        parts += [self._block(block, inner, f"{c.id} block {i}") for i, block in enumerate(made.detail.blocks)]
        assembly = f.add(
            "IFCELEMENTASSEMBLY",
            self._guid("connection", c.id),
            None,
            f"{made.detail.family} {c.id}",
            joint.words,
            made.detail.family,
            at,
            None,
            c.id,
            Enum("SITE"),
            Enum("USERDEFINED"),
        )
        self.contained[storey].append(assembly)
        f.add("IFCRELAGGREGATES", self._guid(c.id, "parts"), None, None, None, assembly, parts)
        ids = joint.members
        if len(ids) > 1:
            f.add(
                "IFCRELCONNECTSWITHREALIZINGELEMENTS",
                self._guid(c.id, "joins"),
                None,
                None,
                None,
                None,
                self.elements[ids[1]],
                self.elements[ids[0]],
                [assembly],
                made.detail.family,
            )
        self._facts(assembly, c.id, "TinCleat_Connection", {"Family": c.family, "Joint": joint.words, "Place": self.ledger.place(joint), "Worst finding": entry.level, **{f"Greatest force {words}": format_force(force, self.project.house.units, mark=True) for words, force in made.detail.forces}})

    def _piece(self, piece: Piece, within: Ref, key: str) -> Ref:
        """A length of a section with its own cuts, placed in the assembly."""
        f, shape = self.f, piece.shape
        laid, upward = self._axes(Frame((0.0, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), f.share("IFCDIRECTION", (0.0, 0.0, 1.0))
        body, kind = f.add("IFCEXTRUDEDAREASOLID", self._profile(shape), laid, upward, piece.length), "SweptSolid"
        for end in piece.cuts.ends:
            body, kind = f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(end)), "Clipping"
        at = f.add("IFCLOCALPLACEMENT", within, self._axes(piece.frame))
        element = f.add("IFCMEMBER", self._guid(key), None, piece.name, None, piece.section, at, self._shape([self._styled(body, "plate")], kind), None, Enum("MEMBER"))
        self._openings(element, at, key, piece.cuts, shape)
        self.materials.setdefault(piece.grade, []).append(element)
        self._quantities(element, key, "Qto_MemberBaseQuantities", piece.length, piece.volume)
        return element

    def _plate(self, plate: Plate, at: Ref, key: str) -> Ref:
        holes = tuple(h.outline for h in plate.holes)
        sinks = tuple(h for h in plate.holes if h.sink)

        def make() -> list[Ref]:
            body = self._extruded(self._area(plate.outline, holes), Frame(), plate.thickness)
            for trim in plate.trims:
                body = self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(trim))
            for h in sinks:  # a whole cone: what of it is deeper than the countersink lies in the hole
                at = Frame((h.x, h.y, plate.thickness if h.sink_top else 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, -1.0 if h.sink_top else 1.0))
                body = self.f.add("IFCBOOLEANRESULT", Enum("DIFFERENCE"), body, self._cone(at, h.sink, h.sink_angle))
            return [self._styled(body, "plate")]

        item = self._mapped(("plate", plate.outline, holes, sinks, plate.thickness, plate.trims), make, plate.frame, "CSG" if sinks else "Clipping" if plate.trims else "SweptSolid")
        element = self.f.add(
            "IFCPLATE", self._guid(key), None, plate.name, None, f"PL {plate.thickness:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("SHEET")
        )
        self.materials.setdefault(plate.grade, []).append(element)
        self._quantities(element, key, "Qto_PlateBaseQuantities", 0.0, plate.volume)
        return element

    def _bent(self, bent: BentPlate, within: Ref, key: str) -> Ref:
        """A bent plate: its profile with true arcs, extruded along its bends, its holes as openings."""
        f = self.f
        at = f.add("IFCLOCALPLACEMENT", within, self._axes(bent.side))
        body = self._extruded(self._area(bent.profile), Frame((0.0, 0.0, -bent.high)), bent.high - bent.low)
        element = f.add("IFCPLATE", self._guid(key), None, bent.name, None, f"PL {bent.thickness:g} bent", at, self._shape([self._styled(body, "plate")], "SweptSolid"), None, Enum("SHEET"))
        for i, leg in enumerate(bent.legs):
            inner = bent.side.inside(leg.frame).moved(z=-1.0)
            for k, hole in enumerate(leg.holes):
                self._opening(element, at, f"{key} leg {i} hole {k}", self._extruded(self._area(hole.outline), inner, bent.thickness + 2.0), "hole")
        self.materials.setdefault(bent.grade, []).append(element)
        self._quantities(element, key, "Qto_PlateBaseQuantities", 0.0, bent.volume)
        self._facts(element, key, "TinCleat_Bent", {"Developed length": float(bent.developed), "Inside radius": float(bent.radius), "Bends": " and ".join(f"{abs(np.degrees(a)):.3g}" for a in bent.turns)})
        return element

    def _bolts(self, entry: Entry, g: int, group: Bolts, at: Ref, key: str) -> Ref:
        assert entry.made is not None
        size = bolt_size(group.size)
        mine = [x for x in entry.made.assembled.fitted if x.group == g]
        items = []
        for one in mine:
            bolt = stack(group, one).moved(one.enter)
            tapers = tuple(msgspec.structs.replace(t, at=round(t.at - one.enter, 6)) for t in one.tapers)

            def make(bolt: Stack = bolt, tapers: tuple[Taper, ...] = tapers) -> list[Ref]:
                hexagon = Outline(tuple((size.head_af / np.sqrt(3) * np.cos(a), size.head_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
                rounds = Outline.circle(0, 0, size.d), Outline.circle(0, 0, size.washer_d)
                some = [(hexagon, None if bolt.sunk else bolt.head), (rounds[0], bolt.shank), (hexagon, bolt.nut), (rounds[1], bolt.washer)]
                solids = [self._extruded(self._area(outline), Frame((0.0, 0.0, s[0])), s[1] - s[0]) for outline, s in some if s is not None]
                if bolt.sunk:
                    solids.append(self._cone(Frame(), *countersunk_head(size.name)))
                for t in tapers:
                    low, high = t.block
                    block = self._extruded(self._area(square(t), (Outline.circle(0, 0, t.hole),)), Frame((0.0, 0.0, low)), high - low)
                    solids.append(self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), block, self._beyond(EndCut(0, (0.0, 0.0, t.at), t.kept))))
                return [self._styled(s, "bolt") for s in solids]

            items.append(self._mapped(("bolt", size.name, one.length, round(one.grip, 3), group.washers, group.head, group.nut, tapers), make, bolt_frame(group, one).moved(z=one.enter)))
        longest = max((x.length for x in mine), default=0.0)
        element = self.f.add(
            "IFCMECHANICALFASTENER",
            self._guid(key),
            None,
            f"{len(mine)} x {group.size}{' countersunk' if group.head == 'countersunk' else ''}{'' if group.nut else ' into a threaded hole'}",
            None,
            group.grade,
            at,
            self._shape(items, "MappedRepresentation"),
            None,
            size.d,
            longest,
            Enum("BOLT"),
        )
        self._facts(
            element, key, "TinCleat_Bolts", {"Size": group.size, "Grade": group.grade, "Count": len(mine), "Length": float(longest), "Site": group.site}
        )
        return element

    def _tie(self, tie: Tie, at: Ref, key: str) -> Ref:
        size = bolt_size(tie.size)

        def make() -> list[Ref]:
            hexagon = Outline(tuple((size.head_af / np.sqrt(3) * np.cos(a), size.head_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
            solids = [self._extruded(self._area(Outline.circle(0, 0, size.d)), Frame(), tie.length)]
            for i, (x, way) in enumerate(tie.nuts):
                near = tie.bearing(i, size.washer_d, size.washer_t)
                solids.append(self._extruded(self._area(hexagon), Frame((0.0, 0.0, min(near, near + way * size.nut_height))), size.nut_height))
                thick = abs(near - x)
                if thick > 1e-6:
                    deep = 2 * thick if tie.seats else thick
                    washer = self._extruded(self._area(Outline.circle(0, 0, size.washer_d)), Frame((0.0, 0.0, near - deep if way > 0 else near)), deep)
                    if tie.seats:  # in the solids' own frame the bar's x is z, its z x
                        nx, ny, nz = tie.seats[i]
                        washer = self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), washer, self._beyond(EndCut(0, (0.0, 0.0, x), (nz, -ny, nx))))
                    solids.append(washer)
            return [self._styled(s, "bolt") for s in solids]

        item = self._mapped(("tie", tie.size, tie.length, tie.nuts, tie.washers, tie.seats), make, tie_frame(tie))
        shape = self._shape([item], "MappedRepresentation")
        element = self.f.add("IFCMECHANICALFASTENER", self._guid(key), None, tie.name, None, f"{tie.size} {tie.grade}", at, shape, None, size.d, tie.length, Enum("USERDEFINED"))
        self._facts(element, key, "TinCleat_Rod", {"Size": tie.size, "Grade": tie.grade, "Length": float(tie.length), "Threads": " and ".join(f"{t:g}" for t in tie.threads)})
        return element

    def _fitting(self, fitting: Fitting, at: Ref, key: str) -> Ref:
        """A fork, turnbuckle, hillside washer or stud."""

        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(s.outline, s.holes), s.frame, s.depth), "bolt") for s in fitting.solids]

        item = self._mapped(("fitting", *fitting.solids), make, fitting.frame)
        element = self.f.add("IFCMECHANICALFASTENER", self._guid(key), None, fitting.name, fitting.words, f"{fitting.size} {fitting.grade}", at, self._shape([item], "MappedRepresentation"), None, fitting.bar, fitting.length, Enum("STUDSHEARCONNECTOR" if isinstance(fitting, Stud) else "USERDEFINED"))
        self._facts(element, key, "TinCleat_Fitting", {"Size": fitting.size, "Grade": fitting.grade, "Length": float(fitting.length)})
        return element

    def _rod(self, rod: Rod, at: Ref, key: str) -> Ref:
        size = anchor_size(rod.size)

        def make() -> list[Ref]:
            hexagon = Outline(tuple((size.nut_af / np.sqrt(3) * np.cos(a), size.nut_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
            half = rod.washer[0] / 2
            solids = [self._extruded(self._area(Outline.circle(0, 0, size.d)), Frame((0.0, 0.0, rod.bottom)), rod.top - rod.bottom)]
            solids += [self._extruded(self._area(hexagon), Frame((0.0, 0.0, n)), size.nut_height) for n in rod.nuts]
            solids += [self._extruded(self._area(Outline.rectangle(-half, -half, half, half)), Frame((0.0, 0.0, w)), rod.washer[1]) for w in rod.washers]
            if rod.foot == "plate":
                r = 1.75 * size.d
                solids.append(self._extruded(self._area(Outline.rectangle(-r, -r, r, r)), Frame((0.0, 0.0, rod.bottom - size.d / 2)), size.d / 2))
            elif rod.foot == "headed":
                solids.append(self._extruded(self._area(hexagon), Frame((0.0, 0.0, rod.bottom)), size.nut_height))
            elif rod.foot == "hooked":
                solids.append(
                    self._extruded(
                        self._area(Outline.circle(0, 0, size.d)), Frame((0.0, 0.0, rod.bottom + size.d / 2), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0)), 4 * size.d
                    )
                )
            return [self._styled(s, "bolt") for s in solids]

        key_ = ("rod", rod.size, rod.bottom, rod.top, rod.foot, rod.nuts, rod.washers, rod.washer)
        item = self._mapped(key_, make, rod.stand)
        return self.f.add(
            "IFCMECHANICALFASTENER",
            self._guid(key),
            None,
            rod.name,
            None,
            f"{rod.size} {rod.grade}",
            at,
            self._shape([item], "MappedRepresentation"),
            None,
            size.d,
            rod.top - rod.bottom,
            Enum("ANCHORBOLT"),
        )

    def _weld(self, weld: Weld, at: Ref, key: str) -> Ref:
        run = np.subtract(weld.end, weld.start)
        z = unit(run)
        frame = Frame.of(weld.start, weld.u, vec(z))
        flat = [(float(c[0]), float(c[1])) for c in (frame.unturn(np.array(p)) for p in weld.section)]
        if flat[2][1] < 0:
            flat = [flat[0], *flat[:0:-1]]

        def make() -> list[Ref]:
            outline = Outline(tuple((x, y, 0.0) for x, y in flat))
            return [self._styled(self._extruded(self._area(outline), Frame(), float(np.linalg.norm(run))), "weld")]

        item = self._mapped(("weld", tuple(np.round(flat, 4).ravel().tolist()), round(float(np.linalg.norm(run)), 4)), make, frame)
        return self.f.add(
            "IFCFASTENER", self._guid(key), None, weld.name, None, f"{weld.kind} {weld.leg:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("WELD")
        )

    def _plug(self, plug: Plug, at: Ref, key: str) -> Ref:
        """A plug or slot weld."""

        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(plug.outline), Frame(), plug.depth), "weld")]

        item = self._mapped(("plug", plug.outline, plug.depth), make, plug.frame)
        return self.f.add("IFCFASTENER", self._guid(key), None, plug.name, None, f"{plug.kind} {plug.width:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("WELD"))

    def _block(self, block: Block, at: Ref, key: str) -> Ref:
        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(block.outline), Frame(), block.thickness), "concrete")]

        shape = self._shape([self._mapped(("block", block.outline, block.thickness), make, block.frame)], "MappedRepresentation")
        if block.name == "pad":
            element = self.f.add("IFCFOOTING", self._guid(key), None, "pad", None, block.material, at, shape, None, Enum("PAD_FOOTING"))
        else:
            element = self.f.add("IFCBUILDINGELEMENTPROXY", self._guid(key), None, block.name, None, block.material, at, shape, None, Enum("NOTDEFINED"))
        self.materials.setdefault(block.material, []).append(element)
        return element

    def grid(self, g: Grid) -> None:
        """One grid: lines crossed going along its x axis first, a little past the outer ones."""
        f = self.f
        c, s = math.cos(g.angle), math.sin(g.angle)
        at = f.add("IFCLOCALPLACEMENT", self.building_at, self._axes(Frame(g.origin, (c, s, 0.0), (0.0, 0.0, 1.0))))
        (x0, x1), (y0, y1) = ((family[0][1] - PAST, family[-1][1] + PAST) for family in (g.x, g.y))
        families: list[list[Ref]] = []
        curves: list[Ref] = []
        for lines in ([(n, (v, y0), (v, y1)) for n, v in g.x], [(n, (x0, v), (x1, v)) for n, v in g.y]):
            made = [(n, f.add("IFCPOLYLINE", [f.share("IFCCARTESIANPOINT", p) for p in ends])) for n, *ends in lines]
            curves += [curve for _, curve in made]
            families.append([f.add("IFCGRIDAXIS", n, curve, True) for n, curve in made])
        drawn = f.add("IFCSHAPEREPRESENTATION", self.footprint, "FootPrint", "GeometricCurveSet", [f.add("IFCGEOMETRICCURVESET", curves)])
        shape = f.add("IFCPRODUCTDEFINITIONSHAPE", None, None, [drawn])
        made_grid = f.add("IFCGRID", self._guid("grid", g.id), None, g.name, None, None, at, shape, *families, None, Enum("RECTANGULAR"))
        self.contained[self._storey(g.origin[2])].append(made_grid)

    def finish(self) -> None:
        """Containment and materials."""
        f = self.f
        for i, elements in enumerate(self.contained):
            if elements:
                f.add("IFCRELCONTAINEDINSPATIALSTRUCTURE", self._guid("in storey", next((k for k, row in self.row.items() if row == i), "ground")), None, None, None, elements, self.storeys[i])
        for name, elements in self.materials.items():
            f.add("IFCRELASSOCIATESMATERIAL", self._guid("material", name), None, None, None, elements, f.add("IFCMATERIAL", name, None, None))


def _own_ends(m: Member) -> "dict[str, str | float | int | bool]":
    """How many of a member's leaning end planes are its own, and where it is cut square of itself (mm from its start): what else its body shows is its connections'."""
    out: dict[str, str | float | int | bool] = {}
    leaning = 0
    for end in own_cuts(m).ends:
        if abs(abs(end.normal[0]) - 1.0) > 1e-9:
            leaning += 1
        else:
            out["Own start" if end.normal[0] > 0 else "Own end"] = float(end.point[0])
    return {"Own planes": leaning, **out}


def export_ifc(ledger: Ledger, path: "str | Path", progress: Progress | None = None) -> Path:
    """Write the whole project as IFC4; ``progress(share, words)`` may return False to stop, then Cancelled is raised and nothing written."""
    stamp = datetime.datetime.now(datetime.UTC).strftime("%Y-%m-%dT%H:%M:%S")
    writer = _Writer(ledger, Path(path).stem, stamp)
    cuts = member_cuts(ledger)
    joined = [e for e in ledger.entries.values() if e.made is not None and e.connection is not None]
    total = len(ledger.project.members) + len(joined) + 1

    def step(done: int, words: str) -> None:
        if done % 50 == 0:
            go_on(progress, done / total, words, "the export was stopped; nothing was written")

    for i, m in enumerate(ledger.project.members.values()):
        step(i, "members")
        writer.member(m, cuts.get(m.id, Cuts()))
    for i, entry in enumerate(joined):
        step(len(ledger.project.members) + i, "connections")
        writer.connection(entry)
    for grid in ledger.project.grids.values():
        writer.grid(grid)
    writer.finish()
    document = writer.f.document("IFC4", Path(path).name, stamp, f"Tin Cleat {__version__}")
    return write_whole(path, lambda part: _write(part, document))


def _write(path: Path, document: str) -> None:
    path.write_text(document, encoding="ascii")
