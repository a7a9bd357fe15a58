"""Measure this machine against the figures the program must reach: a table, and JSON."""

import json
import os
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from dataclasses import asdict, dataclass
from pathlib import Path
from typing import TYPE_CHECKING

import numpy as np

if TYPE_CHECKING:
    from tincleat.joints.case import Joint
    from tincleat.project.entities import HouseRules


@dataclass(frozen=True)
class Figure:
    """One measured path: its median (and 95th percentile where many were taken) beside what it must reach."""

    path: str
    unit: str
    median: float
    worst: float
    reach: float
    more_is_better: bool = False
    note: str = ""

    @property
    def good(self) -> bool:
        """Whether the median reaches its figure."""
        return self.median >= self.reach if self.more_is_better else self.median <= self.reach


def _times(work: Callable[[int], object], count: int) -> tuple[float, float]:
    """Median and 95th percentile in ms of ``work(i)``."""
    out = []
    for i in range(count):
        start = time.perf_counter()
        work(i)
        out.append((time.perf_counter() - start) * 1000)
    return statistics.median(out), sorted(out)[max(0, int(len(out) * 0.95) - 1)]


def run(as_json: bool, quick: bool) -> int:
    """Measure everything and print it; exit code 0."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    os.environ.pop("DISPLAY", None) if os.environ["QT_QPA_PLATFORM"] == "offscreen" else None
    figures: list[Figure] = []
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch)
        for part in (_core, _mixed, _window, _shed, _large, _frame):
            for figure in part(folder, quick):
                figures.append(figure)
                if not as_json:
                    _print(figure)
    if as_json:
        print(json.dumps([{**asdict(f), "good": f.good} for f in figures], indent=1))
    return 0


def _print(f: Figure) -> None:
    sense = "≥" if f.more_is_better else "≤"
    print(f"{'ok  ' if f.good else 'MISS'} {f.path:<58} {f.median:>10.2f} {f.unit:<5} (p95 {f.worst:.2f}), to reach {sense} {f.reach:g}  {f.note}", flush=True)


# of every family of the first demo a setting to change, from where to where
EDITED = (
    ("base-plate", "plate_thickness", 15.0, 40.0), ("fin-plate", "edge_distance", 40.0, 60.0), ("end-plate", "end_distance", 40.0, 60.0), ("angle-cleats", "end_distance", 35.0, 55.0),
    ("bracing-gusset", "overlap", 110.0, 160.0), ("stiffeners", "thickness", 8.0, 20.0), ("purlin-cleat", "gap", 6.0, 16.0),
)  # fmt: skip


# and of those that it has none of
EDITED_MIXED = (
    ("cap-plate", "thickness", 12.0, 30.0), ("seat-cleat", "end_distance", 40.0, 60.0), ("splice-covers", "gap", 6.0, 16.0), ("flange-plates", "off", 35.0, 55.0), ("welded-moment", "bevel", 0.5, 0.8),
    ("tube-end-plate", "off", 35.0, 55.0), ("cap-and-base", "cap_thickness", 15.0, 35.0), ("wall-bearing", "bearing", 150.0, 200.0), ("web-opening", "width", 150.0, 200.0),
)  # fmt: skip


# beams come to these webs from both sides: what shares its bolts there or has none
SHARED_WEB = {"beam to beam web": ("fin-plate", "angle-cleats"), "beam to column web": ("fin-plate", "angle-cleats", "tube-end-plate")}


def _rate(name: str, kinds: "list[Joint]", setting: str, low: float, high: float, house: "HouseRules", quick: bool) -> list[Figure]:
    """How many different details of a family are built and proved a second, as a large model's are: by as many processes as there are
    processors; how many by one alone; and how long one known already takes at one more joint."""
    from tincleat.ledger.hands import processes
    from tincleat.ledger.made import Workshop, prove_many

    if not kinds:
        return [Figure(f"distinct details built and proved, {name}", "/s", 0.0, 0.0, 150, True, "no joint for it")]
    shop, by_one = Workshop(), Workshop()
    per = max(4, (180 if quick else 480) // len(kinds))
    jobs = [(name, joint.case, joint.mirrored, {setting: value}) for joint in kinds for value in np.linspace(low, high, per).tolist()]
    start = time.perf_counter()
    shop.make_many(jobs, house, True, lambda done, all_: None)
    made = [shop.make(*job, house) for job in jobs]
    prove_many(made, lambda done, all_: None)
    assert all(m.findings for m in made)
    rate = shop.built / (time.perf_counter() - start)  # what came from its cache does not count
    start = time.perf_counter()
    assert all(by_one.make(*job, house).findings for job in jobs[:: 6 if quick else 3])
    alone = by_one.built / (time.perf_counter() - start)
    count, joint = shop.built, kinds[0]
    shop.make(name, joint.case, joint.mirrored, {}, house)
    median, worst = _times(lambda _: shop.make(name, joint.case, joint.mirrored, {}, house), 2000)
    return [
        Figure(f"distinct details built and proved, {name}", "/s", rate, rate, 150, True, f"{count} details by up to {processes()} processes; {alone:.0f} by one"),
        Figure(f"detail of a known kin at one more joint, {name}", "ms", median, worst, 0.2),
    ]


def _core(folder: Path, quick: bool) -> list[Figure]:
    from tincleat.demo import boathouse
    from tincleat.exchange.ifc import export_ifc
    from tincleat.proof.measure import nearest_edge

    out = []
    desk = boathouse.build_joined(folder / "core.tincleat")
    entries = list(desk.ledger.entries.values())
    for name, setting, low, high in EDITED:
        kinds = list({e.joint.case: e.joint for e in entries if e.connection is not None and e.connection.family == name and not desk.ledger.refusal(e.joint, name, {})}.values())
        out += _rate(name, kinds, setting, low, high, desk.project.house, quick)
    rng = np.random.default_rng(1)
    corners = np.array([(0.0, 0.0), (200.0, 0.0), (200.0, 280.0), (20.0, 300.0), (0.0, 280.0)])
    points = rng.uniform(0, 200, (100_000, 2))
    median, worst = _times(lambda _: nearest_edge(points, corners, np.roll(corners, -1, axis=0)), 5)
    out.append(Figure("100,000 edge distances", "ms", median, worst, 100))
    desk.ledger.counts()
    median, worst = _times(lambda i: export_ifc(desk.ledger, folder / f"{i}.ifc"), 5)
    out.append(Figure("IFC4 out, the boathouse", "ms", median, worst, 1000, note=f"{sum(e.made is not None for e in entries)} connections"))
    desk.close()
    return out


def _window(folder: Path, quick: bool) -> list[Figure]:
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from tincleat.app import theme
    from tincleat.app.window import Window
    from tincleat.commands.desk import Desk
    from tincleat.demo import boathouse

    out = []
    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    theme.load_fonts()
    theme.apply(app, theme.LIGHT)
    path = folder / "window.tincleat"
    boathouse.build(path).close()
    starts = []
    for _ in range(2 if quick else 4):
        start = time.perf_counter()
        subprocess.run([sys.executable, "-m", "tincleat.app", str(path), "--shot", str(folder / "first.png")], check=True, capture_output=True)
        starts.append((time.perf_counter() - start) * 1000)
    out.append(Figure("start of the process to first picture of the demo", "ms", statistics.median(starts), max(starts), 3000, note="with shut-down"))
    window = Window(theme.LIGHT, QSettings(str(folder / "bench.ini"), QSettings.Format.IniFormat))
    window.boxes = False
    window.resize(1280, 800)
    window.show()
    window.set_desk(Desk.open(path))
    app.processEvents()
    desk = window.desk
    assert desk is not None
    for family, setting, first in (("base-plate", "grout", 20.0), ("fin-plate", "edge_distance", 38.0)):
        entry = next(e for e in desk.ledger.entries.values() if e.connection is not None and e.connection.family == family)
        assert entry.connection is not None
        window.select([entry.joint.key], [], True)
        for _ in range(3):
            app.processEvents()
        name = entry.connection.id

        def edit(i: int, name: str = name, setting: str = setting, first: float = first) -> None:
            # a value never used before, so that nothing comes from a cache
            window.run("change-connections", ids=[name], settings={setting: first + i})
            app.processEvents()

        median, worst = _times(edit, 12 if quick else 60)
        out.append(Figure(f"edit one setting: build, prove, draw, keep, {family}", "ms", median, worst, 50))
    window.close()
    return out


def _frame(folder: Path, quick: bool) -> list[Figure]:
    """A bare frame of 10,000 members: import, orbit, selection, query, one member moved with its connections."""
    import ifcopenshell
    from ifcopenshell.util.placement import get_local_placement
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from tincleat.app import theme
    from tincleat.app.window import Window
    from tincleat.commands.desk import Desk
    from tincleat.demo import longshed
    from tincleat.exchange.ifc import export_ifc
    from tincleat.exchange.ifc_in import import_ifc
    from tincleat.ledger.query import members_like

    count = 1000 if quick else 10_000
    share = count / 10_000
    out = []
    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    desk = longshed.build(folder / "frame.tincleat", count=count)
    bare = Desk.create(folder / "bare.tincleat")
    for m in desk.project.members.values():
        bare.project.tables["member"][m.id] = m
    bare.ledger.rebuild()
    path = export_ifc(bare.ledger, folder / "frame.ifc")
    bare.close()
    start = time.perf_counter()
    model = ifcopenshell.open(str(path))
    for kind in ("IfcBeam", "IfcColumn", "IfcMember"):
        for e in model.by_type(kind):
            get_local_placement(e.ObjectPlacement)
            item = next(r for r in e.Representation.Representations if r.RepresentationIdentifier == "Body").Items[0]
            while not item.is_a("IfcExtrudedAreaSolid"):
                item = item.FirstOperand
            _ = item.SweptArea.ProfileName
    theirs = (time.perf_counter() - start) * 1000
    start = time.perf_counter()
    found = import_ifc(path)
    ours = (time.perf_counter() - start) * 1000
    out.append(
        Figure(
            f"IFC in, {len(found.members)} members",
            "ms",
            ours,
            ours,
            min(15_000 * share, 2 * theirs),
            note=f"open and look-ups by the library alone {theirs:.0f} ms",
        )
    )
    window = Window(theme.LIGHT, QSettings(str(folder / "frame.ini"), QSettings.Format.IniFormat))
    window.boxes = False
    window.resize(1280, 800)
    window.show()
    window.set_desk(desk)
    app.processEvents()
    view, ids = window.view, list(desk.project.members)

    def turn(i: int) -> None:
        view.camera.orbit(6, 0, view.camera.target)
        view.moving = True
        view.draw_now()

    turn(0)
    median, worst = _times(turn, 12)
    note = f"{len(ids)} members, {len(desk.project.connections)} connections"
    out.append(Figure("turn the whole frame", "ms", median, worst, 118, note=note))

    def select(i: int) -> None:
        window.select([], [ids[len(ids) // 2 + i]])
        app.processEvents()

    select(0)
    median, worst = _times(select, 20)
    out.append(Figure("select one member: panel, marks, picture", "ms", median, worst, 100))
    texts = ("role:beam", "size:UB* level:+3500", "end:open", "joined:fin-plate", "role:joist -breach:yes", "length:>5000")
    median, worst = _times(lambda i: members_like(desk.ledger, texts[i % len(texts)]), 24)
    out.append(Figure("query", "ms", median, worst, 50))
    names = members_like(desk.ledger, "joined:fin-plate")

    def move(i: int) -> None:
        desk.run("move-members", ids=[names[(i * 37) % len(names)]], by=[0, 0, 5])
        app.processEvents()

    median, worst = _times(move, 20)
    out.append(Figure("move one member with its connections, whole frame drawn", "ms", median, worst, 100))
    window.select([], names[37 * 30 % len(names) :][:1])
    window.zoom_selection()
    app.processEvents()
    median, worst = _times(lambda i: move(i + 20), 20)
    out.append(Figure("move one member with its connections, close to one", "ms", median, worst, 100))
    desk.listeners.clear()
    median, worst = _times(lambda i: move(i + 40), 20)
    out.append(Figure("move one member with its connections, not drawn", "ms", median, worst, 100))
    window.close()
    return out


def _large(folder: Path, quick: bool) -> list[Figure]:
    """10,000 members with their connections: what an office waits for."""
    from tincleat.commands.desk import Desk
    from tincleat.demo import longshed
    from tincleat.release.bill import bill
    from tincleat.release.report import all_findings, info

    count = 1000 if quick else 10_000
    share = count / 10_000
    path = folder / "large.tincleat"
    longshed.build(path, count=count).close()
    out = []

    def once(name: str, limit: float, work: Callable[[], object]) -> None:
        start = time.perf_counter()
        work()
        took = (time.perf_counter() - start) * 1000
        out.append(Figure(f"{name}, {count} members", "ms", took, took, limit))

    start = time.perf_counter()
    desk = Desk.open(path)
    took = (time.perf_counter() - start) * 1000
    out.append(Figure(f"open {len(desk.project.members)} members, {len(desk.project.connections)} connections", "ms", took, took, 4000 * share))
    once("proof of all", 8000 * share, lambda: all_findings(desk.ledger))
    once("bill", 2000 * share, lambda: bill(desk.ledger))
    once("info", 6000 * share, lambda: info(desk.ledger))
    once("change of title", 200, lambda: desk.run("set-house-rules", values={"title": "Another"}))
    once("change of north", 200, lambda: desk.run("set-house-rules", values={"north_deg": 45.0}))
    once("change of the unit of display", 200, lambda: desk.run("set-house-rules", values={"units": "m"}))
    once("change of a level's name", 200, lambda: desk.run("change-level", id=next(iter(desk.project.levels)), name="other"))
    ids = list(desk.project.members)[: int(1100 * share)]
    once(f"move {len(ids)} members", 2000 * share, lambda: desk.run("move-members", ids=ids, by=[0, 0, 5]))
    key = next(c.id for c in desk.project.connections.values() if c.family == "base-plate")
    bill(desk.ledger)

    def edit(i: int) -> None:
        desk.run("change-connections", ids=[key], settings={"plate_thickness": 20.0 + 5.0 * (i % 4)})
        bill(desk.ledger)

    median, worst = _times(edit, 8)
    out.append(Figure(f"edit one connection and its bill again, {count} members", "ms", median, worst, 100))
    desk.close()
    return out


def _mixed(folder: Path, quick: bool) -> list[Figure]:
    """A frame with every family that fits it, kin by kin in turn, placed, built and proved from nothing; what memory that takes."""
    import resource
    from collections import Counter, defaultdict

    from tincleat.commands.desk import Desk
    from tincleat.demo import longshed
    from tincleat.families.registry import families_for

    count = 1000 if quick else 10_000
    start = time.perf_counter()
    desk = Desk.create(folder / "mixed.tincleat")
    desk.run("add-members", members=longshed.mixed(round(count * 0.86)))
    chosen: dict[str, list[str]] = defaultdict(list)
    turn: Counter[str] = Counter()
    for k in desk.ledger.kin():
        joint = k.entries[0].joint
        usual = SHARED_WEB.get(joint.kind, tuple(f.name for f in families_for(joint.kind) if f.name != "left-plain"))
        fitting = [f for f in usual if not desk.ledger.refusal(joint, f, {})]
        if fitting:
            name = min(fitting, key=lambda f: turn[f])  # whichever has had fewest kin
            chosen[name] += [e.joint.key for e in k.entries]
            turn[name] += 1
    long = [m.id for m in desk.project.members.values() if m.role in ("beam", "joist") and m.section.startswith("UB") and abs(m.end[0] - m.start[0]) + abs(m.end[1] - m.start[1]) > 5000]
    chosen["stiffeners"] += [f"{m}@2000" for m in long[::8]]
    chosen["web-opening"] += [f"{m}@2600" for m in long[4::8]]
    desk.run_all([("place-connection", {"family": name, "at": places}) for name, places in chosen.items()])
    counts = desk.ledger.counts()
    took = (time.perf_counter() - start) * 1000
    rates: list[Figure] = []
    for name, setting, low, high in EDITED_MIXED:
        kinds = list({e.joint.case: e.joint for e in desk.ledger.entries.values() if e.connection is not None and e.connection.family == name}.values())[:12]
        rates += _rate(name, kinds, setting, low, high, desk.project.house, quick)
    made = len(desk.project.connections)
    note = f"{len(desk.project.members)} members, {made} connections of {len(chosen)} families, {len(desk.ledger.kin())} kin, {counts['clear'] + counts['breach']} findings"
    desk.close()
    # of the whole bench's process so far: what is measured before counts too
    memory = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
    return [
        *rates,
        Figure("mixed families placed, built and proved from nothing", "ms", took, took, 20_000 * max(made, 1) / 12_000, note=note),
        Figure("memory at its most", "MiB", memory, memory, 2048, note="of the whole process"),
    ]


def _shed(folder: Path, quick: bool) -> list[Figure]:
    from PySide6.QtWidgets import QApplication

    from tincleat.app import theme
    from tincleat.app.model_view import ModelView
    from tincleat.commands.desk import Desk
    from tincleat.demo import longshed

    out = []
    app = QApplication.instance() or QApplication(["bench"])
    assert isinstance(app, QApplication)
    count = 500 if quick else 2000
    path = folder / "shed.tincleat"
    start = time.perf_counter()
    desk = Desk.create(path)
    desk.run_all(longshed.commands(count))
    counts = desk.ledger.counts()
    took = (time.perf_counter() - start) * 1000
    note = f"{len(desk.project.members)} members, {len(desk.project.connections)} connections, {len(desk.ledger.kin())} kin"
    out.append(Figure(f"{count} members joined from nothing: joints, details, proof", "ms", took, took, 20000 * count / 10000, note=note))
    assert counts["joined"]
    desk.close()
    start = time.perf_counter()
    desk = Desk.open(path)
    load = (time.perf_counter() - start) * 1000
    out.append(Figure(f"open {count} members to joints and details", "ms", load, load, 5000 * count / 10000))
    view = ModelView(theme.LIGHT)
    view.resize(820, 505)
    start = time.perf_counter()
    view.set_ledger(desk.ledger)
    view.show()
    app.processEvents()
    first = (time.perf_counter() - start) * 1000
    out.append(Figure(f"first picture of {count} members", "ms", first, first, 1000))

    def whole(i: int) -> None:
        view.camera.orbit(6, 0, view.camera.target)
        view.draw_now()

    view.moving = True
    whole(0)
    median, worst = _times(whole, 20)
    out.append(Figure("turn, whole model in view", "ms", median, worst, 118))
    view.moving = False
    view.draw_now()
    median, worst = _times(lambda _: view.draw_now(), 10)
    out.append(Figure("still picture, whole model in view", "ms", median, worst, 195))
    assert view.bodies is not None
    view.zoom_to(view.bodies.joint_points[len(view.bodies.joint_points) // 2], 700.0)
    view.draw_now()
    view.moving = True
    whole(0)
    median, worst = _times(whole, 20)
    out.append(Figure("turn, close to a joint", "ms", median, worst, 69))
    view.moving = False
    view.draw_now()
    median, worst = _times(lambda _: view.draw_now(), 10)
    out.append(Figure("still picture, close to a joint", "ms", median, worst, 82))
    rng = np.random.default_rng(2)
    spots = rng.uniform(0.2, 0.8, (60, 2)) * (view.width(), view.height())
    view.fit()
    median, worst = _times(lambda i: view.bodies.pick(*view.camera.ray(*spots[i % 60])), 60)  # type: ignore[union-attr]
    out.append(Figure("pick what is under the pointer, whole model", "ms", median, worst, 100))
    entry = next(e for e in desk.ledger.entries.values() if e.connection is not None and e.connection.family == "fin-plate")
    assert entry.connection is not None
    name = entry.connection.id
    median, worst = _times(lambda i: desk.run("change-connections", ids=[name], settings={"edge_distance": 40.0 + 5 * (i % 30)}), 30)
    out.append(Figure(f"change and keep one connection among {len(desk.project.connections)}", "ms", median, worst, 50))
    view.set_ledger(None)
    desk.close()
    return out
