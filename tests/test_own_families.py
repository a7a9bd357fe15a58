"""Families of one's own: the worked example by hand, and files that are broken, slow or in the way."""

import subprocess
import sys
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from pytestqt.qtbot import QtBot
from test_window import desk as desk_of
from test_window import window

from tincleat.app import own_families as page
from tincleat.app.window import Window
from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.errors import Fault, NoFit
from tincleat.exchange.ifc import export_ifc
from tincleat.families import own
from tincleat.families.registry import FAMILIES, families_for
from tincleat.ledger.made import Workshop
from tincleat.project.entities import HouseRules

assert window  # the fixture
EXAMPLES = Path(__file__).resolve().parent.parent / "examples" / "families"
PLAIN = """
from tincleat.details.parts import Detail
from tincleat.families.declare import Family
FAMILY = Family({name!r}, "Mine", (), ("station",), (), lambda case, house: None, {build}, {{}}, situations=("loose",))
"""


@pytest.fixture(autouse=True)
def gone() -> Iterator[None]:
    before = dict(FAMILIES)
    yield
    own.unload()
    assert before == FAMILIES  # nothing of it is left


@pytest.fixture
def girder(tmp_path: Path) -> Desk:
    desk = Desk.create(tmp_path / "g.tincleat")
    desk.run("add-members", members=[{"section": "HEB 300", "role": "beam", "start": [0, 0, 3000], "end": [6000, 0, 3000]}])
    return desk


def test_the_example_is_a_family_like_any_other(girder: Desk, tmp_path: Path) -> None:
    """36 for the shackle with as much steel round it: 108 wide; the hole 1.5 x 36 + 36 = 90 over the flange, the head's top 54 over that."""
    assert len((EXAMPLES / "lifting_lug.py").read_text().splitlines()) < 80
    (one,) = own.load(EXAMPLES)
    assert one.family == "lifting-lug" and not one.problem and FAMILIES["lifting-lug"] in families_for("station")
    girder.run("place-connection", family="lifting-lug", at=["m1@2000"])
    entry = girder.ledger.entries["m1@2000"]
    assert entry.made is not None and entry.level == "clear"
    (lug,) = entry.made.detail.plates
    assert lug.outline.bounds == pytest.approx((-54, 0, 54, 144)) and (lug.holes[0].y, lug.holes[0].width) == (90, 36) and lug.thickness == 20
    assert entry.made.detail.number("weld_leg").value == 10 and len(entry.made.detail.welds) == 2
    top = entry.joint.frame.at(lug.frame).to_world([(0.0, 0.0, 10.0)])[0]
    assert top.tolist() == pytest.approx([2000, 0, 3150])  # on the flange, in the plane of the web
    assert export_ifc(girder.ledger, tmp_path / "g.ifc").exists()
    girder.run("change-connections", ids=[entry.connection.id], settings={"pin": 60})  # type: ignore[union-attr]
    assert girder.ledger.entries["m1@2000"].made.detail.plates[0].outline.bounds[2] == pytest.approx(90)  # type: ignore[union-attr]
    with pytest.raises(NoFit, match="300 mm wide"):
        girder.ledger.make(entry.joint, "lifting-lug", {"thickness": 290.0})
    girder.close()


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("x = (", "cannot be read"), ("import nothing_of_the_kind", "ModuleNotFoundError"), ("x = 1", "holds no family"), ("\n\n1 / 0", "line 3: "), ("import sys; sys.exit(3)", "SystemExit"),
        (PLAIN.format(name="fin-plate", build="None"), "the program has a family of that name"), (PLAIN.format(name="a b", build="None"), "no name for a family"),
        (PLAIN.format(name="mine", build="None").replace('("station",)', '("somewhere",)'), "no kind of joint"), ("while True:\n    pass", "was stopped"), ("raise KeyboardInterrupt", "KeyboardInterrupt"),
    ],
)  # fmt: skip
def test_a_file_that_cannot_be_loaded_says_why_and_the_next_one_is(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, text: str, words: str) -> None:
    monkeypatch.setattr(own, "LONGEST", 0.3)
    (tmp_path / "a_bad.py").write_text(text)
    (tmp_path / "b_good.py").write_text((EXAMPLES / "lifting_lug.py").read_text())
    if "KeyboardInterrupt" in text:
        with pytest.raises(KeyboardInterrupt):  # the user's own: it stops the loading
            own.load(tmp_path)
        return
    bad, good = own.load(tmp_path)
    assert words in bad.problem and "a_bad.py" in bad.problem and not bad.family and good.family == "lifting-lug"
    assert FAMILIES["fin-plate"].label == "Fin plate"


