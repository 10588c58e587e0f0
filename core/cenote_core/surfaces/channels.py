"""The channels of a surface where all that lies on it has been worked in: columns of an (N, WIDTH) array."""

from __future__ import annotations

COLOUR = slice(0, 3)
"""Linear."""
ROUGHNESS = 3
SLOPE = slice(4, 6)
"""How the fine relief leans, metres a metre along u and v."""
METALNESS = 6
HEIGHT = 7
"""Metres above the surface's own shape."""
WETNESS = 8
ANSWER = slice(9, 12)
"""How it answers to the weather: porosity, share of the snow that slips off, and 1 where no frost forms."""
WIDTH = 12
