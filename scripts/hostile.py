"""Feed mutated input to every reader: ``hostile.py [--count 10000] [--seed 1] [--only ifc,dxf]``.

Seeds are files of our own making; each is changed at random (bytes, numbers, lines left out, doubled, swapped, cut short) and read as a
user would: IFC, DXF, PDF, PNG, CSV, scripts and project files.  A reader may say what it likes in its own words; what counts is a
traceback or any error that is not the program's own, a crash of this process, more than 10 s, or a project that changed though the
command failed.  Files are small, memory is limited.  Exit 0 if nothing of that happened.
"""

import argparse
import multiprocessing
import os
import random
import re
import resource
import sqlite3
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from typing import Any

import ezdxf

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from foreign_cases import CASES, Lines

from tincleat.commands.desk import Desk
from tincleat.errors import Fault, TinCleatError
from tincleat.exchange import worker

LONG = 10.0
MEMORY = 6 << 30
ODD = ["0", "-1", "1E400", "-1.E308", "9.E12", "1E-300", "$", "*", "", "''", "NaN", ".T.", "#1", "#999999", "()", "(((((", "2147483648", "-0.", "'\\X2\\D800\\X0\\'", "'\x1b[31m'", "%s%n", "\0"]


def mutated(data: bytes, rng: random.Random) -> bytes:
    """Data with one to eight random changes."""
    for _ in range(rng.choice((1, 1, 2, 3, 8))):
        way = rng.randrange(9)
        if not data:
            return b""
        at = rng.randrange(len(data))
        if way == 0:
            data = data[:at] + bytes([rng.randrange(256)]) + data[at + 1 :]
        elif way == 1:
            data = data[:at]
        elif way == 2:
            lines = data.split(b"\n")
            i = rng.randrange(len(lines))
            data = b"\n".join(lines[:i] + lines[i + 1 :])
        elif way == 3:
            lines = data.split(b"\n")
            i, j = rng.randrange(len(lines)), rng.randrange(len(lines))
            lines[i], lines[j] = lines[j], lines[i]
            data = b"\n".join(lines)
        elif way == 4:
            lines = data.split(b"\n")
            i = rng.randrange(len(lines))
            data = b"\n".join(lines[:i] + [lines[i]] * rng.choice((2, 50)) + lines[i:])
        else:
            numbers = list(re.finditer(rb"(?<![\w#])-?\d+\.?\d*|#\d+|'[^'\n]{0,30}'|\$", data))
            if numbers:
                hit = rng.choice(numbers)
                data = data[: hit.start()] + rng.choice(ODD).encode("utf-8", "surrogatepass") + data[hit.end() :]
    return data


def altered(path: Path, rng: random.Random) -> None:
    """Change what stands in a project file behind the program's back: rows, counters, steps of the history."""
    db = sqlite3.connect(path)
    db.text_factory = bytes
    for _ in range(rng.choice((1, 1, 2, 5))):
        way = rng.randrange(5)
        if way < 3:
            tab, key, body = rng.choice(db.execute("SELECT tab, id, body FROM entity").fetchall())
            db.execute("UPDATE entity SET body = ? WHERE tab = CAST(? AS TEXT) AND id = CAST(? AS TEXT)", (mutated(body, rng), tab, key))
        elif way == 3:
            seq, changes = rng.choice(db.execute("SELECT seq, changes FROM history").fetchall())
            db.execute("UPDATE history SET changes = ? WHERE seq = ?", (mutated(changes, rng), seq))
        else:
            db.execute("UPDATE meta SET value = ? WHERE key = ?", (rng.choice((0, -1, 2**63 - 1, 1.5, "x", None)), rng.choice(("revision", "number", "identity"))))
    db.commit()
    db.close()


