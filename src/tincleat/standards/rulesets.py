"""The limits of each standard, with their clauses.  A third rule set is one more class in ``RULE_SETS``."""

import math
from functools import cache
from typing import Protocol

from tincleat.catalogue.fasteners import BoltSize
from tincleat.catalogue.tables import number, rows
from tincleat.details.parts import Hole
from tincleat.project.entities import HouseRules
from tincleat.standards.limit import Limit


class RuleSet(Protocol):
    """Limits a standard sets; all lengths mm.  None where it sets none."""

    name: str
    slot_end: bool  # a slot's edge distance runs from the centre of its end radius
    outer_governs: bool  # greatest edge distances go by the thinner outer ply, for every ply
    fusion_most: Limit  # greatest angle between fusion faces, degrees
    fusion_least: Limit
    groove_least: Limit
    square_groove: Limit  # thickness that a groove with parallel faces goes through at most, mm
    ply_gap: Limit
    holes: str  # the clause that sizes of holes by kind stand on

    def weld_gap(self, house: float) -> Limit:
        """Greatest gap at a fillet's root, by the house rule."""

    def effective(self, total: float, throat: float, closed: bool) -> float:
        """Length of a fillet that counts; ``closed`` runs have no ends."""

    def shank(self, room: float, pitch: float) -> Limit:
        """Longest plain shank for the ``room`` up to the nut."""

    def length_clause(self) -> str:
        """The clause that a bolt's least length stands on."""

    def rod_thread(self, pitch: float) -> Limit:
        """Least thread beyond an anchor rod's top nut."""

    def hole_use(self, kind: str) -> tuple[str, str]:
        """What a hole kind asks for and the clause, or empty texts."""

    def edge_least(self, bolt: BoltSize, hole: Hole, across_slot: bool) -> Limit:
        """Least distance from a hole's centre to an edge."""

    def edge_greatest(self, t: float) -> Limit:
        """Greatest distance to an edge of a ply ``t`` thick, steel exposed to weather."""

    def spacing_least(self, bolt: BoltSize, hole: Hole, along: bool) -> Limit:
        """Least spacing of holes in one line, along or across the load."""

    def stagger_least(self, bolt: BoltSize, hole: Hole) -> Limit:
        """Least spacing of two holes that lie in neither the same line nor the same row."""

    def spacing_greatest(self, t: float) -> Limit:
        """Greatest spacing for the thinner outer ply ``t``, steel exposed to weather."""

    def fillet_least(self, thinner: float) -> tuple[str, Limit]:
        """``throat`` or ``leg``, and its least size for the thinner part joined."""

    def fillet_along_edge(self, t: float) -> Limit | None:
        """Greatest leg along the edge of a part ``t`` thick."""

    def fillet_length(self, leg: float, throat: float) -> Limit:
        """Least length of a continuous fillet."""

    def timber(self, d: float) -> dict[str, Limit]:
        """Of bolts ``d`` mm thick in timber, loaded square to its grain: least ``end``, ``edge`` and ``spacing``, greatest play of a ``hole``."""

    def plug(self, t: float, width: float, length: float, depth: float) -> dict[str, Limit]:
        """Of a plug or slot weld through a part ``t`` thick: ``least`` and ``most`` width of its hole, ``depth`` it is filled at least, how ``long`` a
        slot may be, least ``spacing`` (of slots across them) and ``along`` from slot to slot; what the rules do not limit is left out."""

    def studs(self, d: float) -> dict[str, Limit]:
        """Of headed studs ``d`` mm thick: least ``height``, thickness of the ``flange`` under one that is not over a web, distance of its shank to
        an ``edge``, spacing ``along`` and ``across`` the steel, and the greatest spacing ``apart``."""

    def thinnest(self, hollow: bool) -> Limit | None:
        """Thinnest part that may be welded under the rules; or thinnest wall of a ``hollow`` section."""


THIN = 3.0  # mm under which a ply is cold formed and EN 1993-1-3 rules its bolts


