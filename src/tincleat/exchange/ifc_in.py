"""A frame read from IFC 2x3, 4 or 4x3: members by their lines, profiles and cuts, everything else as reference, and a report of all of it.

Placements, profiles and facets are read as numbers; the geometry engine is asked for other bodies, and to compare a member with where its
body is more than a swept profile.  Files are hostile: whatever cannot be read is named in the report, and the rest comes in.
"""

from collections import Counter
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.recognise import Match
from tincleat.catalogue.sections import OwnName, plain, row_section
from tincleat.errors import Progress
from tincleat.exchange.ifc_facts import ODD, Facts, site_of
from tincleat.exchange.ifc_file import check_plain, opened
from tincleat.exchange.ifc_grids import grid_of
from tincleat.exchange.ifc_members import Members, ends_of
from tincleat.exchange.ifc_shapes import Broken, numbers
from tincleat.exchange.ifc_source import Body, Imported, text_of
from tincleat.exchange.worker import Line, read
from tincleat.project.entities import Grid, Member, Site

MEMBER_KINDS = ("IfcBeam", "IfcColumn", "IfcMember")


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


class _Reader(Members):
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
            ends |= {ends_of(m) for m in self._guarded(product, self._member)}
        self._analysis(ends)
        self._others({p.id() for p in physical})
        self._weigh()
        self._bring_near()
        for kind, count in self.many.items():
            if count > 300:
                self.out.notes.append(f"and {count - 300} more like these: {kind}")
        return self.out

    # --- the whole -------------------------------------------------------------

    def _grids(self) -> None:
        for product in self._all("IfcGrid"):
            try:
                self.out.grids.append(grid_of(product, self.places.of(product.ObjectPlacement), self.scale))
            except (Broken, *ODD) as error:
                self.out.notes.append(f"grid {text_of(product, 'Name') or text_of(product, 'GlobalId')} left out: {error}")

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
                    building = next((text_of(b, "Name") or text_of(b, "GlobalId") for b in over if b.is_a("IfcBuilding")), "")
                name = text_of(storey, "Name") or f"level {len(self.out.levels) + 1}"
                self.out.levels.append((name, round(float(high) * self.scale, 3), building, text_of(storey, "GlobalId")))
            except (Broken, *ODD) as error:
                self.out.notes.append(f"a storey is unreadable: {error}")

    # --- members ---------------------------------------------------------------

    # --- profiles --------------------------------------------------------------

    # --- everything else -------------------------------------------------------


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
