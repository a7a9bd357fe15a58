"""Which things lie near each other: boxes by the cells of space they touch."""

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
        if not _sound(low, high):
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
        if not _sound(low, high):
            return []
        (a, b, c), (d, e, f) = low, high
        cells = (d // CELL - a // CELL + 1) * (e // CELL - b // CELL + 1) * (f // CELL - c // CELL + 1)
        # of a box over more cells than there are boxes, all are looked at
        found = self._boxes if cells > len(self._boxes) else dict.fromkeys(key for cell in self._touched(low, high) for key in self._cells.get(cell, ()))
        out = []
        for key in found:
            (p, q, r), (s, t, u) = self._boxes[key]
            if a < s and p < d and b < t and q < e and c < u and r < f:
                out.append(key)
        return out

    @staticmethod
    def _touched(low: Corner, high: Corner) -> "list[tuple[int, int, int]]":
        a, b, c = int(low[0] // CELL), int(low[1] // CELL), int(low[2] // CELL)
        d, e, f = int(high[0] // CELL), int(high[1] // CELL), int(high[2] // CELL)
        if a == d and b == e and c == f:  # as most do
            return [(a, b, c)]
        return [(x, y, z) for x in range(a, d + 1) for y in range(b, e + 1) for z in range(c, f + 1)]


def _sound(low: Corner, high: Corner) -> bool:
    """Whether corners are those of a box: with a number that is none they are not."""
    return low[0] <= high[0] and low[1] <= high[1] and low[2] <= high[2]
