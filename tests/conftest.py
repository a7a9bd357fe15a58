"""Shared pieces: small frames made by the program's own commands."""

import sys
from collections.abc import Generator, Iterator
from pathlib import Path
from typing import Any

import pytest
from hypothesis import settings

from tincleat.commands.desk import Desk
from tincleat.garbage import sweep
from tincleat.joints.case import Joint

settings.register_profile("untimed", deadline=None)  # how long a case takes is for the bench to say
settings.load_profile("untimed")


@pytest.hookimpl(wrapper=True)
def pytest_runtest_teardown(item: pytest.Item) -> Generator[None, None, None]:
    """Windows that a test closed go before the next one: else they are styled, and asked, as long as the run lasts."""
    yield
    core = sys.modules.get("PySide6.QtCore")
    if core is not None and core.QCoreApplication.instance() is not None:
        core.QCoreApplication.sendPostedEvents(None, core.QEvent.Type.DeferredDelete)
        sweep()


def beam(section: str, start: tuple[float, float, float], end: tuple[float, float, float], role: str = "beam", **more: Any) -> dict[str, Any]:
    """A member as ``add-members`` takes it."""
    return {"section": section, "start": list(start), "end": list(end), "role": role, **more}


@pytest.fixture
def desk(tmp_path: Path) -> Iterator[Desk]:
    """An empty project."""
    made = Desk.create(tmp_path / "test.tincleat")
    yield made
    made.close()


@pytest.fixture
def corner(desk: Desk) -> Desk:
    """A column UC 203x203x46 with a beam UB 305x165x40 on its flange (m2.start) and one on its web (m3.start)."""
    desk.run(
        "add-members",
        members=[
            beam("UC 203x203x46", (0, 0, 0), (0, 0, 4000), "column", name="C1"),
            beam("UB 305x165x40", (0, 0, 3000), (5000, 0, 3000), name="B1"),
            beam("UB 203x133x25", (0, 0, 2000), (0, 5000, 2000), name="B2"),
        ],
    )
    return desk


def joint(desk: Desk, name: str) -> Joint:
    """The joint of a named member's end, such as ``B1.start``."""
    member, _, end = name.partition(".")
    return desk.ledger.joint_of(desk.project.find("member", member).id, end)  # type: ignore[arg-type]


@pytest.fixture(scope="session")
def demo_file(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The boathouse, written once; copy it before changing it."""
    from tincleat.demo.boathouse import build

    path = tmp_path_factory.mktemp("demo") / "boathouse.tincleat"
    build(path).close()
    return path


def pdf_of(bodies: "list[bytes]") -> bytes:
    """A PDF of four objects, the first its catalogue, with the table of where they stand."""
    out, places = b"%PDF-1.4\n", []
    for i, body in enumerate(bodies, 1):
        places.append(len(out))
        out += b"%d 0 obj\n%b\nendobj\n" % (i, body)
    table = b"".join(b"%010d 00000 n \n" % p for p in places)
    out += b"xref\n0 5\n0000000000 65535 f \n" + table + b"trailer\n<< /Size 5 /Root 1 0 R >>\nstartxref\n%d\n%%%%EOF\n" % len(out)
    return out