class En:
    """EN 1993-1-8 table 3.3 and chapter 4."""

    name = "EN"
    slot_end = outer_governs = True
    fusion_least = Limit(60.0, "EN 1993-1-8 4.3.2.1, 60° to 120°")
    groove_least = Limit(30.0, "practice: 30° opening, so that the root is reached")
    square_groove = Limit(8.0, "ISO 9692-1 table 1, 1.2: square preparation from one side, on backing above 4 mm")
    fusion_most = Limit(120.0, "EN 1993-1-8 4.3.2.1, 60° to 120°")
    ply_gap = Limit(2.0, "EN 1090-2 8.1")
    holes = "EN 1090-2 table 11, nominal clearances"

    def weld_gap(self, house: float) -> Limit:
        return Limit(house, "EN 1090-2 annex, house rule: gap at a fillet")

    def effective(self, total: float, throat: float, closed: bool) -> float:
        return total if closed else max(0.0, total - 2 * throat)

    def shank(self, room: float, pitch: float) -> Limit:
        return Limit(room - pitch, "EN 1090-2 8.2.2, a full thread clear under the nut")

    def length_clause(self) -> str:
        return "EN 1090-2 8.2.2, a thread pitch beyond the nut"

    def rod_thread(self, pitch: float) -> Limit:
        return Limit(pitch, "EN 1090-2 8.2.2, a thread pitch beyond the nut")

    def hole_use(self, kind: str) -> tuple[str, str]:
        return "", ""

    def edge_least(self, bolt: BoltSize, hole: Hole, across_slot: bool) -> Limit:
        if hole.length > hole.width:
            return Limit(1.5 * hole.width, "EN 1993-1-8 table 3.3, e3, e4 ≥ 1.5 d0 from the end radius")
        return Limit(1.2 * hole.width, "EN 1993-1-8 table 3.3, e1, e2 ≥ 1.2 d0")

    def edge_greatest(self, t: float) -> Limit:
        if t < THIN:
            return Limit(math.inf, "EN 1993-1-3 table 8.4")
        return Limit(4 * t + 40, "EN 1993-1-8 table 3.3, e ≤ 4t + 40 mm, t of the thinner outer ply")

    def spacing_least(self, bolt: BoltSize, hole: Hole, along: bool) -> Limit:
        if along:
            return Limit(2.2 * hole.width, "EN 1993-1-8 table 3.3, p1 ≥ 2.2 d0")
        return Limit(2.4 * hole.width, "EN 1993-1-8 table 3.3, p2 ≥ 2.4 d0")

    def stagger_least(self, bolt: BoltSize, hole: Hole) -> Limit:
        return Limit(2.4 * hole.width, "EN 1993-1-8 table 3.3 note 5, L ≥ 2.4 d0")

    def spacing_greatest(self, t: float) -> Limit:
        if t < THIN:  # cold formed: EN 1993-1-3 table 8.4 sets least spacings only
            return Limit(math.inf, "EN 1993-1-3 table 8.4")
        return Limit(min(14 * t, 200.0), "EN 1993-1-8 table 3.3, p ≤ min(14t, 200 mm)")

    def fillet_least(self, thinner: float) -> tuple[str, Limit]:
        return "throat", Limit(3.0, "EN 1993-1-8 4.5.2(2), a ≥ 3 mm")

    def fillet_along_edge(self, t: float) -> Limit | None:
        return None

    def fillet_length(self, leg: float, throat: float) -> Limit:
        return Limit(max(30.0, 6 * throat), "EN 1993-1-8 4.5.1(2), effective length ≥ max(30 mm, 6a)")

    def timber(self, d: float) -> dict[str, Limit]:
        table = "EN 1995-1-1 table 8.4, load square to the grain"
        return {
            "end": Limit(7 * d, f"{table}: a3 = (1 + 6 sin 90°) d"), "edge": Limit(4 * d, f"{table}: a4 = (2 + 2 sin 90°) d at the loaded edge, which either may be"),
            "spacing": Limit(4 * d, f"{table}: a1 = (4 + cos 90°) d, a2 = 4 d"), "hole": Limit(1.0, "EN 1995-1-1 10.4.3: holes in timber at most 1 mm larger"),
        }  # fmt: skip

    def plug(self, t: float, width: float, length: float, depth: float) -> dict[str, Limit]:
        return {"least": Limit(t + 8.0, "EN 1993-1-8 4.3.5(2), 8 mm wider than the part is thick"), "depth": Limit(t if t <= 16.0 else max(t / 2, 16.0), "EN 1993-1-8 4.3.5(4), full up to 16 mm, else half and 16 mm")}

    def studs(self, d: float) -> dict[str, Limit]:
        return {
            "height": Limit(3 * d, "EN 1994-1-1 6.6.5.7(1), overall height ≥ 3d"), "flange": Limit(d / 2.5, "EN 1994-1-1 6.6.5.7(5), d ≤ 2.5 tf unless over the web"),
            "edge": Limit(20.0, "EN 1994-1-1 6.6.5.6(2), 20 mm from the connector to the flange's edge"), "along": Limit(5 * d, "EN 1994-1-1 6.6.5.7(4), ≥ 5d along the shear"),
            "across": Limit(2.5 * d, "EN 1994-1-1 6.6.5.7(4), ≥ 2.5d across it in solid slabs"), "apart": Limit(800.0, "EN 1994-1-1 6.6.5.5(3), ≤ 800 mm, and six slab thicknesses"),
        }  # fmt: skip

    def thinnest(self, hollow: bool) -> Limit | None:
        return Limit(2.5, "EN 1993-1-8 4.1(1) and 7.1.1, walls of hollow sections ≥ 2.5 mm") if hollow else Limit(4.0, "EN 1993-1-8 4.1(1), t ≥ 4 mm")


