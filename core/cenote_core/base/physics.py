"""Constants of nature that several packages reckon with."""

GRAVITY = 9.81
"""Metres a second, each second."""
