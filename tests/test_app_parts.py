"""Parts of the window that need no window: the eye, picking, tables, levels of detail."""

import math
import os
from pathlib import Path

import msgspec
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from tincleat.app.bodies import Bodies, member_mesh, ray_mesh
from tincleat.app.camera import Camera
from tincleat.app.chunks import LEVELS, Chunks, grade_name, stick_data
from tincleat.app.tables import FINDING_HEAD, LEDGER_HEAD, LedgerRows, bill_table_rows, finding_rows
from tincleat.app.theme import DARK, LIGHT, THEMES
from tincleat.catalogue.sections import section
from tincleat.commands.desk import Desk
from tincleat.geometry.mesh import prism
from tincleat.geometry.outline import Outline
from tincleat.project.entities import Member
from tincleat.project.members import axis_frame, length
from tincleat.steel.body import steel_volume
from tincleat.steel.cuts import Cuts, MemberHole

spot = st.tuples(*[st.floats(-20000, 20000)] * 3).map(np.array)


def eye(yaw: float, pitch: float, tall: float, perspective: bool) -> Camera:
    """A camera looking somewhere."""
    return Camera(np.array([100.0, 200.0, 300.0]), yaw, pitch, tall, perspective, 800, 500)


@given(st.floats(-3, 3), st.floats(-1.4, 1.4), st.floats(500, 50000), st.booleans(), st.floats(0, 800), st.floats(0, 500), st.floats(0, 3000))
def test_a_ray_projects_on_the_pixel_it_left(yaw: float, pitch: float, tall: float, perspective: bool, x: float, y: float, far: float) -> None:
    c = eye(yaw, pitch, tall, perspective)
    start, way = c.ray(x, y)
    assert np.linalg.norm(way) == pytest.approx(1)
    back = c.project(start + way * (far + 10))[0]
    assert back[:2] == pytest.approx([x, y], abs=1e-3)


@given(st.floats(-3, 3), st.floats(-1, 1), st.floats(-60, 60), st.floats(-60, 60), spot)
def test_turning_keeps_the_pivot_where_it_is(yaw: float, pitch: float, dx: float, dy: float, pivot: np.ndarray) -> None:
    c = eye(yaw, pitch, 10000, False)
    before = c.project(pivot)[0]
    c.orbit(dx, dy, pivot)
    assert c.project(pivot)[0][:2] == pytest.approx(before[:2], abs=1e-4)
    assert abs(c.pitch) <= math.pi / 2


@given(st.floats(0.2, 5), st.floats(0, 800), st.floats(0, 500))
def test_zooming_keeps_the_point_under_the_pointer(factor: float, x: float, y: float) -> None:
    c = eye(-1, 0.4, 10000, False)
    start, way = c.ray(x, y)
    point = start + way * 1e6
    c.zoom(factor, x, y)
    assert c.project(point)[0][:2] == pytest.approx([x, y], abs=1e-3)
    assert c.tall == pytest.approx(10000 * factor)


def test_fit_shows_the_whole_box() -> None:
    c = eye(-1, 0.4, 10, False)
    low, high = np.array([0.0, 0.0, 0.0]), np.array([30000.0, 14000.0, 9000.0])
    c.fit(low, high)
    corners = np.array([(x, y, z) for x in (0, 30000) for y in (0, 14000) for z in (0, 9000)])
    flat = c.project(corners)
    assert flat[:, 0].min() >= 0 and flat[:, 0].max() <= 800 and flat[:, 1].min() >= 0 and flat[:, 1].max() <= 500
    assert max(np.ptp(flat[:, 0]) / 800, np.ptp(flat[:, 1]) / 500) > 0.85


def test_rays_hit_what_they_should() -> None:
    box = prism(Outline.rectangle(0, 0, 10, 10), (Outline.rectangle(4, 4, 6, 6),), 0, 10)
    down = np.array([0.0, 0.0, -1.0])
    assert ray_mesh(np.array([1.0, 1.0, 20.0]), down, box) == pytest.approx(10)
    assert ray_mesh(np.array([5.0, 5.0, 20.0]), down, box) == math.inf  # through the hole
    assert ray_mesh(np.array([11.0, 1.0, 20.0]), down, box) == math.inf


@pytest.fixture(scope="module")
def bodies(demo_file: Path) -> Bodies:
    """The demo's bodies."""
    return Bodies(Desk.open(demo_file).ledger)


