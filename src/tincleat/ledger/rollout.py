"""Rolling a connection out: the open joints that are like its own or only similar, in what they differ, and what it would make of each."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from tincleat.errors import TinCleatError
from tincleat.joints.case import Case, CaseMember, Joint
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.made import Made
from tincleat.units import format_length

ALIKE, MIRRORED = "alike", "its mirror image"
TURNED = 0.5  # degrees under which directions count as the same
MOVED = 0.5  # mm under which places do
MOST = 3  # differences that are named


@dataclass(frozen=True)
class Row:
    """Open joints that are alike among themselves: how they differ from the one that is rolled out, and what the connection makes there, or why not."""

    joints: tuple[Joint, ...]
    difference: str
    same: bool
    made: Made | None
    why: str

    @property
    def breaches(self) -> int:
        """Breaches that each would have by itself."""
        return self.made.counts["breach"] if self.made is not None else 0


def rows(ledger: Ledger, entry: Entry) -> Iterator[Row]:
    """The open joints of a connection's kind in groups of kin, its own kin first, then the most like; each is built as it is asked for."""
    c, unit = entry.connection, ledger.project.house.units
    assert c is not None
    groups: dict[tuple[int, bool], list[Joint]] = {}
    for e in ledger.entries.values():
        if not e.settled and e.joint.kind == entry.joint.kind and e.joint.ends:
            groups.setdefault((id(e.joint.case), e.joint.mirrored), []).append(e.joint)
    found: list[tuple[bool, int, str, list[Joint]]] = []
    for some in groups.values():
        case = some[0].case
        if case is entry.joint.case:
            found.append((False, 0, ALIKE if some[0].mirrored == entry.joint.mirrored else MIRRORED, some))
        else:
            words = differences(entry.joint.case, case, unit)
            found.append((True, len(words), ", ".join(words[:MOST]) + (f" and {len(words) - MOST} more" if len(words) > MOST else ""), some))
    for other, _, words_, some in sorted(found, key=lambda f: (f[0], f[1], f[2] == MIRRORED, -len(f[3]))):
        made, why = None, ""
        try:
            made = ledger.make(some[0], c.family, c.settings, typical=c.typical)
        except TinCleatError as error:
            why = str(error)
        yield Row(tuple(some), words_, not other, made, why)


def differences(a: Case, b: Case, unit: str) -> list[str]:
    """In what one case differs from another, in words: sizes, turns and places of its members, the most telling first."""
    theirs = {m.role: m for m in b.members}
    sizes: list[str] = []
    turns: list[str] = []
    places: list[str] = []
    for m in a.members:
        other = theirs.pop(m.role, None)
        if other is None:
            sizes.append(f"no {_role(m)} there")
            continue
        if m.shape.name != other.shape.name:
            sizes.append(f"{_role(m)} {other.shape.name}")
        if (turned := _between(m.frame.x, other.frame.x)) > TURNED:
            turns.append(f"{_role(m)} {turned:.0f}° another way")
        elif (rolled := _folded(_between(m.frame.z, other.frame.z), m.shape.symmetric)) > TURNED:
            turns.append(f"{_role(m)} turned {rolled:.0f}°")
        off = np.array(other.frame.origin) - np.array(m.frame.origin)
        for v, words in ((float(off[2]), ("higher", "lower")), (float(off[1]), ("to the far side", "to the near side"))):
            if abs(v) > MOVED:
                places.append(f"{_role(m)} {format_length(round(abs(v), 1), unit, mark=True)} {words[v < 0]}")
    sizes += [f"{other.shape.name} besides there" for other in theirs.values()]
    return [*sizes, *turns, *places] or ["cut otherwise"]


def _role(m: CaseMember) -> str:
    return {"supported": "the beam", "support": "its support"}.get(m.role, f"the {m.role.replace('-', ' ')}")


def _folded(angle: float, symmetric: bool) -> float:
    """A turn in degrees about its own line; one with two axes of symmetry is the same turned half way round."""
    return min(angle, 180.0 - angle) if symmetric else angle


def _between(a: tuple[float, float, float], b: tuple[float, float, float]) -> float:
    """The angle in degrees between two directions."""
    return math.degrees(math.acos(max(-1.0, min(1.0, float(np.dot(a, b))))))
