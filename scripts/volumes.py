"""Every site of the tests weighed by another geometry engine: ``volumes.py [WORD...]`` for those whose name or family has one of the words.

Each site is joined, written to IFC and read back by the other engine; what was cut off its members must weigh what the program says was cut
off them (the same members written without the connection are the measure), and plates, pieces and the rest what their quantities say.
Prints what differs by more than a hundredth and ``LEAST`` mm³, a line each; exit code 1 if anything does.
"""

import sys
import tempfile
from pathlib import Path

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.element
import ifcopenshell.util.shape

sys.path.insert(0, str(Path(__file__).resolve().parent.parent / "tests"))

from sites import SITES, Site, place_name

from tincleat.commands.desk import Desk
from tincleat.errors import TinCleatError
from tincleat.exchange.ifc import export_ifc
from tincleat.project.entities import HouseRules, inch_house

LEAST = 120.0  # mm³: a hole of 14 through 1 mm
SHARE = 0.012  # of what is compared: arcs are chords in the other engine
ROUND = 0.002  # of a whole round bar: its chords lie otherwise once it is cut
KINDS = ("IfcBeam", "IfcColumn", "IfcMember", "IfcPlate")


def weighed(path: Path) -> dict[str, tuple[str, float, float, float]]:
    """Name, volume by the other engine and by the file's quantities (mm³), and the share of it that chords make, of every element of steel, by its id."""
    file = ifcopenshell.open(str(path))
    settings = ifcopenshell.geom.settings()
    settings.set("mesher-linear-deflection", 0.0002)
    settings.set("mesher-angular-deflection", 0.1)
    out = {}
    for element in (e for kind in KINDS for e in file.by_type(kind)):
        quantities = next(v for k, v in ifcopenshell.util.element.get_psets(element, qtos_only=True).items() if k.startswith("Qto"))
        try:
            volume = ifcopenshell.util.shape.get_volume(ifcopenshell.geom.create_shape(settings, element).geometry) * 1e9
        except RuntimeError:
            volume = float("nan")
        round_ = (element.ObjectType or "").startswith(("CHS", "RD", "HSS")) and (element.ObjectType or "").count("X") < 2
        out[element.GlobalId] = (element.Name or "", volume, quantities["NetVolume"] * 1e9, ROUND if round_ else 0.0)
    return out


def differs(site: Site, folder: Path) -> list[str]:
    """What of a site the two do not agree about, in words."""
    desk = Desk.create(folder / "s.tincleat", inch_house("") if site.inch else HouseRules())
    try:
        desk.run("add-members", members=site.members)
        bare = weighed(export_ifc(desk.ledger, folder / "bare.ifc"))
        ids = list(desk.project.members)
        desk.run("place-connection", family=site.family, at=[place_name(n, w, ids) for n, w in site.at], settings=site.typed)
        joined = weighed(export_ifc(desk.ledger, folder / "joined.ifc"))
    except TinCleatError as error:
        return [f"{site.family}: {site.name}: {error}"]
    finally:
        desk.close()
        for file in folder.iterdir():
            file.unlink()
    out = []
    for key, (name, theirs, ours, chords) in joined.items():
        least = LEAST + chords * ours
        if key in bare:
            theirs, ours = bare[key][1] - theirs, bare[key][2] - ours
        if not abs(theirs - ours) <= least + SHARE * abs(ours):  # what is not a number differs too
            out.append(f"{site.family}: {site.name}: {name} {'loses' if key in bare else 'weighs'} {ours:.0f} mm³, by the other engine {theirs:.0f}")
    return out


def main() -> int:
    """Print what differs."""
    words = sys.argv[1:]
    chosen = [s for s in SITES if not words or any(w in s.name or w in s.family for w in words)]
    bad = 0
    with tempfile.TemporaryDirectory() as folder:
        for i, site in enumerate(chosen, 1):
            for line in differs(site, Path(folder)):
                bad += 1
                print(line, flush=True)
            if i % 200 == 0:
                print(f"{i} of {len(chosen)} sites", flush=True)
    print(f"{len(chosen)} sites, {bad} differ")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main())
