"""A project in figures, and its findings as rows: what the command line prints and the bench times."""

from collections.abc import Iterator
from typing import Any

import numpy as np

from tincleat.geometry.frames import Array
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.progress import by_kind
from tincleat.ledger.through import told as through_told
from tincleat.proof.finding import Finding
from tincleat.release.bill import total_mass


def info(ledger: Ledger) -> dict[str, Any]:
    """Counts of a project, as ``info --json`` prints them."""
    project = ledger.project
    made = [e.made for e in ledger.entries.values() if e.made is not None and e.connection is not None]
    counts = ledger.counts()
    for _, f in through_told(ledger):
        counts[f.level] += 1
    return {
        "title": project.house.title, "units": project.house.units, "rules": project.house.rule_set, "members": len(project.members), "grids": len(project.grids),
        "levels": len(project.levels), "joints": counts["joints"], "joined": counts["joined"], "kin": len(ledger.kin()), "connections": len(project.connections),
        "plates": sum(len(m.detail.plates) + len(m.detail.bents) for m in made), "bolts": sum(len(m.assembled.fitted) for m in made), "welds": sum(len(m.detail.welds) + len(m.detail.plugs) for m in made),
        "anchor_rods": sum(len(m.detail.rods) for m in made), "rods": sum(len(m.detail.ties) for m in made), "mass_kg": round(total_mass(ledger), 1),
        "findings": {level: counts[level] for level in ("clear", "note", "breach", "concession")}, "open_ends": sum(not e.settled for e in ledger.entries.values()),
        "kinds": {s.kind: f"{s.settled} of {s.total}" for s in by_kind(ledger)},
        "roles": counted(m.role for m in project.members.values()), "sections": counted(m.section for m in project.members.values()),
    }  # fmt: skip


def counted(values: Any) -> dict[str, int]:
    """How often each value comes, by value."""
    out: dict[str, int] = {}
    for value in values:
        out[value] = out.get(value, 0) + 1
    return dict(sorted(out.items()))


def _row(f: Finding) -> dict[str, Any]:
    """One finding as ``proof --json`` prints it, but for whose it is and where in the world."""
    return {
        "rule": f.rule, "title": f.title, "clause": f.clause, "level": f.level, "connection": "", "joint": "", "part": f.part, "actual": round(f.actual, 4),
        "required": round(f.required, 4), "sense": f.sense, "unit": f.unit, "where": [], "message": f.message,
    }  # fmt: skip


def findings_of(ledger: Ledger) -> "Iterator[tuple[Entry, tuple[Finding, ...]]]":
    """Every joint with its findings, the note on an unjoined end included."""
    ledger.prove()
    for entry in ledger.entries.values():
        found = entry.findings
        if not entry.settled and (open_end := entry.open_end(ledger.place(entry.joint))) is not None:
            found = (*found, open_end)
        yield entry, found


def all_findings(ledger: Ledger) -> list[dict[str, Any]]:
    """Every finding of every joint as ``proof --json`` prints it, and what is told of members; ``where`` is in the world, mm."""
    rows: list[dict[str, Any]] = []
    shared: dict[int, tuple[tuple[Finding, ...], list[dict[str, Any]], Array]] = {}  # kin have the same findings, in their own places
    for entry, found in findings_of(ledger):
        if not found:
            continue
        known = shared.get(id(found))
        if known is None:
            known = shared[id(found)] = (found, [_row(f) for f in found], np.array([f.where for f in found], dtype=float))
        connection = entry.connection.id if entry.connection else ""
        for row, where in zip(known[1], entry.joint.frame.to_world(known[2]).round(2).tolist(), strict=True):
            mine = row.copy()
            mine["connection"], mine["joint"], mine["where"] = connection, entry.joint.key, where
            rows.append(mine)
    for pair, f in through_told(ledger):
        rows.append({**_row(f), "joint": " and ".join(pair.members), "where": [round(v, 2) for v in pair.where]})
    return rows
