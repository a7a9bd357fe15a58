"""Chunks of the model on the graphics side: a cache of the numpy tables, with levels of detail by pixels per metre.

Members sit in cubes of 36 m, connections in cubes of 12 m.  Levels are built when first wanted and the least recently
used are dropped.
"""

from collections import OrderedDict
from collections.abc import Iterable
from dataclasses import dataclass
from functools import cache
from typing import get_args

import numpy as np
from vtkmodules.util.numpy_support import numpy_to_vtk
from vtkmodules.vtkCommonCore import vtkPoints
from vtkmodules.vtkCommonDataModel import vtkCellArray, vtkPlane, vtkPolyData
from vtkmodules.vtkRenderingCore import vtkActor, vtkPolyDataMapper, vtkRenderer

from tincleat.app.bodies import Bodies
from tincleat.app.camera import Camera
from tincleat.app.theme import Theme, rgb
from tincleat.geometry.frames import Array
from tincleat.geometry.mesh import Mesh, joined
from tincleat.project.entities import Role

MEMBER_CUBE, JOINT_CUBE = 36000.0, 12000.0
MOST_BUILT = 400
FAR = ("sticks", "bars")  # what is drawn by the larger cubes
GRADES = ("sticks", "bars", "fine", "round")
# pixels per metre from which a level is drawn, at rest; while moving they count half as fine
LEVELS = {"sticks": 0.0, "bars": 2.5, "boxes": 14.0, "concrete": 6.0, "fine": 45.0, "round": 200.0, "plates": 40.0, "bolts": 70.0, "edges": 60.0}


def grade_name(scale: float, moving: bool = False) -> str:
    """The level members are drawn at: lines while a section is no wider than one, plain bars, with notches, or with root radii too."""
    if scale < LEVELS["bars"]:
        return "sticks"
    scale /= 2.0 if moving else 1.0
    return "round" if scale >= LEVELS["round"] else "fine" if scale >= LEVELS["fine"] else "bars"


def polydata(mesh: Mesh, colours: "np.ndarray | None" = None) -> vtkPolyData:
    """A mesh as VTK data, sharing arrays; per-point colours (n, 3) uint8."""
    data = vtkPolyData()
    points = vtkPoints()
    points.SetData(numpy_to_vtk(np.ascontiguousarray(mesh.points, dtype=np.float32), deep=False))
    data.SetPoints(points)
    cells = vtkCellArray()
    flat = np.ascontiguousarray(mesh.triangles, dtype=np.int32).ravel()
    cells.SetData(3, numpy_to_vtk(flat, deep=False))
    data.SetPolys(cells)
    if colours is not None:
        data.GetPointData().SetScalars(numpy_to_vtk(np.ascontiguousarray(colours, dtype=np.uint8), deep=False))
    return data


def stick_data(bodies: Bodies, keys: list[str]) -> vtkPolyData:
    """Members as lines from end to end, two points each."""
    rows = [bodies.member_row[key] for key in keys]
    start = bodies.origin[rows]
    ends = np.stack([start, start + bodies.axes[rows, 0] * bodies.length[rows, None]], axis=1).reshape(-1, 3)
    return line_data(ends, np.arange(len(ends), dtype=np.int32).reshape(-1, 2))


def line_data(points: Array, pairs: "np.ndarray") -> vtkPolyData:
    """Line pieces as VTK data."""
    data = vtkPolyData()
    store = vtkPoints()
    store.SetData(numpy_to_vtk(np.ascontiguousarray(points, dtype=np.float32), deep=False))
    data.SetPoints(store)
    cells = vtkCellArray()
    flat = np.ascontiguousarray(pairs, dtype=np.int32).ravel()
    cells.SetData(2, numpy_to_vtk(flat, deep=False))
    data.SetLines(cells)
    return data


def actor(data: vtkPolyData, colour: tuple[float, float, float] | None = None, lines: bool = False) -> vtkActor:
    """An actor with flat shading, culled back faces and no gloss."""
    mapper = vtkPolyDataMapper()
    mapper.SetInputData(data)
    if colour is None:
        mapper.SetColorModeToDirectScalars()
        mapper.SetScalarModeToUsePointData()
    else:
        mapper.ScalarVisibilityOff()
    made = vtkActor()
    made.SetMapper(mapper)
    prop = made.GetProperty()
    prop.SetInterpolationToFlat()
    prop.SetSpecular(0.0)
    prop.SetAmbient(0.5)
    prop.SetDiffuse(0.58)
    if colour is not None:
        prop.SetColor(*colour)
    if lines:
        prop.LightingOff()
        prop.SetLineWidth(1.0)
    else:
        prop.BackfaceCullingOn()
    return made


Cube = tuple[int, ...]


