"""What a file holds beside steel members: bodies that come in as reference; masses compared, and a model brought near the origin."""

import math
from collections import Counter
from typing import Any

import msgspec
import numpy as np

from tincleat.catalogue.sections import section
from tincleat.errors import BadValue
from tincleat.exchange.ifc_facets import facets_of
from tincleat.exchange.ifc_facts import ODD
from tincleat.exchange.ifc_file import library
from tincleat.exchange.ifc_shapes import Broken, line_of
from tincleat.exchange.ifc_source import Body, Source, text_of
from tincleat.geometry.frames import Array, Vec3
from tincleat.project.entities import Member
from tincleat.project.members import check_member

MOST_BODIES = 2000
MOST_TRIANGLES = 60_000
MOST_ALL_TRIANGLES = 600_000
FAR = 1_000_000.0  # mm from the origin beyond which a whole model is brought near it
SMALL_PARTS = ("IfcMechanicalFastener", "IfcFastener", "IfcVirtualElement", "IfcDiscreteAccessory")
BODY_KINDS = ("SweptSolid", "AdvancedSweptSolid", "Clipping", "CSG", "SolidModel", "Brep", "AdvancedBrep", "Tessellation", "MappedRepresentation", "SurfaceModel")


class Rest(Source):
    """What is no member."""

    def _as_reference(self, product: Any, why: str) -> None:
        if self._body(product):
            self._note("kept as reference", f"{self._called(product)}: kept as reference, {why}")
        else:
            self._leave(product, why)

    def _body(self, product: Any) -> bool:
        if len(self.out.bodies) >= MOST_BODIES or self.triangles > MOST_ALL_TRIANGLES:
            return False
        mesh = self._mesh(product)
        if mesh is None:
            return False
        self.triangles += len(mesh[1])
        self.out.bodies.append(Body(text_of(product, "GlobalId"), text_of(product, "Name"), product.is_a(), *mesh))
        return True

    def _mesh(self, product: Any) -> "tuple[Array, np.ndarray] | None":
        """A product's body in the world: points (n, 3) in mm and triangles (m, 3); None if it cannot be made.  Facets are read, other bodies made by the geometry engine."""
        try:
            if not getattr(product, "HasOpenings", None):
                world = self.places.of(product.ObjectPlacement)
                bodies, _ = representations(product, world)
                found = facets_of(bodies[0], world) if len(bodies) == 1 else None
                if found is not None:
                    points, triangles = found[0] * self.scale, found[1]
                    return (points, triangles) if 3 < len(triangles) <= MOST_TRIANGLES and np.isfinite(points).all() else None
        except (Broken, *ODD):
            pass
        if self.body(product.id()):
            return None
        settings = library().geom.settings()
        settings.set("use-world-coords", True)
        try:
            shape = library().geom.create_shape(settings, product)
            points = np.array(shape.geometry.verts, dtype=float).reshape(-1, 3) * 1000.0 * (self.scale / self.engine_scale)
            triangles = np.array(shape.geometry.faces, dtype=np.int32).reshape(-1, 3)
        except Exception:  # the engine raises whatever its kernel does
            return None
        if not len(triangles) or len(triangles) > MOST_TRIANGLES or not np.isfinite(points).all():
            return None
        return points, triangles

    def _others(self, seen: set[int]) -> None:
        self._step(0.7, "reference bodies")
        small: Counter[str] = Counter()
        found = []
        for product in self._all("IfcElement"):
            if product.id() in seen or product.is_a("IfcElementAssembly") or product.is_a("IfcFeatureElement"):
                continue
            kind = next((k for k in SMALL_PARTS if product.is_a(k)), "")
            if kind or _in_assembly(product):
                small[kind or product.is_a()] += 1
            else:
                found.append(product)
        for i, product in enumerate(found):
            self._step(0.7 + 0.3 * i / len(found), f"reference bodies, {i} of {len(found)}")
            full = len(self.out.bodies) >= MOST_BODIES or self.triangles > MOST_ALL_TRIANGLES
            if full or not self._body(product):
                why = f"more than {MOST_BODIES} bodies, or {MOST_ALL_TRIANGLES} triangles" if full else self.body_why(product)
                self._leave(product, why)
        for kind, count in sorted(small.items()):
            self.out.notes.append(f"{count} {kind} left out: parts of connections are placed anew")
        if self.many.get("cuts of connections"):
            self.out.notes.append(f"{self.many.pop('cuts of connections')} cuts that connections made were left out: connections are placed anew")

    def body_why(self, product: Any) -> str:
        """Why a product's body could not be made."""
        return self.body(product.id()) or f"its shape cannot be made, or has more than {MOST_TRIANGLES} triangles"

    def _weigh(self) -> None:
        """Compare masses with the file's own quantities, member by member and in total."""
        if not self.weighed:
            return
        try:
            told = library().util.unit.get_project_unit(self.f, "MASSUNIT") is not None
            unit_scale = float(library().util.unit.calculate_unit_scale(self.f, "MASSUNIT")) if told else 1000.0
        except Exception:  # any broken unit assignment
            unit_scale = 1000.0
        kg = unit_scale / 1000.0 if unit_scale > 0 else 1.0  # grams are the library's unit of mass
        theirs = ours = 0.0
        for weight, m in self.weighed:
            mine = section(m.section).mass * math.dist(m.start, m.end) / 1000.0
            theirs, ours = theirs + weight * kg, ours + mine
            if abs(mine - weight * kg) > 0.1 * max(mine, weight * kg):
                self._note("quantities", f"{m.name or m.guid} ({m.guid}): the file says {weight * kg:.1f} kg, {m.section} weighs {mine:.1f} kg uncut")
        self.out.masses = (theirs, ours, len(self.weighed))
        self.out.notes.append(f"the file's own quantities give {theirs:.0f} kg for {len(self.weighed)} members, they weigh {ours:.0f} kg uncut ({ours / theirs - 1:+.1%})" if theirs else "the file's own quantities are 0")

    def _bring_near(self) -> None:
        points = np.array([p for m in self.out.members for p in (m.start, m.end)])
        if not len(points):
            if not self.out.left:
                self.out.notes.append("the file holds no beams, columns or members")
            return
        middle = np.median(points, axis=0)
        shift = np.where(np.abs(middle) > FAR, np.round(points.min(axis=0) / 1000.0) * 1000.0, 0.0)
        if shift.any():
            self.out.notes.append(f"the model lies far from the origin; it was moved by {', '.join(f'{-v:.0f}' for v in shift)} mm")
            self.out.site = msgspec.structs.replace(self.out.site, shift=tuple(float(v) / 1000.0 for v in shift))
        size = float(np.linalg.norm(np.ptp(points, axis=0)))
        if not 500.0 < size < 2_000_000.0:
            self.out.notes.append(f"the frame measures {size / 1000:.3f} m across; if that is wrong, import it with a unit")
        kept: list[Member] = []
        for m in self.out.members:
            try:
                kept.append(check_member(_shifted(m, shift) if shift.any() else m))
            except BadValue as error:
                self.out.left.append({"guid": m.guid, "kind": "member", "name": m.name, "why": str(error)})
        self.out.members = kept
        self.out.bodies = [Body(b.guid, b.name, b.kind, b.points - shift, b.triangles) for b in self.out.bodies]
        self.out.levels = [(n, z - float(shift[2]), b, g) for n, z, b, g in self.out.levels]
        self.out.grids = [msgspec.structs.replace(g, origin=tidy(np.array(g.origin) - shift)) for g in self.out.grids]


