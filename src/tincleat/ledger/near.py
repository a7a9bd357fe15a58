"""Which things lie near each other: boxes by the cells of space they touch."""

from collections.abc import Iterator

CELL = 3000.0  # mm
Corner = tuple[float, float, float]


class Nearby:
    """Boxes by key, kept so that those that reach into another box are found without looking at all of them."""

    def __init__(self) -> None:
        self._cells: dict[tuple[int, int, int], dict[str, None]] = {}
        self._boxes: dict[str, tuple[Corner, Corner]] = {}

    def put(self, key: str, low: Corner, high: Corner) -> None:
        """Keep a box under a key, in place of any it had; one that is no box (not a number) is left out."""
        if key in self._boxes:
            if self._boxes[key] == (low, high):
                return
            self.drop(key)
        if not all(a <= b for a, b in zip(low, high, strict=True)):
            return
        self._boxes[key] = (low, high)
        for cell in self._touched(low, high):
            self._cells.setdefault(cell, {})[key] = None

    def drop(self, key: str) -> None:
        """Forget a key, if it is known."""
        box = self._boxes.pop(key, None)
        if box is not None:
            for cell in self._touched(*box):
                mine = self._cells[cell]
                del mine[key]
                if not mine:
                    del self._cells[cell]

    def box(self, key: str) -> tuple[Corner, Corner] | None:
        """The box kept under a key."""
        return self._boxes.get(key)

    def near(self, low: Corner, high: Corner) -> list[str]:
        """The keys of boxes that reach into a box, touching left out; none for what is no box."""
        if not all(a <= b for a, b in zip(low, high, strict=True)):
            return []
        found = dict.fromkeys(key for cell in self._touched(low, high) for key in self._cells.get(cell, ()))
        return [k for k in found if all(a < d and c < b for a, b, c, d in zip(low, high, *self._boxes[k], strict=True))]

    @staticmethod
    def _touched(low: Corner, high: Corner) -> Iterator[tuple[int, int, int]]:
        (a, b, c), (d, e, f) = ([int(v // CELL) for v in corner] for corner in (low, high))
        return ((x, y, z) for x in range(a, d + 1) for y in range(b, e + 1) for z in range(c, f + 1))
