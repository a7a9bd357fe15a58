"""Input that is hostile, or larger than anything meant: it is refused in plain words, within bounds, and nothing has changed."""

import io
import json
import math
import os
import subprocess
import sys
import zipfile
import zlib
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf
import pytest
from conftest import beam, pdf_of
from foreign_cases import IPE, Lines

from tincleat.cli import main
from tincleat.commands.desk import Desk
from tincleat.errors import BadFile, TinCleatError
from tincleat.exchange import ifc_file, ifc_in, worker
from tincleat.exchange.ifc_in import import_ifc
from tincleat.units import parse_length


def written(path: Path, make: "Callable[[Lines], object]") -> Path:
    """An IFC of a good beam and whatever ``make`` adds."""
    f = Lines()
    f.member(f.shape(f.extruded(IPE)), f.place((0, 9000, 0)), name="good")
    make(f)
    path.write_text(f.text())
    return path


# --- IFC ----------------------------------------------------------------------------


def _cycle(f: Lines) -> None:
    a, b = f"#{f.n + 1}", f"#{f.n + 2}"
    f.add(f"IFCBOOLEANRESULT(.DIFFERENCE.,{b},{f.world})")
    f.add(f"IFCBOOLEANRESULT(.DIFFERENCE.,{a},{a})")
    f.member(f.shape(a, kind="CSG"), name="bad")


def _doubling(f: Lines) -> None:
    last = f.extruded(IPE)
    for _ in range(40):
        last = f.add(f"IFCBOOLEANRESULT(.UNION.,{last},{last})")
    f.member(f.shape(last, kind="CSG"), name="bad")


def _doubling_taken_off(f: Lines) -> None:
    last = f.extruded("IFCRECTANGLEPROFILEDEF(.AREA.,$,$,10.,10.)", 10.0)
    for _ in range(40):
        last = f.add(f"IFCBOOLEANRESULT(.UNION.,{last},{last})")
    f.member(f.shape(f.add(f"IFCBOOLEANRESULT(.DIFFERENCE.,{f.extruded(IPE)},{last})"), kind="CSG"), name="bad")


def _nested_maps(f: Lines) -> None:
    item = f.extruded(IPE)
    for _ in range(30):
        rep = f.add(f"IFCSHAPEREPRESENTATION({f.context},'Body','SweptSolid',({item},{item}))")
        source = f.add(f"IFCREPRESENTATIONMAP({f.world},{rep})")
        item = f.add(f"IFCMAPPEDITEM({source},{f.add(f'IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,{f.origin},$,$)')})")
    f.member(f.shape(item, kind="MappedRepresentation"), name="bad")


def _map_in_itself(f: Lines) -> None:
    item = f"#{f.n + 4}"
    rep = f.add(f"IFCSHAPEREPRESENTATION({f.context},'Body','MappedRepresentation',({item}))")
    source = f.add(f"IFCREPRESENTATIONMAP({f.world},{rep})")
    turn = f.add(f"IFCCARTESIANTRANSFORMATIONOPERATOR3D($,$,{f.origin},$,$)")
    f.add(f"IFCMAPPEDITEM({source},{turn})")
    f.member(f.shape(item, kind="MappedRepresentation"), name="bad")


def _huge_sphere(f: Lines) -> None:
    f.add(f"IFCBUILDINGELEMENTPROXY('{f.n:022d}',$,'bad',$,$,{f.at},{f.shape(f.add(f'IFCSPHERE({f.world},1.E12)'), kind='CSG')},$,$)")


def _cyclic_placement(f: Lines) -> None:
    me = f"#{f.n + 1}"
    f.add(f"IFCLOCALPLACEMENT({me},{f.world})")
    f.member(f.shape(f.extruded(IPE)), me, name="bad")


