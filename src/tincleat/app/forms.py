"""The frame's forms: columns at crossings, beams, runs, copies, mirror images, splits; each fills the arguments of one command."""

from functools import partial
from typing import Any

from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action, Ask
from tincleat.families.declare import Family
from tincleat.units import format_length

ROLES = ("column", "beam", "rafter", "joist", "brace", "post", "purlin", "girt", "other")
CARDINALS = ("centre", "centroid", "top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right")


def triple(text: str) -> list[str]:
    return [p.strip() for p in text.split(",")]


def _words(text: str) -> list[str]:
    return text.replace(",", " ").split()


def first_level(w: Host, last: bool = False) -> str:
    levels = sorted(w.desk.project.levels.values(), key=lambda v: v.elevation) if w.desk is not None else []
    return (levels[-1 if last else 0].name if levels else ("4000" if last else "0")) if levels or not last else "4000"


def columns_at(w: Host) -> None:
    """Columns at crossings or in a box of crossings."""
    fields = [Ask("section", "Section", w.last_section, complete=w.section_names()), Ask("at", "Crossings", "", hint="A1 B3, or A1:C4 for every one in the box"),
              Ask("base", "Base", first_level(w), hint="a level or a height"), Ask("top", "Top", first_level(w, True), hint="a level, such as eaves-150"),
              Ask("role", "Role", "column", ROLES), Ask("roll", "Roll, degrees", "0"), Ask("cardinal", "Hangs on", "centre", CARDINALS)]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        w.last_section = v["section"]
        return w.number_error(v, "roll") or w.command_error(
            "add-columns",
            section=v["section"],
            at=_words(v["at"]),
            base=v["base"],
            top=v["top"],
            role=v["role"],
            roll_deg=float(v["roll"]),
            cardinal=v["cardinal"],
        )

    w.form("Columns at grid crossings", "Crossings that have a column at that base already are passed over.", fields, submit, picture="columns")


def beams_at(w: Host) -> None:
    """Beams from crossing to crossing."""
    fields = [Ask("section", "Section", w.last_section, complete=w.section_names()), Ask("through", "Through", "", hint="A1 A2 A3; several rows parted by ;"),
              Ask("level", "Top of steel", first_level(w, True), hint="a level, such as floor-20"), Ask("role", "Role", "beam", ROLES), Ask("cardinal", "Hangs on", "top", CARDINALS),
              Ask("whole", "One bar over the row", "no", ("no", "yes"))]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        w.last_section = v["section"]
        rows = [r.strip() for r in v["through"].split(";") if r.strip()]
        return w.command_error(
            "add-beams", section=v["section"], through=rows, level=v["level"], role=v["role"], cardinal=v["cardinal"], whole=v["whole"] == "yes"
        )

    w.form("Beams between grid crossings", "", fields, submit, picture="beams")


def draw(w: Host) -> None:
    """A bar to draw between points of the model."""
    fields = [
        Ask("section", "Section", w.last_section, complete=w.section_names()),
        Ask("role", "Role", "beam", ROLES),
        Ask("cardinal", "Hangs on", "centre", CARDINALS),
        Ask("roll", "Roll, degrees", "0"),
    ]

    def submit(v: dict[str, str]) -> str:
        bad = w.number_error(v, "roll") or w.section_error(v["section"])
        if not bad:
            w.last_section = v["section"]
            w.pointing.start("draw", {"section": v["section"], "role": v["role"], "cardinal": v["cardinal"], "roll_deg": float(v["roll"])})
        return bad

    w.form("Draw members", "Then click two points: ends, middles, crossings and lines take hold; type a distance to go that far.", fields, submit)


def copy(w: Host) -> None:
    """An array of the selected members."""
    fields = [
        Ask("x", "Along x", "0"),
        Ask("y", "Along y", "0"),
        Ask("z", "Along z", "0"),
        Ask("count", "How many", "1"),
        Ask("skip", "Leave out numbers", "", hint="such as 2 5"),
    ]

    def submit(v: dict[str, str]) -> str:
        try:
            count, skip = int(v["count"]), [int(n) for n in _words(v["skip"])]
        except ValueError:
            return "how many, and which to leave out: whole numbers"
        return w.command_error("copy-members", ids=w.members, by=[v["x"], v["y"], v["z"]], count=count, skip=skip)

    w.form(
        f"Copy {counted(len(w.members), 'member')}",
        "Each copy lies one step further on; a negative step goes the other way. Connections come along where the joint is the same.",
        fields,
        submit,
        picture="copy",
    )


