"""Whether bolts can be put in and members moved into their places, against distances worked out by hand."""

from pathlib import Path
from typing import Any

import numpy as np
import pytest
import test_new_families
from sites import beam, brace, column

from tincleat.commands.desk import Desk
from tincleat.details.bodies import Body
from tincleat.geometry.frames import Frame
from tincleat.geometry.mesh import prism
from tincleat.geometry.outline import Outline
from tincleat.ledger.through import Stuck, stuck
from tincleat.proof.erection import _Place


def joined(path: Path, members: list[dict[str, Any]], family: str, at: str, **typed: Any) -> Any:
    return test_new_families.joined(path, members, family, at, **typed)[1]


def told(entry: Any, rule: str) -> list[tuple[str, float, float, str]]:
    return [(f.level, round(f.actual, 1), round(f.required, 1), f.message) for f in entry.findings if f.rule == rule]


def test_a_pin_between_a_columns_flanges_has_to_go_past_them(tmp_path: Path) -> None:
    """HEB 200: its flanges' inner faces lie (200 - 2 x 15) / 2 = 85 from the web's middle.  A fork of a 24 mm rod on a 10 mm gusset:
    gap 12, cheeks 12 each, so its cheek's face lies 6 + 12 = 18 out and 67 are clear.  Its M24 pin: grip 36, 65 long, head 15: 80."""
    members = [column("HEB 200", 90), brace("RD 24", -35)]
    inside = joined(tmp_path / "a", members, "bracing-gusset", "M2.start", fork_start=60.0)
    assert [(x[0], x[1], x[2]) for x in told(inside, "bolt-entry")] == [("breach", 67.0, 80.0)]
    outside = joined(tmp_path / "b", members, "bracing-gusset", "M2.start")
    assert [x[0] for x in told(outside, "bolt-entry")] == ["clear"]
    number = next(n for n in outside.made.detail.numbers if n.name == "fork_start")
    assert number.origin == "adapted" and float(number.value) > 60.0
    # the pin's axis then lies past the flange's tip, 100 from the column's middle, by its head's half width across corners at least
    pin = next(b for b in outside.made.detail.bolts if b.name == "pin")
    post = next(m for m in outside.made.case.members if m.role == "column")
    assert abs(post.frame.to_local(np.array(pin.points))[0, 1]) > 100.0 + 36.0 / 3**0.5


def test_a_bolt_under_a_flange_that_comes_down_keeps_room_to_go_in(tmp_path: Path) -> None:
    """A rafter that falls away by t from its plate: over the 77.5 mm that an M20 x 65 needs its flange comes down 77.5 tan t, and half a head
    across corners, 30 / sqrt 3 = 17.3, is wanted under that.  In the haunch the row below the lower flange is that far off it."""
    from sites import SITES

    site = next(s for s in SITES if s.name == "apex 17 with a haunch")
    entry = joined(tmp_path / "a", list(site.members), site.family, "M1.end and M2.end" if len(site.at) > 1 else f"M{site.at[0][0] + 1}.{site.at[0][1]}", **site.typed)
    assert [x[0] for x in told(entry, "bolt-entry")] == ["clear"]
    past = float(next(n.value for n in entry.made.detail.numbers if n.name == "row_past"))
    lean = np.tan(np.radians(17.0))
    assert 77.5 * lean + 30 / 3**0.5 <= past <= 77.5 * lean + 30 / 3**0.5 + 1.0 + 5.0
    near = joined(tmp_path / "b", list(site.members), site.family, "M1.end and M2.end" if len(site.at) > 1 else f"M{site.at[0][0] + 1}.{site.at[0][1]}", **site.typed, row_past=35.0)
    assert [x[0] for x in told(near, "bolt-entry")] == ["breach"]


@pytest.mark.parametrize(("section", "way"), [("IPE 200", "from above"), ("UB 203x133x25", "along its own axis")])
def test_a_beam_between_a_columns_flanges_passes_its_plate_or_not(tmp_path: Path, section: str, way: str) -> None:
    """HEB 300: 131 from the web's middle to its flanges.  To come down beside the fin plate a beam's flange has to clear the plate's inner
    face: IPE 200 moves 50 - 2.8 = 47.2 aside, its far tip then 97.2 off: it passes.  UB 203x133x25: 66.6 - 2.9 = 63.7 aside, the far tip
    at 130.3 of 131, nearer than the 15 mm steps of the look: only along its own axis."""
    entry = joined(tmp_path / "a", [column("HEB 300", 90), beam(section)], "fin-plate", "M2.end")
    ((level, _, _, words),) = told(entry, "way-in")
    assert level == "clear" and way in words
    past = joined(tmp_path / "b", [column("HEB 300", 90), beam(section)], "fin-plate", "M2.end", reach="past the flanges")
    assert "from one side" in told(past, "way-in")[0][3] or "from the other side" in told(past, "way-in")[0][3]


