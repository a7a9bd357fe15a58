"""Members as other programs write them: one IFC a case, with what must come of it.  Lengths mm unless a case says otherwise."""

import math
from collections.abc import Callable
from dataclasses import dataclass, field

IPE = "IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,150.,300.,7.1,10.7,15.,$,$)"
HEA = "IFCISHAPEPROFILEDEF(.AREA.,'HEA200',$,200.,190.,6.5,10.,18.,$,$)"
L = 6000.0


class Lines:
    """Lines of a STEP file, numbered as they come."""

    def __init__(self, schema: str = "IFC4", unit: str = ".MILLI.") -> None:
        self.schema, self.rows, self.n = schema, [], 0
        self.unit = self.add(f"IFCSIUNIT(*,.LENGTHUNIT.,{unit},.METRE.)")
        units = self.add(f"IFCUNITASSIGNMENT(({self.unit}))")
        self.origin = self.add("IFCCARTESIANPOINT((0.,0.,0.))")
        self.world = self.add(f"IFCAXIS2PLACEMENT3D({self.origin},$,$)")
        self.context = self.add(f"IFCGEOMETRICREPRESENTATIONCONTEXT($,'Model',3,1.E-05,{self.world},$)")
        self.project = self.add(f"IFCPROJECT('0000000000000000000001',$,'p',$,$,$,$,({self.context}),{units})")
        self.at = self.add(f"IFCLOCALPLACEMENT($,{self.world})")
        self.up = self.add("IFCDIRECTION((0.,0.,1.))")

    def add(self, text: str) -> str:
        self.n += 1
        self.rows.append(f"#{self.n}={text};")
        return f"#{self.n}"

    def point(self, *p: float) -> str:
        return self.add(f"IFCCARTESIANPOINT(({','.join(repr(float(v)) for v in p)}))")

    def way(self, *d: float) -> str:
        return self.add(f"IFCDIRECTION(({','.join(repr(float(v)) for v in d)}))")

    def axes(self, at=(0, 0, 0), z=(0, 0, 1), x=(1, 0, 0)) -> str:
        return self.add(f"IFCAXIS2PLACEMENT3D({self.point(*at)},{self.way(*z)},{self.way(*x)})")

    def place(self, at=(0, 0, 0), z=(1, 0, 0), x=(0, 1, 0)) -> str:
        """By default a placement whose z runs along the world's x, its x along the world's y."""
        return self.add(f"IFCLOCALPLACEMENT({self.at},{self.axes(at, z, x)})")

    def extruded(self, profile: str, depth: float = L, position: str | None = None, way: str | None = None) -> str:
        ref = profile if profile.startswith("#") else self.add(profile)
        return self.add(f"IFCEXTRUDEDAREASOLID({ref},{position or self.world},{way or self.up},{depth!r})")

    def shape(self, *items: str, kind: str = "SweptSolid", axis: tuple | None = None) -> str:
        reps = [self.add(f"IFCSHAPEREPRESENTATION({self.context},'Body','{kind}',({','.join(items)}))")] if items else []
        if axis is not None:
            line = self.add(f"IFCPOLYLINE(({','.join(self.point(*p) for p in axis)}))")
            reps.insert(0, self.add(f"IFCSHAPEREPRESENTATION({self.context},'Axis','Curve3D',({line}))"))
        return self.add(f"IFCPRODUCTDEFINITIONSHAPE($,$,({','.join(reps)}))")

    def member(self, shape: str, place: str | None = None, name: str = "M1", kind: str = "IFCBEAM", guid: str = "") -> str:
        return self.add(f"{kind}('{guid or f'{self.n:022d}'}',$,'{name}',$,$,{place or self.place()},{shape},$,$)")

    def half(self, point, normal, agree: bool = False) -> str:
        """What is taken off lies on the side ``normal`` points to (``agree`` False)."""
        x = (0, 0, 1) if abs(normal[2]) < 0.9 else (1, 0, 0)
        plane = self.add(f"IFCPLANE({self.axes(point, normal, x)})")
        return self.add(f"IFCHALFSPACESOLID({plane},{'.T.' if agree else '.F.'})")

    def less(self, first: str, second: str, how: str = "DIFFERENCE") -> str:
        return self.add(f"IFCBOOLEANCLIPPINGRESULT(.{how}.,{first},{second})" if how == "DIFFERENCE" else f"IFCBOOLEANRESULT(.{how}.,{first},{second})")

    def opening(self, member: str, solid: str, place: str | None = None) -> None:
        made = self.add(f"IFCOPENINGELEMENT('{self.n:022d}',$,'o',$,$,{place or self.at},{self.shape(solid)},$,$)")
        self.add(f"IFCRELVOIDSELEMENT('{self.n:022d}',$,$,$,{member},{made})")

    def text(self) -> str:
        head = f"ISO-10303-21;\nHEADER;\nFILE_DESCRIPTION((''),'2;1');\nFILE_NAME('t','',(''),(''),'','','');\nFILE_SCHEMA(('{self.schema}'));\nENDSEC;\nDATA;\n"
        return head + "\n".join(self.rows) + "\nENDSEC;\nEND-ISO-10303-21;\n"


