"""The command line as a script sees it: exit codes, JSON, one-line errors."""

import io
import json
import shutil
from pathlib import Path

import pytest

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.families.registry import FAMILIES


def run(capsys: pytest.CaptureFixture[str], *args: "str | Path") -> tuple[int, str, str]:
    """Exit code and what was printed."""
    code = main([str(a) for a in args])
    out = capsys.readouterr()
    return code, out.out, out.err


@pytest.fixture
def demo(demo_file: Path, tmp_path: Path) -> Path:
    """A copy of the demo."""
    shutil.copy(demo_file, tmp_path / "demo.tincleat")
    return tmp_path / "demo.tincleat"


def test_new_demo_and_info(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = tmp_path / "b.tincleat"
    assert run(capsys, "new", "--demo", "boathouse", path)[0] == 0
    code, out, _ = run(capsys, "info", path, "--json")
    found = json.loads(out)
    assert code == 0 and found["members"] >= 90 and found["joints"] > found["joined"] > 0 and found["kin"] < found["joints"]
    assert found["bolts"] > 0 and found["plates"] > 0 and found["welds"] > 0 and found["mass_kg"] > 10000
    assert set(found["findings"]) == {"clear", "note", "breach", "concession"} and found["findings"]["breach"] > 0
    assert sum(found["roles"].values()) == found["members"] == sum(found["sections"].values())
    assert run(capsys, "new", path)[0] == 2  # it exists already
    assert run(capsys, "new", "--force", "--inch", path)[0] == 0


def test_proof_exit_codes_and_rows(capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path) -> None:
    before = demo.read_bytes()
    code, out, _ = run(capsys, "proof", demo, "--json")
    rows = json.loads(out)
    assert code == 1
    breach = next(r for r in rows if r["level"] == "breach")
    assert {"rule", "clause", "level", "connection", "part", "actual", "required", "unit", "where", "message"} <= set(breach)
    assert {r["level"] for r in rows} >= {"clear", "breach", "note"} and any(r["rule"] == "end-open" for r in rows)
    code, out, _ = run(capsys, "proof", demo, "--rules", "AISC", "--json")
    assert any("AISC" in r["clause"] for r in json.loads(out)) and demo.read_bytes() == before
    assert "unjoined ends" in run(capsys, "proof", demo)[1]
    fresh = tmp_path / "empty.tincleat"
    main(["new", str(fresh)])
    assert run(capsys, "proof", fresh)[0] == 0


def test_mending_all_breaches_from_a_script(capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path) -> None:
    rows = json.loads(run(capsys, "proof", demo, "--json")[1])
    script = tmp_path / "mend.jsonl"
    lines = []
    for r in rows:
        if r["level"] == "breach":
            key = f"{r['rule']}|{r['part']}"
            if r["rule"] == "plate-stock":
                lines.append({"do": "accept-finding", "connection": r["connection"], "finding": key, "by": "A. Tern", "reason": "offcut of the right size in the yard"})
            else:
                lines.append({"do": "mend-finding", "connection": r["connection"], "finding": key})
    script.write_text("\n".join(json.dumps(x) for x in lines))
    assert run(capsys, "do", demo, script)[0] == 0
    assert run(capsys, "proof", demo)[0] == 0
    assert json.loads(run(capsys, "info", demo, "--json")[1])["findings"]["concession"] >= 1
    assert "undo:" in run(capsys, "undo", demo)[1] and "redo:" in run(capsys, "redo", demo)[1]


def test_export(capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path) -> None:
    code, out, _ = run(capsys, "export", demo, "--ifc", tmp_path / "o.ifc", "--bom", tmp_path / "o.csv")
    assert code == 0 and [Path(p).name for p in out.split()] == ["o.ifc", "o.csv", "o-bolts.csv", "o-welds.csv"]
    assert run(capsys, "export", demo)[0] == 2


def test_families_and_commands(capsys: pytest.CaptureFixture[str]) -> None:
    families = json.loads(run(capsys, "families", "--json")[1])
    assert {f["name"] for f in families} == set(FAMILIES)
    for f in families:
        for s in f["settings"]:
            assert s["kind"] in ("length", "count", "angle", "flag", "choice", "spacings", "numbers", "points", "section", "force", "schedule") and s["help"] and "default" in s
            assert s["kind"] in ("flag", "choice", "section", "schedule") or s["least"] < s["greatest"]
    commands = json.loads(run(capsys, "commands", "--json")[1])
    assert {c["name"] for c in commands} >= {"add-members", "place-connection", "change-connections", "delete-connections", "mend-finding"}
    assert all(c["about"] and "arguments" in c for c in commands)
    assert "Fin plate" in run(capsys, "families")[1] and "add-grid" in run(capsys, "commands")[1]


@pytest.mark.parametrize("verb", ["info", "proof", "export", "undo"])
@pytest.mark.parametrize("kind", ["missing", "folder", "empty", "text"])
def test_unusable_input_is_exit_2_in_one_line(capsys: pytest.CaptureFixture[str], tmp_path: Path, verb: str, kind: str) -> None:
    path = tmp_path / "x.tincleat"
    if kind == "folder":
        path.mkdir()
    elif kind != "missing":
        path.write_text("" if kind == "empty" else "no project\n" * 20)
    extra = ["--bom", str(tmp_path / "o.csv")] if verb == "export" else []
    code, out, err = run(capsys, verb, path, *extra)
    assert code == 2 and out == "" and str(path) in err and err.count("\n") == 1 and "Traceback" not in err


def test_a_script_from_standard_input(capsys: pytest.CaptureFixture[str], demo: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    line = b'{"do": "add-level", "name": "loft", "elevation": 4200}\n'
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(line)))
    code, out, _ = run(capsys, "do", demo, "-")
    assert code == 0 and "loft" in out
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(b"\n" * 70_000_000)))
    code, _, err = run(capsys, "do", demo, "-")
    assert code == 2 and "at most" in err
    monkeypatch.setattr("sys.stdin", io.TextIOWrapper(io.BytesIO(b"\xff\xfe")))
    assert run(capsys, "do", demo, "-")[0] == 2


