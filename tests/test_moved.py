"""What a setting moves on the sheet: its own lines and no others, for every family, and in the window while its field is pointed at."""

import math
from typing import Any

import numpy as np
import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from test_families import HOUSE, foot
from test_settings import ALL, BESIDE, FROM, case_for
from test_window import desk, window

from tincleat.app.window import Window
from tincleat.errors import TinCleatError
from tincleat.families.declare import Setting
from tincleat.families.registry import family
from tincleat.joints.case import Case
from tincleat.ledger.made import Made, Workshop
from tincleat.project.entities import inch_house
from tincleat.release.moved import Moved, anything, moved, other_values
from tincleat.release.sheet import pictures

assert window  # the fixture
SHOP = Workshop()
# what lies outside every view, or is data: forces; a setting that is refused at any other value where it is tried
UNSEEN = {("cover-plates", "zone"), ("cap-and-base", "edge"), ("slab-side", "top"), ("web-opening", "row"), ("turnbuckle", "grade"), ("rod-through", "grade")}


def made(name: str, case: Case, typed: dict[str, Any]) -> Made:
    return SHOP.make(name, case, False, family(name).checked(typed, HOUSE), HOUSE)


def moves(name: str, case: Case, before: dict[str, Any], after: dict[str, Any]) -> dict[Any, Moved]:
    return moved(*(pictures(made(name, case, typed).assembled) for typed in (before, after)))


@pytest.mark.parametrize(("name", "setting"), ALL[::8], ids=[f"{n}-{s.name}" for n, s in ALL[::8]])
def test_every_setting_shows_where_it_belongs(name: str, setting: Setting) -> None:
    if setting.kind in ("force", "section", "schedule", "points", "alterations") or (name, setting.name) in UNSEEN:
        return
    case = case_for(name, setting.name)
    start = BESIDE.get(f"{name} {setting.name}", BESIDE.get(setting.name, {})) | FROM.get(f"{name} {setting.name}", {})
    first = made(name, case, start)
    now = next((n.value for n in first.detail.numbers if n.name == setting.name), None)
    for value in other_values(setting, now, HOUSE):
        assert value != now
        try:
            found = moves(name, case, start, {**start, setting.name: value})
        except TinCleatError:
            continue
        if anything(found):
            return
    raise AssertionError("no other value shows anything")


def test_a_base_plates_thickness_moves_its_top_and_what_stands_on_it() -> None:
    """The column is cut by its foot's own rule: of a plate 20 mm thick on 30 mm of grout the top lies at 50 with its underside at 30."""
    same = {"plate_length": 600.0, "plate_width": 400.0, "anchors_x": (450.0,), "anchors_y": (250.0,), "flange_weld": 8.0, "web_weld": 5.0}
    found = moves("base-plate", foot(), {**same, "plate_thickness": 20.0}, {**same, "plate_thickness": 30.0})
    level = [abs(rows[:, 1] - rows[:, 3]) < 1e-6 for rows in (found["front"].gone, found["front"].come)]
    long = [abs(rows[:, 0] - rows[:, 2]) > 599.0 for rows in (found["front"].gone, found["front"].come)]
    (old,) = {round(float(y), 3) for y in found["front"].gone[level[0] & long[0]][:, 1]}
    (new,) = {round(float(y), 3) for y in found["front"].come[level[1] & long[1]][:, 1]}
    assert abs(abs(new - old) - 10.0) < 0.01  # one long edge, 10 mm on: the other is where it was
    assert not len(found["plan"].gone)  # from above nothing is elsewhere


def test_a_weld_leg_marks_the_runs_that_have_it() -> None:
    same = {"plate_length": 600.0, "plate_width": 400.0, "anchors_x": (450.0,), "anchors_y": (250.0,), "web_weld": 5.0}
    before = made("base-plate", foot(), {**same, "flange_weld": 8.0})
    found = moves("base-plate", foot(), {**same, "flange_weld": 8.0}, {**same, "flange_weld": 10.0})
    runs = [w for w in before.detail.welds if math.isclose(w.leg, 8.0)]
    total = sum(float(np.hypot(*(np.array(w.end) - w.start)[:2])) for w in runs)
    assert runs and len(runs) < len(before.detail.welds)
    assert float(np.hypot(*(found["plan"].gone[:, 2:] - found["plan"].gone[:, :2]).T).sum()) == pytest.approx(total, abs=1.0)


