"""A project in memory: tables of entities by id, changed only by applying changes."""

from collections.abc import Iterable, Sequence
from typing import Any, TypeVar

from tincleat.catalogue.sections import own, row_section
from tincleat.errors import NotFound, Refused
from tincleat.project.entities import (
    TABLES,
    Concession,
    Connection,
    Delta,
    Entity,
    Grid,
    HouseRules,
    Level,
    Meaning,
    Member,
    OwnSection,
    Query,
    Reference,
    Run,
    Snapshot,
)

T = TypeVar("T", bound=Entity)


class Project:
    """The entities of one project.  Read the tables freely; write through :meth:`apply` only."""

    def __init__(self) -> None:
        self.tables: dict[str, dict[str, Any]] = {name: {} for name in TABLES}
        self.tables["house"]["house"] = HouseRules()
        self.last_number = 0

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
        for change in changes:
            table = self.tables[change.table]
            if isinstance(change.new, OwnSection):
                own([row_section(change.new.row)])
            if change.new is None:
                table.pop(change.id, None)
            else:
                table[change.id] = change.new

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
            hanging = [c.id for c in self.connections.values() if c.member in gone]
            out = self.drop("connection", hanging) + out
        if table == "connection":
            out = [Delta("concession", c.id, c, None) for c in self.concessions.values() if c.connection in gone] + out
        return out


def table_of(entity: Entity) -> str:
    """The table an entity belongs to."""
    for name, kind in TABLES.items():
        if isinstance(entity, kind):
            return name
    raise Refused(f"{type(entity).__name__} is not an entity")


def inverse(changes: Sequence[Delta]) -> list[Delta]:
    """The changes that take ``changes`` back, in the order to apply them."""
    return [change.inverse() for change in reversed(changes)]