class Cubes:
    """Which things lie in which cube of space, and the box that holds all of a cube's things."""

    def __init__(self, size: float) -> None:
        self.size = size
        self.held: dict[Cube, dict[str, None]] = {}
        self._where: dict[str, Cube] = {}
        self._boxes: dict[Cube, tuple[Array, Array]] = {}
        self._arrays: tuple[list[Cube], Array, Array] | None = None

    def take(self, names: Iterable[str], there: list[str], row: dict[str, int], points: Array, low: Array, high: Array) -> set[Cube]:
        """Sort ``names`` anew: those ``there`` by their point, the others out; the cubes that hold or held any of them."""
        rows = [row[name] for name in there]
        target = dict(zip(there, map(tuple, np.floor(points[rows] / self.size).astype(int).tolist()), strict=True)) if there else {}
        dirty: set[Cube] = set()
        for name in names:
            old, new = self._where.get(name), target.get(name)
            if old is not None:
                dirty.add(old)
                if old == new:
                    continue
                del self.held[old][name], self._where[name]
            if new is not None:
                dirty.add(new)
                self._where[name] = new
                self.held.setdefault(new, {})[name] = None
        for cube in [c for c in dirty if not self.held.get(c)]:
            self.held.pop(cube, None)
            self._boxes.pop(cube, None)
        full = [c for c in dirty if c in self.held]
        if full:
            mine = [row[key] for cube in full for key in self.held[cube]]
            starts = np.cumsum([0, *(len(self.held[cube]) for cube in full[:-1])])
            self._boxes |= zip(full, zip(np.minimum.reduceat(low[mine], starts), np.maximum.reduceat(high[mine], starts), strict=True), strict=True)
        self._arrays = None if dirty else self._arrays
        return dirty

    def seen(self, camera: Camera) -> list[Cube]:
        """The cubes whose contents may be in the picture."""
        if not self._boxes:
            return []
        if self._arrays is None:
            self._arrays = (list(self._boxes), np.array([b[0] for b in self._boxes.values()]), np.array([b[1] for b in self._boxes.values()]))
        cubes, low, high = self._arrays
        return [cube for cube, seen in zip(cubes, camera.sees(low, high).tolist(), strict=True) if seen]


@dataclass
class _Built:
    actor: vtkActor
    visible: bool = False
    stale: bool = False


