"""The window where it must not change, hide or lose anything: wheels, focus, filters, files that go away, work that is stopped."""

import gc
import os
import shutil
import sqlite3
import threading
import time
from collections.abc import Callable
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QGuiApplication, QWheelEvent
from PySide6.QtWidgets import QApplication, QComboBox, QDialog, QFileDialog, QLineEdit, QPushButton, QWidget
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app import asking, deeds
from tincleat.app.dialogs import Ask, FormDialog
from tincleat.app.fields import Choice
from tincleat.app.layout_editor import LayoutEditor
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.ledger.ledger import Ledger

assert window  # the fixture


def field(w: QWidget, name: str) -> Any:
    return next(x for x in w.findChildren(QWidget) if x.accessibleName() == name)


def steps(w: Window) -> int:
    return len(desk(w).store.history(10_000))


def wheel(qtbot: QtBot, widget: QWidget, down: bool = True) -> None:
    at = widget.rect().center()
    event = QWheelEvent(QPointF(at), QPointF(widget.mapToGlobal(at)), QPoint(), QPoint(0, -120 if down else 120), Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)
    QApplication.sendEvent(widget, event)


# --- nothing changes by accident ------------------------------------------------------


@pytest.mark.parametrize("name", ["Role", "Grade"])
def test_wheel_and_arrows_over_a_closed_list_change_nothing(qtbot: QtBot, window: Window, name: str) -> None:
    m = desk(window).project.find("member", "Nbc")
    window.select([], [m.id])
    box = field(window.card, name)
    before, shown = steps(window), box.currentText()
    for _ in range(5):
        wheel(qtbot, box)
    box.setFocus()
    for _ in range(3):
        wheel(qtbot, box)
    qtbot.keyClick(box, Qt.Key.Key_Down)
    assert box.view().isVisible() and steps(window) == before and box.currentText() == shown
    qtbot.keyClick(box.view(), Qt.Key.Key_Down)
    assert steps(window) == before  # not before it is taken
    qtbot.keyClick(box.view(), Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: steps(window) == before + 1)
    assert getattr(desk(window).project.members[m.id], name.lower()) != shown
    # the card was made anew, the focus is on the same field
    qtbot.waitUntil(lambda: field(window.card, name).hasFocus())


def test_every_list_of_choices_is_one_that_wheels_do_not_change(window: Window) -> None:
    window.do("plan-pane") if "plan-pane" in window.actions_ else None
    boxes = window.findChildren(QComboBox)
    assert boxes and all(isinstance(b, Choice) for b in boxes)


def test_esc_closes_the_list_of_choices_only(qtbot: QtBot, window: Window) -> None:
    m = desk(window).project.find("member", "Nbc")
    window.select([], [m.id])
    line = field(window.card, "Section")
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, "HEA 2")
    popup = line.completer().popup()
    qtbot.waitUntil(popup.isVisible)
    qtbot.keyClick(popup, Qt.Key.Key_Escape)
    assert not popup.isVisible() and window.members == [m.id] and line.text() == "HEA 2"
    qtbot.keyClick(line, Qt.Key.Key_Escape)  # the old text comes back
    assert line.text() == str(m.section) and window.members == [m.id]  # type: ignore[union-attr]


def test_esc_in_the_filter_clears_the_filter_only(qtbot: QtBot, window: Window) -> None:
    m = desk(window).project.find("member", "Nbc")
    window.select([], [m.id])
    window.drawer.search.setFocus()
    qtbot.keyClicks(window.drawer.search, "beam")
    qtbot.keyClick(window.drawer.search, Qt.Key.Key_Escape)
    assert window.drawer.search.text() == "" and window.members == [m.id]


