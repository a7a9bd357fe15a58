"""The window driven for loose parts: pointed at a face, added to in the panel, switched off on the sheet, welded, kept as a pattern."""

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtWidgets import QApplication, QComboBox, QLabel, QLineEdit, QMenu, QPushButton
from pytestqt.qtbot import QtBot
from test_window import desk, window
from test_window_places import pixel, point_at

from tincleat.app.alterations import leave_out_menu
from tincleat.app.fields import Choice
from tincleat.app.window import Window
from tincleat.catalogue.sections import section
from tincleat.details.parts import Detail
from tincleat.ledger.query import members_like
from tincleat.release.drawing import HandleSpot

assert window  # the fixture


def beam(window: Window) -> tuple[str, np.ndarray, float]:
    """A level beam of the demo that is seen from the side and from above a good way along it, a point there on its middle line, half its depth."""
    d = desk(window)
    for key in members_like(d.ledger, "role:beam length:>4000"):
        joint = d.ledger.finder.station(key, 1500.0)
        shape = section(d.project.members[key].section)
        if joint is None or shape.shape != "I" or abs(joint.frame.z[2]) < 0.99:
            continue
        point = np.array(joint.frame.origin)
        window.view.zoom_to(point, 900)
        seen = [window.view.bodies.pick(*window.view.camera.ray(*pixel(window, point + np.array([0.0, 0.0, up])).toTuple())) for up in (0.0, shape.h / 2)]  # type: ignore[union-attr]
        if all(hit is not None and hit[:2] == ("member", key) for hit in seen):
            return key, point, shape.h / 2
    raise AssertionError("no beam is in sight")


def placed(qtbot: QtBot, window: Window, action: str, up: float = 0.0) -> str:
    """Take a loose part in hand, point at the beam ``up`` mm over its middle line and click; the connection's id."""
    key, point, _ = beam(window)
    before = set(desk(window).project.connections)
    window.do(action)
    window.view.zoom_to(point, 900)
    at = pixel(window, point + np.array([0.0, 0.0, up]))
    point_at(qtbot, window, at, f"{key}@")
    assert "clear" in window.hint.text() or "breach" in window.hint.text(), window.hint.text()
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: len(set(desk(window).project.connections) - before) == 1)
    (made,) = set(desk(window).project.connections) - before
    window.escape()
    window.select([desk(window).ledger.entry_of(made).joint.key], [], True)
    return made


def detail(window: Window, key: str) -> Detail:
    entry = desk(window).ledger.entry_of(key)
    assert entry.made is not None
    return entry.made.detail


def choose(window: Window, box: QComboBox, text: str) -> None:
    """As a hand chooses in an open list."""
    index = next(i for i in range(box.count()) if box.itemText(i) == text)
    box.setCurrentIndex(index)
    box.activated.emit(index)


def adder(qtbot: QtBot, window: Window) -> Choice:
    def found() -> list[Choice]:
        return [b for b in window.detail.findChildren(Choice) if b.accessibleName() == "Add a part" and not b.isHidden()]

    qtbot.waitUntil(lambda: bool(found()))
    return found()[0]


def press(qtbot: QtBot, window: Window, name: str) -> None:
    qtbot.waitUntil(lambda: any(b.accessibleName() == name and not b.isHidden() for b in window.detail.findChildren(QPushButton)))
    one = next(b for b in window.detail.findChildren(QPushButton) if b.accessibleName() == name and not b.isHidden())
    qtbot.mouseClick(one, Qt.MouseButton.LeftButton, pos=one.rect().center())


def switch(qtbot: QtBot, window: Window, setting: str, number: int) -> None:
    """Click a place on the sheet."""
    sheet = window.detail.sheet
    assert sheet.drawing is not None
    spot = next(s for s in sheet.drawing.switches if (s.setting, s.number) == (setting, number))
    at = sheet._at(spot.x, spot.y).toPoint()
    qtbot.mouseMove(sheet, at)
    qtbot.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=at)