@dataclass
class Case:
    """A file, and what must come of it: how many members, their sections, and words that must stand in the report; ``exact`` where nothing may differ."""

    make: Callable[[Lines], object]
    sections: tuple[str, ...] = ("IPE 300",)
    said: tuple[str, ...] = ()
    exact: bool = True
    schema: str = "IFC4"
    unit: str = ".MILLI."
    more: dict[str, object] = field(default_factory=dict)


def _simple(f: Lines) -> None:
    f.member(f.shape(f.extruded(IPE)))


def _old(f: Lines) -> None:
    at = f.add(f"IFCAXIS2PLACEMENT2D({f.point(0, 0)},$)")
    profile = f"IFCISHAPEPROFILEDEF(.AREA.,'IPE300',{at},150.,300.,7.1,10.7,15.)"
    f.add(f"IFCBEAM('{f.n:022d}',{owner(f)},'M1',$,$,{f.place()},{f.shape(f.extruded(profile))},$)")


def _turned(f: Lines) -> None:
    f.member(f.shape(f.extruded(IPE)), f.place((100, 200, 300), (0.6, 0.0, 0.8), (0.0, 1.0, 0.0)))


def _profile_aside(f: Lines) -> None:
    at = f.add(f"IFCAXIS2PLACEMENT2D({f.point(40, -150)},{f.way(0.8, 0.6)})")
    f.member(f.shape(f.extruded(IPE.replace("$,150.", f"{at},150."))))


def _clipped(f: Lines) -> None:
    cut = f.half((0, 0, 5500), (0, 0.5, math.sqrt(0.75)))
    f.member(f.shape(f.less(f.extruded(IPE), cut), kind="Clipping"))


def _clipped_twice(f: Lines) -> None:
    one = f.less(f.extruded(IPE), f.half((0, 0, 300), (0.3, 0.0, -math.sqrt(0.91))))
    f.member(f.shape(f.less(one, f.half((0, 0, 5700), (0, 0, 1))), kind="Clipping"))


def _pointed(f: Lines) -> None:
    one = f.less(f.extruded(IPE), f.half((0, 0, 5800), (0, 0.6, 0.8)))
    f.member(f.shape(f.less(one, f.half((0, 0, 5800), (0, -0.6, 0.8))), kind="Clipping"))


def _agreed(f: Lines) -> None:
    f.member(f.shape(f.less(f.extruded(IPE), f.half((0, 0, 5000), (0, 0, -1), agree=True)), kind="Clipping"))


def _bounded(f: Lines) -> None:
    plane = f.add(f"IFCPLANE({f.axes((0, 0, 5500), (0, 0.6, 0.8), (1, 0, 0))})")
    edge = f.add(f"IFCPOLYLINE(({','.join(f.point(*p) for p in ((-500, -500), (500, -500), (500, 500), (-500, 500), (-500, -500)))}))")
    half = f.add(f"IFCPOLYGONALBOUNDEDHALFSPACE({plane},.F.,{f.world},{edge})")
    f.member(f.shape(f.less(f.extruded(IPE), half), kind="Clipping"))


