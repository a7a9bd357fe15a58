"""Questions put to the user in boxes of their own: where to write, whether to replace, whether to stop."""

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QMessageBox, QWidget


def save_path(parent: QWidget, title: str, start: Path, kinds: str, suffixes: tuple[str, ...]) -> Path | None:
    """Where to write a file: the path with one of the suffixes (the first if none was typed), None if the user thinks better of it.

    A name that got its suffix here was not asked about by the dialog, so it is asked about here before anything is replaced.
    """
    name, _ = QFileDialog.getSaveFileName(parent, title, str(start), kinds)
    if not name:
        return None
    path = Path(name)
    if path.suffix.lower() in suffixes:
        return path
    path = path.with_name(path.name + suffixes[0])
    if path.exists() and not sure(parent, title, f"{path.name} is there already. Replace it?"):
        return None
    return path


def sure(parent: QWidget, title: str, words: str) -> bool:
    """Ask yes or no; no is what Enter and Esc mean."""
    buttons = QMessageBox.StandardButton.Yes | QMessageBox.StandardButton.No
    return QMessageBox.question(parent, title, words, buttons, QMessageBox.StandardButton.No) == QMessageBox.StandardButton.Yes
