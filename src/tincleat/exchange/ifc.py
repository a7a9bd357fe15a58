"""IFC4 out: members with their cuts and holes, plates, bolts, welds, anchor rods, concrete, assemblies, property sets.

Like details share their shapes as mapped items; a bolt group is one fastener.  Lengths mm, masses kg.
"""

import datetime
import math
from pathlib import Path

import numpy as np

from tincleat import __version__
from tincleat.catalogue.sections import section
from tincleat.catalogue.timber import density
from tincleat.errors import Progress, go_on
from tincleat.exchange.ifc_parts import Parts, drawn_past
from tincleat.exchange.spf import Enum, Ref
from tincleat.files import write_whole
from tincleat.geometry.frames import Frame
from tincleat.ledger.entries import Entry
from tincleat.ledger.ledger import Ledger
from tincleat.ledger.steel import member_cuts
from tincleat.project.entities import Grid, Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.body import end_station, steel_volume
from tincleat.steel.cuts import Cuts
from tincleat.steel.flattened import flats_of, flattened_body, section_at
from tincleat.steel.members import cut_length, own_cuts
from tincleat.units import format_force

CLASSES = {"column": ("IFCCOLUMN", "COLUMN"), "post": ("IFCCOLUMN", "COLUMN"), "brace": ("IFCMEMBER", "BRACE"), "purlin": ("IFCMEMBER", "PURLIN"),
           "girt": ("IFCMEMBER", "MEMBER"), "rafter": ("IFCMEMBER", "RAFTER"), "joist": ("IFCBEAM", "JOIST"), "beam": ("IFCBEAM", "BEAM"), "other": ("IFCMEMBER", "MEMBER")}  # fmt: skip
PAST = 1500.0  # mm that grid lines go past the outer ones


