"""Offers at an open joint: what suits, with figures worked out by hand, in their order; and the panel that shows them."""

import math
from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot
from test_window import desk, key_of, window

from tincleat.app.offers import Offers, figures_in_words
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.ledger.entries import PLAIN
from tincleat.ledger.offers import Offer, offers

assert window  # the fixture


def at_flange(path: Path) -> tuple[Desk, Any]:
    desk_ = Desk.create(path / "o.tincleat")
    desk_.run("add-members", members=[{"section": "HEB 300", "role": "column", "start": [0, 0, 0], "end": [0, 0, 9000]}, *({"section": "IPE 300", "role": "beam", "start": [4000, 0, z], "end": [0, 0, z]} for z in (3000, 5000))])
    return desk_, desk_.ledger.joint_of("m2", "end")


def found(desk_: Desk, joint: Any) -> dict[str, Offer]:
    return {o.words: o for o in offers(desk_.ledger, joint)}


def test_every_family_of_the_kind_is_offered_or_says_why_not(tmp_path: Path) -> None:
    desk_, joint = at_flange(tmp_path)
    some = found(desk_, joint)
    assert {"Fin plate", "End plate", "Angle cleats", "Timber seat", "Left plain"} <= set(some)
    assert some["Timber seat"].made is None and "is steel" in some["Timber seat"].why
    for o in some.values():
        assert (o.made is None) != (not o.why) and (o.made is None or o.made is desk_.ledger.make(joint, o.family, {}))


def test_the_figures_of_a_fin_plate_by_hand(tmp_path: Path) -> None:
    """Its plate's face times 10 thick times 7.85 kg/dm³; as long two fillets as it is high, of leg z: z²/2 each; its bolts are put in on site."""
    desk_, joint = at_flange(tmp_path)
    o = found(desk_, joint)["Fin plate"]
    assert o.made is not None
    (plate,) = o.made.detail.plates
    x0, y0, x1, y1 = plate.outline.bounds
    leg = o.made.detail.number("weld_leg").value
    holes = len(plate.holes) * math.pi / 4 * plate.holes[0].width ** 2
    assert o.figures.mass == pytest.approx(((x1 - x0) * (y1 - y0) - holes) * 10 * 7.85e-6)
    assert o.figures.weld_length == pytest.approx(2 * (y1 - y0)) and o.figures.weld_mass == pytest.approx(2 * (y1 - y0) * leg**2 / 2 * 7.85e-6)  # type: ignore[operator]
    assert o.figures.bolts == (("M20", len(plate.holes)),) and o.figures.site_bolts == len(plate.holes) and o.figures.site_weld == 0
    assert figures_in_words(o, "mm") == f"{len(plate.holes)} × M20 · {o.figures.mass:.1f} kg · {2 * (y1 - y0):.0f} mm of weld; on site {len(plate.holes)} bolts"
    assert " lb " in figures_in_words(o, "ft-in")


