"""Names that mean the same in every part of the core."""

GROUND = "ground"
"""The owner id of the ground's surfaces; pieces are owners under their own ids."""
TIERS = ("canopy", "shrub", "cover", "litter")
"""Size classes of drifts, largest first."""
