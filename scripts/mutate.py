"""Tests that see: change the program at random, one place at a time, and count how many changes the tests notice.

``mutate.py [NUMBER] [SEED] [CALLS]``: a comparison turned, a sign, + for -, * for /, a constant by 15 %, in proof, families, kit, details,
steel, joints and true-up.  Works on a copy.  Each file of tests is run once with its calls noted; a change is shown to those that call what
it is in, quickest first; a file named CALLS keeps them for another run of the same tree.  Prints each change with what became of it, survivors with their line.
"""

import ast
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WHERE = ("proof", "families", "kit", "details", "steel", "joints", "standards", "ready/rules.py")
# tests of the window, of reading files and of limits do not prove the core; what only looks at files of code cannot notice
NOT = ("test_architecture.py", "test_app_parts.py", "test_contrast.py", "test_read_aloud.py", "test_own_families.py", "test_store.py", "test_underlay.py", "test_units.py", "test_limits.py", "test_foreign.py", "test_import.py", "test_files.py", "test_start.py")
# in a test process: notes every function of the program that is called, and writes their files and first lines at the end
RECORDER = """
import atexit, json, sys, threading
seen = set()
def note(frame, event, arg):
    if event == "call":
        seen.add(frame.f_code)
sys.setprofile(note)
threading.setprofile(note)
def pytest_unconfigure(config):
    sys.setprofile(None)
    with open({into!r}, "w") as f:
        json.dump(sorted({{(c.co_filename, c.co_firstlineno) for c in seen if "/src/tincleat/" in c.co_filename}}), f)
"""


def names() -> list[str]:
    """The names of all families, as they are declared in their files."""
    found = []
    for path in sorted((ROOT / "src/tincleat/families").rglob("*.py")):
        for node in ast.walk(ast.parse(path.read_text())):
            if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Family" and node.args and isinstance(node.args[0], ast.Constant):
                found.append(str(node.args[0].value))
    return found


WORKERS = 2  # runs beside each other while calls are noted
QUICK = 15.0  # s, its calls noted, up to which a file goes with others
NOTHING = 5  # what pytest ends with where there is no such test
# files with a row of tests a family: shown to those of the families that call what is changed
BY_FAMILY = {"test_matrix.py": [f"[{f}:" for f in names()], "test_any_settings.py": [f"[{f}]" for f in names()]}
COMPARE = {ast.Lt: ast.GtE, ast.LtE: ast.Gt, ast.Gt: ast.LtE, ast.GtE: ast.Lt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq}
OPERATE = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}


def places(tree: ast.Module) -> Iterator[tuple[ast.AST, str]]:
    """Every node that can be changed, with the kind of change: declarations of settings, docstrings and messages left alone."""
    words = {id(n) for node in ast.walk(tree) if isinstance(node, ast.Call | ast.JoinedStr | ast.Raise) and _speaks(node) for n in ast.walk(node)}
    for node in ast.walk(tree):
        if id(node) in words:
            continue
        if isinstance(node, ast.Compare) and len(node.ops) == 1 and type(node.ops[0]) in COMPARE:
            yield node, "comparison"
        elif isinstance(node, ast.BinOp) and type(node.op) in OPERATE and not isinstance(node.left, ast.Constant | ast.JoinedStr):
            yield node, "operator"
        elif isinstance(node, ast.UnaryOp) and isinstance(node.op, ast.USub):
            yield node, "sign"
        elif isinstance(node, ast.Constant) and isinstance(node.value, float) and node.value not in (0.0, 1.0, -1.0) and 0.05 < abs(node.value) < 1e4:
            yield node, "constant"


def _speaks(node: ast.AST) -> bool:
    """Whether a node only makes words or declares a control."""
    if isinstance(node, ast.JoinedStr | ast.Raise):
        return True
    return isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id in ("Setting", "NoFit", "BadValue", "Dimension", "Family")


def changed(source: str, number: int) -> tuple[str, int, str]:
    """The source with its ``number``-th place changed, the line, and what was done."""
    tree = ast.parse(source)
    node, kind = list(places(tree))[number]
    before = ast.unparse(node)
    if isinstance(node, ast.Compare):
        node.ops[0] = COMPARE[type(node.ops[0])]()
    elif isinstance(node, ast.BinOp):
        node.op = OPERATE[type(node.op)]()
    elif isinstance(node, ast.UnaryOp):
        node.op = ast.UAdd()
    elif isinstance(node, ast.Constant):
        node.value = float(node.value) * 1.15
    return ast.unparse(tree), node.lineno, f"{kind}: {before[:60]} -> {ast.unparse(node)[:60]}"  # type: ignore[attr-defined]


def function_at(source: str, line: int) -> int | None:
    """First line (of its decorators, where it has some) of the innermost function a line stands in; None at a module's or class's own level."""
    best: tuple[int, int] | None = None
    for node in ast.walk(ast.parse(source)):
        if isinstance(node, ast.FunctionDef) and node.lineno <= line <= (node.end_lineno or node.lineno):
            first = min([node.lineno, *(d.lineno for d in node.decorator_list)])
            best = max(best or (0, 0), (node.lineno, first))
    return best[1] if best else None


@dataclass(frozen=True)
class TestFile:
    """A file of tests, or those of it about one family; how long it takes by itself in s, and what it calls: first lines of functions by
    file of the program."""

    path: Path
    about: str
    seconds: float
    calls: dict[str, set[int]]

    def reaches(self, name: str, function: int | None) -> bool:
        """Whether a test of it calls that function; of a place outside all functions, whether it calls anything of that file."""
        return name in self.calls and (function is None or function in self.calls[name])