def test_what_was_typed_last_at_such_a_joint_is_offered_again(tmp_path: Path) -> None:
    """Of two fin plates the later one's edge distance; at another kind of joint nobody typed anything, and what is typed but changes nothing is no other offer."""
    desk_, joint = at_flange(tmp_path)
    desk_.run("add-members", members=[{"section": "IPE 300", "role": "beam", "start": [4000, 0, 7000], "end": [0, 0, 7000]}, {"section": "IPE 300", "role": "beam", "start": [0, 4000, 5000], "end": [0, 0, 5000]}])
    desk_.run("place-connection", family="fin-plate", at=["m3.end"], settings={"edge_distance": 55.0})
    desk_.run("place-connection", family="fin-plate", at=["m4.end"], settings={"edge_distance": 45.0})
    some = list(offers(desk_.ledger, joint))
    last = next(o for o in some if o.words == "Fin plate, as last")
    assert last.settings == {"edge_distance": 45.0} and last.typed_words("mm").endswith(" 45") and last.made is desk_.ledger.make(joint, "fin-plate", {"edge_distance": 45.0})
    ranked = [o.words for o in sorted((o for o in some if o.made is not None), key=lambda o: o.rank)]
    assert ranked[:2] == ["Fin plate, as last", "Fin plate"]  # the office's habit, as it was typed before as it comes
    assert not any(o.last for o in offers(desk_.ledger, desk_.ledger.joint_of("m5", "end")))  # on the web
    default = desk_.ledger.make(joint, "fin-plate", {}).detail.number("edge_distance").value
    desk_.run("change-connections", ids=[desk_.ledger.entries["m4.end"].connection.id], settings={"edge_distance": default})  # type: ignore[union-attr]
    assert not any(o.last for o in offers(desk_.ledger, joint))
    before = set(desk_.project.members)
    desk_.run("add-members", members=[{"section": "IPE 160", "role": "beam", "start": [4000, 0, 2000], "end": [0, 0, 2000]}])
    desk_.run("place-connection", family="fin-plate", at=[f"{(set(desk_.project.members) - before).pop()}.end"], settings={"plate_height": 110.0})
    refused = next(o for o in offers(desk_.ledger, joint) if o.last)  # too low for this beam's rows: said, not left out
    assert refused.made is None and refused.words == "Fin plate, as last" and refused.why == desk_.ledger.refusal(joint, "fin-plate", {"plate_height": 110.0}) != ""


def test_typicals_stand_beside_their_family_and_habit_goes_first(tmp_path: Path) -> None:
    desk_, joint = at_flange(tmp_path)
    desk_.run("place-connection", family="end-plate", at=["m3.end"], settings={"thickness": 25.0})
    desk_.run("save-typical", connection=next(iter(desk_.project.connections)), name="stiff")
    some = list(offers(desk_.ledger, joint))
    assert [o.words for o in some][:2] == ["End plate", "End plate: stiff"] and some[0].used == 1 and some[-1].family == PLAIN
    assert some[1].made is not None and some[1].made.detail.number("thickness").value == 25.0
    clear = [o for o in some if o.made is not None and not o.breaches]
    assert sorted(clear, key=lambda o: o.rank)[0].family == "end-plate" and sorted(some, key=lambda o: o.rank)[-1].family == PLAIN


def panel(qtbot: QtBot, window: Window, key: str) -> Offers:
    window.select([key], [], True)
    (made,) = (o for o in window.card.findChildren(Offers) if o.entry.joint.key == key)
    assert made.cards or not made.done  # the first is there at once
    qtbot.waitUntil(lambda: made.done, timeout=20000)
    return made


def test_the_panel_offers_clear_ones_first_and_folds_the_rest(qtbot: QtBot, window: Window) -> None:
    key = next(k for k, e in desk(window).ledger.entries.items() if e.joint.kind == "beam to column flange" and not e.settled)
    made = panel(qtbot, window, key)
    ranks = [c.offer.rank for c in made.cards]
    qtbot.waitUntil(lambda: made.cards[-1].y() > made.cards[0].y())
    assert len(ranks) > 4 and ranks == sorted(ranks) and made.cards[-1].offer.family == PLAIN
    assert [c.y() for c in made.cards] == sorted(c.y() for c in made.cards) and made.cards[0].here.objectName() == "go"
    assert not made.waiting.isVisible() and "not suit it" in made.fold.text() and not made.refused.isVisible()
    made.fold.click()
    assert made.refused.isVisible() and "is steel" in made.refused.text()
    pictures = [w for c in made.cards for w in c.findChildren(QLabel) if w.accessibleName().startswith("Picture of")]
    assert len(pictures) == len(made.cards) - 1
    for one in pictures:  # something is drawn on each
        image = one.pixmap().toImage()
        assert len({image.pixel(x, y) for x in range(0, image.width(), 3) for y in range(0, image.height(), 3)}) > 3


