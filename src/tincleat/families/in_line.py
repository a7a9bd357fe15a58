"""Two members end to end on one line: their own frame, where each one's flanges and web lie in it, and what has to be so for a splice."""

import math
from dataclasses import dataclass

import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.errors import NoFit
from tincleat.geometry.frames import Frame, crossed
from tincleat.joints.case import Case, CaseMember

MOST_BEND = math.radians(1)  # between the two members
STRAIGHT = math.radians(0.04)  # where steel lies flat on both: a tenth of a millimetre over 150 of its length
MOST_ASIDE = 1.0  # mm that their middles may lie apart across


@dataclass(frozen=True)
class Side:
    """One of the two members in the splice's frame: which way it runs, where its middle lies in depth and across, which way its web's y runs."""

    number: int
    member: CaseMember
    way: float
    z: float
    y: float
    turn: float

    @property
    def shape(self) -> Section:
        return self.member.shape

    def outer(self, s: float) -> float:
        """Depth of the flange's outer face on side ``s``."""
        return self.z + s * self.shape.h / 2

    def inner(self, s: float) -> float:
        """Depth of that flange's inner face."""
        return self.outer(s) - s * self.shape.tf

    def web(self, s: float) -> float:
        """Where the web's face on side ``s`` lies across."""
        web = next(e for e in self.shape.elements if e.name == "web")
        return self.y + web.at * self.turn + s * web.thickness / 2


def line_of(case: Case) -> Frame:
    """The splice's own frame: along the first member, z its depth turned up where it may be."""
    m = case.supported
    z = np.array(m.frame.z)
    lead = z[2] if abs(z[2]) > 1e-6 else (z[1] if abs(z[1]) > 1e-6 else z[0])
    return Frame.of(m.frame.origin, m.away, z * math.copysign(1.0, float(lead)))


def sides_of(case: Case, at: Frame) -> tuple[Side, Side]:
    """The two members of a splice as they lie in its frame."""
    out = []
    for i, m in enumerate(case.members[:2]):
        local = at.inside(m.frame)
        out.append(Side(i, m, 1.0 if i == 0 else -1.0, local.origin[2], local.origin[1], math.copysign(1.0, local.y[1])))
    return out[0], out[1]


def _straight(a: CaseMember, b: CaseMember, most: float, instead: str) -> None:
    """Raise NoFit with figures where two members bend, or are turned to each other, by more than ``most`` (rad)."""
    bend = math.acos(max(-1.0, min(1.0, -float(np.dot(a.away, b.away)))))
    turn = math.asin(min(1.0, abs(float(np.dot(a.frame.y, b.frame.z))))) if a.shape.shape != "CHS" else 0.0
    for angle, words in ((bend, "the members bend by"), (turn, "the members are turned to each other by")):
        if angle > most:
            raise NoFit(f"{words} {math.degrees(angle):.2f}°", right=f"up to {math.degrees(most):g}°{instead}")


def in_line(case: Case, most: float = MOST_BEND) -> tuple[Side, Side]:
    """The two members of a splice; raises NoFit with figures where they are not of one kind, bend or are turned to each other by more than ``most``
    (rad), or lie aside."""
    a, b = case.members[:2]
    if a.shape.shape != b.shape.shape:
        raise NoFit(f"{a.shape.name} and {b.shape.name} are not of one kind", right="two I-sections or two channels")
    _straight(a, b, most, ", or end plates")
    one, two = sides_of(case, line_of(case))
    off = abs((one.web(1.0) + one.web(-1.0)) - (two.web(1.0) + two.web(-1.0))) / 2
    if off > MOST_ASIDE:
        raise NoFit(f"their webs lie {off:.1f} mm apart across", right=f"at most {MOST_ASIDE:.0f} mm")
    return one, two


def tubes_in_line(case: Case, words: str, most: float = MOST_BEND) -> tuple[CaseMember, CaseMember]:
    """The two tubes of a splice; raises NoFit with figures where they are no hollow sections (``words`` say why those are wanted), not of one
    kind, bend or are turned to each other by more than ``most`` (rad), or lie aside."""
    a, b = case.members[:2]
    for m in (a, b):
        if m.shape.shape not in ("CHS", "RHS"):
            raise NoFit(f"{m.shape.name} is a {m.shape.shape} section; {words}", right="covers or end plates")
    if a.shape.shape != b.shape.shape:
        raise NoFit(f"{a.shape.name} and {b.shape.name} are not of one kind", right="two round or two square tubes")
    _straight(a, b, most, "")
    aside = np.linalg.norm(crossed(b.frame.o - a.frame.o, np.array(a.away)))
    if aside > MOST_ASIDE:
        raise NoFit(f"their middles lie {aside:.1f} mm apart across", right="members on one line")
    return a, b