def _shifted(m: Member, shift: Array) -> Member:
    cuts = tuple(msgspec.structs.replace(c, point=tidy(np.array(c.point) - shift)) for c in m.cuts)
    outs = tuple(msgspec.structs.replace(c, point=tidy(np.array(c.point) - shift)) for c in m.outs)
    return msgspec.structs.replace(m, start=tidy(np.array(m.start) - shift), end=tidy(np.array(m.end) - shift), cuts=cuts, outs=outs)


def representations(product: Any, world: Array) -> "tuple[list[Any], tuple[Array, Array] | None]":
    """A product's bodies (those called Body, else whatever is a solid or surface) and the ends of its axis in the world."""
    shape = product.Representation
    reps = [] if shape is None else list(shape.Representations or ())
    axis = next((r for r in reps if r.RepresentationIdentifier == "Axis"), None)
    bodies = [r for r in reps if r.RepresentationIdentifier == "Body"]
    if not bodies:
        bodies = [r for r in reps if r.RepresentationIdentifier not in ("Axis", "FootPrint", "Box", "Clearance", "Annotation", "CoG", "Reference") and (r.RepresentationType in BODY_KINDS or any(i.is_a("IfcSolidModel") or i.is_a("IfcMappedItem") for i in r.Items or ()))]
    bodies = [r for r in bodies if r.Items]
    line = None
    if axis is not None:
        try:
            line = line_of(axis, world)
        except Broken:
            line = None
    return bodies, line


def tidy(p: Array) -> Vec3:
    """A point rounded to a thousandth of a millimetre, so that 5999.9999998 is 6000."""
    return (round(float(p[0]), 3) + 0.0, round(float(p[1]), 3) + 0.0, round(float(p[2]), 3) + 0.0)


def _in_assembly(product: Any) -> bool:
    try:
        return any(rel.RelatingObject.is_a("IfcElementAssembly") for rel in product.Decomposes or ())
    except (RuntimeError, AttributeError):
        return False
