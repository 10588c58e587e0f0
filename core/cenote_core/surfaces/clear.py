"""What clear bodies are made of."""

ICE, WATER, GLASS = 1.31, 1.333, 1.52
"""Indices of refraction."""
