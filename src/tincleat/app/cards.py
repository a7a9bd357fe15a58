"""The smaller cards of the right-hand panel: the project, an open joint, a member; and the start card."""

from collections.abc import Callable
from datetime import datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QIcon, QPixmap
from PySide6.QtWidgets import QCompleter, QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from tincleat.app.counted import counted
from tincleat.app.fields import Choice, Line
from tincleat.app.shares import shares_grid
from tincleat.app.simple import button, label
from tincleat.app.since import Seen, since
from tincleat.app.theme import Theme, font
from tincleat.catalogue.fasteners import grade_names
from tincleat.catalogue.grades import UNKNOWN
from tincleat.catalogue.sections import SHAPE_WORDS, catalogue, section
from tincleat.commands.desk import Desk
from tincleat.exchange.ifc_source import Imported
from tincleat.ledger.entries import Entry
from tincleat.ledger.groups import Groups
from tincleat.ledger.progress import by_kind, by_place
from tincleat.ledger.steel import cuts_of
from tincleat.project.members import length
from tincleat.steel.members import cut_length, net_mass
from tincleat.units import format_length, format_mass

ROLES = ("column", "beam", "rafter", "purlin", "girt", "brace", "joist", "post", "other")
MOST_STANDARDS = 4  # office standards on the start card

MOST_PLACES = 8  # levels that are shown in the panel at rest


def _column(title: str, words: str = "") -> tuple[QWidget, QVBoxLayout]:
    card = QWidget()
    rows = QVBoxLayout(card)
    rows.setContentsMargins(12, 10, 12, 12)
    rows.setSpacing(6)
    rows.addWidget(label(title, "heading", True))
    if words:
        rows.addWidget(label(words, "quiet", True))
    return card, rows


def _facts(rows: QVBoxLayout, facts: "list[tuple[str, str]]") -> None:
    grid = QGridLayout()
    grid.setColumnStretch(1, 1)
    grid.setHorizontalSpacing(12)
    grid.setVerticalSpacing(3)
    for i, (name, value) in enumerate(facts):
        grid.addWidget(label(name, "quiet"), i, 0, Qt.AlignmentFlag.AlignTop)
        shown = label(value, "", True)
        grid.addWidget(shown, i, 1)
    rows.addLayout(grid)


def project_card(desk: Desk, go: Callable[[str], None], theme: Theme, select: Callable[[list[str]], None], groups: Groups, last: "Seen | None" = None) -> QWidget:
    """What the project holds, the next step of the job, how far each kind of joint and each place is settled, and what changed since it was ``last`` left."""
    house, counts = desk.project.house, desk.counts()
    card, rows = _column(house.title, "Nothing is selected. Click steel or a mark in the model, or a row of the ledger.")
    open_ends = counts["joints"] - counts["joined"]
    _facts(rows, [
        ("Members", f"{len(desk.project.members):,}"), ("Joints", f"{counts['joined']:,} of {counts['joints']:,} joined"), ("Kin", f"{len(desk.ledger.kin()):,} groups of like joints"),
        ("Findings", f"{counts['breach']} breach{'es' if counts['breach'] != 1 else ''}, {counts['note']} note{'s' if counts['note'] != 1 else ''}, {counts['concession']} accepted, {counts['clear']:,} clear"),
        ("Rule set", f"{house.rule_set}, {'exposed to weather' if house.exposed else 'not exposed'}"), ("Units", house.units), ("File", str(desk.store.path.name)),
    ])  # fmt: skip
    if not desk.project.members:
        rows.addWidget(label("Next: put steel in. Add levels and a grid, then members.", "", True))
        rows.addWidget(button("Add members…", lambda: go("add-members"), "go"))
    elif counts["breach"]:
        rows.addWidget(label(f"Next: {counts['breach']} breach{'es' if counts['breach'] > 1 else ''} to mend or accept.", "", True))
        rows.addWidget(button("Show the next finding", lambda: go("next-finding"), "go"))
    elif open_ends:
        rows.addWidget(label(f"Next: {open_ends} joints have no connection yet.", "", True))
        rows.addWidget(button("Join all by rules…", lambda: go("join-all"), "go"))
        rows.addWidget(button("Place a connection", lambda: go("stage-join")))
    else:
        rows.addWidget(label("Every joint is joined and clear. Next: hand over.", "", True))
        rows.addWidget(button("Export IFC…", lambda: go("export-ifc"), "go"))
    if last is not None:
        found = since(last, desk)
        rows.addSpacing(6)
        rows.addWidget(label("SINCE LAST TIME", "group"))
        _facts(rows, [("Left", found.then), ("Since", found.now), *(("" if i else "Steps", title) for i, title in enumerate(found.steps))])
    if counts["joints"]:
        rows.addSpacing(6)
        rows.addWidget(label("Settled, by kind of joint. A name selects what is open there.", "quiet", True))
        rows.addLayout(shares_grid(by_kind(desk.ledger), theme, select))
        places = by_place(desk.ledger, groups)
        most = sorted(places, key=lambda s: (s.settled - s.total, -s.breach))[:MOST_PLACES]
        if len(places) > 1:
            rows.addSpacing(6)
            rows.addWidget(label("And by place, from the ground up." if len(most) == len(places) else f"And by place: the {len(most)} of {len(places)} with most left to do.", "quiet", True))
            rows.addLayout(shares_grid([s for s in places if s in most], theme, select))
    rows.addStretch(1)
    return card


