"""Where a tube's end meets other tubes: the line round it on their surfaces, what is cut off it, fillets and grooves along that line."""

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from tincleat.catalogue.sections import Section
from tincleat.details.parts import Weld
from tincleat.geometry.frames import Array, Frame, crossed, unit, vec
from tincleat.steel.cuts import EndCut, Notch

CHORDS = 48  # round a tube
PIECES = 8  # of a flat wall that lands on a round tube
FILLET = (math.radians(60), math.radians(120))  # between the fusion faces, EN 1993-1-8 4.3.2.1; else it is a groove
FLATTEST = math.radians(30.0)  # that a groove opens by at least
LIKE = 0.5  # mm that widths of tubes that are called equal differ by at most
PAST = 60.0  # mm that a cutter reaches past what it cuts


@dataclass(frozen=True)
class Tube:
    """A hollow section at a joint: its number in the case, what welds call it, its section and frame (x along it, away from the joint for a branch)."""

    number: int
    name: str
    shape: Section
    frame: Frame

    def left(self, points: Array, way: Array) -> tuple[Array, Array, "np.ndarray"]:
        """Where lines through points (n, 3) along a unit direction leave the tube's surface for good: how far along (n,), NaN where they
        miss it; the surface's normal there (n, 3); and whether they land on a flat wall's rounded corner (n,)."""
        p, d = self.frame.to_local(points)[:, 1:], np.asarray(self.frame.unturn(way))[1:]
        with np.errstate(invalid="ignore", divide="ignore"):
            if self.shape.shape == "CHS":
                a, b, c = float(d @ d), p @ d, np.einsum("ij,ij->i", p, p) - (self.shape.h / 2) ** 2
                s = (-b + np.sqrt(b * b - a * c)) / a
                there = p + d * s[:, None]
                normals, corner = there / (self.shape.h / 2), np.zeros(len(p), dtype=bool)
            else:
                half = np.array([self.shape.b / 2, self.shape.h / 2])
                exits, enters = ((np.sign(d) * side * half - p) / d for side in (1.0, -1.0))
                exits, enters = (np.where(np.abs(d) > 1e-9, v, fill) for v, fill in ((exits, np.inf), (enters, -np.inf)))
                missed = (np.abs(p) > half + 0.01) & (np.abs(d) <= 1e-9)
                s = exits.min(axis=1)
                s = np.where((enters.max(axis=1) > s) | missed.any(axis=1), np.nan, s)
                face = exits.argmin(axis=1)
                normals = np.zeros_like(p)
                normals[np.arange(len(p)), face] = np.sign(d)[face]
                there = p + d * s[:, None]
                other = 1 - face
                corner = np.abs(there[np.arange(len(p)), other]) > half[other] - self.shape.r1 + 0.05
        return s, self.frame.turn(np.column_stack([np.zeros(len(p)), normals])), corner

    def ring(self, fine: bool) -> "list[tuple[Array, Array]]":
        """Its outer surface from the joint on: runs of points (n, 3) in its end plane, each with normals (n - 1, 3) of the pieces between."""
        shape = self.shape
        if shape.shape == "CHS":
            angles = np.linspace(0.0, 2 * math.pi, CHORDS + 1)
            middles = (angles[:-1] + angles[1:]) / 2
            flat, out = (np.column_stack([np.cos(a), np.sin(a)]) for a in (angles, middles))
            return [(self._at(flat * shape.h / 2), self._turned(out))]
        b, h, r = shape.b / 2, shape.h / 2, shape.r1
        runs = []
        count = (PIECES if fine else 1) + 1
        for s in (1.0, -1.0):
            runs.append((np.column_stack([np.full(count, s * b), np.linspace(r - h, h - r, count)]), (s, 0.0)))
            runs.append((np.column_stack([np.linspace(r - b, b - r, count), np.full(count, s * h)]), (0.0, s)))
        return [(self._at(flat), self._turned(np.tile(n, (count - 1, 1)))) for flat, n in runs]

    def holds(self, points: Array, past: float) -> "np.ndarray":
        """Which of some points (n, 3) lie within the tube's outer shape, or ``past`` mm off it, on the side of the joint it goes to (n,)."""
        p = self.frame.to_local(points)
        if self.shape.shape == "CHS":
            inside = np.hypot(p[:, 1], p[:, 2]) < self.shape.h / 2 + past
        else:
            inside = (np.abs(p[:, 1]) < self.shape.b / 2 + past) & (np.abs(p[:, 2]) < self.shape.h / 2 + past)
        return np.asarray(inside & (p[:, 0] > -self.shape.h))

    def _at(self, flat: Array) -> Array:
        return self.frame.to_world(np.column_stack([np.zeros(len(flat)), flat]))

    def _turned(self, flat: Array) -> Array:
        return self.frame.turn(np.column_stack([np.zeros(len(flat)), flat]))

    def taken(self, name: str, of: int, low: float, high: float) -> Notch:
        """Its whole outer shape between two stations as a cutter for another member."""
        return Notch(name, of, Frame(self.frame.point((low, 0.0, 0.0)), self.frame.y, self.frame.x), self.shape.outer, high - low)


