"""Parts of details as they are written to IFC: plates, pieces, bolts, rods, welds, what is cut out of them."""

from itertools import pairwise

import msgspec
import numpy as np

from tincleat.catalogue.fasteners import anchor_size, bolt_size, countersunk_head
from tincleat.catalogue.sections import Section
from tincleat.details.assembled import bolt_frame, tie_frame
from tincleat.details.bolting import Stack, stack
from tincleat.details.fittings import Stud
from tincleat.details.parts import HOOK, BentPlate, Block, Bolts, Fitting, Piece, Plate, Plug, Rod, Tie, Weld
from tincleat.details.plates import Hole
from tincleat.details.tapers import Taper, square
from tincleat.exchange.ifc_pen import Pen
from tincleat.exchange.spf import Enum, Ref
from tincleat.geometry.frames import Frame, unit, vec
from tincleat.geometry.outline import Outline
from tincleat.ledger.entries import Entry
from tincleat.steel.body import drill_depth, sink_frame
from tincleat.steel.cuts import Cuts, EndCut

BEYOND = 5.0  # mm that a profile is drawn past an end that is cut slanting


def _sunk_at(hole: Hole, flat: Frame, thickness: float) -> Frame:
    """Where a flat's countersink opens: its middle on the face, z into the steel."""
    return flat.at(Frame((hole.x, hole.y, thickness if hole.sink_top else 0.0), (1.0, 0.0, 0.0), (0.0, 0.0, -1.0 if hole.sink_top else 1.0)))


def drawn_past(cuts: Cuts, low: float, high: float) -> tuple[float, float]:
    """From where to where (mm) a bar's profile is drawn before its ends are cut off it: past the longest fibre of a slanting end, for some
    readers do not cut along a plane that touches a round profile's end in one point."""
    slants = [e.normal[0] for e in cuts.ends if abs(abs(e.normal[0]) - 1.0) > 1e-9]
    return low - BEYOND * any(n > 0 for n in slants), high + BEYOND * any(n < 0 for n in slants)