def seeds(folder: Path) -> dict[str, list[bytes]]:
    """Good files of every kind, as bytes."""
    ifc = []
    for case in CASES.values():
        f = Lines(case.schema, case.unit)
        case.make(f)
        ifc.append(f.text().encode())
    doc = ezdxf.new(units=6)
    msp = doc.modelspace()
    msp.add_lwpolyline([(0, 0), (6, 0), (6, 4)], close=True)
    msp.add_arc((0, 0), 1.0, 0, 90)
    msp.add_spline([(0, 0), (1, 2), (3, 1), (4, 4)])
    msp.add_ellipse((2, 2), (1, 0), 0.5)
    doc.blocks.new("b").add_line((0, 0), (1, 1))
    msp.add_blockref("b", (2, 2))
    doc.saveas(folder / "seed.dxf")
    pdf = b"%PDF-1.4\n1 0 obj\n<< /Type /Catalog /Pages 2 0 R >>\nendobj\n2 0 obj\n<< /Type /Pages /Kids [3 0 R] /Count 1 >>\nendobj\n3 0 obj\n<< /Type /Page /Parent 2 0 R /MediaBox [0 0 300 200] /Contents 4 0 R >>\nendobj\n4 0 obj\n<< /Length 30 >>\nstream\n0 0 0 rg 0 0 100 100 re f     \nendstream\nendobj\ntrailer\n<< /Size 5 /Root 1 0 R >>\n%%EOF\n"
    desk = Desk.create(folder / "seed.tincleat")
    desk.run("add-grid", name="main", x="2@6000", y="6000")
    desk.run("add-level", name="floor", elevation=3000)
    desk.run("add-members", members=[{"section": "UC 203x203x46", "role": "column", "start": [0, 0, 0], "end": [0, 0, 4000]}, {"section": "UB 305x165x40", "start": [0, 0, 3000], "end": [5000, 0, 3000]}])
    desk.run("place-all", family="fin-plate")
    desk.run("take-snapshot", name="s")
    desk.close()
    script = b'{"do": "add-level", "name": "a", "elevation": "3\'-6 1/2\\""}\n{"do": "add-members", "members": [{"section": "IPE 200", "start": [0, 0, 0], "end": ["5 m", 0, 0], "roll_deg": 30}, {"section": "HEB 200", "role": "column", "start": [0, 0, 0], "end": [0, 0, 4000]}]}\n{"do": "add-run", "kind": "joists", "settings": {"beams": ["?role:beam"], "section": "IPE 160", "spacing": 900}}\n{"do": "set-house-rules", "values": {"end_factor": 1.5}}\n{"do": "copy-members", "ids": ["?role:beam"], "by": [0, 2000, 0], "count": 3}\n{"do": "place-all", "family": "base-plate", "settings": {"plate_thickness": "3/4in"}}\n'
    csv = b"designation,shape,h,b,tw,tf,r1,r2,slope,tf_at,mass\nMY 300,I,300,150,8,12,15,0,0,0,\nMY 301,C,200,80,8,12,10,0,0,0,\n"
    png = b"\x89PNG\r\n\x1a\n\x00\x00\x00\rIHDR\x00\x00\x00\x10\x00\x00\x00\x10\x08\x02\x00\x00\x00\x90\x91h6"
    return {"ifc": ifc, "dxf": [(folder / "seed.dxf").read_bytes()], "pdf": [pdf], "png": [png], "script": [script], "csv": [csv], "project": [(folder / "seed.tincleat").read_bytes()]}


def tried(kind: str, path: Path, desk: Desk) -> None:
    """Read one file as a user would; raises whatever the program raises."""
    if kind == "ifc":
        desk.run("import-frame", path=str(path))
    elif kind in ("dxf", "pdf", "png"):
        desk.run("add-underlay", path=str(path))
    elif kind == "csv":
        desk.run("import-sections", path=str(path))
    elif kind == "script":
        desk.run_script(path.read_bytes().decode("utf-8", "replace"))
    else:
        opened = Desk.open(path)
        try:
            opened.faults()
            opened.ledger.counts()
            opened.undo()
            opened.run("add-level", name="after", elevation=12)
        finally:
            opened.close()


SUFFIX = {"ifc": ".ifc", "dxf": ".dxf", "pdf": ".pdf", "png": ".png", "csv": ".csv", "script": ".jsonl", "project": ".tincleat"}
SHARE = {"ifc": 0.12, "dxf": 0.06, "pdf": 0.04, "png": 0.04, "script": 0.34, "csv": 0.14, "project": 0.26}


