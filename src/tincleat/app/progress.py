"""How far the job is, a line a stage in the rail; and the members over stock length, marked while the frame is made ready."""


from tincleat.app.context import Host
from tincleat.app.counted import counted
from tincleat.ready.stock import is_over_stock


class Progress:
    """Counts of one window's project, kept in step with its changes."""

    def __init__(self, window: Host) -> None:
        self.window = window
        self._over_stock: set[str] | None = None  # None while not known
        self._bars: object = None  # by what lengths of bars

    def forget(self) -> None:
        """Another project: nothing is known of it."""
        self._over_stock = None

    def changed(self, members: set[str]) -> None:
        """Keep the members over stock length in step with changed ones; other lengths of bars ask for all anew."""
        desk = self.window.desk
        if desk is None or self._over_stock is None or desk.project.house.bars != self._bars:
            self._over_stock = None
            return
        p = desk.project
        for key in members:
            self._over_stock.discard(key)
            if key in p.members and is_over_stock(p.house, p.members[key]):
                self._over_stock.add(key)

    def show(self) -> None:
        """Write the counts into the rail."""
        desk = self.window.desk
        if desk is None:
            return
        c, p = desk.counts(), desk.project
        breaches = f"{c['breach']} breach{'es' if c['breach'] != 1 else ''}" + (f", {c['note']} note{'s' if c['note'] != 1 else ''}" if c["note"] else "")
        self.window.rail.set_counts({
            "Frame": (counted(len(p.members), "member"), ""),
            "Ready": self._ready_words(c["apart"]),
            "Join": (f"{c['joined']} / {c['joints']}", ""),
            "Prove": (breaches, "breach" if c["breach"] else "note" if c["note"] else ""),
            "Release": ("IFC, bills", ""),
        })  # fmt: skip
        self.mark_stock()

    def mark_stock(self) -> None:
        """Members over stock length stand out in the model while the frame is made ready."""
        w = self.window
        marked = frozenset(self._over_stock or ()) if w.rail.current == "Ready" else frozenset()
        for view in (w.view, *w.pane.views()):
            view.set_marked(marked)

    def _ready_words(self, bad: int) -> tuple[str, str]:
        assert self.window.desk is not None
        p = self.window.desk.project
        if self._over_stock is None:
            self._bars = p.house.bars
            self._over_stock = {m.id for m in p.members.values() if is_over_stock(p.house, m)}
        long = len(self._over_stock)
        words = [counted(bad, "loose end")] if bad else []
        words += [f"{long} over stock"] if long else []
        return (", ".join(words) if words else "all ends meet", "note" if words else "")
