"""The eye: where it looks, from which side, and how large a metre is.  Plain numbers, no graphics library."""

import math
from dataclasses import dataclass, field

import numpy as np

from tincleat.geometry.frames import Array

FIELD = math.radians(30)  # opening of the perspective view


@dataclass
class Camera:
    """``target`` sits in the middle of the picture; ``tall`` mm of the world fill its height; yaw and pitch in rad."""

    target: Array = field(default_factory=lambda: np.zeros(3))
    yaw: float = math.radians(-58)
    pitch: float = math.radians(24)
    tall: float = 20000.0
    perspective: bool = False
    width: int = 800
    height: int = 600

    @property
    def axes(self) -> Array:
        """Rows: right, up, and from the target towards the eye."""
        cy, sy, cp, sp = math.cos(self.yaw), math.sin(self.yaw), math.cos(self.pitch), math.sin(self.pitch)
        return np.array([(-sy, cy, 0.0), (-sp * cy, -sp * sy, cp), (cp * cy, cp * sy, sp)])

    @property
    def mm_per_pixel(self) -> float:
        """Size of a pixel at the target, mm."""
        return self.tall / max(1, self.height)

    @property
    def distance(self) -> float:
        """From eye to target, mm (perspective only)."""
        return self.tall / 2 / math.tan(FIELD / 2)

    @property
    def eye(self) -> Array:
        """Where the eye is."""
        out: Array = self.target + self.axes[2] * self.distance
        return out

    def project(self, points: Array) -> Array:
        """(n, 3): pixel x, pixel y (down), and depth towards the eye in mm; points behind the eye get NaN."""
        local = (np.asarray(points, dtype=float).reshape(-1, 3) - self.target) @ self.axes.T
        scale = np.full(len(local), 1.0 / self.mm_per_pixel)
        if self.perspective:
            gap = self.distance - local[:, 2]
            scale = np.where(gap > 1.0, self.distance / np.maximum(gap, 1.0), np.nan) / self.mm_per_pixel
        return np.column_stack([self.width / 2 + local[:, 0] * scale, self.height / 2 - local[:, 1] * scale, local[:, 2]])

    def sees(self, low: Array, high: Array) -> "np.ndarray":
        """(n,) bool: which boxes, by least and greatest corner (n, 3) each, may be in the picture."""
        middle = ((low + high) / 2 - self.target) @ self.axes.T
        half = ((high - low) / 2) @ np.abs(self.axes).T
        wide = np.array([self.width, self.height]) * self.mm_per_pixel / 2
        if self.perspective:
            share = np.maximum(self.distance - middle[:, 2] + half[:, 2], 0.0) / self.distance
            wide = wide * share[:, None]
        seen: np.ndarray = np.all(np.abs(middle[:, :2]) - half[:, :2] <= wide, axis=1)
        return seen

    def ray(self, x: float, y: float) -> tuple[Array, Array]:
        """Start and unit direction of the line of sight through a pixel."""
        right, up, back = self.axes
        dx, dy = (x - self.width / 2) * self.mm_per_pixel, (self.height / 2 - y) * self.mm_per_pixel
        at = self.target + right * dx + up * dy
        if not self.perspective:
            return at + back * 1e6, -back
        way = at - self.eye
        return self.eye, way / np.linalg.norm(way)

    def orbit(self, dx: float, dy: float, pivot: Array) -> None:
        """Turn by pixels about a point that stays where it is in the picture."""
        before = (pivot - self.target) @ self.axes.T
        self.yaw -= dx * 0.008
        self.pitch = max(-math.pi / 2, min(math.pi / 2, self.pitch + dy * 0.008))
        self.target = pivot - before @ self.axes

    def pan(self, dx: float, dy: float) -> None:
        """Shift the picture by pixels."""
        right, up, _ = self.axes
        self.target = self.target - right * dx * self.mm_per_pixel + up * dy * self.mm_per_pixel

    def zoom(self, factor: float, x: float, y: float) -> None:
        """Scale the picture, the point under pixel (x, y) staying put."""
        right, up, _ = self.axes
        dx, dy = (x - self.width / 2) * self.mm_per_pixel, (self.height / 2 - y) * self.mm_per_pixel
        tall = max(50.0, min(5e6, self.tall * factor))
        keep = 1 - tall / self.tall
        self.target = self.target + (right * dx + up * dy) * keep
        self.tall = tall

    def fit(self, low: Array, high: Array, margin: float = 1.08) -> None:
        """Look at a box so that it just fills the picture."""
        corners = np.array([(x, y, z) for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
        self.target = (np.asarray(low) + np.asarray(high)) / 2
        local = (corners - self.target) @ self.axes.T
        wide, tall = np.ptp(local[:, 0]), np.ptp(local[:, 1])
        self.tall = max(200.0, float(max(tall, wide * self.height / max(1, self.width)))) * margin

    def look(self, yaw_deg: float, pitch_deg: float) -> None:
        """Face a standard direction."""
        self.yaw, self.pitch = math.radians(yaw_deg), math.radians(pitch_deg)