def test_a_section_typed_and_left_by_tab_is_kept(qtbot: QtBot, window: Window) -> None:
    m = desk(window).project.find("member", "Nbc")
    window.select([], [m.id])
    line = field(window.card, "Section")
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, "HEA 240")
    line.completer().popup().hide()
    qtbot.keyClick(line, Qt.Key.Key_Tab)
    assert desk(window).project.members[m.id].section == "HEA 240"
    line = field(window.card, "Section")
    line.setFocus()
    line.selectAll()
    qtbot.keyClicks(line, "HEA nonsense")
    line.completer().popup().hide()
    qtbot.keyClick(line, Qt.Key.Key_Tab)
    assert desk(window).project.members[m.id].section == "HEA 240" and line.property("bad") and "no section" in window.hint.text()
    assert window.hint.objectName() == "breach"


# --- focus ------------------------------------------------------------------------------


def test_after_opening_the_model_has_the_focus_and_letters_go_nowhere_else(qtbot: QtBot, window: Window) -> None:
    assert window.view.hasFocus()
    qtbot.mouseClick(window.rail, Qt.MouseButton.LeftButton, pos=QPoint(40, 60))
    assert window.rail.hasFocus()
    for _ in range(3):  # cards come and go under the focus
        m = desk(window).project.find("member", "Nbc")
        window.select([], [m.id])
        field(window.card, "Section").setFocus()
        window.select([], [])
        qtbot.wait(10)
        assert not isinstance(QApplication.focusWidget(), QLineEdit), QApplication.focusWidget()


def test_choosing_rows_and_keeping_settings_leaves_the_focus_where_it_is(qtbot: QtBot, window: Window) -> None:
    table = window.drawer.ledger_table
    table.setFocus()
    joined = [i for i in range(table.filter.rowCount()) if table.rows.rows[table.filter.mapToSource(table.filter.index(i, 0)).row()].data.joined]
    table.selectRow(joined[0])
    qtbot.wait(10)
    assert table.hasFocus()
    qtbot.keyClick(table, Qt.Key.Key_Down)
    assert table.hasFocus()
    table.selectRow(joined[0])
    name, editor = next((n, e) for n, e in window.detail.form.fields.items() if isinstance(e, QLineEdit) and e.isVisible())
    editor.setFocus()
    editor.selectAll()
    value = window.detail.value_of(name)
    qtbot.keyClicks(editor, f"{float(value) + 1:g}" if isinstance(value, float) else "50")
    qtbot.keyClick(editor, Qt.Key.Key_Return)
    # a number that is a dimension now has moved to the sheet, and the focus with it
    assert window.detail.form.fields.get(name, sheet_of(window)).hasFocus()


def sheet_of(window: Window) -> QWidget:
    return window.detail.sheet