@dataclass(frozen=True)
class Landing:
    """A tube's end on others: where its fibres meet them, with the tubes they meet and the surfaces' normals, run by run; what misses or
    lands on a rounded corner."""

    runs: "tuple[tuple[Array, Array, Array, np.ndarray], ...]"  # points (n, 3), branch normals (n - 1, 3), surface normals (n, 3), tube (n,)
    missed: int
    corners: int


def land(branch: Tube, others: Sequence[Tube], fine: bool = False) -> Landing:
    """Where a branch's fibres, coming in along it, first meet any of some tubes; flat walls in pieces if ``fine`` or on round tubes."""
    way = np.array(branch.frame.x)
    fine = fine or any(o.shape.shape == "CHS" for o in others)
    runs = []
    missed = corners = 0
    for points, out in branch.ring(fine):
        found = [o.left(points, way) for o in others]
        s = np.array([f[0] for f in found])
        lost = np.isnan(s).all(axis=0)
        missed += int(lost.sum())
        which = np.where(np.isnan(s), -np.inf, s).argmax(axis=0)
        rows = np.arange(len(points))
        normals = np.array([f[1] for f in found])[which, rows]
        corners += int(np.array([f[2] for f in found])[which, rows].sum())
        runs.append((points + way * np.where(lost, 0.0, s[which, rows])[:, None], out, normals, which))
    return Landing(tuple(runs), missed, corners)


def cut_back(branch: Tube, others: Sequence[Tube], landing: Landing) -> tuple[list[EndCut], list[Notch]]:
    """What is cut off a branch so that it stands on the surfaces of others: a plane on a flat wall, the true shape of round tubes and of
    branches that go through."""
    points = np.concatenate([r[0] for r in landing.runs])
    chord = others[0]
    way = np.array(branch.frame.x)
    ends, notches = [], []
    mine = np.concatenate([r[3] for r in landing.runs])
    if chord.shape.shape == "RHS" and (mine == 0).any():
        normals = np.concatenate([r[2] for r in landing.runs])
        first = int(np.flatnonzero(mine == 0)[0])
        ends.append(EndCut(branch.number, vec(points[first]), vec(normals[first])))
    else:
        axis = np.array(chord.frame.x)
        square = unit(way - axis * float(way @ axis))
        ends.append(EndCut(branch.number, vec(chord.frame.o), vec(square)))
    for k, o in enumerate(others):
        if (k == 0 and o.shape.shape == "RHS") or not (mine == k).any():
            continue
        # from where its fibres land to where the plane ends them: a steep one goes a long way inside the other
        n = np.array(ends[0].normal)
        within = points - way * (((points - np.array(ends[0].point)) @ n) / float(way @ n))[:, None]
        along = o.frame.to_local(np.concatenate([points, within]))[:, 0]
        notches.append(o.taken(f"shape of the {o.name}", branch.number, float(along.min()) - PAST, float(along.max()) + PAST))
    return ends, notches


