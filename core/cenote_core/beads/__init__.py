"""Droplets at rest on surfaces: how they nucleate, grow and merge, and the shape each has in the end."""