def test_enter_in_a_dimension_keeps_it_and_leaves_undo_alive(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    key = next(k for k, e in d.ledger.entries.items() if e.connection is not None and e.connection.family == "fin-plate")
    window.select([key], [])
    qtbot.wait(20)
    sheet = window.detail.sheet
    sheet.setFocus()
    dims = [i for i, dim in enumerate(sheet.drawing.dimensions) if dim.setting == "edge_distance"]
    sheet._current = dims[0]
    qtbot.keyClick(sheet, Qt.Key.Key_Return)
    assert sheet.field.isVisible()
    before = steps(window)
    sheet.field.selectAll()
    qtbot.keyClicks(sheet.field, "61")
    qtbot.keyClick(sheet.field, Qt.Key.Key_Return)
    assert steps(window) == before + 1 and not sheet.field.isVisible()
    qtbot.keyClick(sheet, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert window.hint.text().startswith("Undone")


# --- findings -----------------------------------------------------------------------------


def test_n_goes_through_all_findings_whatever_the_filter_hides(qtbot: QtBot, window: Window) -> None:
    window.drawer.go("Findings")
    open_ = [r for r in window.drawer.finding_table.rows.rows if r.state in ("breach", "note")]
    window.drawer.search.setText("nothing is called so")
    seen = []
    for _ in range(len(open_)):
        deeds.next_finding(window)
        seen.append(window.finding_seen)
        assert "filter hides" in window.hint.text()
    assert len(set(seen)) == len(open_)
    window.drawer.search.setText("")
    deeds.next_finding(window)
    assert window.finding_seen == seen[0] and "filter" not in window.hint.text()
    # accepted, it is passed over; the one after it is not
    alone = next(i for i, r in enumerate(open_[:-1]) if r.cells[-1] == "1")
    while window.finding_seen != seen[alone]:
        deeds.next_finding(window)
    entry, f = open_[alone].data
    window.run("accept-finding", connection=entry.connection.id, finding=f.key, by="me", reason="so")
    deeds.next_finding(window)
    assert window.finding_seen == seen[alone + 1]
    for _ in range(len(open_) + 2):
        deeds.next_finding(window)
        assert window.finding_seen != seen[alone]


# --- grids and levels -----------------------------------------------------------------------


def test_grids_and_levels_refuse_blank_double_and_empty_and_can_be_undone(qtbot: QtBot, window: Window) -> None:
    editor = LayoutEditor(window)
    qtbot.addWidget(editor)
    editor.show()
    grid = next(iter(desk(window).project.grids.values()))
    for row, column, text, words in ((0, 1, "", "no spacing"), (0, 0, "  ", "blank"), (0, 6, "x", "no angle")):
        editor.grids.item(row, column).setText(text)
        assert words in editor.error.text() and next(iter(desk(window).project.grids.values())) == grid
        assert "convert" not in editor.error.text() and "$." not in editor.error.text()
        editor.fill()
    names = [v.name for v in sorted(desk(window).project.levels.values(), key=lambda v: -v.elevation)]
    editor.levels.item(0, 0).setText(names[1])
    assert "already" in editor.error.text()
    editor.fill()
    editor.levels.item(0, 0).setText("attic")
    assert "attic" in {v.name for v in desk(window).project.levels.values()}
    editor.levels.setFocus()
    qtbot.keyClick(editor.levels, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    assert "attic" not in {v.name for v in desk(window).project.levels.values()}
    editor.grids.setFocus()
    qtbot.keyClick(editor.grids, Qt.Key.Key_Tab)
    assert not editor.grids.hasFocus()
    editor.close()


def test_messages_use_the_labels_and_the_wrong_field_is_marked(qtbot: QtBot, window: Window) -> None:
    fields = [Ask("panels", "Panels", "x"), Ask("roll", "Roll, degrees", "y")]
    answers = iter(["panels: a whole number is wanted, not a text", "roll: 'y' is not a number", ""])
    dialog = FormDialog("T", "", fields, lambda v: next(answers), window)
    qtbot.addWidget(dialog)
    dialog.show()
    dialog._ok()
    assert dialog.fields["panels"].property("bad") and dialog.focusWidget() is dialog.fields["panels"]
    dialog._ok()
    assert not dialog.fields["panels"].property("bad") and dialog.fields["roll"].property("bad") and dialog.error.text().startswith("roll, degrees:")
    dialog._ok()
    assert dialog.result() == QDialog.DialogCode.Accepted
    assert "$." not in window.command_error("add-run", kind="bracing", settings={"columns": ["C1A", "C2A"], "section": "RD 24", "panels": "x"})


def test_the_title_of_the_window_follows_the_projects(window: Window) -> None:
    window.run("set-house-rules", values={"title": "Quay 7"})
    assert window.windowTitle().startswith("Quay 7")
    window.undo()
    assert not window.windowTitle().startswith("Quay 7")


# --- files ----------------------------------------------------------------------------------


def test_a_suffix_added_here_is_asked_about_before_anything_is_replaced(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    there = tmp_path / "there.tincleat"
    Desk.create(there).close()
    before = there.read_bytes()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "there"), ""))
    asked: list[str] = []
    answers = iter([False, False, True])
    monkeypatch.setattr(asking, "sure", lambda parent, title, words: asked.append(words) or next(answers))
    window.projects.new(False)
    assert there.read_bytes() == before and "there.tincleat" in asked[0]
    window.do("save-copy")
    assert there.read_bytes() == before and len(asked) == 2
    window.do("save-copy")
    assert there.read_bytes() != before and len(Desk.open(there).project.members) > 50


def test_a_file_that_is_gone_is_said_and_the_work_goes_on_elsewhere(window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    members = len(desk(window).project.members)
    os.rename(tmp_path / "demo.tincleat", tmp_path / "moved.tincleat")
    assert not window.run("add-level", name="late", elevation=99)
    assert "renamed" in window.hint.text() and window.hint.objectName() == "breach" and window.kept.text() == "nothing is kept any more"
    window.undo()
    assert "renamed" in window.hint.text()
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "new.tincleat"), ""))
    window.do("save-elsewhere")
    assert desk(window).store.path == tmp_path / "new.tincleat" and len(desk(window).project.members) == members
    assert window.run("add-level", name="late", elevation=99) and window.kept.text() == "everything kept"