def _coped(f: Lines) -> None:
    """A cope at the top flange as a bounded half space: a boundary seen along the beam's breadth, as far as a plane along it."""
    plane = f.add(f"IFCPLANE({f.axes((0, 100, 5900), (0, 1, 0), (1, 0, 0))})")
    edge = f.add(f"IFCPOLYLINE(({','.join(f.point(*p) for p in ((-300, 5900), (300, 5900), (300, 6100), (-300, 6100), (-300, 5900)))}))")
    at = f.axes((0, 0, 0), (0, -1, 0), (1, 0, 0))  # its x is the profile's, its y the bar's way
    half = f.add(f"IFCPOLYGONALBOUNDEDHALFSPACE({plane},.F.,{at},{edge})")
    f.member(f.shape(f.less(f.extruded(IPE), half), kind="Clipping"))


def _notched(f: Lines) -> None:
    """A box taken off both flanges and the web at the end, through and through."""
    box = f.extruded("IFCRECTANGLEPROFILEDEF(.AREA.,$,$,200.,90.)", 400.0, f.axes((-200, 130, 5950), (1, 0, 0), (0, 0, 1)))
    f.member(f.shape(f.less(f.extruded(IPE), box), kind="Clipping"))


def _web_holes(f: Lines) -> None:
    m = f.member(f.shape(f.extruded(IPE)), f.place())
    for x in (500.0, 1500.0, 5000.0):
        f.opening(m, f.extruded("IFCCIRCLEPROFILEDEF(.AREA.,$,$,11.)", 40.0, f.axes((x, -20, 30), (0, 1, 0), (1, 0, 0))))


def _window(f: Lines) -> None:
    m = f.member(f.shape(f.extruded(IPE)), f.place())
    f.opening(m, f.extruded("IFCRECTANGLEPROFILEDEF(.AREA.,$,$,400.,120.)", 60.0, f.axes((3000, -30, 0), (0, 1, 0), (1, 0, 0))))


def _flange_hole(f: Lines) -> None:
    """Through the top flange only: that is no cut through and through, and is said."""
    m = f.member(f.shape(f.extruded(IPE)), f.place())
    f.opening(m, f.extruded("IFCCIRCLEPROFILEDEF(.AREA.,$,$,40.)", 60.0, f.axes((3000, 0, 120), (0, 0, 1), (1, 0, 0))))


def _two_angles(f: Lines) -> None:
    angle = f.add("IFCLSHAPEPROFILEDEF(.AREA.,'L80x80x8',$,80.,80.,8.,10.,5.,$)")
    other = f.add(f"IFCMIRROREDPROFILEDEF(.AREA.,'L80x80x8',{angle},*,$)")
    f.member(f.shape(f.extruded(angle, L, f.axes((45, 0, 0))), f.extruded(other, L, f.axes((-45, 0, 0)))), kind="IFCMEMBER")


def _two_lengths(f: Lines) -> None:
    p = f.add(IPE)
    f.member(f.shape(f.extruded(p, 2500.0), f.extruded(p, 3500.0, f.axes((0, 0, 2500)))))


def _plate_first(f: Lines) -> None:
    plate = f.extruded("IFCRECTANGLEPROFILEDEF(.AREA.,'PL',$,200.,340.)", 15.0)
    f.member(f.shape(plate, f.extruded(IPE, L - 15.0, f.axes((0, 0, 15)))))


def _union(f: Lines) -> None:
    p = f.add(HEA)
    f.member(f.shape(f.less(f.extruded(p, 2000.0), f.extruded(p, 2000.0, f.axes((0, 0, 2000))), "UNION"), kind="CSG"))


def _mapped(f: Lines, operator: str) -> None:
    rep = f.add(f"IFCSHAPEREPRESENTATION({f.context},'Body','SweptSolid',({f.extruded(IPE)}))")
    source = f.add(f"IFCREPRESENTATIONMAP({f.world},{rep})")
    item = f.add(f"IFCMAPPEDITEM({source},{f.add(operator)})")
    f.member(f.shape(item, kind="MappedRepresentation"))


def _mapped_mirror(f: Lines) -> None:
    angle = f.add("IFCLSHAPEPROFILEDEF(.AREA.,'L100x75x8',$,100.,75.,8.,10.,5.,$)")
    rep = f.add(f"IFCSHAPEREPRESENTATION({f.context},'Body','SweptSolid',({f.extruded(angle)}))")
    source = f.add(f"IFCREPRESENTATIONMAP({f.world},{rep})")
    turn = f.add(f"IFCCARTESIANTRANSFORMATIONOPERATOR3D({f.way(1, 0, 0)},{f.way(0, -1, 0)},{f.origin},1.,{f.way(0, 0, 1)})")
    f.member(f.shape(f.add(f"IFCMAPPEDITEM({source},{turn})"), kind="MappedRepresentation"), kind="IFCMEMBER")