def test_files(copy_: Path, environment: dict[str, str], scratch: Path) -> list[TestFile]:
    """Every file of tests of the core, each run by itself, so that nothing kept from another hides what it calls; those that fail are left out."""

    def look(job: tuple[int, Path, str]) -> TestFile | None:
        number, path, about = job
        own = scratch / f"job{number}"
        own.mkdir()
        (own / "recorder.py").write_text(RECORDER.format(into=str(own / "calls.json")))
        start = time.monotonic()
        done = run([TestFile(path, about, 0.0, {})], copy_, {**environment, "PYTHONPATH": f"{environment['PYTHONPATH']}:{own}"}, "-p", "recorder", longest=3600.0)
        if done.returncode not in (0, NOTHING):
            print(f"     {path.name} {about} FAILS without any change and is left out: {done.stdout[-300:]}", flush=True)
            return None
        calls: dict[str, set[int]] = {}
        for name, line in json.loads((own / "calls.json").read_text()):
            calls.setdefault(name.split("/src/tincleat/")[1], set()).add(line)
        print(f"     {path.name:28} {about:18} {time.monotonic() - start:5.0f} s with its calls noted", flush=True)
        return TestFile(path, about, time.monotonic() - start, calls)

    paths = [p for p in sorted((copy_ / "tests").glob("test_*.py")) if p.name not in NOT and "qtbot" not in p.read_text()]
    jobs = [(i, path, about) for i, (path, about) in enumerate((p, about) for p in paths for about in BY_FAMILY.get(p.name, [""]))]
    with ThreadPoolExecutor(WORKERS) as pool:
        found = [t for t in pool.map(look, jobs) if t is not None]
    return sorted(found, key=lambda t: t.seconds)


def run(tests: list[TestFile], copy_: Path, environment: dict[str, str], *more: str, longest: float) -> "subprocess.CompletedProcess[str]":
    """The tests of some files, or those of one file about some families, stopped at the first that fails."""
    about = ["-k", " or ".join(t.about for t in tests)] if tests[0].about else []
    command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *more, *about, *dict.fromkeys(str(t.path) for t in tests)]
    return subprocess.run(command, cwd=copy_, env=environment, capture_output=True, text=True, timeout=longest)


def noticed_by(tests: list[TestFile], copy_: Path, environment: dict[str, str]) -> str:
    """What notices a change: the quick files together, those about families, and the slow ones last; empty if all pass."""
    plain = [t for t in tests if not t.about]
    groups = [[t for t in plain if t.seconds < QUICK], *([t for t in tests if t.about and t.path == p] for p in dict.fromkeys(t.path for t in tests if t.about)), *([t] for t in plain if t.seconds >= QUICK)]
    for some in (g for g in groups if g):
        try:
            done = run(some, copy_, environment, longest=60.0 + 4 * sum(t.seconds for t in some))
        except subprocess.TimeoutExpired:
            return f"{some[0].path.stem} hangs"
        if done.returncode not in (0, NOTHING):
            return next((w.split("::")[0].removeprefix("FAILED ") for w in done.stdout.splitlines() if w.startswith("FAILED ")), some[0].path.stem)
    return ""


def main() -> int:
    """Print every change and, at the end, how many were noticed; exit code 1 under nine in ten."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    kept = Path(sys.argv[3]) if len(sys.argv) > 3 else None
    files = [p for w in WHERE for p in sorted((ROOT / "src/tincleat" / w).rglob("*.py") if not w.endswith(".py") else [ROOT / "src/tincleat" / w])]
    survivors: list[str] = []
    with tempfile.TemporaryDirectory() as scratch:
        copy_ = Path(scratch) / "copy"
        shutil.copytree(ROOT, copy_, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", "docs", ".mypy_cache", ".ruff_cache", ".hypothesis"))
        # of the copy from here on: the tree may go on changing meanwhile
        texts = {p.relative_to(ROOT / "src/tincleat").as_posix(): (copy_ / p.relative_to(ROOT)).read_text() for p in files}
        spots = [(name, i) for name, text in texts.items() for i in range(len(list(places(ast.parse(text)))))]
        chosen = chance.sample(spots, min(number, len(spots)))
        environment = {**os.environ, "PYTHONPATH": str(copy_ / "src"), "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1"}
        known = test_files(copy_, environment, Path(scratch)) if kept is None or not kept.exists() else [TestFile(copy_ / t["path"], t["about"], t["seconds"], {k: set(v) for k, v in t["calls"].items()}) for t in json.loads(kept.read_text())]
        if kept is not None and not kept.exists():
            kept.write_text(json.dumps([{"path": str(t.path.relative_to(copy_)), "about": t.about, "seconds": t.seconds, "calls": {k: sorted(v) for k, v in t.calls.items()}} for t in known]))
        for k, (name, i) in enumerate(chosen, 1):
            target = copy_ / "src/tincleat" / name
            source, line, what = changed(texts[name], i)
            reaching = [t for t in known if t.reaches(name, function_at(texts[name], line))]
            target.write_text(source)
            start = time.monotonic()
            by = noticed_by(reaching, copy_, environment)
            target.write_text(texts[name])
            where = f"{name}:{line}  {what}"
            print(f"{k:4} {'noticed ' if by else 'SURVIVED'} {time.monotonic() - start:5.0f} s  {where}  {by or f'{len(reaching)} files of tests reach it'}", flush=True)
            if not by:
                survivors.append(where)
    print(f"{len(chosen) - len(survivors)} of {len(chosen)} noticed")
    for s in survivors:
        print("  survived:", s)
    return 0 if len(survivors) * 10 <= len(chosen) else 1


if __name__ == "__main__":
    sys.exit(main())
