"""A frame read from IFC 2x3, 4 or 4x3: members by their lines and profiles, everything else as reference, and a report of all of it.

Placements and profiles are read as numbers; the geometry engine is asked only for reference bodies.  Files are hostile:
whatever cannot be read is named in the report, and the rest comes in.
"""

import math
import re
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from functools import cache
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import grade_names
from tincleat.catalogue.recognise import Match
from tincleat.catalogue.sections import Section, plain, section
from tincleat.errors import BadFile, BadValue, Cancelled
from tincleat.exchange.ifc_bodies import bar_of
from tincleat.exchange.ifc_grids import grid_of
from tincleat.exchange.ifc_profiles import match_profile, section_axes
from tincleat.exchange.ifc_shapes import Broken, Extrusion, Placements, extrusion_of, line_of, numbers
from tincleat.geometry.frames import Array, Vec3, crossed, unit
from tincleat.project.entities import Cardinal, Grid, Member, Role
from tincleat.project.members import cardinal_point, check_member
from tincleat.project.motion import roll_for

Progress = Callable[[float, str], bool]
MOST_FILE = 2_000_000_000
MOST_BODIES, MOST_TRIANGLES = 2000, 40_000
FAR = 1_000_000.0  # mm from the origin beyond which a whole model is brought near it
MEMBER_KINDS = ("IfcBeam", "IfcColumn", "IfcMember")
SMALL_PARTS = ("IfcMechanicalFastener", "IfcFastener", "IfcOpeningElement", "IfcVirtualElement", "IfcDiscreteAccessory")
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


@cache
def _library() -> Any:
    """The IFC library, loaded when a file is first read: it takes half a second that every start of the program would pay."""
    import ifcopenshell
    import ifcopenshell.geom
    import ifcopenshell.util.unit

    return ifcopenshell


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
    """What came of a file: members and bodies (ids still empty), what each profile was taken for, and what did not come in and why."""

    members: list[Member] = field(default_factory=list)
    bodies: list[Body] = field(default_factory=list)
    profiles: dict[str, Match] = field(default_factory=dict)
    left: list[dict[str, str]] = field(default_factory=list)
    notes: list[str] = field(default_factory=list)
    levels: list[tuple[str, float]] = field(default_factory=list)
    grids: list[Grid] = field(default_factory=list)
    counts: Counter[str] = field(default_factory=Counter)
    schema: str = ""

    def report(self) -> dict[str, Any]:
        """The report as ``import --json`` prints it."""
        used = Counter(self.counts)
        return {
            "schema": self.schema, "taken": len(self.members), "as_reference": len(self.bodies), "left_out": len(self.left), "notes": self.notes,
            "grids": [g.name for g in self.grids],
            "roles": dict(sorted(Counter(m.role for m in self.members).items())),
            "profiles": [{"name": n, "section": m.section, "by": m.by, "confidence": round(m.confidence, 3), "members": used[n]} for n, m in sorted(self.profiles.items())],
            "references": dict(sorted(Counter(b.kind for b in self.bodies).items())), "left": self.left,
        }  # fmt: skip


def read_ifc(path: "str | Path", meanings: "Mapping[str, str] | None" = None, unit_name: str = "", progress: "Progress | None" = None) -> Imported:
    """Read a frame; ``meanings`` maps profile names to sections, ``unit_name`` overrides the file's length unit.

    Raises BadFile for what is no IFC at all, BadValue for an unknown unit, Cancelled when ``progress`` returns False.
    """
    model, mended = _opened(Path(path))
    reader = _Reader(model, meanings or {}, unit_name, progress)
    reader.out.notes += [mended] if mended else []
    return reader.read()