def test_what_was_set_aside_and_a_read_only_file_are_listed_on_opening(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    path = tmp_path / "odd.tincleat"
    desk(window).store.copy_to(path)
    db = sqlite3.connect(path)
    db.execute("UPDATE entity SET body = json_set(body, '$.section', 'UB 1x1x1') WHERE tab = 'member' AND id = (SELECT min(id) FROM entity WHERE tab = 'member')")
    db.execute("UPDATE entity SET body = json_set(body, '$.family', 'glue') WHERE tab = 'connection' AND id = (SELECT min(id) FROM entity WHERE tab = 'connection')")
    db.execute("INSERT INTO entity VALUES ('spaceship', 'x', '{}')")
    db.commit()
    db.close()
    path.chmod(0o444)
    assert window.projects.open_path(path)
    words = " ".join(x.text() for x in window.card.findChildren(type(window.kept)))
    assert "read-only" in words.lower() and "set aside" in words and "glue" in words and "spaceship" in words
    assert "read-only" in window.windowTitle() and window.kept.text() == "read-only"
    window.view.repaint()
    assert not window.run("add-level", name="a", elevation=1) and "read-only" in window.hint.text()
    # everything can be looked at
    d = desk(window)
    for key in list(d.ledger.entries)[:40]:
        window.select([key], [])
    for key in list(d.project.members)[:40]:
        window.select([], [key])
    for tab in ("Ledger", "Findings", "Bill"):
        window.drawer.go(tab)
    qtbot.wait(20)


# --- long work --------------------------------------------------------------------------------


def test_work_that_raises_anything_ends_and_frees_the_window(qtbot: QtBot, window: Window) -> None:
    def bad(progress: Callable[[float, str], bool]) -> None:
        raise KeyError("odd")

    window.work("Working", bad, lambda r: None)
    qtbot.waitUntil(lambda: window.job is None, timeout=5000)
    assert "KeyError" in window.hint.text() and window.hint.objectName() == "breach"
    assert window.run("add-level", name="on", elevation=1)


def test_closing_during_long_work_asks_cancels_and_waits(qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    ended: list[str] = []

    def long(progress: Callable[[float, str], bool]) -> str:
        for i in range(400):
            if not progress(i / 400, "step"):
                time.sleep(0.2)  # what takes a while to stop is waited for
                ended.append("stopped")
                raise RuntimeError("stopped")
            time.sleep(0.01)
        return "whole"

    window.boxes = True
    answers = iter([False, True])
    asked: list[str] = []
    monkeypatch.setattr(asking, "sure", lambda parent, title, words: asked.append(words) or next(answers))
    window.work("Counting", long, lambda r: None)
    window.close()
    assert window.isVisible() and len(asked) == 1 and window.job is not None
    window.close()
    assert window.isVisible() and window.job is not None and not ended
    qtbot.waitUntil(lambda: not window.isVisible(), timeout=5000)
    assert ended == ["stopped"]
    window.boxes = False


def test_undo_in_the_window_says_what_a_damaged_history_is(window: Window, tmp_path: Path) -> None:
    window.run("add-level", name="a", elevation=1)
    db = sqlite3.connect(tmp_path / "demo.tincleat")
    db.execute("UPDATE history SET changes = x'00' WHERE seq = (SELECT max(seq) FROM history)")
    db.commit()
    db.close()
    window.undo()
    assert "history cannot be read" in window.hint.text() and window.hint.objectName() == "breach"
    assert window.run("add-level", name="b", elevation=2)


def test_the_button_of_a_card_keeps_working_after_its_card_is_gone(qtbot: QtBot, window: Window) -> None:
    m = desk(window).project.find("member", "Nbc")
    window.select([], [m.id])
    button = next(b for b in window.card.findChildren(QPushButton) if b.text().startswith("start:"))
    qtbot.mouseClick(button, Qt.MouseButton.LeftButton)
    assert window.selected


def test_nothing_is_cut_in_a_small_window(qtbot: QtBot, window: Window) -> None:
    """What has no room goes into More; columns that can be spared make room; the panel narrows."""
    window.resize(1100, 700)
    for stage in ("Frame", "Ready", "Join", "Prove", "Release"):
        window.rail.choose(stage)
        qtbot.wait(5)
        line = window.action_line
        shown = [b for b in line.buttons if b.isVisible()]
        assert shown and all(b.width() >= b.sizeHint().width() for b in shown)
        assert line.more.isVisible() == (len(shown) < len(line.buttons))
        line._fill_list()
        assert [a.text() for a in line.list.actions()] == [b.text() for b in line.buttons if not b.isVisible()]
    table = window.drawer.ledger_table
    window.drawer.go("Ledger")
    qtbot.wait(5)
    assert table.columnWidth(1) >= 150 and table.isColumnHidden(4)
    window.resize(1400, 860)
    qtbot.wait(5)
    assert not table.isColumnHidden(4) and not window.action_line.more.isVisible()


def test_a_change_of_units_lists_the_defaults_that_go_with_it(qtbot: QtBot, window: Window) -> None:
    w = window
    desk(w).run("set-house-rules", values={"notch_radius": 17.0})
    w.do("house-rules")
    for name, value in (("units", "ft-in"), ("rule_set", "AISC")):
        assert not w.house.change(name, value)
    qtbot.waitUntil(lambda: not w.house.trying, timeout=20000)
    w.house.keep.click()
    page = w.drawer.review
    assert page.matter is not None and desk(w).project.house.units == "ft-in" and desk(w).project.house.bolt == "M20"
    rows = {r.key: r for r in page.matter.rows}
    assert rows["bolt"].words == "M20  →  3/4in" and rows["plate_grade"].words.endswith("A36") and "own" in rows["notch_radius"].words and not rows["notch_radius"].can
    page._toggle(rows["plate_grade"])  # this one is left
    before = steps(w)
    page.go.click()
    house = desk(w).project.house
    assert (house.bolt, house.plate_grade, house.notch_radius, house.plates[0]) == ("3/4in", "S275", 17.0, 6.35)
    assert steps(w) == before + 1 and page.matter is None


def test_a_large_project_is_opened_in_the_background_and_can_be_stopped(qtbot: QtBot, window: Window, demo_file: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("tincleat.app.projects.LARGE", 1000)
    path = Path(shutil.copy(demo_file, tmp_path / "large.tincleat"))
    old = window.desk
    said: list[str] = []
    assert window.projects.open_path(path) and window.job is not None and window.desk is old
    window.job.stepped.connect(lambda share, words: said.append(words))
    assert not window.run("add-level", name="late", elevation=1)  # commands wait until it ends
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.desk is not old and window.desk is not None and window.desk.store.path.name == "large.tincleat"
    assert {w.split(",")[0].split(" ")[0] for w in said} >= {"finding", "making", "looking", "proving", "laying"}
    # what was opened in another thread is worked on in this one, and kept
    assert window.run("add-level", name="late", elevation=12345)
    here = window.desk
    window.projects.open_path(path.with_name("none.tincleat"))
    assert window.desk is here and "no such file" in window.hint.text()
    window.projects.open_path(Path(shutil.copy(demo_file, tmp_path / "other.tincleat")))
    assert window.job is not None
    window.job.cancel()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert window.desk is here and "cancelled; nothing was changed" in window.hint.text()
    window.set_desk(None)
    again = Desk.open(path)
    assert "late" in {v.name for v in again.project.levels.values()}
    again.close()


def test_what_a_large_model_waits_for_is_said(qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    """With every model taken for a large one: the pointer says so during changes, and other rules are tried with progress and Cancel first."""
    monkeypatch.setattr("tincleat.app.waiting.FELT", 1)
    monkeypatch.setattr("tincleat.app.actions.FELT", 1)
    monkeypatch.setattr("tincleat.app.running.FELT", 1)
    seen: list[object] = []
    desk(window).listeners.append(lambda changes, touched: seen.append(QGuiApplication.overrideCursor() is not None))
    window.run("add-level", name="felt", elevation=1234)
    window.undo()
    assert seen == [True, True] and QGuiApplication.overrideCursor() is None
    assert not window.run("add-level", name="", elevation=1) and QGuiApplication.overrideCursor() is None  # refused: the pointer is free again
    window.do("rules-aisc")
    assert window.job is not None and window.progress.isVisible() and desk(window).project.house.rule_set == "EN"
    assert not window.pages.isEnabled()  # nobody clicks into what is being made anew
    window.job.cancel()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert desk(window).project.house.rule_set == "EN" and "cancelled" in window.hint.text() and window.pages.isEnabled()
    anew = Ledger(desk(window).project, desk(window).ledger.workshop)
    assert {k: e.findings for k, e in anew.entries.items()} == {k: e.findings for k, e in desk(window).ledger.entries.items()}
    monkeypatch.setattr("tincleat.app.actions.offer_defaults", lambda w: None)
    before = desk(window).counts()
    window.do("rules-aisc")
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert desk(window).project.house.rule_set == "AISC" and desk(window).counts() != before
    assert str(desk(window).counts()["breach"]) in window.rail.accessibleDescription() or window.drawer.desk is desk(window)
    window.undo()  # so are undo and redo of it
    assert window.job is not None
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert desk(window).project.house.rule_set == "EN" and desk(window).counts() == before and window.hint.text().startswith("Undone: ")
    window.redo()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    assert desk(window).project.house.rule_set == "AISC"
    window.undo()
    qtbot.waitUntil(lambda: window.job is None, timeout=60000)
    window.run("add-level", name="after", elevation=4321)  # and the next command is one like any other
    window.undo()
    assert window.job is None and "after" not in {v.name for v in desk(window).project.levels.values()}


def test_garbage_is_looked_for_on_the_windows_thread_alone(qtbot: QtBot, window: Window) -> None:
    """A search that long work sets off as it ends would take widgets down on its own thread, and the program with them."""
    looked: list[int] = []
    alive: list[list[list[int]]] = []

    def note(phase: str, _: dict[str, int]) -> None:
        if phase == "start":
            looked.append(threading.get_ident())

    def work(progress: Any) -> int:
        alive.append([[i] for i in range(20_000)])  # far more than what sets off a search
        return len(alive)

    gc.callbacks.append(note)
    try:
        for _ in range(20):
            told: list[int] = []
            window.work("Counting", work, told.append)
            running = window.job
            assert running is not None
            qtbot.waitUntil(lambda told=told: bool(told), timeout=5000)
            assert told == [len(alive)] and running.isFinished()  # whoever hears of it may close the window at once
        qtbot.waitUntil(lambda: bool(looked), timeout=5000)
    finally:
        gc.callbacks.remove(note)
    assert set(looked) == {threading.get_ident()}
