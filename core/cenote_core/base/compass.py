"""Compass bearings, and where the sun stands."""

from __future__ import annotations

import numpy as np


def compass(degrees: float) -> np.ndarray:
    """(2,) unit direction in x and z of a compass bearing: 0 north is −z, 90 east is +x."""
    angle = np.radians(degrees)
    return np.array([np.sin(angle), -np.cos(angle)])


def sun_direction(azimuth: float, elevation: float) -> np.ndarray:
    """(3,) unit vector toward the sun; azimuth clockwise from north, both in degrees."""
    a, e = np.radians(azimuth), np.radians(elevation)
    return np.array([np.sin(a) * np.cos(e), np.sin(e), -np.cos(a) * np.cos(e)])
