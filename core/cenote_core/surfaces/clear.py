"""What clear bodies are made of."""

ICE, WATER = 1.31, 1.333
"""Indices of refraction."""
