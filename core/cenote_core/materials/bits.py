"""Stones and bits in the picture of a loose material: where each lies, how large it is, and the relief without them.

Read from the material's own height, so that what is set upon it near the eye is what its picture shows.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from scipy import ndimage

from .material import Material

_SIDE = 512
"""Texels along a side the height is looked at with."""
_PAD = 48
"""Texels repeated beyond each rim, so that a bit across it is one bit."""
_SMOOTH = 1.3
"""Texels the height is smoothed by, so that grain makes no bits of its own."""
_FOOT = 0.55
"""A bit reaches down to this share of the way from its surroundings to its top."""
_RIM = 3
"""Texels round a bit that are brought down with it: the rest of its slope."""
_SLIM = 0.45
"""No bit is narrower than this share of its length."""


@dataclass(frozen=True)
class Loose:
    """What counts as a bit of a loose material.

    Attributes
    ----------
    size : metres from one bit to the next, about
    above : share of the relief a bit's top stands above
    thick : height of a bit over its width
    """

    size: float
    above: float
    thick: float = 0.8


@dataclass(frozen=True)
class Bits:
    """The bits in one repeat of a material's picture.

    Attributes
    ----------
    at : (N, 2) float32, metres along u and v from the picture's corner at u = v = 0
    half : (N, 2) float32, metres, half its length and half its width
    turn : (N,) float32, radians from u to its length, counter-clockwise
    top : (N,) float32, its highest place, as height 0..1
    bare : (S, S) uint8, the height with all of them taken out
    """

    at: np.ndarray
    half: np.ndarray
    turn: np.ndarray
    top: np.ndarray
    bare: np.ndarray


def find_bits(material: Material, loose: Loose) -> Bits:
    """Take a tiling material's height apart: watershed from its tops (Beucher and Meyer 1993), then second moments.

    Each bit becomes the ellipse with the same area moments.
    """
    size, block = material.size, max(1, material.size // _SIDE)
    small = material.height.reshape(size // block, block, size // block, block).mean(axis=(1, 3)) / 255
    side, texel = len(small), material.tile / len(small)
    high = ndimage.gaussian_filter(np.pad(small, _PAD, mode="wrap"), _SMOOTH)
    label, tops = _regions(high, loose, texel)
    area, middle, spread = _moments(label, len(tops) + 1)
    inside = ((middle >= _PAD) & (middle < _PAD + side)).all(axis=1)
    keep = np.flatnonzero(inside & (area * texel**2 > (loose.size * 0.25) ** 2))
    keep = keep[keep > 0]
    long, wide, turn = _axes_of(spread[keep])
    row, column = (middle[keep] - _PAD).T
    inner = slice(_PAD, _PAD + side)
    return Bits(
        at=np.column_stack([(column + 0.5) * texel, material.tile - (row + 0.5) * texel]).astype(np.float32),
        half=(np.column_stack([long, np.maximum(wide, _SLIM * long)]) * texel).astype(np.float32),
        turn=turn.astype(np.float32),
        top=tops[keep - 1].astype(np.float32),
        bare=_bare(material.height, label[inner, inner], high[inner, inner], block),
    )


def _regions(high: np.ndarray, loose: Loose, texel: float) -> tuple[np.ndarray, np.ndarray]:
    """(H, W) the number of the bit a texel belongs to, 0 for none, and the tops of bits 1, 2, …"""
    reach = max(3, int(0.6 * loose.size / texel) | 1)
    peaks, count = ndimage.label((high == ndimage.maximum_filter(high, reach)) & (high > loose.above))
    marks = peaks.astype(np.int32)
    basin = np.clip(255 - 255 * high, 0, 255).astype(np.uint8)
    label = ndimage.watershed_ift(basin, marks)
    tops = ndimage.maximum(high, peaks, np.arange(1, count + 1))
    around = ndimage.gaussian_filter(ndimage.minimum_filter(high, 2 * reach + 1), reach)
    top = np.concatenate([[np.inf], tops])[label]
    on = high > around + _FOOT * (top - around)
    # Only what hangs together with its top is the bit; crumbs that drown in the same basin are not.
    pieces, _ = ndimage.label(on)
    own = np.zeros(count + 1, np.int64)
    own[peaks[peaks > 0]] = pieces[peaks > 0]
    return np.where(on & (label > 0) & (pieces == own[label]), label, 0), tops


def _moments(label: np.ndarray, count: int) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Areas (N,), middles (N, 2) row and column, and second central moments (N, 3): rows, columns, mixed."""
    flat = label.ravel()
    rows, columns = (m.ravel().astype(float) for m in np.indices(label.shape))
    area = np.maximum(np.bincount(flat, minlength=count), 1)
    mean = lambda values: np.bincount(flat, values, minlength=count) / area  # noqa: E731
    r, c = mean(rows), mean(columns)
    spread = np.column_stack([mean(rows**2) - r**2, mean(columns**2) - c**2, mean(rows * columns) - r * c])
    return area, np.column_stack([r, c]), spread


def _axes_of(spread: np.ndarray) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Half axes of ellipses with these moments, in texels, and the turn of the longer one."""
    rows, columns, mixed = spread.T
    # Rows run downward, v upward.
    mixed = -mixed
    middle, reach = (rows + columns) / 2, np.hypot((columns - rows) / 2, mixed)
    turn = 0.5 * np.arctan2(2 * mixed, columns - rows)
    return 2 * np.sqrt(middle + reach), 2 * np.sqrt(np.maximum(middle - reach, 0.05)), turn


def _bare(height: np.ndarray, label: np.ndarray, high: np.ndarray, block: int) -> np.ndarray:
    """The height where bits are brought down to what surrounds them."""
    # The lowest of what lies beside a bit is the floor beneath it.
    beside = ndimage.minimum_filter(high, 2 * _RIM + 3)
    floor = np.ones(int(label.max()) + 1)
    np.minimum.at(floor, label.ravel(), beside.ravel())
    grown = ndimage.grey_dilation(label, 2 * _RIM + 1, mode="wrap")
    level = np.kron(np.where(grown > 0, floor[grown], 1.0), np.ones((block, block)))
    return np.minimum(height, (255 * level).astype(np.uint8))
