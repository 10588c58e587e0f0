"""Laid: how much of other patinas lies on a place, so that one keeps another away or needs it."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np

from ..base.fields import ItemId
from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from .ask import Ask
from .rule import SHARE, About, Rule, choose


def union(covers: list[np.ndarray]) -> np.ndarray:
    """What several covers leave of nothing: 1 − ∏ (1 − c), as of layers that lie independently."""
    bare = np.ones_like(covers[0])
    for cover in covers:
        bare = bare * (1 - np.clip(cover, 0, 1))
    return np.asarray(1 - bare, np.float32)


class LaidRule(Rule):
    """How much of other patinas lies there: 0 none, 1 covered. Fading out from 0 on, it is held back by them."""

    measure: Literal["laid"] = "laid"
    patinas: list[ItemId] = choose("patina", "no patina chosen yet", 20, "Patinas that keep it away, or that it needs.")
    about: ClassVar[About] = About(
        "another patina", SHARE, "where others lie: to be held back by them, or to need them", "cover of others",
        (0, 0, 0.15, 0.6), place=75, span=(0, 1), soft=0.3, more="which",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.laid_refs(self.patinas)

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        covers = ask.laid(self.patinas)
        return sample_map(union(covers), at.uv2) if covers else np.zeros(len(at), np.float32)
