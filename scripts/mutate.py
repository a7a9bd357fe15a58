"""Tests that see: change the program at random, one place at a time, and count how many changes the tests notice.

``mutate.py [NUMBER] [SEED] [CALLS]``: a comparison turned, a sign, + for -, * for /, a constant by 15 %, in proof, families, kit, details,
steel, joints and true-up.  Works on a copy.  Each test is run once with its calls noted; a change is shown to those that call what it is in,
quickest first, in a branch of a process that has collected them all (``shows.py``); a file named CALLS keeps the calls for another run of
the same tree.  Prints each change with what became of it, survivors with their line.
"""

import ast
import base64
import json
import marshal
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from pathlib import Path

from shows import when_loaded

ROOT = Path(__file__).resolve().parent.parent
WHERE = ("proof", "families", "kit", "details", "steel", "joints", "standards", "ready/rules.py")
# tests of the window, of reading files and of limits do not prove the core; what only looks at files of code cannot notice; what compares
# with another process would notice anything, for that runs the program as it is
NOT = ("test_architecture.py", "test_app_parts.py", "test_contrast.py", "test_read_aloud.py", "test_own_families.py", "test_store.py", "test_underlay.py", "test_units.py", "test_limits.py", "test_foreign.py", "test_import.py", "test_files.py", "test_start.py", "test_hands.py")
WORKERS = 2  # processes beside each other
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


def changed(source: str, number: int) -> tuple[ast.Module, int, str]:
    """The source's tree with its ``number``-th place changed, the line, and what was done."""
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
    return tree, node.lineno, f"{kind}: {before[:60]} -> {ast.unparse(node)[:60]}"  # type: ignore[attr-defined]


def functions_at(source: str, line: int) -> set[int]:
    """First lines (of their decorators, where they have some) of the functions a line stands in."""
    nodes = [n for n in ast.walk(ast.parse(source)) if isinstance(n, ast.FunctionDef) and n.lineno <= line <= (n.end_lineno or n.lineno)]
    return {min([n.lineno, *(d.lineno for d in n.decorator_list)]) for n in nodes}


@dataclass(frozen=True)
class Tests:
    """Every test of the core: how long it takes in s with its calls noted; and those that call each function, by file and first line."""

    seconds: dict[str, float]
    calling: dict[str, dict[int, list[str]]]

    def reach(self, name: str, functions: set[int]) -> list[str]:
        """The tests that call one of the functions of a file, or anything of it where none is named; quickest first."""
        found = {t: None for line, tests in self.calling.get(name, {}).items() if not functions or line in functions for t in tests}
        return sorted(found, key=lambda t: self.seconds[t])


@dataclass(frozen=True)
class Job:
    """A change: its number, the file, what was done where, the changed tree, the tests that reach it, and the code of the whole file as it
    becomes and as it was (none where a line is changed that runs when the file is loaded)."""

    number: int
    name: str
    what: str
    tree: ast.Module
    tests: list[str]
    code: tuple[bytes, ...]


class Bench:
    """A copy of the tree with its tests."""

    def __init__(self, copy_: Path, scratch: Path) -> None:
        self.copy, self.scratch = copy_, scratch
        self.paths = [p for p in sorted((copy_ / "tests").glob("test_*.py")) if p.name not in NOT and "qtbot" not in p.read_text()]
        self.environment = {**os.environ, "PYTHONPATH": f"{copy_ / 'src'}:{ROOT / 'scripts'}", "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1", "OPENBLAS_NUM_THREADS": "1"}

    def start(self, paths: Sequence[Path], **more: object) -> "subprocess.Popen[str]":
        """A process of the tests of some files."""
        command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", "-p", "shows", *map(str, paths)]
        with (self.scratch / "said.txt").open("a") as said:  # by pytest itself: read where something went wrong
            return subprocess.Popen(command, cwd=self.copy, env={**self.environment, **{k: str(v) for k, v in more.items()}}, stdout=said, stderr=subprocess.PIPE, text=True)

    def note(self) -> Tests:
        """Run all tests with their calls noted."""
        into = [self.scratch / f"calls{i}.json" for i in range(WORKERS)]
        for going in [self.start(self.paths, NOTE=path, PART=i, PARTS=WORKERS) for i, path in enumerate(into)]:
            print(going.communicate()[1], end="", flush=True)
        tests = Tests({}, {})
        for path in into:
            if not path.exists():
                raise SystemExit(f"the tests cannot be run: {(self.scratch / 'said.txt').read_text()[-3000:]}")
            kept = json.loads(path.read_text())
            for test, (seconds, numbers) in kept["tests"].items():
                tests.seconds[test] = seconds
                for name, line in (kept["functions"][n] for n in numbers):
                    tests.calling.setdefault(name, {}).setdefault(line, []).append(test)
        return tests

    def show(self, jobs: Sequence[Job], seconds: dict[str, float]) -> Iterator[tuple[Job, str, float]]:
        """What became of each change, in the order in which that is known, with the test that noticed it (or nothing) and s."""
        waiting = {job.number: job for job in jobs}
        paths = dict.fromkeys(t.split("::")[0] for job in jobs for t in job.tests)
        told = self.scratch / f"jobs{jobs[0].number}.json"
        told.write_text(json.dumps([{"number": j.number, "name": j.name, "tests": j.tests, "seconds": [seconds[t] for t in j.tests], "code": [base64.b64encode(c).decode() for c in j.code]} for j in jobs]))
        going = self.start([self.copy / p for p in paths], SHOW=told, BESIDE=WORKERS)
        assert going.stderr is not None
        other = ""
        for line in going.stderr:
            if line.startswith("SHOWN "):
                one = json.loads(line.removeprefix("SHOWN "))
                yield waiting.pop(one["number"]), one["by"], one["seconds"]
            else:
                other += line
        going.wait()
        for job in waiting.values():  # what cannot even be loaded is noticed by that; of several changes one has ended the process of all
            yield job, "tests that cannot be collected" if len(jobs) == 1 else f"NOT SHOWN: {other[-300:]}{(self.scratch / 'said.txt').read_text()[-300:]}", 0.0


