"""Drawings beside forms: each is of its form's own fields, and shows the one that is being typed."""

import pytest
from PySide6.QtCore import QEvent, Qt
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot
from test_window import window

from tincleat.app import forms
from tincleat.app.dialogs import FormDialog
from tincleat.app.form_pictures import PICTURES, TALL, WIDE
from tincleat.app.window import Window

assert window  # the fixture

OPENED = {
    "columns": forms.columns_at,
    "beams": forms.beams_at,
    "copy": forms.copy,
    "mirror": forms.mirror,
    "rotate": forms.rotate,
    "cut": forms.cut_polygon,
    "split": forms.split,
    "stretch": forms.stretch,
    **{kind: (lambda w, kind=kind: forms.run(w, kind)) for kind in forms.RUNS},
    "portals": forms.portals,
}


def test_every_drawing_has_its_form() -> None:
    assert set(OPENED) == set(PICTURES)


@pytest.mark.parametrize("name", OPENED)
def test_a_forms_drawing_names_its_fields_and_shows_the_one_being_typed(name: str, qtbot: QtBot, window: Window, monkeypatch: pytest.MonkeyPatch) -> None:
    assert window.desk is not None
    seen: list[str] = []

    def look(dialog: FormDialog) -> int:
        picture = dialog.picture
        assert picture is not None and picture.drawn is PICTURES[name] and picture.accessibleName()
        words = {field for field, *_ in picture.drawn.words if field}
        assert words and words <= set(dialog.fields), words - set(dialog.fields)
        dialog.show()
        qtbot.waitExposed(dialog)
        looks = {}
        for field in sorted(words):
            # as the keyboard comes: a display without a window manager gives no window the focus by itself
            QApplication.sendEvent(dialog.fields[field], QFocusEvent(QEvent.Type.FocusIn, Qt.FocusReason.TabFocusReason))
            assert picture.field == field
            looks[field] = bytes(picture.grab().toImage().constBits())
        assert len(set(looks.values())) == len(words)  # no two fields look alike
        # nothing stands outside of it, and no two names over each other
        boxes = [box for box, _ in picture.boxes()]
        assert all(b.left() >= 0 and b.top() >= 0 and b.right() <= WIDE and b.bottom() <= TALL for b in boxes), [w for b, w in picture.boxes() if b.left() < 0 or b.right() > WIDE or b.top() < 0 or b.bottom() > TALL]
        assert not [(v, w) for i, (a, v) in enumerate(picture.boxes()) for b, w in picture.boxes()[:i] if a.intersects(b)]
        seen.append(name)
        dialog.close()
        return 0

    monkeypatch.setattr(FormDialog, "exec", look)
    window.select([], sorted(window.desk.project.members)[:2], False)
    OPENED[name](window)
    assert seen == [name]