def along_rows(w: Host, family: Family) -> None:
    """A family along the rows of the selected members, or of all purlins and girts where fewer than two are selected."""
    assert w.desk is not None
    chosen = list(w.members) if len(w.members) > 1 else [m.id for m in w.desk.project.members.values() if m.role in ("purlin", "girt")]
    if len(chosen) < 2:
        w.fail(f"{family.label}: select members that lie beside each other; there are no purlins or girts")
        return
    unit = w.desk.project.house.units
    fields = [
        Ask("lines", "Lines to a span", "1"),
        Ask("at", "Or at, from the start", "", hint="distances parted by commas"),
        Ask("widest", "Widest gap in a row", format_length(3500.0 if not w.desk.project.house.inch else 3657.6, unit)),
        Ask("bays", "Leave out bays", "", hint="such as 2 5"),
    ]

    def submit(v: dict[str, str]) -> str:
        try:
            lines, bays = int(v["lines"]), [int(n) for n in _words(v["bays"])]
        except ValueError:
            return "how many to a span, and which to leave out: whole numbers"
        at = [p for p in triple(v["at"]) if p]
        return w.command_error("place-rows", family=family.name, members=chosen, lines=lines, at=at, widest=v["widest"], bays_left_out=bays)

    whose = counted(len(chosen), "member") if len(w.members) > 1 else f"all {len(chosen)} purlins and girts"
    w.form(f"{family.label} along rows", f"Through {whose}: those beside each other make a row, in every span between what carries them.", fields, submit)


def mirror(w: Host) -> None:
    """A mirror image of the selected members."""
    fields = [Ask("about", "About", "grid line", ("grid line", "line of two points", "middle across x", "middle across y")), Ask("grid", "Grid line", "", hint="such as C"),
              Ask("first", "First point x, y", "", hint="0, 0"), Ask("second", "Second point x, y", "", hint="0, 6000"), Ask("copy", "Keep the original", "yes", ("yes", "no"))]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        how: dict[str, Any] = {"copy": v["copy"] == "yes"}
        if v["about"] == "grid line":
            how["grid_line"] = v["grid"]
        elif v["about"] == "line of two points":
            points = [triple(v["first"]), triple(v["second"])]
            if any(len(p) != 2 for p in points):
                return "the line: two points of two lengths each, such as 0, 6000"
            how["line"] = [[*p, 0] for p in points]
        else:
            how["middle"] = v["about"][-1]
        return w.command_error("mirror-members", ids=w.members, **how)

    w.form(f"Mirror {counted(len(w.members), 'member')}", "Connections come along as correct mirror images, handed settings turned.", fields, submit, picture="mirror")


def rotate(w: Host) -> None:
    """The selected members turned about an upright line."""
    fields = [Ask("about", "About x, y", "0, 0"), Ask("angle", "Degrees, counter-clockwise", "90"), Ask("copy", "Keep the original", "no", ("no", "yes"))]

    def submit(v: dict[str, str]) -> str:
        point = triple(v["about"])
        if len(point) != 2:
            return "about: two lengths parted by a comma, such as 6000, 0"
        return w.number_error(v, "angle") or w.command_error(
            "rotate-members", ids=w.members, about=[*point, 0], angle_deg=float(v["angle"]), copy=v["copy"] == "yes"
        )

    w.form(f"Rotate {counted(len(w.members), 'member')}", "", fields, submit, picture="rotate")


def cut_polygon(w: Host) -> None:
    """A polygon out of the selected members."""
    fields = [Ask("view", "Seen from the", "side", ("side", "top")), Ask("origin", "Along from the", "start", ("start", "end")),
              Ask("corners", "Corners", "", hint="along, across; 0, 60; 200, 60; 200, 160; 0, 160"), Ask("radius", "Inner radius", "0")]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        corners = [triple(p) for p in v["corners"].split(";") if p.strip()]
        if any(len(c) != 2 for c in corners):
            return "corners: two lengths each, parted by a comma, corners parted by ;"
        return w.command_error("cut-polygon", ids=w.members, view=v["view"], origin=v["origin"], corners=corners, radius=v["radius"])

    w.form(
        f"Cut a polygon out of {len(w.members)} member{'s' if len(w.members) != 1 else ''}",
        "Along is from the end named, across from the middle of the section: up seen from the side, towards its y axis seen from the top.",
        fields,
        submit,
        picture="cut",
    )


