"""Drifts. Importing the package provides what measures, and drifts of each other, ask for by name."""

from . import instancing as instancing