@pytest.mark.parametrize("make", [_cycle, _doubling, _doubling_taken_off, _nested_maps, _map_in_itself, _huge_sphere, _cyclic_placement])
def test_a_hostile_body_is_a_line_of_the_report(tmp_path: Path, monkeypatch: pytest.MonkeyPatch, make: "Callable[[Lines], object]") -> None:
    monkeypatch.setattr(worker, "BODY", 1.5)
    found = import_ifc(written(tmp_path / "h.ifc", make))
    assert [m.name for m in found.members if m.name == "good"] == ["good"]
    told = [*found.notes, *(f"{row['name']}: {row['why']}" for row in found.left)]
    assert any("bad" in words for words in told), told


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("ISO-10303-21;\nHEADER;\nENDSEC;\nDATA;\n#1=IFCBEAM($);\nENDSEC;\nEND-ISO-10303-21;\n", "names no IFC schema"),
        ("ISO-10303-21;\nFILE_SCHEMA(('IFC4'));\n" + "(" * 5000, "."),
        ("ISO-10303-21;\nHEADER;\nFILE_SCHEMA(('IFC4'));\nENDSEC;\nDATA;\n" + "#1=IFCBEAM(" + "(" * 20000, "."),
        ("ISO-10303-21;\nHEADER;FILE_SCHEMA(('IFC9'));ENDSEC;DATA;ENDSEC;END-ISO-10303-21;", "."),
        ("<?xml version='1.0'?><ifc:ifcXML/>", "XML"),
        ("  ISO-10303-21;" + "\0" * 9000, "."),
        ("ISO-10303-21", "no IFC schema"),
    ],
)
def test_a_header_that_is_none(tmp_path: Path, text: str, words: str) -> None:
    (tmp_path / "h.ifc").write_text(text)
    with pytest.raises(BadFile, match=words):
        import_ifc(tmp_path / "h.ifc")


