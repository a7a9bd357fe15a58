"""Drawings under the model: read, fitted by two points, drawn."""

import io
import math
import struct
import zlib
from pathlib import Path

import ezdxf
import numpy as np
import PIL.Image
import pytest
from conftest import pdf_of

from tincleat.app.underlay_picture import placed
from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.exchange.underlay_in import read_dxf, read_page, read_picture
from tincleat.project.entities import Underlay


def drawing(path: Path, metres: bool = True) -> Path:
    """A 6 x 4 m room with a quarter arc and a block placed twice, in metres."""
    doc = ezdxf.new(units=6 if metres else 4)
    msp = doc.modelspace()
    msp.add_lwpolyline([(0, 0), (6, 0), (6, 4), (0, 4)], close=True)
    msp.add_arc((0, 0), 1.0, 0, 90)
    block = doc.blocks.new("column")
    block.add_line((-0.1, 0), (0.1, 0))
    msp.add_blockref("column", (2, 2))
    msp.add_blockref("column", (4, 2), dxfattribs={"rotation": 90})
    msp.add_text("not drawn")
    doc.saveas(path)
    return path


def png(path: Path, w: int, h: int) -> Path:
    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    rows = b"".join(b"\0" + bytes([255, 0, 0] * w) for _ in range(h))
    path.write_bytes(
        b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", struct.pack(">IIBBBBB", w, h, 8, 2, 0, 0, 0)) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")
    )
    return path


def test_dxf_in_its_own_unit(tmp_path: Path) -> None:
    lines = read_dxf(drawing(tmp_path / "a.dxf"))
    points = np.concatenate([lines[:, :2], lines[:, 2:]])
    assert points.min(axis=0) == pytest.approx((0, 0)) and points.max(axis=0) == pytest.approx((6000, 4000))
    total = float(np.hypot(lines[:, 2] - lines[:, 0], lines[:, 3] - lines[:, 1]).sum())
    # the room 20 m, the arc a quarter of 2 pi m, two lines of 0.2 m
    assert total == pytest.approx(20000 + math.pi / 2 * 1000 + 400, rel=1e-3)
    assert {tuple(np.round(row).astype(int)) for row in lines} >= {(4000, 1900, 4000, 2100)}


def test_fit_by_two_points(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "u.tincleat")
    desk.run("add-grid", name="main", x="6000", y="4000", origin=[10000, 20000, 0], angle_deg=90)
    desk.run("add-underlay", path=str(drawing(tmp_path / "a.dxf", metres=False)), level=0)
    (u,) = desk.project.tables["underlay"].values()
    assert isinstance(u, Underlay)
    # drawn in metres but said to be millimetres: 6 mm wide; its corners (0, 0) and (6, 0) belong at A1 and A2
    with pytest.raises(TinCleatError, match="are one"):
        desk.run("fit-underlay", id=u.id, points=[[0, 0], [0, 0]], belong=["A1", "A2"])
    desk.run("change-underlay", id=u.id, level="2 m", dim=0.7)
    desk.run("fit-underlay", id=u.id, points=[[0, 0], [6, 0]], belong=["A1", "A2"])
    u = desk.project.tables["underlay"][u.id]
    # the grid is turned by 90 degrees: A2 lies 6 m up the page from A1, the room's top left 4 m to its left
    assert placed(u, np.array([(0.0, 0.0), (6.0, 0.0), (0.0, 4.0)])) == pytest.approx(
        np.array([(10000, 20000, 2000), (10000, 26000, 2000), (6000, 20000, 2000)]), abs=1e-6
    )
    again = Desk.open(desk.store.path)
    assert again.project.tables["underlay"][u.id] == u
    again.close()
    desk.run("delete-underlay", id=u.id)
    desk.undo()
    assert len(desk.project.tables["underlay"]) == 1
    desk.close()