def split(w: Host) -> None:
    """The selected members cut in pieces."""
    fields = [Ask("at", "From the start", "", hint="distances parted by blanks, such as 6000 12000")]
    w.form(
        f"Split {counted(len(w.members), 'member')}",
        "Connections stay with the piece they belong to.",
        fields,
        lambda v: w.command_error("split-members", ids=w.members, at=v["at"].split()) if v["at"] else "give at least one distance",
        picture="split",
    )


def stretch(w: Host) -> None:
    """One end of the selected members moved along their line."""
    fields = [Ask("end", "Which end", "end", ("start", "end")), Ask("by", "By", "", hint="negative is shorter")]
    w.form(f"Stretch {counted(len(w.members), 'member')}", "", fields, lambda v: w.command_error("stretch-members", ids=w.members, end=v["end"], by=v["by"]), picture="stretch")


RUNS: dict[str, tuple[str, list[Ask]]] = {
    "purlins": ("rafters", [Ask("section", "Section", "Z 200x65x20x2"), Ask("spacing", "Spacing at most", "1500"), Ask("eaves", "First row from the eaves", "200"), Ask("ridge", "Last row from the ridge", "200"), Ask("lap", "Lap over supports", "600"), Ask("overhang", "Past the last rafter", "0")]),
    "girts": ("columns", [Ask("section", "Section", "CF 200x65x20x2"), Ask("spacing", "Spacing at most", "1800"), Ask("first", "First row over the foot", "1200"), Ask("last", "Last row under the head", "300"), Ask("lap", "Lap over supports", "0")]),
    "joists": ("beams", [Ask("section", "Section", "IPE 200"), Ask("spacing", "Spacing at most", "2500"), Ask("drop", "Under the beams' top", "0")]),
    "bracing": ("columns", [Ask("section", "Section", "CHS 114.3x5"), Ask("pattern", "Pattern", "X", ("X", "single", "K")), Ask("panels", "Panels", "1"), Ask("base", "Over the feet", "300"), Ask("top", "Under the heads", "400")]),
}  # fmt: skip


def run(w: Host, kind: str) -> None:
    """A run on the selected members."""
    refers, fields = RUNS[kind]

    def submit(v: dict[str, str]) -> str:
        values: dict[str, Any] = {refers: list(w.members), **v}
        return w.command_error("add-run", kind=kind, settings=values)

    w.form(
        f"Lay {kind} on {counted(len(w.members), 'member')}", "The run stays parametric: it follows these members, and its spacing can be changed later.", fields, submit, picture=kind
    )


def change_run(w: Host, key: str) -> None:
    """A run's settings, as they are; what is typed otherwise is changed."""
    if w.desk is None:
        return
    old = w.desk.project.runs[key]
    kind = type(old).__name__.lower()
    unit = w.desk.project.house.units
    fields = []
    for ask in RUNS[kind][1] if kind in RUNS else PORTAL_FIELDS:
        value = getattr(old, ask.name)
        text = format_length(value, unit) if isinstance(value, float) else str(value)
        fields.append(Ask(ask.name, ask.label, text, ask.choices))
    before = {a.name: a.text for a in fields}

    def submit(v: dict[str, str]) -> str:
        changed: dict[str, Any] = {k: (int(t) if k == "panels" and t.isdigit() else t) for k, t in v.items() if t != before[k]}
        return w.command_error("change-run", id=key, settings=changed) if changed else ""

    w.form(f"Change {kind} {key}", "Members at the same place stay the same, with their connections.", fields, submit, picture=kind)


PORTAL_FIELDS = [Ask("span", "Span"), Ask("eaves", "Eaves"), Ask("ridge", "Ridge"), Ask("column", "Columns"), Ask("rafter", "Rafters")]


