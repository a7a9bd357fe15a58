"""A frame read from IFC 2x3, 4 or 4x3: members by their lines, profiles and cuts, everything else as reference, and a report of all of it.

Placements, profiles and facets are read as numbers; the geometry engine is asked for other bodies, and to compare a member with where its
body is more than a swept profile.  Files are hostile: whatever cannot be read is named in the report, and the rest comes in.
"""

import math
from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.grades import UNKNOWN
from tincleat.catalogue.recognise import Match, by_name
from tincleat.catalogue.sections import OwnName, Section, plain, row_section, section
from tincleat.errors import BadValue, Progress, TinCleatError, go_on
from tincleat.exchange.ifc_bodies import bar_of, end_planes
from tincleat.exchange.ifc_cuts import differences, with_cuts
from tincleat.exchange.ifc_facets import facets_of
from tincleat.exchange.ifc_facts import ODD, Facts, site_of
from tincleat.exchange.ifc_file import check_plain, library, opened
from tincleat.exchange.ifc_grids import grid_of
from tincleat.exchange.ifc_profiles import match_profile, own_row, profile_label, profile_size, section_axes
from tincleat.exchange.ifc_shapes import Broken, Placements, Unread, line_of, numbers
from tincleat.exchange.ifc_solids import Reader, Swept, prism_of
from tincleat.exchange.spf import global_id
from tincleat.exchange.worker import STOPPED, Line, read
from tincleat.geometry.frames import Array, Vec3, crossed, unit
from tincleat.geometry.mesh import Mesh
from tincleat.project.entities import Cardinal, Grid, Member, Plane, Role, Site
from tincleat.project.members import axis_frame, cardinal_point, check_member
from tincleat.project.motion import roll_for

MOST_BODIES, MOST_TRIANGLES, MOST_ALL_TRIANGLES = 2000, 60_000, 600_000
FAR = 1_000_000.0  # mm from the origin beyond which a whole model is brought near it
BAR = 1.0  # least length of a bar by the larger size of its section; shorter pieces are plates and stubs of connections
MEMBER_KINDS = ("IfcBeam", "IfcColumn", "IfcMember")
SMALL_PARTS = ("IfcMechanicalFastener", "IfcFastener", "IfcVirtualElement", "IfcDiscreteAccessory")
BODY_KINDS = ("SweptSolid", "AdvancedSweptSolid", "Clipping", "CSG", "SolidModel", "Brep", "AdvancedBrep", "Tessellation", "MappedRepresentation", "SurfaceModel")
ROLES: dict[str, Role] = {
    "JOIST": "joist",
    "BRACE": "brace",
    "PURLIN": "purlin",
    "RAFTER": "rafter",
    "POST": "post",
    "COLUMN": "column",
    "BEAM": "beam",
    "STRUT": "brace",
}
CARDINALS: tuple[Cardinal, ...] = ("centre", "top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right", "centroid")
# IfcCardinalPointReference; left is where the profile's x points
POINTS: dict[int, Cardinal] = {1: "bottom left", 2: "bottom", 3: "bottom right", 4: "left", 5: "centre", 6: "right", 7: "top left", 8: "top", 9: "top right", 10: "centroid"}


@dataclass(frozen=True)
class Body:
    """A reference body as read: kind and name from the file, a surface in the world in mm."""

    guid: str
    name: str
    kind: str
    points: Array
    triangles: "np.ndarray"


