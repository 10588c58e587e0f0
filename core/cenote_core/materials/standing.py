"""What stands up from a material where it is looked at from near by: shoots of moss, flakes of paint."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Shoots:
    """Small leafy stalks, wherever the material lies.

    Attributes
    ----------
    tall, wide : metres
    apart : metres from one to the next
    """

    tall: float
    wide: float
    apart: float


@dataclass(frozen=True)
class Flakes:
    """Curled bits of what lies beneath, along the rims of the material.

    Attributes
    ----------
    tall, wide : metres, how far a flake rises, and its width
    apart : metres from one to the next
    """

    tall: float
    wide: float
    apart: float


Standing = Shoots | Flakes
