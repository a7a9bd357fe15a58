"""Preparations of groove welds by their designations: joints they are for, limits of thickness, opening, angle and root face."""

import difflib
import math
from dataclasses import dataclass
from functools import cache

from tincleat.catalogue.tables import number, rows
from tincleat.errors import NotFound

JOINTS = {"B": "butt", "C": "corner", "T": "tee"}


@dataclass(frozen=True)
class Groove:
    """One designation, mm and degrees; ``t_most`` 0 is unlimited.  ``root`` is how its root is made sound: backing, backgouged, both sides, open."""

    designation: str
    standard: str
    clause: str
    joints: str
    groove: str
    process: str
    t_least: float
    t_most: float
    opening: float
    angle: float
    face: float
    root: str
    positions: str
    others: str
    radius: float = 0.0  # at the root of a U or J groove; 0 where the table gives none

    @property
    def words(self) -> str:
        """What it is, in words."""
        limits = f"from {self.t_least:g} mm" + (f" to {self.t_most:g} mm" if self.t_most else " up")
        return f"{self.groove}, {' or '.join(JOINTS[j] for j in self.joints)} joint, {limits}, opening {self.opening:g}, {self.angle:g}°, root face {self.face:g}, {self.root}"

    @property
    def both(self) -> bool:
        """Whether both edges are prepared alike; of a bevel or J one stays square."""
        return self.groove.endswith((" V", " U"))

    @property
    def twice(self) -> bool:
        """Whether it opens to both faces."""
        return self.groove.startswith("double")

    @property
    def rounded(self) -> bool:
        """Whether it has a radius at its root, a U or a J."""
        return self.groove.endswith((" U", " J"))

    @property
    def lean(self) -> float:
        """How far each prepared face leans off square, rad: a V's angle is told between its faces, and so is a U's by AWS D1.1; ISO 9692-1 tells
        that of one of a U's faces."""
        between = self.groove.endswith(" V") or (self.groove.endswith(" U") and self.standard.startswith("AWS"))
        return math.radians(self.angle) / (2 if between else 1) if self.groove != "square" else 0.0

    def suits(self, joint: str, thickness: float) -> bool:
        """Whether it is for a joint (its letter) of a part so thick."""
        return joint in self.joints and self.t_least - 0.01 <= thickness <= (self.t_most or 1e9) + 0.01


@cache
def grooves() -> dict[str, Groove]:
    """All preparations by designation, in the order of the table."""
    out = {}
    for r in rows("grooves"):
        low, high, opening, angle, face = (number(r, k) for k in ("t_least", "t_most", "opening", "angle", "face"))
        clause = f"{r['standard']} {r['clause']}"
        out[r["designation"]] = Groove(r["designation"], r["standard"], clause, r["joints"], r["groove"], r["process"], low, high, opening, angle, face, r["root"], r["positions"], r["others"], number(r, "radius"))
    return out


def groove(text: str) -> Groove:
    """The preparation of a designation, however its letters are typed; raises :class:`NotFound` with the nearest ones."""
    plain = _letters(text)
    for name, one in grooves().items():
        if _letters(name) == plain:
            return one
    near = difflib.get_close_matches(text.upper(), [n.upper() for n in grooves()], 3, 0.4)
    raise NotFound(f"there is no preparation {text!r}", right="near it: " + ", ".join(n for n in grooves() if n.upper() in near) if near else "one of the table's, such as TC-U4b")


def _letters(text: str) -> str:
    return "".join(c for c in text.upper() if c.isalnum() or c == ".")


def right_ones(joint: str, thickness: float, standard: str, like: str = "") -> list[str]:
    """Designations of a standard that suit a joint and thickness, those of a like groove first."""
    some = [g for g in grooves().values() if g.standard == standard and g.suits(joint, thickness)]
    return [g.designation for g in sorted(some, key=lambda g: (g.groove != like, "J" in g.groove or "U" in g.groove))]
