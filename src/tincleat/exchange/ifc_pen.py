"""Points, curves, profiles, solids and facts as they are written to IFC, like ones once."""

import math
from bisect import bisect_right
from collections.abc import Callable

import numpy as np

from tincleat.catalogue.sections import STEEL_DENSITY, Section
from tincleat.exchange.spf import DERIVED, Enum, Ref, Spf, Typed, global_id, real, text
from tincleat.geometry.frames import Array, Frame, Vec3, vec
from tincleat.geometry.mesh import Mesh
from tincleat.geometry.outline import Outline
from tincleat.ledger.ledger import Ledger
from tincleat.project.entities import Site

COLOURS = {"steel": (0.61, 0.64, 0.65), "plate": (0.45, 0.50, 0.52), "bolt": (0.18, 0.33, 0.41), "weld": (0.72, 0.51, 0.17), "concrete": (0.80, 0.79, 0.75)}


class Pen:
    """A file that is written."""

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

    def _faceted(self, mesh: Mesh) -> Ref:
        """A closed body of triangles."""
        f = self.f
        at = [self._point(vec(p)) for p in mesh.points]
        faces = [f.add("IFCFACE", [f.add("IFCFACEOUTERBOUND", f.add("IFCPOLYLOOP", [at[i] for i in three]), True)]) for three in mesh.triangles.tolist()]
        return f.add("IFCFACETEDBREP", f.add("IFCCLOSEDSHELL", faces))

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