def plain_card(desk: Desk, entry: Entry, delete: Callable[[], None]) -> QWidget:
    """An end that is meant to have no connection, and a way back."""
    card, rows = _column(entry.joint.words, f"{entry.joint.kind} · {desk.ledger.place(entry.joint)}")
    _facts(rows, [("Members", ", ".join(desk.project.members[m].name for m in entry.joint.members)), ("State", "left plain")])
    rows.addWidget(label("This end is meant to have no connection and counts as settled.", "quiet", True))
    rows.addWidget(button("Open it again", delete, "link"))
    rows.addStretch(1)
    return card


@lru_cache(maxsize=1)
def _section_names(names: tuple[str, ...]) -> QStringListModel:
    """Section names for fields to complete from, made into a list once."""
    return QStringListModel(list(names))


def member_card(
    desk: Desk, ids: list[str], run: Callable[..., bool], known: Callable[[str], str], show: Callable[[str], None], change_run: Callable[[str], None]
) -> QWidget:
    """One member, or several changed together; ``known`` says why a section is none."""
    found = [desk.project.members[i] for i in ids if i in desk.project.members]
    first = found[0]
    unit = desk.project.house.units
    if len(found) == 1:
        shape = section(first.section)
        card, rows = _column(f"{first.name}", f"{first.role} · {SHAPE_WORDS[shape.shape]} · {shape.standard}")
        cuts = cuts_of(desk.ledger, first.id)
        facts = [("System length", format_length(length(first), unit, True)), ("Cut length", format_length(round(cut_length(first, cuts), 1), unit, True)),
                 ("Mass", format_mass(net_mass(first, cuts), unit)), ("Hangs on", first.cardinal)]  # fmt: skip
    else:
        card, rows = _column(counted(len(found), "member"), "A change applies to all of them.")
        facts = [
            ("Sections", ", ".join(sorted({m.section for m in found}))),
            ("Roles", ", ".join(sorted({m.role for m in found}))),
            ("Length in all", format_length(sum(length(m) for m in found), unit, True)),
        ]
    grid = QGridLayout()
    grid.setColumnStretch(1, 1)

    def change_section(text: str) -> str:
        why = known(text)
        if why or run("change-members", ids=ids, section=text):
            return why
        return "the section was not changed"

    line = Line(first.section if len({m.section for m in found}) == 1 else "", change_section)
    line.setAccessibleName("Section")
    names = QCompleter(_section_names((*map(str, desk.project.own.values()), *catalogue())), line)
    names.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
    names.setFilterMode(Qt.MatchFlag.MatchContains)
    line.setCompleter(names)
    line.setPlaceholderText("several sections")
    grade = Choice()
    grade.addItems(list(dict.fromkeys([first.grade, *grade_names("grades")])) if first.grade not in grade_names("grades") else list(grade_names("grades")))
    grade.setCurrentText(first.grade)
    grade.setAccessibleName("Grade")
    grade.activated.connect(lambda _: run("change-members", ids=ids, grade=grade.currentText()))
    role = Choice()
    role.addItems(list(ROLES))
    role.setCurrentText(first.role)
    role.setAccessibleName("Role")
    role.activated.connect(lambda _: run("change-members", ids=ids, role=role.currentText()))
    for i, (name, editor) in enumerate((("Section", line), ("Grade", grade), ("Role", role))):
        grid.addWidget(label(name, "quiet"), i, 0)
        grid.addWidget(editor, i, 1)
    rows.addLayout(grid)
    _facts(rows, facts)
    runs = {m.run.partition(":")[0] for m in found} - {""}
    for key in sorted(runs & desk.project.runs.keys()):
        kind = type(desk.project.runs[key]).__name__.lower()
        rows.addWidget(label("RUN", "group"))
        rows.addWidget(label(f"Part of {kind} {key}, which follow what they lie on. A member changed by hand leaves its run.", "quiet", True))
        line_ = QHBoxLayout()
        line_.addWidget(button(f"Change the {kind}…", lambda k=key: change_run(k), "link"))  # type: ignore[misc]
        line_.addWidget(button("Loosen into plain members", lambda k=key: run("loosen-run", id=k), "link"))  # type: ignore[misc]
        line_.addStretch(1)
        rows.addLayout(line_)
    if len(found) == 1:
        rows.addWidget(label("ENDS", "group"))
        for end in ("start", "end"):
            key = desk.ledger.by_end.get((first.id, end))  # type: ignore[assignment, arg-type]
            if key:
                entry = desk.ledger.entries[key]
                state = f"{entry.connection.family} {entry.connection.id}" if entry.connection else "unjoined"
                rows.addWidget(button(f"{end}: {entry.joint.words} · {state}", lambda k=key: show(k), "link"))  # type: ignore[misc]
    rows.addStretch(1)
    return card


