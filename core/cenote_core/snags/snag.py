"""A snag: what a viewer would notice, where, and the one step that cures it where there is one."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np

MOST_PLACES = 40
"""Places a snag names at most."""


@dataclass(frozen=True)
class Snag:
    """One thing a viewer would notice.

    Attributes
    ----------
    kind, item : what it is, on which item
    text : the sentence
    count : how many
    places : (K, 3) where, at most MOST_PLACES
    cure : what the one step is called, empty if there is none; plan : the item after it
    """

    kind: str
    item: str
    text: str
    count: int
    places: np.ndarray = field(default_factory=lambda: np.zeros((0, 3)))
    cure: str = ""
    plan: dict[str, Any] | None = None
