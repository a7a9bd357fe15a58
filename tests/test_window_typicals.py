"""Typicals in the window: saved from a detail, used by selection and by pointing, changed in their table, shared as a file."""

from pathlib import Path

import pytest
from PySide6.QtWidgets import QDialog, QFileDialog, QLineEdit
from pytestqt.qtbot import QtBot
from test_window import desk, window
from test_window_frame import Fill, fill

from tincleat.app.sizes import Sizes
from tincleat.app.typical_look import Look, looked_at
from tincleat.app.typicals import Library
from tincleat.app.window import Window

assert window and fill  # the fixtures


def plates(window: Window) -> list[str]:
    """Keys of joints with fin plates, and of open ones that a fin plate suits, as they come."""
    return [k for k, e in desk(window).ledger.entries.items() if e.connection is not None and e.connection.family == "fin-plate"]


def shown(window: Window) -> str:
    return window.detail.typical.text() if window.detail.typical.isVisibleTo(window.detail) else ""


def test_a_detail_is_saved_used_and_left(qtbot: QtBot, window: Window, fill: Fill) -> None:
    one, other = plates(window)[:2]
    window.select([one], [], True)
    assert not shown(window) and not window.actions_["leave-typical"].enabled()
    window.run("change-connections", ids=window.selected_connections(), settings={"plate_thickness": 15.0})
    errors = fill({"name": "  "})
    window.do("save-typical")
    assert "is no name" in errors[0] and not desk(window).project.typicals
    fill({"name": "thick", "roles": "beam, joist", "most_depth": "900"})
    window.do("save-typical")
    assert shown(window) == "Typical: thick" and next(iter(desk(window).project.typicals.values())).roles == ("beam", "joist")
    window.select([other], [], True)
    fill({"typed": "goes"})
    window.do("use-typical")
    assert shown(window) == "Typical: thick"
    editors = [w for w in window.detail.findChildren(QLineEdit) if "From its typical" in w.toolTip()]
    on_sheet = {d.setting for d in window.detail.sheet.drawing.dimensions}  # type: ignore[union-attr]
    assert editors or "plate_thickness" in on_sheet
    window.run("change-connections", ids=window.selected_connections(), settings={"plate_thickness": 20.0})
    assert shown(window) == "Typical: thick; typed over it: plate thickness"
    window.detail.leave.click()
    assert not shown(window) and desk(window).project.connections[window.selected_connections()[0]].settings == {"plate_thickness": 20.0}
    window.undo()
    assert shown(window)


def test_open_joints_are_joined_by_it_and_the_table_changes_it(qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch, tmp_path: Path) -> None:
    d = desk(window)
    one = plates(window)[0]
    window.select([one], [], True)
    window.run("change-connections", ids=window.selected_connections(), settings={"plate_thickness": 15.0})
    window.run("save-typical", connection=window.selected_connections()[0], name="thick")
    (t,) = d.project.typicals
    free = next(k for k, e in d.ledger.entries.items() if not e.settled and not d.ledger.refusal(e.joint, "fin-plate", {}, t))
    window.select([free], [], True)
    monkeypatch.setattr(window, "form", lambda title, words, fields, submit: submit({a.name: a.text for a in fields}))
    window.do("use-typical")
    made = d.ledger.entries[free].connection
    assert made is not None and made.typical == t
    window.select([], [])
    window.do("use-typical")  # nothing selected: it is placed by pointing
    assert (window.placing.family, window.placing.typical) == ("fin-plate", t)
    free = next(k for k, e in d.ledger.entries.items() if not e.settled and not d.ledger.refusal(e.joint, "fin-plate", {}, t))
    window.placing.hovered(free)
    assert window.view._overlay_on
    window.placing.place_at(free)
    assert d.ledger.entries[free].connection.typical == t  # type: ignore[union-attr]
    window.escape()
    table = Library(window)
    qtbot.addWidget(table)
    assert table.table.rowCount() == 1 and table.table.item(0, 2).text().startswith("plate thickness 15") and table.table.item(0, 4).text() == "3"  # type: ignore[union-attr]

    def change(title: str, words: str, fields: object, submit: object) -> None:
        assert title == "Change typical thick" and words == "3 connections that use it follow."
        submit({a.name: a.text for a in fields} | {"plate_thickness": "20", "most_depth": "900"})  # type: ignore[attr-defined, operator]

    monkeypatch.setattr(window, "form", change)
    looks: list[Look] = []
    monkeypatch.setattr(Look, "exec", lambda self: looks.append(self) or QDialog.DialogCode.Accepted)
    table.alone[0].click()
    assert {d.ledger.entries[k].made.detail.number("plate_thickness").value for k in (one, free)} == {20.0}  # type: ignore[union-attr]
    # all three are looked at before: what differs, and that none gets worse
    assert sum(k.count for k in looks[0].kinds) == 3 and all(k.words.startswith("plate thickness 15 → 20") for k in looks[0].kinds) and not any(k.worse for k in looks[0].kinds)
    assert table.table.item(0, 3).text() == "up to 900 mm deep" and not table.error.text()  # type: ignore[union-attr]
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *a: (str(tmp_path / "t.json"), ""))
    table.out.click()
    monkeypatch.setattr("tincleat.app.typicals.sure", lambda *a: True)
    table.alone[3].click()
    assert not d.project.typicals and table.table.rowCount() == 0 and not table.out.isEnabled() and "There are none yet" in table.words.text()
    assert d.ledger.entries[free].made.detail.number("plate_thickness").value == 20.0  # type: ignore[union-attr]
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *a: (str(tmp_path / "t.json"), ""))
    table._load()
    assert [t.name for t in d.project.typicals.values()] == ["thick"] and table.table.rowCount() == 1
    (tmp_path / "t.json").write_text("nonsense")
    table._load()
    assert "cannot be read" in table.error.text() and table.table.rowCount() == 1