class Chunks:
    """All chunks of one model in one renderer."""

    def __init__(self, renderer: vtkRenderer, bodies: Bodies, theme: Theme) -> None:
        self.renderer, self.bodies, self.theme = renderer, bodies, theme
        self.members, self.near_members, self.joints = Cubes(MEMBER_CUBE), Cubes(JOINT_CUBE), Cubes(JOINT_CUBE)
        self.planes: list[vtkPlane] = []  # of the section box
        self.see_through = False
        self.marked: frozenset[str] = frozenset()  # members that ask for attention
        self.built: OrderedDict[tuple[str, tuple[int, ...]], _Built] = OrderedDict()
        self._sort(bodies.ledger.entries, bodies.member_ids)

    def recolour(self, theme: Theme) -> None:
        """Take other colours: what was built is built anew when next seen."""
        self.theme = theme
        for one in self.built.values():
            self.renderer.RemoveActor(one.actor)
        self.built.clear()

    def _sort(self, joints: Iterable[str], members: Iterable[str]) -> tuple[set[Cube], set[Cube], set[Cube]]:
        """Put joints and members into the cubes they lie in now; the cubes they are in or were."""
        b = self.bodies
        low, high = b.member_boxes()
        members, joints = list(members), list(joints)
        there = [key for key in members if key in b.member_row and key not in b.hidden]
        far, near = (cubes.take(members, there, b.member_row, b.middle, low, high) for cubes in (self.members, self.near_members))
        return self.joints.take(joints, [k for k in joints if b.joined(k)], b.joint_row, b.joint_points, b.low, b.high), far, near

    def changed(self, joints: "set[str]", members: "set[str]") -> None:
        """Mark the chunks that hold any of these, or held them; they get new data when next seen, in the same actor (a new one costs a shader)."""
        dirty, far, near = self._sort(joints, members)
        stale = {"sticks": far, "bars": far, "fine": near, "round": near, "member edges": near}
        for (name, cube), one in list(self.built.items()):
            if cube in stale.get(name, dirty):
                one.stale = True
                if cube not in (self.members if name in FAR else self.near_members if name in stale else self.joints).held:
                    self.renderer.RemoveActor(self.built.pop((name, cube)).actor)

    def show(self, camera: Camera, moving: bool, coarse: float = 1.0) -> None:
        """Make visible what the camera sees, as fine as its scale asks for, building what is missing or stale."""
        real = 1000.0 / camera.mm_per_pixel / coarse
        scale = real / (2.0 if moving else 1.0)
        wanted: list[tuple[str, tuple[int, ...]]] = []
        fine = scale >= LEVELS["fine"]
        edged = fine and scale >= LEVELS["edges"] and not moving
        for cube in (self.near_members if fine else self.members).seen(camera):
            wanted.append((grade_name(real, moving), cube))
            if edged:
                wanted.append(("member edges", cube))
        names = ["plates" if scale >= LEVELS["plates"] else "boxes"] if scale >= LEVELS["boxes"] else []
        names += [n for n in ("concrete", "bolts") if scale >= LEVELS[n]]
        names += ["joint edges"] if scale >= LEVELS["edges"] and not moving else []
        if names:
            wanted += [(n, cube) for cube in self.joints.seen(camera) for n in names]
        chosen = set(wanted)
        for key, one in self.built.items():
            if one.visible and key not in chosen:
                one.actor.VisibilityOff()
                one.visible = False
        for key in wanted:
            found = self.built.get(key)
            if found is None:
                colour = rgb(self.theme.tin_dark if self.theme.name == "light" else self.theme.paper) if "edges" in key[0] else None
                found = self.built[key] = _Built(actor(self._build(*key), colour, "edges" in key[0] or key[0] == "sticks"))
                self._dress(key, found.actor)
                self.renderer.AddActor(found.actor)
            elif found.stale:
                found.actor.GetMapper().SetInputData(self._build(*key))
                found.stale = False
            if not found.visible:
                found.actor.VisibilityOn()
                found.visible = True
            self.built.move_to_end(key)
        while len(self.built) > MOST_BUILT and not next(iter(self.built.values())).visible:
            _, old = self.built.popitem(last=False)
            self.renderer.RemoveActor(old.actor)

    def dress(self) -> None:
        """Cut every actor by the section box's planes, and see through the members if that is asked for."""
        for key, one in self.built.items():
            self._dress(key, one.actor)

    def _dress(self, key: "tuple[str, Cube]", one: vtkActor) -> None:
        mapper = one.GetMapper()
        mapper.RemoveAllClippingPlanes()
        for plane in self.planes:
            mapper.AddClippingPlane(plane)
        one.GetProperty().SetOpacity(0.22 if self.see_through and key[0] in GRADES else 1.0)

    def _build(self, level: str, cube: tuple[int, ...]) -> vtkPolyData:
        if level == "sticks":
            return self._build_sticks(cube)
        if level in (*GRADES, "member edges"):
            return self._build_members(level, cube)
        b = self.bodies
        found = [b.placed(key, level) for key in self.joints.held[cube]]
        bodies = [one for some in found for one in some]
        if level == "joint edges":
            return self._edges([mesh for mesh, _ in bodies])
        colours = {"plates": self.theme.plate, "bolts": self.theme.slate, "concrete": self.theme.concrete, "welds": self.theme.weld}
        paint = [np.broadcast_to(_bytes(colours[c]), (len(m.points), 3)) for m, c in bodies]
        return polydata(joined([m for m, _ in bodies]), np.concatenate(paint) if paint else None)

    def _build_sticks(self, cube: Cube) -> vtkPolyData:
        """Members as lines from end to end."""
        keys = list(self.members.held[cube])
        data = stick_data(self.bodies, keys)
        each = np.repeat(self._paint(keys), 2, axis=0)
        data.GetPointData().SetScalars(numpy_to_vtk(each, deep=False))
        return data

    def _paint(self, keys: list[str]) -> "np.ndarray":
        """Colours (n, 3) of members by their role."""
        tones = {"column": self.theme.column, "post": self.theme.column, "brace": self.theme.brace}
        painted = {role: _bytes(tones.get(role, self.theme.member)) for role in get_args(Role)}
        known, marked, attention = self.bodies.ledger.project.members, self.marked, _bytes(self.theme.ochre_mark)
        return np.array([attention if key in marked else painted[known[key].role] for key in keys], dtype=np.uint8).reshape(-1, 3)

    def _build_members(self, level: str, cube: tuple[int, ...]) -> vtkPolyData:
        b = self.bodies
        grade = {"bars": 0, "round": 2}.get(level, 1)
        keys = list((self.members if level in FAR else self.near_members).held[cube])
        meshes = [b.member(key, grade) for key in keys]
        if level == "member edges":
            return self._edges(meshes)
        return polydata(joined(meshes), np.repeat(self._paint(keys), [len(m.points) for m in meshes], axis=0))

    @staticmethod
    def _edges(meshes: "list[Mesh]") -> vtkPolyData:
        points, pairs, start = [], [], 0
        for mesh in meshes:
            points.append(mesh.points)
            pairs.append(mesh.sharp_edges + start)
            start += len(mesh.points)
        return line_data(np.concatenate(points), np.concatenate(pairs)) if points else vtkPolyData()


@cache
def _bytes(colour: str) -> "np.ndarray":
    return (np.array(rgb(colour)) * 255).round().astype(np.uint8)
