"""A file of a model as it is read: its unit, what is told of it, and what is found out about each of its products."""

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from tincleat.catalogue.grades import UNKNOWN
from tincleat.catalogue.recognise import Match
from tincleat.catalogue.sections import plain
from tincleat.errors import BadValue, Progress, go_on
from tincleat.exchange.ifc_facts import Facts
from tincleat.exchange.ifc_file import library
from tincleat.exchange.ifc_shapes import Broken, Placements
from tincleat.exchange.spf import global_id
from tincleat.exchange.worker import STOPPED
from tincleat.geometry.frames import Array
from tincleat.project.entities import Grid, Member, Role, Site

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


class Source:
    """A file that is read, with what came of it so far in ``out``."""

    facts: Facts  # materials, properties and quantities; read first

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

    def _all(self, kind: str) -> list[Any]:
        try:
            return list(self.f.by_type(kind))
        except RuntimeError:
            return []

    def _leave(self, product: Any, why: str) -> None:
        self.out.left.append({"guid": text_of(product, "GlobalId"), "kind": product.is_a(), "name": text_of(product, "Name"), "why": why})

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
        return f"{product.is_a()} {text_of(product, 'Name') or text_of(product, 'GlobalId')}"

    def _grade(self, product: Any) -> str:
        profile = self.facts.of(product).profile

        def words() -> "list[str]":
            return [w for w in (getattr(profile, "ProfileName", None), text_of(product, "ObjectType"), text_of(product, "Description"), text_of(product, "Name")) if w]

        found = self.facts.grade_of(product, words)
        if found is None:
            self.out.grades[(self.facts.told(product), UNKNOWN, "nothing")] += 1
            return UNKNOWN
        grade, name, by = found
        self.out.grades[(name, grade, by)] += 1
        return grade

    def _role(self, product: Any, x: Array) -> Role:
        own = str(self.facts.own(product).get("Role", ""))
        if own in ("column", "beam", "rafter", "purlin", "girt", "brace", "joist", "post", "other"):
            return own  # type: ignore[return-value]
        stated = ROLES.get(str(getattr(product, "PredefinedType", None) or "").upper())
        if stated is not None:
            return stated
        words = (text_of(product, "ObjectType") + " " + text_of(product, "Name")).lower()
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


def text_of(entity: Any, name: str) -> str:
    """A text of an entity, empty where it has none."""
    try:
        return str(getattr(entity, name, "") or "")
    except RuntimeError:
        return ""
