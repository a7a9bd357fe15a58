"""What is taken from stock: a plate about as thick as wanted, packs that make up a difference between two faces."""

from tincleat.project.entities import HouseRules

THINNER = 0.3  # mm by which a plate may be thinner than the flange it goes on from
LEFT = 1.0  # mm of a difference that bolts draw together: no pack for less


def stocked(wanted: float, house: HouseRules) -> float:
    """The thinnest stocked plate (mm) that is at most :data:`THINNER` thinner than wanted; the wanted thickness where none is so thick."""
    return min((p for p in house.plates if p >= wanted - THINNER), default=wanted)


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
