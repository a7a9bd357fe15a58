"""Tests that see: change the program at random, one place at a time, and count how many changes the tests notice.

``mutate.py [NUMBER] [SEED]``: a comparison turned, a sign, + for -, * for /, a constant by 15 %, in proof, families, kit, details,
steel, joints and true-up.  Works on a copy; prints each change with what became of it, survivors with their line.
"""

import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
WHERE = ("proof", "families", "kit", "details", "steel", "joints", "standards", "ready/rules.py")
# what fails soonest comes first
TESTS = (
    "test_figures.py", "test_thresholds.py", "test_proof.py", "test_families.py", "test_new_families.py", "test_gussets.py", "test_caps.py", "test_splices.py", "test_seats.py", "test_fins.py", "test_bent.py", "test_mitres.py", "test_round_bars.py", "test_schedules.py", "test_fly_braces.py", "test_flange_gussets.py", "test_stitches.py", "test_trimmers.py", "test_slab_heads.py", "test_welded_splices.py", "test_timber.py", "test_posts.py", "test_edge_angles.py", "test_hillside.py", "test_erection.py", "test_any_axis.py", "test_feet.py", "test_moments.py", "test_tubes.py", "test_tube_ends.py", "test_caps_and_bases.py", "test_walls.py", "test_stairs.py", "test_rows.py", "test_openings.py", "test_near.py", "test_bodies.py", "test_geometry.py", "test_joints.py", "test_tapered.py", "test_sawing.py", "test_other_engine.py", "test_matrix.py", "test_settings.py",
    "test_ready.py", "test_ledger.py", "test_demo.py", "test_sheet.py", "test_exchange.py", "test_shape.py", "test_in_step.py", "test_catalogue.py", "test_cli.py", "test_runs.py",
)  # fmt: skip
LONGEST = 420.0  # s a run may take; a change that makes the tests hang is noticed too
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


def main() -> int:
    """Print every change and, at the end, how many were noticed; exit code 1 under nine in ten."""
    number = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    chance = random.Random(int(sys.argv[2]) if len(sys.argv) > 2 else 1)
    files = [p for w in WHERE for p in sorted((ROOT / "src/tincleat" / w).rglob("*.py") if not w.endswith(".py") else [ROOT / "src/tincleat" / w])]
    spots = [(p, i) for p in files for i in range(len(list(places(ast.parse(p.read_text())))))]
    chosen = chance.sample(spots, min(number, len(spots)))
    survivors: list[str] = []
    with tempfile.TemporaryDirectory() as scratch:
        copy_ = Path(scratch) / "copy"
        shutil.copytree(ROOT, copy_, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__", "docs", ".mypy_cache", ".ruff_cache", ".hypothesis"))
        environment = {**os.environ, "PYTHONPATH": str(copy_ / "src"), "QT_QPA_PLATFORM": "offscreen", "PYTHONDONTWRITEBYTECODE": "1"}
        tests = [str(copy_ / "tests" / t) for t in TESTS if (copy_ / "tests" / t).exists()]
        start = time.monotonic()
        plain_run = subprocess.run([sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests], cwd=copy_, env=environment, capture_output=True, text=True)
        if plain_run.returncode != 0:
            print("the tests fail without any change:", plain_run.stdout[-1500:])
            return 2
        print(f"     unchanged {time.monotonic() - start:5.0f} s", flush=True)
        for k, (path, i) in enumerate(chosen, 1):
            target = copy_ / path.relative_to(ROOT)
            plain = target.read_text()
            source, line, what = changed(plain, i)  # of the copy: the tree may go on changing meanwhile
            target.write_text(source)
            start = time.monotonic()
            try:
                done = subprocess.run([sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", *tests], cwd=copy_, env=environment, capture_output=True, timeout=LONGEST)
                noticed = done.returncode != 0
            except subprocess.TimeoutExpired:
                noticed = True
            target.write_text(plain)
            where = f"{path.relative_to(ROOT / 'src/tincleat')}:{line}  {what}"
            print(f"{k:4} {'noticed ' if noticed else 'SURVIVED'} {time.monotonic() - start:5.0f} s  {where}", flush=True)
            if not noticed:
                survivors.append(where)
    print(f"{len(chosen) - len(survivors)} of {len(chosen)} noticed")
    for s in survivors:
        print("  survived:", s)
    return 0 if len(survivors) * 10 <= len(chosen) else 1


if __name__ == "__main__":
    sys.exit(main())
