"""Make the pictures of docs/screenshots from the demo: run with ./run's Python, no monitor needed."""

import os
import sys
import tempfile
from pathlib import Path

os.environ["QT_QPA_PLATFORM"] = "offscreen"
os.environ.pop("DISPLAY", None)

from PySide6.QtCore import QEvent, QSettings
from PySide6.QtWidgets import QApplication

from tincleat.app import ready_deeds, theme
from tincleat.app.gallery import Gallery
from tincleat.app.joining import JoiningDialog
from tincleat.app.offers import Offers
from tincleat.app.rollout import RollOutDialog
from tincleat.app.window import Window
from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.exchange.ifc import export_ifc

OUT = Path(__file__).resolve().parent.parent / "docs" / "screenshots"


def main() -> int:
    """Write all pictures; exit code."""
    app = QApplication(["tincleat"])
    theme.load_fonts()
    theme.apply(app, theme.LIGHT)
    with tempfile.TemporaryDirectory() as scratch:
        settings = QSettings(str(Path(scratch) / "w.ini"), QSettings.Format.IniFormat)
        window = Window(theme.LIGHT, settings)
        window.boxes = False
        window.resize(1280, 800)
        window.show()

        def shot(name: str) -> None:
            for _ in range(6):
                app.processEvents()
            window.view.moving = False
            window.view.redraw()
            app.processEvents()
            window.grab().save(str(OUT / f"{name}.png"))

        shot("start")
        make_demo("boathouse", Path(scratch) / "boathouse.tincleat").close()
        window.projects.open_path(Path(scratch) / "boathouse.tincleat")
        assert window.desk is not None
        desk = window.desk

        def key(name: str) -> str:
            member, _, end = name.partition(".")
            return desk.ledger.joint_of(desk.project.find("member", member).id, end).key  # type: ignore[arg-type]

        shot("model")
        window.select([key("C2A.start")], [], True)
        pointed, sheet = window.detail.form.fields["washer_side"], window.detail.sheet
        for _ in range(6):
            app.processEvents()
        window.detail.below.ensureWidgetVisible(pointed)
        QApplication.sendEvent(pointed, QEvent(QEvent.Type.Enter))
        while sheet.moves is None:
            app.processEvents()
        shot("base-plate")
        QApplication.sendEvent(pointed, QEvent(QEvent.Type.Leave))
        window.detail.below.verticalScrollBar().setValue(0)
        window.rail.choose("Prove")
        window.select([key("Nab.start")], [], True)
        shot("breach")
        window.select([], [])
        window.view.fit()
        shot("findings")
        window.rail.choose("Join")
        window.select([key("J51.start")], [], True)
        while not all(o.done for o in window.card.findChildren(Offers)):
            app.processEvents()
        shot("open-joint")
        window.rail.choose("Release")
        window.select([], [desk.project.find("member", "R3A").id])
        window.zoom_selection()
        shot("member")
        window.select([], [])
        window.rail.choose("Frame")
        window.view.fit()
        window.parts.toggle_pane()
        window.pane.choice.setCurrentText("Elevation on main:1")
        window.pane.show_slice()
        window.select([], [m.id for m in desk.project.members.values() if m.name in ("R1A", "R1D")])
        shot("elevation")
        window.parts.toggle_pane()
        window.set_desk(make_demo("boathouse-joined", Path(scratch) / "joined.tincleat"))
        assert window.desk is not None
        whole = window.desk
        window.rail.choose("Join")
        window.select([whole.ledger.joint_of(whole.project.find("member", "W1A").id, "start").key], [], True)
        shot("gusset")
        beam = max((m for m in whole.project.members.values() if m.role == "beam" and abs(m.start[2] - m.end[2]) < 1), key=lambda m: abs(m.end[0] - m.start[0])).id
        lug = {"part/1": "plate", "on/1": "bottom", "length/1": 160.0, "width/1": 120.0, "thickness/1": 12.0, "part/2": "bolts", "on/2": "part 1", "rows/2": "100", "lines/2": "70", "bolt/2": "M16"}
        lug |= {"part/3": "plate", "on/3": "part 1", "stands/3": "upright along", "length/3": 90.0, "width/3": 85.0, "thickness/3": 15.0, "corner/3": "rounded", "corner_size/3": 40.0, "corners/3": "away from the face"}
        lug |= {"part/4": "weld", "of/4": "part 3", "to/4": "part 1", "part/5": "holes", "on/5": "part 3", "across/5": 5.0, "hole_width/5": 26.0}
        window.run("place-connection", family="loose", at=[f"{beam}@1500"], settings=lug)
        window.select([f"{beam}@1500"], [], True)
        shot("loose-parts")
        window.undo()
        window.do("house-rules")
        for name, text in (("bolt", "M24"), ("rounding/base plate", "50 up")):
            window.house.change(name, text)
        while window.house.trying:
            app.processEvents()
        shot("house-rules")
        window.house.leave()
        window.set_desk(make_demo("pumphouse-joined", Path(scratch) / "pump.tincleat"))
        window.rail.choose("Join")
        window.select([], [])
        window.view.fit()
        shot("pump-house")
        window.set_desk(make_demo("boathouse", Path(scratch) / "open.tincleat"))
        window.rail.choose("Join")
        rules = JoiningDialog(window)
        rules.show()
        while rules.plan is None:
            app.processEvents()
        for _ in range(6):
            app.processEvents()
        rules.grab().save(str(OUT / "joining.png"))
        rules.accept()
        gallery = Gallery(window)
        gallery.show()
        while not gallery.done_drawing:
            app.processEvents()
        gallery.grab().save(str(OUT / "gallery.png"))
        gallery.reject()
        assert window.desk is not None
        first = next(k for k, e in window.desk.ledger.entries.items() if e.joint.kind == "beam to beam web" and not e.settled)
        window.run("place-connection", family="fin-plate", at=[first])
        roll_out = RollOutDialog(window, first)
        roll_out.show()
        while not roll_out.done_looking:
            app.processEvents()
        for _ in range(6):
            app.processEvents()
        roll_out.grab().save(str(OUT / "roll-out.png"))
        roll_out.reject()
        model = export_ifc(make_demo("boathouse", Path(scratch) / "again.tincleat").ledger, Path(scratch) / "engineer.ifc")
        window.set_desk(make_demo("wireframe", Path(scratch) / "wireframe.tincleat"))
        window.rail.choose("Ready")
        window.do("true-up")
        row = next(i for i, r in enumerate(window.drawer.review.matter.rows) if r.name == "GWN4")  # type: ignore[union-attr]
        window.drawer.review.table.selectRow(row)
        shot("true-up")
        wireframe = window.desk
        assert wireframe is not None
        wireframe.run("take-snapshot", name="as it came")
        wireframe.run("split-stock")
        wireframe.run("true-up", rules=["floor-beams", "splices"])
        window.view.fit()
        window.form = lambda title, words, fields, submit: submit({"first": "as it came", "second": "now"})  # type: ignore[method-assign, assignment]
        window.do("compare")
        del window.form
        shot("compare")
        window.set_desk(Desk.create(Path(scratch) / "import.tincleat"))
        window.rail.choose("Ready")
        ready_deeds.import_ifc(window, str(model))
        while window.job is not None:
            app.processEvents()
        shot("import")
        window.projects.open_path(Path(scratch) / "boathouse.tincleat")
        desk = window.desk
        window.rail.choose("Join")
        window.set_theme("dark")
        window.select([key("Fab.start")], [], True)
        shot("dark")
        window.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