def test_settings_taken_up_are_given_to_others(window: Window) -> None:
    one, other = plates(window)[:2]
    assert not window.actions_["give-settings"].enabled()
    window.select([one], [], True)
    window.run("change-connections", ids=window.selected_connections(), settings={"plate_thickness": 15.0})
    window.do("take-settings")
    assert "taken up" in window.hint.text() and not window.actions_["give-settings"].enabled()  # not to itself
    window.select([other], [], True)
    window.do("give-settings")
    assert desk(window).ledger.entries[other].connection.settings == {"plate_thickness": 15.0}  # type: ignore[union-attr]




def test_sizes_are_typed_into_a_table_and_read_from_one(qtbot: QtBot, window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    d = desk(window)
    one = plates(window)[0]
    window.select([one], [], True)
    window.run("save-typical", connection=window.selected_connections()[0], name="by size", what="all", settings=["plate_thickness"])
    (t,) = d.project.typicals
    section = d.project.members[d.ledger.entries[one].joint.ends[0][0]].section
    sizes = Sizes(window, t)
    qtbot.addWidget(sizes)
    assert sizes.table.rowCount() == 0 and not sizes.drop.isEnabled()
    sizes.add.click()
    assert sizes.table.rowCount() == 1 and [sizes.table.horizontalHeaderItem(j).text() for j in range(sizes.table.columnCount())] == ["Section", "Up to depth", "Plate thickness"]  # type: ignore[union-attr]
    sizes.column.setCurrentText("Plate edge distance")
    sizes.column.activated.emit(sizes.column.currentIndex())
    assert sizes.table.columnCount() == 4
    sizes.table.item(0, 3).setText("52")  # type: ignore[union-attr]
    assert d.ledger.entries[one].made.detail.number("edge_distance").value == 52.0  # type: ignore[union-attr]
    sizes.table.item(0, 2).setText("18")  # type: ignore[union-attr]
    assert not sizes.error.text() and d.ledger.entries[one].made.detail.number("plate_thickness").value == 18.0  # type: ignore[union-attr]
    # what is wrong is said and stays to be mended, the project as it was
    sizes.table.item(0, 0).setText("IPE 7")  # type: ignore[union-attr]
    assert "row 1" in sizes.error.text() and sizes.table.item(0, 0).text() == "IPE 7" and not d.project.typicals[t].sizes[0].section  # type: ignore[union-attr]
    sizes.table.item(0, 0).setText(section)  # type: ignore[union-attr]
    assert not sizes.error.text() and d.project.typicals[t].sizes[0].section == section
    sizes.add.click()
    sizes.table.setCurrentCell(1, 0)
    sizes.higher.click()
    assert [r.section for r in d.project.typicals[t].sizes] == ["", section]
    window.undo()
    sizes.fill()
    sizes.table.setCurrentCell(1, 0)
    sizes.drop.click()
    assert len(d.project.typicals[t].sizes) == 1
    table = tmp_path / "s.csv"
    table.write_text("depth,plate_thickness\n1000,25\n")
    monkeypatch.setattr(Look, "exec", lambda self: QDialog.DialogCode.Accepted)
    sizes.read(str(table))
    assert sizes.table.rowCount() == 1 and d.ledger.entries[one].made.detail.number("plate_thickness").value == 25.0  # type: ignore[union-attr]
    sizes.read(str(tmp_path / "none.csv"))
    assert "no such file" in sizes.error.text()


def test_a_variant_is_made_by_an_edit_and_edited_from_then_on(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    one, other = plates(window)[:2]
    window.select([one], [], True)
    window.run("save-typical", connection=window.selected_connections()[0], name="ends", what="all", settings=["plate_thickness", "edge_distance"])
    (t,) = d.project.typicals
    window.run("use-typical", typical=t, ids=[d.ledger.entries[other].connection.id])  # type: ignore[union-attr]
    panel = window.detail

    def choices() -> list[str]:
        return [panel.scope.itemText(i) for i in range(panel.scope.count())]

    assert choices()[-2:] == ["Edit the typical, 2 uses", "Make a variant"]
    panel.scope.setCurrentIndex(len(choices()) - 1)
    panel._entered("plate_thickness", "18")
    made = next(v for k, v in d.project.typicals.items() if k != t)
    assert made.name == "ends 2" and made.settings["plate_thickness"] == 18.0 and d.project.typicals[t].settings["plate_thickness"] != 18.0
    assert d.ledger.entries[one].connection.typical == made.id and d.ledger.entries[other].connection.typical == t  # type: ignore[union-attr]
    # it is the variant that is edited next, and another joint is edited by itself
    assert panel.scope.currentText() == "Edit the typical, 1 use"
    panel._entered("edge_distance", "60")
    assert d.project.typicals[made.id].settings["edge_distance"] == 60.0 and not d.ledger.entries[one].connection.settings  # type: ignore[union-attr]
    window.select([other], [], True)
    assert panel.scope.currentText() == "Edit this joint"
    panel.scope.setCurrentIndex(choices().index("Edit the typical, 1 use"))
    panel._entered("edge_distance", "55")
    assert d.ledger.entries[other].made.detail.number("edge_distance").value == 55.0 and d.ledger.entries[one].made.detail.number("edge_distance").value == 60.0  # type: ignore[union-attr]
    for _ in range(3):
        window.undo()
    assert len(d.project.typicals) == 1 and d.ledger.entries[one].connection.typical == t  # type: ignore[union-attr]


def test_a_change_of_a_typical_is_looked_at_and_may_be_left(qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    d = desk(window)
    window.select(plates(window)[:1], [], True)
    window.run("save-typical", connection=window.selected_connections()[0], name="ends", what="all", settings=["plate_thickness", "edge_distance"])
    (t,) = d.project.typicals
    window.run("use-typical", typical=t, ids=[d.ledger.entries[k].connection.id for k in plates(window)[1:6]])  # type: ignore[union-attr]
    looks: list[Look] = []

    def leave(self: Look) -> QDialog.DialogCode:
        looks.append(self)
        return QDialog.DialogCode.Rejected

    monkeypatch.setattr(Look, "exec", leave)
    before = dict(d.project.typicals)
    assert looked_at(window, "change-typical", "Change typical ends", typical="ends", settings={"edge_distance": 16.0}) == ""
    (look,) = looks
    qtbot.addWidget(look)
    # each kind of detail once, the worst first, drawn now and then; nothing has changed
    assert sum(k.count for k in look.kinds) == 6 and look.kinds[0].worse and "edge distance" in look.kinds[0].words and "16" in look.kinds[0].words
    assert look.table.rowCount() == len(look.kinds) and look.table.item(0, 3).text() == "clear → breach"  # type: ignore[union-attr]
    now, then = look.before.pixmap().toImage(), look.after.pixmap().toImage()
    assert not now.isNull() and not then.isNull() and now != then
    assert d.project.typicals == before and "Left as it was" in window.hint.text()
    assert "no setting" in looked_at(window, "change-typical", "", typical="ends", settings={"edge": 16.0}) and len(looks) == 1
    monkeypatch.setattr(Look, "exec", lambda self: QDialog.DialogCode.Accepted)
    looked_at(window, "change-typical", "Change typical ends", typical="ends", settings={"edge_distance": 55.0})
    assert d.project.typicals[t].settings["edge_distance"] == 55.0