def matched(branch: Tube, chord: Tube) -> "Array | None":
    """The way across a rectangular carrier (3,) in which a rectangular branch in its plane is just as wide, its sides over the carrier's; None
    where it is not, or where it lies off the middle."""
    if branch.shape.shape != "RHS" or chord.shape.shape != "RHS":
        return None
    for across, wide in ((chord.frame.y, chord.shape.b), (chord.frame.z, chord.shape.h)):
        a = np.array(across)
        square = [own for way, own in ((branch.frame.y, branch.shape.b), (branch.frame.z, branch.shape.h)) if abs(abs(float(a @ np.array(way))) - 1.0) < 1e-6]
        if square and abs(square[0] - wide) < LIKE and abs(float((branch.frame.o - chord.frame.o) @ a)) < LIKE:
            return a
    return None


def side_grooves(branch: Tube, chord: Tube, across: Array, landing: Landing) -> list[Weld]:
    """The grooves under the side walls of a branch as wide as its carrier, over the rounded corners of that: between the wall's end and the
    tangent of the corner that leaves the wall's inside, or a little less steep."""
    r, t = chord.shape.r1, branch.shape.tw
    turn = max(2 * math.atan(1.0 - t / r), FLATTEST)
    wide = r * (1.0 - math.tan(turn / 2))  # from the root to the wall's outside
    out = []
    for points, outward, normals, _ in landing.runs:
        side = float(outward[0] @ across)
        if abs(side) < 0.99:
            continue
        way, up = across * math.copysign(1.0, side), normals[0]
        out.append(Weld(f"{branch.name} to {chord.name} side", wide, vec(points[0] - way * wide), vec(points[-1] - way * wide), vec(way * math.cos(turn) - up * math.sin(turn)), vec(way), (chord.name, branch.name), kind="groove"))
    return out


def on_flat(branch: Tube, chord: Tube, across: Array, landing: Landing) -> Landing:
    """A landing without the side walls of a branch as wide as its carrier, its other walls as far as the carrier is flat."""
    half = (chord.shape.b if abs(float(across @ np.array(chord.frame.y))) > 0.5 else chord.shape.h) / 2 - chord.shape.r1
    runs = []
    for points, outward, normals, which in landing.runs:
        if abs(float(outward[0] @ across)) > 0.99:
            continue
        off = (points - chord.frame.o) @ across
        runs.append((points + np.outer(np.clip(off, -half, half) - off, across), outward, normals, which))
    return Landing(tuple(runs), landing.missed, 0)


def along_landing(branch: Tube, others: Sequence[Tube], landing: Landing, leg: float, under: Sequence[Tube] = ()) -> list[Weld]:
    """Welds all along where a branch lands: fillets where its faces stand 60 to 120 degrees to the surface, grooves of its wall else.
    Where a branch ``under`` which it lies covers it there is none.
    """
    way = np.array(branch.frame.x)
    out: list[Weld] = []
    for points, outward, normals, which in landing.runs:
        for i, (p, q) in enumerate(pairwise(points)):
            if which[i] != which[i + 1] or float(np.linalg.norm(q - p)) < 0.5:
                continue
            run = unit(q - p)
            m, n = outward[i], unit(normals[i] + normals[i + 1])
            u, v = crossed(run, n), crossed(run, m)
            u = unit(u * math.copysign(1.0, float(u @ m)))
            v = unit(v * math.copysign(1.0, float(v @ way)))
            turn = math.acos(max(-1.0, min(1.0, float(u @ v))))
            other = others[int(which[i])]
            fillet = FILLET[0] - 1e-6 <= turn <= FILLET[1] + 1e-6
            where = "" if fillet else " heel" if turn < FILLET[0] else " toe"
            size = leg if fillet else branch.shape.tw
            weld = Weld(f"{branch.name} to {other.name}{where}", size, vec(p), vec(q), vec(u), vec(v), (other.name, branch.name), kind="fillet" if fillet else "groove")
            corners = np.array([end + c for end in (p, q) for c in np.array(weld.section)])
            if not any(t.holds(corners, 0.5).any() for t in under):
                out.append(weld)
    return out
