"""A whole project read back from IFC by another geometry engine: ``whole.py DEMO|PROJECT [MOST]``, every solid against every other.

Prints what shares more than ``MOST`` mm³ (60 unless said: chords of arcs) more than a hundredth of a millimetre deep (figures in the
file are rounded, so that large faces on each other share films of a thousandth).
Members, plates, cleats, each solid of bolts, rods and nuts; welds lie on what they join and are left out.
"""

import shutil
import sys
import tempfile
import time
from pathlib import Path
from typing import Any

import ifcopenshell
import ifcopenshell.geom
import ifcopenshell.util.shape
import manifold3d
import numpy as np
from scipy.sparse import csr_matrix
from scipy.sparse.csgraph import connected_components
from shapely import STRtree, box

from tincleat.commands.desk import Desk
from tincleat.demo.registry import make_demo
from tincleat.exchange.ifc import export_ifc

FILM = 0.01  # mm
KINDS = ("IfcBeam", "IfcColumn", "IfcMember", "IfcPlate", "IfcMechanicalFastener")


def solids(element: Any, settings: Any) -> list[Any]:
    """The closed bodies of an element's shape as the other engine makes it, in the world, mm."""
    geometry = ifcopenshell.geom.create_shape(settings, element).geometry
    points = ifcopenshell.util.shape.get_vertices(geometry) * 1000.0
    faces = np.asarray(ifcopenshell.util.shape.get_faces(geometry))
    link = csr_matrix((np.ones(faces.size), (faces.ravel(), np.roll(faces, 1, axis=1).ravel())), shape=(len(points), len(points)))
    _, part = connected_components(link, directed=False)
    out = []
    for p in np.unique(part[faces[:, 0]]):
        mesh = manifold3d.Mesh64(vert_properties=np.ascontiguousarray(points), tri_verts=faces[part[faces[:, 0]] == p].astype(np.uint64))
        mesh.merge()
        out.append(manifold3d.Manifold(mesh))
    return out


def main() -> int:
    """Print every pair; exit code 1 if there is one."""
    most = float(sys.argv[2]) if len(sys.argv) > 2 else 60.0
    with tempfile.TemporaryDirectory() as scratch:
        name = sys.argv[1] if len(sys.argv) > 1 else "boathouse-joined"
        if name.endswith(".tincleat"):
            shutil.copy(name, Path(scratch) / "p.tincleat")
            desk = Desk.open(Path(scratch) / "p.tincleat")
        else:
            desk = make_demo(name, Path(scratch) / "p.tincleat")
        start = time.monotonic()
        file = ifcopenshell.open(str(export_ifc(desk.ledger, Path(scratch) / "p.ifc")))
        settings = ifcopenshell.geom.settings()
        settings.set("mesher-linear-deflection", 0.00005)
        settings.set("use-world-coords", True)
        bodies, bad = [], 0
        for element in (e for kind in KINDS for e in file.by_type(kind)):
            for solid in solids(element, settings):
                if solid.status() != manifold3d.Error.NoError or solid.volume() <= 0:
                    bad += 1
                    continue
                bodies.append((element, solid))
        boxes = np.array([s.bounding_box() for _, s in bodies])
        tree = STRtree([box(b[0], b[1], b[3], b[4]) for b in boxes])
        count, films, found = 0, 0, []
        for i, j in zip(*tree.query([box(b[0], b[1], b[3], b[4]) for b in boxes]), strict=True):
            if i >= j or boxes[i, 2] > boxes[j, 5] or boxes[j, 2] > boxes[i, 5]:
                continue
            (a, one), (b, two) = bodies[i], bodies[j]
            if a.id() == b.id() or a.is_a() == b.is_a() == "IfcMechanicalFastener":
                continue
            count += 1
            shared = one ^ two
            volume = shared.volume()
            if volume > most and 2 * volume / shared.surface_area() < FILM:
                films += 1
            elif volume > most:
                found.append((volume, f"{a.is_a()} {a.Name} ({a.GlobalId})", f"{b.is_a()} {b.Name} ({b.GlobalId})"))
        print(f"{len(bodies)} solids, {bad} that are no closed bodies, {count} pairs looked at in {time.monotonic() - start:.0f} s")
        for volume, one, two in sorted(found, reverse=True)[:40]:
            print(f"{volume:10.1f} mm³  {one}  {two}")
        print(f"{len(found)} pairs share more than {most:g} mm³; {films} more only in films under {FILM:g} mm")
        desk.close()
    return 1 if found else 0


if __name__ == "__main__":
    sys.exit(main())
