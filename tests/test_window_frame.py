"""More of the real window: forms, cards, menus, the sheet's zoom, an inch project from an empty file."""

from collections.abc import Callable, Iterator
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QPoint, QPointF, QSettings, Qt
from PySide6.QtGui import QKeySequence
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QMenu
from pytestqt.qtbot import QtBot
from test_window import click_button, desk, key_of, window

from tincleat.app import theme
from tincleat.app.dialogs import FormDialog
from tincleat.app.window import Window

assert window  # the fixture


@pytest.fixture
def empty(qtbot: QtBot, tmp_path: Path) -> Iterator[Window]:
    """The window without a project."""
    app = QApplication.instance()
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply(app, theme.LIGHT)
    made = Window(theme.LIGHT, QSettings(str(tmp_path / "w.ini"), QSettings.Format.IniFormat))
    made.boxes = False
    made.resize(1100, 700)
    qtbot.addWidget(made)
    made.show()
    qtbot.waitExposed(made)
    yield made
    made.close()


Fill = Callable[[dict[str, str]], None]


@pytest.fixture
def fill(monkeypatch: pytest.MonkeyPatch) -> Callable[[dict[str, str]], list[str]]:
    """Answer the next form with these texts; gives the error shown, if any."""

    def prepare(texts: dict[str, str]) -> list[str]:
        errors: list[str] = []

        def run(dialog: FormDialog) -> int:
            for name, text in texts.items():
                field = dialog.fields[name]
                if isinstance(field, QComboBox):
                    assert field.findText(text) >= 0
                    field.setCurrentText(text)
                else:
                    assert isinstance(field, QLineEdit)
                    field.setText(text)
            dialog._ok()
            errors.append(dialog.error.text())
            return 1

        monkeypatch.setattr(FormDialog, "exec", run)
        return errors

    return prepare


def test_an_inch_project_from_nothing(
    qtbot: QtBot, empty: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, fill: Callable[[dict[str, str]], list[str]]
) -> None:
    w = empty
    assert w.pages.currentIndex() == 1 and w.desk is None
    for action in w.actions_.values():
        if not action.enabled():
            w.act(action)  # says why it does not apply, and does nothing
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (str(tmp_path / "yard"), ""))
    click_button(qtbot, w, "New project, feet-inches")
    d = desk(w)
    assert d.store.path.name == "yard.tincleat" and d.project.house.units == "ft-in" and d.project.house.rule_set == "AISC"
    assert w.drawer.stack.currentWidget() is w.drawer.empty and "No joints yet" in w.drawer.empty.text()
    errors = fill({"name": "main", "x": "2@20'", "y": "15' 15'", "angle": "0"})
    w.do("add-grid")
    assert errors == [""] and [x for _, x in next(iter(d.project.grids.values())).x] == [0, 6096, 12192]
    errors = fill({"name": "roof", "elevation": "twelve"})
    w.do("add-level")
    assert "twelve" in errors[0] and not d.project.levels
    fill({"name": "roof", "elevation": "12'-6\""})
    w.do("add-level")
    assert next(iter(d.project.levels.values())).elevation == pytest.approx(3810)
    fill({"section": "W12X72", "role": "column", "start": "0, 0, 0", "end": "0, 0, 14'", "name": "C1"})
    w.do("add-members")
    errors = fill({"section": "W14X38", "role": "beam", "start": "0, 0, 12'-6\"", "end": "20', 0, 12'-6\"", "cardinal": "top", "name": "B1"})
    w.do("add-members")
    assert errors == [""] and len(d.project.members) == 2
    errors = fill({"section": "W14X38", "start": "0, 0", "end": "1, 1, 1"})
    w.do("add-members")
    assert "three lengths" in errors[0] and len(d.project.members) == 2
    errors = fill({"section": "W14X38X", "start": "0, 0, 0", "end": "1', 1', 1'"})
    w.do("add-members")
    assert "W14X38" in errors[0]
    w.select([key_of(w, "B1.start")], [], True)
    click_button(qtbot, w, "Place fin plate here")
    entry = d.ledger.entries[key_of(w, "B1.start")]
    assert entry.level == "clear" and entry.connection is not None
    texts = [x.text for x in w.detail.sheet.drawing.dimensions]  # type: ignore[union-attr]
    assert '1 1/2"' in texts and '3"' in texts
    assert {b.size for b in entry.made.detail.bolts} == {"3/4in"}  # type: ignore[union-attr]
    path = d.store.path
    w.do("close")
    assert w.pages.currentIndex() == 1
    click_button(qtbot, w, "yard")  # among the recent ones
    assert w.desk is not None and desk(w).store.path == path


