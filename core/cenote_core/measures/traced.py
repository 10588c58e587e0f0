"""Measures taken by rays on an owner's texels: costly, so they are traced once and read from their map."""

from __future__ import annotations

import numpy as np

from ..mesh.mesh import Points
from ..mesh.texels import sample_map
from .ask import Ask, Trace
from .rule import Rule


class TracedRule(Rule):
    """A rule whose measure is traced."""

    def traced(self) -> tuple[Trace, float, tuple[float, ...]]:
        """What traces it, how far it looks in metres, and the settings it does so with."""
        raise NotImplementedError

    def depends(self, ask: Ask) -> object:
        return ask.traced_ref(*self.traced())

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        return sample_map(ask.traced_ref(*self.traced()).value(), at.uv2)