class _Writer(Parts):
    """Builds one file; every ``_`` method adds what its name says and returns its reference."""

    def member(self, m: Member, cuts: Cuts) -> None:
        """One member with end cuts, notches and holes."""
        f, shape, full = self.f, section(m.section), length(m)
        frame = axis_frame(m)
        corners = [end_station(cuts.ends, 0.0, full, y, z) for y in (-shape.b / 2, shape.b / 2) for z in (-shape.reach, shape.reach)]
        low, high = drawn_past(cuts, min(c[0] for c in corners), max(c[1] for c in corners))
        low += sum(e.flat + e.taper for e in flats_of(cuts) if e.normal[0] > 0)
        high -= sum(e.flat + e.taper for e in flats_of(cuts) if e.normal[0] < 0)
        # the profile's plane has y to the right and z up, and is drawn along x
        laid, upward = self._axes(Frame((low, 0.0, 0.0), (0.0, 1.0, 0.0), (1.0, 0.0, 0.0))), f.share("IFCDIRECTION", (0.0, 0.0, 1.0))
        if shape.h_end:
            first, last = (self._tapered(shape, x / full) for x in (low, high))
            body = f.add("IFCEXTRUDEDAREASOLIDTAPERED", first, laid, upward, high - low, last)
        else:
            body = f.add("IFCEXTRUDEDAREASOLID", self._profile(shape), laid, upward, high - low)
        kind = "SweptSolid"
        for end in cuts.ends:
            if abs(abs(end.normal[0]) - 1.0) > 1e-9:
                body, kind = f.add("IFCBOOLEANCLIPPINGRESULT", Enum("DIFFERENCE"), body, self._beyond(end)), "Clipping"
        items = [self._styled(body, "steel")]
        for end in flats_of(cuts):  # its walls lie on each other: a bar of two half circles, and what draws it out of the round
            across = Frame.of(end.point, end.across, end.normal)
            taper = flattened_body(shape, Cuts((end,)), low, high, (shape.outer.coarse(6), shape.inner[0].coarse(6)), True)
            items += [self._styled(i, "steel") for i in (self._extruded(self._area(section_at(shape, shape.tw)), across, end.flat), self._faceted(taper))]
            kind = "SolidModel"
        storey = self.row.get(m.level, self._storey(min(m.start[2], m.end[2])))
        at = self._placed(frame, storey)
        name, predefined = CLASSES[m.role]
        system = np.round(frame.to_local((m.start, m.end)), 6) + 0.0
        element = f.add(
            name, m.guid or self._guid("member", m.id), None, m.name, None, m.section, at, self._shape(items, kind, system), m.id, Enum(predefined)
        )
        self.contained[storey].append(element)
        self.elements[m.id] = element
        self.materials.setdefault(m.grade, []).append(element)
        self._openings(element, at, m.id, cuts, shape)
        volume = steel_volume(shape, cuts, 0.0, full)
        self._facts(element, m.id, {"IFCCOLUMN": "Pset_ColumnCommon", "IFCBEAM": "Pset_BeamCommon"}.get(name, "Pset_MemberCommon"), {"Reference": m.section})
        self._facts(element, m.id, "TinCleat_Member", {"Section": m.section, "Grade": m.grade, "Role": m.role, "Cardinal": m.cardinal, "Roll": float(m.roll), **_own_ends(m)})
        self._quantities(
            element,
            m.id,
            {"IFCCOLUMN": "Qto_ColumnBaseQuantities", "IFCBEAM": "Qto_BeamBaseQuantities"}.get(name, "Qto_MemberBaseQuantities"),
            cut_length(m, cuts),
            volume,
            density(shape, m.grade),
        )

    def connection(self, entry: Entry) -> None:
        """One connection as an assembly of its parts."""
        f, joint, made, c = self.f, entry.joint, entry.made, entry.connection
        assert made is not None and c is not None
        storey = self._storey(joint.frame.origin[2])
        at = self._placed(joint.frame, storey)
        inner = f.add("IFCLOCALPLACEMENT", at, self.world)
        parts: list[Ref] = []
        for i, plate in enumerate(made.detail.plates):
            parts.append(self._plate(plate, inner, f"{c.id} plate {i}"))
        for i, bent in enumerate(made.detail.bents):
            parts.append(self._bent(bent, at, f"{c.id} bent plate {i}"))
        for i, piece in enumerate(made.detail.pieces):
            parts.append(self._piece(piece, at, f"{c.id} piece {i}"))
        for g, group in enumerate(made.detail.bolts):
            parts.append(self._bolts(entry, g, group, inner, f"{c.id} bolts {g}"))
        for i, rod in enumerate(made.detail.rods):
            parts.append(self._rod(rod, inner, f"{c.id} rod {i}"))
        for i, tie in enumerate(made.detail.ties):
            parts.append(self._tie(tie, inner, f"{c.id} tie {i}"))
        for i, fitting in enumerate(made.detail.fittings):
            parts.append(self._fitting(fitting, inner, f"{c.id} fitting {i}"))
        for i, weld in enumerate(made.detail.welds):
            parts.append(self._weld(weld, inner, f"{c.id} weld {i}"))
        for i, plug in enumerate(made.detail.plugs):
            parts.append(self._plug(plug, inner, f"{c.id} plug {i}"))
        parts += [self._block(block, inner, f"{c.id} block {i}") for i, block in enumerate(made.detail.blocks)]
        assembly = f.add(
            "IFCELEMENTASSEMBLY",
            self._guid("connection", c.id),
            None,
            f"{made.detail.family} {c.id}",
            joint.words,
            made.detail.family,
            at,
            None,
            c.id,
            Enum("SITE"),
            Enum("USERDEFINED"),
        )
        self.contained[storey].append(assembly)
        f.add("IFCRELAGGREGATES", self._guid(c.id, "parts"), None, None, None, assembly, parts)
        ids = joint.members
        if len(ids) > 1:
            f.add(
                "IFCRELCONNECTSWITHREALIZINGELEMENTS",
                self._guid(c.id, "joins"),
                None,
                None,
                None,
                None,
                self.elements[ids[1]],
                self.elements[ids[0]],
                [assembly],
                made.detail.family,
            )
        self._facts(assembly, c.id, "TinCleat_Connection", {"Family": c.family, "Joint": joint.words, "Place": self.ledger.place(joint), "Worst finding": entry.level, **{f"Greatest force {words}": format_force(force, self.project.house.units, mark=True) for words, force in made.detail.forces}})

    def grid(self, g: Grid) -> None:
        """One grid: lines crossed going along its x axis first, a little past the outer ones."""
        f = self.f
        c, s = math.cos(g.angle), math.sin(g.angle)
        at = f.add("IFCLOCALPLACEMENT", self.building_at, self._axes(Frame(g.origin, (c, s, 0.0), (0.0, 0.0, 1.0))))
        (x0, x1), (y0, y1) = ((family[0][1] - PAST, family[-1][1] + PAST) for family in (g.x, g.y))
        families: list[list[Ref]] = []
        curves: list[Ref] = []
        for lines in ([(n, (v, y0), (v, y1)) for n, v in g.x], [(n, (x0, v), (x1, v)) for n, v in g.y]):
            made = [(n, f.add("IFCPOLYLINE", [f.share("IFCCARTESIANPOINT", p) for p in ends])) for n, *ends in lines]
            curves += [curve for _, curve in made]
            families.append([f.add("IFCGRIDAXIS", n, curve, True) for n, curve in made])
        drawn = f.add("IFCSHAPEREPRESENTATION", self.footprint, "FootPrint", "GeometricCurveSet", [f.add("IFCGEOMETRICCURVESET", curves)])
        shape = f.add("IFCPRODUCTDEFINITIONSHAPE", None, None, [drawn])
        made_grid = f.add("IFCGRID", self._guid("grid", g.id), None, g.name, None, None, at, shape, *families, None, Enum("RECTANGULAR"))
        self.contained[self._storey(g.origin[2])].append(made_grid)

    def finish(self) -> None:
        """Containment and materials."""
        f = self.f
        for i, elements in enumerate(self.contained):
            if elements:
                f.add("IFCRELCONTAINEDINSPATIALSTRUCTURE", self._guid("in storey", next((k for k, row in self.row.items() if row == i), "ground")), None, None, None, elements, self.storeys[i])
        for name, elements in self.materials.items():
            f.add("IFCRELASSOCIATESMATERIAL", self._guid("material", name), None, None, None, elements, f.add("IFCMATERIAL", name, None, None))


