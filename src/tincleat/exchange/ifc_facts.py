"""What an IFC file says of its products beside their shape: material, grade, profile, property sets, quantities, where the building stands."""

import math
from collections import Counter
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from tincleat.catalogue.grades import grade_of, material_of
from tincleat.catalogue.sections import plain
from tincleat.project.entities import Site

GRADE_NAMES = ("grade", "structuralgrade", "steelgrade", "materialgrade", "strengthgrade", "strengthclass", "material", "steel", "quality")
OURS = "TinCleat_Member"
ODD = (RuntimeError, AttributeError, TypeError, ValueError, IndexError)


@dataclass
class Material:
    """What is known of a product's material: names as the file has them, the most telling first; the profile it carries and where it hangs."""

    names: list[str] = field(default_factory=list)
    profile: Any = None
    cardinal: int | None = None

    def add(self, other: "Material") -> None:
        """Take what another knows beyond this."""
        self.names += [n for n in other.names if n not in self.names]
        if self.profile is None:
            self.profile = other.profile
        if self.cardinal is None:
            self.cardinal = other.cardinal


class Facts:
    """Facts of all products of a file, by the product's number."""

    def __init__(self, model: Any, notes: list[str], grades: Mapping[str, str]) -> None:
        self.f, self.notes = model, notes
        self.meanings = {plain(k): v for k, v in grades.items()}
        self.materials: dict[int, Material] = {}
        self.types: dict[int, Any] = {}
        self._sets: dict[int, list[Any]] = {}  # property sets and quantities as the file has them, read when asked for
        self._rows: dict[int, dict[str, Any]] = {}
        self._values: dict[int, tuple[str, Any]] = {}
        self._known: dict[int, Material] = {}
        self._own: dict[int, dict[str, Any]] = {}
        self.grades: Counter[tuple[str, str, str]] = Counter()  # (name in the file, grade, by what)
        self.storeys: dict[int, Any] = {}
        self._associations()
        self._definitions()
        self._containment()

    def _all(self, kind: str) -> list[Any]:
        try:
            return list(self.f.by_type(kind))
        except RuntimeError:
            return []

    def _associations(self) -> None:
        for rel in self._all("IfcRelAssociatesMaterial"):
            try:
                found = material(rel.RelatingMaterial)
                for product in rel.RelatedObjects or ():
                    self.materials.setdefault(product.id(), Material()).add(found)
            except ODD as error:
                self.notes.append(f"a material association is unreadable: {str(error)[:80]}")
        for rel in self._all("IfcRelAssociatesProfileProperties"):  # IFC 2x3 analysis models
            try:
                for product in rel.RelatedObjects or ():
                    self.materials.setdefault(product.id(), Material()).add(Material(profile=rel.RelatingProfileProperties.ProfileDefinition))
            except ODD:
                continue

    def _definitions(self) -> None:
        for rel in self._all("IfcRelDefinesByType"):
            try:
                for product in rel.RelatedObjects or ():
                    self.types[product.id()] = rel.RelatingType
            except ODD:
                continue
        for rel in self._all("IfcRelDefinesByProperties"):
            try:
                pset = rel.RelatingPropertyDefinition
                for product in rel.RelatedObjects or ():
                    self._sets.setdefault(product.id(), []).append(pset)
            except ODD:
                continue
        for kind in {t.id(): t for t in self.types.values()}.values():
            try:
                self._sets.setdefault(kind.id(), []).extend(kind.HasPropertySets or ())
            except ODD:
                continue

    def _read(self, pset: Any) -> dict[str, Any]:
        """The single values of a property set by name; what cannot be read is left out."""
        found = self._rows.get(pset.id())
        if found is not None:
            return found
        rows: dict[str, Any] = {}
        try:
            for p in pset.HasProperties or ():
                number = p.id()
                known = self._values.get(number)
                if known is None:
                    value = p.NominalValue.wrappedValue if p.is_a("IfcPropertySingleValue") and p.NominalValue is not None else None
                    known = self._values[number] = (str(p.Name), value)
                if known[1] is not None:
                    rows[known[0]] = known[1]
        except ODD:
            pass
        self._rows[pset.id()] = rows
        return rows

    def weight(self, product: Any) -> float:
        """The mass that a product's quantities tell, in the file's unit; 0 if they tell none."""
        for pset in self._sets.get(product.id(), ()):
            try:
                if pset.is_a("IfcElementQuantity"):
                    for q in pset.Quantities or ():
                        if q.is_a("IfcQuantityWeight"):
                            return float(q.WeightValue)
            except ODD:
                continue
        return 0.0

    def _containment(self) -> None:
        for rel in self._all("IfcRelContainedInSpatialStructure"):
            try:
                for product in rel.RelatedElements or ():
                    self.storeys[product.id()] = rel.RelatingStructure
            except ODD:
                continue

    def of(self, product: Any) -> Material:
        """A product's own material, then its type's."""
        out = self._known.get(product.id())
        if out is None:
            out = self._known[product.id()] = Material()
            for number in self._numbers(product):
                if number in self.materials:
                    out.add(self.materials[number])
        return out

    def _numbers(self, product: Any) -> tuple[int, ...]:
        kind = self.types.get(product.id())
        return (product.id(),) if kind is None else (product.id(), kind.id())

    def own(self, product: Any) -> dict[str, Any]:
        """What this program wrote of a member, if it did."""
        number = product.id()
        found = self._own.get(number)
        if found is None:
            found = {}
            for pset in self._sets.get(number, ()):
                try:
                    if pset.Name == OURS and pset.is_a("IfcPropertySet"):
                        found = self._read(pset)
                        break
                except ODD:
                    continue
            self._own[number] = found
        return found

    def kind_of(self, product: Any) -> tuple[str, str]:
        """What a product is made of (``steel``, ``timber`` …, empty if nothing tells) and the name that says so."""
        for name in self.of(product).names:
            kind = material_of(name)
            if kind:
                return kind, name
        return "", ""

    def grade_of(self, product: Any, words: "Callable[[], list[str]]") -> "tuple[str, str, str] | None":
        """A product's grade, the text that names it and where that stood: on the occurrence, its type, in property sets, then in names."""
        for name in self.of(product).names:
            meant = self.meanings.get(plain(name)) or grade_of(name)
            if meant:
                return meant, name, "material"
        for number in self._numbers(product):
            for pset in self._sets.get(number, ()):
                for key, value in self._read(pset).items() if pset.is_a("IfcPropertySet") else ():
                    if plain(key).lower() in GRADE_NAMES and isinstance(value, str):
                        meant = self.meanings.get(plain(value)) or grade_of(value)
                        if meant:
                            return meant, value, "property"
        for text in words():
            meant = self.meanings.get(plain(text)) or grade_of(text)
            if meant:
                return meant, text, "name"
        return None

    def told(self, product: Any) -> str:
        """The name of a material that tells no grade, for the report."""
        return ", ".join(self.of(product).names) or "no material"


