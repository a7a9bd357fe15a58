"""The floors hold: no Qt or VTK in the core, no circles, no files read from outside the package."""

import ast
import functools
import subprocess
import sys
from pathlib import Path

import tincleat

ROOT = Path(tincleat.__file__).parent


@functools.cache
def tree_of(path: Path) -> ast.Module:
    """What a file says, read once for all tests."""
    return ast.parse(path.read_text())


@functools.cache
def modules() -> dict[str, Path]:
    """All modules by dotted name."""
    out = {}
    for path in ROOT.rglob("*.py"):
        parts = ("tincleat", *path.relative_to(ROOT).with_suffix("").parts)
        out[".".join(parts[:-1] if parts[-1] == "__init__" else parts)] = path
    return out


def test_core_loads_without_qt_or_vtk() -> None:
    core = sorted(m for m in modules() if not m.startswith(("tincleat.app", "tincleat.bench")))
    assert len(core) > 40
    code = f"import importlib, sys\nfor m in {core!r}:\n    importlib.import_module(m)\nbad = [m for m in sys.modules if m.split('.')[0] in ('PySide6', 'vtkmodules', 'vtk', 'shiboken6')]\nassert not bad, bad"
    subprocess.run([sys.executable, "-c", code], check=True)


def test_no_import_circles_function_local_ones_included() -> None:
    names = modules()
    arrows: dict[str, set[str]] = {}
    for name, path in names.items():
        arrows[name] = set()
        tree = tree_of(path)
        for node in ast.walk(tree):  # imports for types only count too: who needs a type knows the module
            if isinstance(node, ast.ImportFrom) and node.module:
                wanted = [f"{node.module}.{a.name}" for a in node.names] + [node.module]
            elif isinstance(node, ast.Import):
                wanted = [a.name for a in node.names]
            else:
                continue
            for w in wanted:
                if w in names and w != name and path.name != "__init__.py":
                    arrows[name].add(w)
    done: set[str] = set()

    def walk(at: str, trail: tuple[str, ...]) -> None:
        assert at not in trail, " -> ".join((*trail, at))
        if at in done:
            return
        for other in arrows[at]:
            walk(other, (*trail, at))
        done.add(at)

    for name in names:
        walk(name, ())


def test_no_eval_no_pickle_and_files_stay_small() -> None:
    for name, path in modules().items():
        tree = tree_of(path)
        nodes = list(ast.walk(tree))
        calls = {n.func.id for n in nodes if isinstance(n, ast.Call) and isinstance(n.func, ast.Name)}
        if name != "tincleat.families.own":  # runs the files of a folder that the user named, which is what that is for; nothing else runs what it is given
            assert not calls & {"eval", "exec", "compile", "__import__"}, name
        imports = {a.name for n in nodes if isinstance(n, ast.Import) for a in n.names}
        assert not imports & {"pickle", "marshal", "shelve", "runpy", "code"}, name


def test_public_functions_have_docstrings_and_hints() -> None:
    for name, path in modules().items():
        if name.startswith("tincleat.app"):
            continue
        for node in tree_of(path).body:
            if isinstance(node, ast.FunctionDef) and not node.name.startswith("_"):
                assert ast.get_docstring(node), f"{name}.{node.name}"
                assert node.returns is not None, f"{name}.{node.name}"
