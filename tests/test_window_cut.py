"""Nothing is cut off: every word of the window at three sizes, in every stage and at every kind of joint, has the room it takes."""

import os
import subprocess
import sys

import pytest
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QCheckBox, QComboBox, QHeaderView, QLabel, QPushButton, QScrollArea, QTabBar, QTableView, QWidget
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.offers import Offers
from tincleat.app.window import Window

assert window  # the fixture


def cut(root: QWidget) -> list[tuple[object, ...]]:
    """What is shown with less room than its words take."""
    out: list[tuple[object, ...]] = []
    for x in root.findChildren(QWidget):
        if not x.isVisible() or x.visibleRegion().isEmpty():
            continue
        wide = x.fontMetrics().horizontalAdvance
        if isinstance(x, QLabel) and x.text():
            if x.wordWrap():
                need, have = x.heightForWidth(x.width()), x.height() + 1
            else:
                need, have = max(wide(t) for t in x.text().split("\n")), x.contentsRect().width()
        elif isinstance(x, QPushButton) and x.text():
            icon = x.iconSize().width() + 6 if not x.icon().isNull() else 0
            need, have = max(wide(t) for t in x.text().split("\n")), x.width() - icon - (4 if x.objectName() in ("link", "recent") else 8)
        elif isinstance(x, QCheckBox):
            need, have = wide(x.text()) + 20, x.width()
        elif isinstance(x, QComboBox):
            need, have = wide(x.currentText()) + 24, x.width()
        elif isinstance(x, QTabBar):
            out += [(x.tabText(i),) for i in range(x.count()) if wide(x.tabText(i)) + 8 > x.tabRect(i).width() or x.tabRect(i).right() > x.width()]
            continue
        elif isinstance(x, QHeaderView) and x.orientation() == Qt.Orientation.Horizontal and x.model() is not None:
            heads = [(i, str(x.model().headerData(i, Qt.Orientation.Horizontal))) for i in range(x.count()) if not x.isSectionHidden(i)]
            out += [(head,) for i, head in heads if wide(head) + 10 > x.sectionSize(i)]
            continue
        else:
            continue
        if need > have:
            out.append((type(x).__name__, x.text() if hasattr(x, "text") else x.currentText(), need, have))
    return out


def cells(table: QTableView, columns: tuple[int, ...]) -> list[str]:
    """Cells of some columns that are cut, among the first rows."""
    model, wide = table.model(), table.fontMetrics().horizontalAdvance
    shown = [(model.index(r, c), c) for r in range(min(model.rowCount(), 30)) for c in columns if not table.isColumnHidden(c)]
    return [str(i.data()) for i, c in shown if wide(str(i.data())) + 12 + (20 if c == 0 and i.data(Qt.ItemDataRole.DecorationRole) else 0) > table.columnWidth(c)]


@pytest.mark.parametrize("size", [(1100, 700), (1280, 800), (1920, 1080), (3840, 2160)])
def test_no_word_of_the_window_is_cut(qtbot: QtBot, window: Window, size: tuple[int, int]) -> None:
    window.resize(*size)

    def settled(where: object) -> None:
        for _ in range(5):
            QApplication.processEvents()
        qtbot.waitUntil(lambda: all(o.done for o in window.card.findChildren(Offers)), timeout=20000)
        for _ in range(20):  # offers come in one by one, each lays the panel out anew
            if not cut(window):
                break
            qtbot.wait(50)
        assert not cut(window), (where, cut(window))

    for stage in ("Frame", "Ready", "Join", "Prove", "Release"):
        window.rail.choose(stage)
        settled(stage)
    window.drawer.go("Bill")
    assert not cells(window.drawer.bill_table, (0, 1, 2, 3, 4, 5, 6, 7))
    window.drawer.go("Findings")
    assert not cells(window.drawer.finding_table, (0, 2, 3, 6))
    window.rail.choose("Join")
    for by in ("By level", "By zone", "By member", "By kin"):
        window.drawer.by.setCurrentText(by)
        window.drawer._regroup()
        settled(by)
        assert not cells(window.drawer.ledger_table, (0, 2, 3)), by
    kinds = {(e.joint.kind, e.settled): e.joint.key for e in desk(window).ledger.entries.values()}
    for kind, key in kinds.items():
        window.select([key], [])
        settled(kind)
    members = list(desk(window).project.members)
    for chosen in (members[3:4], members[:9]):
        window.select([], chosen)
        settled(chosen)
    window.do("house-rules")
    settled("house rules")
    window.escape()
    window.set_desk(None)
    settled("start")


