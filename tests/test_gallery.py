"""The gallery of what can be placed: by situation, by words, with typicals, drawn at places of the model; and what is in hand, shown while pointing."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.gallery import ALL, LATELY, SITUATIONS, Gallery, used_lately
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.families.registry import FAMILIES
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.samples import example, open_places, sample
from tincleat.project.entities import Typical

assert window  # the fixture


def gallery(qtbot: QtBot, w: Window) -> Gallery:
    made = Gallery(w)
    qtbot.addWidget(made)
    made.show()
    return made


def names(made: Gallery) -> list[str]:
    return [made.list.item(i).data(Qt.ItemDataRole.UserRole)[0] for i in range(made.list.count())]


def go_to(made: Gallery, situation: str) -> None:
    (item,) = made.situations.findItems(situation, Qt.MatchFlag.MatchExactly)
    made.situations.setCurrentItem(item)


def test_every_family_has_a_situation_and_every_situation_families() -> None:
    assert all(f.situations for f in FAMILIES.values())
    assert {s for f in FAMILIES.values() for s in f.situations} == set(SITUATIONS)
    assert FAMILIES["end-plate"].situations == ("beams", "moment") and FAMILIES["base-plate"].situations == ("feet",)


def test_a_sample_is_the_familys_own_where_most_are_alike_and_none_is_made_up(tmp_path: Path) -> None:
    d = Desk.create(tmp_path / "s.tincleat")
    d.run("add-members", members=[{"section": "HEB 200", "role": "column", "start": [x, 0, 0], "end": [x, 0, 4000]} for x in (0, 5000, 9000)])
    d.run("add-members", members=[{"section": "HEB 300", "role": "column", "start": [0, 6000, 0], "end": [0, 6000, 4000]}])
    made = sample(d.ledger, "base-plate")
    assert made is not None and made.case.members[0].shape.name == "HEB 200" and made.detail.flats  # three of those, one HEB 300
    assert sample(d.ledger, "fin-plate") is None and sample(d.ledger, PLAIN) is None  # no beam is there
    assert sample(d.ledger, "stiffeners") is not None  # pointed at on any member
    assert open_places(d.ledger)["base-plate"] == 4 and open_places(d.ledger)["fin-plate"] == 0
    d.run("place-connection", family="base-plate", at=["m1.start"], settings={"plate_thickness": 40.0})
    d.run("save-typical", connection=next(iter(d.project.connections)), name="thick")
    (typical,) = d.project.typicals.values()
    of_typical = sample(d.ledger, "base-plate", typical)
    assert of_typical is not None and of_typical.detail.flats[0].thickness == 40.0 and open_places(d.ledger)["base-plate"] == 3


def test_situations_words_and_the_keyboard(qtbot: QtBot, window: Window) -> None:
    made = gallery(qtbot, window)
    assert sorted(names(made)) == sorted(FAMILIES) and made.situations.currentItem().text() == ALL
    under = [made.list.item(i).text().rpartition("\n")[2] for i in range(made.list.count())]
    assert "none open" in under and set(under[under.index("none open") :]) == {"none open"}  # what nothing here needs comes last
    go_to(made, "Feet")
    assert set(names(made)) == {"base-plate", "slab-head", "slab-side", "cap-and-base"}
    go_to(made, ALL)
    QTest.keyClicks(made.line, "shear tab")
    assert names(made) == ["fin-plate"] and "beam to beam web" in made.told.text()
    made.line.setText("beam")
    several = names(made)
    assert len(several) > 3
    QTest.keyClick(made.line, Qt.Key.Key_Down)
    QTest.keyClick(made.line, Qt.Key.Key_Return)
    assert made.isHidden() and window.placing.family in several and window.placing.family != several[0]
    made = gallery(qtbot, window)
    go_to(made, LATELY)
    assert names(made) == used_lately(window) == [window.placing.family]
    made.line.setText("no such thing")
    assert not made.list.count() and not made.go.isEnabled() and "Nothing is called so" in made.told.text()
    window.escape()
    assert not window.placing.family


def test_each_that_suits_a_place_of_the_model_is_drawn(qtbot: QtBot, window: Window) -> None:
    made = gallery(qtbot, window)
    qtbot.waitUntil(lambda: made.done_drawing, timeout=20000)
    drawn = 0
    for i in range(made.list.count()):
        image = made.list.item(i).icon().pixmap(112, 92).toImage()
        drawn += len({image.pixel(x, y) for x in range(0, image.width(), 2) for y in range(0, image.height(), 2)}) > 2
    assert drawn == len(FAMILIES)  # those without a place say so in words
    whys = {n for (n, _), why in made._whys.items() if "it suits none" in why}
    assert "base-plate" not in whys and whys == {n for n in FAMILIES if n != PLAIN and sample(desk(window).ledger, n) is None}


def test_every_family_has_an_example_that_is_clear() -> None:
    for name in FAMILIES:
        made = example(name)
        assert (made is None) == (name == PLAIN), name
        assert made is None or (made.detail.views and not [f for f in made.findings if f.level == "breach"]), name


def test_without_members_each_is_drawn_at_those_of_its_example(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    window.set_desk(Desk.create(tmp_path / "empty.tincleat"))
    made = gallery(qtbot, window)
    qtbot.waitUntil(lambda: made.done_drawing, timeout=20000)
    assert {n for n, _ in made._whys} == set(FAMILIES) - {PLAIN}
    assert set(made._whys.values()) == {"there are no members yet, so it is drawn at an example's members, under standard house rules"}
    made.line.setText("stitch bolt")
    assert names(made) == ["stitch"] and "an example's members" in made.told.text()
    image = made.list.item(0).icon().pixmap(112, 92).toImage()
    accent = QColor(window.theme.accent)
    assert any(image.pixelColor(x, y).hue() in range(accent.hue() - 8, accent.hue() + 9) and image.pixelColor(x, y).saturation() > 60 for x in range(image.width()) for y in range(image.height()))  # the pack itself, which the first view hides


def test_a_typical_that_suits_nothing_here_is_drawn_at_its_familys_example() -> None:
    thick = example("fin-plate", Typical("t1", "Office fin", "fin-plate", {"plate_thickness": 15.0}))
    assert thick is not None and thick.detail.plates[0].thickness == 15.0
    assert example("stitch", Typical("t2", "Too thick", "stitch", {"thickness": 20.0})) is None  # the backs are 10 mm apart


def test_typicals_stand_after_their_family_and_go_into_the_hand(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    c = next(c for c in d.project.connections.values() if c.family == "fin-plate")
    window.run("save-typical", connection=c.id, name="Office fin", what="all")
    made = gallery(qtbot, window)
    at = names(made).index("fin-plate") + 1
    assert made.list.item(at).text().startswith("Office fin\n")
    made.line.setText("office fin")
    assert made.list.count() == 1
    made.take()
    (typical,) = d.project.typicals.values()
    assert (window.placing.family, window.placing.typical) == ("fin-plate", typical.id)


def test_pointing_shows_what_would_be_made_and_esc_brings_the_panel_back(qtbot: QtBot, window: Window) -> None:
    key = next(k for k, e in desk(window).ledger.entries.items() if e.joint.kind == "beam to beam web" and not e.settled)
    window.do("place-as-last")  # as it comes, whatever is typed elsewhere
    window.placing.start("fin-plate")
    window.placing.hovered(key)
    texts = [x.text() for x in window.card.findChildren(QLabel)]
    assert "Fin plate, not placed yet" in texts and any("M20" in t for t in texts) and "clear" in texts
    pictures = [x for x in window.card.findChildren(QLabel) if x.accessibleName().startswith("Picture of Fin plate")]
    assert len(pictures) == 2
    window.placing.place_at(key)
    assert desk(window).ledger.entries[key].connection is not None and window.placing.family == "fin-plate"  # it stays in hand
    window.escape()
    qtbot.waitUntil(lambda: "Fin plate, not placed yet" not in [x.text() for x in window.card.findChildren(QLabel) if x.isVisible()])


def test_pointing_takes_over_what_was_typed_last(window: Window) -> None:
    d = desk(window)
    joined = next(e for e in d.ledger.entries.values() if e.joint.kind == "beam to column web" and e.connection is not None and e.connection.family == "fin-plate")
    assert joined.connection is not None
    window.run("delete-connections", ids=[e.connection.id for e in d.ledger.entries.values() if e.joint.kind == "beam to beam web" and e.connection is not None])
    keys = [k for k, e in d.ledger.entries.items() if e.joint.kind == "beam to beam web" and not d.ledger.refusal(e.joint, "fin-plate", {})][:4]
    window.run("change-connections", ids=[joined.connection.id], settings={"plate_thickness": 15.0})  # of another kind of joint: it says nothing here
    window.placing.start("fin-plate")
    window.placing.hovered(keys[0])
    assert "is typed" not in window.hint.text()
    window.placing.place_at(keys[0])
    first = d.ledger.entries[keys[0]].connection
    assert first is not None and not first.settings
    window.run("change-connections", ids=[first.id], settings={"plate_thickness": 12.0, "edge_distance": 50.0})
    window.placing.hovered(keys[1])
    assert f"as {first.id} is typed, L for as it comes" in window.hint.text()
    window.placing.place_at(keys[1])
    assert d.ledger.entries[keys[1]].connection.settings == {"plate_thickness": 12.0, "edge_distance": 50.0}  # type: ignore[union-attr]
    both = [first.id, d.ledger.entries[keys[1]].connection.id]  # type: ignore[union-attr]
    window.run("change-connections", ids=both, settings={"edge_distance": 16.0})  # what would be a breach is not taken over
    window.placing.hovered(keys[2])
    assert "is typed" not in window.hint.text()
    window.run("change-connections", ids=both, settings={"edge_distance": 50.0})
    window.do("place-as-last")
    window.placing.hovered(keys[2])
    assert "is typed" not in window.hint.text()
    window.placing.place_at(keys[2])
    assert not d.ledger.entries[keys[2]].connection.settings  # type: ignore[union-attr]
