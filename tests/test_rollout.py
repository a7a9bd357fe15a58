"""Rolling out: kin, mirror images and similar joints, their differences in words, and one step that joins those chosen."""

from pathlib import Path
from typing import Any

import pytest
from PySide6.QtCore import Qt
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.rollout import RollOutDialog
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.ledger.entries import Entry
from tincleat.ledger.rollout import ALIKE, MIRRORED, Row, rows

assert window  # the fixture


def column(x: float, roll: float = 0.0) -> dict[str, Any]:
    return {"section": "HEB 300", "role": "column", "start": [x, 0, 0], "end": [x, 0, 9000], "roll_deg": roll}


def beam(section: str, x: float, height: float, y: float = 0.0, dy: float = 0.0) -> dict[str, Any]:
    return {"section": section, "role": "beam", "start": [x + 4000, y + dy, height], "end": [x, y, height]}


def frame(path: Path, *members: dict[str, Any]) -> tuple[Desk, Entry]:
    desk_ = Desk.create(path / "r.tincleat")
    desk_.run("add-members", members=[column(0), beam("IPE 300", 0, 3000, dy=500), *members])
    desk_.run("place-connection", family="fin-plate", at=["m2.end"], settings={"plate_thickness": 12.0})
    return desk_, desk_.ledger.entry_of(next(iter(desk_.project.connections)))


def told(desk_: Desk, entry: Entry) -> dict[str, Row]:
    return {r.difference: r for r in rows(desk_.ledger, entry)}


def test_kin_its_mirror_image_and_similar_ones_in_their_order(tmp_path: Path) -> None:
    desk_, entry = frame(tmp_path, beam("IPE 300", 0, 5000, dy=500), beam("IPE 300", 0, 6000, dy=-500), beam("IPE 360", 0, 7000, dy=500))
    some = list(rows(desk_.ledger, entry))
    assert [r.difference for r in some] == [ALIKE, MIRRORED, "the beam IPE 360"] and [r.same for r in some] == [True, True, False]
    assert all(r.made is not None and not r.breaches and len(r.joints) == 1 for r in some)
    # what is typed goes along, what is worked out follows the beam
    assert some[2].made is not None and some[2].made.detail.number("plate_thickness").value == 12.0
    assert some[0].made is entry.made and some[1].made is not entry.made


@pytest.mark.parametrize(
    ("other", "words"),
    [
        ((column(8000), beam("IPE 300", 8000, 3000)), "its support turned 7°"),  # atan(500 / 4000) = 7.1°, and the joint's frame follows the beam
        ((column(8000), beam("IPE 300", 8000, 3000, y=40.0, dy=500)), "its support 39.7 mm to the "),  # 40 cos(7.13°) = 39.69
        (({**column(8000), "section": "HEB 260"}, beam("IPE 300", 8000, 3000, dy=500)), "its support HEB 260"),
    ],
)
def test_differences_in_words(tmp_path: Path, other: "tuple[dict[str, Any], ...]", words: str) -> None:
    desk_, entry = frame(tmp_path, *other)
    (row,) = rows(desk_.ledger, entry)
    assert words in row.difference and not row.same


def test_one_step_joins_all_chosen_and_undo_takes_it_back(tmp_path: Path) -> None:
    desk_, entry = frame(tmp_path, beam("IPE 300", 0, 5000, dy=500), beam("IPE 300", 0, 6000, dy=-500), beam("IPE 360", 0, 7000, dy=500))
    assert entry.connection is not None
    keys = [j.key for r in rows(desk_.ledger, entry) for j in r.joints]
    title = desk_.run("roll-out", connection=entry.connection.id, at=keys)
    assert "to 3 joints" in str(title)
    made = [desk_.ledger.entries[k] for k in keys]
    assert all(e.connection is not None and e.connection.settings == {"plate_thickness": 12.0} for e in made)
    # the mirror image's plate lies on the other side, as the beam comes from there
    assert made[0].made is entry.made and made[1].joint.case is entry.joint.case and made[1].joint.mirrored != entry.joint.mirrored
    desk_.undo()
    assert not any(desk_.ledger.entries[k].connection for k in keys)
    with pytest.raises(TinCleatError, match="fin-plate is there already"):
        desk_.run("roll-out", connection=entry.connection.id, at=["m2.end"])
    with pytest.raises(TinCleatError, match="no member end is given"):
        desk_.run("roll-out", connection=entry.connection.id, at=[])


def test_one_that_does_not_suit_is_refused_and_nothing_is_kept(tmp_path: Path) -> None:
    desk_, entry = frame(tmp_path, beam("IPE 300", 0, 5000, dy=500), beam("SHS 100x100x5", 0, 7000, dy=500))
    some = list(rows(desk_.ledger, entry))
    assert some[1].made is None and "SHS 100x100x5" in some[1].why
    before = dict(desk_.project.connections)
    assert entry.connection is not None
    with pytest.raises(TinCleatError, match="SHS 100x100x5"):
        desk_.run("roll-out", connection=entry.connection.id, at=[j.key for r in some for j in r.joints])
    assert desk_.project.connections == before


def test_a_typical_goes_along(tmp_path: Path) -> None:
    desk_, entry = frame(tmp_path, beam("IPE 300", 0, 5000, dy=500))
    assert entry.connection is not None
    desk_.run("save-typical", connection=entry.connection.id, name="t")
    entry = desk_.ledger.entry_of(entry.connection.id)
    (row,) = rows(desk_.ledger, entry)
    desk_.run("roll-out", connection=entry.connection.id, at=[row.joints[0].key])  # type: ignore[union-attr]
    assert len({c.typical for c in desk_.project.connections.values()}) == 1 and all(not c.settings for c in desk_.project.connections.values())


def test_the_window_ticks_what_is_alike_and_rolls_out(qtbot: QtBot, window: Window) -> None:
    d = desk(window)
    key = next(k for k, e in d.ledger.entries.items() if e.joint.kind == "beam to beam web" and not e.settled and len(d.ledger.like(e.joint)) > 3)
    assert not window.actions_["roll-out"].enabled()
    window.run("place-connection", family="fin-plate", at=[key])
    window.select([key], [], True)
    assert window.actions_["roll-out"].enabled()
    dialog = RollOutDialog(window, key)
    qtbot.addWidget(dialog)
    dialog.show()
    qtbot.waitUntil(lambda: dialog.done_looking, timeout=20000)
    ticked = dialog.ticked()
    assert ticked and all(r.same and not r.breaches for r in ticked) and len(dialog.rows) > len(ticked)
    count = sum(len(r.joints) for r in ticked)
    assert dialog.go.text() == f"Roll out to {count}"
    window.view.show_overlay([])
    dialog.table.selectRow(0)
    assert window.view._overlay_on  # its ghost is seen in the model
    dialog._tick(False)
    assert not dialog.go.isEnabled()
    first = dialog.table.item(0, 0)
    assert first is not None
    first.setCheckState(Qt.CheckState.Checked)
    chosen = [j.key for j in dialog.rows[0].joints]
    dialog.go.click()
    assert all(d.ledger.entries[k].connection.family == "fin-plate" for k in chosen) and not dialog.isVisible()  # type: ignore[union-attr]
    assert window.selected == [key]
    window.undo()
    assert not any(d.ledger.entries[k].connection for k in chosen)