class Parts(Pen):
    """What details are made of."""

    def _beyond(self, end: EndCut) -> Ref:
        outward = -np.array(end.normal)
        aside = np.array([0.0, 0.0, 1.0]) if abs(outward[2]) < 0.9 else np.array([0.0, 1.0, 0.0])
        frame = Frame.of(end.point, aside - outward * float(aside @ outward), outward)
        return self.f.add("IFCHALFSPACESOLID", self.f.add("IFCPLANE", self._axes(frame)), False)

    def _openings(self, element: Ref, at: Ref, key: str, cuts: Cuts, shape: Section) -> None:
        """Notches and holes of a bar, as openings in it."""
        for i, notch in enumerate(cuts.notches):
            self._opening(element, at, f"{key} notch {i}", [self._extruded(self._area(notch.outline), notch.frame, notch.depth)], notch.name)
        for i, hole in enumerate(cuts.holes):
            t = drill_depth(shape, hole.element)
            edge = Outline.circle(0, 0, hole.width) if hole.length <= hole.width else Outline.slot(0, 0, hole.width, hole.length, 0.0)
            along = Frame.of(hole.point, hole.along, hole.axis).moved(z=-t / 2)
            cone = [self._cone(sink_frame(hole, shape), hole.sink, hole.sink_angle)] if hole.sink else []  # whole: what of it is deeper lies in the hole
            self._opening(element, at, f"{key} hole {i}", [self._extruded(self._area(edge), along, t), *cone], "hole")

    def _opening(self, element: Ref, at: Ref, key: str, solids: list[Ref], label: str) -> None:
        f = self.f
        here = f.add("IFCLOCALPLACEMENT", at, self.world)
        made = f.add("IFCOPENINGELEMENT", self._guid(key), None, label, None, None, here, self._shape(solids, "SweptSolid"), None, Enum("OPENING"))
        f.add("IFCRELVOIDSELEMENT", self._guid(key, "in"), None, None, None, element, made)

    def _piece(self, piece: Piece, within: Ref, key: str) -> Ref:
        """A length of a section with its own cuts, placed in the assembly."""
        f, shape = self.f, piece.shape
        low, high = drawn_past(piece.cuts, 0.0, piece.length)
        laid, upward = self._axes(Frame((low, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), f.share("IFCDIRECTION", (0.0, 0.0, 1.0))
        body, kind = f.add("IFCEXTRUDEDAREASOLID", self._profile(shape), laid, upward, high - low), "SweptSolid"
        for end in piece.cuts.ends:
            body, kind = f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(end)), "Clipping"
        at = f.add("IFCLOCALPLACEMENT", within, self._axes(piece.frame))
        element = f.add("IFCMEMBER", self._guid(key), None, piece.name, None, piece.section, at, self._shape([self._styled(body, "plate")], kind), None, Enum("MEMBER"))
        self._openings(element, at, key, piece.cuts, shape)
        self.materials.setdefault(piece.grade, []).append(element)
        self._quantities(element, key, "Qto_MemberBaseQuantities", piece.length, piece.volume)
        return element

    def _plate(self, plate: Plate, at: Ref, key: str) -> Ref:
        holes = tuple(h.outline for h in plate.holes)
        sinks = tuple(h for h in plate.holes if h.sink)

        def make() -> list[Ref]:
            body = self._extruded(self._area(plate.outline, holes), Frame(), plate.thickness)
            for trim in plate.trims:
                body = self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(trim))
            for h in sinks:  # a whole cone: what of it is deeper than the countersink lies in the hole
                body = self.f.add("IFCBOOLEANRESULT", Enum("DIFFERENCE"), body, self._cone(_sunk_at(h, Frame(), plate.thickness), h.sink, h.sink_angle))
            for scoop in plate.scoops:
                side = Outline(tuple((x, y, 0.0) for x, y in scoop.ring().tolist()))
                body = self.f.add("IFCBOOLEANRESULT", Enum("DIFFERENCE"), body, self._extruded(self._area(side), scoop.frame(), scoop.length))
            return [self._styled(body, "plate")]

        item = self._mapped(("plate", plate.outline, holes, sinks, plate.thickness, plate.trims, plate.scoops), make, plate.frame, "CSG" if sinks or plate.scoops else "Clipping" if plate.trims else "SweptSolid")
        element = self.f.add(
            "IFCPLATE", self._guid(key), None, plate.name, None, f"PL {plate.thickness:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("SHEET")
        )
        self.materials.setdefault(plate.grade, []).append(element)
        self._quantities(element, key, "Qto_PlateBaseQuantities", 0.0, plate.volume)
        return element

    def _bent(self, bent: BentPlate, within: Ref, key: str) -> Ref:
        """A bent plate: its profile with true arcs, extruded along its bends, its holes as openings."""
        f = self.f
        at = f.add("IFCLOCALPLACEMENT", within, self._axes(bent.side))
        body = self._extruded(self._area(bent.profile), Frame((0.0, 0.0, -bent.high)), bent.high - bent.low)
        element = f.add("IFCPLATE", self._guid(key), None, bent.name, None, f"PL {bent.thickness:g} bent", at, self._shape([self._styled(body, "plate")], "SweptSolid"), None, Enum("SHEET"))
        for i, leg in enumerate(bent.legs):
            inner = bent.side.inside(leg.frame).moved(z=-1.0)
            for k, hole in enumerate(leg.holes):
                cone = [self._cone(_sunk_at(hole, inner.moved(z=1.0), bent.thickness), hole.sink, hole.sink_angle)] if hole.sink else []
                self._opening(element, at, f"{key} leg {i} hole {k}", [self._extruded(self._area(hole.outline), inner, bent.thickness + 2.0), *cone], "hole")
        self.materials.setdefault(bent.grade, []).append(element)
        self._quantities(element, key, "Qto_PlateBaseQuantities", 0.0, bent.volume)
        self._facts(element, key, "TinCleat_Bent", {"Developed length": float(bent.developed), "Inside radius": float(bent.radius), "Bends": " and ".join(f"{abs(np.degrees(a)):.3g}" for a in bent.turns)})
        return element

    def _bolts(self, entry: Entry, g: int, group: Bolts, at: Ref, key: str) -> Ref:
        assert entry.made is not None
        size = bolt_size(group.size)
        mine = [x for x in entry.made.assembled.fitted if x.group == g]
        items = []
        for one in mine:
            bolt = stack(group, one).moved(one.enter)
            tapers = tuple(msgspec.structs.replace(t, at=round(t.at - one.enter, 6)) for t in one.tapers)

            def make(bolt: Stack = bolt, tapers: tuple[Taper, ...] = tapers) -> list[Ref]:
                hexagon = Outline(tuple((size.head_af / np.sqrt(3) * np.cos(a), size.head_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
                rounds = Outline.circle(0, 0, size.d), Outline.circle(0, 0, size.washer_d)
                some = [(hexagon, None if bolt.sunk else bolt.head), (rounds[0], bolt.shank), (hexagon, bolt.nut), (rounds[1], bolt.washer)]
                solids = [self._extruded(self._area(outline), Frame((0.0, 0.0, s[0])), s[1] - s[0]) for outline, s in some if s is not None]
                if bolt.sunk:
                    solids.append(self._cone(Frame(), *countersunk_head(size.name)))
                for t in tapers:
                    low, high = t.block
                    block = self._extruded(self._area(square(t), (Outline.circle(0, 0, t.hole),)), Frame((0.0, 0.0, low)), high - low)
                    solids.append(self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), block, self._beyond(EndCut(0, (0.0, 0.0, t.at), t.kept))))
                return [self._styled(s, "bolt") for s in solids]

            items.append(self._mapped(("bolt", size.name, one.length, round(one.grip, 3), group.washers, group.head, group.nut, tapers), make, bolt_frame(group, one).moved(z=one.enter)))
        longest = max((x.length for x in mine), default=0.0)
        element = self.f.add(
            "IFCMECHANICALFASTENER",
            self._guid(key),
            None,
            f"{len(mine)} x {group.size}{' countersunk' if group.head == 'countersunk' else ''}{'' if group.nut else ' into a threaded hole'}",
            None,
            group.grade,
            at,
            self._shape(items, "MappedRepresentation"),
            None,
            size.d,
            longest,
            Enum("BOLT"),
        )
        self._facts(
            element, key, "TinCleat_Bolts", {"Size": group.size, "Grade": group.grade, "Count": len(mine), "Length": float(longest), "Site": group.site}
        )
        return element

    def _tie(self, tie: Tie, at: Ref, key: str) -> Ref:
        size = bolt_size(tie.size)

        def make() -> list[Ref]:
            hexagon = Outline(tuple((size.head_af / np.sqrt(3) * np.cos(a), size.head_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
            solids = [self._extruded(self._area(Outline.circle(0, 0, size.d)), Frame(), tie.length)]
            for i, (x, way) in enumerate(tie.nuts):
                near = tie.bearing(i, size.washer_d, size.washer_t)
                solids.append(self._extruded(self._area(hexagon), Frame((0.0, 0.0, min(near, near + way * size.nut_height))), size.nut_height))
                thick = abs(near - x)
                if thick > 1e-6:
                    deep = 2 * thick if tie.seats else thick
                    washer = self._extruded(self._area(Outline.circle(0, 0, size.washer_d)), Frame((0.0, 0.0, near - deep if way > 0 else near)), deep)
                    if tie.seats:  # in the solids' own frame the bar's x is z, its z x
                        nx, ny, nz = tie.seats[i]
                        washer = self.f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), washer, self._beyond(EndCut(0, (0.0, 0.0, x), (nz, -ny, nx))))
                    solids.append(washer)
            return [self._styled(s, "bolt") for s in solids]

        item = self._mapped(("tie", tie.size, tie.length, tie.nuts, tie.washers, tie.seats), make, tie_frame(tie))
        shape = self._shape([item], "MappedRepresentation")
        element = self.f.add("IFCMECHANICALFASTENER", self._guid(key), None, tie.name, None, f"{tie.size} {tie.grade}", at, shape, None, size.d, tie.length, Enum("USERDEFINED"))
        self._facts(element, key, "TinCleat_Rod", {"Size": tie.size, "Grade": tie.grade, "Length": float(tie.length), "Threads": " and ".join(f"{t:g}" for t in tie.threads)})
        return element

    def _fitting(self, fitting: Fitting, at: Ref, key: str) -> Ref:
        """A fork, turnbuckle, hillside washer or stud."""

        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(s.outline, s.holes), s.frame, s.depth), "bolt") for s in fitting.solids]

        item = self._mapped(("fitting", *fitting.solids), make, fitting.frame)
        element = self.f.add("IFCMECHANICALFASTENER", self._guid(key), None, fitting.name, fitting.words, f"{fitting.size} {fitting.grade}", at, self._shape([item], "MappedRepresentation"), None, fitting.bar, fitting.length, Enum("STUDSHEARCONNECTOR" if isinstance(fitting, Stud) else "USERDEFINED"))
        self._facts(element, key, "TinCleat_Fitting", {"Size": fitting.size, "Grade": fitting.grade, "Length": float(fitting.length)})
        return element

    def _rod(self, rod: Rod, at: Ref, key: str) -> Ref:
        size = anchor_size(rod.size)

        def make() -> list[Ref]:
            hexagon = Outline(tuple((size.nut_af / np.sqrt(3) * np.cos(a), size.nut_af / np.sqrt(3) * np.sin(a), 0.0) for a in np.arange(6) * np.pi / 3))
            half = rod.washer[0] / 2
            solids = [self._extruded(self._area(Outline.circle(0, 0, size.d)), Frame((0.0, 0.0, rod.bottom)), rod.top - rod.bottom)]
            solids += [self._extruded(self._area(hexagon), Frame((0.0, 0.0, n)), size.nut_height) for n in rod.nuts]
            solids += [self._extruded(self._area(Outline.rectangle(-half, -half, half, half)), Frame((0.0, 0.0, w)), rod.washer[1]) for w in rod.washers]
            if rod.foot == "plate":
                r = 1.75 * size.d
                solids.append(self._extruded(self._area(Outline.rectangle(-r, -r, r, r)), Frame((0.0, 0.0, rod.bottom - size.d / 2)), size.d / 2))
            elif rod.foot == "headed":
                solids.append(self._extruded(self._area(hexagon), Frame((0.0, 0.0, rod.bottom)), size.nut_height))
            elif rod.foot == "hooked":
                solids.append(self._extruded(self._area(Outline.circle(0, 0, size.d)), rod.tail, HOOK * size.d))
            return [self._styled(s, "bolt") for s in solids]

        key_ = ("rod", rod.size, rod.bottom, rod.top, rod.foot, rod.nuts, rod.washers, rod.washer, rod.tail if rod.foot == "hooked" else None)
        item = self._mapped(key_, make, rod.stand)
        return self.f.add(
            "IFCMECHANICALFASTENER",
            self._guid(key),
            None,
            rod.name,
            None,
            f"{rod.size} {rod.grade}",
            at,
            self._shape([item], "MappedRepresentation"),
            None,
            size.d,
            rod.top - rod.bottom,
            Enum("ANCHORBOLT"),
        )

    def _weld(self, weld: Weld, at: Ref, key: str) -> Ref:
        run = np.subtract(weld.end, weld.start)
        z = unit(run)
        frame = Frame.of(weld.start, weld.u, vec(z))
        flat = [(float(c[0]), float(c[1])) for c in (frame.unturn(np.array(p)) for p in weld.section)]
        if sum(a * y - x * b for (a, b), (x, y) in pairwise([*flat, flat[0]])) < 0:
            flat = [flat[0], *flat[:0:-1]]

        def make() -> list[Ref]:
            outline = Outline(tuple((x, y, 0.0) for x, y in flat))
            return [self._styled(self._extruded(self._area(outline), Frame(), float(np.linalg.norm(run))), "weld")]

        item = self._mapped(("weld", tuple(np.round(flat, 4).ravel().tolist()), round(float(np.linalg.norm(run)), 4)), make, frame)
        return self.f.add(
            "IFCFASTENER", self._guid(key), None, weld.name, None, f"{weld.kind} {weld.leg:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("WELD")
        )

    def _plug(self, plug: Plug, at: Ref, key: str) -> Ref:
        """A plug or slot weld."""

        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(plug.outline), Frame(), plug.depth), "weld")]

        item = self._mapped(("plug", plug.outline, plug.depth), make, plug.frame)
        return self.f.add("IFCFASTENER", self._guid(key), None, plug.name, None, f"{plug.kind} {plug.width:g}", at, self._shape([item], "MappedRepresentation"), None, Enum("WELD"))

    def _block(self, block: Block, at: Ref, key: str) -> Ref:
        def make() -> list[Ref]:
            return [self._styled(self._extruded(self._area(block.outline), Frame(), block.thickness), "concrete")]

        shape = self._shape([self._mapped(("block", block.outline, block.thickness), make, block.frame)], "MappedRepresentation")
        if block.name == "pad":
            element = self.f.add("IFCFOOTING", self._guid(key), None, "pad", None, block.material, at, shape, None, Enum("PAD_FOOTING"))
        else:
            element = self.f.add("IFCBUILDINGELEMENTPROXY", self._guid(key), None, block.name, None, block.material, at, shape, None, Enum("NOTDEFINED"))
        self.materials.setdefault(block.material, []).append(element)
        return element