def pictures_card(pictures: QWidget, count: int) -> QWidget:
    """Both states of a comparison in pictures."""
    card, rows = _column("Compared", f"{count} member{'s' if count != 1 else ''} differ{'s' if count == 1 else ''}. Choose rows below to look at them closely.")
    rows.addWidget(pictures)
    rows.addStretch(1)
    return card


def import_card(
    name: str, found: Imported, keep: Callable[[], None], drop: Callable[[], None], mean: Callable[[], None], inch: "Callable[[], None] | None" = None
) -> QWidget:
    """What an IFC holds, before it is taken in: counts, what profiles and materials were taken for and how surely, what is left out and why;
    ``inch`` makes the project one in feet and inches, where that is open."""
    report = found.report()
    card, rows = _column(name, f"{report['schema']}. Nothing is kept yet.")
    roles = ", ".join(f"{n} {k}{'s' if n != 1 else ''}" for k, n in report["roles"].items())
    _facts(
        rows,
        [
            ("Members", f"{report['taken']}" + (f": {roles}" if roles else "")),
            ("As reference", str(report["as_reference"])),
            ("Grids, levels", f"{len(found.grids)}, {len(found.levels)}"),
            ("Left out", str(report["left_out"])),
        ],
    )
    line = QHBoxLayout()
    go = button(f"Take in {report['taken']} member{'s' if report['taken'] != 1 else ''}", keep, "go")
    go.setEnabled(bool(found.members or found.bodies))
    line.addWidget(go, 1)
    line.addWidget(button("Discard", drop, "link"))
    rows.addLayout(line)
    rows.addWidget(label("PROFILES", "group"))
    grid = QGridLayout()
    grid.setColumnStretch(1, 1)
    for i, p in enumerate(report["profiles"][:60]):
        sure = "" if p["confidence"] > 0.995 else f"  {p['confidence']:.0%} sure"
        for j, text in enumerate((p["name"], p["section"], f"by {p['by']}{sure}", str(p["members"]))):
            grid.addWidget(label(text, "" if j in (0, 1) else "note" if j == 2 and sure else "quiet"), i, j)
    rows.addLayout(grid)
    if report["grades"]:
        rows.addWidget(label("GRADES", "group"))
        grades = QGridLayout()
        grades.setColumnStretch(1, 1)
        for i, g in enumerate(report["grades"][:40]):
            texts = (g["name"][:48], g["grade"], "nobody tells" if g["grade"] == UNKNOWN else f"by {g['by']}", str(g["members"]))
            for j, text in enumerate(texts):
                grades.addWidget(label(text, "note" if g["grade"] == UNKNOWN and j in (1, 2) else "" if j in (0, 1) else "quiet", j == 0), i, j)
        rows.addLayout(grades)
    rows.addWidget(button("Say what a name means…", mean, "link"))
    if found.feet and inch is not None:
        rows.addWidget(label(f"The file measures in {found.unit}.", "note", True))
        rows.addWidget(button("Work in feet and inches, AISC rules", inch))
    if report["quantities"]:
        q, unit = report["quantities"], "ft-in" if found.feet else "mm"
        rows.addWidget(label(f"The file's own quantities: {format_mass(q['file_kg'], unit, 0)} for {q['members']} members, which weigh {format_mass(q['ours_kg'], unit, 0)} here, uncut.", "quiet", True))
    if report["left"]:
        rows.addWidget(label("LEFT OUT", "group"))
        for one in report["left"][:40]:
            rows.addWidget(label(f"{one['kind']} {one['name'] or one['guid']}: {one['why']}", "quiet", True))
    if report["notes"]:
        rows.addWidget(label("NOTES", "group"))
        for words in report["notes"][:40]:
            rows.addWidget(label(words, "quiet", True))
    rows.addStretch(1)
    return card


