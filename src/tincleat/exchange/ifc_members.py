"""Steel members of a file: by their lines, profiles and cuts, by their bodies, or by their lines alone."""

import math
from collections.abc import Sequence
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.recognise import Match, by_name
from tincleat.catalogue.sections import OwnName, Section, plain, section
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc_bodies import bar_of, end_planes
from tincleat.exchange.ifc_cuts import differences, with_cuts
from tincleat.exchange.ifc_facts import ODD
from tincleat.exchange.ifc_profiles import match_profile, own_row, profile_label, profile_size, section_axes
from tincleat.exchange.ifc_rest import Rest, representations, tidy
from tincleat.exchange.ifc_shapes import Broken, Unread, numbers
from tincleat.exchange.ifc_solids import Reader, Swept, prism_of
from tincleat.exchange.ifc_source import text_of
from tincleat.geometry.frames import Array, crossed, unit
from tincleat.geometry.mesh import Mesh
from tincleat.project.entities import Cardinal, Member, Plane
from tincleat.project.members import axis_frame, cardinal_point
from tincleat.project.motion import roll_for

BAR = 1.0  # least length of a bar by the larger size of its section; shorter pieces are plates and stubs of connections
CARDINALS: tuple[Cardinal, ...] = ("centre", "top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right", "centroid")
# IfcCardinalPointReference; left is where the profile's x points
POINTS: dict[int, Cardinal] = {1: "bottom left", 2: "bottom", 3: "bottom right", 4: "left", 5: "centre", 6: "right", 7: "top left", 8: "top", 9: "top right", 10: "centroid"}


