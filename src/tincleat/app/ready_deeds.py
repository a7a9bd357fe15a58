"""What the Ready stage does to a window: import, true up, stock, snapshots, a revised model; and views of a part of the model."""

from functools import partial
from pathlib import Path

import msgspec
from PySide6.QtWidgets import QFileDialog

from tincleat.app.cards import import_card
from tincleat.app.coming import Coming, coming
from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.app.dialogs import Action, Ask
from tincleat.app.review import Matter, Row
from tincleat.app.state_pictures import StatePictures
from tincleat.catalogue.fasteners import grade_names
from tincleat.catalogue.grades import UNKNOWN
from tincleat.commands.imports import ImportFrame, read
from tincleat.commands.ready import accept_rows, differences, members_of, revision
from tincleat.errors import Progress, TinCleatError
from tincleat.exchange.ifc_source import Imported
from tincleat.ledger.look import Standing, standing, want_look
from tincleat.ledger.query import members_like
from tincleat.project.entities import Member, inch_house
from tincleat.project.members import length
from tincleat.ready.compare import Difference
from tincleat.ready.rules import RULES
from tincleat.ready.stock import over_stock
from tincleat.ready.true_up import plan
from tincleat.units import format_length

IFC = "IFC models (*.ifc *.ifczip)"


def import_ifc(w: Host, path: str = "") -> None:
    """Read a model in the background, show the report, and take it in when asked."""
    if w.desk is None:
        return
    name = path or QFileDialog.getOpenFileName(w, "Import a frame from IFC", "", IFC)[0]
    if name:
        project = w.desk.project

        def work(progress: Progress) -> tuple[Imported, Coming]:
            found = read(project, ImportFrame(name), progress)
            return found, coming(found, project, progress)

        w.work(f"Reading {Path(name).name}", work, lambda both: _imported(w, name, *both))


def _imported(w: Host, name: str, found: Imported, frame: Coming) -> None:
    """Show what was read: the card with its figures, the frame as it would come in drawn over the model."""

    def keep() -> None:
        if w.desk is None:
            return
        try:
            w.say(w.desk.take_in(name, found))
        except TinCleatError as error:
            w.fail(str(error))
            return
        w.select([], [])
        w.view.fit()
        w.rail.choose("Ready")

    def mean() -> None:
        def submit(v: dict[str, str]) -> str:
            bad = w.command_error("set-meaning", name=v["name"], section=v["section"])
            if not bad:
                import_ifc(w, name)
            return bad

        # names nothing was found for come first
        unknown = [words.split("'")[1] for words in (*found.notes, *(one["why"] for one in found.left)) if "is like no section" in words]
        untold = [name.partition(",")[0] for name, grade, _ in found.grades if grade == UNKNOWN and name != "no material"]
        names = list(dict.fromkeys([*unknown, *untold, *found.profiles]))
        fields = [
            Ask("name", "Profile or material", names[0] if names else "", complete=names),
            Ask("section", "Stands for", "", hint="a section, such as UB 305x165x40, or a grade", complete=[*grade_names("grades"), *w.section_names()]),
        ]
        w.form("What a name means", "Remembered in this project for every import to come; the file is read again.", fields, submit)

    def inch() -> None:
        assert w.desk is not None
        rules = msgspec.to_builtins(inch_house(w.desk.project.house.title))
        if w.run("set-house-rules", values={k: v for k, v in rules.items() if k not in ("id", "title", "north_deg")}):
            _imported(w, name, found, frame)

    fresh = w.desk is not None and not w.desk.project.members and not w.desk.project.house.inch
    w.show_card(import_card(Path(name).name, found, keep, lambda: w.select([], []), mean, inch if fresh else None))
    w.looking.at_coming(frame)
    guessed = "; those in ochre have a profile that was guessed" if len(frame.guessed.points) else ""
    w.say(f"{counted(len(found.members), 'member')} read and drawn as they would come in{guessed}; nothing is kept until you take them in")


def true_up(w: Host, rules: "tuple[str, ...]" = ()) -> None:
    """Dry run: a row a member and rule, before and after laid over the model."""
    if w.desk is None:
        return
    found = plan(w.desk.ledger, rules)
    members = w.desk.project.members
    rows = [Row(c.new.id, RULES[c.rule].label, c.old.name, c.old.section, c.words, c.old, c.new) for c in found.changes]
    rows += [
        Row(f"{x.member} {x.rule}", RULES[x.rule].label, members[x.member].name, members[x.member].section, f"left: {x.why}", members[x.member], None, False)
        for x in found.left
    ]

    def take(keys: list[str]) -> bool:
        skip = [c.new.id for c in found.changes if c.new.id not in keys]
        return w.run("true-up", rules=list(rules), skip=list(dict.fromkeys(skip)))

    w.looking.through(Matter("True up" + (f", {RULES[rules[0]].label.lower()}" if len(rules) == 1 else ""), rows, take, "True up"))


