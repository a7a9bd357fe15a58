"""Where a number comes from: every origin by hand, and the ways from a number on the sheet to what says it."""

from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtGui import QContextMenuEvent
from PySide6.QtWidgets import QApplication, QMenu
from pytestqt.qtbot import QtBot
from test_window import desk, key_of, window

from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.families.registry import FAMILIES
from tincleat.ledger.layers import layer

assert window  # the fixture


def test_every_origin_by_hand(tmp_path: Path) -> None:
    made = Desk.create(tmp_path / "l.tincleat")
    made.run("add-members", members=[{"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 9000]}, *({"section": "IPE 300", "role": "beam", "start": [4000, 0, z], "end": [0, 0, z]} for z in (3000, 5000))])
    made.run("place-connection", family="fin-plate", at=["m2.end"], settings={"edge_distance": 45.0})
    made.run("save-typical", connection=made.ledger.entries["m2.end"].connection.id, name="heavy", settings=["edge_distance"])  # type: ignore[union-attr]
    made.run("place-connection", family="fin-plate", at=["m3.end"], typical="heavy")
    first, second = made.ledger.entries["m2.end"], made.ledger.entries["m3.end"]
    typical = next(iter(made.project.typicals))
    assert layer(made.project, second, "edge_distance").words == "from the typical heavy" and layer(made.project, second, "edge_distance").typical == typical
    assert layer(made.project, first, "bolt").words == "the house rule bolts" and layer(made.project, first, "bolt").rule == "bolt"
    assert layer(made.project, first, "plate_grade").rule == "plate_grade"
    height = layer(made.project, first, "plate_height")
    assert (height.words.startswith("rounded from ") and height.words.endswith("plate length up to steps of 5 mm") and height.rule == "rounding/plate length") or height.words == "worked out from the members"
    made.run("set-house-rules", values={"rounding/fin plate length": "47 up"})
    own = layer(made.project, made.ledger.entries["m2.end"], "plate_height")
    assert own.rule == "rounding/fin plate length" and "by the house rule fin plate length up to steps of 47 mm" in own.words
    assert layer(made.project, first, "plate_thickness").words == "the program's standard"
    made.run("change-connections", ids=[second.connection.id], settings={"pitch": [60.0]})  # type: ignore[union-attr]
    assert layer(made.project, made.ledger.entries["m3.end"], "pitch").words == "typed here"
    made.close()


def test_every_number_of_the_joined_demo_says_its_layer(tmp_path: Path) -> None:
    from tincleat.demo.registry import make_demo

    made = make_demo("boathouse-joined", tmp_path / "j.tincleat")
    seen = set()
    for entry in made.ledger.entries.values():
        if entry.made is None or entry.connection is None or id(entry.made) in seen:
            continue
        seen.add(id(entry.made))
        for n in entry.made.detail.numbers:
            found = layer(made.project, entry, n.name)
            assert found.words and (found.words == "typed here") == (n.name in entry.connection.settings and n.origin != "adapted"), (entry.connection.family, n)
            FAMILIES[entry.connection.family].setting(n.name)
    made.close()


def test_from_a_number_to_what_says_it(qtbot: QtBot, window: Window) -> None:
    w, key = window, key_of(window, "C2A.start")
    w.select([key], [], True)
    sheet = w.detail.sheet
    qtbot.waitUntil(lambda: sheet.drawing is not None)
    assert sheet.drawing is not None
    dim = next(d for d in sheet.drawing.dimensions if d.setting and d.view and "rounded" in w.detail.menu_of(d).actions()[0].text())
    menu = w.detail.menu_of(dim)
    texts = [a.text() for a in menu.actions()]
    assert "by the house rule base plate up to steps of 10 mm" in texts[0] and texts[1] == "Change it here…" and texts[-1] == "Go to the house rule base plate"
    menu.actions()[-1].trigger()
    assert w.at_house and w.house.rows["rounding/base plate"].editor.hasFocus()
    w.escape()
    assert not w.at_house
    spot = sheet._box(dim).center().toPoint()
    QApplication.sendEvent(sheet, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, spot, sheet.mapToGlobal(spot)))
    shown = next(m for m in w.detail.findChildren(QMenu) if m.isVisible())
    assert shown.actions()[0].text() == texts[0]
    shown.close()
    before = desk(w).ledger.entries[key].connection
    assert before is not None
    w.detail.menu_of(dim).actions()[1].trigger()
    assert sheet.editing == dim.setting  # changed in its place
    sheet.finish()
    QApplication.sendEvent(sheet, QContextMenuEvent(QContextMenuEvent.Reason.Mouse, QPoint(1, 1), sheet.mapToGlobal(QPoint(1, 1))))
    assert not any(m.isVisible() for m in w.detail.findChildren(QMenu))  # beside every number nothing is asked
