"""Random numbers from stable identities, and content hashes.

Nothing in Cenote draws from a running generator: a number belongs to *who asks for it* (site seed, item,
triangle, index), so results do not depend on order of evaluation or number of threads.
"""

from __future__ import annotations

import hashlib
import json
from typing import Any

import numpy as np

from .base.kernels import inlined, uint64


def _unknown(value: Any) -> Any:
    raise TypeError(f"{type(value).__name__} has no content hash: it would hash as its shortened text or its address")


_text = json.JSONEncoder(sort_keys=True, default=_unknown).encode
_U53 = 1.0 / 9007199254740992.0


@inlined()
def splitmix64(value: int) -> int:
    """SplitMix64 finaliser (Steele, Lea, Flood 2014): 64 bits in, 64 well-mixed bits out."""
    z = uint64(value) + uint64(0x9E3779B97F4A7C15)
    z = (z ^ (z >> uint64(30))) * uint64(0xBF58476D1CE4E5B9)
    z = (z ^ (z >> uint64(27))) * uint64(0x94D049BB133111EB)
    return z ^ (z >> uint64(31))


@inlined()
def prehash(value: int) -> int:
    """A value made ready to be joined to hashes, for where it is joined to several."""
    return splitmix64(uint64(value)) + uint64(0x632BE59BD9B4E019)


@inlined()
def hash_combine_prehashed(a: int, ready: int) -> int:
    """One hash out of a hash and a value made ready by `stirred`."""
    return splitmix64(uint64(a) ^ uint64(ready))


@inlined()
def hash_combine(a: int, b: int) -> int:
    """One hash out of two 64-bit values; order matters."""
    return hash_combine_prehashed(a, prehash(b))


@inlined()
def unit(value: int) -> float:
    """A hash as a number in [0, 1)."""
    return float(uint64(value) >> uint64(11)) * _U53


def uniform(identities: np.ndarray, channel: int) -> np.ndarray:
    """Uniform numbers in [0, 1), one for each identity and named channel.

    Parameters
    ----------
    identities : (N,) uint64
    channel : int
        Which independent number of that identity is wanted.

    Returns
    -------
    (N,) float64
    """
    with np.errstate(over="ignore"):
        z = identities.astype(np.uint64) ^ np.uint64(text_seed(f"channel {channel}"))
        z = z + np.uint64(0x9E3779B97F4A7C15)
        z = (z ^ (z >> np.uint64(30))) * np.uint64(0xBF58476D1CE4E5B9)
        z = (z ^ (z >> np.uint64(27))) * np.uint64(0x94D049BB133111EB)
        z = z ^ (z >> np.uint64(31))
    return (z >> np.uint64(11)).astype(np.float64) * _U53


def text_seed(text: str) -> int:
    """A stable 64-bit seed from any text (an item's id, a name)."""
    return int.from_bytes(hashlib.blake2b(text.encode(), digest_size=8).digest(), "little")


def content_hash(*parts: Any) -> str:
    """32 hex digits that change when any of the parts changes. Arrays count by shape, type and bytes."""
    digest = hashlib.blake2b(digest_size=16)
    for part in parts:
        if isinstance(part, np.ndarray):
            digest.update(f"{part.dtype.str}{part.shape}".encode())
            digest.update(np.ascontiguousarray(part).data)
        elif isinstance(part, bytes):
            digest.update(part)
        else:
            digest.update(_text(part).encode())
        digest.update(b"\x1f")
    return digest.hexdigest()