def test_the_keyboard_goes_through_the_offers_shows_each_and_places(qtbot: QtBot, window: Window) -> None:
    key = next(k for k, e in desk(window).ledger.entries.items() if e.joint.kind == "beam to column flange" and not e.settled)
    made = panel(qtbot, window, key)
    shown: list[object] = []
    made._show = shown.append
    for card in made.cards:
        card._show = shown.append
    window.activateWindow()
    made.cards[0].here.setFocus()
    QTest.keyClick(made.cards[0].here, Qt.Key.Key_Down)
    qtbot.waitUntil(lambda: made.cards[1].here.hasFocus() or bool(shown))
    assert not shown or shown[-1] in (made.cards[1].offer.made, made.cards[0].offer.made, None)
    QTest.keyClick(made.cards[1].here, Qt.Key.Key_Space)
    qtbot.waitUntil(lambda: desk(window).ledger.entries[key].connection is not None)
    assert desk(window).ledger.entries[key].connection.family == made.cards[1].offer.family  # type: ignore[union-attr]


def test_a_ghost_shows_while_the_pointer_is_on_an_offer(qtbot: QtBot, window: Window) -> None:
    key = key_of(window, "J51.start")
    made = panel(qtbot, window, key)
    window.view.show_overlay([])
    made.cards[0].enterEvent(None)  # type: ignore[arg-type]
    assert window.view._overlay_on
    other = next(k for k, e in desk(window).ledger.entries.items() if not e.settled and k != key)
    window.select([other], [])
    made.cards[0].enterEvent(None)  # type: ignore[arg-type]  # what is left of the old panel has no say any more
    assert window.selected == [other]


def test_all_alike_by_a_typical(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    key = next(k for k, e in d.ledger.entries.items() if e.joint.kind == "beam to column flange" and not e.settled and len(d.ledger.like(e.joint)) > 2)
    d.run("place-connection", family="fin-plate", at=[key], settings={"plate_thickness": 12.0})
    c = d.ledger.entries[key].connection
    assert c is not None
    d.run("save-typical", connection=c.id, name="ends")
    rest = [j.key for j in d.ledger.like(d.ledger.entries[key].joint) if not d.ledger.entries[j.key].settled]
    made = panel(qtbot, window, rest[0])
    card = next(x for x in made.cards if x.offer.typical is not None)
    assert card.offer.words == "Fin plate: ends" and "ends" in card.here.text()
    card.buttons[-1].click()
    assert all(d.ledger.entries[k].connection.typical == card.offer.typical.id for k in rest)  # type: ignore[union-attr]


def test_several_selected_joints_of_different_kinds_at_once(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    open_ = [e for e in d.ledger.entries.values() if not e.settled]
    webs = [e.joint.key for e in open_ if e.joint.kind == "beam to beam web"]
    knee = next(e.joint.key for e in open_ if e.joint.kind == "knee")
    foot = next(e.joint.key for e in open_ if e.joint.kind == "column foot")
    assert len({id(d.ledger.entries[k].joint.case) for k in webs}) > 1
    window.select([*webs, foot, knee], [])
    (panel,) = window.card.findChildren(Offers)
    qtbot.waitUntil(lambda: panel.done, timeout=20000)
    card = next(c for c in panel.cards if c.offer.words == "Fin plate")
    some = next(b for b in card.buttons if b.text() == "At the selected it suits")
    before = len(d.project.connections)
    some.click()
    placed = [k for k in [*webs, foot, knee] if d.ledger.entries[k].connection is not None]
    assert set(placed) <= {*webs, knee} and len(placed) == len(d.project.connections) - before > 1
    assert f"at {len(placed)} of {len(webs) + 2} selected; " in window.hint.text() and ": " in window.hint.text().partition(" left, first ")[2]
    window.undo()
    assert len(d.project.connections) == before
    alike = [j.key for j in d.ledger.like(d.ledger.entries[webs[0]].joint)]
    window.select(alike, [])  # all alike: the button for all alike says that already
    (panel,) = window.card.findChildren(Offers)
    qtbot.waitUntil(lambda: panel.done, timeout=20000)
    assert not any(b.text() == "At the selected it suits" for c in panel.cards for b in c.buttons)
