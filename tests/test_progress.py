"""How far each kind of joint is settled: counted another way, kept in step, drawn as bars, and a way to what is left; one count of findings everywhere."""

from collections import Counter
from pathlib import Path

import pytest
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QLabel, QPushButton
from pytestqt.qtbot import QtBot
from test_window import desk, window

from tincleat.app.shares import Bar, in_words
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.demo import boathouse
from tincleat.ledger.groups import Groups
from tincleat.ledger.progress import by_kind, by_place
from tincleat.release.report import all_findings, info

assert window  # the fixture


def test_kinds_are_counted_as_by_looking_at_each(tmp_path: Path) -> None:
    d = boathouse.build(tmp_path / "b.tincleat")

    def held() -> None:
        total = Counter(e.joint.kind for e in d.ledger.entries.values())
        settled = Counter(e.joint.kind for e in d.ledger.entries.values() if e.settled)
        breach = Counter(e.joint.kind for e in d.ledger.entries.values() if any(f.level == "breach" for f in e.findings))
        shares = by_kind(d.ledger)
        assert {s.kind: (s.total, s.settled, s.breach) for s in shares} == {k: (n, settled[k], breach[k]) for k, n in total.items()}
        assert [s.total - s.settled for s in shares] == sorted((s.total - s.settled for s in shares), reverse=True)
        for s in shares:
            assert sorted(s.open_keys) == sorted(k for k, e in d.ledger.entries.items() if e.joint.kind == s.kind and not e.settled)

    held()
    d.run("place-all", family="fin-plate")
    held()
    d.undo()
    d.run("delete-connections", ids=list(d.project.connections)[:20])
    held()


def test_every_place_that_counts_findings_says_the_same(tmp_path: Path) -> None:
    path = tmp_path / "b.tincleat"
    boathouse.build(path).close()
    d = Desk.open(path)
    rows = Counter(r["level"] for r in all_findings(d.ledger) if r["rule"] != "unjoined")
    counts, told = d.counts(), info(d.ledger)["findings"]
    assert {k: counts[k] for k in ("breach", "clear", "concession")} == {k: told[k] for k in ("breach", "clear", "concession")} == {k: rows[k] for k in ("breach", "clear", "concession")}
    assert counts["note"] == told["note"] and told["breach"] == 4
    assert info(d.ledger)["kinds"]["column foot"] == "22 of 28"


def test_a_bar_shows_its_share_and_a_name_selects_what_is_open(qtbot: QtBot, window: Window) -> None:
    window.select([], [])
    bars = {b.share.kind: b for b in window.card.findChildren(Bar)}
    kinds = {s.kind: in_words(s) for s in by_kind(desk(window).ledger)}
    assert kinds == {k: b.accessibleName() for k, b in bars.items() if k in kinds}
    assert {b.share.kind for b in bars.values()} - kinds.keys() <= {desk(window).ledger.place(e.joint) for e in desk(window).ledger.entries.values()}
    bar = bars["column foot"]
    assert (bar.share.settled, bar.share.total) == (22, 28)
    image, theme = bar.grab().toImage(), window.theme
    row = [QColor(image.pixel(x, image.height() // 2)).name().lower() for x in range(image.width())]
    dark = row.count(theme.slate.lower()) + row.count(theme.breach.lower())
    assert dark / image.width() == pytest.approx(22 / 28, abs=0.04) and row.count(theme.breach.lower()) > 2
    (name,) = (b for b in window.card.findChildren(QPushButton) if b.text() == "column foot")
    name.click()
    assert len(window.selected) == 6 and all(desk(window).ledger.entries[k].connection is None for k in window.selected)


def test_places_are_counted_as_by_looking_at_each(tmp_path: Path) -> None:
    d = boathouse.build(tmp_path / "b.tincleat")
    groups = Groups()
    for name in ("end-plate", "base-plate"):
        shares = by_place(d.ledger, groups)
        total = Counter(d.ledger.place(e.joint) for e in d.ledger.entries.values())
        settled = Counter(d.ledger.place(e.joint) for e in d.ledger.entries.values() if e.settled)
        assert {s.kind: (s.total, s.settled) for s in shares} == {k: (n, settled[k]) for k, n in total.items()}
        d.run("place-all", family=name)


def test_what_changed_since_last_time_is_told(window: Window, tmp_path: Path) -> None:
    path = desk(window).store.path
    window.select([], [])
    assert not [w for w in window.card.findChildren(QLabel) if w.text() == "SINCE LAST TIME"]  # it was never open here before

    def told() -> list[str]:
        window.select([], [])
        return [w.text() for w in window.card.findChildren(QLabel)]

    counts = desk(window).ledger.counts()
    window.set_desk(None)
    other = Desk.open(path)  # somebody else works on it meanwhile
    other.run("place-all", family="end-plate")
    other.run("add-level", name="loft", elevation=7777)
    now = other.ledger.counts()["joined"]
    assert now > counts["joined"]
    other.close()
    window.set_desk(Desk.open(path))
    words = told()
    assert "SINCE LAST TIME" in words and any(f"{counts['joined']:,} of {counts['joints']:,} joined" in w for w in words)
    assert any(w.startswith("2 steps, ") and f"{now - counts['joined']:,} more joined" in w for w in words)
    assert sum("loft" in w for w in words) == 1
    window.set_desk(None)
    window.set_desk(Desk.open(path))
    assert "nothing has changed" in told()
    # what is kept of it is no matter where it is spoilt
    window.settings.setValue("seen", "nonsense")
    window.set_desk(None)
    window.set_desk(Desk.open(path))
    assert "SINCE LAST TIME" in told()
