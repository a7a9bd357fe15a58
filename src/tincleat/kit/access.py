"""What is cut for welding through a flange: prisms across a member, holes in its web beside the flange."""

from collections.abc import Sequence

from tincleat.geometry.frames import Frame
from tincleat.geometry.outline import Outline
from tincleat.kit.layout import up
from tincleat.steel.cuts import Notch

ACROSS = Frame((0.0, 0.0, 0.0), (1.0, 0.0, 0.0), (0.0, -1.0, 0.0))  # x along, y up


def across(name: str, number: int, at: Frame, corners: "Sequence[tuple[float, float]]", half: float) -> Notch:
    """A prism across a member: corners in ``at``'s x and z, ``half`` to both sides of its y = 0; in the order in which they are given."""
    flat = [*corners]
    if _signed(flat) < 0:
        flat = flat[::-1]
    return Notch(name, number, at.at(ACROSS.moved(z=-half)), Outline(tuple((x, z, 0.0) for x, z in flat)), 2 * half)


def access_hole(name: str, number: int, at: Frame, x0: float, x1: float, flange: float, inner: float, radius: float, half: float) -> Notch:
    """A hole in a web along a flange's inner face at z = ``flange``, from a member's end ``x0`` to ``x1`` and as deep as z = ``inner``, its
    inner corner rounded."""
    flat = [(x0, inner), (x1, inner), (x1, flange), (x0, flange)]
    radii = [0.0, radius, 0.0, 0.0]
    if _signed(flat) < 0:
        flat, radii = flat[::-1], radii[::-1]
    return Notch(name, number, at.at(ACROSS.moved(z=-half)), Outline.rounded(flat, radii), 2 * half)


def access_usual(tw: float, backing: float, inch: bool) -> tuple[float, float]:
    """Usual height and length of access holes, mm: AWS D1.1 5.16.1 (tw and 20 mm high at least, 1.5 tw and 38 mm long), and room for the backing."""
    step = 3.175 if inch else 5.0
    return min(up(max(tw, backing + 5.0, 19.05 if inch else 20.0), step), 50.8 if inch else 50.0), up(max(1.5 * tw, 38.1), step)


def _signed(flat: "Sequence[tuple[float, float]]") -> float:
    return sum(a[0] * b[1] - b[0] * a[1] for a, b in zip(flat, [*flat[1:], flat[0]], strict=True))
