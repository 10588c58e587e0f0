"""Measures of the light patterns that waves of water throw, as proofs and the plate read them."""

TILE = 1.8
"""Metres after which waves repeat."""
BENT = 0.25
"""Metres that light lands aside for a slope of one under a metre of water: 1 − 1 / 1.33."""
MIRRORED = 2.0
"""The same a metre from water that mirrors it."""
BENT_LEVERS = (0.01, 0.03, 0.09, 0.27, 0.81)
MIRRORED_LEVERS = (0.27, 0.81, 2.43, 7.29)
"""Metres that light lands aside for a slope of one, pattern by pattern; each three times the one before."""
