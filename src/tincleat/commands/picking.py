"""Members named in a command: by id, by name, by a query (``?role:beam``) or by a saved one (``@floor beams``)."""

from collections.abc import Sequence

import msgspec

from tincleat.commands.registry import command
from tincleat.errors import BadValue, NotFound
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.query import members_like
from tincleat.project.entities import Delta, Member, Query
from tincleat.project.project import Project


def picked(project: Project, ledger: Ledger, ids: Sequence[str]) -> list[Member]:
    """The members named, each once, in the order named; raises NotFound, or BadValue if none is."""
    out: dict[str, Member] = {}
    for key in ids:
        for found in asked(project, ledger, key):
            m = project.find("member", found)
            assert isinstance(m, Member)
            out[m.id] = m
    if not out:
        raise BadValue("no members are given" if not ids else f"no member is picked by {', '.join(ids)}", right="ids or names of members, or ?role:beam")
    return list(out.values())


def asked(project: Project, ledger: Ledger, key: str) -> list[str]:
    """What one name stands for: itself, or the ids a query picks; raises NotFound for a saved query that is not there."""
    if key.startswith("?"):
        return members_like(ledger, key[1:])
    if key.startswith("@"):
        saved = next((q for q in project.queries.values() if q.name == key[1:]), None)
        if saved is None:
            raise NotFound(f"there is no saved query {key[1:]!r}", right="one of " + ", ".join(q.name for q in project.queries.values()) or "save it first")
        return members_like(ledger, saved.text)
    return [key]


def asks(args: object) -> bool:
    """Whether arguments hold a query, which must see the joints as they are."""
    if isinstance(args, str):
        return args[:1] in ("?", "@")
    if isinstance(args, dict):
        return any(asks(v) for v in args.values())
    return isinstance(args, list | tuple) and any(asks(v) for v in args)


class SaveQuery(msgspec.Struct, forbid_unknown_fields=True):
    """A query to keep under a name."""

    name: str
    text: str


@command("save-query", "Save a query", SaveQuery, ("selection", "filter", "group"), needs_joints=True)
def save_query(project: Project, ledger: Ledger, args: SaveQuery) -> tuple[str, list[Delta]]:
    """Keep a query under a name; it picks anew each time it is used."""
    if not args.name.strip():
        raise BadValue("the query has no name", "save-query", "a name")
    count = len(members_like(ledger, args.text))
    old = next((q for q in project.queries.values() if q.name == args.name.strip()), None)
    query = Query(old.id if old else project.new_id("q"), args.name.strip(), args.text)
    return f"Save query {query.name} ({count} members now)", project.put(query)


class DropQuery(msgspec.Struct, forbid_unknown_fields=True):
    """A saved query, by name."""

    name: str


@command("delete-query", "Delete a saved query", DropQuery, ("remove query",))
def delete_query(project: Project, ledger: Ledger, args: DropQuery) -> tuple[str, list[Delta]]:
    """Delete a saved query; members stay."""
    return f"Delete query {args.name}", project.drop("query", [project.find("query", args.name).id])
