"""Sun hours: how long the sun shines on a place in a day of a chosen month, at a latitude."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.compass import sun_direction
from ..base.fields import quantity
from ..mesh.mesh import Points
from ..mesh.rays import RayScene
from .ask import Trace
from .rule import HOURS, About
from .sky import REACH
from .traced import TracedRule

_STEPS = 48
"""Moments of a day at which the sun is looked for: every half hour."""
_TILT = 23.44
"""Degrees between the earth's axis and its path."""
_DAYS = 365.0
_LIFT = 2e-3
"""Metres by which a ray leaves its surface."""


def declination(month: float) -> float:
    """Degrees the sun stands north of the equator; month 0 is the first of January (Cooper 1969)."""
    day = month / 12 * _DAYS + 1
    return _TILT * float(np.sin(2 * np.pi * (284 + day) / _DAYS))


def sun_path(latitude: float, month: float) -> tuple[np.ndarray, np.ndarray]:
    """Directions to the sun while it is up, (K, 3) unit, and the hours each stands for, (K,).

    Moments lie in the middle of equal parts of the day's light, so that their hours sum up to its true length.
    """
    lat, dec = np.radians(latitude), np.radians(declination(month))
    # Half a day's arc: cos ω = −tan φ tan δ, beyond the polar circles all or nothing.
    half = float(np.degrees(np.arccos(np.clip(-np.tan(lat) * np.tan(dec), -1, 1))))
    if half <= 0:
        return np.zeros((0, 3)), np.zeros(0)
    count = max(1, int(round(_STEPS * half / 180)))
    angle = np.radians((np.arange(count) + 0.5) / count * 2 * half - half)
    sine = np.sin(lat) * np.sin(dec) + np.cos(lat) * np.cos(dec) * np.cos(angle)
    elevation = np.degrees(np.arcsin(np.clip(sine, -1, 1)))
    azimuth = 180 + np.degrees(np.arctan2(np.sin(angle), np.cos(angle) * np.sin(lat) - np.tan(dec) * np.cos(lat)))
    return np.stack([sun_direction(a, e) for a, e in zip(azimuth, elevation, strict=True)]), np.full(
        count, 2 * half / 15 / count
    )


def sun_hours(scene: RayScene, positions: np.ndarray, normals: np.ndarray, latitude: float, month: float) -> np.ndarray:
    """(N,) float32 hours a day in which the sun strikes a surface."""
    out = np.zeros(len(positions))
    start = (positions + normals * np.float32(_LIFT)).astype(np.float32)
    for toward, hours in zip(*sun_path(latitude, month), strict=True):
        some = np.flatnonzero(normals.astype(np.float64) @ toward > 1e-4)
        out[some] += hours * scene.open_toward(start[some], toward, REACH)
    return out.astype(np.float32)


def _trace(rays: RayScene, points: Points, reach: float, *settings: float) -> np.ndarray:
    latitude, month = settings
    return sun_hours(rays, points.positions, points.normals, latitude, month)


class SunRule(TracedRule):
    """How many hours a day the sun shines on it: paint bleaches where it does, moss keeps where it does not."""

    measure: Literal["sun"] = "sun"
    latitude: float = quantity(
        54.0, -90.0, 90.0, "°", "North of the equator; south of it below 0.", 1, "latitude", (-70, 70, 1)
    )
    month: float = quantity(
        5.6, 0.0, 12.0, "month", "Time of the year: 0 is the first of January, 5.6 mid June.", 0.1, "month", (0, 12, 1)
    )
    about: ClassVar[About] = About(
        "sun hours", HOURS, "hours of sun a day, in a chosen month", "sun", (0, 0, 2, 5), place=64, span=(0, 18),
        soft=2, badge="month {month}", more="latitude and month",
    )  # fmt: skip

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        return _trace, REACH, (self.latitude, self.month)
