"""A picture in the making: sums of samples, how noisy each pixel still is, and where the next samples go."""

from __future__ import annotations

from dataclasses import dataclass
from pathlib import Path
from typing import Any
from zipfile import BadZipFile

import numpy as np
from scipy.ndimage import uniform_filter

from ..materials.material import LUMINANCE

BRIGHTEST = 40.0
"""Samples count as no brighter than this: rare very bright ones would leave spots that the denoiser keeps."""
FEATURES = ("colour", "normal", "depth", "cover")
_DARKEST = 0.02
"""Light under which noise is no more plainly seen, of white."""
_AROUND = 5
"""Pixels across the window in which noise is averaged: that of one pixel alone is told badly by few samples."""


@dataclass
class Film:
    """Sums over the samples of a picture's pixels, (N,) or (N, 3) float32, row by row.

    `light` holds light of surfaces, `sky_seen` that of the open sky, `squares` the squares of the samples' luminance.
    """

    width: int
    height: int
    count: np.ndarray
    light: np.ndarray
    sky_seen: np.ndarray
    squares: np.ndarray
    colour: np.ndarray
    normal: np.ndarray
    depth: np.ndarray
    cover: np.ndarray

    @property
    def samples(self) -> float:
        """Mean number of samples a pixel has, of those that have any."""
        taken = self.count[self.count > 0]
        return float(taken.mean()) if len(taken) else 0.0

    def add(self, pixels: np.ndarray, times: int, found: dict[str, np.ndarray]) -> None:
        """Take samples in, `times` for each of `pixels` (each named once), those of a pixel behind each other."""
        light = np.minimum(np.nan_to_num(found["light"], posinf=BRIGHTEST), BRIGHTEST)
        luminance = (light + found["sky_seen"]) @ LUMINANCE
        summed = lambda values: values.reshape(len(pixels), times, *values.shape[1:]).sum(axis=1)  # noqa: E731
        self.light[pixels] += summed(light)
        self.squares[pixels] += summed(luminance * luminance)
        for name in ("sky_seen", *FEATURES):
            getattr(self, name)[pixels] += summed(found[name])
        self.count[pixels] += np.uint16(times)

    def mean(self, name: str) -> np.ndarray:
        """(H, W, …) mean of one of the sums; 0 where there are no samples."""
        sums = getattr(self, name)
        count = np.maximum(self.count, 1).astype(np.float32)
        values = sums / (count[:, None] if sums.ndim == 2 else count)
        return np.ascontiguousarray(values.reshape(self.height, self.width, *sums.shape[1:]))

    def beauty(self) -> np.ndarray:
        """(H, W, 3) all light."""
        return self.mean("light") + self.mean("sky_seen")

    def noise(self, exposure: float) -> np.ndarray:
        """(N,) standard error of each pixel's mean as it is seen on a screen, 0 to 1, averaged with its neighbours'.

        Errors of light are turned into errors on the screen by the slope of its transfer curve (a power of 1/2.2) at
        the mean. Pixels without or with one sample count as wholly unknown.
        """
        count = np.maximum(self.count, 2).astype(np.float32)
        mean = ((self.light + self.sky_seen) @ LUMINANCE) / count
        variance = np.maximum(self.squares / count - mean * mean, 0) / (count - 1)
        bright = np.maximum(mean * 2.0**exposure, _DARKEST)
        slope = 2.0**exposure * bright ** (1 / 2.2 - 1) / 2.2
        # Where white is reached, nothing is seen of noise.
        slope = np.where(bright > 1.0, slope / bright, slope)
        squared = np.where(self.count > 1, variance * slope * slope, 1.0).reshape(self.height, self.width)
        # The filter's running sums may come out a little below nothing beside something bright.
        around = np.maximum(uniform_filter(squared, _AROUND, mode="nearest"), 0)
        return np.asarray(np.sqrt(around).ravel(), np.float32)


def empty_film(width: int, height: int) -> Film:
    """A film without samples."""
    size = width * height
    three = lambda: np.zeros((size, 3), np.float32)  # noqa: E731
    one = lambda: np.zeros(size, np.float32)  # noqa: E731
    return Film(width, height, np.zeros(size, np.uint16), three(), three(), one(), three(), three(), one(), one())


def noisy(film: Film, pixels: np.ndarray, exposure: float, good_enough: float, most: int) -> np.ndarray:
    """Those of `pixels` that are noisier than `good_enough` and have fewer than `most` samples."""
    return pixels[(film.noise(exposure)[pixels] > good_enough) & (film.count[pixels] < most)]


def tiled(width: int, height: int, box: tuple[int, int, int, int], tile: int = 8) -> np.ndarray:
    """(N,) uint32 pixels of a box (left, top, right, bottom), tile by tile: neighbours meet the same things, which is
    quicker."""
    left, top, right, bottom = box
    rows, columns = np.mgrid[top:bottom, left:right]
    order = np.lexsort((columns.ravel() % tile, rows.ravel() % tile, columns.ravel() // tile, rows.ravel() // tile))
    return np.asarray((rows.ravel() * width + columns.ravel())[order], np.uint32)


def save_film(film: Film, path: Path) -> None:
    """Keep a film, means in half floats: enough to go on from, at a quarter of the room."""
    means: dict[str, Any] = {
        name: film.mean(name).astype(np.float16) for name in ("light", "sky_seen", "colour", "normal", "cover")
    }
    spread = np.sqrt(film.mean("squares")).astype(np.float16)
    unfinished = path.with_suffix(".part")
    with unfinished.open("wb") as file:
        np.savez(file, count=film.count, spread=spread, depth=film.mean("depth").astype(np.float32), **means)
    unfinished.replace(path)


def load_film(path: Path, width: int, height: int) -> Film | None:
    """A film kept by `save_film`; None if there is none of that size that can be read."""
    if not path.exists():
        return None
    try:
        with path.open("rb") as file, np.load(file, allow_pickle=False) as kept:
            found = {name: kept[name] for name in kept.files}
    except (OSError, ValueError, EOFError, BadZipFile):
        return None
    film = empty_film(width, height)
    if found.get("count", np.zeros(0)).shape != film.count.shape:
        return None
    film.count[:] = found["count"]
    count = film.count.astype(np.float32)
    for name in ("light", "sky_seen", "colour", "normal", "depth", "cover"):
        sums = getattr(film, name)
        sums[:] = found[name].reshape(sums.shape).astype(np.float32) * (count[:, None] if sums.ndim == 2 else count)
    film.squares[:] = np.square(found["spread"].ravel().astype(np.float32)) * count
    return film
