"""Every action of the window, declared once for the action line, the search, the menus and the shortcuts."""

from functools import partial
from typing import Any

from PySide6.QtWidgets import QFileDialog

from tincleat.app import deeds, menus
from tincleat.app.asking import save_path
from tincleat.app.body_forms import body_actions
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.details_compared import compare_actions
from tincleat.app.dialogs import Action, Ask
from tincleat.app.dividing import dividing_actions
from tincleat.app.forms import frame_actions
from tincleat.app.gallery import gallery_actions
from tincleat.app.house_defaults import offer_defaults
from tincleat.app.joining import joining_actions
from tincleat.app.layout_editor import LayoutEditor
from tincleat.app.loose_deeds import loose_actions
from tincleat.app.own_families import own_actions
from tincleat.app.pointed import pointed_actions
from tincleat.app.rail import STAGES
from tincleat.app.ready_deeds import ready_actions
from tincleat.app.rollout import rollout_actions
from tincleat.app.schedules import schedule_actions
from tincleat.app.standards import EN_MM, US_INCH
from tincleat.app.typicals import typical_actions
from tincleat.app.underlays import underlay_actions
from tincleat.app.waiting import FELT
from tincleat.exchange.ifc import export_ifc
from tincleat.exchange.tables import export_bill, export_ledger
from tincleat.families.registry import FAMILIES
from tincleat.project.store import SUFFIX

STAGE_WORDS = {"Frame": "members grids levels", "Ready": "true up stock import", "Join": "connections place", "Prove": "findings check", "Release": "export bills hand over"}
STAGE_ACTIONS: dict[str, tuple[str, ...]] = {
    "Frame": ("layout", "columns-at", "beams-at", "draw-members", "", "copy-pointed", "move-pointed", "mirror-pointed", "stretch-pointed", "split-pointed", "delete"),
    "Ready": ("import-ifc", "true-up", "stock", "", "take-snapshot", "compare", "revise", "", "next-open-end", "next-through"),
    "Join": ("join-all", "place", "", "place-all", "roll-out", "", "select-kin", "delete"),
    "Prove": ("next-finding", "previous-finding", "next-through", "", "rules-en", "rules-aisc", "house-rules"),
    "Release": ("export-ifc", "export-bill", "export-ledger", "save-copy"),
}


# the action line is short: what it says where a label is longer
SHORT = {
    "layout": "Grids, levels…", "columns-at": "Columns…", "beams-at": "Beams…", "draw-members": "Draw…", "copy-pointed": "Copy", "move-pointed": "Move", "mirror-pointed": "Mirror", "stretch-pointed": "Stretch", "split-pointed": "Split", "import-ifc": "Import…", "stock": "Stock",
    "take-snapshot": "Snapshot…", "revise": "Revise…", "next-open-end": "Next loose end", "next-through": "Next overlap",
}  # fmt: skip