def jobs_of(chosen: Sequence[tuple[str, int]], texts: dict[str, str], tests: Tests) -> list[Job]:
    """The changes at the chosen places, numbered from 1."""
    found = []
    for k, (name, i) in enumerate(chosen, 1):
        tree, line, what = changed(texts[name], i)
        was, new = compile(texts[name], name, "exec"), compile(tree, name, "exec")
        loaded = when_loaded(was, new)
        reaching = tests.reach(name, set() if loaded else functions_at(texts[name], line))
        if not reaching:  # what no test calls may be called where a file is loaded
            loaded, reaching = True, tests.reach(name, set())
        found.append(Job(k, name, f"{name}:{line}  {what}", tree, reaching, () if loaded else (marshal.dumps(new), marshal.dumps(was))))
    return found


def main() -> int:
    """Print every change and, at the end, how many were noticed; exit code 1 under nine in ten."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    kept = Path(sys.argv[3]) if len(sys.argv) > 3 else None
    files = [p for w in WHERE for p in sorted((ROOT / "src/tincleat" / w).rglob("*.py") if not w.endswith(".py") else [ROOT / "src/tincleat" / w])]
    survivors: list[Job] = []

    def tell(job: Job, by: str, seconds: float) -> None:
        if not by:
            survivors.append(job)
        print(f"{job.number:4} {'noticed ' if by else 'SURVIVED'} {seconds:5.0f} s  {job.what}  {by or f'{len(job.tests)} tests reach it'}", flush=True)

    with tempfile.TemporaryDirectory() as scratch:
        copy_ = Path(scratch) / "copy"
        shutil.copytree(ROOT, copy_, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", "docs", ".mypy_cache", ".ruff_cache", ".hypothesis"))
        # of the copy from here on: the tree may go on changing meanwhile
        texts = {p.relative_to(ROOT / "src/tincleat").as_posix(): (copy_ / p.relative_to(ROOT)).read_text() for p in files}
        spots = [(name, i) for name, text in texts.items() for i in range(len(list(places(ast.parse(text)))))]
        chosen = chance.sample(spots, min(number, len(spots)))
        bench = Bench(copy_, Path(scratch))
        if kept is not None and kept.exists():
            old = json.loads(kept.read_text())
            tests = Tests(old["seconds"], {name: {int(line): found for line, found in by.items()} for name, by in old["calling"].items()})
        else:
            tests = bench.note()
            if kept is not None:
                kept.write_text(json.dumps({"seconds": tests.seconds, "calling": tests.calling}))
        print(f"{len(tests.seconds)} tests; {len(spots)} places, of which {len(chosen)} are changed", flush=True)
        jobs = jobs_of(chosen, texts, tests)
        together = [j for j in jobs if j.code and j.tests]
        for some in [*([together] if together else []), *([j] for j in jobs if not j.code and j.tests)]:
            target = copy_ / "src/tincleat" / some[0].name
            if not some[0].code:
                target.write_text(ast.unparse(some[0].tree))
            for told in bench.show(some, tests.seconds):
                tell(*told)
            target.write_text(texts[some[0].name])
        for job in jobs:
            if not job.tests:
                tell(job, "", 0.0)
    print(f"{len(jobs) - len(survivors)} of {len(jobs)} noticed")
    for job in sorted(survivors, key=lambda j: j.number):
        print("  survived:", job.what)
    return 0 if len(survivors) * 10 <= len(jobs) else 1


if __name__ == "__main__":
    sys.exit(main())
