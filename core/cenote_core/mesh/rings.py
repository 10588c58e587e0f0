"""Triangles of skins made of rings, one below the other."""

from __future__ import annotations

import numpy as np


def between_rings(rings: int, sides: int) -> np.ndarray:
    """(2 · (rings − 1) · sides, 3) corners between rings of so many vertices each, stored ring after ring from the top.

    Vertices go round from east to south, seen from above; the outside of the skin is outward.
    """
    around = np.arange(sides)
    first = np.arange(rings - 1)[:, None] * sides
    here, beside = (first + around).ravel(), (first + (around + 1) % sides).ravel()
    return np.concatenate(
        [np.stack([here, beside, here + sides], 1), np.stack([beside, beside + sides, here + sides], 1)]
    )


def fan(ring: int, sides: int, point: int) -> np.ndarray:
    """(sides, 3) corners that close a ring, which starts at a vertex, with a point below it; outside downward."""
    around = np.arange(sides)
    return np.stack([ring + around, ring + (around + 1) % sides, np.full(sides, point)], axis=1)