def build_actions(w: Host) -> list[Action]:
    """All actions, bound to a window."""

    def opened() -> bool:
        return w.desk is not None

    def house(**values: Any) -> None:
        def keep() -> None:
            if w.run("set-house-rules", values=values):
                offer_defaults(w)

        if w.desk is None or len(w.desk.project.members) <= FELT:
            keep()
            return
        desk = w.desk  # every detail is made and proved anew: that is followed and can be stopped
        w.follow(f"Proving {len(desk.project.connections):,} connections anew", lambda: desk.run("set-house-rules", values=values), lambda: offer_defaults(w))

    stages = [Action(f"go-{name.lower()}", f"Stage: {name}", (STAGE_WORDS[name],), f"Alt+{i}", partial(w.rail_to, name), opened, f"Go to the stage {name}") for i, name in enumerate(STAGES, 1)]
    out = [
        *stages,
        Action("new", "New project…", ("start", "empty", "millimetres"), "Ctrl+N", lambda: w.projects.new(EN_MM), tip="An empty project in millimetres with EN rules"),
        Action("new-inch", "New project in feet and inches…", ("imperial", "aisc"), "", lambda: w.projects.new(US_INCH), tip="An empty project in feet-inches with AISC rules"),
        Action("open", "Open a project…", ("file", "load"), "Ctrl+O", lambda: _open(w), tip="Open a project file"),
        Action("demo", "Open the demo", ("boathouse", "example", "plover spit"), "", w.projects.open_demo, tip="Plover Spit boathouse, as you left it"),
        Action("demo-fresh", "Start the demo afresh", ("boathouse", "reset"), "", lambda: w.projects.open_demo(fresh=True), tip="Plover Spit boathouse as it comes"),
        Action("close", "Close the project", ("start card",), "Ctrl+W", lambda: w.set_desk(None), opened, "Back to the start card; everything is kept"),
        Action("save-copy", "Save a copy…", ("snapshot", "backup", "save as"), "Ctrl+S", lambda: _copy(w), opened, "Everything is kept as you work; this writes a copy elsewhere"),
        Action("save-elsewhere", "Save elsewhere and go on there…", ("save as", "move", "read-only"), "", lambda: deeds.save_elsewhere(w), opened, "Write the project to another file and work in that one"),
        Action("undo", "Undo", ("back", "revert"), "Ctrl+Z", w.undo, opened, "Take the last command back"),
        Action("redo", "Redo", ("again",), "Ctrl+Shift+Z", w.redo, opened, "Do it again"),
        Action("search", "All actions", ("find", "command"), "Ctrl+K", partial(menus.search, w), tip="Search every action by what it does"),
        Action("filter", "Filter the table", ("find", "search rows"), "Ctrl+F", partial(deeds.drawer_focus, w), opened, "Type words to keep only rows that hold them"),
        Action("help", "Help", ("manual", "keys", "shortcuts"), "F1", partial(menus.help, w), tip="Help for what has the focus"),
        Action("fit", "Fit all", ("zoom", "whole model"), "F", lambda: w.view.fit(), opened, "Show the whole model"),
        Action("zoom-selection", "Zoom to selection", ("close up", "find"), "Z", w.zoom_selection, lambda: bool(w.selected or w.members), "Select something first"),
        Action("view-plan", "Look from above", ("plan", "top"), "Ctrl+1", lambda: w.view.look(-90, 90), opened, "The model from above"),
        Action("view-front", "Look from the front", ("elevation",), "Ctrl+2", lambda: w.view.look(-90, 0), opened, "The model along the grid's y axis"),
        Action("view-side", "Look from the side", ("elevation",), "Ctrl+3", lambda: w.view.look(0, 0), opened, "The model along the grid's x axis"),
        Action("view-corner", "Look from a corner", ("isometric", "3d"), "Ctrl+4", lambda: w.view.look(-58, 24), opened, "The model from a corner"),
        Action("perspective", "Perspective on or off", ("parallel", "projection"), "P", partial(deeds.toggle_perspective, w), opened, "Parallel by default"),
        Action("marks", "State marks on or off", ("symbols", "hide"), "M", partial(deeds.toggle_marks, w), opened, "The marks at joints"),
        Action("dark", "Dark theme", ("colours", "night"), "", lambda: w.set_theme("dark"), tip="Dark colours"),
        Action("light", "Light theme", ("colours", "day", "paper"), "", lambda: w.set_theme("light"), tip="Light colours"),
        Action("enlarge-sheet", "Enlarge the sheet", ("drawing", "large", "swap"), "F8", w.toggle_sheet, lambda: bool(w.detail.key), "Select a connection first"),
        Action("copy-sheet", "Copy the sheet as a picture", ("clipboard",), "Ctrl+Shift+C", lambda: w.detail.sheet.copy(), lambda: bool(w.detail.key), "Select a connection first"),
        Action("print-sheet", "Print the sheet…", ("paper",), "Ctrl+P", lambda: w.detail.sheet.print_(), lambda: bool(w.detail.key), "Select a connection first"),
        Action("add-grid", "Add a grid…", ("axes", "lines"), "", lambda: _add_grid(w), opened, "Grid lines by spacing lists"),
        Action("add-level", "Add a level…", ("floor", "elevation"), "", lambda: _add_level(w), opened, "A named elevation"),
        Action("add-members", "Add a member…", ("column", "beam", "brace", "rafter", "steel"), "", lambda: _add_member(w), opened, "A member by section and two points"),
        Action("layout", "Grids and levels…", ("axes", "spacing", "edit grid", "elevations"), "Ctrl+G", lambda: LayoutEditor(w).exec(), opened, "Grid lines and levels in tables"),
        Action("move-members", "Move members…", ("shift",), "", lambda: _move(w), lambda: bool(w.members), "Select members first"),
        Action("delete", "Delete", ("remove", "erase"), "Del", w.delete_selected, lambda: bool(w.members or w.selected_connections()), "Select connections or members first"),
        Action("select-kin", "Select all alike", ("kin", "same"), "K", partial(deeds.select_kin, w), lambda: bool(w.selected), "Select a joint first"),
        Action("place-as-last", "Pointing as last typed, on or off", ("remember", "same settings", "as it comes"), "L", w.placing.toggle_last, opened, "Whether pointing takes over what was typed last at such a joint"),
        Action("place-all", "Place at all alike", ("roll out", "everywhere", "kin"), "", w.placing.place_all_alike, lambda: w.open_selected() is not None, "Select an open joint first"),
        Action("next-open-end", "Next end that meets nothing", ("near miss", "free", "gap"), "", partial(deeds.next_open_end, w), opened, "Ends that stop short or meet nothing"),
        Action("next-through", "Next members through each other", ("clash", "crossing", "inside", "overlap"), "", partial(deeds.next_through, w), opened, "Members that share steel away from any joint"),
        Action("next-finding", "Next finding", ("breach", "error", "check"), "N", partial(deeds.next_finding, w), opened, "Go to the next finding"),
        Action("previous-finding", "Previous finding", ("breach", "back"), "Shift+N", partial(deeds.next_finding, w, -1), opened, "Go to the finding before"),
        Action("rules-en", "EN rules", ("eurocode", "standard"), "", lambda: house(rule_set="EN"), opened, "Prove to EN 1993-1-8 and EN 1090-2"),
        Action("rules-aisc", "AISC rules", ("standard", "us"), "", lambda: house(rule_set="AISC"), opened, "Prove to AISC 360-22"),
        Action("house-rules", "House rules…", ("units", "factors", "defaults", "exposed", "settings", "rounding", "stock", "marks", "office standard"), "Ctrl+H", w.open_house, opened, "Units, standard, defaults, stock, rounding, clearances, marks; what a change does is shown before it is kept"),
        Action("export-ifc", "Export IFC…", ("bim", "hand over", "model"), "", lambda: _ifc(w), opened, "IFC4 with members, plates, bolts, welds"),
        Action("export-ledger", "Export the ledger…", ("excel", "csv", "joints", "list", "progress"), "", lambda: _ledger(w), opened, "Every joint with its state, connection and findings"),
        Action("export-bill", "Export bills…", ("bom", "materials", "bolt list", "excel", "csv"), "", lambda: _bill(w), opened, "Bill of materials and bolt list"),
    ]  # fmt: skip
    out += [*frame_actions(w), *ready_actions(w), *underlay_actions(w), *body_actions(w), *schedule_actions(w), *typical_actions(w), *joining_actions(w), *rollout_actions(w), *gallery_actions(w), *own_actions(w), *compare_actions(w), *dividing_actions(w), *loose_actions(w), *pointed_actions(w)]
    for name, family in FAMILIES.items():
        where = ", ".join(family.kinds)
        out.append(Action(f"place-{name}", family.placing, family.words, "", lambda n=name: w.placing.start(n), opened, f"Fits: {where}"))  # type: ignore[misc]
    return out


