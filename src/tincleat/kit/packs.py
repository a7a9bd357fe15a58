"""Packs that make up a difference between two faces from what is stocked."""

from tincleat.project.entities import HouseRules

LEFT = 1.0  # mm of a difference that bolts draw together: no pack for less


def packs(difference: float, house: HouseRules) -> list[float]:
    """Thicknesses (mm), thickest first, of stocked plates and sheets that fill a difference up to less than :data:`LEFT`."""
    stock = sorted((*house.plates, *house.sheets), reverse=True)
    out: list[float] = []
    rest = difference
    while rest >= LEFT - 1e-6:
        piece = next((t for t in stock if t <= rest + 1e-6), None)
        if piece is None:
            break
        out.append(piece)
        rest -= piece
    return out
