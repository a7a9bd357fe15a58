"""What a good third of the places of ``sites.py`` comes out as, in figures: parts where they lie, cuts, and what the proof measured.

``python tests/figures.py`` writes ``figures.txt`` anew; read its differences before they are kept.
"""

import re
import sys
import tempfile
import zlib
from collections import Counter
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np
from sites import SITES, Site, place_name

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.ledger.entries import Entry
from tincleat.project.entities import HouseRules, inch_house

FILE = Path(__file__).parent / "figures.txt"
FAR = 60000.0  # mm from site to site
NUMBER = re.compile(r"-?\d+\.\d+")


def _n(*values: float) -> str:
    return " ".join(f"{float(v) + 0.0:.2f}" for v in values)


def place(desk: Desk, site: Site, y: float) -> Entry:
    """A site's members put up at ``y`` and joined; raises what placing raises."""
    before = set(desk.project.members)
    desk.run("add-members", members=[{**m, "start": [m["start"][0], m["start"][1] + y, m["start"][2]], "end": [m["end"][0], m["end"][1] + y, m["end"][2]]} for m in site.members])
    ids = [k for k in desk.project.members if k not in before]
    names = [place_name(n, where, ids) for n, where in site.at]
    known = set(desk.project.connections)
    desk.run("place-connection", family=site.family, at=names, settings=site.typed)
    (made,) = set(desk.project.connections) - known
    return desk.ledger.entry_of(made)


def lines(entry: Entry) -> Iterator[str]:
    """A connection's parts, cuts and findings, a line each."""
    assert entry.made is not None, entry.problem
    d = entry.made.detail
    for p in d.plates:
        a = np.array(p.outline.bounds)
        holes = [np.array([h.x, h.y, h.width, h.length]) for h in p.holes]
        spots = np.sum([h * (k + 1) for k, h in enumerate(holes)], axis=0) if holes else np.zeros(4)
        yield f"plate {p.name}: {_n(p.thickness, *a, p.net_area, p.volume / 1e3)} at {_n(*p.frame.o)} along {_n(*p.frame.x)} {_n(*p.frame.z)} holes {len(holes)} {_n(*spots)}"
    for v in d.bents:
        spots = [(k + 1) * np.array([h.x, h.y, h.width, h.length]) for k, h in enumerate(h for f in v.flats for h in f.holes)]
        yield f"bent {v.name}: {_n(v.thickness, v.radius, *(f.length for f in v.flats), *np.degrees(v.turns), v.low, v.high, v.volume / 1e3)} at {_n(*v.frame.o)} along {_n(*v.frame.x)} {_n(*v.frame.z)} holes {len(spots)} {_n(*np.sum(spots, axis=0)) if spots else '-'}"
    for q in d.pieces:
        yield f"piece {q.name}: {q.section} {_n(q.length, q.volume / 1e3)} at {_n(*q.frame.o)} along {_n(*q.frame.x)} {_n(*q.frame.z)}"
    for b in d.bolts:
        points = np.array(b.points)
        yield f"bolts {b.name}: {len(points)} {b.size} {b.hole} {_n(b.length)} axis {_n(*b.axis)} load {_n(*b.load)} at {_n(*points.min(0), *points.max(0), *(points * np.arange(1, len(points) + 1)[:, None]).sum(0))}"
    groups: dict[tuple[str, str, float], list[Any]] = {}
    for w in d.welds:
        groups.setdefault((w.kind, " to ".join(w.parts), w.leg), []).append(w)
    for (kind, parts, leg), ws in groups.items():
        ends = np.array([[w.start, w.end] for w in ws])
        yield f"welds {kind} {parts}: {len(ws)} of {_n(leg, np.linalg.norm(ends[:, 1] - ends[:, 0], axis=1).sum())} from {_n(*ends[:, 0].sum(0))} to {_n(*ends[:, 1].sum(0))} faces {_n(*np.sum([np.array(w.u) + 2 * np.array(w.v) for w in ws], axis=0))}"
    for t in d.ties:
        yield f"tie {t.name}: {t.size} {_n(t.length, *t.threads, *(v for nut in t.nuts for v in nut))} at {_n(*t.frame.o)} along {_n(*t.frame.x)} seats {_n(*np.sum(t.seats, axis=0)) if t.seats else '-'}"
    for r in d.rods:
        yield f"rod {r.name}: {r.size} {r.foot} {_n(r.x, r.y, r.bottom, r.top, *r.nuts, *r.washers)}"
    for q in d.fittings:
        yield f"fitting {q.name}: {q.size} {q.words} {_n(q.bar, q.length, *np.ravel(q.threads), q.volume / 1e3)} at {_n(*q.frame.o)} along {_n(*q.frame.x)} {_n(*q.frame.z)}"
    for p in d.plugs:
        yield f"{p.kind} {p.name}: {_n(p.width, p.length, p.depth)} of {' to '.join(p.parts)} at {_n(*p.frame.o)} along {_n(*p.frame.x)} {_n(*p.frame.z)}"
    for k in d.blocks:
        yield f"block {k.name}: {_n(k.thickness, *k.outline.bounds)} at {_n(*k.frame.o)}"
    for e in d.ends:
        yield f"end cut {_n(*e.point)} against {_n(*e.normal)}"
    for c in d.notches:
        yield f"notch {_n(*c.outline.bounds, c.outline.area)} at {_n(*c.frame.o)}"
    if d.holes:
        yield f"holes in members {len(d.holes)}: {_n(*np.sum([np.array([*h.point, *h.axis]) * (k + 1) for k, h in enumerate(d.holes)], axis=0))}"
    yield "dimensions " + " ".join(f"{x.view}/{x.side}/{x.row}/{','.join(x.settings)} {_n(*np.sum(np.array(x.points), axis=0))}" for x in d.dimensions)
    told: dict[str, list[str]] = {}
    for f in entry.findings:  # not where: of equal places, noise may choose
        told.setdefault(f.rule, []).append(f"{'' if f.level == 'clear' else f'{f.level} of {f.part} '}{_n(f.actual)} {f.sense} {_n(f.required)}")
    for rule, figures in told.items():
        yield f"{rule}: {', '.join(figures)}"