def _open(w: Host) -> None:
    name, _ = QFileDialog.getOpenFileName(w, "Open a project", "", f"Tin Cleat projects (*{SUFFIX});;All files (*)")
    if name:
        w.projects.open_path(name)


def _copy(w: Host) -> None:
    assert w.desk is not None
    start = w.desk.store.path.with_name(f"{w.desk.store.path.stem} copy{SUFFIX}")
    path = save_path(w, "Save a copy", start, f"Tin Cleat projects (*{SUFFIX})", (SUFFIX,))
    if path is not None:
        deeds.save_copy(w, path)


def _add_grid(w: Host) -> None:
    w.form(
        "Add a grid", "Spacing lists such as 6@6000 or 0 4000 9000. Lines along x are numbered, lines along y lettered.",
        [Ask("name", "Name", "main"), Ask("x", "Spacings along x", "6@6000"), Ask("y", "Spacings along y", "2@6000"), Ask("angle", "Turned by, degrees", "0")],
        lambda v: w.number_error(v, "angle") or w.command_error("add-grid", name=v["name"], x=v["x"], y=v["y"], angle_deg=float(v["angle"])),
    )  # fmt: skip


def _add_level(w: Host) -> None:
    w.form("Add a level", "", [Ask("name", "Name", "", hint="eaves"), Ask("elevation", "Elevation", "", hint="6000")],
           lambda v: w.command_error("add-level", name=v["name"], elevation=v["elevation"]))  # fmt: skip


