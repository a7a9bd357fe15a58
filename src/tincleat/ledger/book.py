"""The steel as it is made, worked out once for all members that are alike."""

from collections.abc import Sequence

from tincleat.catalogue.sections import Section
from tincleat.geometry.frames import Frame
from tincleat.ledger.made import Made
from tincleat.project.entities import Member
from tincleat.steel.body import named
from tincleat.steel.cuts import NONE, Cuts
from tincleat.steel.likes import Worked, worked

MOST_KEPT = 20000


class SteelBook:
    """What connections cut of members, worked out once for all places that are alike: by detail, member of its case and how that lies."""

    def __init__(self) -> None:
        self._placed: dict[tuple[object, ...], tuple[Made, Cuts]] = {}
        # by member: the member and the stamp of its joints that it was worked out from, as long as they are the same objects
        self.known: dict[str, tuple[Member, object, Worked]] = {}
        self.cuts: dict[str, tuple[Member, object, list[Cuts]]] = {}
        self._sums: dict[tuple[object, ...], tuple[tuple[Cuts, ...], Worked]] = {}

    def cut_by(self, made: Made, number: int, joint: Frame, own: Frame, shape: Section) -> Cuts:
        """Cuts that a detail makes in member ``number`` of its case, in that member's axis frame ``own``; both frames in the world."""
        at = joint.inside(own)
        key = (id(made), number, tuple(round(v, 3) for v in at.origin), tuple(round(v, 6) for v in (*at.x, *at.z)))
        found = self._placed.get(key)
        if found is None:
            mine = made.detail.cuts_of(number)
            if len(self._placed) >= MOST_KEPT:
                self._placed.clear()
            found = self._placed[key] = (made, named(mine.seen_from(at), shape) if mine else NONE)
        return found[1]

    def worked(self, shape: Section, full: float, own: Cuts, parts: "Sequence[Cuts]") -> Worked:
        """The facts of a bar with its own cuts and those of its connections."""
        key = (shape, round(full, 3), id(own) if own else 0, *map(id, parts))
        found = self._sums.get(key)
        if found is None:
            if len(self._sums) >= MOST_KEPT:
                self._sums.clear()
            total = own
            for part in parts:
                total = total + part
            # the cuts are kept with what was worked out, so that their identities stay theirs
            found = self._sums[key] = ((own, *parts), worked(shape, full, total))
        return found[1]