def material(m: Any, depth: int = 0) -> Material:
    """What a material definition tells: usages, sets of profiles, layers and constituents, lists, properties of its own."""
    out = Material()
    if m is None or depth > 8:
        return out
    if m.is_a("IfcMaterialProfileSetUsage"):
        out.cardinal = int(m.CardinalPoint) if m.CardinalPoint else None
        out.add(material(m.ForProfileSet, depth + 1))
    elif m.is_a("IfcMaterialProfileSet"):
        for one in m.MaterialProfiles or ():
            out.add(material(one.Material, depth + 1))
            out.add(Material([n for n in (one.Name,) if n], one.Profile))
        out.names += [n for n in (m.Name,) if n]
    elif m.is_a("IfcMaterialConstituentSet"):
        for one in m.MaterialConstituents or ():
            out.add(material(one.Material, depth + 1))
            out.names += [n for n in (one.Name,) if n]
        out.names += [n for n in (m.Name,) if n]
    elif m.is_a("IfcMaterialLayerSetUsage"):
        out.add(material(m.ForLayerSet, depth + 1))
    elif m.is_a("IfcMaterialLayerSet"):
        for one in m.MaterialLayers or ():
            out.add(material(one.Material, depth + 1))
    elif m.is_a("IfcMaterialList"):
        for one in m.Materials or ():
            out.add(material(one, depth + 1))
    else:
        out.names += [str(n) for n in (getattr(m, "Name", None), getattr(m, "Category", None), getattr(m, "Description", None)) if n]
        for rows in getattr(m, "HasProperties", None) or ():
            for p in getattr(rows, "Properties", None) or getattr(rows, "ExtendedProperties", None) or ():
                try:
                    if p.is_a("IfcPropertySingleValue") and plain(p.Name).lower() in GRADE_NAMES:
                        out.names.insert(0, str(p.NominalValue.wrappedValue))
                except ODD:
                    continue
    return out


def _metres(unit: Any, default: float) -> float:
    """Metres a map unit; ``default`` where none is given."""
    if unit is None:
        return default
    if unit.is_a("IfcSIUnit"):
        return {"MILLI": 0.001, "CENTI": 0.01, "DECI": 0.1, "KILO": 1000.0}.get(str(unit.Prefix), 1.0)
    try:
        factor = unit.ConversionFactor
        return float(factor.ValueComponent.wrappedValue) * _metres(factor.UnitComponent, 1.0)
    except ODD:
        return default


def site_of(model: Any, scale: float) -> Site:
    """Where the file's model stands: map conversion (in metres), coordinate system, true north; ``scale`` is mm a unit of the file.  Empty where it says nothing."""
    values: dict[str, Any] = {}
    try:
        for context in model.by_type("IfcGeometricRepresentationContext"):
            north = getattr(context, "TrueNorth", None)
            if north is not None and not context.is_a("IfcGeometricRepresentationSubContext"):
                x, y = float(north.DirectionRatios[0]), float(north.DirectionRatios[1])
                if math.hypot(x, y) > 1e-9:
                    values["north_deg"] = round(math.degrees(math.atan2(y, x)), 9)
    except ODD:
        pass
    try:
        conversions = model.by_type("IfcMapConversion")
    except RuntimeError:
        conversions = []
    for c in conversions[:1]:
        try:
            crs = c.TargetCRS
            metre = _metres(getattr(crs, "MapUnit", None), scale / 1000.0)
            numbers = {"eastings": c.Eastings * metre, "northings": c.Northings * metre, "height": c.OrthogonalHeight * metre, "abscissa": c.XAxisAbscissa, "ordinate": c.XAxisOrdinate,
                       "scale": (c.Scale if c.Scale is not None else 1.0) * metre / scale}  # fmt: skip
            values |= {k: float(v) for k, v in numbers.items() if v is not None and math.isfinite(float(v)) and abs(float(v)) < 1e8}
            names = {"crs": crs.Name, "crs_words": crs.Description, "datum": crs.GeodeticDatum, "vertical": getattr(crs, "VerticalDatum", None),
                     "projection": getattr(crs, "MapProjection", None), "zone": getattr(crs, "MapZone", None)}  # fmt: skip
            values |= {k: str(v)[:200] for k, v in names.items() if v}
        except ODD:
            continue
    return Site(**values)
