"""Two details side by side: what differs, and a setting taken across."""

from PySide6.QtWidgets import QTableWidgetItem
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.details_compared import DetailsCompared, pair_of
from tincleat.app.window import Window

assert window  # the fixture


def cells(dialog: DetailsCompared) -> dict[str, tuple[str, str]]:
    def text(item: QTableWidgetItem | None) -> str:
        return item.text() if item is not None else ""

    return {text(dialog.table.item(i, 0)): (text(dialog.table.item(i, 1)), text(dialog.table.item(i, 2))) for i in range(dialog.table.rowCount())}


def opened(qtbot: QtBot, window: Window, *keys: str) -> DetailsCompared:
    window.select(list(keys), [])
    assert pair_of(window) == list(keys) and window.actions_["compare-details"].enabled()
    dialog = DetailsCompared(window, list(keys))
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitExposed(dialog)
    return dialog


def test_what_differs_and_a_setting_taken_across(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    one, two = [e.joint.key for e in d.ledger.entries.values() if e.joint.kind == "beam to beam web" and not e.settled][:2]
    window.run("place-connection", family="fin-plate", at=[one, two])
    window.run("change-connections", ids=[d.ledger.entries[two].connection.id], settings={"edge_distance": 60.0})  # type: ignore[union-attr]
    dialog = opened(qtbot, window, one, two)
    found = cells(dialog)
    name = next(n for n in found if "edge distance" in n.lower())
    assert found[name][1].startswith("60 · typed here") and "What it takes" in found and not found[name][0].startswith("60")
    row = list(found).index(name)
    dialog.table.selectRow(row)
    assert dialog.to_left.isEnabled() and dialog.to_right.isEnabled()
    assert not any(x.setting for s in dialog.sheets if s.drawing for x in s.drawing.dimensions)  # read here, changed in the table
    dialog.to_left.click()
    assert d.ledger.entries[one].connection.settings["edge_distance"] == 60.0 and name not in cells(dialog)  # type: ignore[union-attr]
    window.undo()
    dialog.fill()
    assert name in cells(dialog)
    dialog.table.selectRow(list(cells(dialog)).index("What it takes"))
    assert not dialog.to_left.isEnabled()  # a figure is no setting


def test_different_families_have_figures_only_and_what_is_refused_says_why(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    foot = next(e.joint.key for e in d.ledger.entries.values() if e.connection is not None and e.connection.family == "base-plate")
    fin = next(e.joint.key for e in d.ledger.entries.values() if e.connection is not None and e.connection.family == "fin-plate")
    dialog = opened(qtbot, window, foot, fin)
    assert dialog.told.text().startswith("They are of different families") and set(cells(dialog)) <= {"What it takes", "Findings"}
    window.select([foot], [])
    assert pair_of(window) == [] and not window.actions_["compare-details"].enabled()
    same = next(e.joint.key for e in d.ledger.entries.values() if e.made is d.ledger.entries[foot].made and e.joint.key != foot)
    dialog = opened(qtbot, window, foot, same)
    assert dialog.told.text() == "They are the same in every setting." and dialog.table.rowCount() == 0
    dialog.take(0, 1)  # nothing chosen: nothing happens
    assert not dialog.error.text()


def test_an_edit_of_those_selected_alone(qtbot: QtBot, window: Window) -> None:
    """Three of ten alike, one of another kin, and a foot: the fin plates among them are changed, in one step."""
    d = desk(window)
    fins = [e for e in d.ledger.entries.values() if e.connection is not None and e.connection.family == "fin-plate"]
    other = next(e for e in fins if e.joint.case is not fins[0].joint.case)
    alike = [e for e in fins if e.joint.case is fins[0].joint.case][:3]
    foot = next(e for e in d.ledger.entries.values() if e.connection is not None and e.connection.family == "base-plate")
    window.select([e.joint.key for e in (*alike, other, foot)], [])
    scope = window.detail.scope
    words = [scope.itemText(i) for i in range(scope.count())]
    assert words[-2:] == ["Edit the 4 selected", "Make a variant"] and window.detail.targets() == [alike[0].connection.id]  # type: ignore[union-attr]
    scope.setCurrentIndex(len(words) - 2)
    ids = {e.connection.id for e in (*alike, other)}  # type: ignore[union-attr]
    assert set(window.detail.targets()) == ids
    assert window.run("change-connections", ids=window.detail.targets(), settings={"edge_distance": 44.0})
    assert {c.id for c in d.project.connections.values() if c.settings.get("edge_distance") == 44.0} == ids
    window.undo()
    assert not any(c.settings.get("edge_distance") == 44.0 for c in d.project.connections.values())
    window.select([alike[0].joint.key], [])
    assert "selected" not in " ".join(scope.itemText(i) for i in range(scope.count())) and window.detail.targets() == [alike[0].connection.id]  # type: ignore[union-attr]