def _own_ends(m: Member) -> "dict[str, str | float | int | bool]":
    """How many of a member's leaning end planes are its own, and where it is cut square of itself (mm from its start): what else its body shows is its connections'."""
    out: dict[str, str | float | int | bool] = {}
    leaning = 0
    for end in own_cuts(m).ends:
        if abs(abs(end.normal[0]) - 1.0) > 1e-9:
            leaning += 1
        else:
            out["Own start" if end.normal[0] > 0 else "Own end"] = float(end.point[0])
    return {"Own planes": leaning, **out}


def export_ifc(ledger: Ledger, path: "str | Path", progress: Progress | None = None) -> Path:
    """Write the whole project as IFC4; ``progress(share, words)`` may return False to stop, then Cancelled is raised and nothing written."""
    stamp = datetime.datetime.now(datetime.UTC).strftime("%Y-%m-%dT%H:%M:%S")
    writer = _Writer(ledger, Path(path).stem, stamp)
    cuts = member_cuts(ledger)
    joined = [e for e in ledger.entries.values() if e.made is not None and e.connection is not None]
    total = len(ledger.project.members) + len(joined) + 1

    def step(done: int, words: str) -> None:
        if done % 50 == 0:
            go_on(progress, done / total, words, "the export was stopped; nothing was written")

    for i, m in enumerate(ledger.project.members.values()):
        step(i, "members")
        writer.member(m, cuts.get(m.id, Cuts()))
    for i, entry in enumerate(joined):
        step(len(ledger.project.members) + i, "connections")
        writer.connection(entry)
    for grid in ledger.project.grids.values():
        writer.grid(grid)
    writer.finish()
    document = writer.f.document("IFC4", Path(path).name, stamp, f"Tin Cleat {__version__}")
    return write_whole(path, lambda part: _write(part, document))


def _write(path: Path, document: str) -> None:
    path.write_text(document, encoding="ascii")
