"""An engineer's frame as it would come in, drawn over the model before it is taken."""

from dataclasses import dataclass

import msgspec
import numpy as np

from tincleat.app.bodies import member_mesh
from tincleat.app.theme import Theme
from tincleat.catalogue.sections import OwnName, plain, row_section
from tincleat.errors import Progress, go_on
from tincleat.exchange.ifc_source import Imported
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh, joined
from tincleat.project.project import Project
from tincleat.steel.cuts import NONE

MOST_BODIES = 4000  # members that are drawn as bodies; of a larger frame the axes are
SURE = 0.995  # of a profile, from which it was taken for what it says


@dataclass(frozen=True)
class Coming:
    """A frame that may come in: members by their profiles, those whose profile was only guessed, bodies that would be reference, axes in
    place of members where they are too many, (n, 2, 3); all in the world, mm."""

    sure: Mesh
    guessed: Mesh
    reference: Mesh
    axes: Array

    def bodies(self, theme: Theme) -> list[tuple[Mesh, str]]:
        """Its bodies with their colours."""
        return [(m, c) for m, c in ((self.sure, theme.slate), (self.guessed, theme.ochre_mark), (self.reference, theme.concrete)) if len(m.points)]

    @property
    def points(self) -> Array:
        """Points (n, 3) that it reaches to."""
        return np.concatenate([self.sure.points, self.guessed.points, self.reference.points, self.axes.reshape(-1, 3)])


def coming(found: Imported, project: Project, progress: "Progress | None" = None) -> Coming:
    """The frame of a file as it would come into a project; raises Cancelled when ``progress`` says so."""
    rows = [*(s.row for s in project.tables["section"].values()), *found.own.values()]
    own = {plain(row["designation"]): OwnName.of(row_section(row)) for row in rows}
    guesses = {str(m.section) for m in found.profiles.values() if m.confidence <= SURE}
    many = len(found.members) > MOST_BODIES
    groups: tuple[list[Mesh], list[Mesh]] = ([], [])
    for i, member in enumerate(() if many else found.members):
        if i % 200 == 0:
            go_on(progress, i / len(found.members), "Drawing the frame", "the import was stopped; nothing was changed")
        name = own.get(plain(str(member.section)))
        groups[str(member.section) in guesses].append(member_mesh(msgspec.structs.replace(member, section=name) if name is not None else member, NONE, 0))
    reference = [Mesh(b.points, b.triangles) for b in found.bodies]
    axes = np.array([(m.start, m.end) for m in found.members] if many else []).reshape(-1, 2, 3)
    return Coming(joined(groups[0]), joined(groups[1]), joined(reference), axes)
