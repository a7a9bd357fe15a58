"""The page of house rules: searched, changed, tried on the model, kept in one step, taken from standards."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QLineEdit
from pytestqt.qtbot import QtBot
from test_window import desk, window
from test_window_frame import Fill, fill

from tincleat.app import standards
from tincleat.app.fields import Choice
from tincleat.app.house_page import HousePage
from tincleat.app.window import Window
from tincleat.project.entities import RoundRule

assert window and fill  # the fixtures


def at_page(qtbot: QtBot, window: Window) -> HousePage:
    window.do("house-rules")
    qtbot.waitUntil(window.house.isVisible)
    return window.house


def put(qtbot: QtBot, page: HousePage, name: str, text: str) -> None:
    """Type or choose a value as a user does."""
    editor = page.rows[name].editor
    editor.setFocus()
    if isinstance(editor, QLineEdit):
        editor.selectAll()
        if text:
            qtbot.keyClicks(editor, text)
        else:
            qtbot.keyClick(editor, Qt.Key.Key_Delete)
        qtbot.keyClick(editor, Qt.Key.Key_Return)
    else:
        assert isinstance(editor, Choice)
        editor.setCurrentText(text)
        editor.activated.emit(editor.currentIndex())


def told(page: HousePage) -> list[str]:
    return [w.text() for i in range(page.told.count()) if isinstance(w := page.told.itemAt(i).widget(), QLabel)]


def tried(qtbot: QtBot, page: HousePage) -> None:
    qtbot.waitUntil(lambda: not page.trying, timeout=20000)


def test_changes_are_tried_and_kept_as_one_step(qtbot: QtBot, window: Window) -> None:
    before, counts = desk(window).project.house, desk(window).counts()
    page = at_page(qtbot, window)
    assert not page.keep.isEnabled() and told(page)[0].startswith("Nothing yet")
    put(qtbot, page, "rounding/base plate", "50 up")
    put(qtbot, page, "bolt", "M24")
    tried(qtbot, page)
    assert told(page)[:2] == ["Bolts: M20  →  M24", "Base plate: 10 up  →  50 up"] and any("would differ" in t for t in told(page))
    assert desk(window).project.house == before and desk(window).counts() == counts  # tried, not kept
    assert page.rows["bolt"].aside.text() == "was M20" and page.rows["bolt"].name.font().bold()
    page.keep.click()
    house = desk(window).project.house
    assert house.bolt == "M24" and house.rounding["base plate"] == RoundRule(50.0) and not page.pending and not page.keep.isEnabled()
    assert page.rows["bolt"].aside.text() == "standard M20"
    qtbot.keyClick(page, Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
    qtbot.waitUntil(lambda: desk(window).project.house == before)
    qtbot.waitUntil(lambda: page.rows["bolt"].editor.currentText() == "M20")  # type: ignore[attr-defined]
    assert desk(window).counts() == counts


def test_a_bad_value_stays_with_its_reason_and_changes_nothing(qtbot: QtBot, window: Window) -> None:
    page = at_page(qtbot, window)
    put(qtbot, page, "weld_gap", "400")
    editor = page.rows["weld_gap"].editor
    assert editor.property("bad") and "outside its limits" in editor.toolTip() and not page.pending
    put(qtbot, page, "weld_gap", "3")
    assert not editor.property("bad") and page.pending == {"weld_gap": 3.0} and "Greatest gap" in editor.toolTip()
    page.rows["weld_gap"].aside.click()
    assert not page.pending and page.rows["weld_gap"].editor.text() == "2"  # type: ignore[attr-defined]
    put(qtbot, page, "title", "  ")
    assert not page.pending
    put(qtbot, page, "rounding/gusset length", "8 nearest")
    assert page.pending["rounding/gusset length"] == RoundRule(8.0, "nearest")
    put(qtbot, page, "rounding/gusset length", "")
    assert not page.pending and page.rows["rounding/gusset length"].editor.text() == "as plate length"  # type: ignore[attr-defined]


def test_the_search_and_what_differs(qtbot: QtBot, window: Window) -> None:
    page = at_page(qtbot, window)
    assert page.search.hasFocus()
    qtbot.keyClicks(page.search, "notch rad")
    assert [n for n, r in page.rows.items() if r.editor.isVisible()] == ["notch_radius"]
    page.search.setText("zebra")
    assert page.none.text() == "No rule has these words." and not any(r.editor.isVisible() for r in page.rows.values())
    qtbot.keyClick(page.search, Qt.Key.Key_Escape)
    assert not page.search.text() and page.isVisible()
    page.only.click()
    assert page.none.text() == "Every rule is the standard's."
    page.only.click()
    page.rows["bend_least"].editor.setFocus()
    assert "radius of a cold bend" in page.about.text()
    put(qtbot, page, "mark_start", "100")
    qtbot.keyClick(page, Qt.Key.Key_Escape)
    assert not window.at_house and "1 change of house rules not kept" in window.hint.text() and desk(window).project.house.mark_start == 1


def test_nothing_else_is_done_from_the_page(qtbot: QtBot, window: Window) -> None:
    page = at_page(qtbot, window)
    window.do("select-all" if "select-all" in window.actions_ else "zoom-all" if "zoom-all" in window.actions_ else "place")
    assert window.at_house and "go back to the model first" in window.hint.text()
    put(qtbot, page, "bolt", "M24")
    assert page.trying
    window.do("undo")
    assert "being tried" in window.hint.text()
    page.stop.click()
    assert not page.trying and page.keep.isEnabled() and any("Not tried" in t for t in told(page))
    page.back.click()
    assert not window.at_house and desk(window).project.house.bolt == "M20"


def test_standards_are_kept_taken_and_started_from(qtbot: QtBot, window: Window, fill: Fill, tmp_path: Path) -> None:
    page = at_page(qtbot, window)
    put(qtbot, page, "bolt", "M24")
    tried(qtbot, page)
    errors = fill({"name": "a/b"})
    page._keep_standard()
    assert "no name for a standard" in errors[0]
    fill({"name": "Harbour"})
    page._keep_standard()
    assert standards.names(window.settings)[2:] == ["Harbour"] and page.take.findText("Harbour") > 0
    page.drop_all()
    page.take.setCurrentText("Harbour")
    page.take.activated.emit(page.take.currentIndex())
    assert page.pending == {"bolt": "M24"}
    page.drop_all()
    (tmp_path / "bad.json").write_text("{}")
    page.take_file(str(tmp_path / "bad.json"))
    assert "holds no house rules" in page.error.text() and not page.pending
    page.leave()
    assert standards.started(window.settings, "Harbour", "Slip").bolt == "M24" and standards.started(window.settings, "Harbour", "Slip").title == "Slip"
    window.set_desk(None)
    assert any(b.text() == "New project from Harbour…" for b in window.start_page.findChildren(type(page.back)))
    standards.drop(window.settings, "Harbour")
    assert not standards.names(window.settings)[2:]


def test_units_bring_the_offer_of_defaults(qtbot: QtBot, window: Window) -> None:
    page = at_page(qtbot, window)
    put(qtbot, page, "units", "ft-in")
    tried(qtbot, page)
    assert page.rows["notch_clearance"].editor.text().endswith('"')  # type: ignore[attr-defined]
    page.keep.click()
    assert not window.at_house and window.drawer.review.matter is not None and "House defaults" in window.drawer.review.matter.title