def test_a_plate_on_the_face_that_is_pointed_at_then_bolts_and_a_weld(qtbot: QtBot, window: Window) -> None:
    made = placed(qtbot, window, "loose-plate")
    c = desk(window).project.connections[made]
    side = c.settings["on/1"]
    assert c.settings["part/1"] == "plate" and side in ("near side", "far side") and c.at is not None and c.at % 10 == 0
    heads = [x.text() for x in window.detail.findChildren(QLabel) if x.text().startswith("PART ")]
    assert heads == ["PART 1 · PLATE"]
    choose(window, adder(qtbot, window), "bolts")
    qtbot.waitUntil(lambda: "part/2" in desk(window).project.connections[made].settings)
    # four of them, typed as spacings
    window.run("change-connections", ids=[made], settings={"on/2": side, "rows/2": "100", "lines/2": "70", "width/1": 160.0})
    assert len(detail(window, made).plates[0].holes) == 4
    # one is switched off where it is drawn, and on again
    switch(qtbot, window, "left_out/2", 3)
    qtbot.waitUntil(lambda: len(detail(window, made).plates[0].holes) == 3)
    assert desk(window).project.connections[made].settings["left_out/2"] == (3,)
    switch(qtbot, window, "left_out/2", 3)
    qtbot.waitUntil(lambda: len(detail(window, made).plates[0].holes) == 4)
    choose(window, adder(qtbot, window), "weld")
    qtbot.waitUntil(lambda: len(detail(window, made).welds) == 4)
    assert desk(window).project.connections[made].settings["of/3"] == "part 1"
    # one of the four runs proposed is dropped, the rest stay
    switch(qtbot, window, "left_out/3", 2)
    qtbot.waitUntil(lambda: len(detail(window, made).welds) == 3)
    window.undo()
    assert len(detail(window, made).welds) == 4
    press(qtbot, window, "Remove part 2")
    qtbot.waitUntil(lambda: not detail(window, made).bolts)
    press(qtbot, window, "Copy part 1")
    qtbot.waitUntil(lambda: len(detail(window, made).plates) == 2 and len(detail(window, made).welds) == 8)
    for _ in range(2):
        window.undo()
    assert len(detail(window, made).plates) == 1 and detail(window, made).bolts


def test_the_flange_is_another_face_and_a_groove_is_typed(qtbot: QtBot, window: Window) -> None:
    _, _, half = beam(window)
    made = placed(qtbot, window, "loose-plate", up=half)
    assert desk(window).project.connections[made].settings["on/1"] == "top"
    window.run("change-connections", ids=[made], settings={"stands/1": "upright along", "thickness/1": 20.0})
    choose(window, adder(qtbot, window), "weld")
    qtbot.waitUntil(lambda: "prep/2" in window.detail.form.fields)
    box = window.detail.form.fields["prep/2"]
    assert isinstance(box, QComboBox)
    choose(window, box, "TC-U4a-GF")
    qtbot.waitUntil(lambda: any(w.kind == "groove" for w in detail(window, made).welds))
    assert [p.name for p in detail(window, made).plates] == ["plate 1", "backing 2"]
    window.run("change-connections", ids=[made], settings={"prep/2": "B-U2a"})
    assert "TC-U4a" in window.hint.text() and [w.kind for w in detail(window, made).welds] == ["groove"]  # refused with the right ones, nothing changed


def test_a_bent_plate_and_a_pattern_kept_for_others(qtbot: QtBot, window: Window) -> None:
    made = placed(qtbot, window, "loose-bent-plate")
    field = window.detail.form.fields["bend/1"]
    assert isinstance(field, QLineEdit)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "45")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: abs(detail(window, made).bents[0].turns[0] - np.pi / 4) < 1e-9)
    window.run("delete-connections", ids=[made])
    holes = placed(qtbot, window, "loose-holes")
    window.run("change-connections", ids=[holes], settings={"rows/1": "2@300", "lines/1": "60", "staggered/1": True, "hole_width/1": 14.0})
    window.run("save-typical", name="packer holes", connection=holes)
    other = next(k for k, m in desk(window).project.members.items() if m.role == "beam" and k != desk(window).project.connections[holes].member)
    window.run("place-connection", family="loose", at=[f"{other}@1500"], typical="packer holes")
    found = [e for e in desk(window).ledger.entries.values() if e.connection is not None and e.connection.family == "loose"]
    assert len(found) == 2 and all(e.made is not None and len(e.made.detail.holes) == 3 for e in found)