def _channel_mirrored(f: Lines) -> None:
    u = f.add("IFCUSHAPEPROFILEDEF(.AREA.,'UPE200',$,200.,80.,6.,11.,13.,$,$)")
    f.member(f.shape(f.extruded(f.add(f"IFCMIRROREDPROFILEDEF(.AREA.,'UPE200',{u},*,$)"))))


def _derived_turn(f: Lines) -> None:
    angle = f.add("IFCLSHAPEPROFILEDEF(.AREA.,'L100x75x8',$,100.,75.,8.,10.,5.,$)")
    turn = f.add(f"IFCCARTESIANTRANSFORMATIONOPERATOR2D({f.way(0.8, 0.6)},{f.way(-0.6, 0.8)},{f.point(20, 30)},1.)")
    f.member(f.shape(f.extruded(f.add(f"IFCDERIVEDPROFILEDEF(.AREA.,'L100x75x8',{angle},{turn},$)"))))


def _derived_scale(f: Lines) -> None:
    """Half of an IPE 300 drawn at twice its size."""
    big = f.add("IFCISHAPEPROFILEDEF(.AREA.,$,$,300.,600.,14.2,21.4,30.,$,$)")
    turn = f.add(f"IFCCARTESIANTRANSFORMATIONOPERATOR2D($,$,{f.point(0, 0)},0.5)")
    f.member(f.shape(f.extruded(f.add(f"IFCDERIVEDPROFILEDEF(.AREA.,$,{big},{turn},$)"))))


def _outline(f: Lines, points, name: str, angle: float = 0.0, kind: str = "IFCBEAM") -> None:
    c, s = math.cos(angle), math.sin(angle)
    flat = [(x * c - y * s, x * s + y * c) for x, y in points]
    line = f.add(f"IFCPOLYLINE(({','.join(f.point(*p) for p in [*flat, flat[0]])}))")
    f.member(f.shape(f.extruded(f"IFCARBITRARYCLOSEDPROFILEDEF(.AREA.,'{name}',{line})")), kind=kind)


def _angle_at_an_angle(f: Lines) -> None:
    # L 100x100x10 without its radii would be off by more than arcs explain: drawn with its root and toes in chords
    _outline(f, rounded_angle(100, 100, 10, 12, 6), "L100x100x10", math.radians(30), "IFCMEMBER")


def rounded_angle(h: float, b: float, t: float, root: float, toe: float) -> "list[tuple[float, float]]":
    """An angle with its heel at the origin, legs along x and y, arcs in eight chords."""

    def arc(cx: float, cy: float, r: float, a0: float, a1: float) -> "list[tuple[float, float]]":
        return [(cx + r * math.cos(math.radians(a0 + (a1 - a0) * i / 8)), cy + r * math.sin(math.radians(a0 + (a1 - a0) * i / 8))) for i in range(9)]

    return [(0, 0), (b, 0), *arc(b - toe, t - toe, toe, 0, 90), *arc(t + root, t + root, root, 270, 180), *arc(t - toe, h - toe, toe, 0, 90), (0, h)]


def zed(h: float, f: float, lip: float, t: float, hand: int) -> "list[tuple[float, float]]":
    """A lipped Z about its middle, sharp corners; ``hand`` -1 is its mirror image."""
    w, far, z = t / 2, f - t / 2, h / 2
    half = [(-far, -z), (w, -z), (w, z - t), (far - t, z - t), (far - t, z - lip), (far, z - lip)]
    ring = half + [(-x, -y) for x, y in half]
    return [(hand * x, y) for x, y in ring][:: 1 if hand > 0 else -1]


