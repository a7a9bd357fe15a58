"""The context menu, the search over all actions, and help."""

from functools import partial

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu, QWidget

from tincleat.app.context import Host
from tincleat.app.dialogs import Help, Palette
from tincleat.app.helptext import help_for
from tincleat.families.registry import families_for


def context_menu(w: Host, kind: str, key: str, at: QPoint) -> None:
    """What applies to the thing under the pointer."""
    if w.desk is None:
        return
    if kind == "joint" and key not in w.selected:
        w.select([key], [])
    elif kind == "member" and key not in w.members:
        w.select([], [key])
    menu = QMenu(w)
    entry = w.desk.ledger.entries.get(w.selected[0]) if w.selected else None
    if entry is not None:
        menu.addAction(entry.joint.words).setEnabled(False)
        if entry.connection is None:
            for kind_ in families_for(entry.joint.kind):
                if not w.desk.ledger.refusal(entry.joint, kind_.name, {}):
                    menu.addAction(kind_.placing, partial(w.placing.place_here, kind_.name, ""))
                    menu.addAction(f"{kind_.placing} at all alike", partial(w.placing.place_here, kind_.name, entry.joint.key))
        for name in ("roll-out", "use-typical", "save-typical", "leave-typical", "take-settings", "give-settings"):
            if w.actions_[name].enabled():
                menu.addAction(w.actions_[name].label, partial(w.act, w.actions_[name]))
        menu.addSeparator()
    names = [
        "zoom-selection",
        "select-kin",
        "delete",
        "",
        "copy-members",
        "mirror-members",
        "split-members",
        "",
        "hide",
        "isolate",
        "section-box",
        "see-through",
        "show-all",
        "",
        "fit",
        "view-plan",
        "view-front",
        "perspective",
        "marks",
        "",
        "undo",
        "redo",
        "search",
    ]
    for name in names:
        if not name:
            menu.addSeparator()
            continue
        a = w.actions_[name]
        entry_ = menu.addAction(a.label + (f"\t{a.shortcut}" if a.shortcut else ""), partial(w.act, a))
        entry_.setEnabled(a.enabled())
    menu.exec(at)


def search(w: Host) -> None:
    """Open the search over every action."""
    made = Palette([a for a in w.actions_.values() if a.name != "search"], w)
    corner = w.mapToGlobal(QPoint((w.width() - made.width()) // 2, 90))
    made.move(corner)
    made.show()
    made.line.setFocus()
    w.palette_ = made


def help(w: Host) -> None:
    """Help for what has the focus."""
    widget: QWidget | None = w.focusWidget()
    name = ""
    while widget is not None and not name:
        name = widget.accessibleName()
        widget = widget.parentWidget()
    title, html = help_for(name, list(w.actions_.values()))
    made = Help(title, html, w)
    made.show()
    w.help_ = made