def test_pictures(tmp_path: Path) -> None:
    data, w, h = read_picture(png(tmp_path / "p.png", 40, 30))
    assert (w, h) == (40, 30) and data[:4] == b"\x89PNG"
    desk = Desk.create(tmp_path / "p.tincleat")
    desk.run("add-underlay", path=str(tmp_path / "p.png"), scale=25)
    (u,) = desk.project.tables["underlay"].values()
    assert placed(u, np.array([(40.0, 30.0)]))[0] == pytest.approx((1000, 750, 0))
    desk.close()


def test_files_that_are_no_drawings(tmp_path: Path) -> None:
    desk = Desk.create(tmp_path / "b.tincleat")
    (tmp_path / "x.dxf").write_text("rubbish")
    (tmp_path / "x.png").write_bytes(b"GIF89a")
    (tmp_path / "y.jpg").write_bytes(b"\xff\xd8\xff\xe0\x00\x10" + b"\0" * 40)
    empty = ezdxf.new()
    empty.saveas(tmp_path / "empty.dxf")
    for name, words in (
        ("x.dxf", "cannot be read|nothing is drawn"),
        ("x.png", "neither"),
        ("y.jpg", "no size"),
        ("empty.dxf", "nothing is drawn"),
        ("none.dxf", "no such file"),
    ):
        with pytest.raises(TinCleatError, match=words):
            desk.run("add-underlay", path=str(tmp_path / name))
    with pytest.raises(TinCleatError, match="no level"):
        desk.run("add-underlay", path=str(drawing(tmp_path / "a.dxf")), level="attic")
    assert not desk.project.tables["underlay"]
    desk.close()


def page(path: Path, width_mm: float, height_mm: float) -> Path:
    """A PDF of one page, white with its lower left quarter black."""
    w, h = width_mm / 25.4 * 72, height_mm / 25.4 * 72
    drawn = f"0 0 0 rg 0 0 {w / 2:.4f} {h / 2:.4f} re f".encode()
    bodies = [
        b"<< /Type /Catalog /Pages 2 0 R >>",
        b"<< /Type /Pages /Kids [3 0 R] /Count 1 >>",
        f"<< /Type /Page /Parent 2 0 R /MediaBox [0 0 {w:.4f} {h:.4f}] /Contents 4 0 R >>".encode(),
        b"<< /Length %d >>\nstream\n%b\nendstream" % (len(drawn), drawn),
    ]
    path.write_bytes(pdf_of(bodies))
    return path


def test_a_page_of_a_pdf(tmp_path: Path) -> None:
    # 200 dots an inch: 254 mm are 2000 pixels, 127 mm are 1000
    data, w, h, paper = read_page(page(tmp_path / "p.pdf", 254, 127))
    assert (w, h) == (2000, 1000) and paper == pytest.approx(0.127)
    picture = np.asarray(PIL.Image.open(io.BytesIO(data)))
    assert (picture[600, 100] == 0).all() and (picture[400, 100] == 255).all() and (picture[600, 1100] == 255).all()
    # a sheet of 1.2 m is drawn coarser: 7000 pixels
    assert read_page(page(tmp_path / "large.pdf", 1200, 800))[1] == pytest.approx(7000, abs=1)
    desk = Desk.create(tmp_path / "p.tincleat")
    desk.run("add-underlay", path=str(tmp_path / "p.pdf"), paper_scale=50)
    (u,) = desk.project.tables["underlay"].values()
    # the page's far corner at 1:50: 254 x 50 and 127 x 50
    assert placed(u, np.array([u.pixels], dtype=float))[0] == pytest.approx((12700, 6350, 0))
    for name, args, words in (("p.pdf", {"page": 2}, "no page 2"), ("bad.pdf", {}, "cannot be read"), ("p.pdf", {"paper_scale": 0}, "a scale of 1 : 0")):
        (tmp_path / "bad.pdf").write_bytes(b"%PDF-1.4 rubbish")
        with pytest.raises(TinCleatError, match=words):
            desk.run("add-underlay", path=str(tmp_path / name), **args)
    assert len(desk.project.tables["underlay"]) == 1
    desk.close()
