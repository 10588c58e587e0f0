"""Drifts. Importing the package provides what measures, drifts of each other and surfaces ask for by name."""

from ..pools import wetness as wetness
from . import instancing as instancing