def problem_card(entry: Entry, place: str, delete: Callable[[], None]) -> QWidget:
    """A connection of a family that is not known here: why it cannot be shown, and a way to be rid of it."""
    assert entry.connection is not None
    card, rows = _column(f"{entry.connection.family} {entry.connection.id}", f"{entry.joint.words} · {place}")
    rows.addWidget(label(f"{entry.problem[:1].upper()}{entry.problem[1:]}.", "breach", True))
    rows.addWidget(label("It stays in the file as it is until it is deleted.", "quiet", True))
    rows.addWidget(button("Delete this connection", delete, "link"))
    rows.addStretch(1)
    return card


def faults_card(name: str, faults: list[str], elsewhere: "Callable[[], None] | None") -> QWidget:
    """What was found when a project was opened that is not as it should be."""
    card, rows = _column(name, f"Opened, with {len(faults)} thing{'s' if len(faults) != 1 else ''} to know of.")
    for words in faults[:60]:
        rows.addWidget(label(f"{words[:1].upper()}{words[1:]}.", "breach" if "set aside" in words or "read-only" in words else "", True))
    if len(faults) > 60:
        rows.addWidget(label(f"and {len(faults) - 60} more", "quiet"))
    if elsewhere is not None:
        rows.addWidget(button("Save elsewhere and go on there…", elsewhere, "go"))
    rows.addStretch(1)
    return card


def start_card(recent: list[tuple[Path, Path]], standards: list[str], go: Callable[..., Any]) -> QWidget:
    """What to do first: a demo, a recent project, a new one, or open one."""
    card = QWidget()
    outer = QVBoxLayout(card)
    outer.addStretch(2)
    inner = QWidget()
    inner.setMaximumWidth(560)
    rows = QVBoxLayout(inner)
    rows.setSpacing(8)
    title = label("Tin Cleat")
    title.setFont(font(26, bold=True))
    title.setStyleSheet("font-size: 26pt; font-weight: bold;")
    rows.addWidget(title)
    rows.addWidget(label("Steel connections placed, drawn and proved across a steel model.", "quiet", True))
    rows.addSpacing(12)
    first = button("Open the demo: Plover Spit boathouse", lambda: go("demo"), "go")
    rows.addWidget(first)
    rows.addWidget(button("Open the demo: engineer's wireframe, to make ready", lambda: go("wireframe")))
    rows.addWidget(button("New project from an engineer's IFC…", lambda: go("import")))
    rows.addWidget(button("New project, millimetres and EN rules…", lambda: go("new")))
    rows.addWidget(button("New project, feet-inches and AISC rules…", lambda: go("new-inch")))
    for name in standards[:MOST_STANDARDS]:
        rows.addWidget(button(f"New project from {name}…", lambda n=name: go("standard", n)))  # type: ignore[misc]
    rows.addWidget(button("Open a project…", lambda: go("open")))
    if recent:
        rows.addSpacing(8)
        rows.addWidget(label("RECENT", "group"))
        for path, picture in recent[:5]:
            changed = datetime.fromtimestamp(path.stat().st_mtime).strftime("%d %b %Y, %H:%M")
            one = button("", lambda p=path: go("recent", p), "recent", str(path))  # type: ignore[misc]
            one.setAccessibleName(f"Open {path.stem}, changed {changed}, in {path.parent}")
            one.setMaximumWidth(560)
            one.setText("\n".join((one.fontMetrics().elidedText(t, Qt.TextElideMode.ElideMiddle, 400)) for t in (path.stem, changed, str(path.parent))))
            if not (shown := QPixmap(str(picture))).isNull():
                one.setIcon(QIcon(shown))
                one.setIconSize(shown.size())
            rows.addWidget(one)
    outer.addWidget(inner, 0, Qt.AlignmentFlag.AlignHCenter)
    outer.addStretch(3)
    inner.setMinimumWidth(460)
    first.setFocus()
    return card
