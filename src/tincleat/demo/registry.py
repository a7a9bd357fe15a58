"""The demo projects by name."""

from collections.abc import Callable
from pathlib import Path

from tincleat.commands.desk import Desk
from tincleat.demo import boathouse, longshed, pumphouse, wireframe
from tincleat.errors import NotFound

DEMOS: dict[str, Callable[["str | Path", bool], Desk]] = {
    "boathouse": boathouse.build,
    "boathouse-joined": boathouse.build_joined,
    "longshed": longshed.build,
    "longshed-joined": longshed.build_joined,
    "pumphouse": pumphouse.build,
    "pumphouse-joined": pumphouse.build_joined,
    "wireframe": wireframe.build,
}


def make_demo(name: str, path: "str | Path", overwrite: bool = False) -> Desk:
    """Write a demo project to ``path``; raises NotFound for an unknown demo, BadFile if the file exists."""
    if name not in DEMOS:
        raise NotFound(f"there is no demo {name!r}", right="one of " + ", ".join(DEMOS))
    return DEMOS[name](path, overwrite)
