"""The settings of loose parts: which part it is, where it lies, and what each kind of part can be told."""

import math

from tincleat.catalogue.fasteners import stud_sizes
from tincleat.catalogue.grooves import grooves
from tincleat.families.declare import BOLT_GRADES, BOLT_SIZES, HOLES, STEEL_GRADES, Setting, bolt_choice

DESIGNATIONS = tuple(grooves())
MOST = 24  # parts of one detail
PLATE, BENT, PIECE, BOLTS, HOLES_ONLY, STUDS, PLUGS, WELD, CUT = "plate", "bent plate", "piece", "bolts", "holes", "studs", "plug welds", "weld", "cut"
PARTS = (PLATE, BENT, PIECE, BOLTS, HOLES_ONLY, STUDS, PLUGS, WELD, CUT)
SIDES = ("near side", "far side", "top", "bottom", "under the top near", "under the top far", "over the bottom near", "over the bottom far")
FRONTS = tuple(f"part {i}" for i in range(1, MOST + 1))
BACKS = tuple(f"back of part {i}" for i in range(1, MOST + 1))
LEFT_SIDES = tuple(f"left side of part {i}" for i in range(1, MOST + 1))
RIGHT_SIDES = tuple(f"right side of part {i}" for i in range(1, MOST + 1))
PLANE = "a plane of its own"
MEMBER, ALL = "member", "all that touch"
FLAT, ALONG, ACROSS = "flat", "upright along", "upright across"
SQUARE, SNIPED, ROUNDED = "square", "sniped", "rounded"
EVERY, OUTER, INNER = "all", "away from the face", "at the face"
STRAIGHT, FACED, COPED = "square", "to the face", "to the member's shape"
MIDDLE, LEFT, RIGHT = "the middle", "the left edge", "the right edge"
RECTANGLE, ROUND, SLOT, BEVEL, ACCESS = "rectangle", "round", "slot", "bevel", "access hole"
FILLET = "fillet"
TO_POINT = "to a point"
FINISHES = ("as welded", "flush", "ground flush", "machined flush")
TAILS = ("", "test by ultrasound", "test by magnetic particles", "test by dye", "seal weld", "erect before welding", "preheat", "low hydrogen")
OUTSIDE, INSIDE = "outside", "inside"
HEXAGON, COUNTERSUNK, THREADED = "hexagon", "countersunk", "threaded"
DEPTH, BREADTH = "its depth", "its breadth"
AS_DRAWN, MIRRORED = "as told", "mirrored"


def _one(name: str, label: str, kind: str, default: object, help_: str, low: float = 0.0, high: float = 12000.0, **more: object) -> Setting:
    return Setting(name, label, kind, "Parts", default, help_, low, high, each="Part", **more)  # type: ignore[arg-type]