def stock(w: Host) -> None:
    """Members over stock length, with the splits proposed."""
    if w.desk is None:
        return
    unit = w.desk.project.house.units
    show = lambda v: format_length(round(v), unit)  # noqa: E731
    rows = []
    for o in over_stock(w.desk.ledger):
        words = "pieces " + ", ".join(show(p) for p in o.pieces) if o.at else "no place clear of what meets it"
        rows.append(Row(o.member.id, f"{show(length(o.member))} of {show(o.stock)}", o.member.name, o.member.section, words, None, o.member, bool(o.at)))
    w.looking.through(Matter("Over stock length", rows, lambda keys: w.run("split-stock", ids=keys), "Split"))


def split_typed(w: Host) -> None:
    """The first selected member split at typed places, all like it too if asked."""
    if w.desk is None or not w.members:
        return
    m = w.desk.project.members[w.members[0]]
    unit = w.desk.project.house.units
    over = next((o for o in over_stock(w.desk.ledger) if o.member.id == m.id), None)
    fields = [
        Ask("at", "From the start", " ".join(format_length(a, unit) for a in over.at) if over else ""),
        Ask("like", "All like it too", "no", ("no", "yes")),
    ]
    w.form(
        f"Split {m.name} to stock", f"{format_length(length(m), unit, True)} long. Nothing is split on or near what meets it unless you type it so.", fields,
        lambda v: w.command_error("split-stock", ids=[m.id], at=v["at"].split(), all_like=v["like"] == "yes"), picture="split",
    )  # fmt: skip


def take_snapshot(w: Host) -> None:
    """Keep the present state under a name."""
    w.form(
        "Take a snapshot",
        "The state of the whole project, to compare with or return to.",
        [Ask("name", "Name", "", hint="before joining")],
        lambda v: w.command_error("take-snapshot", name=v["name"]),
    )


def _snapshots(w: Host) -> list[str]:
    """Names of the snapshots; says so if there are none."""
    names = [s.name for s in w.desk.project.snapshots.values()] if w.desk is not None else []
    if not names:
        w.say("There are no snapshots yet: take one first")
    return names


def compare(w: Host) -> None:
    """Two states side by side."""
    names = _snapshots(w)
    if not names:
        return

    def submit(v: dict[str, str]) -> str:
        assert w.desk is not None
        try:
            found = differences(w.desk.project, v["first"], v["second"])
            states = members_of(w.desk.project, v["first"]), dict(members_of(w.desk.project, v["second"]))
        except TinCleatError as error:
            return str(error)
        rows = _difference_rows(found)
        w.looking.through(Matter(f"{v['first']} and {v['second']}", rows, None))
        if rows:
            w.looking.at_pictures(StatePictures(w.theme, (v["first"], v["second"]), states, rows, w.view.camera), len(rows))
        return ""

    w.form("Compare", "", [Ask("first", "From", names[-1], names), Ask("second", "To", "now", ["now", *names])], submit)


def restore(w: Host) -> None:
    """Return to a snapshot."""
    names = _snapshots(w)
    if not names:
        return
    w.form(
        "Return to a snapshot",
        "Members, grids, levels, runs, connections and house rules. Undo returns from it.",
        [Ask("name", "Snapshot", names[-1], names)],
        lambda v: w.command_error("restore-snapshot", name=v["name"]),
    )


def _difference_rows(found: "list[Difference]") -> list[Row]:
    return [Row(d.key, d.kind, d.label, (d.new or d.old).section if d.new or d.old else "", d.words, d.old, d.new) for d in found]  # type: ignore[union-attr]


def revise(w: Host, path: str = "") -> None:
    """Compare with the engineer's next issue, and take in what is accepted."""
    if w.desk is None:
        return
    name = path or QFileDialog.getOpenFileName(w, "A revised engineer's model", "", IFC)[0]
    if not name:
        return
    project = w.desk.project

    def done(found: "list[Difference]") -> None:
        def take(keys: list[str]) -> bool:
            if w.desk is None:
                return False
            before, members = standing(w.desk.ledger), dict(project.members)
            taken = w.run_made("take-revision", {"path": name, "accept": keys}, lambda p: accept_rows(p, found, keys, Path(name).name))
            if taken:
                _look_after(w, before, members)
            return taken

        w.looking.through(Matter(f"Revised: {Path(name).name}", _difference_rows(found), take, "Accept"))

    w.work(f"Reading {Path(name).name}", lambda progress: revision(project, name), done)


def _look_after(w: Host, before: "dict[str, Standing]", members: "dict[str, Member]") -> None:
    """List the connections that a change left standing otherwise, each with the member it hung on."""
    assert w.desk is not None
    found = want_look(before, w.desk.ledger)
    if not found:
        return
    families = w.desk.project.connections
    rows = []
    for look in found:
        old, new = members.get(look.member), w.desk.project.members.get(look.member)
        kind = families[look.connection].family if look.connection in families else "connection"
        member = new or old
        rows.append(
            Row(look.connection, f"{kind} {look.connection}", member.name if member else look.member, member.section if member else "", look.why, old, new)
        )
    w.looking.next(Matter("Connections to look at", rows, None))


