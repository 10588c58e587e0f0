"""Weathering by the years: how far a patina has spread over where it gathers."""

from __future__ import annotations

import numpy as np

from ..plan import PatinaPlan
from ..scene.scene import Scene


def grown(rate: np.ndarray, years: float, pace: float) -> np.ndarray:
    """(N,) 0..1: the share covered after some years by spots that grow and run into each other.

    rate · (1 − exp(−(rate · years / pace)²)): how good a place is says both how far it comes there in the end and how
    soon. The second factor is the equation of Johnson, Mehl, Avrami and Kolmogorov for spots that are all there from
    the beginning (Avrami 1940): slow at first, quick, slow again as little is left. Where it gathers best (rate 1)
    `pace` years cover 63 %.

    Parameters
    ----------
    rate : (N,) 0..1, how good a place is
    """
    spread = 1 - np.exp(-np.square(rate * np.float32(max(years, 0.0) / pace)))
    return np.asarray(rate * spread, np.float32)


def age(scene: Scene, plan: PatinaPlan) -> float | None:
    """Years a patina has had; None for one that is as it is whatever the years."""
    return scene.site.weather.years + plan.ahead if plan.pace > 0 else None