SETTINGS = (
    Setting("hand", "Hand", "choice", "All of them", AS_DRAWN, "Whether all parts lie as they are told, or as their mirror image across the member does.", choices=(AS_DRAWN, MIRRORED), handed=True),
    _one("part", "Part", "choice", PLATE, "What it is.", choices=PARTS),
    _one("on", "Lies on", "choice", "top", "The face of the member, or of another part, that it lies or stands on; or a plane through the middle of the member, turned and leaning as it is told.", choices=(*SIDES, PLANE, *FRONTS, *BACKS, *LEFT_SIDES, *RIGHT_SIDES)),
    _one("plane_turn", "Plane turned", "angle", 0.0, "Of a plane of its own, about the member: 0 looks up, 90 to the far side.", -math.pi, math.pi),
    _one("plane_lean", "Plane leaning", "angle", 0.0, "Of a plane of its own, along the member: 90 looks along it.", -math.pi / 2, math.pi / 2),
    _one("stands", "Stands", "choice", FLAT, "Flat on the face, or upright with an edge on it, along the member or across.", choices=(FLAT, ALONG, ACROSS)),
    _one("lies", "Runs", "choice", "upright", "Which way a piece runs: along the member, across, upright from the face, or from its own point to another.", choices=("upright", "along", "across", TO_POINT)),
    _one("along", "Along the member", "length", 0.0, "From the station to its middle, along the face's own first way.", -12000),
    _one("from_", "Measured from", "choice", MIDDLE, "What 'across' is measured from; from the middle it stays centred whatever the section is.", choices=(MIDDLE, LEFT, RIGHT)),
    _one("across", "Across", "length", 0.0, "To its middle, across the face.", -12000),
    _one("off", "Off the face", "length", 0.0, "Gap between the face and it.", 0, 2000),
    _one("turn", "Turn", "angle", 0.0, "About the way out of the face.", -math.pi, math.pi),
    _one("length", "Length", "length", None, "Of a plate its first side, of a piece or stud its length.", 3, 12000),
    _one("width", "Width", "length", None, "Of a plate its other side: its height if it stands upright.", 3, 4000),
    _one("thickness", "Thickness", "length", 10.0, "Thickness of the plate.", 1, 200, inches=9.525),
    _one("points", "Own outline", "points", None, "Corners of an outline of its own about its middle, such as 0,0 200,0 200,150; instead of length and width.", -6000, 6000),
    _one("corner", "Corners", "choice", SQUARE, "Cut off, rounded or left square.", choices=(SQUARE, SNIPED, ROUNDED)),
    _one("corner_size", "Corner size", "length", None, "Leg of the snipe, or radius.", 1, 1000),
    _one("corners", "Which corners", "choice", EVERY, "All of them, those away from the face or those at it.", choices=(EVERY, OUTER, INNER)),
    _one("grade", "Grade", "choice", lambda h: h.plate_grade, "Steel grade.", choices=STEEL_GRADES),
    _one("surface", "Surface", "choice", "plain", "Plain, or raised so that feet hold on it; told in the bill.", choices=("plain", "chequer")),
    _one("rise", "First flange", "length", 60.0, "Straight length of the flange after the first bend.", 5, 3000, inches=63.5),
    _one("bend", "First bend", "angle", math.radians(90), "How far the plate turns there, away from the face where positive.", -math.radians(150), math.radians(150)),
    _one("rise_2", "Second flange", "length", 0.0, "Straight length after a second bend; 0 is none.", 0, 3000),
    _one("bend_2", "Second bend", "angle", math.radians(90), "How far it turns at the second bend.", -math.radians(150), math.radians(150)),
    _one("rise_3", "Third flange", "length", 0.0, "Straight length after a third bend; 0 is none.", 0, 3000),
    _one("bend_3", "Third bend", "angle", math.radians(90), "How far it turns at the third bend.", -math.radians(150), math.radians(150)),
    _one("rise_4", "Fourth flange", "length", 0.0, "Straight length after a fourth bend; 0 is none.", 0, 3000),
    _one("bend_4", "Fourth bend", "angle", math.radians(90), "How far it turns at the fourth bend.", -math.radians(150), math.radians(150)),
    _one("radius", "Inside radius", "length", None, "Inside of the bends; as tight as the house allows if not typed.", 1, 500),
    _one("section", "Section", "section", None, "Any section of the catalogue."),
    _one("to_along", "To along the member", "length", 0.0, "Where a piece to a point ends, measured as where it begins.", -12000),
    _one("to_across", "To across", "length", 0.0, "Where a piece to a point ends, across the face.", -12000),
    _one("to_off", "To off the face", "length", 300.0, "Where a piece to a point ends, out of the face.", -12000),
    _one("spin", "Rolled", "angle", 0.0, "About its own length.", -math.pi, math.pi),
    _one("tilt", "Tilted", "angle", 0.0, "Out of upright, along the face's first way.", -math.radians(80), math.radians(80)),
    _one("end", "Its end", "choice", FACED, "Cut square, along the face, or to the true outline of the member it meets.", choices=(FACED, STRAIGHT, COPED)),
    _one("mitre_start", "First end off square", "angle", 0.0, "How far the end that a piece begins at is cut off square; its length goes to its longest corner.", -math.radians(80), math.radians(80)),
    _one("mitre", "Other end off square", "angle", 0.0, "How far a piece's other end is cut off square; its length goes to its longest corner.", -math.radians(80), math.radians(80)),
    _one("mitre_way", "Off square across", "choice", DEPTH, "Which way the ends are cut off square.", choices=(DEPTH, BREADTH)),
    _one("clear", "Clear of the shape", "length", 2.0, "Clearance round the member's outline where it is cut to it.", 0, 100, inches=3.175),
    _one("rows", "Rows", "spacings", (), "Spacings along the member, such as 4@600; one row if empty.", 0, 12000),
    _one("lines", "Lines", "spacings", (), "Spacings across, such as 90; one line if empty.", 0, 4000),
    _one("staggered", "Staggered", "flag", False, "Every second place of the pattern only."),
    _one("left_out", "Left out", "numbers", (), "Numbers of single places, row by row, that have none.", 1, 400),
    _one("bolt", "Bolt", "choice", bolt_choice, "Size of the bolts.", choices=BOLT_SIZES),
    _one("bolt_grade", "Bolt grade", "choice", lambda h: h.bolt_grade, "Strength class of the bolts.", choices=BOLT_GRADES),
    _one("hole", "Holes", "choice", "normal", "Kind of hole; a threaded one is the last that a bolt passes, which has no nut then.", choices=(*HOLES, THREADED)),
    _one("head", "Heads", "choice", HEXAGON, "Of bolts, or what a plate's holes are made for: a countersunk head lies flush in the flat face that comes first.", choices=(HEXAGON, COUNTERSUNK)),
    _one("hole_width", "Hole width", "length", None, "Of holes without bolts, or that a plug weld fills; for the bolt, or by the plate, if not typed.", 3, 600),
    _one("hole_length", "Hole length", "length", None, "Over all, of slots; the width if not typed.", 3, 1200),
    _one("slot_way", "Slots run", "choice", "along", "Along the member or across.", choices=("along", "across")),
    _one("stud", "Stud", "choice", lambda h: "3/4in stud" if h.inch else "SD 19", "Headed stud that is welded on; its length is over all, as welded.", choices=tuple(stud_sizes())),
    _one("fill", "Filled", "length", None, "How deep a plug weld fills its hole; all of it in thin plates if not typed.", 1, 100),
    _one("through", "Through", "numbers", (), "Numbers of the parts that it goes through, 0 the member; all that lie there if there are none.", 0, MOST),
    _one("site", "On site", "flag", True, "Whether it is bolted or welded on site."),
    _one("of", "Weld of", "choice", "part 1", "The part that is welded, along its straight edges; round corners are left out.", choices=FRONTS),
    _one("to", "To", "choice", ALL, "What it is welded to.", choices=(ALL, MEMBER, *FRONTS)),
    _one("line", "Welded between", "points", None, "Points along and across the face that the weld is told to be on, such as 0,40 120,40: it is welded where parts touch between them, along all of it if there are none.", -12000, 12000, corners=2),
    _one("prep", "Weld", "choice", FILLET, "A fillet, or the designation of a prepared groove weld.", choices=(FILLET, *DESIGNATIONS)),
    _one("root_radius", "Groove radius", "length", None, "At the root of a U or J groove; the designation's own, or 6 mm where it gives none, if not typed.", 2, 25),
    _one("leg", "Leg", "length", None, "Leg of the fillet; by the thinner part if not typed.", 2, 60),
    _one("throat", "Throat", "length", None, "Throat of the fillet instead of its leg: 0.7 of it.", 1.5, 40),
    _one("stitch", "Stitch length", "length", 0.0, "Length of each stitch; 0 is a weld without a break.", 0, 2000),
    _one("pitch", "Stitch pitch", "length", 300.0, "From middle to middle of stitches; one lies at each end.", 10, 4000, inches=304.8),
    _one("stitches", "Stitches", "choice", "side by side", "Whether those on both sides of a part lie side by side or in turn.", choices=("side by side", "in turn")),
    _one("setback", "Setback", "length", 0.0, "Left free at the ends of every run; at its near end where the far one is typed.", 0, 1000),
    _one("setback_far", "Setback, far end", "length", None, "Left free at the end of every run that lies further along the member, or higher; as at the near end if not typed.", 0, 1000),
    _one("around", "Round a tube", "choice", "outside", "Where a tube that stands on a face is welded all round.", choices=(OUTSIDE, INSIDE, "both")),
    _one("finish", "Finish", "choice", FINISHES[0], "How the weld's face is left; told in the tail of its symbol.", choices=FINISHES),
    _one("tail", "Tail", "choice", "", "What else the tail of its symbol says.", choices=TAILS),
    _one("shape", "Shape", "choice", RECTANGLE, "What is cut out; a bevel goes along the edge of a plate that is next to its place, an access hole into a web beside the flange that is.", choices=(RECTANGLE, ROUND, SLOT, BEVEL, ACCESS)),
    _one("slant", "Bevel", "angle", math.radians(45), "Of a bevel, off square to the plate's face.", math.radians(1), math.radians(80)),
    _one("deep", "Bevel depth", "length", None, "Of a bevel, through the plate from the face it is on; all through if not typed.", 0.5, 200),
)  # fmt: skip
