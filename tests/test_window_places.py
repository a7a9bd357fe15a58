"""The window at places that are no ends: stations and crossings, several braces at once, ends left plain."""

from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from PySide6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PySide6.QtGui import QDragEnterEvent, QDropEvent, QImage
from PySide6.QtWidgets import QApplication, QComboBox, QFileDialog, QLineEdit, QPushButton
from pytestqt.qtbot import QtBot
from sites import purlins
from test_window import desk, key_of, window
from test_window_frame import fill

from tincleat.app.window import Window
from tincleat.ledger.entries import Entry
from tincleat.ledger.query import members_like

assert window and fill  # the fixtures


def pixel(window: Window, point: np.ndarray) -> QPoint:
    """Where a point of the model is seen."""
    spot = window.view.camera.project(np.asarray(point, dtype=float).reshape(1, 3))[0]
    return QPointF(float(spot[0]), float(spot[1])).toPoint()


def point_at(qtbot: QtBot, window: Window, at: QPoint, key: str) -> None:
    """The mouse wanders about a pixel as a hand does, until what is under it is named: a busy machine may swallow a single move."""

    def there() -> bool:
        qtbot.mouseMove(window.view, QPoint(at.x() + 1, at.y()))
        qtbot.mouseMove(window.view, at)
        return window.view.hover_key.startswith(key)

    qtbot.waitUntil(there, timeout=10000)


def test_stiffeners_are_placed_where_a_member_is_pointed_at(qtbot: QtBot, window: Window) -> None:
    (key,) = members_like(desk(window).ledger, "name:G1E")
    own = desk(window).ledger.finder.frames[key]
    point = np.array(own.moved(x=4400.0).origin)
    window.do("place-stiffeners")
    window.view.zoom_to(point, 900)
    at = pixel(window, point)
    point_at(qtbot, window, at, f"{key}@")
    named = window.view.hover_key
    assert "at a station" in window.hint.text() and window.view._overlay_on
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: any(c.family == "stiffeners" for c in desk(window).project.connections.values()))
    (c,) = (c for c in desk(window).project.connections.values() if c.family == "stiffeners")
    assert c.member == key and c.at is not None and c.at % 10 == 0 and named == f"{key}@{c.at:g}" and abs(c.at - 4400) < 200
    window.escape()
    window.select([named], [], True)
    assert window.detail.isVisible() and window.detail.title.text().startswith("Stiffeners")


def test_an_end_is_left_plain_from_its_card_and_opened_again(qtbot: QtBot, window: Window) -> None:
    key = key_of(window, "M5.end")
    window.select([key], [], True)
    def plain_ones() -> list[QPushButton]:
        return [b for b in window.card.findChildren(QPushButton) if b.text() == "Leave plain here"]

    qtbot.waitUntil(lambda: len(plain_ones()) == 1)
    (plain,) = plain_ones()
    qtbot.mouseClick(plain, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: desk(window).ledger.entries[key].state == "plain")
    window.select([key], [])
    (again,) = (b for b in window.card.findChildren(QPushButton) if b.text() == "Open it again")
    qtbot.mouseClick(again, Qt.MouseButton.LeftButton)
    qtbot.waitUntil(lambda: desk(window).ledger.entries[key].state == "open")


def test_cleats_are_placed_where_purlins_cross(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    d.run("add-members", members=[{"section": "PFC 150x75x18", "role": "purlin", "start": [-500, -9000, 12000], "end": [6000, -9000, 12000], "cardinal": "bottom"},
                                  {"section": "UB 356x171x45", "role": "beam", "start": [1000, -12000, 12000], "end": [1000, -6000, 12000], "cardinal": "top"}])  # fmt: skip
    over, under = list(d.project.members)[-2:]
    window.do("place-purlin-cleat")
    window.view.zoom_to(np.array([1000.0, -9000.0, 12000.0]), 900)
    at = pixel(window, np.array([1000.0, -9000.0, 12000.0]))
    point_at(qtbot, window, at, f"{over}x{under}")
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: f"{over}x{under}" in desk(window).ledger.entries)
    assert desk(window).ledger.entries[f"{over}x{under}"].level == "clear"
    window.escape()


