"""Plumb columns over what stands: the grids on which snow and water come to lie, and the sheets they make."""