@pytest.mark.parametrize(
    ("build", "words"),
    [("lambda case, given: 1 / 0", "ZeroDivisionError"), ("lambda case, given: None", "made no detail"), ("lambda case, given: [0 for _ in iter(int, 1)]", "was stopped"), ("lambda case, given: given.value('nothing')", "failed")],
)
def test_one_that_fails_or_hangs_while_building_harms_nothing(girder: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, build: str, words: str) -> None:
    monkeypatch.setattr(own, "LONGEST", 0.3)
    folder = tmp_path / "own"
    folder.mkdir()
    (folder / "mine.py").write_text(PLAIN.format(name="mine", build=build))
    assert [x.family for x in own.load(folder)] == ["mine"]
    before, threads = dict(girder.project.connections), threading.active_count()
    with pytest.raises(Fault, match=words) as caught:
        girder.run("place-connection", family="mine", at=["m1@2000"])
    assert "mine.py, line 4" in str(caught.value) or words == "made no detail"
    assert girder.project.connections == before and "m1@2000" not in girder.ledger.entries
    girder.run("place-connection", family="stiffeners", at=["m1@2000"])
    assert girder.ledger.entries["m1@2000"].level == "clear" and threading.active_count() <= threads + 1
    girder.close()


def test_a_family_of_the_program_that_fails_is_told_with_its_line(girder: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    joint = girder.ledger.finder.station("m1", 2000.0)
    assert joint is not None
    monkeypatch.setitem(FAMILIES, "stiffeners", own.replace(FAMILIES["stiffeners"], build=lambda case, given: {}["x"]))
    with pytest.raises(Fault, match="stiffeners failed inside: KeyError"):
        Workshop().make("stiffeners", joint.case, False, {}, HouseRules())


def test_projects_open_without_the_family_and_say_so(girder: Desk, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    own.load(EXAMPLES)
    girder.run("place-connection", family="lifting-lug", at=["m1@2000"])
    girder.close()
    own.unload()
    again = Desk.open(tmp_path / "g.tincleat")
    assert again.ledger.entries["m1@2000"].level == "breach" and "no family 'lifting-lug'" in again.ledger.entries["m1@2000"].problem
    again.close()
    assert main(["--own-families", str(EXAMPLES), "proof", str(tmp_path / "g.tincleat")]) == 0 and "0 breach" not in capsys.readouterr().out
    own.unload()
    done = subprocess.run([sys.executable, "-m", "tincleat.cli", "--own-families", str(EXAMPLES), "families"], capture_output=True, text=True)
    assert "lifting-lug: Lifting lug (station)" in done.stdout


def test_the_window_names_a_folder_and_remembers_it(qtbot: QtBot, window: Window, tmp_path: Path) -> None:
    folder = tmp_path / "own"
    folder.mkdir()
    (folder / "lug.py").write_text((EXAMPLES / "lifting_lug.py").read_text())
    (folder / "bad.py").write_text("1 / 0")
    page.take(window, folder)
    assert "1 family loaded, 1 file not" in window.hint.text() and "place-lifting-lug" in window.actions_
    shown = [x.text() for x in window.card.widget().findChildren(page.label("").__class__)]
    assert "Lifting lug · lug.py" in shown and any("bad.py, line 1" in t for t in shown)
    beam = next(m for m in desk_of(window).project.members.values() if m.role == "beam" and m.section.startswith("UB 406"))
    assert window.run("place-connection", family="lifting-lug", at=[f"{beam.id}@1000"])
    assert [x.family for x in page.load_kept(window.settings)] == ["", "lifting-lug"]
    page.take(window, None)
    assert "place-lifting-lug" not in window.actions_ and page.load_kept(window.settings) == []
    assert any("lifting-lug" in t for t in desk_of(window).faults())
