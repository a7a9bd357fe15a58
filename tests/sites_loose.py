"""Places of loose parts: every kind of part on every kind of face, alone and on each other."""

from typing import Any

from site_parts import Site, column, girder

BEAMS = ("UB 457x191x67", "HEB 300", "PFC 300x100x46", "IPN 300", "SHS 200x200x8")


def loose(name: str, member: dict[str, Any], at: float = 2500, inch: bool = False, **typed: Any) -> Site:
    """A site of loose parts: settings as ``length__1``."""
    station = f"@{at / 25.4:g}" if inch else f"@{at:g}"
    return Site(f"loose {name}", [member], "loose", ((0, station),), {k.replace("__", "/").replace("from/", "from_/"): v for k, v in typed.items()}, inch=inch)


def loose_parts() -> list[Site]:
    out = []
    for beam in BEAMS:
        m = girder(beam)
        out.append(loose(f"plate on {beam}", m, part__1="plate", length__1=160.0, width__1=60.0, across__1=10.0, part__2="weld"))
        out.append(loose(f"fin on the side of {beam}", m, part__1="plate", on__1="near side", stands__1="upright across", length__1=120.0, width__1=80.0, across__1=15.0, corner__1="sniped", corners__1="away from the face", part__2="weld"))
        out.append(loose(f"lug along {beam}", m, part__1="plate", on__1="bottom", stands__1="upright along", along__1=100.0, corner__1="rounded", corner_size__1=30.0, corners__1="away from the face", part__2="weld"))
        out.append(loose(f"bolted plate on {beam}", m, part__1="plate", on__1="far side", length__1=220.0, width__1=140.0, part__2="bolts", on__2="far side", rows__2=(100.0,), lines__2=(70.0,)) if beam[0] != "S" else
                   loose(f"holes in {beam}", m, part__1="holes", on__1="top", rows__1=(100.0, 100.0), hole_width__1=14.0))  # fmt: skip
        out.append(loose(f"angle along {beam}", m, part__1="piece", on__1="far side", lies__1="along", length__1=200.0, part__2="weld", to__2="member"))
        out.append(loose(f"stub on {beam}", m, part__1="piece", on__1="top", section__1="SHS 60x60x5", length__1=250.0, part__2="weld"))
    m = girder("UB 457x191x67")
    for prep in ("TC-U4b", "TC-U4a-GF", "2.6", "TC-U5b", "TC-U5-GF", "2.9.1"):
        out.append(loose(f"groove {prep}", m, part__1="plate", stands__1="upright along", thickness__1=20.0, length__1=180.0, part__2="weld", prep__2=prep))
    out.append(loose("packer holes", m, at=3000, part__1="holes", rows__1=(600.0,) * 4, lines__1=(110.0,), staggered__1=True, hole_width__1=14.0))
    out.append(loose("slots across", m, part__1="plate", length__1=240.0, width__1=180.0, part__2="bolts", rows__2=(120.0,), lines__2=(80.0,), hole__2="short slot", slot_way__2="across"))
    out.append(loose("one left out", m, part__1="plate", length__1=240.0, width__1=160.0, part__2="bolts", rows__2=(70.0, 70.0), lines__2=(90.0,), left_out__2=(3, 4)))
    out.append(loose("bent plate", m, part__1="bent plate", on__1="top", along__1=-60.0, length__1=90.0, width__1=120.0, part__2="weld", part__3="holes", on__3="back of part 1", bolt__3="M12"))
    out.append(loose("twice bent", m, part__1="bent plate", on__1="near side", turn__1=0.0, rise_2__1=50.0, bend_2__1=-1.2, part__2="weld"))
    out.append(loose("four bends", m, part__1="bent plate", on__1="bottom", length__1=120.0, width__1=100.0, rise__1=40.0, rise_2__1=30.0, rise_3__1=50.0, bend_3__1=-0.9, rise_4__1=30.0, bend_4__1=-0.6, part__2="weld"))
    out.append(loose("piece to a point", m, part__1="piece", lies__1="to a point", section__1="SHS 50x50x5", to_along__1=250.0, to_across__1=40.0, to_off__1=400.0))
    out.append(loose("square piece to a point", m, part__1="piece", on__1="near side", lies__1="to a point", section__1="L 60x60x6", end__1="square", off__1=60.0, to_along__1=300.0, to_off__1=180.0, spin__1=0.4))
    out.append(loose("plate on a plate", m, part__1="plate", length__1=300.0, width__1=160.0, part__2="plate", on__2="part 1", length__2=150.0, width__2=80.0, turn__2=0.4, part__3="weld", of__3="part 2", to__3="part 1", part__4="weld", of__4="part 1", left_out__4=(1, 2)))
    out.append(loose("lug on a plate", m, part__1="plate", on__1="bottom", length__1=200.0, width__1=120.0, part__2="plate", on__2="part 1", stands__2="upright along", length__2=120.0, width__2=90.0, thickness__2=15.0, part__3="weld", part__4="weld", of__4="part 2", part__5="holes", on__5="part 2", hole_width__5=32.0))
    out.append(loose("tilted tube", m, part__1="piece", section__1="SHS 60x60x5", tilt__1=0.5, length__1=300.0))
    out.append(loose("piece to the shape", m, part__1="piece", on__1="near side", section__1="IPE 200", length__1=300.0, end__1="to the member's shape", clear__1=3.0))
    out.append(loose("stitched", m, part__1="plate", length__1=700.0, width__1=100.0, part__2="weld", stitch__2=60.0, pitch__2=150.0, stitches__2="in turn", left_out__2=()))
    out.append(loose("cope and vent", m, part__1="cut", on__1="near side", shape__1="rectangle", length__1=220.0, width__1=120.0, corner_size__1=15.0, part__2="cut", on__2="near side", along__2=300.0, shape__2="round", length__2=60.0))
    out.append(loose("cut plate", m, part__1="plate", on__1="far side", stands__1="upright along", length__1=200.0, width__1=120.0, part__2="cut", on__2="part 1", along__2=90.0, across__2=50.0, length__2=80.0, width__2=60.0, part__3="weld"))
    out.append(loose("bevelled edge", m, part__1="plate", stands__1="upright along", length__1=160.0, width__1=90.0, thickness__1=15.0, part__2="cut", on__2="part 1", shape__2="bevel", across__2=80.0, slant__2=0.6, part__3="weld"))
    out.append(loose("own outline", m, part__1="plate", points__1=(-100.0, -40.0, 100.0, -40.0, 60.0, 60.0, -100.0, 60.0), part__2="weld"))
    out.append(loose("under a flange", m, part__1="plate", on__1="under the top far", length__1=100.0, width__1=40.0, thickness__1=8.0, part__2="weld"))
    out.append(loose("from an edge", m, part__1="plate", from__1="the left edge", across__1=40.0, length__1=100.0, width__1=60.0, part__2="weld"))
    out.append(loose("mitred pieces", m, part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=260.0, mitre__1=0.7, mitre_start__1=-0.4, part__2="piece", on__2="bottom", section__2="IPE 160", length__2=300.0, mitre__2=0.5, mitre_way__2="its breadth"))
    out.append(loose("notched piece", m, part__1="piece", section__1="SHS 80x80x5", lies__1="along", length__1=300.0, part__2="cut", on__2="left side of part 1", length__2=50.0, width__2=40.0, corner_size__2=8.0, part__3="cut", on__3="part 1", along__3=-90.0, shape__3="slot", length__3=60.0, width__3=18.0))
    out.append(loose("plate on an edge", m, part__1="plate", length__1=200.0, width__1=100.0, thickness__1=40.0, part__2="plate", on__2="right side of part 1", length__2=120.0, width__2=15.0, part__3="weld", of__3="part 2", to__3="part 1"))
    out.append(loose("plane of its own", m, part__1="plate", on__1="a plane of its own", plane_turn__1=0.6, plane_lean__1=0.4, off__1=420.0, length__1=150.0, width__1=120.0, part__2="holes", on__2="part 1", rows__2=(60.0,)))
    out.append(loose("access holes", m, part__1="cut", on__1="near side", shape__1="access hole", across__1=100.0, part__2="cut", on__2="far side", shape__2="access hole", across__2=-100.0, along__2=120.0))
    out.append(loose("countersunk in the flange", m, part__1="plate", on__1="under the top far", length__1=180.0, width__1=60.0, thickness__1=10.0, part__2="bolts", on__2="top", across__2=45.0, rows__2=(90.0,), bolt__2="M12", head__2="countersunk"))
    out.append(loose("countersunk in a piece", m, part__1="piece", section__1="L 100x100x10", lies__1="along", length__1=240.0, part__2="bolts", on__2="part 1", across__2=30.0, rows__2=(90.0,), bolt__2="M12", head__2="countersunk"))
    out.append(loose("bolted piece", m, part__1="piece", section__1="L 120x120x12", lies__1="along", length__1=260.0, part__2="bolts", on__2="part 1", across__2=34.0, rows__2=(100.0,), bolt__2="M16"))
    out.append(loose("bolted channel", m, part__1="piece", section__1="PFC 200x75x23", lies__1="along", spin__1=1.5707963267948966, length__1=200.0, part__2="bolts", on__2="right side of part 1", rows__2=(80.0,), lines__2=(66.0,), bolt__2="M16"))
    out.append(loose("countersunk bent plate", m, part__1="bent plate", length__1=140.0, width__1=160.0, thickness__1=10.0, part__2="bolts", on__2="part 1", lines__2=(70.0,), bolt__2="M12", head__2="countersunk"))
    for prep in ("B-U6", "B-U9"):
        pair = {f"{k}__{n}": v for n in (1, 2) for k, v in (("part", "plate"), ("length", 180.0), ("width", 140.0), ("thickness", 20.0), ("off", 30.0), ("along", 91.0 * (2 * n - 3)))}
        out.append(loose(f"edge to edge {prep}", m, **pair, part__3="weld", to__3="part 2", prep__3=prep))
    out.append(loose("standing on a J", m, part__1="plate", stands__1="upright along", thickness__1=20.0, length__1=180.0, part__2="weld", prep__2="TC-U8a"))
    out.append(loose("picked plies", m, part__1="plate", off__1=22.0, length__1=160.0, width__1=100.0, part__2="plate", on__2="part 1", length__2=160.0, width__2=100.0, part__3="bolts", on__3="part 2", bolt__3="M12", through__3=(1, 2)))
    out.append(loose("countersunk", m, part__1="plate", length__1=240.0, width__1=160.0, thickness__1=15.0, part__2="bolts", on__2="part 1", bolt__2="M16", rows__2=(100.0,), lines__2=(90.0,), head__2="countersunk"))
    out.append(loose("countersunk inch", girder("W18X50"), inch=True, part__1="plate", length__1=254.0, width__1=165.1, thickness__1=19.05, part__2="bolts", on__2="part 1", rows__2=(101.6,), lines__2=(88.9,), head__2="countersunk"))
    out.append(loose("screwed in", m, part__1="plate", on__1="bottom", length__1=200.0, width__1=140.0, part__2="bolts", on__2="part 1", bolt__2="M12", rows__2=(100.0,), lines__2=(80.0,), hole__2="threaded"))
    for prep in ("B-U2a", "B-U3b", "B-U4b", "2.9.1", "2.5.1"):
        out.append(loose(f"plates butted by {prep}", m, part__1="plate", length__1=150.0, width__1=120.0, thickness__1=20.0, off__1=25.0, along__1=-80.0, part__2="plate", length__2=150.0, width__2=160.0, thickness__2=20.0, off__2=25.0, along__2=80.0, across__2=10.0, part__3="weld", prep__3=prep, to__3="part 2"))
    out.append(loose("studs", m, part__1="studs", rows__1=(150.0, 150.0, 150.0), lines__1=(100.0,), staggered__1=False))
    out.append(loose("studs inch", girder("W18X50"), inch=True, part__1="studs", rows__1=(152.4, 152.4), on__1="top", left_out__1=(2,)))
    out.append(loose("plug welds", m, part__1="plate", length__1=240.0, width__1=160.0, thickness__1=12.0, part__2="plug welds", on__2="part 1", rows__2=(90.0, 90.0), lines__2=(80.0,)))
    out.append(loose("slot welds", m, part__1="plate", on__1="far side", length__1=240.0, width__1=180.0, part__2="plug welds", on__2="part 1", hole_length__2=50.0, lines__2=(90.0,), slot_way__2="across"))
    out.append(loose("plug welds inch", girder("W18X50"), inch=True, part__1="plate", length__1=254.0, width__1=152.4, thickness__1=12.7, part__2="plug welds", on__2="part 1", rows__2=(101.6,)))
    out.append(loose("round tube along a face", m, part__1="piece", section__1="CHS 48.3x3.2", lies__1="along", length__1=200.0, mitre__1=0.3, part__2="weld"))
    out.append(loose("tube along a face", m, part__1="piece", section__1="SHS 60x60x5", lies__1="along", length__1=200.0, part__2="weld", part__3="piece", on__3="near side", section__3="RHS 60x40x4", lies__3="along", length__3=150.0, along__3=60.0, part__4="weld", of__4="part 3"))
    post = column("HEB 200")
    out.append(loose("on a column", post, part__1="plate", on__1="near side", stands__1="upright along", along__1=60.0, part__2="weld", part__3="plate", on__3="top", length__3=150.0, width__3=150.0, part__4="bolts", on__4="top", rows__4=(80.0,), lines__4=(90.0,), bolt__4="M12"))
    out.append(loose("plate along a round tube", girder("CHS 168.3x6.3"), part__1="plate", stands__1="upright along", length__1=200.0, width__1=80.0, part__2="weld"))
    out.append(loose("flat bar", girder("FL 100x20"), part__1="plate", on__1="near side", length__1=120.0, width__1=60.0, part__2="weld"))
    out.append(loose("inch", girder("W18X50"), inch=True, part__1="plate", length__1=203.2, width__1=152.4, part__2="bolts", rows__2=(101.6,), lines__2=(88.9,)))
    return out