def test_every_connection_and_member_can_be_picked(bodies: Bodies) -> None:
    c = Camera(width=900, height=600)
    c.look(-50, 20)
    for entry in [e for e in bodies.ledger.entries.values() if e.made is not None]:
        assert entry.made is not None
        plate = entry.made.detail.plates[0]
        x0, y0, x1, _ = plate.outline.bounds
        frame = entry.joint.frame.at(plate.frame)
        corner = frame.to_world([(x1 - 4.0, y0 + 4.0, plate.thickness / 2)])[0]
        normal = np.array(frame.z)
        met = [bodies.pick(corner + way * 60, -way) for way in (normal, -normal)]
        assert ("joint", entry.joint.key) in [m[:2] for m in met if m], entry.joint.words
        assert x0 < x1
    for m in list(bodies.ledger.project.members.values())[:20]:
        middle = (np.array(m.start) + np.array(m.end)) / 2
        c.fit(middle - 1500, middle + 1500)
        hit = bodies.pick(*c.ray(450, 300))
        assert hit is not None


def test_drawn_members_weigh_what_they_weigh(bodies: Bodies) -> None:
    for m in bodies.ledger.project.members.values():
        cuts = bodies.cuts(m.id)
        undrilled = Cuts(cuts.ends, cuts.notches)
        exact = steel_volume(section(m.section), undrilled, 0.0, length(m))
        mesh = member_mesh(m, cuts, 2)
        assert mesh.volume == pytest.approx(exact, rel=0.06)  # chords for arcs, one to a root radius


def test_a_countersunk_hole_is_not_drawn_as_the_plain_one_before_it() -> None:
    """A hole of 18 through the top flange of a UC 254x254x107, then 33.6 across at 90 degrees: deep (33.6 - 18) / 2 = 7.8, which takes
    pi * 7.8 * ((33.6² + 33.6 * 18 + 18²) / 12 - 9²) = 2,217 mm³ more; chords of 32 outside and of 16 inside make 1 % more of it."""
    m = Member("a", "A", "beam", "UC 254x254x107", "S355", (0.0, 0.0, 0.0), (500.0, 0.0, 0.0))
    middle = next(e.at for e in section(m.section).elements if e.name == "top flange")
    plain = MemberHole(0, "top flange", (250.0, 60.0, middle), (0.0, 0.0, -1.0), 18.0, 18.0, (1.0, 0.0, 0.0))
    sunk = msgspec.structs.replace(plain, sink=33.6, sink_angle=math.pi / 2)
    gone = member_mesh(m, Cuts(holes=(plain,)), 2).volume - member_mesh(m, Cuts(holes=(sunk,)), 2).volume
    assert gone == pytest.approx(math.pi * 7.8 * ((33.6**2 + 33.6 * 18 + 18**2) / 12 - 81), rel=0.02)


def test_shapes_hold_the_plates(bodies: Bodies) -> None:
    for entry in [e for e in bodies.ledger.entries.values() if e.made is not None]:
        assert entry.made is not None
        s = entry.made.shapes
        assert entry.made.shapes is s
        assert s.plates.volume == pytest.approx(sum(p.volume for p in entry.made.detail.plates), rel=0.01)
        assert len(s.boxes.triangles) == 12 * len(entry.made.detail.plates)
        assert np.all(s.low <= s.boxes.points.min(axis=0) + 1e-9) and np.all(s.high >= s.boxes.points.max(axis=0) - 1e-9)


def test_levels_of_detail(bodies: Bodies) -> None:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    from vtkmodules.vtkRenderingCore import vtkRenderer

    chunks = Chunks(vtkRenderer(), bodies, LIGHT)
    camera = Camera()

    def show(pixels_per_metre: float, moving: bool) -> None:
        camera.fit(*bodies.bounds())
        camera.width = camera.height = 2000
        camera.tall = camera.height * 1000.0 / pixels_per_metre
        chunks.show(camera, moving)

    show(5.0, False)
    assert {n for (n, _), b in chunks.built.items() if b.visible} == {"bars"}
    show(LEVELS["bolts"] + 1, False)
    assert {n for (n, _), b in chunks.built.items() if b.visible} >= {"fine", "plates", "bolts", "member edges", "joint edges"}
    show(LEVELS["bolts"] + 1, True)
    assert not any(b.visible for (n, _), b in chunks.built.items() if "edges" in n)  # not while moving
    key = next(e.joint.key for e in bodies.ledger.entries.values() if e.made is not None)
    actors = {k: b.actor for k, b in chunks.built.items()}
    chunks.changed({key}, set())
    stale = {k for k, b in chunks.built.items() if b.stale}
    assert stale and all(n in ("plates", "bolts", "boxes", "concrete", "joint edges") for n, _ in stale)
    show(LEVELS["bolts"] + 1, False)
    assert not any(b.stale for b in chunks.built.values() if b.visible)
    assert all(chunks.built[k].actor is a for k, a in actors.items())  # new data in the old actors
    assert [grade_name(v) for v in (1, 4, 50, 500)] == ["sticks", "bars", "fine", "round"]
    assert [grade_name(v, True) for v in (4, 50, 100, 500)] == ["bars", "bars", "fine", "round"]
    inside = sum(len(keys) for keys in chunks.members.held.values())
    assert inside == len(bodies.member_ids) == sum(len(keys) for keys in chunks.near_members.held.values())