@cache
def _edge_rows() -> dict[str, dict[str, str]]:
    return {r["size"]: r for r in rows("edge_least")}


class Aisc:
    """AISC 360-22 chapter J."""

    name = "AISC"
    slot_end = outer_governs = False
    fusion_least = Limit(60.0, "AWS D1.1 4.4.3, 60° to 135°")
    groove_least = Limit(30.0, "practice: 30° opening, so that the root is reached")
    square_groove = Limit(6.35, "AWS D1.1 B-L1a: square groove on backing")
    fusion_most = Limit(135.0, "AWS D1.1 4.4.3, 60° to 135°")
    ply_gap = Limit(2.0, "RCSC 8.1, plies in firm contact")
    holes = "AISC 360-22 table J3.3, nominal hole sizes"

    def weld_gap(self, house: float) -> Limit:
        return Limit(house, "AWS D1.1 7.21.1, house rule: gap at a fillet")

    def effective(self, total: float, throat: float, closed: bool) -> float:
        return total

    def shank(self, room: float, pitch: float) -> Limit:
        return Limit(room, "RCSC 2.3.2, thread under the nut")

    def length_clause(self) -> str:
        return "RCSC 2.3.2, full nut and stick-through"

    def rod_thread(self, pitch: float) -> Limit:
        return Limit(pitch, "AISC Design Guide 1, full nut with thread beyond it")

    def hole_use(self, kind: str) -> tuple[str, str]:
        return {
            "oversize": ("a slip-critical connection, and hardened washers over oversize holes in outer plies", "AISC 360-22 J3.2, RCSC 6.2"),
            "short slot": ("a hardened washer over the slot in an outer ply; in bearing only where the load runs across it", "AISC 360-22 J3.2, RCSC 6.2"),
            "long slot": ("slots in one ply of the joint only, and a plate washer or bar of 5/16 in (8 mm) over them in an outer ply", "AISC 360-22 J3.2, RCSC 6.2"),
        }.get(kind, ("", ""))

    def edge_least(self, bolt: BoltSize, hole: Hole, across_slot: bool) -> Limit:
        row = _edge_rows().get(bolt.name)
        base = number(row, "edge") if row else 1.25 * bolt.d
        clause = row["source"] if row else "AISC 360-22 table J3.4, 1.25 d"
        if hole.kind == "oversize":
            extra = number(row, "c2_oversize") if row else 3.0
        elif hole.kind == "short slot" and across_slot:
            extra = number(row, "c2_short") if row else 5.0
        elif hole.kind == "long slot" and across_slot:
            extra = 0.75 * bolt.d
        else:
            return Limit(base, clause)
        return Limit(base + extra, f"{clause} + C2 (J3.5)")

    def edge_greatest(self, t: float) -> Limit:
        return Limit(min(12 * t, 152.4), "AISC 360-22 J3.6, 12 t ≤ 6 in")

    def spacing_least(self, bolt: BoltSize, hole: Hole, along: bool) -> Limit:
        by_pitch, by_clear = 8 / 3 * bolt.d, bolt.d + (hole.length if along and hole.length > hole.width else hole.width)
        if by_clear > by_pitch:
            return Limit(by_clear, "AISC 360-22 J3.4, clear between holes ≥ d")
        return Limit(by_pitch, "AISC 360-22 J3.4, s ≥ 2 2/3 d")

    def stagger_least(self, bolt: BoltSize, hole: Hole) -> Limit:
        return self.spacing_least(bolt, hole, False)

    def spacing_greatest(self, t: float) -> Limit:
        return Limit(min(24 * t, 304.8), "AISC 360-22 J3.6, 24 t ≤ 12 in")

    def fillet_least(self, thinner: float) -> tuple[str, Limit]:
        steps = ((6.35, 3.175), (12.7, 4.7625), (19.05, 6.35))
        leg = next((w for t, w in steps if thinner <= t + 0.01), 7.9375)
        return "leg", Limit(leg, "AISC 360-22 table J2.4")

    def fillet_along_edge(self, t: float) -> Limit | None:
        return Limit(t if t < 6.35 - 0.01 else t - 1.5875, "AISC 360-22 J2.2b")

    def fillet_length(self, leg: float, throat: float) -> Limit:
        return Limit(4 * leg, "AISC 360-22 J2.2b, l ≥ 4 w")

    def timber(self, d: float) -> dict[str, Limit]:
        return {
            "end": Limit(4 * d, "NDS 2018 table 12.5.1A, square to the grain, full value"), "edge": Limit(4 * d, "NDS 2018 table 12.5.1C, loaded edge, which either may be"),
            "spacing": Limit(4 * d, "NDS 2018 table 12.5.1B, full value"), "hole": Limit(1.5875, "NDS 2018 12.1.3: holes 1/32 to 1/16 in larger"),
        }  # fmt: skip

    def plug(self, t: float, width: float, length: float, depth: float) -> dict[str, Limit]:
        least, slot = self._plug_least(t), length > width
        out = {
            "least": Limit(least, "AISC 360-22 J2.3b, 5/16 in (8 mm) wider than the part is thick, to the next odd 1/16 in (even mm)"), "depth": Limit(t if t <= 15.875 else max(t / 2, 15.875), "AISC 360-22 J2.3b, full up to 5/8 in, else half and 5/8 in"),
            "spacing": Limit(4 * width, "AISC 360-22 J2.3b, four times the width of the hole" + (" across slots" if slot else "")), "along": Limit(2 * length, "AISC 360-22 J2.3b, twice the length of the slot along it"),
            "most": Limit(2.25 * depth, "AISC 360-22 J2.3b, 2 1/4 times the thickness of the weld") if slot else Limit(max(least + 3.175, 2.25 * depth), "AISC 360-22 J2.3b, 1/8 in more than the least, or 2 1/4 times the thickness of the weld"),
        }  # fmt: skip
        return {**out, "long": Limit(10 * depth, "AISC 360-22 J2.3b, ten times the thickness of the weld")} if slot else out

    @staticmethod
    def _plug_least(t: float) -> float:
        """Least width (mm) of the hole for a plug through ``t`` mm: t + 5/16 in, to the next larger odd 1/16 in."""
        sixteenths = math.ceil((t + 7.9375) / 1.5875 - 1e-6)
        return (sixteenths + (sixteenths + 1) % 2) * 1.5875

    def studs(self, d: float) -> dict[str, Limit]:
        return {
            "height": Limit(4 * d, "AISC 360-22 I8.2, at least four diameters from base to top"), "flange": Limit(d / 2.5, "AISC 360-22 I8.1, d ≤ 2.5 tf unless over the web"),
            "edge": Limit(d + 3.175, "AWS D1.1, stud welding: a diameter and 1/8 in from the stud's base to a flange's edge"), "along": Limit(4 * d, "AISC 360-22 I8.2d, four diameters"),
            "across": Limit(4 * d, "AISC 360-22 I8.2d, four diameters"), "apart": Limit(914.4, "AISC 360-22 I8.2d, 36 in, and eight slab thicknesses"),
        }  # fmt: skip

    def thinnest(self, hollow: bool) -> Limit | None:
        return None


