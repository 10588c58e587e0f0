"""Chance: a number of its own for every board, stone or piece, so that some are darker, paler or newer than others."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..base.fields import seed_field
from ..hashing import text_seed, uniform
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule

_SPREAD = 0x9E3779B97F4A7C15
"""2⁶⁴ over the golden ratio: neighbouring numbers fall far apart."""


def chance(numbers: np.ndarray, owner: str, seed: int) -> np.ndarray:
    """(N,) float32 evenly spread 0..1: the same for all places of one part, unlike for any other part or owner."""
    own = np.uint64(text_seed(owner)) ^ (numbers.astype(np.uint64) * np.uint64(_SPREAD))
    return uniform(own, seed).astype(np.float32)


class ChanceRule(Rule):
    """A random number 0 to 1, one for every part that hangs together, or one for every piece."""

    measure: Literal["chance"] = "chance"
    each: Literal["part", "piece"] = Field(
        default="part",
        description="One number for every part that hangs together, such as a board, or one for the whole piece.",
        json_schema_extra={"label": "a number for each", "words": {"part": "board, stone or part", "piece": "piece"}},
    )
    seed: int = seed_field()
    about: ClassVar[About] = About(
        "chance", SHARE, "some boards, stones or pieces and not others, at random", "numbers drawn",
        (0.6, 0.6, 1, 1), place=72, span=(0, 1), soft=0.1, cuts=False, badge="for each {each}", more="which",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        numbers = ask.parts(at) if self.each == "part" else np.zeros(len(at), np.int64)
        return chance(numbers, ask.owner, self.seed)