@dataclass
class Imported:
    """What came of a file: members and bodies (ids still empty), what profiles and materials were taken for, and what did not come in and why."""

    members: list[Member] = field(default_factory=list)
    bodies: list[Body] = field(default_factory=list)
    profiles: dict[str, Match] = field(default_factory=dict)
    left: list[dict[str, str]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    levels: list[tuple[str, float, str, str]] = field(default_factory=list)  # name, elevation, building, the storey's own identity
    grids: list[Grid] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    grades: Counter[tuple[str, str, str]] = field(default_factory=Counter)  # name in the file, grade, by what
    own: dict[str, dict[str, str]] = field(default_factory=dict)  # rows of sections made of profiles that no list has
    site: Site = field(default_factory=Site)
    unit: str = ""
    schema: str = ""
    masses: tuple[float, float, int] = (0.0, 0.0, 0)  # kg by the file's own quantities, ours of the same members, how many

    @property
    def feet(self) -> bool:
        """Whether the file measures in feet or inches."""
        return self.unit in ("foot", "inch")

    def report(self) -> dict[str, Any]:
        """The report as ``import --json`` prints it."""
        used = Counter(self.counts)
        theirs, ours, counted = self.masses
        return {
            "schema": self.schema, "unit": self.unit, "taken": len(self.members), "as_reference": len(self.bodies), "left_out": len(self.left), "notes": self.notes,
            "grids": [g.name for g in self.grids],
            "roles": dict(sorted(Counter(m.role for m in self.members).items())),
            "profiles": [{"name": n, "section": str(m.section), "by": m.by, "confidence": round(m.confidence, 3), "members": used[n]} for n, m in sorted(self.profiles.items())],
            "grades": [{"name": n, "grade": g, "by": by, "members": count} for (n, g, by), count in sorted(self.grades.items())],
            "quantities": {"members": counted, "file_kg": round(theirs, 1), "ours_kg": round(ours, 1)} if counted else {},
            "references": dict(sorted(Counter(b.kind for b in self.bodies).items())), "left": self.left,
        }  # fmt: skip


class _Sent(msgspec.Struct):
    """:class:`Imported` on its way from the process that reads it."""

    members: list[Member]
    bodies: list[tuple[str, str, str, bytes, bytes]]
    profiles: dict[str, tuple[str, float, str, int, bool]]
    left: list[dict[str, str]]
    notes: list[str]
    levels: list[tuple[str, float, str, str]]
    grids: list[Grid]
    counts: dict[str, int]
    grades: list[tuple[str, str, str, int]]
    own: dict[str, dict[str, str]]
    site: Site
    unit: str
    schema: str
    masses: tuple[float, float, int]


def _plainly(value: object) -> object:
    if isinstance(value, OwnName):
        return str(value)
    raise NotImplementedError(type(value).__name__)


def worked(line: Line, path: str, meanings: dict[str, str], unit_name: str, own: dict[str, dict[str, str]], grades: dict[str, str]) -> bytes:
    """The worker's side of :func:`import_ifc`."""
    known = {k: OwnName.of(row_section(row)) for k, row in own.items()}
    out = read_ifc(path, {k: known.get(plain(v), v) for k, v in meanings.items()} | {v: v for v in known.values()}, unit_name, line.step, grades, line.body)
    sent = _Sent(
        out.members, [(b.guid, b.name, b.kind, b.points.astype("<f8").tobytes(), b.triangles.astype("<i4").tobytes()) for b in out.bodies],
        {k: (m.section, m.confidence, m.by, m.turn, m.mirrored) for k, m in out.profiles.items()}, out.left, out.notes, out.levels, out.grids, dict(out.counts),
        [(*k, n) for k, n in out.grades.items()], out.own, out.site, out.unit, out.schema, out.masses,
    )  # fmt: skip
    return msgspec.msgpack.encode(sent, enc_hook=_plainly)


def import_ifc(
    path: "str | Path", meanings: "Mapping[str, str] | None" = None, unit_name: str = "", progress: "Progress | None" = None,
    own: "Mapping[str, Mapping[str, str]] | None" = None, grades: "Mapping[str, str] | None" = None,
) -> Imported:  # fmt: skip
    """:func:`read_ifc` in a process of its own with bounds on time and memory; ``own`` are rows of the project's own sections by plain name.

    Raises BadFile for what is no IFC or cannot be read within the bounds, BadValue for an unknown unit, Cancelled when ``progress`` returns False.
    """
    check_plain(Path(path))
    values = {"meanings": {k: str(v) for k, v in (meanings or {}).items()}, "unit_name": unit_name, "own": dict(own or {}), "grades": dict(grades or {})}
    sent = msgspec.msgpack.decode(read("ifc", path, values, progress), type=_Sent)
    bodies = [Body(g, n, k, np.frombuffer(p, "<f8").reshape(-1, 3), np.frombuffer(t, "<i4").reshape(-1, 3).astype(np.int32)) for g, n, k, p, t in sent.bodies]
    return Imported(
        sent.members, bodies, {k: Match(*m) for k, m in sent.profiles.items()}, sent.left, sent.notes, sent.levels, sent.grids, Counter(sent.counts),
        Counter({(a, b, c): n for a, b, c, n in sent.grades}), sent.own, sent.site, sent.unit, sent.schema, sent.masses,
    )  # fmt: skip




def read_ifc(
    path: "str | Path", meanings: "Mapping[str, str] | None" = None, unit_name: str = "", progress: "Progress | None" = None,
    grades: "Mapping[str, str] | None" = None, body: "Callable[[int], str] | None" = None,
) -> Imported:  # fmt: skip
    """Read a frame; ``meanings`` maps profile names to sections, ``grades`` material names to grades, ``unit_name`` overrides the file's length unit.

    ``body`` is told the number of every product that the geometry engine is about to make, and returns why it must not, if so.
    Raises BadFile for what is no IFC at all, BadValue for an unknown unit, Cancelled when ``progress`` returns False.
    """
    model, mended = opened(Path(path))
    reader = _Reader(model, meanings or {}, unit_name, progress, grades or {}, body or (lambda number: ""))
    reader.out.notes += [mended] if mended else []
    return reader.read()


class _Reader:
    def __init__(
        self, model: Any, meanings: Mapping[str, str], unit_name: str, progress: "Progress | None", grades: Mapping[str, str], body: Callable[[int], str]
    ) -> None:
        self.f, self.progress, self.body = model, progress, body
        self.out = Imported(schema=model.schema)
        self.meanings = {plain(k): v for k, v in meanings.items()}
        self.given = dict(grades)
        self.engine_scale = self.scale = 1000.0
        self._units(unit_name)
        self.places = Placements()
        self.matches: dict[tuple[int, float], tuple[Match | None, Array]] = {}
        self.labels: dict[tuple[int, float], str] = {}
        self.many: Counter[str] = Counter()
        self.guids: set[str] = set()
        self.weighed: list[tuple[float, Member]] = []
        self.triangles = 0
        self.partial = False  # whether parts of the body read last were left to the connections

    def _units(self, unit_name: str) -> None:
        named = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
        if unit_name and unit_name not in named:
            raise BadValue(f"there is no unit {unit_name!r}", "import", "one of " + ", ".join(named))
        try:
            found = float(library().util.unit.calculate_unit_scale(self.f)) * 1000.0
        except Exception:  # any broken unit assignment
            found = 0.0
        if math.isfinite(found) and 1e-6 < found < 1e7:
            self.engine_scale = self.scale = found
        elif not unit_name:
            self.out.notes.append("the file's length unit is unreadable; metres are assumed (import with a unit if that is wrong)")
        if unit_name:
            self.scale = named[unit_name]
        self.out.unit = next((n for n, s in (("foot", 304.8), ("inch", 25.4), ("millimetre", 1.0), ("metre", 1000.0)) if abs(self.scale - s) < 1e-3 * s), f"{self.scale:g} mm")

    def _step(self, share: float, words: str) -> None:
        go_on(self.progress, share, words, STOPPED)

    def _note(self, kind: str, words: str) -> None:
        """A note of a kind of which there may be thousands: the first ones are told one by one, the rest are counted."""
        self.many[kind] += 1
        if self.many[kind] <= 300:
            self.out.notes.append(words)

    def read(self) -> Imported:
        self._step(0.02, "materials and properties")
        self.facts = Facts(self.f, self.out.notes, self.given)
        self._levels()
        self._grids()
        self.out.site = site_of(self.f, self.scale)
        physical = [p for kind in MEMBER_KINDS for p in self._all(kind)]
        ends: set[tuple[Any, ...]] = set()
        for i, product in enumerate(physical):
            if i % 100 == 0:
                self._step(0.05 + 0.6 * i / max(1, len(physical)), f"members, {i} of {len(physical)}")
            ends |= {_ends(m) for m in self._guarded(product, self._member)}
        self._analysis(ends)
        self._others({p.id() for p in physical})
        self._weigh()
        self._bring_near()
        for kind, count in self.many.items():
            if count > 300:
                self.out.notes.append(f"and {count - 300} more like these: {kind}")
        return self.out

    def _all(self, kind: str) -> list[Any]:
        try:
            return list(self.f.by_type(kind))
        except RuntimeError:
            return []

    def _leave(self, product: Any, why: str) -> None:
        self.out.left.append({"guid": _text(product, "GlobalId"), "kind": product.is_a(), "name": _text(product, "Name"), "why": why})

    def _guarded(self, product: Any, read_: Callable[[Any], "list[Member]"]) -> "list[Member]":
        try:
            found = read_(product)
            self.out.members += found
            return found
        except (Broken, BadValue) as error:
            self._leave(product, str(error))
        except (RuntimeError, AttributeError, TypeError, ValueError, IndexError, ArithmeticError, RecursionError, np.linalg.LinAlgError) as error:
            self._leave(product, f"it is damaged: {type(error).__name__}: {str(error)[:120]}")
        return []

    # --- the whole -------------------------------------------------------------

    def _grids(self) -> None:
        for product in self._all("IfcGrid"):
            try:
                self.out.grids.append(grid_of(product, self.places.of(product.ObjectPlacement), self.scale))
            except (Broken, *ODD) as error:
                self.out.notes.append(f"grid {_text(product, 'Name') or _text(product, 'GlobalId')} left out: {error}")

    def _levels(self) -> None:
        several = len(self._all("IfcBuilding")) > 1
        for storey in self._all("IfcBuildingStorey"):
            try:
                high = (
                    self.places.of(storey.ObjectPlacement)[2, 3]
                    if storey.ObjectPlacement is not None
                    else numbers((storey.Elevation or 0.0,), 1, "an elevation")[0]
                )
                building = ""
                if several:
                    over = [rel.RelatingObject for rel in storey.Decomposes or ()]
                    building = next((_text(b, "Name") or _text(b, "GlobalId") for b in over if b.is_a("IfcBuilding")), "")
                name = _text(storey, "Name") or f"level {len(self.out.levels) + 1}"
                self.out.levels.append((name, round(float(high) * self.scale, 3), building, _text(storey, "GlobalId")))
            except (Broken, *ODD) as error:
                self.out.notes.append(f"a storey is unreadable: {error}")

    # --- members ---------------------------------------------------------------

    def _member(self, product: Any) -> list[Member]:
        kind, told = self.facts.kind_of(product)
        if kind not in ("", "steel"):
            self._as_reference(product, f"it is of {kind} ({told})")
            return []
        try:
            world = self.places.of(product.ObjectPlacement)
        except Unread as error:
            found = self._from_body(product, None)
            if found:
                self._note("placed by the geometry engine", f"{self._called(product)}: {error}; where it lies is the geometry engine's word")
                return found
            raise
        bodies, line = _representations(product, world)
        if not bodies:
            return self._from_line(product, world, line)
        reader = Reader()
        swept = [s for rep in bodies for s in reader.of(rep, world)]
        self.partial = False
        made = self._bars(product, swept, line) if swept and not any(s.shear for s in swept) else []
        if not made:
            found = self._from_body(product, line)
            if not found:
                self._as_reference(product, self._why_not(swept, reader.odd))
            return found
        if not self.facts.own(product) and not self.partial and (len(swept) > 1 or reader.odd or any(not s.plain or s.odd for s in swept) or product.HasOpenings):
            self._compare(product, made)
        return made

    def _why_not(self, swept: Sequence[Swept], odd: Sequence[str]) -> str:
        labels = [profile_label(s.profile, self.scale) for s in swept if s.profile is not None]
        return f"its profile {labels[0]!r} is like no section of the catalogue" if labels else f"its shape ({', '.join(odd) or 'nothing'}) is no bar of the catalogue"

    def _bars(self, product: Any, swept: Sequence[Swept], line: "tuple[Array, Array] | None") -> list[Member]:
        """The members a product's solids are: every bar of it, plates and stubs left to the connections, pieces of one bar joined."""
        ours = self.facts.own(product)
        openings, strange = self._openings(product, ours)
        found: list[tuple[float, Match, Array, Swept]] = []
        for s in swept:
            match, plane = self._section_of(s)
            if match is not None:
                found.append((float(np.linalg.norm(s.way)) * self.scale, match, plane, s))
            elif len(swept) > 1:
                self.partial = True
                if (size := profile_size(s.profile, self.scale)) is not None and float(np.linalg.norm(s.way)) * self.scale < min(size):
                    words = " x ".join(f"{v:.0f}" for v in (*size, float(np.linalg.norm(s.way)) * self.scale))
                    self._note("plates in bodies", f"{self._called(product)}: a plate {words} in its body was left out: connections are placed anew")
                    continue
                self._note("parts of bodies", f"{self._called(product)}: a part of its body ({profile_label(s.profile, self.scale)}) is like no section and was left out")
        found.sort(key=lambda f: -f[0])
        out: list[Member] = []
        for i, (long, match, plane, s) in enumerate(found):
            shape = section(match.section)
            if i and long < BAR * max(shape.h, shape.b):
                self.partial = True
                self._note("plates in bodies", f"{self._called(product)}: a piece of {shape.name}, {long:.0f} mm long, in its body was left out: connections are placed anew")
                continue
            member = self._steel(product, match, plane, s, line if i == 0 else None)
            taken = Swept(s.profile, s.matrix, s.way, planes=s.planes, prisms=[*s.prisms, *openings], odd=[*s.odd, *(strange if i == 0 else ())])
            if ours:
                taken.planes = s.planes[: int(ours.get("Own planes", 0) or 0)]
            before = member
            odd: list[str] = []
            if taken.planes or taken.prisms or taken.odd:
                member, odd = with_cuts(member, taken, self.scale)
            if ours:
                member = _own_ends(before, member, ours)
            if odd:
                self._note("cuts left out", f"{self._called(product)}: not taken off: {'; '.join(odd)}")
            out.append(member)
        out = _joined(out)
        if len(out) > 1:
            self._note("bodies of several bars", f"{self._called(product)}: its body is {len(out)} bars; each came in as a member")
            out = [msgspec.structs.replace(m, guid=m.guid if i == 0 else self._unique(f"{m.guid} part {i}", ""), name=m.name if i == 0 or not m.name else f"{m.name}/{i + 1}") for i, m in enumerate(out)]
        return out

    def _openings(self, product: Any, ours: "dict[str, Any]") -> "tuple[list[Any], list[str]]":
        """The prisms of a product's openings in the world, and what openings are that are no prisms."""
        prisms: list[Any] = []
        odd: list[str] = []
        left = 0
        for rel in product.HasOpenings or ():
            opening = rel.RelatedOpeningElement
            if ours and _text(opening, "Name") != "polygon cut":
                left += 1
                continue
            try:
                world = self.places.of(opening.ObjectPlacement)
                reader = Reader()
                for rep in _representations(opening, world)[0]:
                    for s in reader.of(rep, world):
                        if s.planes or s.prisms or s.odd or s.round_:
                            raise Broken("an opening that is no prism")
                        prisms.append(prism_of(s))
                if reader.odd:
                    raise Broken(f"an opening of {', '.join(reader.odd)}")
            except (Broken, *ODD) as error:
                odd.append(str(error)[:100])
        if left:
            self.many["cuts of connections"] += left
        return prisms, odd

    def _section_of(self, s: Swept) -> "tuple[Match | None, Array]":
        if s.profile is None:
            assert s.round_ is not None
            radius, wall = (v * self.scale * float(np.linalg.norm(s.matrix[:3, 0])) for v in s.round_)
            found = by_name(f"CHS{2 * radius:.2f}X{wall:.2f}" if wall else f"RD{2 * radius:.2f}")
            return (Match(found.name, 0.97, "sizes") if found is not None else None), np.eye(4)
        return self._match(s.profile, float(np.linalg.norm(s.matrix[:3, 0])))

    def _compare(self, product: Any, made: Sequence[Member]) -> None:
        """Look at what came in beside the source's own body, and say where they differ."""
        mesh = self._mesh(product)
        if mesh is None:
            self._note("not compared", f"{self._called(product)}: its body could not be made by the geometry engine, so that nothing compares with what came in")
            return
        try:
            for words in differences(list(made), Mesh(*mesh)):
                self._note("differs from its body", f"{self._called(product)} ({_text(product, 'GlobalId')}): {words}")
        except (TinCleatError, ValueError, ArithmeticError) as error:
            self._note("not compared", f"{self._called(product)}: it could not be compared with its body: {str(error)[:100]}")

    def _from_body(self, product: Any, line: "tuple[Array, Array] | None") -> list[Member]:
        """A member whose shape is a bare body, if that is a bar of a section, its ends as the body's are."""
        mesh = self._mesh(product)
        bar = bar_of(*mesh, self._named(product)) if mesh is not None else None
        if bar is None or mesh is None:
            return []
        matrix = bar.matrix.copy()
        matrix[:3, 3] /= self.scale
        s = Swept(None, matrix, bar.way / self.scale, planes=end_planes(*mesh, bar, self.scale))
        member, _ = with_cuts(self._steel(product, bar.match, section_axes(bar.match), s, line), s, self.scale)
        self.out.profiles.setdefault(f"body like {bar.match.section}", bar.match)
        self.out.counts[f"body like {bar.match.section}"] += 1
        self._note("bare bodies", f"{self._called(product)}: its body is like {bar.match.section} ({bar.match.confidence:.0%}); it came in as that")
        self._compare(product, [member])
        return [member]

    def _named(self, product: Any) -> "Section | None":
        """The section that a product's profile set or its own names mean."""
        profile = self.facts.of(product).profile
        for name in (getattr(profile, "ProfileName", None), _text(product, "ObjectType"), _text(product, "Description"), _text(product, "Name")):
            meant = self.meanings.get(plain(name)) if name else None
            found = section(meant) if meant else by_name(name) if name else None
            if found is not None and not found.h_end:
                return found
        return None

    def _from_line(self, product: Any, world: Array, line: "tuple[Array, Array] | None", up: "Array | None" = None) -> list[Member]:
        """A member of which only a line and a profile are told: hung by its cardinal point, rolled as its placement is."""
        told = self.facts.of(product)
        if told.profile is None:
            raise Broken("it has neither a shape nor a profile")
        if line is None:
            self._as_reference(product, "it has a profile but no line")
            return []
        match, plane = self._match(told.profile, 1.0)
        if match is None:
            label = profile_label(told.profile, self.scale)
            self._as_reference(product, f"its profile {label!r} is like no section of the catalogue")
            return []
        a, b = line
        if not np.isfinite([a, b]).all() or math.dist(a, b) * self.scale < 1.0:
            raise Broken("it has no length")
        x = unit(b - a)
        local = world[:3, :3] / np.linalg.norm(world[:3, :3], axis=0)
        if up is not None and abs(float(unit(up) @ x)) < 0.999:
            z = up
        elif up is None and abs(float(x @ local[:, 2])) > 0.999:
            z = local[:, 1]  # drawn along its own z axis, the profile lies in its x and y
        elif up is None:
            z = local[:, 2]
        else:
            z = np.array([0.0, 0.0, 1.0]) if abs(x[2]) < 0.999 else np.array([1.0, 0.0, 0.0])
        y = unit(z - x * float(z @ x))
        matrix = np.eye(4)
        matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = np.cross(y, x), y, x, a
        if told.cardinal is not None:
            if told.cardinal not in POINTS:
                self._note("cardinal points", f"{self._called(product)}: cardinal point {told.cardinal} is not read; it hangs by its middle")
            plane = plane.copy()
            plane[:3, 3] = 0.0
            s = section(match.section)
            w, h = (s.b, s.h) if match.turn % 2 == 0 else (s.h, s.b)
            name = POINTS.get(told.cardinal, "centre")
            if name == "centroid":
                cy, cz = s.centroid
                at = plane[:3, 0] * cy + plane[:3, 1] * cz
            else:
                at = np.array([w / 2 * (("left" in name) - ("right" in name)), h / 2 * (("top" in name) - ("bottom" in name)), 0.0])
            plane[:3, 3] = -at / self.scale
        return [self._steel(product, match, plane, Swept(told.profile, matrix, b - a), line)]

    def _steel(self, product: Any, match: Match, plane: Array, body: Swept, line: "tuple[Array, Array] | None") -> Member:
        s = section(match.section)
        if isinstance(match.section, OwnName):
            self.out.own.setdefault(str(match.section), own_row(match.section))
        if body.tapered and not s.h_end:
            self._note("tapered", f"{self._called(product)}: it is tapered and came in as {match.section} all along; name it as a tapered girder to change that")
        matrix = body.matrix @ plane
        first = matrix[:3, 3] * self.scale
        last = (matrix[:3, 3] + body.way) * self.scale
        if not np.isfinite(last).all() or math.dist(last, first) < 1.0:
            raise Broken("it has no length")
        x, z = unit(last - first), matrix[:3, 1]
        z = unit(z - x * float(z @ x))
        turned = float(crossed(z, x) @ matrix[:3, 0]) < 0  # the other hand: a mirrored profile, or one swept against its normal
        if turned and s.shape in ("C", "CF"):
            z = -z
        elif turned and not s.symmetric and s.shape != "T":
            first, last, x = last, first, -x
        start, end = self._along(product, first, last, x, line)
        roll = roll_for(unit(end - start), z, "level")
        if s.h_end:
            # the body starts where it is cut; the girder's own start lies on the line, its middle that much lower or higher
            share = float((first - start) @ x) / math.dist(start, end)
            first = first - z * (sum(s.slopes) / 2 * share)
        cardinal, offset = _hung(s, start, first, crossed(z, x), z)
        storey = self.facts.storeys.get(product.id())
        member = Member(
            "", _text(product, "Name"), self._role(product, x), match.section, self._grade(product), _tidy(start), _tidy(end), roll, cardinal, offset,
            guid=self._unique(_text(product, "GlobalId"), self._called(product)), level=_text(storey, "GlobalId") if storey is not None else "", up="level",
        )  # fmt: skip
        weight = self.facts.weight(product)
        if weight > 0:
            self.weighed.append((weight, member))
        return member

    def _along(self, product: Any, first: Array, last: Array, x: Array, line: "tuple[Array, Array] | None") -> tuple[Array, Array]:
        """Where a member's line starts and ends: beside its steel as the axis lies, as long as its steel is; of members this program wrote, all of the axis."""
        if line is None:
            return first, last
        a, b = line[0] * self.scale, line[1] * self.scale
        if math.dist(a, b) < 1.0 or not np.isfinite([a, b]).all():
            return first, last
        along = float(unit(b - a) @ x)
        if along < 0:
            a, b, along = b, a, -along
        if self.facts.own(product) and along > 0.9999:
            return a, b
        lean = math.degrees(math.acos(min(1.0, along)))
        if lean > 0.1:
            self._note("axis off the body", f"{self._called(product)} ({_text(product, 'GlobalId')}): its axis leans {lean:.2f}° against its body; the body was followed")
            return first, last
        off = [(p - first) - x * float((p - first) @ x) for p in (a, b)]
        aside = (off[0] + off[1]) / 2 if float(np.linalg.norm(off[0] - off[1])) > 0.05 else off[0]
        gaps = (float((first - a) @ x), float((last - b) @ x))
        if max(map(abs, gaps)) > 0.1 or float(np.linalg.norm(off[0] - off[1])) > 0.1:
            self._note(
                "axis off the body",
                f"{self._called(product)} ({_text(product, 'GlobalId')}): its axis is {math.dist(a, b):.1f} long, its body {math.dist(first, last):.1f}; the body was followed",
            )
        return first + aside, last + aside

    def _grade(self, product: Any) -> str:
        profile = self.facts.of(product).profile

        def words() -> "list[str]":
            return [w for w in (getattr(profile, "ProfileName", None), _text(product, "ObjectType"), _text(product, "Description"), _text(product, "Name")) if w]

        found = self.facts.grade_of(product, words)
        if found is None:
            self.out.grades[(self.facts.told(product), UNKNOWN, "nothing")] += 1
            return UNKNOWN
        grade, name, by = found
        self.out.grades[(name, grade, by)] += 1
        return grade

    def _unique(self, guid: str, called: str) -> str:
        """An identity that no other member has; one that is there twice is said and made another."""
        if not guid:
            return ""
        if guid not in self.guids and (len(guid) == 22 or not called):
            self.guids.add(guid)
            return guid if called else self._unique(global_id(guid), "a part")
        i = 2
        while (made := global_id(guid, str(i))) in self.guids:
            i += 1
        self.guids.add(made)
        self._note("identities", f"{called}: its identity {guid} {'is there twice' if guid in self.guids else 'is none'}; it was given {made}")
        return made

    def _called(self, product: Any) -> str:
        return f"{product.is_a()} {_text(product, 'Name') or _text(product, 'GlobalId')}"

    def _role(self, product: Any, x: Array) -> Role:
        own = str(self.facts.own(product).get("Role", ""))
        if own in ("column", "beam", "rafter", "purlin", "girt", "brace", "joist", "post", "other"):
            return own  # type: ignore[return-value]
        stated = ROLES.get(str(getattr(product, "PredefinedType", None) or "").upper())
        if stated is not None:
            return stated
        words = (_text(product, "ObjectType") + " " + _text(product, "Name")).lower()
        for word, role in (
            ("brac", "brace"),
            ("purlin", "purlin"),
            ("girt", "girt"),
            ("rafter", "rafter"),
            ("joist", "joist"),
            ("post", "post"),
            ("diagonal", "brace"),
        ):
            if word in words:
                return role  # type: ignore[return-value]
        if product.is_a("IfcColumn") or abs(x[2]) > 0.8:
            return "column"
        return "beam" if product.is_a("IfcBeam") or abs(x[2]) < 0.05 else "brace"

    def _analysis(self, taken: "set[tuple[Any, ...]]") -> None:
        """Members of a structural analysis model, but for those that a physical member lies on already."""
        doubles = 0
        for product in self._all("IfcStructuralCurveMember"):

            def read_(p: Any) -> list[Member]:
                world = self.places.of(p.ObjectPlacement)
                up = getattr(p, "Axis", None)
                way = world[:3, :3] @ np.array(numbers(up.DirectionRatios, 3, "an axis")) if up is not None else np.array([0.0, 0.0, 1.0])
                return [m for m in self._from_line(p, world, self._edge(p), way) if _ends(m) not in taken]

            before = len(self.out.members) + len(self.out.left)
            self._guarded(product, read_)
            doubles += len(self.out.members) + len(self.out.left) == before
        if doubles:
            self.out.notes.append(f"{doubles} analysis members lie on members of the same model and were not taken twice")

    def _edge(self, product: Any) -> tuple[Array, Array]:
        world = self.places.of(product.ObjectPlacement)
        for rep in product.Representation.Representations if product.Representation is not None else ():
            for item in rep.Items or ():
                if item.is_a("IfcEdge"):
                    ends = [np.array(numbers(v.VertexGeometry.Coordinates, 3, "a vertex")) for v in (item.EdgeStart, item.EdgeEnd)]
                    return ends[0] @ world[:3, :3].T + world[:3, 3], ends[1] @ world[:3, :3].T + world[:3, 3]
        raise Broken("it has no line")

    # --- profiles --------------------------------------------------------------

    def _match(self, profile: Any, factor: float) -> "tuple[Match | None, Array]":
        """The section a profile is (its sizes ``factor`` larger than the file's unit), and the (4, 4) matrix from the section's axes to the profile's plane."""
        key = (profile.id(), round(factor, 9))
        found = self.matches.get(key)
        label = self.labels.get(key) or self.labels.setdefault(key, profile_label(profile, self.scale * factor))
        if found is None:
            try:
                found = match_profile(profile, self.scale * factor, self.meanings, self.out.notes)
            except Broken as error:
                self._note("profiles", f"profile {label!r}: {error}")
                found = (None, np.eye(4))
            self.matches[key] = found
            if found[0] is not None:
                self.out.profiles.setdefault(label, found[0])
        if found[0] is not None:
            self.out.counts[label] += 1
        return found

    # --- everything else -------------------------------------------------------

    def _as_reference(self, product: Any, why: str) -> None:
        if self._body(product):
            self._note("kept as reference", f"{self._called(product)}: kept as reference, {why}")
        else:
            self._leave(product, why)

    def _body(self, product: Any) -> bool:
        if len(self.out.bodies) >= MOST_BODIES or self.triangles > MOST_ALL_TRIANGLES:
            return False
        mesh = self._mesh(product)
        if mesh is None:
            return False
        self.triangles += len(mesh[1])
        self.out.bodies.append(Body(_text(product, "GlobalId"), _text(product, "Name"), product.is_a(), *mesh))
        return True

    def _mesh(self, product: Any) -> "tuple[Array, np.ndarray] | None":
        """A product's body in the world: points (n, 3) in mm and triangles (m, 3); None if it cannot be made.  Facets are read, other bodies made by the geometry engine."""
        try:
            if not getattr(product, "HasOpenings", None):
                world = self.places.of(product.ObjectPlacement)
                bodies, _ = _representations(product, world)
                found = facets_of(bodies[0], world) if len(bodies) == 1 else None
                if found is not None:
                    points, triangles = found[0] * self.scale, found[1]
                    return (points, triangles) if 3 < len(triangles) <= MOST_TRIANGLES and np.isfinite(points).all() else None
        except (Broken, *ODD):
            pass
        if self.body(product.id()):
            return None
        settings = library().geom.settings()
        settings.set("use-world-coords", True)
        try:
            shape = library().geom.create_shape(settings, product)
            points = np.array(shape.geometry.verts, dtype=float).reshape(-1, 3) * 1000.0 * (self.scale / self.engine_scale)
            triangles = np.array(shape.geometry.faces, dtype=np.int32).reshape(-1, 3)
        except Exception:  # the engine raises whatever its kernel does
            return None
        if not len(triangles) or len(triangles) > MOST_TRIANGLES or not np.isfinite(points).all():
            return None
        return points, triangles

    def _others(self, seen: set[int]) -> None:
        self._step(0.7, "reference bodies")
        small: Counter[str] = Counter()
        found = []
        for product in self._all("IfcElement"):
            if product.id() in seen or product.is_a("IfcElementAssembly") or product.is_a("IfcFeatureElement"):
                continue
            kind = next((k for k in SMALL_PARTS if product.is_a(k)), "")
            if kind or _in_assembly(product):
                small[kind or product.is_a()] += 1
            else:
                found.append(product)
        for i, product in enumerate(found):
            self._step(0.7 + 0.3 * i / len(found), f"reference bodies, {i} of {len(found)}")
            full = len(self.out.bodies) >= MOST_BODIES or self.triangles > MOST_ALL_TRIANGLES
            if full or not self._body(product):
                why = f"more than {MOST_BODIES} bodies, or {MOST_ALL_TRIANGLES} triangles" if full else self.body_why(product)
                self._leave(product, why)
        for kind, count in sorted(small.items()):
            self.out.notes.append(f"{count} {kind} left out: parts of connections are placed anew")
        if self.many.get("cuts of connections"):
            self.out.notes.append(f"{self.many.pop('cuts of connections')} cuts that connections made were left out: connections are placed anew")

    def body_why(self, product: Any) -> str:
        """Why a product's body could not be made."""
        return self.body(product.id()) or f"its shape cannot be made, or has more than {MOST_TRIANGLES} triangles"

    def _weigh(self) -> None:
        """Compare masses with the file's own quantities, member by member and in total."""
        if not self.weighed:
            return
        try:
            told = library().util.unit.get_project_unit(self.f, "MASSUNIT") is not None
            unit_scale = float(library().util.unit.calculate_unit_scale(self.f, "MASSUNIT")) if told else 1000.0
        except Exception:  # any broken unit assignment
            unit_scale = 1000.0
        kg = unit_scale / 1000.0 if unit_scale > 0 else 1.0  # grams are the library's unit of mass
        theirs = ours = 0.0
        for weight, m in self.weighed:
            mine = section(m.section).mass * math.dist(m.start, m.end) / 1000.0
            theirs, ours = theirs + weight * kg, ours + mine
            if abs(mine - weight * kg) > 0.1 * max(mine, weight * kg):
                self._note("quantities", f"{m.name or m.guid} ({m.guid}): the file says {weight * kg:.1f} kg, {m.section} weighs {mine:.1f} kg uncut")
        self.out.masses = (theirs, ours, len(self.weighed))
        self.out.notes.append(f"the file's own quantities give {theirs:.0f} kg for {len(self.weighed)} members, they weigh {ours:.0f} kg uncut ({ours / theirs - 1:+.1%})" if theirs else "the file's own quantities are 0")

    def _bring_near(self) -> None:
        points = np.array([p for m in self.out.members for p in (m.start, m.end)])
        if not len(points):
            if not self.out.left:
                self.out.notes.append("the file holds no beams, columns or members")
            return
        middle = np.median(points, axis=0)
        shift = np.where(np.abs(middle) > FAR, np.round(points.min(axis=0) / 1000.0) * 1000.0, 0.0)
        if shift.any():
            self.out.notes.append(f"the model lies far from the origin; it was moved by {', '.join(f'{-v:.0f}' for v in shift)} mm")
            self.out.site = msgspec.structs.replace(self.out.site, shift=tuple(float(v) / 1000.0 for v in shift))
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        if not 500.0 < size < 2_000_000.0:
            self.out.notes.append(f"the frame measures {size / 1000:.3f} m across; if that is wrong, import it with a unit")
        kept: list[Member] = []
        for m in self.out.members:
            try:
                kept.append(check_member(_shifted(m, shift) if shift.any() else m))
            except BadValue as error:
                self.out.left.append({"guid": m.guid, "kind": "member", "name": m.name, "why": str(error)})
        self.out.members = kept
        self.out.bodies = [Body(b.guid, b.name, b.kind, b.points - shift, b.triangles) for b in self.out.bodies]
        self.out.levels = [(n, z - float(shift[2]), b, g) for n, z, b, g in self.out.levels]
        self.out.grids = [msgspec.structs.replace(g, origin=_tidy(np.array(g.origin) - shift)) for g in self.out.grids]


def _own_ends(before: Member, member: Member, ours: "dict[str, Any]") -> Member:
    """What this program wrote of a member's own ends: its line is the system line whatever its connections cut, square ends of its own are planes again."""
    if member is not before:
        member = msgspec.structs.replace(member, start=before.start, end=before.end)
    if "Own start" not in ours and "Own end" not in ours:
        return member
    x = unit(np.subtract(member.end, member.start))
    origin = np.array(axis_frame(member).origin)
    cuts = list(member.cuts)
    for name, way in (("Own start", x), ("Own end", -x)):
        at = ours.get(name)
        if isinstance(at, float) and math.isfinite(at):
            cuts.append(Plane(_tidy(origin + x * at), (float(way[0]), float(way[1]), float(way[2]))))
    return msgspec.structs.replace(member, cuts=tuple(cuts))


def _shifted(m: Member, shift: Array) -> Member:
    cuts = tuple(msgspec.structs.replace(c, point=_tidy(np.array(c.point) - shift)) for c in m.cuts)
    outs = tuple(msgspec.structs.replace(c, point=_tidy(np.array(c.point) - shift)) for c in m.outs)
    return msgspec.structs.replace(m, start=_tidy(np.array(m.start) - shift), end=_tidy(np.array(m.end) - shift), cuts=cuts, outs=outs)


def _representations(product: Any, world: Array) -> "tuple[list[Any], tuple[Array, Array] | None]":
    """A product's bodies (those called Body, else whatever is a solid or surface) and the ends of its axis in the world."""
    shape = product.Representation
    reps = [] if shape is None else list(shape.Representations or ())
    axis = next((r for r in reps if r.RepresentationIdentifier == "Axis"), None)
    bodies = [r for r in reps if r.RepresentationIdentifier == "Body"]
    if not bodies:
        bodies = [r for r in reps if r.RepresentationIdentifier not in ("Axis", "FootPrint", "Box", "Clearance", "Annotation", "CoG", "Reference") and (r.RepresentationType in BODY_KINDS or any(i.is_a("IfcSolidModel") or i.is_a("IfcMappedItem") for i in r.Items or ()))]
    bodies = [r for r in bodies if r.Items]
    line = None
    if axis is not None:
        try:
            line = line_of(axis, world)
        except Broken:
            line = None
    return bodies, line


def _joined(found: "list[Member]") -> "list[Member]":
    """Pieces of one section that follow each other in one line as one member."""
    out: list[Member] = []
    for m in found:
        for i, o in enumerate(out):
            if o.section != m.section or o.cuts or m.cuts or abs(o.roll - m.roll) > 1e-6 or (o.cardinal, o.offset) != (m.cardinal, m.offset):
                continue
            x = unit(np.subtract(o.end, o.start))
            if float(unit(np.subtract(m.end, m.start)) @ x) < 1 - 1e-9:
                continue
            if math.dist(o.end, m.start) < 0.5:
                out[i] = msgspec.structs.replace(o, end=m.end, outs=o.outs + m.outs)
                break
            if math.dist(m.end, o.start) < 0.5:
                out[i] = msgspec.structs.replace(o, start=m.start, outs=o.outs + m.outs)
                break
        else:
            out.append(m)
    return out


def _tidy(p: Array) -> Vec3:
    """A point rounded to a thousandth of a millimetre, so that 5999.9999998 is 6000."""
    return (round(float(p[0]), 3) + 0.0, round(float(p[1]), 3) + 0.0, round(float(p[2]), 3) + 0.0)


def _ends(m: Member) -> "tuple[Any, ...]":
    return tuple(sorted(tuple(round(v / 10) for v in p) for p in (m.start, m.end)))


def _text(entity: Any, name: str) -> str:
    try:
        return str(getattr(entity, name, "") or "")
    except RuntimeError:
        return ""


def _in_assembly(product: Any) -> bool:
    try:
        return any(rel.RelatingObject.is_a("IfcElementAssembly") for rel in product.Decomposes or ())
    except (RuntimeError, AttributeError):
        return False


def _hung(s: Section, start: Array, centre: Array, y: Array, z: Array) -> tuple[Cardinal, tuple[float, float]]:
    """The cardinal point, and the offset left over, by which a section's middle lies beside its line."""
    gap = centre - start
    across, deep = float(gap @ y), float(gap @ z)
    if abs(across) < 0.005 and abs(deep) < 0.005:
        return "centre", (0.0, 0.0)
    for name in CARDINALS:
        at = cardinal_point(s, name)
        if abs(across + at[0]) < 0.005 and abs(deep + at[1]) < 0.005:
            return name, (0.0, 0.0)
    return "centre", (round(across, 3) + 0.0, round(deep, 3) + 0.0)
