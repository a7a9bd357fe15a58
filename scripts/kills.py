"""Kill the program at any moment and look at what is left: ``kills.py [--commands 200] [--writers 150] [--seed 1]``.

Commands: a child edits a project and prints what it was told is kept; killed with signal 9, everything it printed must be in the file.
Writers: ``new``, ``new --demo``, ``import -o``, exports and copies; killed, the target is whole or as it was before.
Each round sets limits on memory; nothing is written outside a scratch folder.  Exit 0 if nothing was lost and nothing left half made.
"""

import argparse
import os
import random
import resource
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.exchange.ifc import export_ifc
from tincleat.project.entities import HouseRules

EDITS = """
import sys
from tincleat.commands.desk import Desk
desk = Desk.open(sys.argv[1])
name = next(iter(desk.project.connections))
print("ready", flush=True)
i = 0
while True:
    i += 1
    way = i % 4
    if way == 3:
        desk.undo()
        print("undone", flush=True)
    else:
        desk.run("change-connections", ids=[name], settings={"grout": 20.0 + i % 60})
        print(20.0 + i % 60, flush=True)
"""
COPY = "import sys; from tincleat.commands.desk import Desk; d = Desk.open(sys.argv[1]); print('ready', flush=True); d.store.copy_to(sys.argv[2])"
MEMORY = 4 << 30


def _limited() -> None:
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))


def killed(argv: list[str], wait: float, ready: bool = False) -> str:
    """Run a command and kill it after some seconds (counted from its first line if ``ready``); what it printed."""
    child = subprocess.Popen([sys.executable, *argv], stdout=subprocess.PIPE, stderr=subprocess.DEVNULL, text=True, preexec_fn=_limited)
    assert child.stdout is not None
    if ready:
        child.stdout.readline()
    time.sleep(wait)
    child.kill()
    out = child.stdout.read()
    child.wait()
    child.stdout.close()
    return out


def command_round(path: Path, rng: random.Random) -> str:
    """One kill of a child that edits; what went wrong, or an empty text."""
    told = killed(["-c", EDITS, str(path)], 0.02 + rng.random() * 0.25, True).split()
    desk = Desk.open(path)
    try:
        if desk.faults():
            return f"faults: {desk.faults()}"
        value = next(iter(desk.project.connections.values())).settings.get("grout")
        values = [w for w in told if w != "undone"]
        if not values or told[-1] == "undone":
            return ""
        # the last value told, the next one that was being written, or the one before it that an undo was bringing back
        at = float(values[-1])
        allowed = {at, 20.0 + (at - 19.0) % 60, float(values[-2]) if len(values) > 1 else at, None}
        return "" if value in allowed else f"told {told[-3:]}, found {value}"
    finally:
        desk.close()


def writers(folder: Path) -> "dict[str, tuple[list[str], Path, Callable[[Path], None], float]]":
    """Writers by name: the command, its target, what the target must hold if it is there, and how long it takes at most."""
    source = folder / "source.tincleat"
    desk = make_demo("boathouse", source)
    ifc = export_ifc(desk.ledger, folder / "source.ifc")
    desk.close()

    def project(members: int) -> "Callable[[Path], None]":
        def check(path: Path) -> None:
            made = Desk.open(path)
            assert not made.faults(), made.faults()
            assert len(made.project.members) == members, len(made.project.members)
            made.run("add-level", name="after", elevation=1)
            made.close()

        return check

    def text(end: str) -> "Callable[[Path], None]":
        def check(path: Path) -> None:
            assert path.read_text(encoding="utf-8-sig").rstrip().endswith(end), path.read_text()[-80:]

        return check

    def zipped(path: Path) -> None:
        import zipfile

        with zipfile.ZipFile(path) as z:
            assert z.testzip() is None

    count = len(Desk.open(source).project.members)
    cli = ["-m", "tincleat.cli"]
    return {
        "new": ([*cli, "new", str(folder / "n.tincleat")], folder / "n.tincleat", project(0), 0.7),
        "new --demo": ([*cli, "new", "--demo", "boathouse", str(folder / "d.tincleat")], folder / "d.tincleat", project(count), 1.3),
        "new --force": ([*cli, "new", "--demo", "boathouse", "--force", str(folder / "f.tincleat")], folder / "f.tincleat", project(count), 1.4),
        "import -o": ([*cli, "import", str(ifc), "-o", str(folder / "i.tincleat")], folder / "i.tincleat", project(count), 2.6),
        "export --ifc": ([*cli, "export", str(source), "--ifc", str(folder / "o.ifc")], folder / "o.ifc", text("END-ISO-10303-21;"), 1.5),
        "export --bom": ([*cli, "export", str(source), "--bom", str(folder / "o.xlsx")], folder / "o.xlsx", zipped, 1.3),
        "copy": (["-c", COPY, str(source), str(folder / "c.tincleat")], folder / "c.tincleat", project(count), 0.9),
    }


def main() -> int:
    """Run both campaigns and print the figures."""
    parser = argparse.ArgumentParser(description="Kill the program at any moment and look at what is left.")
    parser.add_argument("--commands", type=int, default=200)
    parser.add_argument("--writers", type=int, default=150)
    parser.add_argument("--seed", type=int, default=1)
    args = parser.parse_args()
    rng = random.Random(args.seed)
    bad = 0
    with tempfile.TemporaryDirectory(prefix="tincleat-kills-") as scratch:
        folder = Path(scratch)
        path = folder / "edits.tincleat"
        desk = Desk.create(path, HouseRules(title="Kills"))
        desk.run("add-members", members=[{"section": "UC 203x203x46", "role": "column", "start": [0, 0, 0], "end": [0, 0, 4000]}])
        desk.run("place-all", family="base-plate")
        desk.close()
        for i in range(args.commands):
            wrong = command_round(path, rng)
            if wrong:
                bad += 1
                print(f"command kill {i}: {wrong}", flush=True)
        print(f"{args.commands} kills of commands: {bad} lost", flush=True)
        for name, (argv, target, check, long) in writers(folder).items():
            whole = none = old = half = 0
            for _ in range(args.writers):
                keep = b""
                if name == "new --force":
                    Desk.create(target, HouseRules(title="Old"), overwrite=True).close()
                    keep = target.read_bytes()
                killed(argv, rng.random() * long, name == "copy")
                if keep and target.exists() and target.read_bytes() == keep:
                    old += 1
                elif not target.exists():
                    none += 1
                    half += bool(keep)
                else:
                    try:
                        check(target)
                        whole += 1
                    except Exception as error:
                        half += 1
                        print(f"{name}: {type(error).__name__}: {str(error)[:200]}", flush=True)
                for extra in folder.glob(f"{target.name}*"):
                    extra.unlink()
            parts = len(list(folder.glob(".*part-*")))
            bad += half
            print(f"{args.writers} kills of {name}: {whole} whole, {none} none, {old} as before, {half} half made, {parts} parts left for the next start", flush=True)
            shutil.rmtree(folder / "__none__", ignore_errors=True)
            Desk.create(folder / "sweep.tincleat", overwrite=True).close()
            if list(folder.glob(".*part-*")):
                bad += 1
                print(f"{name}: parts are not swept up", flush=True)
    return 1 if bad else 0


if __name__ == "__main__":
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    sys.exit(main())