def test_esc_and_an_empty_place(qtbot: QtBot, window: Window) -> None:
    window.do("loose-cut")
    assert "Loose cut: point at a member's face" in window.hint.text()
    qtbot.mouseMove(window.view, QPoint(4, 4))
    window.escape()
    assert not window.placing.family and not any(c.family == "loose" for c in desk(window).project.connections.values())


def test_an_alteration_is_kept_through_a_change_of_section(qtbot: QtBot, window: Window) -> None:
    """A bolt of a fin plate left out from the menu, its beam made deeper, and taken back."""
    d = desk(window)
    entry = next(e for e in d.ledger.entries.values() if e.connection is not None and e.connection.family == "fin-plate")
    assert entry.connection is not None
    made, before = entry.connection.id, len(detail(window, entry.connection.id).bolts[0].points)
    window.select([entry.joint.key], [], True)
    qtbot.waitUntil(lambda: any(b.text() == "Leave out…" and not b.isHidden() for b in window.detail.findChildren(QPushButton)))
    at = next(b for b in window.detail.findChildren(QPushButton) if b.text() == "Leave out…" and not b.isHidden())
    menu = leave_out_menu(window.detail, window.run, at)
    group = next(m for m in menu.findChildren(QMenu) if m.title() == "Bolts")
    next(a for a in group.actions() if a.text() == "bolt 1 of bolts").trigger()
    qtbot.waitUntil(lambda: len(detail(window, made).bolts[0].points) == before - 1)
    member = d.project.members[d.project.connections[made].member]
    window.run("change-members", ids=[member.id], section="UB 406x178x60" if member.section != "UB 406x178x60" else "UB 457x191x67")
    assert detail(window, made).number("@altered").value == "without bolt 1 of bolts" and not detail(window, made).unmet
    press(qtbot, window, "Take back: without bolt 1 of bolts")
    qtbot.waitUntil(lambda: "@altered" not in d.project.connections[made].settings)

    def typed() -> list[QLineEdit]:
        return [x for x in window.detail.findChildren(QLineEdit) if x.accessibleName() == "An alteration, typed" and not x.isHidden()]

    qtbot.waitUntil(lambda: bool(typed()))
    (field,) = typed()
    field.setFocus()
    qtbot.keyClicks(field, "with salt")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert "is no alteration" in window.hint.text() and field.text() == "with salt"
    field.selectAll()
    qtbot.keyClicks(field, "without weld nothing")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: bool(detail(window, made).unmet))
    assert any("there is no weld nothing now" in x.text() for x in window.detail.findChildren(QLabel))


def test_what_is_selected_is_placed_again_at_another_point(qtbot: QtBot, window: Window) -> None:
    made = placed(qtbot, window, "loose-plate")
    window.run("change-connections", ids=[made], settings={"length/1": 140.0, "width/1": 60.0})
    assert window.actions_["place-again"].enabled()
    key, point, _ = beam(window)
    window.do("place-again")
    assert window.placing.settings["length/1"] == 140.0
    way = np.array(desk(window).ledger.finder.frames[key].x)
    at = pixel(window, point + way * 300.0)
    point_at(qtbot, window, at, f"{key}@")
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=at)
    qtbot.waitUntil(lambda: sum(c.family == "loose" for c in desk(window).project.connections.values()) == 2)
    other = next(c for c in desk(window).project.connections.values() if c.family == "loose" and c.id != made)
    assert other.settings == desk(window).project.connections[made].settings and other.at != desk(window).project.connections[made].at