def test_sag_rods_go_along_rows_from_a_form(window: Window, fill: Callable[[dict[str, str]], list[str]]) -> None:
    w = window
    ledger = desk(w).ledger

    def rows() -> list[Entry]:
        return [e for e in ledger.entries.values() if e.connection is not None and e.connection.family == "sag-rods"]

    errors = fill({})
    w.do("place-sag-rods")
    assert "there are no purlins or girts" in w.hint.text() and not errors  # no form is opened
    # three bays of four purlins, far from the boathouse
    bays = [{**m, "start": [m["start"][0], 80000.0 + 6000 * b, m["start"][2]], "end": [m["end"][0], 86000.0 + 6000 * b, m["end"][2]]} for b in range(3) for m in purlins("UPE 160", 4, 8.0)]
    w.run("add-members", members=bays)
    errors = fill({"lines": "two", "at": "", "widest": "3500", "bays": ""})
    w.do("place-sag-rods")
    assert errors == ["how many to a span, and which to leave out: whole numbers"] and not rows() and not w.placing.family
    errors = fill({"lines": "1", "at": "", "widest": "3500", "bays": "9"})
    w.do("place-sag-rods")
    assert "there is no bay 9" in errors[0] and not rows()
    # with nothing selected all purlins and girts are meant
    errors = fill({"lines": "1", "at": "", "widest": "3500", "bays": "2"})
    w.do("place-sag-rods")
    assert errors == [""] and len(rows()) == 2 and all(e.made is not None and len(e.made.detail.ties) == 3 for e in rows())
    w.undo()
    assert not rows()
    # of those selected, only a row of them
    three = [m.id for m in desk(w).project.members.values() if m.role == "purlin"][:3]
    w.select([], three)
    fill({"lines": "1", "at": "", "widest": "3500", "bays": ""})
    w.do("place-sag-rods")
    (entry,) = rows()
    assert set(entry.joint.members) == set(three)
    # its sheet is drawn, and a number on it can be typed
    w.select([entry.joint.key], [], True)
    assert entry.made is not None and entry.connection is not None and {v.name for v in entry.made.detail.views} == {"front", "plan"}
    assert w.detail.sheet.drawing is not None
    assert {t.setting for t in w.detail.sheet.drawing.dimensions} >= {"projection", "thread", "stagger"}
    w.run("change-connections", ids=[entry.connection.id], settings={"stagger": 80.0})
    (entry,) = rows()
    assert entry.made is not None and {round(abs(t.frame.origin[1]), 1) for t in entry.made.detail.ties} == {40.0}
    w.do("delete")
    assert not rows()


def test_a_schedule_is_loaded_and_its_row_chosen(qtbot: QtBot, window: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    run = desk(window).run
    run("add-members", members=[{"section": "HEB 300", "role": "column", "start": [90000, 0, 0], "end": [90000, 0, 8000]}, {"section": "IPE 400", "role": "beam", "start": [94000, 0, 3000], "end": [90000, 0, 3000], "name": "MB"}])
    table = tmp_path / "moments.csv"
    table.write_text("mark,beam,level,top_thickness\nMC1,IPE 400,3200,25\nMC2,IPE 400,3200,30\n")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(table), ""))
    asked: list[str] = []
    monkeypatch.setattr(window, "form", lambda title, words, fields, submit: asked.append(title) or submit({f.name: f.text for f in fields}))
    window.do("load-schedule")
    assert asked == ["Load a schedule"] and [s.name for s in desk(window).project.schedules.values()] == ["moments"]
    window.run("place-connection", family="cover-plates", at=["MB.end"], settings={"mark": "MC1"})
    window.select([key_of(window, "MB.end")], [], True)
    marks = window.detail.form.fields["mark"]
    assert isinstance(marks, QComboBox) and [marks.itemText(i) for i in range(marks.count())] == ["the row that fits", "MC1", "MC2", "none"] and marks.currentText() == "MC1"
    entry = desk(window).ledger.entries[key_of(window, "MB.end")]
    assert entry.made is not None and entry.made.detail.number("top_thickness").value == 25.0
    marks.setCurrentIndex(2)
    marks.activated.emit(2)
    entry = desk(window).ledger.entries[key_of(window, "MB.end")]
    assert entry.made is not None and entry.made.detail.number("top_thickness").value == 30.0
    # two rows fit: the joint's own figures do not tell which
    marks.setCurrentIndex(0)
    marks.activated.emit(0)
    assert "MC1 and MC2 all fit" in window.hint.text()
    window.do("delete-schedule")
    assert asked[-1] == "Delete a schedule" and not desk(window).project.schedules