def two_widths(h: float, f1: float, f2: float, lip: float, t: float, turn: int) -> "list[tuple[float, float]]":
    """A lipped Z with its broad flange on top about the middle of its box, sharp corners; ``turn`` -1 is the same one turned over."""
    left, right, z = -(f1 + f2 - t) / 2, (f1 + f2 - t) / 2, h / 2
    a, b = left + f2 - t, left + f2  # the web's faces
    ring = [(left, -z), (b, -z), (b, z - t), (right - t, z - t), (right - t, z - lip), (right, z - lip), (right, z), (a, z), (a, -z + t), (left + t, -z + t), (left + t, -z + lip), (left, -z + lip)]
    return [(turn * x, turn * y) for x, y in ring]


def _tessellated(f: Lines, points, faces, name: str = "HEA200") -> str:
    listed = f.add(f"IFCCARTESIANPOINTLIST3D(({','.join('(' + ','.join(repr(float(v)) for v in p) + ')' for p in points)}))")
    index = ",".join(f"({a + 1},{b + 1},{c + 1})" for a, b, c in faces)
    return f.add(f"IFCTRIANGULATEDFACESET({listed},$,.T.,({index}),$)")


def _profile_set(f: Lines, member: str, profile: str, cardinal: int | None = None, material: str = "S355J2") -> None:
    p = f.add(f"IFCMATERIALPROFILE($,$,{f.add(f'IFCMATERIAL({chr(39)}{material}{chr(39)},$,$)')},{f.add(profile)},$,$)")
    rows = f.add(f"IFCMATERIALPROFILESET($,$,({p}),$)")
    use = f.add(f"IFCMATERIALPROFILESETUSAGE({rows},{cardinal},$)") if cardinal else rows
    f.add(f"IFCRELASSOCIATESMATERIAL('{f.n:022d}',$,$,$,({member}),{use})")


def _faceted(f: Lines) -> None:
    """A bare HEA 200 with sharp corners, one end mitred, drawn as facets; beside it its profile set and an axis that is longer."""
    ring = [(-100, -95), (100, -95), (100, -85), (3.25, -85), (3.25, 85), (100, 85), (100, 95), (-100, 95), (-100, 85), (-3.25, 85), (-3.25, -85), (-100, -85)]
    n = len(ring)
    points = [(x, y, 0.0) for x, y in ring] + [(x, y, 4000.0 + y) for x, y in ring]
    faces = [(i, (i + 1) % n, n + (i + 1) % n) for i in range(n)] + [(i, n + (i + 1) % n, n + i) for i in range(n)]
    quads = [(0, 1, 2, 11), (11, 2, 3, 10), (10, 3, 4, 9), (9, 4, 5, 8), (8, 5, 6, 7)]
    caps = [t for a, b, c, d in quads for t in ((a, c, b), (a, d, c))]
    faces += caps + [(n + a, n + c, n + b) for a, b, c in caps]
    m = f.member(f.shape(_tessellated(f, points, faces), kind="Tessellation", axis=((0, 0, 0), (0, 0, 4500))))
    _profile_set(f, m, HEA)


def _axis_only(f: Lines, cardinal: int, along_x: bool) -> None:
    place = f.place((0, 0, 0), (0, 0.6, 0.8), (1, 0, 0)) if along_x else f.place((0, 0, 0), (1, 0, 0), (0, 0.8, 0.6))
    m = f.member(f.shape(axis=((0, 0, 0), (L, 0, 0) if along_x else (0, 0, L))), place)
    _profile_set(f, m, IPE, cardinal)


def _axis_longer(f: Lines) -> None:
    f.member(f.shape(f.extruded(IPE, 5960.0, f.axes((0, 0, 20))), axis=((0, 0, 0), (0, 0, L))))


def _axis_leaning(f: Lines) -> None:
    f.member(f.shape(f.extruded(IPE), axis=((0, 0, 0), (0, 100, L))))


def _axis_beside(f: Lines) -> None:
    f.member(f.shape(f.extruded(IPE, L, f.axes((0, -150, 0))), axis=((0, 0, 0), (0, 0, L))))


def _skewed(f: Lines) -> None:
    """A flat swept askew, so that both its ends are cut on the slope."""
    f.member(f.shape(f.extruded("IFCRECTANGLEPROFILEDEF(.AREA.,'FL',$,20.,200.)", 3000.0, None, f.way(0, 0.6, 0.8))), name="brace", kind="IFCMEMBER")