class Members(Rest):
    """Members, as far as they are steel bars."""

    def _member(self, product: Any) -> list[Member]:
        kind, told = self.facts.kind_of(product)
        if kind not in ("", "steel"):
            self._as_reference(product, f"it is of {kind} ({told})")
            return []
        try:
            world = self.places.of(product.ObjectPlacement)
        except Unread as error:
            found = self._from_body(product, None)
            if found:
                self._note("placed by the geometry engine", f"{self._called(product)}: {error}; where it lies is the geometry engine's word")
                return found
            raise
        bodies, line = representations(product, world)
        if not bodies:
            return self._from_line(product, world, line)
        reader = Reader()
        swept = [s for rep in bodies for s in reader.of(rep, world)]
        self.partial = False
        made = self._bars(product, swept, line) if swept and not any(s.shear for s in swept) else []
        if not made:
            found = self._from_body(product, line)
            if not found:
                self._as_reference(product, self._why_not(swept, reader.odd))
            return found
        if not self.facts.own(product) and not self.partial and (len(swept) > 1 or reader.odd or any(not s.plain or s.odd for s in swept) or product.HasOpenings):
            self._compare(product, made)
        return made

    def _why_not(self, swept: Sequence[Swept], odd: Sequence[str]) -> str:
        labels = [profile_label(s.profile, self.scale) for s in swept if s.profile is not None]
        return f"its profile {labels[0]!r} is like no section of the catalogue" if labels else f"its shape ({', '.join(odd) or 'nothing'}) is no bar of the catalogue"

    def _bars(self, product: Any, swept: Sequence[Swept], line: "tuple[Array, Array] | None") -> list[Member]:
        """The members a product's solids are: every bar of it, plates and stubs left to the connections, pieces of one bar joined."""
        ours = self.facts.own(product)
        openings, strange = self._openings(product, ours)
        found: list[tuple[float, Match, Array, Swept]] = []
        for s in swept:
            match, plane = self._section_of(s)
            if match is not None:
                found.append((float(np.linalg.norm(s.way)) * self.scale, match, plane, s))
            elif len(swept) > 1:
                self.partial = True
                if (size := profile_size(s.profile, self.scale)) is not None and float(np.linalg.norm(s.way)) * self.scale < min(size):
                    words = " x ".join(f"{v:.0f}" for v in (*size, float(np.linalg.norm(s.way)) * self.scale))
                    self._note("plates in bodies", f"{self._called(product)}: a plate {words} in its body was left out: connections are placed anew")
                    continue
                self._note("parts of bodies", f"{self._called(product)}: a part of its body ({profile_label(s.profile, self.scale)}) is like no section and was left out")
        found.sort(key=lambda f: -f[0])
        found = found[:1] if ours else found  # of our own the bar alone: what its end was made of comes with its connection
        out: list[Member] = []
        for i, (long, match, plane, s) in enumerate(found):
            shape = section(match.section)
            if i and long < BAR * max(shape.h, shape.b):
                self.partial = True
                self._note("plates in bodies", f"{self._called(product)}: a piece of {shape.name}, {long:.0f} mm long, in its body was left out: connections are placed anew")
                continue
            member = self._steel(product, match, plane, s, line if i == 0 else None)
            taken = Swept(s.profile, s.matrix, s.way, planes=s.planes, prisms=[*s.prisms, *openings], odd=[*s.odd, *(strange if i == 0 else ())])
            if ours:
                taken.planes = s.planes[: int(ours.get("Own planes", 0) or 0)]
            before = member
            odd: list[str] = []
            if taken.planes or taken.prisms or taken.odd:
                member, odd = with_cuts(member, taken, self.scale)
            if ours:
                member = _own_ends(before, member, ours)
            if odd:
                self._note("cuts left out", f"{self._called(product)}: not taken off: {'; '.join(odd)}")
            out.append(member)
        out = _joined(out)
        if len(out) > 1:
            self._note("bodies of several bars", f"{self._called(product)}: its body is {len(out)} bars; each came in as a member")
            out = [msgspec.structs.replace(m, guid=m.guid if i == 0 else self._unique(f"{m.guid} part {i}", ""), name=m.name if i == 0 or not m.name else f"{m.name}/{i + 1}") for i, m in enumerate(out)]
        return out

    def _openings(self, product: Any, ours: "dict[str, Any]") -> "tuple[list[Any], list[str]]":
        """The prisms of a product's openings in the world, and what openings are that are no prisms."""
        prisms: list[Any] = []
        odd: list[str] = []
        left = 0
        for rel in product.HasOpenings or ():
            opening = rel.RelatedOpeningElement
            if ours and text_of(opening, "Name") != "polygon cut":
                left += 1
                continue
            try:
                world = self.places.of(opening.ObjectPlacement)
                reader = Reader()
                for rep in representations(opening, world)[0]:
                    for s in reader.of(rep, world):
                        if s.planes or s.prisms or s.odd or s.round_:
                            raise Broken("an opening that is no prism")
                        prisms.append(prism_of(s))
                if reader.odd:
                    raise Broken(f"an opening of {', '.join(reader.odd)}")
            except (Broken, *ODD) as error:
                odd.append(str(error)[:100])
        if left:
            self.many["cuts of connections"] += left
        return prisms, odd

    def _section_of(self, s: Swept) -> "tuple[Match | None, Array]":
        if s.profile is None:
            assert s.round_ is not None
            radius, wall = (v * self.scale * float(np.linalg.norm(s.matrix[:3, 0])) for v in s.round_)
            found = by_name(f"CHS{2 * radius:.2f}X{wall:.2f}" if wall else f"RD{2 * radius:.2f}")
            return (Match(found.name, 0.97, "sizes") if found is not None else None), np.eye(4)
        return self._match(s.profile, float(np.linalg.norm(s.matrix[:3, 0])))

    def _compare(self, product: Any, made: Sequence[Member]) -> None:
        """Look at what came in beside the source's own body, and say where they differ."""
        mesh = self._mesh(product)
        if mesh is None:
            self._note("not compared", f"{self._called(product)}: its body could not be made by the geometry engine, so that nothing compares with what came in")
            return
        try:
            for words in differences(list(made), Mesh(*mesh)):
                self._note("differs from its body", f"{self._called(product)} ({text_of(product, 'GlobalId')}): {words}")
        except (TinCleatError, ValueError, ArithmeticError) as error:
            self._note("not compared", f"{self._called(product)}: it could not be compared with its body: {str(error)[:100]}")

    def _from_body(self, product: Any, line: "tuple[Array, Array] | None") -> list[Member]:
        """A member whose shape is a bare body, if that is a bar of a section, its ends as the body's are."""
        mesh = self._mesh(product)
        bar = bar_of(*mesh, self._named(product)) if mesh is not None else None
        if bar is None or mesh is None:
            return []
        matrix = bar.matrix.copy()
        matrix[:3, 3] /= self.scale
        s = Swept(None, matrix, bar.way / self.scale, planes=end_planes(*mesh, bar, self.scale))
        member, _ = with_cuts(self._steel(product, bar.match, section_axes(bar.match), s, line), s, self.scale)
        self.out.profiles.setdefault(f"body like {bar.match.section}", bar.match)
        self.out.counts[f"body like {bar.match.section}"] += 1
        self._note("bare bodies", f"{self._called(product)}: its body is like {bar.match.section} ({bar.match.confidence:.0%}); it came in as that")
        self._compare(product, [member])
        return [member]

    def _named(self, product: Any) -> "Section | None":
        """The section that a product's profile set or its own names mean."""
        profile = self.facts.of(product).profile
        for name in (getattr(profile, "ProfileName", None), text_of(product, "ObjectType"), text_of(product, "Description"), text_of(product, "Name")):
            meant = self.meanings.get(plain(name)) if name else None
            found = section(meant) if meant else by_name(name) if name else None
            if found is not None and not found.h_end:
                return found
        return None

    def _from_line(self, product: Any, world: Array, line: "tuple[Array, Array] | None", up: "Array | None" = None) -> list[Member]:
        """A member of which only a line and a profile are told: hung by its cardinal point, rolled as its placement is."""
        told = self.facts.of(product)
        if told.profile is None:
            raise Broken("it has neither a shape nor a profile")
        if line is None:
            self._as_reference(product, "it has a profile but no line")
            return []
        match, plane = self._match(told.profile, 1.0)
        if match is None:
            label = profile_label(told.profile, self.scale)
            self._as_reference(product, f"its profile {label!r} is like no section of the catalogue")
            return []
        a, b = line
        if not np.isfinite([a, b]).all() or math.dist(a, b) * self.scale < 1.0:
            raise Broken("it has no length")
        x = unit(b - a)
        local = world[:3, :3] / np.linalg.norm(world[:3, :3], axis=0)
        if up is not None and abs(float(unit(up) @ x)) < 0.999:
            z = up
        elif up is None and abs(float(x @ local[:, 2])) > 0.999:
            z = local[:, 1]  # drawn along its own z axis, the profile lies in its x and y
        elif up is None:
            z = local[:, 2]
        else:
            z = np.array([0.0, 0.0, 1.0]) if abs(x[2]) < 0.999 else np.array([1.0, 0.0, 0.0])
        y = unit(z - x * float(z @ x))
        matrix = np.eye(4)
        matrix[:3, 0], matrix[:3, 1], matrix[:3, 2], matrix[:3, 3] = np.cross(y, x), y, x, a
        if told.cardinal is not None:
            if told.cardinal not in POINTS:
                self._note("cardinal points", f"{self._called(product)}: cardinal point {told.cardinal} is not read; it hangs by its middle")
            plane = plane.copy()
            plane[:3, 3] = 0.0
            s = section(match.section)
            w, h = (s.b, s.h) if match.turn % 2 == 0 else (s.h, s.b)
            name = POINTS.get(told.cardinal, "centre")
            if name == "centroid":
                cy, cz = s.centroid
                at = plane[:3, 0] * cy + plane[:3, 1] * cz
            else:
                at = np.array([w / 2 * (("left" in name) - ("right" in name)), h / 2 * (("top" in name) - ("bottom" in name)), 0.0])
            plane[:3, 3] = -at / self.scale
        return [self._steel(product, match, plane, Swept(told.profile, matrix, b - a), line)]

    def _steel(self, product: Any, match: Match, plane: Array, body: Swept, line: "tuple[Array, Array] | None") -> Member:
        s = section(match.section)
        if isinstance(match.section, OwnName):
            self.out.own.setdefault(str(match.section), own_row(match.section))
        if body.tapered and not s.h_end:
            self._note("tapered", f"{self._called(product)}: it is tapered and came in as {match.section} all along; name it as a tapered girder to change that")
        matrix = body.matrix @ plane
        first = matrix[:3, 3] * self.scale
        last = (matrix[:3, 3] + body.way) * self.scale
        if not np.isfinite(last).all() or math.dist(last, first) < 1.0:
            raise Broken("it has no length")
        x, z = unit(last - first), matrix[:3, 1]
        z = unit(z - x * float(z @ x))
        turned = float(crossed(z, x) @ matrix[:3, 0]) < 0  # the other hand: a mirrored profile, or one swept against its normal
        if turned and s.shape in ("C", "CF"):
            z = -z
        elif turned and not s.symmetric and s.shape != "T":
            first, last, x = last, first, -x
        start, end = self._along(product, first, last, x, line)
        roll = roll_for(unit(end - start), z, "level")
        if s.h_end:
            # the body starts where it is cut; the girder's own start lies on the line, its middle that much lower or higher
            share = float((first - start) @ x) / math.dist(start, end)
            first = first - z * (sum(s.slopes) / 2 * share)
        cardinal, offset = _hung(s, start, first, crossed(z, x), z)
        storey = self.facts.storeys.get(product.id())
        member = Member(
            "", text_of(product, "Name"), self._role(product, x), match.section, self._grade(product), tidy(start), tidy(end), roll, cardinal, offset,
            guid=self._unique(text_of(product, "GlobalId"), self._called(product)), level=text_of(storey, "GlobalId") if storey is not None else "", up="level",
        )  # fmt: skip
        weight = self.facts.weight(product)
        if weight > 0:
            self.weighed.append((weight, member))
        return member

    def _along(self, product: Any, first: Array, last: Array, x: Array, line: "tuple[Array, Array] | None") -> tuple[Array, Array]:
        """Where a member's line starts and ends: beside its steel as the axis lies, as long as its steel is; of members this program wrote, all of the axis."""
        if line is None:
            return first, last
        a, b = line[0] * self.scale, line[1] * self.scale
        if math.dist(a, b) < 1.0 or not np.isfinite([a, b]).all():
            return first, last
        along = float(unit(b - a) @ x)
        if along < 0:
            a, b, along = b, a, -along
        if self.facts.own(product) and along > 0.9999:
            return a, b
        lean = math.degrees(math.acos(min(1.0, along)))
        if lean > 0.1:
            self._note("axis off the body", f"{self._called(product)} ({text_of(product, 'GlobalId')}): its axis leans {lean:.2f}° against its body; the body was followed")
            return first, last
        off = [(p - first) - x * float((p - first) @ x) for p in (a, b)]
        aside = (off[0] + off[1]) / 2 if float(np.linalg.norm(off[0] - off[1])) > 0.05 else off[0]
        gaps = (float((first - a) @ x), float((last - b) @ x))
        if max(map(abs, gaps)) > 0.1 or float(np.linalg.norm(off[0] - off[1])) > 0.1:
            self._note(
                "axis off the body",
                f"{self._called(product)} ({text_of(product, 'GlobalId')}): its axis is {math.dist(a, b):.1f} long, its body {math.dist(first, last):.1f}; the body was followed",
            )
        return first + aside, last + aside

    def _edge(self, product: Any) -> tuple[Array, Array]:
        world = self.places.of(product.ObjectPlacement)
        for rep in product.Representation.Representations if product.Representation is not None else ():
            for item in rep.Items or ():
                if item.is_a("IfcEdge"):
                    ends = [np.array(numbers(v.VertexGeometry.Coordinates, 3, "a vertex")) for v in (item.EdgeStart, item.EdgeEnd)]
                    return ends[0] @ world[:3, :3].T + world[:3, 3], ends[1] @ world[:3, :3].T + world[:3, 3]
        raise Broken("it has no line")

    def _match(self, profile: Any, factor: float) -> "tuple[Match | None, Array]":
        """The section a profile is (its sizes ``factor`` larger than the file's unit), and the (4, 4) matrix from the section's axes to the profile's plane."""
        key = (profile.id(), round(factor, 9))
        found = self.matches.get(key)
        label = self.labels.get(key) or self.labels.setdefault(key, profile_label(profile, self.scale * factor))
        if found is None:
            try:
                found = match_profile(profile, self.scale * factor, self.meanings, self.out.notes)
            except Broken as error:
                self._note("profiles", f"profile {label!r}: {error}")
                found = (None, np.eye(4))
            self.matches[key] = found
            if found[0] is not None:
                self.out.profiles.setdefault(label, found[0])
        if found[0] is not None:
            self.out.counts[label] += 1
        return found

    def _analysis(self, taken: "set[tuple[Any, ...]]") -> None:
        """Members of a structural analysis model, but for those that a physical member lies on already."""
        doubles = 0
        for product in self._all("IfcStructuralCurveMember"):

            def read_(p: Any) -> list[Member]:
                world = self.places.of(p.ObjectPlacement)
                up = getattr(p, "Axis", None)
                way = world[:3, :3] @ np.array(numbers(up.DirectionRatios, 3, "an axis")) if up is not None else np.array([0.0, 0.0, 1.0])
                return [m for m in self._from_line(p, world, self._edge(p), way) if ends_of(m) not in taken]

            before = len(self.out.members) + len(self.out.left)
            self._guarded(product, read_)
            doubles += len(self.out.members) + len(self.out.left) == before
        if doubles:
            self.out.notes.append(f"{doubles} analysis members lie on members of the same model and were not taken twice")


