"""Pieces: listed and fetched with the ground (see `owners.py`); the plate moves them by itself while they are moved."""

from __future__ import annotations

from ..emit.owners import add_owners
from ..plan import PiecePlan
from .kind import Kind

KINDS_HERE = (Kind(plan=PiecePlan, place=10, emit=lambda out, shot: add_owners(out, shot, shot.scene.owners()[1:])),)