class AiscMetric(Aisc):
    """AISC 360-22 chapter J by its metric tables: round millimetres, never converted inches."""

    @staticmethod
    def _plug_least(t: float) -> float:
        """Least width (mm) of the hole for a plug through ``t`` mm: t + 8, to the next even millimetre."""
        return 2.0 * math.ceil((t + 8.0) / 2.0 - 1e-6)

    def edge_greatest(self, t: float) -> Limit:
        return Limit(min(12 * t, 150.0), "AISC 360-22 J3.6, 12 t ≤ 150 mm")

    def spacing_greatest(self, t: float) -> Limit:
        return Limit(min(24 * t, 300.0), "AISC 360-22 J3.6, 24 t ≤ 300 mm")

    def fillet_least(self, thinner: float) -> tuple[str, Limit]:
        leg = next((w for t, w in ((6.0, 3.0), (13.0, 5.0), (19.0, 6.0)) if thinner <= t + 0.01), 8.0)
        return "leg", Limit(leg, "AISC 360-22 table J2.4M")

    def fillet_along_edge(self, t: float) -> Limit | None:
        return Limit(t if t < 6.0 - 0.01 else t - 2.0, "AISC 360-22 J2.2b")


RULE_SETS: dict[str, RuleSet] = {"EN": En(), "AISC": Aisc()}
_METRIC = AiscMetric()


def rules_of(house: HouseRules) -> RuleSet:
    """The limits a project is proved by: its standard's, in the tables of its own units."""
    return _METRIC if house.rule_set == "AISC" and house.units in ("mm", "m") else RULE_SETS[house.rule_set]