def chosen() -> list[Site]:
    """Of the table of places the first three of each kind (family, what is typed, roles, units), and a quarter by their names: a new place moves none."""
    seen: Counter[str] = Counter()
    out = []
    for site in SITES:
        kind = f"{site.family} {site.typed} {[m['role'] for m in site.members]} {site.at} {site.inch}"
        seen[kind] += 1
        if seen[kind] <= 3 or zlib.crc32(site.name.encode()) % 4 == 0:
            out.append(site)
    return out


def every_line() -> Iterator[str]:
    """The chosen sites, in the table's order, each under its name."""
    with tempfile.TemporaryDirectory() as scratch:
        desks = {inch: Desk.create(Path(scratch) / f"{inch}.tincleat", inch_house("") if inch else HouseRules()) for inch in (False, True)}
        for n, site in enumerate(chosen()):
            yield f"== {site.name}"
            try:
                yield from lines(place(desks[site.inch], site, FAR * n))
            except TinCleatError as error:
                yield f"refused: {error}"


def differences(now: list[str], then: list[str]) -> list[str]:
    """Lines whose words differ, or a number by more than 0.02."""
    out: list[str] = []
    site = ""
    for a, b in zip(now, then, strict=False):
        site = a if a.startswith("==") else site
        x, y = np.array(NUMBER.findall(a), float), np.array(NUMBER.findall(b), float)
        if NUMBER.sub("#", a) != NUMBER.sub("#", b) or (np.abs(x - y) > 0.02 + 1e-5 * np.abs(x)).any():
            out.append(f"{site}\n  now  {a}\n  kept {b}")
    return out + ([f"{len(now)} lines, {len(then)} kept"] if len(now) != len(then) else [])


if __name__ == "__main__":
    FILE.write_text("\n".join(every_line()) + "\n")
    sys.stdout.write(f"{FILE.name}: {len(FILE.read_text().splitlines())} lines\n")