def portals(w: Host) -> None:
    """Portal frames from nothing."""
    fields = [Ask("origin", "Corner x, y", "0, 0"), Ask("span", "Span", "20 m"), Ask("eaves", "Eaves", "6000"), Ask("ridge", "Ridge", "7000"), Ask("bays", "Bays", "5@6000"),
              Ask("column", "Columns", "UB 457x191x67", complete=w.section_names()), Ask("rafter", "Rafters", "UB 406x178x60", complete=w.section_names())]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        point = triple(v.pop("origin"))
        if len(point) != 2:
            return "corner: two lengths parted by a comma, such as 0, 0"
        try:
            origin = [w.mm(p) for p in point]
        except ValueError as error:
            return str(error)
        return w.command_error("add-run", kind="portals", settings={"origin": [*origin, 0.0], **v})

    w.form("Raise portal frames", "Two columns and two rafters a frame, one frame at each end of every bay.", fields, submit, picture="portals")


def face(w: Host) -> None:
    """The top face of the first selected member as work plane."""
    if w.desk is not None:
        w.pointing.work_plane_on(w.desk.project.members[w.members[0]])


def plane_off(w: Host) -> None:
    """Points take hold of the model alone again."""
    w.pointing.plane = None
    w.say("Work plane off")


def frame_actions(w: Host) -> list[Action]:
    """The frame's actions, bound to a window."""

    def opened() -> bool:
        return w.desk is not None

    def members() -> bool:
        return bool(w.members)

    def two() -> bool:
        return len(w.members) == 2

    def both(name: str) -> None:
        w.run(name, ids=list(w.members))

    need, pair = "Select members first", "Select two members first"
    out = [
        Action("columns-at", "Columns at crossings…", ("place", "grid", "post", "box"), "", partial(columns_at, w), opened, "Columns at grid crossings, one by one or all in a box"),
        Action("beams-at", "Beams between crossings…", ("place", "grid", "joist", "tie"), "", partial(beams_at, w), opened, "Beams from crossing to crossing at a level"),
        Action("draw-members", "Draw members…", ("two points", "snap", "place", "line"), "D", partial(draw, w), opened, "Members between points you click"),
        Action("measure", "Measure", ("distance", "length", "angle", "between points"), "U", lambda: w.pointing.start("measure"), opened, "Distance between two points, along the axes too"),
        Action("measure-edges", "Measure between edges", ("distance", "clear", "gap", "edge to edge", "angle"), "Shift+U", lambda: w.pointing.start("edges"), opened, "Clear distance and angle between two edges of members, plates, bolts"),
        Action("work-plane", "Work plane by three points", ("plane", "draw on"), "", w.pointing.work_plane, opened, "Points drawn where nothing takes hold fall on it"),
        Action("work-plane-face", "Work plane on a member's face", ("plane", "top face"), "", lambda: face(w), members, need),
        Action("work-plane-off", "Work plane off", ("plane",), "", lambda: plane_off(w), lambda: w.pointing.plane is not None, "There is no work plane"),
        Action("copy-members", "Copy or array…", ("repeat", "duplicate", "pitch"), "", partial(copy, w), members, need),
        Action("mirror-members", "Mirror…", ("handed", "flip", "opposite"), "", partial(mirror, w), members, need),
        Action("rotate-members", "Rotate…", ("turn",), "", partial(rotate, w), members, need),
        Action("stretch-members", "Stretch…", ("lengthen", "shorten"), "", partial(stretch, w), members, need),
        Action("cut-polygon", "Cut a polygon out…", ("cope", "notch", "opening", "burn"), "", partial(cut_polygon, w), members, need),
        Action("drop-cuts", "Take own cuts back", ("uncut", "whole", "mitre"), "", lambda: w.run("drop-cuts", ids=w.members), members, need),
        Action("split-members", "Split…", ("cut", "break"), "", partial(split, w), members, need),
        Action("join-members", "Join two into one", ("merge", "unite"), "", partial(both, "join-members"), two, pair),
        Action("mitre-members", "Mitre two", ("corner", "bevel"), "", partial(both, "mitre-members"), two, pair),
        Action("trim-members", "Trim the first to the second", ("extend", "shorten to"), "", lambda: w.run("trim-members", ids=w.members[:1], to=w.members[1]), two, pair),
        Action("raise-portals", "Raise portal frames…", ("frame", "shed", "bay"), "", partial(portals, w), opened, "Columns and rafters of a whole shed"),
    ]  # fmt: skip
    for kind, (refers, _) in RUNS.items():
        out.append(Action(f"lay-{kind}", f"Lay {kind}…", ("run", refers), "", partial(run, w, kind), members, f"Select the {refers} first"))
    return out
