"""A detail built and proved for one kin, shared by all joints that are alike."""

from collections.abc import Mapping
from functools import cached_property

import msgspec

from tincleat.details.assembled import Assembled
from tincleat.details.parts import Detail, MemberHole, mirrored
from tincleat.families.registry import family
from tincleat.joints.case import CHANNELS, Case, mirror_case
from tincleat.project.entities import HouseRules, Value
from tincleat.proof.finding import ORDER, Finding, Level, worst
from tincleat.proof.registry import prove

MOST_KEPT = 20000


class Made:
    """A built detail in its case; findings are worked out when first asked for."""

    def __init__(self, case: Case, detail: Detail, house: HouseRules) -> None:
        self.case, self.detail, self.house = case, detail, house
        self.assembled = Assembled(case, detail, house.rule_set)

    @cached_property
    def findings(self) -> tuple[Finding, ...]:
        """All findings of the proof, in the joint's frame."""
        return prove(self.assembled, self.house)

    @cached_property
    def level(self) -> Level:
        """The gravest level of its findings."""
        return worst(f.level for f in self.findings)

    @cached_property
    def counts(self) -> dict[Level, int]:
        """How many findings there are of each level."""
        return {level: sum(f.level == level for f in self.findings) for level in ORDER}


class Workshop:
    """Builds details and keeps them by content: family, case, settings, house rules."""

    def __init__(self) -> None:
        self._made: dict[tuple[object, ...], Made] = {}
        self._house: tuple[HouseRules | None, bytes] = (None, b"")
        self.built = 0

    def _house_key(self, house: HouseRules) -> bytes:
        if self._house[0] is not house:
            self._house = (house, msgspec.json.encode(house))
        return self._house[1]

    def make(self, name: str, case: Case, mirror: bool, settings: Mapping[str, Value], house: HouseRules) -> Made:
        """The detail of a family at a case, from the cache if it was made before; raises NoFit."""
        key = (name, case, mirror, tuple(sorted(settings.items())), self._house_key(house))
        found = self._made.get(key)
        if found is None:
            if len(self._made) >= MOST_KEPT:
                for old in list(self._made)[: MOST_KEPT // 4]:
                    del self._made[old]
            detail = family(name).detail(case, settings, house)
            if mirror:
                detail, case = _mirrored(detail, case), mirror_case(case)
            found = self._made[key] = Made(case, detail, house)
            self.built += 1
        return found


# elements that change places when a section's mirror image is laid with the same section
CHANGED = {"top flange": "bottom flange", "bottom flange": "top flange", "near wall": "far wall", "far wall": "near wall"}


def _mirrored(detail: Detail, case: Case) -> Detail:
    """The mirror image of a detail; holes name the element that lies there now: a channel is turned over, a box's sides change."""

    def named(hole: MemberHole) -> MemberHole:
        shape = case.members[hole.member].shape.shape
        changes = (shape in CHANNELS and "flange" in hole.element) or (shape == "RHS" and hole.element in ("near wall", "far wall"))
        return msgspec.structs.replace(hole, element=CHANGED[hole.element]) if changes else hole

    image = mirrored(detail)
    return msgspec.structs.replace(image, holes=tuple(named(h) for h in image.holes))