def test_bad_scripts(capsys: pytest.CaptureFixture[str], demo: Path, tmp_path: Path) -> None:
    before = json.loads(run(capsys, "info", demo, "--json")[1])
    bad = tmp_path / "bad.jsonl"
    for text, words in (
        ('{"do": "add-level", "name": "x", "elevation": 1}\n{"do": "add-level", "name": "y", "elevation": "tall"}', "line 2"),
        ('{"do": "add-members", "members": [{"section": "UB 1x1x1", "start": [0,0,0], "end": [1,0,0]}]}', "UB 1x1x1"),
        ("{nonsense", "line 1"),
        ('{"do": "teleport"}', "teleport"),
    ):
        bad.write_text(text)
        code, _, err = run(capsys, "do", demo, bad)
        assert code == 2 and words in err and "line" in err
    bad.write_bytes(b"\xff\xfe\x00")
    assert run(capsys, "do", demo, bad)[0] == 2
    assert run(capsys, "do", demo, tmp_path / "none.jsonl")[0] == 2
    assert json.loads(run(capsys, "info", demo, "--json")[1]) == before


def test_members_through_each_other_are_told(capsys: pytest.CaptureFixture[str], tmp_path: Path) -> None:
    path = tmp_path / "x.tincleat"
    desk = Desk.create(path)
    line = {"section": "CHS 88.9x5", "role": "brace"}
    desk.run("add-members", members=[{**line, "name": "T1", "start": [0, 0, 0], "end": [4000, 0, 3000]}, {**line, "name": "T2", "start": [4000, 0, 0], "end": [0, 0, 3000]}])
    desk.close()
    code, out, _ = run(capsys, "proof", path)
    assert code == 1 and "Members through each other: T1 CHS 88.9x5 and T2 CHS 88.9x5 share" in out and "1 breach" in out
    (row,) = [r for r in json.loads(run(capsys, "proof", path, "--json")[1]) if r["rule"] == "clash"]
    assert row["where"] == pytest.approx([2000, 0, 1500], abs=1) and row["joint"] == "m1 and m2" and row["level"] == "breach"