def rounds(kind: str, number: int, seed: int, out: "multiprocessing.Queue[Any]") -> None:
    """Some rounds of one kind, in a process of their own, whose crash is one more thing to count."""
    resource.setrlimit(resource.RLIMIT_AS, (MEMORY, MEMORY))
    rng = random.Random(f"{kind} {seed}")
    with tempfile.TemporaryDirectory(prefix="tincleat-hostile-") as scratch:
        folder = Path(scratch)
        good = seeds(folder)[kind]
        works = [Desk.create(folder / f"{name}.tincleat") for name in ("trial", "work")]
        for work in works:
            work.run("add-members", members=[{"section": "UB 305x165x40", "start": [0, 2000, 0], "end": [5000, 2000, 0]}])
        trial, desk = works
        for i, data in enumerate(good if kind in ("script", "csv", "project", "dxf") else ()):
            path = folder / f"seed-{i}{SUFFIX[kind]}"
            path.write_bytes(data)
            tried(kind, path, trial)  # what is changed at random must be good at first, or nothing is tried
        trial.close()
        before = {t: dict(r) for t, r in desk.project.tables.items()}
        told: Counter[str] = Counter()
        wrong: list[str] = []
        for i in range(number):
            path = folder / f"h{i}{SUFFIX[kind]}"
            data = mutated(rng.choice(good), rng)
            path.write_bytes(data)
            if kind == "project" and rng.random() < 0.8:
                path.write_bytes(good[0])
                altered(path, rng)
                data = path.read_bytes()
            start = time.monotonic()
            try:
                tried(kind, path, desk)
                told["read"] += 1
            except Fault as error:
                wrong.append(f"{kind} {seed}/{i}: {error}")
            except TinCleatError:
                told["said no"] += 1
                if kind != "project" and {t: dict(r) for t, r in desk.project.tables.items()} != before:
                    wrong.append(f"{kind} {seed}/{i}: the project changed though it was refused")
            except Exception as error:
                wrong.append(f"{kind} {seed}/{i}: {type(error).__name__}: {str(error)[:160]}")
            took = time.monotonic() - start
            if took > LONG + 2:
                wrong.append(f"{kind} {seed}/{i}: took {took:.1f} s")
            if wrong and wrong[-1].startswith(f"{kind} {seed}/{i}:"):
                Path(tempfile.gettempdir(), f"hostile-{kind}-{seed}-{i}{SUFFIX[kind]}").write_bytes(data)
            while {t: dict(r) for t, r in desk.project.tables.items()} != before:
                if not desk.undo():
                    break
            for extra in folder.glob(f"h{i}*"):
                extra.unlink()
        desk.close()
        out.put((dict(told), wrong))


def main() -> int:
    """Run the campaign and print the figures."""
    parser = argparse.ArgumentParser(description="Feed mutated input to every reader.")
    parser.add_argument("--count", type=int, default=10_000)
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--only", default="")
    args = parser.parse_args()
    worker.BODY = worker.SILENT = 8.0
    bad: list[str] = []
    for kind, share in SHARE.items():
        if args.only and kind not in args.only.split(","):
            continue
        number = round(args.count * share)
        start = time.monotonic()
        told: Counter[str] = Counter()
        done = 0
        part = 0
        while done < number:
            some = min(200, number - done)
            out: multiprocessing.Queue[Any] = multiprocessing.Queue()
            child = multiprocessing.Process(target=rounds, args=(kind, some, args.seed * 1000 + part, out))
            child.start()
            found: tuple[dict[str, int], list[str]] | None = None
            while child.is_alive() and found is None:
                try:
                    found = out.get(timeout=1.0)
                except Exception:
                    continue
            child.join()
            if found is None and not out.empty():
                found = out.get()
            if found is None:
                bad.append(f"{kind} part {part}: the process ended with {child.exitcode}")
                print(bad[-1], flush=True)
            else:
                told.update(found[0])
                bad += found[1]
                for words in found[1]:
                    print(words, flush=True)
            done += some
            part += 1
        print(f"{kind}: {number} mutated, {dict(told)}, {time.monotonic() - start:.0f} s", flush=True)
    print(f"{len(bad)} crashes, hangs, tracebacks or changes")
    return 1 if bad else 0


if __name__ == "__main__":
    os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
    multiprocessing.set_start_method("spawn")
    check: Callable[[], int] = main
    sys.exit(check())
