"""Drifts. Importing the package provides what measures, drifts of each other and surfaces ask for by name."""

from ..pools import surface as surface
from . import instancing as instancing
