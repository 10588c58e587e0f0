"""Stations as cameras."""

from __future__ import annotations

from typing import Protocol

import numpy as np

ASPECT = 1.6
"""Width to height of a picture whose size is not known yet: that of the proofs that are usual."""
SENSOR = 36.0
"""Width of the picture a focal length refers to, millimetres."""


class Viewpoint(Protocol):
    """A camera: where it is and where it looks, metres, and its focal length, millimetres."""

    @property
    def position(self) -> tuple[float, float, float]: ...
    @property
    def target(self) -> tuple[float, float, float]: ...
    @property
    def lens(self) -> float: ...


def field_of_view(lens: float) -> float:
    """Horizontal angle of view in degrees."""
    return float(np.degrees(2 * np.arctan(SENSOR / 2 / lens)))


def axes(station: Viewpoint) -> tuple[np.ndarray, np.ndarray, np.ndarray, np.ndarray]:
    """Eye, right, up and forward of a station."""
    eye, target = np.asarray(station.position, float), np.asarray(station.target, float)
    forward = target - eye
    forward /= max(float(np.linalg.norm(forward)), 1e-9)
    right = np.cross(forward, [0, 1.0, 0])
    if np.linalg.norm(right) < 1e-6:
        right = np.array([1.0, 0, 0])
    right /= np.linalg.norm(right)
    return eye, right, np.cross(right, forward), forward


def in_view(station: Viewpoint, aspect: float, points: np.ndarray, margin: float) -> np.ndarray:
    """(N,) bool: spheres of radius `margin` around points that may be seen from the station."""
    eye, right, up, forward = axes(station)
    delta = points - eye
    depth = delta @ forward
    half = np.tan(np.radians(field_of_view(station.lens)) / 2)
    reach = margin * np.sqrt(1 + half * half)
    wide = np.abs(delta @ right) <= np.maximum(depth, 0) * half + reach
    tall = np.abs(delta @ up) <= np.maximum(depth, 0) * half / aspect + reach
    return np.asarray((depth > -margin) & wide & tall)
