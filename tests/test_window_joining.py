"""Joining rules in the window: tried on opening, changed, put in another order, and all joined in one step that can be taken back."""

from PySide6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot
from test_window import desk, window
from test_window_frame import Fill, fill

from tincleat.app.joining import JoiningDialog, settings_text, typed_settings
from tincleat.app.window import Window
from tincleat.commands.joining import USUAL, rules_of
from tincleat.families.registry import FAMILIES
from tincleat.project.entities import JoinRule

assert window and fill  # the fixtures


def opened(qtbot: QtBot, window: Window) -> JoiningDialog:
    dialog = JoiningDialog(window)
    qtbot.addWidget(dialog)
    dialog.show()
    tried(qtbot, dialog)
    return dialog


def tried(qtbot: QtBot, dialog: JoiningDialog) -> None:
    qtbot.waitUntil(lambda: dialog.plan is not None, timeout=20000)


def cell(dialog: JoiningDialog, row: int, column: int) -> str:
    item = dialog.table.item(row, column)
    return item.text() if item is not None else ""


def test_all_is_joined_by_the_usual_rules_and_taken_back(qtbot: QtBot, window: Window) -> None:
    before = desk(window).counts()
    dialog = opened(qtbot, window)
    assert dialog.table.rowCount() == len(USUAL["EN"]) and not dialog.usual.isVisible()
    assert dialog.told.text().startswith("133 of 135 open joints would be joined") and dialog.left.rowCount() == 2
    assert {dialog.left.item(i, 2).text().split(":")[1].strip() for i in range(2)} == {"it meets nothing there"}  # type: ignore[union-attr]
    assert desk(window).counts() == before  # trying changes nothing
    dialog.go.click()
    assert not dialog.isVisible() and desk(window).counts()["joined"] == before["joints"] - 2 and "133 connections" in window.hint.text() and "14 × End plate: Haunch depth 350 → 400" in dialog.told.text() + window.hint.text()
    window.undo()
    assert desk(window).counts() == before
    assert window.actions_["join-all"].enabled() and window.actions_["join-all"].shortcut == "Ctrl+J"


def test_rules_are_added_moved_and_put_back(qtbot: QtBot, window: Window, fill: Fill) -> None:
    dialog = opened(qtbot, window)
    dialog.table.selectRow(0)
    assert not dialog.alone[1].isEnabled() and dialog.alone[2].isEnabled()  # the first goes no further up
    errors = fill({"family": "Seat cleat", "kinds": "column foot"})
    dialog._add()
    assert "Seat cleat does not take a column foot" in errors[0] and desk(window).project.joining is None
    fill({"family": "Seat cleat", "kinds": "beam to column flange", "roles": "beam", "most_depth": "300", "settings": "seat length = 180" if any(s.label.lower() == "seat length" for s in FAMILIES["seat-cleat"].settings) else ""})
    dialog._add()
    tried(qtbot, dialog)
    assert dialog.usual.isVisible() and cell(dialog, 1, 3).startswith("Seat cleat") and "up to 300 mm deep" in cell(dialog, 1, 2)
    assert rules_of(desk(window).project)[1].roles == ("beam",)
    dialog.table.selectRow(1)
    dialog.alone[1].click()
    tried(qtbot, dialog)
    assert cell(dialog, 0, 3).startswith("Seat cleat") and dialog.table.currentRow() == 0
    dialog.alone[3].click()
    tried(qtbot, dialog)
    assert not cell(dialog, 0, 3).startswith("Seat cleat")
    dialog.usual.click()
    tried(qtbot, dialog)
    assert desk(window).project.joining is None and not dialog.usual.isVisible()
    window.undo()
    assert desk(window).project.joining is not None


def test_a_rule_that_settles_nothing_says_so_and_the_button_waits(qtbot: QtBot, window: Window) -> None:
    window.run("set-joining-rules", rules=[{"family": "timber-seat"}])
    dialog = opened(qtbot, window)
    assert cell(dialog, 0, 4) == "–" and not dialog.go.isEnabled() and dialog.told.text().startswith("0 of 135")
    assert any("is steel" in dialog.left.item(i, 2).text() for i in range(dialog.left.rowCount()))  # type: ignore[union-attr]
    dialog._try()
    dialog._stop()  # stopped while it tries: nothing is settled, and trying again is possible
    assert dialog.told.text() == "Not tried" and dialog.plan is None
    dialog.fill()
    tried(qtbot, dialog)


def test_typed_settings_read_back() -> None:
    kind = FAMILIES["fin-plate"]
    rule = JoinRule("fin-plate", settings={"plate_thickness": 12.0, "sides": "far side", "pitch": (70.0, 70.0)})
    for unit in ("mm", "ft-in"):
        assert typed_settings(kind, settings_text(kind, rule, unit), unit)["sides"] == "far side"
    assert typed_settings(kind, settings_text(kind, rule, "mm"), "mm") == rule.settings


def test_a_way_clear_of_a_neighbour_is_looked_for_when_asked(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    open_ = [e for e in d.ledger.entries.values() if not e.settled]
    knee, webs = next((k, w) for k in open_ if k.joint.kind == "knee" if (w := [e.joint.key for e in open_ if e.joint.support == k.joint.support and e.joint.kind == "beam to column web"]))
    window.run("place-connection", family="fin-plate", at=webs)
    window.run("place-connection", family="end-plate", at=[knee.joint.key])
    window.select([knee.joint.key], [])
    looks = [b for b in window.detail.findChildren(QPushButton) if b.text() == "Look for a way clear of it"]
    assert looks and d.ledger.entries[knee.joint.key].level == "breach"
    looks[0].click()
    assert d.ledger.entries[knee.joint.key].level == "clear" and "Haunch depth 350 → 400" in window.hint.text()
    window.undo()
    assert d.ledger.entries[knee.joint.key].level == "breach"