def _opened(path: Path) -> tuple[Any, str]:
    right = "an IFC 2x3, 4 or 4x3 file (.ifc)"
    if path.is_dir():
        raise BadFile("this is a folder, not a file", str(path), right)
    try:
        size = path.stat().st_size
        with path.open("rb") as file:
            head = file.read(4096)
    except FileNotFoundError:
        raise BadFile("there is no such file", str(path), right) from None
    except OSError as error:
        raise BadFile(f"cannot be read: {error.strerror}", str(path), right) from error
    if not head.strip():
        raise BadFile("the file is empty", str(path), right)
    if size > MOST_FILE:
        raise BadFile(f"the file has {size / 1e9:.1f} GB", str(path), "at most 2 GB")
    if b"ISO-10303-21" not in head:
        raise BadFile("this is not an IFC file: its first line is not ISO-10303-21", str(path), right)
    model, mended = None, ""
    try:
        model = _library().open(str(path))
        model.schema  # noqa: B018 - a file of an unknown schema fails only when asked
    except Exception as error:  # the parser raises its own errors, of many kinds
        text, mended = _mended(path)
        try:
            model = _library().file.from_string(text)
            model.schema  # noqa: B018
        except Exception:
            raise BadFile(f"the IFC cannot be read: {str(error)[:200]}", str(path), right) from error
    if not isinstance(model, _library().file) or not model.schema.startswith(("IFC2X3", "IFC4")):
        raise BadFile("its schema is not read", str(path), right)
    with path.open("rb") as file:
        file.seek(max(0, size - 400))
        if b"END-ISO-10303-21" not in file.read():
            mended = (mended + "; " if mended else "") + "the file ends in the middle: it is damaged, and what comes after is lost"
    return model, mended


_LINE = re.compile(r"#\d+\s*=\s*IFC\w+\s*\(.*\)\s*$", re.DOTALL)
_NO_NUMBER = re.compile(r"(?<=[(,])\s*[-+]?(?:nan|inf(?:inity)?|[\d.]+E[-+]?\d{3,}|[\d.]*\d\.\d*\.\d*)\s*(?=[,)])", re.IGNORECASE)


def _mended(path: Path) -> tuple[str, str]:
    """The whole statements of a file that does not parse, those with values that are no numbers left out, and what was done, for the report."""
    head, _, data = path.read_text(encoding="latin-1").partition("DATA;")
    head = re.sub(r"IFC4X3\w*", "IFC4X3_ADD2", head)  # by its short name too
    rows = [row.strip() for row in data.replace("ENDSEC;", "").replace("END-ISO-10303-21;", "").split(";\n")]
    good = [row for row in rows if _LINE.match(row) and not _NO_NUMBER.search(row)]
    text = f"{head}DATA;\n" + ";\n".join(good) + ";\nENDSEC;\nEND-ISO-10303-21;\n"
    lost = len([r for r in rows if r]) - len(good)
    return text, f"the file is damaged: {lost} of its lines could not be read and were passed over" if lost else ""


