"""Trees of triangles kept from one picture to the next: building one takes longer than a rough picture's light."""

from __future__ import annotations

import hashlib
from collections import OrderedDict
from typing import Any

import numpy as np

from ..mesh.rays import BYTES_A_TRIANGLE


class KeptTrees:
    """The last trees that were used, within a number of bytes; used on the engine's thread only."""

    def __init__(self, most_bytes: int) -> None:
        self.most_bytes = most_bytes
        self._kept: OrderedDict[bytes, tuple[Any, int]] = OrderedDict()

    def get(self, positions: np.ndarray, faces: np.ndarray, build: Any) -> Any:
        """What `build(positions, faces)` made of the very same triangles before, or makes now."""
        key = _digest(positions, faces)
        if key not in self._kept:
            # Room first, so that two large trees never stand beside each other.
            size = BYTES_A_TRIANGLE * len(faces)
            self._make_room(size)
            self._kept[key] = build(positions, faces), size
        self._kept.move_to_end(key)
        return self._kept[key][0]

    def trim(self) -> None:
        """Give back what is beyond the limit, the last one too if it is too large by itself."""
        self._make_room(0)

    def _make_room(self, wanted: int) -> None:
        while self._kept and self.held + wanted > self.most_bytes:
            self._kept.popitem(last=False)

    @property
    def held(self) -> int:
        """Bytes of all that is kept, about."""
        return sum(size for _, size in self._kept.values())


def _digest(*arrays: np.ndarray) -> bytes:
    found = hashlib.blake2b(digest_size=16)
    for array in arrays:
        found.update(str(array.shape).encode())
        found.update(np.ascontiguousarray(array).data)
    return found.digest()
