"""Gates and rules: from a measured value to an amount between 0 and 1."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from .base.kernels import inlined, parallel_kernel, prange
from .plan import Gate


@inlined()
def _response(value: float, a: float, b: float, c: float, d: float) -> float:
    if value < a or value > d:
        return 0.0
    if value < b:
        return (value - a) / (b - a)
    if value > c:
        return (d - value) / (d - c)
    return 1.0


@parallel_kernel
def _apply(amount: np.ndarray, values: np.ndarray, a: float, b: float, c: float, d: float, strength: float) -> None:
    for i in prange(len(amount)):
        amount[i] *= 1.0 - strength + strength * _response(values[i], a, b, c, d)


@parallel_kernel
def _responses(out: np.ndarray, values: np.ndarray, a: float, b: float, c: float, d: float) -> None:
    for i in prange(len(values)):
        out[i] = _response(values[i], a, b, c, d)


def gate_response(gate: Gate, values: np.ndarray) -> np.ndarray:
    """The gate's answer to measured values; (N,) → (N,) float32 in 0..1."""
    out = np.empty(len(values), np.float32)
    _responses(out, values, gate.rise_start, gate.rise_end, gate.fall_start, gate.fall_end)
    return out


def apply_rule(amount: np.ndarray, gate: Gate, strength: float, values: np.ndarray) -> None:
    """Multiply `amount` (N,) float32 in place by a rule: 1 − strength + strength · gate(value).

    Strength fades the rule out: at 0 it changes nothing, at 1 it alone can forbid.
    """
    _apply(amount, values, gate.rise_start, gate.rise_end, gate.fall_start, gate.fall_end, strength)


@dataclass(frozen=True)
class Histogram:
    """Area-weighted histogram of a measure, and how much of the area a gate lets through.

    Attributes
    ----------
    edges : (B + 1,) float64
    areas : (B,) float64, square metres in each bin
    passed : (B,) float64, square metres in each bin after the gate
    share : float, passed area over all area, 0..1
    """

    edges: np.ndarray
    areas: np.ndarray
    passed: np.ndarray
    share: float


def histogram(
    values: np.ndarray, areas: np.ndarray, gate: Gate, span: tuple[float, float], bins: int = 48
) -> Histogram:
    """Histogram over `span` (values outside count in the end bins); share from the very same responses."""
    passed = gate_response(gate, values) * areas
    edges = np.linspace(span[0], span[1], bins + 1)
    place = np.clip(((values - span[0]) / max(span[1] - span[0], 1e-12) * bins).astype(np.int64), 0, bins - 1)
    total = float(areas.sum(dtype=np.float64))
    return Histogram(
        edges,
        np.bincount(place, weights=areas, minlength=bins),
        np.bincount(place, weights=passed, minlength=bins),
        float(passed.sum(dtype=np.float64)) / total if total > 0 else 0.0,
    )