def test_cleats_welded_to_a_support_hold_a_beam_like_a_knife(tmp_path: Path) -> None:
    members = [column("HEB 300"), beam("IPE 300")]
    welded = joined(tmp_path / "a", members, "angle-cleats", "M2.end", to_support="welded")
    assert "along its own axis" in told(welded, "way-in")[0][3]
    assert "from" in told(joined(tmp_path / "b", members, "angle-cleats", "M2.end", to_support="welded", sides="near side"), "way-in")[0][3]
    # bolted on both legs they come off: any way will do
    assert "from" in told(joined(tmp_path / "c", members, "angle-cleats", "M2.end"), "way-in")[0][3]


def box(low: tuple[float, float, float], high: tuple[float, float, float]) -> Body:
    mesh = prism(Outline.rectangle(low[0], low[1], high[0], high[1]), (), low[2], high[2])
    return Body("plate", "p", ("p",), mesh, Frame().axes)


def test_a_box_among_boxes_goes_where_there_is_room() -> None:
    mine = [box((0, -10, -10), (200, 10, 10))]
    walls = {"+y": box((0, 12, -50), (200, 20, 50)), "-y": box((0, -20, -50), (200, -12, 50)), "+z": box((0, -50, 12), (200, 50, 20)), "-z": box((0, -50, -20), (200, 50, -12))}
    y, z = np.array([0.0, 1.0, 0.0]), np.array([0.0, 0.0, 1.0])
    for open_, words in (("+y", "from one side"), ("-y", "from the other side"), ("+z", "from above"), ("-z", "from below")):
        assert _Place(mine, [w for k, w in walls.items() if k != open_]).way(y, z, []) == words
    closed = _Place(mine, list(walls.values()))
    assert closed.way(y, z, []) == "" and closed.goes(np.array([1.0, 0.0, 0.0]))
    assert not _Place(mine, [*walls.values(), box((210, -5, -5), (300, 5, 5))]).goes(np.array([1.0, 0.0, 0.0]))
    # a lid over half of it: 15 mm aside and up
    ledge = [box((0, -60, 12), (200, -4, 20)), box((0, -20, -50), (200, -12, 50)), box((0, 60, -50), (200, 70, 50)), box((0, -50, -20), (200, 50, -12))]
    assert _Place(mine, ledge).way(y, z, []) == "from above, 15 mm aside"


def test_a_member_that_neither_end_lets_in_is_told_once_with_its_likes(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "p.tincleat")
    for n in range(2):
        y = 5000.0 * n
        desk.run("add-members", members=[
            *({"section": "UC 203x203x46", "role": "column", "start": [x, y, 0], "end": [x, y, 4000], "roll_deg": 90} for x in (0, 6000)),
            {"section": "UB 305x165x40", "role": "beam", "name": f"B{n}", "start": [0, y, 3000], "end": [6000, y, 3000]},
        ])  # fmt: skip
    desk.run("place-all", family="fin-plate")
    (found,) = stuck(desk.ledger)
    assert [desk.project.members[m].name for m in found.members] == ["B0", "B1"]
    before = desk.counts()["note"]
    ((whose, finding),) = [(w, f) for w, f in desk.overlaps.told() if isinstance(w, Stuck)]
    assert whose == found and finding.level == "note" and finding.part.endswith("B0, B1") and desk.counts()["note"] == desk.ledger.counts()["note"] + 1 == before  # one row for both
    # one end's plate out past the column's flanges lets that beam in
    name = next(e.connection.id for e in desk.ledger.entries.values() if e.connection is not None and desk.project.members[e.joint.members[0]].name == "B0")
    desk.run("change-connections", ids=[name], settings={"reach": "past the flanges"})
    (left,) = stuck(desk.ledger)
    assert [desk.project.members[m].name for m in left.members] == ["B1"]
    desk.close()


def test_a_socket_meets_the_weld_beside_it_and_bolts_at_right_angles(tmp_path: Path) -> None:
    """A cap on HEB 400: fillets of 12 stand on its flange; a socket for M20 is 57.2 wide and begins 3 over the plate, where the fillet is
    still 12 - 3 = 9 wide: bolts 31.8 off the flange leave 22.8, those 38.1 off pass."""
    members = [{**column("HEB 400"), "end": [0, 0, 3000]}, {**column("HEB 400"), "start": [0, 0, 3000]}]
    for path, off, level in (("a", 31.9, "note"), ("b", 38.1, "clear")):
        pitch = 2 * (400 / 2 + off)
        entry = joined(tmp_path / path, members, "cap-and-base", "M2.start", where="outside the column", pitch=(pitch,), flange_weld=12.0)
        found = told(entry, "bolt-room")
        assert {x[0] for x in found} == {level}
        assert level == "clear" or found[0][1] == pytest.approx(off - 9.0, abs=0.15)
        points = np.array([p for b in entry.made.detail.bolts for p in b.points])
        assert float(np.ptp(points, axis=0).max()) == pytest.approx(pitch)