def held(window: Window, words: str, way: tuple[float, float] = (0.0, 0.0)) -> HandleSpot:
    """A handle of the sheet by its words; of several the one furthest that way on the sheet."""
    drawing = window.detail.sheet.drawing
    assert drawing is not None
    return max((h for h in drawing.handles if words in h.words), key=lambda h: h.x * way[0] + h.y * way[1])


def pull(qtbot: QtBot, window: Window, handle: HandleSpot, right: float, up: float, let_go: bool = True) -> None:
    """Pull a handle so many mm of the model right and up on its sheet."""
    sheet = window.detail.sheet
    assert sheet.drawing is not None
    start = sheet._at(handle.x, handle.y)
    s = sheet._scale() / sheet.drawing.scale
    end = QPoint(round(start.x() + right * s), round(start.y() - up * s))
    qtbot.mousePress(sheet, Qt.MouseButton.LeftButton, pos=start.toPoint())
    for share in (0.5, 1.0):
        at = QPointF(start.x() + (end.x() - start.x()) * share, start.y() + (end.y() - start.y()) * share)
        QApplication.sendEvent(sheet, QMouseEvent(QEvent.Type.MouseMove, at, sheet.mapToGlobal(at), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))
    if let_go:
        qtbot.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=end)


def test_edges_and_parts_are_pulled_on_the_sheet(qtbot: QtBot, window: Window) -> None:
    key = placed(qtbot, window, "loose-plate")
    assert window.run("change-connections", ids=[key], settings={"length/1": 200.0, "width/1": 100.0, "part/1": "plate"})
    sheet = window.detail.sheet
    qtbot.waitUntil(lambda: sheet.drawing is not None and bool(sheet.drawing.handles))

    def now(name: str) -> float:
        value = detail(window, key).number(name).value
        return float(value)  # type: ignore[arg-type]

    # the right edge 60 further out: the left one stays, so the middle moves 30
    right = held(window, "edge", (1.0, 0.0))
    pull(qtbot, window, right, 60.0, 0.0, let_go=False)
    assert "edge of plate 1: 60" in window.hint.text() and "length 260" in window.hint.text() and now("length/1") == 200  # shown, not kept
    qtbot.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert now("length/1") == 260 and abs(now("along/1")) == 30
    window.do("undo")
    assert now("length/1") == 200 and now("along/1") == 0
    # handles are no part of the drawing: neither under the pointer nor held does a copy show them
    plain = sheet.picture()
    qtbot.mousePress(sheet, Qt.MouseButton.LeftButton, pos=sheet._at(right.x, right.y).toPoint())
    assert sheet.holding.held is not None and sheet.picture() == plain
    qtbot.keyClick(sheet, Qt.Key.Key_Escape)
    qtbot.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    # Esc while it is pulled keeps nothing
    pull(qtbot, window, held(window, "edge", (1.0, 0.0)), 40.0, 0.0, let_go=False)
    qtbot.keyClick(sheet, Qt.Key.Key_Escape)
    qtbot.mouseRelease(sheet, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert now("length/1") == 200
    # a click, and the distance typed; what cannot be is told, and nothing is kept
    edge = held(window, "edge", (0.0, 1.0))
    at = sheet._at(edge.x, edge.y).toPoint()
    qtbot.mouseClick(sheet, Qt.MouseButton.LeftButton, pos=at)
    assert not sheet.holding.distance.isHidden() and sheet.holding.distance.hasFocus()
    qtbot.keyClicks(sheet.holding.distance, "-500")
    qtbot.keyClick(sheet.holding.distance, Qt.Key.Key_Return)
    assert now("width/1") == 100 and sheet.holding.distance.property("bad") and "Width" in window.hint.text()
    sheet.holding.distance.clear()
    qtbot.keyClicks(sheet.holding.distance, "12,5")
    assert "too many" in window.hint.text()
    sheet.holding.distance.clear()
    qtbot.keyClicks(sheet.holding.distance, "12")
    qtbot.keyClick(sheet.holding.distance, Qt.Key.Key_Return)
    assert now("width/1") == 112 and sheet.holding.distance.isHidden()
    # the whole part, two ways at once
    pull(qtbot, window, held(window, "moved over its face"), 50.0, 0.0)
    assert abs(now("along/1")) == 50 and now("length/1") == 200


def test_a_corner_of_an_own_outline_is_pulled(qtbot: QtBot, window: Window) -> None:
    key = placed(qtbot, window, "loose-plate")
    assert window.run("change-connections", ids=[key], settings={"part/1": "plate", "points/1": (-100.0, -50.0, 100.0, -50.0, 100.0, 50.0, -100.0, 50.0)})
    sheet = window.detail.sheet
    qtbot.waitUntil(lambda: sheet.drawing is not None and any("corner 3" in h.words for h in sheet.drawing.handles))
    pull(qtbot, window, held(window, "corner 3"), 40.0, 25.0)
    points = detail(window, key).number("points/1").value
    assert isinstance(points, tuple)
    moved = (points[4] - 100.0, points[5] - 50.0)
    assert sorted(map(abs, moved)) == [25.0, 40.0] and points[:4] == (-100.0, -50.0, 100.0, -50.0) and points[6:] == (-100.0, 50.0)
    (plate,) = detail(window, key).plates
    assert len(plate.outline.vertices) == 4
    # past the opposite side it would cross itself: told while it is pulled, and not kept
    pull(qtbot, window, held(window, "corner 3"), -400.0, 0.0)
    assert detail(window, key).number("points/1").value == points


def test_a_piece_is_fitted_to_the_member_in_the_panel(qtbot: QtBot, window: Window) -> None:
    """A piece is added, cut along the face as it comes, then to the member's true outline with a clearance that is typed; studs are added."""
    made = placed(qtbot, window, "loose-plate")
    choose(window, adder(qtbot, window), "piece")
    qtbot.waitUntil(lambda: bool(detail(window, made).pieces))
    assert window.run("change-connections", ids=[made], settings={"section/2": "IPE 160", "length/2": 300.0, "along/2": 400.0})
    qtbot.waitUntil(lambda: "end/2" in window.detail.form.fields)
    whole = detail(window, made).pieces[0]
    assert not whole.cuts.notches
    box = window.detail.form.fields["end/2"]
    assert isinstance(box, QComboBox)
    choose(window, box, "to the member's shape")
    qtbot.waitUntil(lambda: bool(detail(window, made).pieces[0].cuts.notches))
    qtbot.waitUntil(lambda: "clear/2" in window.detail.form.fields)
    fitted = detail(window, made).pieces[0]
    field = window.detail.form.fields["clear/2"]
    assert isinstance(field, QLineEdit)
    field.setFocus()
    field.selectAll()
    qtbot.keyClicks(field, "12")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    qtbot.waitUntil(lambda: detail(window, made).number("clear/2").value == 12)
    assert detail(window, made).pieces[0].volume < fitted.volume
    choose(window, adder(qtbot, window), "studs")
    qtbot.waitUntil(lambda: bool(detail(window, made).fittings))
    assert "stud/3" in window.detail.form.fields and "bolt/3" not in window.detail.form.fields


def test_an_outline_a_countersunk_head_and_points_of_a_weld_are_typed_in_the_panel(qtbot: QtBot, window: Window) -> None:
    made = placed(qtbot, window, "loose-plate")
    for part in ("bolts", "weld"):
        choose(window, adder(qtbot, window), part)
    qtbot.waitUntil(lambda: "line/3" in window.detail.form.fields)

    def type_in(name: str, text: str) -> None:
        field = window.detail.form.fields[name]
        assert isinstance(field, QLineEdit) and field.placeholderText() == "none"
        field.setFocus()
        qtbot.keyClicks(field, text)
        qtbot.keyClick(field, Qt.Key.Key_Return)

    def welded() -> float:
        return float(sum(np.linalg.norm(np.subtract(w.end, w.start)) for w in detail(window, made).welds))

    type_in("points/1", "-100,-60 100,-60 100,60 0,90 -100,60")
    qtbot.waitUntil(lambda: len(detail(window, made).plates[0].outline.vertices) == 5)
    box = window.detail.form.fields["head/2"]
    assert isinstance(box, QComboBox)
    choose(window, box, "countersunk")
    qtbot.waitUntil(lambda: {h.sink for h in detail(window, made).plates[0].holes} == {40.32})
    whole, face = welded(), desk(window).project.connections[made].settings.get("on/1", "top")
    assert window.run("change-connections", ids=[made], settings={"on/3": face, "along/3": 0})
    type_in("line/3", "-60,-60 60,-60")
    qtbot.waitUntil(lambda: round(welded(), 6) == 120.0 < whole)


def pull_model(qtbot: QtBot, window: Window, start: np.ndarray, end: np.ndarray, let_go: bool = True) -> None:
    """Press on a point of the model (mm) and pull to another."""
    a, b = (QPointF(pixel(window, p)) for p in (start, end))
    view = window.view
    qtbot.mousePress(view, Qt.MouseButton.LeftButton, pos=a.toPoint())
    for share in (0.5, 1.0):
        at = a + (b - a) * share
        QApplication.sendEvent(view, QMouseEvent(QEvent.Type.MouseMove, at, view.mapToGlobal(at), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))
    if let_go:
        qtbot.mouseRelease(view, Qt.MouseButton.LeftButton, pos=b.toPoint())


def test_edges_and_parts_are_pulled_in_the_model(qtbot: QtBot, window: Window) -> None:
    key = placed(qtbot, window, "loose-plate", beam(window)[2] - 1.0)
    assert window.run("change-connections", ids=[key], settings={"length/1": 200.0, "width/1": 100.0, "part/1": "plate"})
    entry = desk(window).ledger.entry_of(key)
    frame = entry.joint.frame
    (plate,) = detail(window, key).plates

    def edge() -> "tuple[np.ndarray, np.ndarray]":
        """The middle of the plate's edge along the member, and the way out of it, in the world."""
        (p,) = detail(window, key).plates
        _, y0, x1, y1 = p.outline.bounds
        at = frame.to_world(p.frame.to_world([(x1, (y0 + y1) / 2, p.thickness / 2)]))[0]
        return at, frame.turn(np.array(p.frame.x))

    at, out = edge()
    window.view.look(35.0, 40.0)
    window.view.zoom_to(at, 500)
    far = at - out * 100.0  # the plate's middle
    pull_model(qtbot, window, at, at + out * 60.0, let_go=False)
    assert "edge of plate 1: 60" in window.hint.text() and "length 260" in window.hint.text() and detail(window, key).number("length/1").value == 200
    qtbot.mouseRelease(window.view, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    new, _ = edge()
    # the edge lies where it was pulled to, the other one where it was
    assert detail(window, key).number("length/1").value == 260 and np.allclose(new, at + out * 60.0, atol=0.01)
    window.do("undo")
    assert np.allclose(edge()[0], at, atol=0.01)
    # Esc keeps nothing, and the same connection stays selected; a press beside the handles turns to selecting again
    pull_model(qtbot, window, at, at + out * 40.0, let_go=False)
    qtbot.keyClick(window.view, Qt.Key.Key_Escape)
    qtbot.mouseRelease(window.view, Qt.MouseButton.LeftButton, pos=QPoint(5, 5))
    assert detail(window, key).number("length/1").value == 200 and window.selected_connections() == [key]
    # a click and a typed distance
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=pixel(window, at))
    assert window.view.grips is not None
    field = window.view.grips.holding.distance
    assert not field.isHidden() and field.hasFocus()
    qtbot.keyClicks(field, "-500")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert field.property("bad") and "Length" in window.hint.text() and detail(window, key).number("length/1").value == 200
    field.clear()
    qtbot.keyClicks(field, "12,5")
    assert "too many" in window.hint.text()
    field.clear()
    qtbot.keyClicks(field, "13")
    qtbot.keyClick(field, Qt.Key.Key_Return)
    assert detail(window, key).number("length/1").value == 213 and field.isHidden()
    # the whole plate along the member, and from afar nothing is taken hold of
    middle = frame.to_world(plate.frame.to_world([(0.0, 0.0, plate.thickness / 2)]))[0] + out * 6.5
    pull_model(qtbot, window, middle, middle + out * 45.0)
    moved = float(detail(window, key).number("along/1").value)  # type: ignore[arg-type]
    assert abs(moved - 6.5) in (40.0, 45.0, 50.0) or abs(moved + 6.5) in (40.0, 45.0, 50.0)  # by whole steps; the pointer goes by pixels
    window.view.zoom_to(far, 60000)
    assert window.view.grips.spots() == []


def test_a_weld_runs_between_points_picked_in_the_model(qtbot: QtBot, window: Window) -> None:
    key = placed(qtbot, window, "loose-plate", beam(window)[2] - 1.0)
    assert window.run("change-connections", ids=[key], settings={"length/1": 200.0, "width/1": 60.0, "part/1": "plate"})
    assert window.run("add-part", connection=key, part="weld")
    whole = len(detail(window, key).welds)
    frame = desk(window).ledger.entry_of(key).joint.frame
    (plate,) = detail(window, key).plates
    x0, y0, x1, y1 = plate.outline.bounds
    window.view.look(35.0, 40.0)
    # the two upper corners nearest to the eye of one long edge
    corners = frame.to_world(plate.frame.to_world([(x, y, plate.thickness) for y in (y0, y1) for x in (x0, x1)])).reshape(2, 2, 3)
    near = max(corners, key=lambda pair: float(pair.mean(axis=0) @ window.view.camera.axes[2]))
    window.view.zoom_to(near.mean(axis=0), 300)
    (between,) = [b for b in window.detail.findChildren(QPushButton) if b.accessibleName() == "Points of weld 2"]
    between.click()
    assert "first point" in window.hint.text() and window.view.pointing
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=QPoint(3, 3))
    assert "No edge here" in window.hint.text()
    for corner in near:
        QApplication.sendEvent(window.view, QMouseEvent(QEvent.Type.MouseMove, QPointF(pixel(window, corner)), window.view.mapToGlobal(QPointF(pixel(window, corner))), Qt.MouseButton.NoButton, Qt.MouseButton.NoButton, Qt.KeyboardModifier.NoModifier))
        assert window.view.labels and "corner" in window.view.labels[0][1]
        qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=pixel(window, corner))
    assert "2 points" in window.hint.text()
    qtbot.keyClick(window.view, Qt.Key.Key_Return)
    assert not window.view.pointing
    # one run, along that edge of the plate and as long as it is; the points were picked on its upper side, it is welded at its foot
    (one,) = detail(window, key).welds
    ends = frame.to_world([one.start, one.end])
    down = np.array(frame.turn(np.array(plate.frame.z))) * plate.thickness
    assert whole > 1 and min(np.abs(ends + down - near).max(), np.abs(ends[::-1] + down - near).max()) < 0.2
    window.do("undo")
    assert len(detail(window, key).welds) == whole
    # Backspace drops a point, Esc ends without a change
    between = next(b for b in window.detail.findChildren(QPushButton) if b.accessibleName() == "Points of weld 2")
    between.click()
    qtbot.mouseClick(window.view, Qt.MouseButton.LeftButton, pos=pixel(window, near[0]))
    assert "second point" in window.hint.text()
    qtbot.keyClick(window.view, Qt.Key.Key_Backspace)
    assert "first point" in window.hint.text()
    window.escape()
    assert not window.view.pointing and len(detail(window, key).welds) == whole