def test_columns_share_by_content_and_keep_what_the_user_made_of_them(qtbot: QtBot, window: Window) -> None:
    table = window.drawer.ledger_table
    window.rail.choose("Join")
    QApplication.processEvents()
    wide, header = table.columnWidth(3), table.horizontalHeader()
    edge, bar = header.sectionViewportPosition(3) + wide - 1, header.viewport()
    QTest.mousePress(bar, Qt.MouseButton.LeftButton, pos=QPoint(edge, 8))
    QTest.mouseMove(bar, QPoint(edge + 20, 8))
    QApplication.sendEvent(bar, QMouseEvent(QEvent.Type.MouseMove, QPointF(edge + 40, 8), bar.mapToGlobal(QPointF(edge + 40, 8)), Qt.MouseButton.NoButton, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier))
    QTest.mouseRelease(bar, Qt.MouseButton.LeftButton, pos=QPoint(edge + 40, 8))
    assert table.columnWidth(3) > wide
    wide = table.columnWidth(3) - 40
    window.drawer.by.setCurrentText("By level")
    window.drawer._regroup()
    assert table.columnWidth(3) == wide + 40
    window.resize(1300, 820)
    QApplication.processEvents()
    assert table.columnWidth(3) == wide + 40
    window.set_theme("dark")  # a style changes widths too: that is nobody's hand
    window.set_theme("light")
    QApplication.processEvents()
    assert table.columnWidth(3) == wide + 40 and all(table.isColumnHidden(c) or table.columnWidth(c) > 60 for c in (0, 2, 4, 5))
    empty = [r for r in table.rows.rows if r.cells[5]]
    assert bool(empty) or table.isColumnHidden(5)


@pytest.mark.parametrize("scale", ["1.25", "2"])
def test_no_word_is_cut_on_scaled_screens_either(scale: str) -> None:
    """The same again in a process of its own, where every pixel of the window is so many of the screen's."""
    if "QT_SCALE_FACTOR" in os.environ:
        return  # this is that process
    screen = ["xvfb-run", "-a", "-s", "-screen 0 4000x2400x24"]
    done = subprocess.run(
        [*screen, sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", __file__, "-k", "no_word_of_the_window and (size0 or size2)"], env={**os.environ, "QT_SCALE_FACTOR": scale}, capture_output=True, text=True, timeout=300
    )
    assert done.returncode == 0 and done.stdout.startswith(".."), done.stdout[-2000:] + done.stderr[-500:]


def test_no_word_of_loose_parts_and_of_the_lists_is_cut(qtbot: QtBot, window: Window) -> None:
    window.resize(1100, 700)
    key = next(k for k, m in desk(window).project.members.items() if m.role == "beam" and m.section.startswith("UB"))
    kinds = {"part/1": "plate", "corner/1": "sniped", "corners/1": "away from the face", "stands/1": "upright across", "part/2": "piece", "on/2": "near side", "end/2": "to the member's shape", "section/2": "IPE 80", "along/2": 200.0}
    kinds |= {"part/3": "bent plate", "on/3": "bottom", "part/4": "holes", "on/4": "far side", "along/4": -150.0, "part/5": "cut", "on/5": "near side", "along/5": -300.0, "length/5": 60.0, "part/6": "plate", "on/6": "over the bottom far", "along/6": 250.0, "length/6": 60.0, "width/6": 30.0, "part/7": "weld", "of/7": "part 1"}
    assert window.run("place-connection", family="loose", at=[f"{key}@1500"], settings=kinds), window.hint.text()
    window.select([f"{key}@1500"], [], True)
    body = window.detail.body
    for _ in range(4):
        QApplication.processEvents()
    scroll = next(s for s in window.detail.findChildren(QScrollArea) if s.isAncestorOf(body) or s.widget() is not None)
    for at in range(0, scroll.verticalScrollBar().maximum() + 1, 120):
        scroll.verticalScrollBar().setValue(at)
        QApplication.processEvents()
        assert not cut(window.detail), at
    window.drawer.go("Bill")
    for i, name in enumerate(("Parts", "Bolts", "Welds")):
        window.drawer.lists.setCurrentIndex(i)
        window.drawer.lists.activated.emit(i)
        QApplication.processEvents()
        assert not cut(window.drawer), (name, cut(window.drawer))
