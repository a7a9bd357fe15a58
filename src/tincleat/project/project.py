"""A project in memory: tables of entities by id, changed only by applying changes."""

from collections.abc import Iterable, Mapping, Sequence
from typing import Any, TypeVar

import msgspec
import numpy as np

from tincleat.catalogue.sections import OwnName, Section, is_listed, plain, row_section, section
from tincleat.errors import NotFound, Refused
from tincleat.project.entities import (
    TABLES,
    Concession,
    Connection,
    Delta,
    Entity,
    Grid,
    HouseRules,
    JoinRule,
    Level,
    Meaning,
    Member,
    OwnSection,
    Query,
    Reference,
    Run,
    Schedule,
    Snapshot,
    Typical,
    end_of,
)
from tincleat.project.members import axis_frame

T = TypeVar("T", bound=Entity)
SECTION_FIELDS = ("section", "column", "rafter")


class Project:
    """The entities of one project.  Read the tables freely; write through :meth:`apply` only."""

    def __init__(self) -> None:
        self.tables: dict[str, dict[str, Any]] = {name: {} for name in TABLES}
        self.tables["house"]["house"] = HouseRules()
        self.last_number = 0
        self.identity = ""  # of the project, whatever it is called and wherever it lies; identities of what is exported hang on it
        self.own: dict[str, OwnName] = {}  # sections of the office's own, by plain name

    def beside(self) -> "Project":
        """The same project once more, to try something on; its entities are this one's own, its tables are not."""
        out = Project()
        out.tables = {name: dict(table) for name, table in self.tables.items()}
        out.last_number, out.identity, out.own = self.last_number, self.identity, self.own
        return out

    @property
    def house(self) -> HouseRules:
        """The project's house rules."""
        return self.tables["house"]["house"]  # type: ignore[no-any-return]

    @property
    def members(self) -> dict[str, Member]:
        """All members by id."""
        return self.tables["member"]

    @property
    def connections(self) -> dict[str, Connection]:
        """All connections by id."""
        return self.tables["connection"]

    @property
    def grids(self) -> dict[str, Grid]:
        """All grids by id."""
        return self.tables["grid"]

    @property
    def levels(self) -> dict[str, Level]:
        """All levels by id."""
        return self.tables["level"]

    @property
    def runs(self) -> dict[str, Run]:
        """All runs by id."""
        return self.tables["run"]

    @property
    def queries(self) -> dict[str, Query]:
        """All saved queries by id."""
        return self.tables["query"]

    @property
    def references(self) -> dict[str, Reference]:
        """All reference bodies by id."""
        return self.tables["reference"]

    @property
    def meanings(self) -> dict[str, Meaning]:
        """What outside profile names mean, by id."""
        return self.tables["meaning"]

    @property
    def snapshots(self) -> dict[str, Snapshot]:
        """All snapshots by id."""
        return self.tables["snapshot"]

    @property
    def schedules(self) -> dict[str, Schedule]:
        """All schedules by id."""
        return self.tables["schedule"]

    @property
    def typicals(self) -> dict[str, Typical]:
        """All typicals by id."""
        return self.tables["typical"]

    @property
    def joining(self) -> tuple[JoinRule, ...] | None:
        """The joining rules of this project; None where it has none of its own."""
        found = self.tables["joining"].get("joining")
        return found.rules if found is not None else None

    @property
    def concessions(self) -> dict[str, Concession]:
        """All concessions by id."""
        return self.tables["concession"]

    def new_id(self, prefix: str) -> str:
        """A fresh id such as ``m17``; numbers are never used twice in a project."""
        self.last_number += 1
        return f"{prefix}{self.last_number}"

    def find(self, table: str, key: str) -> Entity:
        """The entity with an id, or for members, levels and grids the one with that name; raises NotFound."""
        found = self.tables[table].get(key)
        if found is None:
            named = [e for e in self.tables[table].values() if getattr(e, "name", None) == key]
            if len(named) > 1:
                raise Refused(f"{len(named)} {table}s are called {key!r}", right="use the id: " + ", ".join(e.id for e in named[:5]))
            if not named:
                raise NotFound(f"there is no {table} {key!r}", right="an id or a name of the project")
            found = named[0]
        return found  # type: ignore[no-any-return]

    def apply(self, changes: Iterable[Delta]) -> None:
        """Put every change into the tables, in order."""
        renewed: set[str] = set()
        for change in changes:
            table = self.tables[change.table]
            for row in (change.old, change.new):
                if isinstance(row, OwnSection):
                    renewed.add(plain(row.row.get("designation", "")))
            if change.new is None:
                table.pop(change.id, None)
            else:
                table[change.id] = self.resolved(change.new)
        if renewed:
            self._renew(renewed)

    def section(self, name: str) -> Section:
        """The section called ``name`` in this project, its own ones included; raises NotFound with near names."""
        return section(self.own.get(plain(name), name))

    def named(self, name: str) -> str:
        """A section's proper name as members of this project carry it; raises NotFound with near names."""
        return self.own.get(plain(name)) or section(name).name

    def resolved(self, entity: Any) -> Any:
        """An entity whose names of own sections carry their shapes."""
        if not self.own and not any(isinstance(getattr(entity, f, None), OwnName) for f in SECTION_FIELDS):
            return entity
        found = {f: own for f in SECTION_FIELDS if (own := self._own_name(getattr(entity, f, None))) is not None}
        return msgspec.structs.replace(entity, **found) if found else entity

    def _own_name(self, name: Any) -> str | None:
        """The name to put in place of one, if any: with the shape it has here, or without one if it has none any more."""
        if not isinstance(name, str):
            return None
        own = self.own.get(plain(name))
        if own is None:
            return str(name) if isinstance(name, OwnName) else None
        return None if isinstance(name, OwnName) and name == own else own

    def _renew(self, names: set[str]) -> None:
        """Bring everything that bears one of these names in step with the rows of own sections."""
        rows = {plain(s.row.get("designation", "")): s.row for s in self.tables["section"].values()}
        for key in names:
            self.own.pop(key, None)
            if key in rows and not is_listed(key):
                self.own[key] = OwnName.of(row_section(rows[key]))
        for name in ("member", "run", "meaning"):
            table = self.tables[name]
            for key, entity in table.items():
                if any(plain(v) in names for f in SECTION_FIELDS if isinstance(v := getattr(entity, f, None), str)):
                    table[key] = self.resolved(entity)

    def put(self, *entities: Entity) -> list[Delta]:
        """Changes that add or replace entities (nothing is applied yet)."""
        out = []
        for entity in entities:
            table = table_of(entity)
            old = self.tables[table].get(entity.id)
            if old != entity:
                out.append(Delta(table, entity.id, old, entity))
        return out

    def drop(self, table: str, ids: Iterable[str]) -> list[Delta]:
        """Changes that remove entities, with the connections and concessions that hang on them."""
        out: list[Delta] = []
        gone = dict.fromkeys(ids)
        for key in gone:
            out.append(Delta(table, key, self.find(table, key), None))
        if table == "member":
            hanging, shared = [], []
            for c in self.connections.values():
                lost = [m for m in c.members if m in gone]
                left = [f"{m}.{e}" for m, e in c.ends if m not in gone]
                if lost and left:
                    # what several members share goes on with those that are left
                    member, end = end_of(left[0])
                    shared.append(msgspec.structs.replace(c, member=member, end=end, more=tuple(left[1:])))
                elif lost and (shorter := self._shorter(c, gone)) is not None:
                    shared.append(shorter)
                elif lost:
                    hanging.append(c.id)
            out = self.drop("connection", hanging) + self.put(*shared) + out
        if table == "connection":
            out = [Delta("concession", c.id, c, None) for c in self.concessions.values() if c.connection in gone] + out
        return out


    def _shorter(self, c: Connection, gone: "Mapping[str, None]") -> Connection | None:
        """A row's connection without some of its members, hung on the first of those that are left; None where fewer than two are."""
        left = [m for m in c.members if m not in gone]
        if not c.row or c.at is None or len(left) < 2:
            return None
        old, new = axis_frame(self.members[c.member]), axis_frame(self.members[left[0]])
        at = float((old.o + np.array(old.x) * c.at - new.o) @ np.array(new.x))
        return msgspec.structs.replace(c, member=left[0], at=round(at, 3), row=tuple(left[1:]))


def table_of(entity: Entity) -> str:
    """The table an entity belongs to."""
    for name, kind in TABLES.items():
        if isinstance(entity, kind):
            return name
    raise Refused(f"{type(entity).__name__} is not an entity")


def inverse(changes: Sequence[Delta]) -> list[Delta]:
    """The changes that take ``changes`` back, in the order to apply them."""
    return [change.inverse() for change in reversed(changes)]