class _Reader:
    def __init__(self, model: Any, meanings: Mapping[str, str], unit_name: str, progress: "Progress | None") -> None:
        self.f, self.progress = model, progress
        self.out = Imported(schema=model.schema)
        self.meanings = {plain(k): v for k, v in meanings.items()}
        self.scale = self._scale(unit_name)
        self.places = Placements()
        self.matches: dict[int, tuple[Match | None, Array]] = {}
        self.grades: dict[int, str] = {}
        self.material_profiles: dict[int, Any] = {}
        self.predefined: dict[int, str] = {}

    def _scale(self, unit_name: str) -> float:
        named = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": 25.4, "ft": 304.8}
        if unit_name:
            if unit_name not in named:
                raise BadValue(f"there is no unit {unit_name!r}", "import", "one of " + ", ".join(named))
            return named[unit_name]
        try:
            found = float(_library().util.unit.calculate_unit_scale(self.f)) * 1000.0
        except Exception:  # any broken unit assignment
            found = 0.0
        if not (math.isfinite(found) and 1e-6 < found < 1e7):
            self.out.notes.append("the file's length unit is unreadable; metres are assumed (import with a unit if that is wrong)")
            return 1000.0
        return found

    def _step(self, share: float, words: str) -> None:
        if self.progress is not None and not self.progress(share, words):
            raise Cancelled("the import was stopped; nothing was taken in")

    def read(self) -> Imported:
        self._step(0.02, "materials")
        self._associations()
        self._levels()
        self._grids()
        physical = [p for kind in MEMBER_KINDS for p in self._all(kind)]
        lines = []
        for i, product in enumerate(physical):
            if i % 200 == 0:
                self._step(0.05 + 0.6 * i / max(1, len(physical)), f"members, {i} of {len(physical)}")
            lines.append(self._guarded(product, self._member))
        self._analysis({_ends(m) for m in lines if m is not None})
        self._others({p.id() for p in physical})
        self._bring_near()
        return self.out

    def _all(self, kind: str) -> list[Any]:
        try:
            return list(self.f.by_type(kind))
        except RuntimeError:
            return []

    def _leave(self, product: Any, why: str) -> None:
        self.out.left.append({"guid": _text(product, "GlobalId"), "kind": product.is_a(), "name": _text(product, "Name"), "why": why})

    def _guarded(self, product: Any, read: Callable[[Any], "Member | None"]) -> "Member | None":
        try:
            member = read(product)
            if member is not None:
                self.out.members.append(member)
            return member
        except (Broken, BadValue) as error:
            self._leave(product, str(error))
        except (RuntimeError, AttributeError, TypeError, ValueError, IndexError, np.linalg.LinAlgError) as error:
            self._leave(product, f"it is damaged: {type(error).__name__}: {str(error)[:120]}")
        return None

    # --- associations ----------------------------------------------------------

    def _associations(self) -> None:
        known = {plain(g): g for g in grade_names("grades")}
        for rel in self._all("IfcRelAssociatesMaterial"):
            try:
                name, profile = _material(rel.RelatingMaterial)
                for product in rel.RelatedObjects or ():
                    for key, grade in known.items():
                        if name and key in plain(name):
                            self.grades[product.id()] = grade
                            break
                    if profile is not None:
                        self.material_profiles[product.id()] = profile
            except (RuntimeError, AttributeError, TypeError) as error:
                self.out.notes.append(f"a material association is unreadable: {str(error)[:80]}")
        for rel in self._all("IfcRelAssociatesProfileProperties"):  # IFC 2x3 analysis models
            try:
                profile = rel.RelatingProfileProperties.ProfileDefinition
                for product in rel.RelatedObjects or ():
                    self.material_profiles[product.id()] = profile
            except (RuntimeError, AttributeError):
                continue
        for rel in self._all("IfcRelDefinesByProperties"):
            try:
                pset = rel.RelatingPropertyDefinition
                if pset.is_a("IfcPropertySet") and pset.Name == "TinCleat_Member":
                    role = next((p.NominalValue.wrappedValue for p in pset.HasProperties if p.Name == "Role"), "")
                    for product in rel.RelatedObjects or ():
                        self.predefined[product.id()] = role
            except (RuntimeError, AttributeError):
                continue

    def _grids(self) -> None:
        for product in self._all("IfcGrid"):
            try:
                self.out.grids.append(grid_of(product, self.places.of(product.ObjectPlacement), self.scale))
            except (Broken, RuntimeError, AttributeError, TypeError) as error:
                self.out.notes.append(f"grid {_text(product, 'Name') or _text(product, 'GlobalId')} left out: {error}")

    def _levels(self) -> None:
        for storey in self._all("IfcBuildingStorey"):
            try:
                high = (
                    self.places.of(storey.ObjectPlacement)[2, 3]
                    if storey.ObjectPlacement is not None
                    else numbers((storey.Elevation or 0.0,), 1, "an elevation")[0]
                )
                self.out.levels.append((_text(storey, "Name") or f"level {len(self.out.levels) + 1}", round(float(high) * self.scale, 3)))
            except (Broken, RuntimeError, AttributeError, TypeError) as error:
                self.out.notes.append(f"a storey is unreadable: {error}")

    # --- members ---------------------------------------------------------------

    def _member(self, product: Any) -> Member | None:
        world = self.places.of(product.ObjectPlacement)
        shape = product.Representation
        reps = {} if shape is None else {r.RepresentationIdentifier or "Body": r for r in shape.Representations or ()}
        body = next((e for r in sorted(reps.values(), key=lambda r: r.RepresentationIdentifier != "Body") if (e := extrusion_of(r, world)) is not None), None)
        line = line_of(reps["Axis"], world) if "Axis" in reps else None
        profile = body.profile if body is not None else self.material_profiles.get(product.id())
        if profile is None:
            if not reps:
                raise Broken("it has neither a shape nor a profile")
            found = self._from_body(product, line)
            if found is not None:
                return found
            self._as_reference(product, "its shape is no extruded profile")
            return None
        if body is None and line is None:
            self._as_reference(product, "it has a profile but no line")
            return None
        match, plane = self._match(profile)
        if match is None:
            label = profile.ProfileName or profile.is_a()
            self._as_reference(product, f"its profile {label!r} is like no section of the catalogue")
            return None
        if body is not None and body.tapered and not section(match.section).h_end:
            name = _text(product, "Name") or _text(product, "GlobalId")
            self.out.notes.append(
                f"{product.is_a()} {name}: it is tapered and came in as {match.section} all along; name it as a tapered girder to change that"
            )
        return self._steel(product, match, plane, body, line)

    def _from_body(self, product: Any, line: "tuple[Array, Array] | None") -> Member | None:
        """A member whose shape is a bare body, if that is a bar of a section; its ends are taken square."""
        mesh = self._mesh(product)
        bar = bar_of(*mesh) if mesh is not None else None
        if bar is None:
            return None
        matrix = bar.matrix.copy()
        matrix[:3, 3] /= self.scale
        name = _text(product, "Name") or _text(product, "GlobalId")
        self.out.notes.append(
            f"{product.is_a()} {name}: its body is like {bar.match.section} ({bar.match.confidence:.0%}); it came in as that, its ends square"
        )
        return self._steel(product, bar.match, section_axes(bar.match), Extrusion(None, matrix, bar.way / self.scale), line)

    def _steel(self, product: Any, match: Match, plane: Array, body: "Extrusion | None", line: "tuple[Array, Array] | None") -> Member:
        s = section(match.section)
        if body is not None:
            matrix = body.matrix @ plane
            first = matrix[:3, 3] * self.scale
            last = (matrix[:3, 3] + body.way) * self.scale
            if not np.isfinite(last).all() or math.dist(last, first) < 1.0:
                raise Broken("it has no length")
            x, z = unit(last - first), matrix[:3, 1]
            z = unit(z - x * float(z @ x))
            turned = float(crossed(z, x) @ matrix[:3, 0]) < 0  # the other hand: a mirrored profile, or one swept against its normal
        else:
            assert line is not None
            first, last = line[0] * self.scale, line[1] * self.scale
            if not np.isfinite([first, last]).all() or math.dist(last, first) < 1.0:
                raise Broken("it has no length")
            x, turned = unit(last - first), False
            z = np.array([0.0, 0.0, 1.0]) if abs(x[2]) < 0.999 else np.array([1.0, 0.0, 0.0])
            z = unit(z - x * float(z @ x))
        if turned and s.shape in ("C", "CF"):
            z = -z
        elif turned and not s.symmetric and s.shape != "T":
            first, last, x = last, first, -x
        start, end = first, last
        if line is not None and body is not None:
            a, b = line[0] * self.scale, line[1] * self.scale
            if math.dist(a, b) > 1.0 and abs(float(unit(b - a) @ x)) > 0.9999:
                start, end = (a, b) if float((b - a) @ x) > 0 else (b, a)
        roll = roll_for(unit(end - start), z)
        if s.h_end:
            # the body starts where it is cut; the girder's own start lies on the line, its middle that much lower or higher
            share = float((first - start) @ x) / math.dist(start, end)
            first = first - z * (sum(s.slopes) / 2 * share)
        cardinal, offset = _hung(s, start, first, crossed(z, x), z)
        name = _text(product, "Name")
        return Member(
            "", name, self._role(product, x), s.name, self.grades.get(product.id(), "A992" if s.standard.startswith("ASTM") else "S355"),
            _tidy(start), _tidy(end), roll, cardinal, offset, (), _text(product, "GlobalId"),
        )  # fmt: skip

    def _role(self, product: Any, x: Array) -> Role:
        own = self.predefined.get(product.id(), "")
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

            def read(p: Any) -> Member | None:
                line = self._edge(p)
                profile = self.material_profiles.get(p.id())
                if profile is None:
                    raise Broken("it has no profile")
                match, plane = self._match(profile)
                if match is None:
                    raise Broken(f"its profile {profile.ProfileName or profile.is_a()!r} is like no section of the catalogue")
                m = self._steel(p, match, plane, None, line)
                return None if _ends(m) in taken else m

            before = len(self.out.members) + len(self.out.left)
            self._guarded(product, read)
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

    def _match(self, profile: Any) -> "tuple[Match | None, Array]":
        """The section a profile is, and the (4, 4) matrix from the section's axes (y, z, along) to the profile's plane (x, y, normal)."""
        found = self.matches.get(profile.id())
        if found is None:
            found = self.matches[profile.id()] = match_profile(profile, self.scale, self.meanings, self.out.notes)
            if found[0] is not None:
                self.out.profiles.setdefault(profile.ProfileName or profile.is_a(), found[0])
        if found[0] is not None:
            self.out.counts[profile.ProfileName or profile.is_a()] += 1
        return found

    # --- everything else -------------------------------------------------------

    def _as_reference(self, product: Any, why: str) -> None:
        if self._body(product):
            self.out.notes.append(f"{product.is_a()} {_text(product, 'Name') or _text(product, 'GlobalId')}: kept as reference, {why}")
        else:
            self._leave(product, why)

    def _body(self, product: Any) -> bool:
        mesh = self._mesh(product) if len(self.out.bodies) < MOST_BODIES else None
        if mesh is None:
            return False
        self.out.bodies.append(Body(_text(product, "GlobalId"), _text(product, "Name"), product.is_a(), *mesh))
        return True

    def _mesh(self, product: Any) -> "tuple[Array, np.ndarray] | None":
        """A product's body by the geometry engine, in the world: points (n, 3) in mm and triangles (m, 3); None if it cannot be made."""
        settings = _library().geom.settings()
        settings.set("use-world-coords", True)
        try:
            shape = _library().geom.create_shape(settings, product)
            points = np.array(shape.geometry.verts, dtype=float).reshape(-1, 3) * 1000.0
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
            if product.id() in seen or product.is_a("IfcElementAssembly"):
                continue
            kind = next((k for k in SMALL_PARTS if product.is_a(k)), "")
            if kind or _in_assembly(product):
                small[kind or product.is_a()] += 1
            else:
                found.append(product)
        for i, product in enumerate(found):
            if i % 20 == 0:
                self._step(0.7 + 0.3 * i / len(found), f"reference bodies, {i} of {len(found)}")
            if not self._body(product):
                self._leave(product, "its shape cannot be made" if len(self.out.bodies) < MOST_BODIES else f"more than {MOST_BODIES} bodies")
        for kind, count in sorted(small.items()):
            self.out.notes.append(f"{count} {kind} left out: parts of connections are placed anew, openings are cuts")

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
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        if not 500.0 < size < 2_000_000.0:
            self.out.notes.append(f"the frame measures {size / 1000:.3f} m across; if that is wrong, import it with a unit")
        kept: list[Member] = []
        for m in self.out.members:
            ends = [np.array(m.start) - shift, np.array(m.end) - shift]
            near = Member(m.id, m.name, m.role, m.section, m.grade, _tidy(ends[0]), _tidy(ends[1]), m.roll, m.cardinal, m.offset, m.cuts, m.guid)
            try:
                kept.append(check_member(near))
            except BadValue as error:
                self.out.left.append({"guid": m.guid, "kind": "member", "name": m.name, "why": str(error)})
        self.out.members = kept
        self.out.bodies = [Body(b.guid, b.name, b.kind, b.points - shift, b.triangles) for b in self.out.bodies]
        self.out.levels = [(n, z - float(shift[2])) for n, z in self.out.levels]
        self.out.grids = [msgspec.structs.replace(g, origin=_tidy(np.array(g.origin) - shift)) for g in self.out.grids]


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


def _material(material: Any) -> tuple[str, Any]:
    """A material's name and the profile it carries, if any."""
    if material is None:
        return "", None
    if material.is_a("IfcMaterialProfileSetUsage"):
        material = material.ForProfileSet
    if material.is_a("IfcMaterialProfileSet"):
        one = material.MaterialProfiles[0] if material.MaterialProfiles else None
        return (one.Material.Name if one is not None and one.Material is not None else ""), (one.Profile if one is not None else None)
    if material.is_a("IfcMaterialList"):
        return ", ".join(m.Name or "" for m in material.Materials), None
    return getattr(material, "Name", "") or "", None


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