def _add_member(w: Host) -> None:
    fields = [Ask("section", "Section", w.last_section, complete=w.section_names()), Ask("role", "Role", "beam", ("column", "beam", "rafter", "joist", "brace", "post", "purlin", "girt", "other")),
              Ask("start", "Start x, y, z", "0, 0, 0"), Ask("end", "End x, y, z", "0, 0, 4000"), Ask("roll", "Roll, degrees", "0"),
              Ask("cardinal", "Hangs on", "centre", ("centre", "centroid", "top", "bottom", "left", "right", "top left", "top right", "bottom left", "bottom right")), Ask("name", "Name", "", hint="as you like")]  # fmt: skip

    def submit(v: dict[str, str]) -> str:
        points = {k: [p.strip() for p in v[k].split(",")] for k in ("start", "end")}
        for k, p in points.items():
            if len(p) != 3:
                return f"{k}: three lengths parted by commas, such as 0, 0, 4000"
        bad = w.number_error(v, "roll")
        if bad:
            return bad
        w.last_section = v["section"]
        member = {"section": v["section"], "role": v["role"], **points, "roll_deg": float(v["roll"]), "cardinal": v["cardinal"], "name": v["name"]}
        return w.command_error("add-members", members=[member])

    w.form("Add a member", "Lengths in the project's unit, or with a unit of their own.", fields, submit)


def _move(w: Host) -> None:
    fields = [Ask(axis, f"Along {axis}", "0") for axis in "xyz"]
    w.form(
        f"Move {counted(len(w.members), 'member')}",
        "Their connections follow.",
        fields,
        lambda v: w.command_error("move-members", ids=w.members, by=[v["x"], v["y"], v["z"]]),
    )


def _ifc(w: Host) -> None:
    assert w.desk is not None
    path = save_path(w, "Export IFC", w.desk.store.path.with_suffix(".ifc"), "IFC (*.ifc)", (".ifc",))
    if path is not None:
        ledger = w.desk.ledger
        w.work("Writing IFC", lambda progress: export_ifc(ledger, path, progress), lambda made: w.say(f"Written: {made}"))


def _ledger(w: Host) -> None:
    assert w.desk is not None
    path = save_path(w, "Export the ledger", w.desk.store.path.with_name(f"{w.desk.store.path.stem}-ledger.xlsx"), "Excel workbook (*.xlsx);;CSV (*.csv)", (".xlsx", ".csv"))
    if path is not None:
        ledger = w.desk.ledger
        w.work("Writing the ledger", lambda progress: export_ledger(ledger, path), lambda made: w.say("Written: " + ", ".join(str(p) for p in made)))


def _bill(w: Host) -> None:
    assert w.desk is not None
    path = save_path(w, "Export bills", w.desk.store.path.with_suffix(".xlsx"), "Excel workbook (*.xlsx);;CSV (*.csv)", (".xlsx", ".csv"))
    if path is not None:
        ledger = w.desk.ledger
        w.work("Writing bills", lambda progress: export_bill(ledger, path), lambda made: w.say("Written: " + ", ".join(str(p) for p in made)))