def query(w: Host, text: str) -> None:
    """Select the members a query picks."""
    if w.desk is None:
        return
    try:
        found = members_like(w.desk.ledger, text)
    except TinCleatError as error:
        w.fail(str(error))
        return
    w.select([], found)
    w.say(f"{len(found)} member{'s' if len(found) != 1 else ''}: {text}")


def ask_query(w: Host) -> None:
    """A query typed in a form, kept under a name if one is given."""
    saved = [q.name for q in w.desk.project.queries.values()] if w.desk is not None else []

    def submit(v: dict[str, str]) -> str:
        assert w.desk is not None
        text = next((q.text for q in w.desk.project.queries.values() if q.name == v["saved"]), "") if not v["text"] else v["text"]
        try:
            members_like(w.desk.ledger, text)
        except TinCleatError as error:
            return str(error)
        if v["name"] and (bad := w.command_error("save-query", name=v["name"], text=text)):
            return bad
        query(w, text)
        return ""

    fields = [
        Ask("text", "Query", "", hint="role:beam size:UB* level:+4200 end:open joined:fin-plate"),
        Ask("saved", "Or a saved one", saved[0] if saved else "", saved or ("",)),
        Ask("name", "Save it as", "", hint="a name, if you want it again"),
    ]
    w.form("Select by query", "Words must all hold; a comma gives a choice, a leading - turns one round, * stands for anything.", fields, submit)


def ready_actions(w: Host) -> list[Action]:
    """The actions of the Ready stage and of partial views, bound to a window."""

    def opened() -> bool:
        return w.desk is not None

    def some() -> bool:
        return bool(w.members or w.selected)

    out = [
        Action("import-ifc", "Import IFC…", ("engineer", "open model", "frame", "analysis"), "Ctrl+I", partial(import_ifc, w), opened, "An engineer's model: members come in, other bodies as reference"),
        Action("true-up", "True up…", ("bracing", "working points", "top of steel", "purlins", "truss"), "", partial(true_up, w), opened, "See what the rules would move; take or leave each row"),
        Action("stock", "Stock lengths", ("bar", "mill", "too long", "split"), "", partial(stock, w), opened, "Members longer than the bar, with proposed splits"),
        Action("split-stock", "Split to stock…", ("bar", "cut"), "", partial(split_typed, w), lambda: bool(w.members), "Select a member first"),
        Action("take-snapshot", "Take a snapshot…", ("state", "save", "before joining"), "", partial(take_snapshot, w), opened, "A named state to compare with or return to"),
        Action("compare", "Compare…", ("snapshots", "difference", "what changed"), "", partial(compare, w), opened, "Two snapshots, or one with now"),
        Action("restore", "Return to a snapshot…", ("go back", "revert"), "", partial(restore, w), opened, "Bring a named state back"),
        Action("revise", "Revised model…", ("engineer", "new issue", "update"), "", partial(revise, w), opened, "Compare with the engineer's next issue and accept row by row"),
        Action("select-query", "Select by query…", ("find members", "filter", "saved"), "Ctrl+Shift+F", partial(ask_query, w), opened, "Members by role, size, level, ends"),
        Action("hide", "Hide", ("invisible",), "H", w.parts.hide, lambda: bool(w.members), "Select members first"),
        Action("isolate", "Isolate", ("only these",), "I", w.parts.isolate, some, "Select members or joints first"),
        Action("show-all", "Show all", ("unhide",), "Shift+H", w.parts.show_all, opened, "Nothing hidden, no box"),
        Action("section-box", "Section box on or off", ("clip", "cut", "slice"), "B", w.parts.section_box, lambda: some() or w.view.box is not None, "Select members or joints first"),
        Action("see-through", "See through members", ("glass", "transparent", "x-ray"), "X", w.parts.toggle_glass, opened, "Members as if of glass"),
        Action("references", "Reference bodies on or off", ("walls", "slabs", "concrete", "other trades"), "", w.parts.toggle_references, lambda: w.desk is not None and bool(w.desk.project.references), "There are no reference bodies"),
        Action("plan-pane", "Plan or elevation beside", ("second view", "level", "grid", "split view"), "F9", w.parts.toggle_pane, opened, "A second view: plan at a level, elevation on a grid line"),
    ]  # fmt: skip
    for name, rule in RULES.items():
        out.append(
            Action(
                f"true-up-{name}",
                f"True up: {rule.label.lower()}…",
                ("true up", *rule.help.lower().split()),
                "",
                partial(true_up, w, (name,)),
                opened,
                rule.help,
            )
        )
    return out