def test_table_rows(bodies: Bodies) -> None:
    ledger = bodies.ledger
    kin = LedgerRows().rows(ledger)
    assert all(len(r.cells) == len(LEDGER_HEAD) for r in kin) and {r.state for r in kin} >= {"open", "clear", "breach"}
    assert sum(int(r.cells[3].split("/")[1]) for r in kin) == ledger.counts()["joints"]
    found = finding_rows(ledger)
    assert all(len(r.cells) == len(FINDING_HEAD) for r in found) and [r.state for r in found] == sorted(
        (r.state for r in found), key=["breach", "note", "concession"].index
    )
    assert sum(int(r.cells[-1]) for r in found if r.state == "breach") == ledger.counts()["breach"]
    assert sum(int(r.cells[5]) for r in bill_table_rows(ledger) if r.cells[0].startswith("A")) == len(ledger.project.members)


def contrast(a: str, b: str) -> float:
    """WCAG contrast of two colours."""

    def light(c: str) -> float:
        parts = [int(c[i : i + 2], 16) / 255 for i in (1, 3, 5)]
        r, g, b_ = (v / 12.92 if v <= 0.03928 else ((v + 0.055) / 1.055) ** 2.4 for v in parts)
        return 0.2126 * r + 0.7152 * g + 0.0722 * b_

    high, low = sorted((light(a), light(b)), reverse=True)
    return (high + 0.05) / (low + 0.05)


@pytest.mark.parametrize("name", list(THEMES))
def test_text_stands_out(name: str) -> None:
    t = THEMES[name]
    for text in (t.ink, t.quiet, t.breach, t.ochre, t.slate):
        for ground in (t.paper, t.sheet, t.accent_soft if text == t.ink else t.sheet):
            assert contrast(text, ground) >= 4.5, (name, text, ground)
    assert contrast(t.sheet, t.accent) >= 4.5 and DARK.paper != LIGHT.paper


def test_members_far_away_are_lines_from_end_to_end(bodies: Bodies) -> None:
    from vtkmodules.util.numpy_support import vtk_to_numpy

    keys = bodies.member_ids[:3]
    data = stick_data(bodies, keys)
    drawn = vtk_to_numpy(data.GetPoints().GetData()).reshape(-1, 2, 3)
    for key, (start, end) in zip(keys, drawn, strict=True):
        frame = axis_frame(bodies.ledger.project.members[key])
        assert start == pytest.approx(frame.origin, abs=0.01)
        assert end == pytest.approx(frame.to_world([(length(bodies.ledger.project.members[key]), 0.0, 0.0)])[0], abs=0.01)
    assert data.GetNumberOfLines() == 3


def test_a_hole_that_nothing_fills_is_seen_in_the_model(tmp_path: Path) -> None:
    """Two holes of 18 mm through a flange of 10.2 mm: an open one is drawn as an opening, one under a bolt's head is not cut for the picture."""
    desk = Desk.create(tmp_path / "a.tincleat")
    desk.run("add-members", members=[{"section": "UB 305x165x40", "role": "beam", "start": [0, 0, 3000], "end": [8000, 0, 3000]}])
    drawn = Bodies(desk.ledger)
    whole = drawn.member("m1", 2).volume
    desk.run("place-connection", family="loose", at=["m1@2500"], settings={"part/1": "holes", "bolt/1": "M16", "rows/1": [100.0], "across/1": 45.0})
    (key,) = (e.joint.key for e in desk.ledger.entries.values() if e.connection is not None)
    assert drawn.changed({key}, set()) == {"m1"}
    # 2 * 10.2 * 18² * pi / 4 = 5,191 mm³; a circle of 16 chords has 0.974 of its area
    assert whole - drawn.member("m1", 2).volume == pytest.approx(5191, rel=0.06)
    assert drawn.member("m1", 1).volume == pytest.approx(drawn.member("m1", 0).volume)  # from further off a hole is smaller than a pixel
    desk.run("change-connections", ids=list(desk.project.connections), settings={"part/1": "bolts", "on/1": "top"})
    assert drawn.changed({key}, set()) == {"m1"} and drawn.member("m1", 2).volume == pytest.approx(whole)
    desk.close()