def test_member_card_changes_section_and_details_follow(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    m = d.project.find("member", "Nbc")
    key = key_of(window, "Nbc.start")
    before = d.ledger.entries[key].made
    window.select([], [m.id])
    line = next(x for x in window.card.findChildren(QLineEdit) if x.accessibleName() == "Section")
    line.setText("UB 406x178x60")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert d.project.members[m.id].section == "UB 406x178x60"
    after = d.ledger.entries[key].made
    assert after is not before and len(after.detail.bolts[0].points) > len(before.detail.bolts[0].points)  # type: ignore[union-attr]
    line = next(x for x in window.card.findChildren(QLineEdit) if x.accessibleName() == "Section")
    line.setText("UB nonsense")
    qtbot.keyClick(line, Qt.Key.Key_Return)
    assert d.project.members[m.id].section == "UB 406x178x60" and "no section" in window.hint.text()
    ids = [d.project.find("member", n).id for n in ("J51", "J52")]
    window.select([], ids)
    grade = next(x for x in window.card.findChildren(QComboBox) if x.accessibleName() == "Grade")
    grade.setCurrentText("S275")
    grade.activated.emit(0)
    # of several members it is shown first, then made
    assert {d.project.members[i].grade for i in ids} == {"S355"} and window.drawer.review.matter is not None
    window.drawer.review.go.click()
    assert {d.project.members[i].grade for i in ids} == {"S275"}


def test_move_members_from_the_form(window: Window, fill: Callable[[dict[str, str]], list[str]]) -> None:
    d = desk(window)
    m = d.project.find("member", "Nbc")
    window.select([], [m.id])
    before = d.project.members[m.id].start
    errors = fill({"x": "0", "y": "0", "z": "1/2in"})
    window.do("move-members")
    assert errors == [""] and d.project.members[m.id].start[2] == pytest.approx(before[2] + 12.7)
    window.undo()
    assert d.project.members[m.id].start == before


def test_house_rules_and_rule_sets(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    window.do("house-rules")
    page = window.house
    for name, text in (("units", "in"), ("end_factor", "3")):
        assert not page.change(name, text)
    assert "not a number" in page.change("end_factor", "many")
    qtbot.waitUntil(lambda: not page.trying, timeout=20000)
    page.keep.click()
    assert d.project.house.end_factor == 3 and d.project.house.units == "in" and not window.at_house
    assert d.ledger.counts()["breach"] > 50  # 40 is less than 3 d = 60
    window.do("undo")
    window.do("rules-aisc")
    assert d.project.house.rule_set == "AISC" and "AISC" in window.facts.text()


def test_menus_and_keys(qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    shown: list[list[str]] = []

    class Silent(QMenu):
        def exec(self, *at: object) -> None:  # type: ignore[override]
            shown.append([a.text() for a in self.actions()])

    monkeypatch.setattr("tincleat.app.menus.QMenu", Silent)
    from tincleat.app.menus import context_menu

    key = key_of(window, "J51.start")
    context_menu(window, "joint", key, QPoint(0, 0))
    assert window.selected == [key] and "Place fin plate" in shown[0] and not any("Place base plate" in t for t in shown[0])
    context_menu(window, "member", desk(window).project.find("member", "J51").id, QPoint(0, 0))
    assert window.members and any("Delete" in t for t in shown[1])
    view = window.view
    view.setFocus()
    for key_, attribute in ((Qt.Key.Key_Left, "yaw"), (Qt.Key.Key_Up, "pitch"), (Qt.Key.Key_Plus, "tall"), (Qt.Key.Key_Minus, "tall")):
        before = getattr(view.camera, attribute)
        qtbot.keyClick(view, key_)
        assert getattr(view.camera, attribute) != before
    for shortcut in ("Ctrl+1", "Ctrl+2", "Ctrl+3", "Ctrl+4", "P", "P", "M", "M", "F"):
        qtbot.keySequence(window, QKeySequence(shortcut))
    assert view.marks_on and not view.camera.perspective
    before_tall = view.camera.tall
    from PySide6.QtGui import QWheelEvent

    view.wheelEvent(
        QWheelEvent(
            QPointF(200, 200),
            QPointF(200, 200),
            QPoint(0, 0),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
    )
    assert view.camera.tall < before_tall


def test_a_mark_can_be_clicked_and_kin_selected(qtbot: QtBot, window: Window) -> None:
    key = key_of(window, "C4A.start")
    window.view.zoom_to(np.array(desk(window).ledger.entries[key].joint.frame.origin), 800)
    window.view.repaint()
    x, y, _ = window.view.camera.project(np.array([desk(window).ledger.entries[key].joint.frame.origin]))[0]
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=QPoint(round(x), round(y)))
    assert window.selected == [key]
    window.do("select-kin")
    assert len(window.selected) == 14 and window.selected[0] == key
    window.do("zoom-selection")
    window.do("copy-sheet")
    assert not QApplication.clipboard().image().isNull()
    window.do("next-open-end")
    assert "short of" in window.hint.text() or "meets nothing" in window.hint.text()


def test_members_through_each_other_are_gone_to(qtbot: QtBot, window: Window) -> None:
    window.do("next-through")
    assert "No two members" in window.hint.text()
    line = {"section": "CHS 88.9x5", "role": "brace"}
    window.run("add-members", members=[{**line, "name": "T1", "start": [0, -9000, 0], "end": [4000, -9000, 3000]}, {**line, "name": "T2", "start": [4000, -9000, 0], "end": [0, -9000, 3000]}])
    window.do("next-through")
    assert "T1" in window.hint.text() and "1 of 1" in window.hint.text() and len(window.members) == 2
    assert np.linalg.norm(window.view.camera.target - np.array([2000.0, -9000.0, 1500.0])) < 50


def test_members_through_each_other_are_rows_of_the_findings(qtbot: QtBot, window: Window) -> None:
    before = desk(window).ledger.counts()["breach"]
    line = {"section": "CHS 88.9x5", "role": "brace"}
    window.run("add-members", members=[{**line, "name": "T1", "start": [0, -9000, 0], "end": [4000, -9000, 3000]}, {**line, "name": "T2", "start": [4000, -9000, 0], "end": [0, -9000, 3000]}])
    assert window.rail.counts["Prove"][0].startswith(f"{before + 1} breach")
    window.drawer.go("Findings")
    table = window.drawer.finding_table
    at = next(i for i, row in enumerate(table.rows.rows) if "T1" in row.cells[1])
    assert table.rows.rows[at].cells[1].startswith("Members through each other · T1 CHS 88.9x5 and T2")
    table.selectRow(table.filter.mapFromSource(table.rows.index(at, 0)).row())
    assert {desk(window).project.members[m].name for m in window.members} == {"T1", "T2"} and not window.selected
    qtbot.keyClick(table, Qt.Key.Key_Return)
    assert np.linalg.norm(window.view.camera.target - np.array([2000.0, -9000.0, 1500.0])) < 50
    window.do("undo")
    assert not any("T1" in row.cells[1] for row in table.rows.rows)
    assert window.rail.counts["Prove"][0].startswith(f"{before} breach")


def test_sheet_zoom_pan_and_fit(qtbot: QtBot, window: Window) -> None:
    window.select([key_of(window, "C4A.start")], [], True)
    sheet = window.detail.sheet
    sheet.setFocus()
    qtbot.keyClick(sheet, Qt.Key.Key_Plus)
    assert sheet.zoom > 1
    free = QPoint(4, sheet.height() - 4)
    qtbot.mousePress(sheet, Qt.MouseButton.LeftButton, pos=free)
    before = QPointF(sheet.shift)
    qtbot.mouseMove(sheet, free + QPoint(25, -30))
    qtbot.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=free + QPoint(25, -30))
    assert sheet.shift != before
    qtbot.keyClick(sheet, Qt.Key.Key_0)
    assert sheet.zoom == 1 and sheet.shift == QPointF(0, 0)
    picture = sheet.picture(2.0)
    assert picture.width() == 2 * sheet.width()


def test_save_a_copy_and_export_from_the_window(qtbot: QtBot, window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    names = iter([str(tmp_path / "copy"), str(tmp_path / "out.ifc"), str(tmp_path / "out.xlsx")])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a, **k: (next(names), ""))
    window.do("save-copy")
    assert (tmp_path / "copy.tincleat").stat().st_size > 10000
    window.do("export-ifc")
    qtbot.waitUntil(lambda: window.job is None, timeout=20000)
    window.do("export-bill")
    qtbot.waitUntil(lambda: window.job is None, timeout=20000)
    assert (tmp_path / "out.ifc").exists() and (tmp_path / "out.xlsx").exists() and "Written" in window.hint.text()


def test_sorting_and_filtering_the_bill(window: Window) -> None:
    window.rail.choose("Release")
    table = window.drawer.bill_table
    rows = table.filter.rowCount()
    window.drawer.search.setText("UC 203x203x60")
    assert 0 < table.filter.rowCount() < rows
    window.drawer.search.clear()
    table.sortByColumn(7, Qt.SortOrder.DescendingOrder)
    masses = [float(table.filter.index(i, 7).data()) for i in range(table.filter.rowCount())]
    assert masses == sorted(masses, reverse=True)  # as numbers, not as texts
