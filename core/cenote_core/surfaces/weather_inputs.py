"""What the weather lays on surfaces, in the numbers the formulas take."""

from __future__ import annotations

from typing import NamedTuple

from .formulas import DUST_BLUE, DUST_GREEN, DUST_RED, MUD_BLUE, MUD_GREEN, MUD_RED

DUST_COLOUR = (DUST_RED, DUST_GREEN, DUST_BLUE)
MUD_COLOUR = (MUD_RED, MUD_GREEN, MUD_BLUE)
"""Linear."""


class Fallen(NamedTuple):
    """Wetness, how much of it has dried since, frost and dust, 0..1, and metres of snow on open level ground."""

    wetness: float = 0.0
    dried: float = 0.0
    snow: float = 0.0
    frost: float = 0.0
    dust: float = 0.0
    rime: tuple[float, float, float] = (0.0, 0.0, 0.0)
    """Toward the wind; its length is how far rime grows, 0..1."""