def test_a_field_without_use_says_so(qtbot: QtBot, window: Window) -> None:
    desk(window).run("add-members", members=[
        {"section": "UPN 200", "role": "beam", "start": [90000, 0, 3000], "end": [94000, 0, 3000]},
        {"section": "FL 60x12", "role": "post", "start": [92000, -43.5, 2940], "end": [92000, -43.5, 4100], "name": "RP"},
    ])  # fmt: skip
    window.run("place-connection", family="post-side", at=["RP.start"])
    window.select([key_of(window, "RP.start")], [], True)
    width = window.detail.form.fields["width"]
    assert isinstance(width, QLineEdit) and width.placeholderText() == "not in use" and "Not in use as the detail is now" in width.toolTip()
    width.setFocus()
    width.setText("120")
    width.setModified(True)
    width.editingFinished.emit()
    assert "plate width is not in use here" in window.hint.text()


def test_the_ledger_by_level_zone_and_member(qtbot: QtBot, window: Window) -> None:
    drawer, d = window.drawer, desk(window)

    def by(words: str) -> None:
        drawer.by.setCurrentText(words)
        drawer.by.activated.emit(drawer.by.currentIndex())

    by("By level")
    rows = drawer.ledger_table.rows.rows
    assert drawer.count.text().endswith("levels") and sum(r.share[0] for r in rows if r.share) == len(d.ledger.entries)
    slab = next(i for i, r in enumerate(rows) if r.cells[1].startswith("slab"))
    drawer.ledger_table.selectRow(slab)
    assert sorted(window.selected) == sorted(e.joint.key for e in rows[slab].data.entries)
    was = rows[slab].share
    open_feet = [k for k in window.selected if not d.ledger.entries[k].settled and d.ledger.entries[k].joint.kind == "column foot"]
    assert window.run("place-connection", family="base-plate", at=open_feet[:1]) if open_feet else window.run("delete-connections", ids=window.selected_connections()[:1])
    now = drawer.ledger_table.rows.rows[slab].share
    assert was is not None and now is not None and now[0] == was[0] and abs(now[1] - was[1]) == 1
    drawer.search.setText("crew")
    assert drawer.ledger_table.filter.rowCount() == 1
    drawer.search.clear()
    by("By zone")
    assert drawer.count.text().endswith("zones") and any("to" in r.cells[1] for r in drawer.ledger_table.rows.rows)
    by("By member")
    assert drawer.count.text() == f"{len(d.project.members)} members"
    drawer.go("Findings")
    assert not drawer.by.isVisible()
    drawer.go("Ledger")
    by("By kin")
    assert drawer.by.isVisible() and drawer.count.text() == f"{len(d.ledger.kin())} kin groups"


def test_the_start_card_shows_what_was_worked_on_and_takes_what_is_dropped(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    path = desk(window).store.path
    window.set_desk(None)
    picture = window.projects.picture_of(path)
    shot = QImage(str(picture))
    assert (shot.width(), shot.height()) == (120, 75)
    colours = {shot.pixelColor(x, y).name() for x in range(0, 120, 3) for y in range(0, 75, 3)}
    assert len(colours) > 20  # steel is seen in it, not an empty sheet
    card = next(b for b in window.start_page.findChildren(QPushButton) if b.objectName() == "recent")
    assert card.text().splitlines()[0] == path.stem and not card.icon().isNull() and card.accessibleName().startswith(f"Open {path.stem}, changed ")

    def drop(file: Path) -> None:
        mime = QMimeData()
        mime.setUrls([QUrl.fromLocalFile(str(file))])
        enter = QDragEnterEvent(window.rect().center(), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier)
        QApplication.sendEvent(window, enter)
        assert enter.isAccepted()
        QApplication.sendEvent(window, QDropEvent(QPointF(window.rect().center()), Qt.DropAction.CopyAction, mime, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))

    drop(tmp_path / "notes.txt")
    qtbot.waitUntil(lambda: "neither a project" in window.hint.text())
    assert window.desk is None
    drop(path)
    qtbot.waitUntil(lambda: window.desk is not None)
    assert desk(window).store.path == path
    (window.projects.picture_of(path).parent / "stale.png").write_bytes(b"old")
    window.set_desk(None)
    assert sorted(p.name for p in picture.parent.glob("*.png")) == [picture.name]
