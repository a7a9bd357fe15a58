"""Starting: a picture without a display, and one clear line when there is none."""

import os
import subprocess
import sys
from pathlib import Path

from PySide6.QtGui import QImage


def start(*args: "str | Path") -> subprocess.CompletedProcess[str]:
    """Start the window program with no display."""
    env = {k: v for k, v in os.environ.items() if k not in ("DISPLAY", "WAYLAND_DISPLAY", "QT_QPA_PLATFORM")}
    return subprocess.run([sys.executable, "-m", "tincleat.app", *map(str, args)], env=env, capture_output=True, text=True, timeout=120)


def test_no_display_is_said_in_one_line() -> None:
    done = start()
    assert done.returncode == 2 and "--shot" in done.stderr and done.stderr.count("\n") == 1


def test_picture_without_a_display(tmp_path: Path) -> None:
    done = start("--demo", "--shot", tmp_path / "shot.png", "--size", "1100x700")
    assert done.returncode == 0, done.stderr
    image = QImage(str(tmp_path / "shot.png"))
    assert (image.width(), image.height()) == (1100, 700)
    shades = {image.pixelColor(x, y).rgb() for x in range(100, 800, 7) for y in range(40, 440, 7)}
    assert len(shades) > 8  # steel was drawn, not an empty pane


def test_bad_file_for_a_picture(tmp_path: Path) -> None:
    (tmp_path / "x.tincleat").write_text("no")
    done = start(tmp_path / "x.tincleat", "--shot", tmp_path / "shot.png")
    assert done.returncode == 2 and "not a project file" in done.stderr and not (tmp_path / "shot.png").exists()
