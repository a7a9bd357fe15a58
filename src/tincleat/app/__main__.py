"""Start the window: ``python -m tincleat.app [FILE] [--demo NAME] [--shot FILE.png]``."""

import argparse
import os
import sys
import tempfile
from collections.abc import Sequence
from pathlib import Path
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from PySide6.QtWidgets import QWidget


def _size(text: str) -> tuple[int, int]:
    width, _, height = text.partition("x")
    if not (width.isascii() and width.isdigit() and height.isascii() and height.isdigit()) or not (1 <= len(width) <= 4 and 1 <= len(height) <= 4):
        raise argparse.ArgumentTypeError(f"{text!r} is no size; such as 1280x800")
    if not (400 <= int(width) <= 8000 and 300 <= int(height) <= 8000):
        raise argparse.ArgumentTypeError(f"{text!r} is out of reach; 400x300 to 8000x8000")
    return int(width), int(height)


def _shot(window: "QWidget", name: str) -> str:
    """Write a picture of the window by the way everything is written; why it could not be, or an empty text."""
    from tincleat.errors import BadFile
    from tincleat.files import write_whole

    def write(part: Path) -> None:
        if not window.grab().save(str(part)):
            raise BadFile("the picture cannot be written there", name, "a name ending in .png in a folder you may write to")

    try:
        write_whole(name, write)
    except BadFile as error:
        return str(error)
    return ""


def main(argv: Sequence[str] | None = None) -> int:
    """Open the window, or render it to a picture with ``--shot``; exit code of the application."""
    parser = argparse.ArgumentParser(prog="tincleat-window", description="Tin Cleat's window.")
    parser.add_argument("file", nargs="?", help="project file to open")
    parser.add_argument("--demo", nargs="?", const="boathouse", help="open a demo project")
    parser.add_argument("--shot", metavar="FILE.png", help="render the main window to a picture and leave; needs no monitor")
    parser.add_argument("--size", default="1280x800", type=_size, metavar="WIDTHxHEIGHT", help="window size for --shot")
    parser.add_argument("--theme", choices=("light", "dark"), help="colours")
    parser.add_argument("--select", metavar="END", help="select the joint of a member end, such as m12.start, for --shot")
    args = parser.parse_args(argv)
    seen = bool(os.environ.get("DISPLAY") or os.environ.get("WAYLAND_DISPLAY"))
    if args.shot:
        os.environ["QT_QPA_PLATFORM"] = os.environ.get("QT_QPA_PLATFORM", "") if seen and os.environ.get("QT_QPA_PLATFORM") else "offscreen"
        os.environ.pop("DISPLAY", None) if os.environ["QT_QPA_PLATFORM"] == "offscreen" else None
    elif not seen and os.environ.get("QT_QPA_PLATFORM", "xcb") not in ("offscreen", "minimal", "vnc", "eglfs", "linuxfb"):
        print("There is no display here. For a picture of the window add: --shot FILE.png", file=sys.stderr)
        return 2
    from platformdirs import user_data_path
    from PySide6.QtCore import QSettings
    from PySide6.QtWidgets import QApplication

    from tincleat.app import theme
    from tincleat.app.window import Window

    app = QApplication(["tincleat"])
    app.setApplicationName("tincleat")
    app.setDesktopFileName("tincleat")
    with tempfile.TemporaryDirectory() as scratch:
        folder = Path(scratch) if args.shot else user_data_path("tincleat", ensure_exists=True)
        settings = QSettings(str(folder / "window.ini"), QSettings.Format.IniFormat)
        settings.setValue("demo_folder", str(folder / "demo"))
        theme.load_fonts()
        chosen = theme.THEMES[args.theme or str(settings.value("theme", "light"))]
        theme.apply(app, chosen)
        window = Window(chosen, settings)
        window.resize(*_size(args.size) if isinstance(args.size, str) else args.size)
        window.boxes = not args.shot
        window.show()
        window.projects.tidy()
        if args.demo:
            window.projects.open_demo(args.demo)
        elif args.file and not window.projects.open_path(args.file) and args.shot:
            print(f"tincleat: {window.hint.text()}", file=sys.stderr)
            return 2
        if args.shot:
            app.processEvents()
            member, _, end = (args.select or "").partition(".")
            ends = window.desk.ledger.by_end if window.desk is not None else {}
            key = str(next((k for e, k in ends.items() if e == (member, end)), args.select))  # one that shares its joint has the other's key
            if args.select and (window.desk is None or key not in window.desk.ledger.entries):
                print(f"tincleat: there is no joint {args.select!r} here; a member end such as m1.start, or a station that something is placed at, such as m1@1500", file=sys.stderr)
                return 2
            if args.select:
                window.select([key], [], True)
            for _ in range(5):
                app.processEvents()
            window.view.moving = False
            window.view.redraw()
            app.processEvents()
            good = _shot(window, args.shot)
            window.close()
            if good:
                print(f"tincleat: {good}", file=sys.stderr)
            return 2 if good else 0
        return app.exec()


if __name__ == "__main__":
    sys.exit(main())