def _rod(f: Lines) -> None:
    line = f.add(f"IFCPOLYLINE(({f.point(0, 0, 0)},{f.point(3000, 400, 1200)}))")
    f.member(f.shape(f.add(f"IFCSWEPTDISKSOLID({line},12.,$,$,$)"), kind="AdvancedSweptSolid"), f.at, kind="IFCMEMBER")


def _grid_placed(f: Lines) -> None:
    lines = {}
    for tag, a, b in (("1", (0, -1000), (0, 9000)), ("2", (6000, -1000), (6000, 9000)), ("A", (-1000, 0), (9000, 0)), ("B", (-1000, 8000), (9000, 8000))):
        lines[tag] = f.add(f"IFCGRIDAXIS('{tag}',{f.add(f'IFCPOLYLINE(({f.point(*a)},{f.point(*b)}))')},.T.)")
    f.add(f"IFCGRID('{f.n:022d}',$,'g',$,$,{f.at},$,({lines['1']},{lines['2']}),({lines['A']},{lines['B']}),$,.RECTANGULAR.)")
    cross = f.add(f"IFCVIRTUALGRIDINTERSECTION(({lines['A']},{lines['2']}),(0.,0.,500.))")
    there = f.add(f"IFCVIRTUALGRIDINTERSECTION(({lines['A']},{lines['1']}),(0.,0.,0.))")
    place = f.add(f"IFCGRIDPLACEMENT({cross},{there})")
    f.member(f.shape(f.extruded(HEA, 4000.0)), place, kind="IFCCOLUMN")


def _own_size(f: Lines) -> None:
    f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'Mill 11',$,141.,333.,7.7,12.3,9.,$,$)")))


def _two_unnamed(f: Lines) -> None:
    for y, h in ((0, 333.0), (2000, 353.0)):
        f.member(f.shape(f.extruded(f"IFCISHAPEPROFILEDEF(.AREA.,$,$,141.,{h},7.7,12.3,9.,$,$)")), f.place((0, y, 0)), name=f"M{h:.0f}")


def _unequal(f: Lines) -> None:
    f.member(f.shape(f.extruded("IFCASYMMETRICISHAPEPROFILEDEF(.AREA.,'odd',$,200.,400.,8.,12.,$,120.,10.,$,$,$,$,$)")))


