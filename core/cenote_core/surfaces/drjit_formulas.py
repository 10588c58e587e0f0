"""The blend formulas bound to Dr.Jit's arrays: the same code, with its `min` and `max`."""

from __future__ import annotations

from collections.abc import Callable
from types import FunctionType
from typing import Any

from ..mesh.jit import dr
from . import formulas

_NAMES = {**vars(formulas), "min": dr.minimum, "max": dr.maximum, "sin": dr.sin}


def _bound(function: Callable[..., float]) -> Callable[..., Any]:
    assert isinstance(function, FunctionType)
    return FunctionType(function.__code__, _NAMES, function.__name__)


macro_brightness = _bound(formulas.macro_brightness)
metres = _bound(formulas.metres)
under_relief = _bound(formulas.under_relief)
body_share = _bound(formulas.body_share)
laid_height = _bound(formulas.laid_height)
felt_fill = _bound(formulas.felt_fill)
layer_amount = _bound(formulas.layer_amount)
variation_factor = _bound(formulas.variation_factor)
laid_colour = _bound(formulas.laid_colour)
blend_colour = _bound(formulas.blend_colour)
kept_share = _bound(formulas.kept_share)
mix = _bound(formulas.mix)
side_weight = _bound(formulas.side_weight)
wet_share = _bound(formulas.wet_share)
wet_colour = _bound(formulas.wet_colour)
wet_roughness = _bound(formulas.wet_roughness)
kept_slope = _bound(formulas.kept_slope)
frost_share = _bound(formulas.frost_share)
frost_colour = _bound(formulas.frost_colour)
frost_roughness = _bound(formulas.frost_roughness)
crystals = _bound(formulas.crystals)
rime_share = _bound(formulas.rime_share)
dust_share = _bound(formulas.dust_share)
mud_share = _bound(formulas.mud_share)
water_mirrors = _bound(formulas.water_mirrors)
snow_depth = _bound(formulas.snow_depth)
snow_share = _bound(formulas.snow_share)
snow_on_leaf = _bound(formulas.snow_on_leaf)
snow_colour = _bound(formulas.snow_colour)
snow_roughness = _bound(formulas.snow_roughness)
