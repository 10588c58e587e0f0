"""Numbers a path draws: from hashes and scrambled low-discrepancy points, so that they hang on pixel, sample and
dimension only, never on what was traced before."""

from __future__ import annotations

from typing import Any

from ..mesh.jit import dr, mi

_POINT_BITS = 10
"""Points of a pixel are spread evenly among themselves up to this many bits of their number."""


def hashed(value: Any) -> Any:
    """PCG hash of a word (Jarzynski and Olano, *Hash Functions for GPU Rendering*, 2020)."""
    state = value * 747796405 + 2891336453
    word = ((state >> ((state >> 28) + 4)) ^ state) * 277803737
    return (word >> 22) ^ word


def unit(word: Any) -> Any:
    """A word as a number 0 ≤ x < 1."""
    return mi.Float(word >> 8) * (2.0**-24)


def _permuted(x: Any, seed: Any) -> Any:
    """Laine and Karras' permutation with the constants of Burley (2020): each bit hangs on lower ones only."""
    x = x + seed
    for factor in (0x6C50B47C, 0xB82F1E52, 0xC7AFE638, 0x8D22F6E6):
        x = x ^ (x * factor)
    return x


def _scrambled(x: Any, seed: Any) -> Any:
    """Owen's nested uniform scrambling of a word's bits, highest first."""
    return dr.brev(_permuted(dr.brev(x), seed))


def _second_sobol(index: Any) -> Any:
    """Second coordinate of a Sobol point as a word (Kollig and Keller 2002)."""
    out, direction = mi.UInt32(0), 1 << 31
    for bit in range(_POINT_BITS):
        out = out ^ dr.select((index >> bit) & 1 != 0, mi.UInt32(direction), mi.UInt32(0))
        direction ^= direction >> 1
    return out


def spread_pair(index: Any, seed: Any) -> tuple[Any, Any]:
    """Two numbers of sample `index`: a shuffled and scrambled Sobol point of two dimensions (Burley, *Practical
    Hash-based Owen Scrambling*, 2020). Samples of one seed fill the square evenly; other seeds have nothing to do
    with each other."""
    shuffled = _scrambled(index, hashed(seed)) & ((1 << _POINT_BITS) - 1)
    first = _scrambled(dr.brev(shuffled), hashed(seed ^ 0xA511E9B3))
    second = _scrambled(_second_sobol(shuffled), hashed(seed ^ 0x63D83595))
    return unit(first), unit(second)