OP = "IFCCARTESIANTRANSFORMATIONOPERATOR3D"
CASES: dict[str, Case] = {
    "simple": Case(_simple),
    "simple, 2x3": Case(_old, schema="IFC2X3"),
    "turned in space": Case(_turned),
    "profile off its origin and turned": Case(_profile_aside),
    "one end clipped": Case(_clipped),
    "both ends clipped, one square": Case(_clipped_twice),
    "an end of two planes": Case(_pointed),
    "half space that agrees": Case(_agreed),
    "bounded half space over all": Case(_bounded),
    "cope by a bounded half space": Case(_coped),
    "notch by a box": Case(_notched),
    "holes in the web": Case(_web_holes),
    "window in the web": Case(_window),
    "hole in one flange": Case(_flange_hole, said=("does not go through",), exact=False),
    "two angles back to back": Case(_two_angles, ("L 80x80x8", "L 80x80x8"), ("2 bars",)),
    "one bar in two lengths": Case(_two_lengths),
    "a plate before the bar": Case(_plate_first, said=("left out: connections",), exact=False),
    "a union of two lengths": Case(_union, ("HEA 200",)),
    "mapped and moved": Case(lambda f: _mapped(f, f"{OP}({f.way(0, 1, 0)},{f.way(-1, 0, 0)},{f.point(100, 200, 300)},1.,{f.way(0, 0, 1)})")),
    "mapped at half scale": Case(lambda f: _mapped(f, f"{OP}($,$,{f.origin},0.5,$)"), ("I 150x75x3.55x5.35 own",)),
    "mapped unevenly": Case(lambda f: _mapped(f, f"IFCCARTESIANTRANSFORMATIONOPERATOR3DNONUNIFORM($,$,{f.origin},1.,$,1.,2.)")),
    "angle in a mirrored map": Case(_mapped_mirror, ("L100x75x8",)),
    "mirrored channel": Case(_channel_mirrored, ("UPE 200",)),
    "derived, turned and shifted": Case(_derived_turn, ("L100x75x8",), exact=False),
    "derived at half scale": Case(_derived_scale, exact=False),
    "outline at an angle": Case(_angle_at_an_angle, ("L 100x100x10",)),
    "Z of one hand": Case(lambda f: _outline(f, zed(200, 65, 20, 2, 1), "Z 200x65x20x2"), ("Z 200x65x20x2",), exact=False),
    "Z of the other hand": Case(lambda f: _outline(f, zed(200, 65, 20, 2, -1), "Z 200x65x20x2"), ("Z 200x65x20x2",), exact=False),
    "Z with a broad and a narrow flange": Case(lambda f: _outline(f, two_widths(200, 65, 59, 20, 2, 1), "Z 200x65/59x20x2"), ("Z 200x65/59x20x2",), exact=False),
    "Z with a broad and a narrow flange, turned over": Case(lambda f: _outline(f, two_widths(200, 65, 59, 20, 2, -1), "Z 200x65/59x20x2"), ("Z 200x65/59x20x2",), exact=False),
    "facets, a profile set and a longer axis": Case(_faceted, ("HEA 200",), ("its axis is 4500.0 long",), exact=False),
    "axis and profile, top centre, drawn along z": Case(lambda f: _axis_only(f, 8, False), more={"cardinal": "top"}),
    "axis and profile, bottom left, drawn along x": Case(lambda f: _axis_only(f, 1, True), more={"cardinal": "bottom left"}),
    "axis longer than the body": Case(_axis_longer, said=("its axis is 6000.0 long, its body 5960.0",)),
    "axis that leans": Case(_axis_leaning, said=("leans 0.95°",)),
    "axis beside the body": Case(_axis_beside, more={"cardinal": "top"}),
    "swept askew": Case(_skewed, ("FL 160x20",), exact=False),
    "a round rod": Case(_rod, ("RD 24",)),
    "placed on a grid": Case(_grid_placed, ("HEA 200",), exact=False),
    "a size that no list has": Case(_own_size, ("Mill 11",)),
    "two sizes without a name": Case(_two_unnamed, ("I 333x141x7.7x12.3 own", "I 353x141x7.7x12.3 own")),
    "channel with lips": Case(lambda f: f.member(f.shape(f.extruded("IFCCSHAPEPROFILEDEF(.AREA.,'C 200x75x20x2.5',$,200.,75.,2.5,20.,3.75)"))), ("CF 200x75x20x2.5",)),
    "tee": Case(lambda f: f.member(f.shape(f.extruded("IFCTSHAPEPROFILEDEF(.AREA.,'1/2 IPE300',$,150.,150.,7.1,10.7,15.,0.,0.,$,$)"))), ("1/2 IPE300",)),
    "HSS at its design wall": Case(lambda f: f.member(f.shape(f.extruded("IFCRECTANGLEHOLLOWPROFILEDEF(.AREA.,'HSS8X8X.5',$,203.2,203.2,11.811,11.811,23.6)"))), ("HSS8X8X1/2",), exact=False),
    "hot rolled tube": Case(lambda f: f.member(f.shape(f.extruded("IFCRECTANGLEHOLLOWPROFILEDEF(.AREA.,$,$,100.,200.,8.,8.,12.)"))), ("RHS 200x100x8",)),
    "cold formed tube": Case(lambda f: f.member(f.shape(f.extruded("IFCRECTANGLEHOLLOWPROFILEDEF(.AREA.,$,$,100.,200.,8.,12.,20.)"))), ("RHS 200x100x8 CF",)),
    "metres": Case(lambda f: f.member(f.shape(f.extruded("IFCISHAPEPROFILEDEF(.AREA.,'IPE300',$,0.15,0.3,0.0071,0.0107,0.015,$,$)", 6.0))), unit="$"),
    "flanges that differ": Case(_unequal, (), ("like no section",), exact=False),
}  # fmt: skip


def owner(f: Lines) -> str:
    """An owner history, which IFC 2x3 asks for."""
    person, firm = f.add("IFCPERSON($,'a',$,$,$,$,$,$)"), f.add("IFCORGANIZATION($,'o',$,$,$)")
    both = f.add(f"IFCPERSONANDORGANIZATION({person},{firm},$)")
    app = f.add(f"IFCAPPLICATION({firm},'1','made up','m')")
    return f.add(f"IFCOWNERHISTORY({both},{app},$,.ADDED.,$,$,$,0)")