def test_packed_marked_and_plainly_lettered_files(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    f = Lines()
    f.member(f.shape(f.extruded(IPE)), name="Träger Ø ½")
    text = f.text()
    packed = io.BytesIO()
    with zipfile.ZipFile(packed, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("model.ifc", text.encode())
    for name, data in (("utf8", text.encode()), ("bom", b"\xef\xbb\xbf" + text.encode()), ("latin", text.replace("½", "x").encode("latin-1")), ("zip", packed.getvalue())):
        (tmp_path / f"{name}.ifc").write_bytes(data)
        (m,) = import_ifc(tmp_path / f"{name}.ifc").members
        assert m.name == ("Träger Ø x" if name == "latin" else "Träger Ø ½") and m.section == "IPE 300"
    (tmp_path / "none.ifczip").write_bytes(b"PK\x03\x04 rubbish")
    with pytest.raises(BadFile, match="unpacked"):
        import_ifc(tmp_path / "none.ifczip")
    monkeypatch.setattr(ifc_file, "MOST_FILE", 5_000_000)
    bomb = io.BytesIO()
    with zipfile.ZipFile(bomb, "w", zipfile.ZIP_DEFLATED) as z:
        z.writestr("a.ifc", b"\0" * 6_000_000)
    (tmp_path / "bomb.ifczip").write_bytes(bomb.getvalue())
    with pytest.raises(BadFile, match="GB"):  # as the worker would say it
        ifc_in.read_ifc(tmp_path / "bomb.ifczip")


def test_heavy_bodies_are_read_without_the_engine_and_bounded(tmp_path: Path) -> None:
    """Ten balls of 5,760 triangles each."""

    def balls(f: Lines) -> None:
        n, m = 60, 48
        points = [(1000 * math.sin(math.pi * i / m) * math.cos(math.tau * j / n), 1000 * math.sin(math.pi * i / m) * math.sin(math.tau * j / n), 1000 * math.cos(math.pi * i / m)) for i in range(m + 1) for j in range(n)]
        faces = [t for i in range(m) for j in range(n) for t in ((i * n + j, (i + 1) * n + j, (i + 1) * n + (j + 1) % n), (i * n + j, (i + 1) * n + (j + 1) % n, i * n + (j + 1) % n))]
        listed = f.add(f"IFCCARTESIANPOINTLIST3D(({','.join('(' + ','.join(f'{v:.4f}' for v in p) + ')' for p in points)}))")
        ball = f.add(f"IFCTRIANGULATEDFACESET({listed},$,.T.,({','.join(f'({a + 1},{b + 1},{c + 1})' for a, b, c in faces)}),$)")
        for k in range(10):
            f.add(f"IFCBUILDINGELEMENTPROXY('{f.n:022d}',$,'ball',$,$,{f.place((5000 * k, 0, 0))},{f.shape(ball, kind='Tessellation')},$,$)")

    found = import_ifc(written(tmp_path / "b.ifc", balls))
    assert len(found.bodies) == 10 and all(len(b.triangles) == 5760 for b in found.bodies)


def test_a_reader_that_is_stopped_ends_its_process(tmp_path: Path) -> None:
    calls = []

    def stop(share: float, words: str) -> bool:
        calls.append(words)
        return len(calls) < 3

    with pytest.raises(TinCleatError, match="stopped"):
        import_ifc(written(tmp_path / "s.ifc", lambda f: None), progress=stop)
    children = subprocess.run(["ps", "--ppid", str(os.getpid()), "-o", "args="], capture_output=True, text=True, check=False).stdout
    assert "exchange.worker" not in children


# --- drawings -------------------------------------------------------------------------


def _curve(doc: Any) -> None:
    doc.modelspace().add_circle((0, 0), 1e12)


def _far(doc: Any) -> None:
    doc.modelspace().add_line((0, 0), (1e15, 0))


def _blocks(doc: Any) -> None:
    name = ""
    for i in range(12):
        block = doc.blocks.new(f"b{i}")
        for k in range(10):
            block.add_blockref(name, (k, 0)) if name else block.add_line((0, 0), (1, 1))
        name = f"b{i}"
    doc.modelspace().add_blockref(name, (0, 0))


def _array(doc: Any) -> None:
    doc.blocks.new("b").add_line((0, 0), (1, 1))
    doc.modelspace().add_blockref("b", (0, 0), dxfattribs={"row_count": 30000, "column_count": 30000, "row_spacing": 1, "column_spacing": 1})


def _itself(doc: Any) -> None:
    doc.blocks.new("b").add_blockref("b", (0, 0))
    doc.modelspace().add_blockref("b", (0, 0))


@pytest.mark.parametrize("make", [_curve, _far, _blocks, _array, _itself])
def test_a_hostile_drawing_is_refused_before_it_is_taken_apart(tmp_path: Path, make: "Callable[[Any], None]") -> None:
    doc = ezdxf.new()
    make(doc)
    doc.saveas(tmp_path / "h.dxf")
    desk = Desk.create(tmp_path / "d.tincleat")
    with pytest.raises(BadFile, match=r"reaches|holds|cannot be read|more than"):
        desk.run("add-underlay", path=str(tmp_path / "h.dxf"))
    assert not desk.project.tables["underlay"]


def test_a_page_that_unfolds_without_end(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(worker, "SILENT", 3.0)
    packed = zlib.compress(b"0 0 m 9 9 l S\n" * 40_000_000, 9)
    bodies = [
        b"<< /Type /Catalog /Pages 2 0 R >>", b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>", b"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 500 500] /Contents 4 0 R >>",
        b"<< /Length %d /Filter /FlateDecode >>\nstream\n%b\nendstream" % (len(packed), packed),
    ]  # fmt: skip
    (tmp_path / "h.pdf").write_bytes(pdf_of(bodies))
    desk = Desk.create(tmp_path / "d.tincleat")
    with pytest.raises(BadFile, match=r"more than|crashed|cannot be"):
        desk.run("add-underlay", path=str(tmp_path / "h.pdf"))


# --- commands ---------------------------------------------------------------------------

RING = [[2000 * math.cos(i / 20000 * math.tau), 2000 * math.sin(i / 20000 * math.tau)] for i in range(20000)]
TOO_MUCH: dict[str, "Callable[[Path], tuple[str, dict[str, Any]]]"] = {
    "steps": lambda p: ("add-stair", {"start": [0, 0], "towards": [1, 0], "base": 0, "top": 1e6, "width": 1000, "steps": 10**9}),
    "steps below none": lambda p: ("add-stair", {"start": [0, 0], "towards": [1, 0], "base": 0, "top": 1e6, "width": 1000, "steps": -4}),
    "copies on each other": lambda p: ("copy-members", {"ids": ["?role:beam", "?role:column"], "by": [1, 0, 0], "count": 1000}),
    "copies too near": lambda p: ("copy-members", {"ids": ["?role:beam", "?role:column"], "by": [100, 0, 0], "count": 1000}),
    "one place": lambda p: ("add-members", {"members": [beam("IPE 200", (0, 0, 0), (1000, 0, 0))] * 30000}),
    "polygon": lambda p: ("cut-polygon", {"ids": ["B1"], "corners": RING}),
    "slab": lambda p: ("add-slab", {"corners": RING, "thickness": 200}),
    "wall": lambda p: ("add-wall", {"through": RING, "thickness": 200, "base": 0, "height": 3000}),
    "csv": lambda p: ("import-sections", {"path": str(p)}),
    "crossings": lambda p: ("add-columns", {"section": "IPE 200", "at": ["A1:SF500"], "base": 0, "top": 3000}),
    "deep": lambda p: ("add-members", {"members": _deep(5000)}),
}


def test_runs_put_on_each_other_one_by_one_are_refused(corner: Desk) -> None:
    # each is small; forty of them made every one look at all others for joints, 86 s in all
    corner.run("add-members", members=[beam("UB 305x165x40", (0, 9000, 3000), (5000, 9000, 3000)), beam("IPE 200", (0, 0, 3000), (5000, 0, 3000))])
    last = list(corner.project.members)[-2:]
    line = json.dumps({"do": "add-run", "kind": "joists", "settings": {"beams": last, "section": "IPE 160", "spacing": 900}})
    count = len(corner.project.members)
    for times, words in ((40, "would lie on each other, each against"), (14, r"1\d members lie where it would lie")):
        with pytest.raises(TinCleatError, match=words):
            corner.run_script("\n".join([line] * times))
    assert len(corner.project.members) == count
    for _ in range(10):
        corner.run("add-members", members=[beam("IPE 200", (0, 0, 3000), (5000, 0, 3000))])
    stack = list(corner.project.members)[-10:]
    corner.run("change-members", ids=stack, grade="S235")  # nobody moves: not asked
    corner.run("delete-members", ids=stack[:1])
    corner.undo()
    assert corner.project.members[stack[0]].grade == "S235"


def _deep(n: int) -> list[Any]:
    out: list[Any] = []
    for _ in range(n):
        out = [out]
    return out


@pytest.mark.parametrize("name", TOO_MUCH)
def test_a_command_that_asks_for_too_much_is_refused(corner: Desk, tmp_path: Path, name: str) -> None:
    rows = "\n".join(f"MY {i},I,300,150,8,12,15,0,0,0," for i in range(100_000))
    (tmp_path / "s.csv").write_text("designation,shape,h,b,tw,tf,r1,r2,slope,tf_at,mass\n" + rows)
    if name == "crossings":
        corner.run("add-grid", name="g", x="499@10", y="499@10")
    before = {t: dict(r) for t, r in corner.project.tables.items()}
    command, args = TOO_MUCH[name](tmp_path / "s.csv")
    with pytest.raises(TinCleatError) as told:
        corner.run(command, **args)
    assert "something went wrong inside" not in str(told.value), told.value
    assert {t: dict(r) for t, r in corner.project.tables.items()} == before


def test_what_once_gave_a_traceback_gives_plain_words(corner: Desk, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """All of it through the command line: exit 2, one line, nothing changed."""
    path = str(corner.store.path)
    corner.run("add-level", name="esc \x1b[31mred\x1b[0m", elevation=1)
    before = {t: dict(r) for t, r in corner.project.tables.items()}
    corner.close()
    assert parse_length("-" * 1100 + "1", "mm") == 1.0 and parse_length("-" * 1101 + "1", "mm") == -1.0
    scripts = [
        '{"do": "add-level", "name": "a", "elevation": "%s1x"}' % ("-" * 1100), '{"do": "add-level", "name": "a", "elevation": "1%s"}' % ("0" * 400),
        '{"do": "add-level", "name": "\\ud800", "elevation": 1}', '{"do": "import-frame", "path": "a\\u0000b"}', '{"do": "import-sections", "path": "a\\u0000b"}',
        '{"do": "add-underlay", "path": "a\\u0000b.dxf"}', '{"do": "mitre-members", "ids": ["?role:beam", "?role:column"]}', '{"do": "mitre-members", "ids": ["?role:(", "x"]}',
        '{"do": "trim-members", "ids": ["?role:beam"], "to": "?role:column"}', '{"do": "add-members", "members": %s}' % ("[" * 3000 + "]" * 3000), "[" * 100_000, '{"do": 5}', "5", '{"do": "add-level", "name": 5, "elevation": {}}',
        '{"do": "set-house-rules", "values": {"title": "%s"}}' % ("x" * 1_000_000), '{"do": "set-house-rules", "values": {"plates": "x"}}', '{"do": "add-grid", "name": "a", "x": "999999999@6000", "y": "1"}',
        '{"do": "place-connection", "family": "fin-plate", "at": ["B1.start"], "settings": {"pitch": "%s"}}' % ("1 " * 900), '{"do": "add-level", "name": "a", "elevation": 1e999}',
    ]  # fmt: skip
    def run(*args: str, env: "dict[str, str] | None" = None, out: Any = subprocess.PIPE) -> "subprocess.CompletedProcess[bytes]":
        return subprocess.run([sys.executable, "-m", "tincleat.cli", *args], stdout=out, stderr=subprocess.PIPE, env={**os.environ, **(env or {})}, check=False)

    (tmp_path / "s.jsonl").write_bytes(b"\xff\xfe\x00")
    for i, text in enumerate(scripts):
        (tmp_path / f"{i}.jsonl").write_text(text)
    told: list[str] = []
    monkeypatch.setattr("sys.stderr", io.StringIO())
    for i, text in enumerate(scripts):
        assert main(["do", path, str(tmp_path / f"{i}.jsonl")]) == 2, text[:80]
        told.append(sys.stderr.getvalue())  # type: ignore[attr-defined]
        sys.stderr.truncate(0)  # type: ignore[attr-defined]
    assert all(t.strip("\0").startswith("tincleat: ") and "Traceback" not in t for t in told)
    monkeypatch.undo()
    for done in (run("do", path, str(tmp_path / "s.jsonl")), run("info", "half\udc80"), run("export", path, "--ifc", "/proc/none.ifc"), run("info", path, "\x1b[31m")):
        assert done.returncode == 2 and b"Traceback" not in done.stderr and b"\x1b" not in done.stderr, done.stderr
    # a terminal that knows no letters but the plain ones, and one that obeys escapes
    plain = run("do", path, str(_level(tmp_path)), env={"PYTHONIOENCODING": "ascii"})
    assert plain.returncode == 0 and b"\\xfc" in plain.stdout
    assert b"\x1b" not in run("select", path, "role:beam").stdout + run("stock", path).stdout + run("info", path).stdout
    full = Path("/dev/full")
    if full.exists():  # standard output that is full; nothing is written to it
        with full.open("wb") as out:
            done = run("info", path, out=out)
        assert done.returncode == 2 and b"disk is full" in done.stderr and b"Traceback" not in done.stderr
    again = Desk.open(path)
    again.undo()
    assert {t: dict(r) for t, r in again.project.tables.items()} == before
    shot = subprocess.run([sys.executable, "-m", "tincleat.app", "--shot", str(tmp_path / "x.png"), "--size", "axb"], capture_output=True, check=False)
    assert shot.returncode == 2 and b"no size" in shot.stderr and b"Traceback" not in shot.stderr


def _level(folder: Path) -> Path:
    script = folder / "u.jsonl"
    script.write_text('{"do": "add-level", "name": "Büro", "elevation": 2}')
    return script