def test_a_grade_marks_its_plates() -> None:
    found = moves("base-plate", foot(), {"plate_length": 600.0, "plate_width": 400.0}, {"plate_length": 600.0, "plate_width": 400.0, "plate_grade": "S355"})
    x0, y0, x1, y1 = (float(f(found["plan"].gone[:, k::2])) for f, k in ((np.min, 0), (np.min, 1), (np.max, 0), (np.max, 1)))
    assert sorted((x1 - x0, y1 - y0)) == pytest.approx([400.0, 600.0]) and not len(found["plan"].come)


def test_nothing_differs_from_itself() -> None:
    assert not anything(moves("base-plate", foot(), {}, {}))


@pytest.mark.parametrize(
    ("kind", "value", "tried"),
    [("length", 45.0, [55.0, 35.0]), ("length", 250.0, [275.0, 225.0]), ("count", 2, [3, 1]), ("flag", True, [False]), ("spacings", (60.0, 150.0), [(70.0, 165.0), (50.0, 135.0), (70.0,)]),
     ("spacings", (), [(70.0,)]), ("numbers", (), [(1,)]), ("choice", "b", ["c", "a"]), ("force", 5.0, [])],
)  # fmt: skip
def test_values_that_are_tried(kind: Any, value: Any, tried: list[Any]) -> None:
    assert list(other_values(Setting("x", "X", kind, "G", None, "H.", 0.0, 1000.0, ("a", "b", "c")), value, HOUSE)) == tried


def test_in_an_inch_house_what_is_tried_lies_on_sixteenths() -> None:
    s = Setting("washer_side", "W", "length", "G", None, "H.", 10.0, 300.0)
    assert list(other_values(s, 76.2, inch_house(""))) == pytest.approx([88.9, 63.5])  # 3 in: 3 1/2 and 2 1/2
    assert list(other_values(s, 254.0, inch_house(""))) == pytest.approx([279.4, 228.6])  # 10 in: a tenth is an inch
    assert next(other_values(Setting("weld_leg", "W", "length", "G", None, "H.", 2.0, 40.0), 6.35, inch_house(""))) == pytest.approx(7.9375)


def test_a_thickness_is_tried_with_stocked_plates_first() -> None:
    s = Setting("plate_thickness", "T", "length", "G", None, "H.", 3.0, 100.0)
    assert list(other_values(s, 12.0, HOUSE))[:2] == [15.0, 10.0]


def test_pointing_at_a_field_marks_it_on_the_sheet_until_one_leaves(qtbot: QtBot, window: Window) -> None:
    entry = next(e for e in desk(window).ledger.entries.values() if e.connection is not None and e.connection.family == "base-plate")
    window.select([entry.joint.key], [], True)
    panel = window.detail
    field, sheet = panel.form.fields["washer_side"], panel.sheet
    before = entry.connection
    QApplication.sendEvent(field, QEvent(QEvent.Type.Enter))
    qtbot.waitUntil(lambda: sheet.told_moves.startswith("Plate washer: "), timeout=5000)
    assert sheet.moves is not None and len(sheet.moves[0]) and "→" in sheet.told_moves
    assert desk(window).ledger.entries[entry.joint.key].connection is before  # only shown
    QApplication.sendEvent(field, QEvent(QEvent.Type.Leave))
    qtbot.waitUntil(lambda: sheet.moves is None and not sheet.told_moves, timeout=5000)
    panel.form.fields["force_down"].setFocus(Qt.FocusReason.TabFocusReason)
    panel.form.fields["embedment"].setFocus(Qt.FocusReason.TabFocusReason)
    qtbot.waitUntil(lambda: sheet.told_moves.startswith("Embedment: "), timeout=5000)
    window.run("change-connections", ids=[before.id], settings={"plate_thickness": 35.0})  # drawn anew, and marked anew
    qtbot.waitUntil(lambda: sheet.moves is not None and sheet.told_moves.startswith("Embedment: "), timeout=5000)