def _own_ends(before: Member, member: Member, ours: "dict[str, Any]") -> Member:
    """What this program wrote of a member's own ends: its line is the system line whatever its connections cut, square ends of its own are planes again."""
    if member is not before:
        member = msgspec.structs.replace(member, start=before.start, end=before.end)
    if "Own start" not in ours and "Own end" not in ours:
        return member
    x = unit(np.subtract(member.end, member.start))
    origin = np.array(axis_frame(member).origin)
    cuts = list(member.cuts)
    for name, way in (("Own start", x), ("Own end", -x)):
        at = ours.get(name)
        if isinstance(at, float) and math.isfinite(at):
            cuts.append(Plane(tidy(origin + x * at), (float(way[0]), float(way[1]), float(way[2]))))
    return msgspec.structs.replace(member, cuts=tuple(cuts))


def _joined(found: "list[Member]") -> "list[Member]":
    """Pieces of one section that follow each other in one line as one member."""
    out: list[Member] = []
    for m in found:
        for i, o in enumerate(out):
            if o.section != m.section or o.cuts or m.cuts or abs(o.roll - m.roll) > 1e-6 or (o.cardinal, o.offset) != (m.cardinal, m.offset):
                continue
            x = unit(np.subtract(o.end, o.start))
            if float(unit(np.subtract(m.end, m.start)) @ x) < 1 - 1e-9:
                continue
            if math.dist(o.end, m.start) < 0.5:
                out[i] = msgspec.structs.replace(o, end=m.end, outs=o.outs + m.outs)
                break
            if math.dist(m.end, o.start) < 0.5:
                out[i] = msgspec.structs.replace(o, start=m.start, outs=o.outs + m.outs)
                break
        else:
            out.append(m)
    return out


def ends_of(m: Member) -> "tuple[Any, ...]":
    """Where a member lies, in whole centimetres: its ends in any order."""
    return tuple(sorted(tuple(round(v / 10) for v in p) for p in (m.start, m.end)))


def _hung(s: Section, start: Array, centre: Array, y: Array, z: Array) -> tuple[Cardinal, tuple[float, float]]:
    """The cardinal point, and the offset left over, by which a section's middle lies beside its line."""
    gap = centre - start
    across, deep = float(gap @ y), float(gap @ z)
    if abs(across) < 0.005 and abs(deep) < 0.005:
        return "centre", (0.0, 0.0)
    for name in CARDINALS:
        at = cardinal_point(s, name)
        if abs(across + at[0]) < 0.005 and abs(deep + at[1]) < 0.005:
            return name, (0.0, 0.0)
    return "centre", (round(across, 3) + 0.0, round(deep, 3) + 0.0)
