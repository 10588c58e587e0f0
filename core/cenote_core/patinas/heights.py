"""The height of a surface's whole stack, and how much of every layer lies where: the first half of what it looks like.

Where only the shape is asked for, as near the eye, this is all that is read.
"""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from ..base.kernels import inlined, parallel_kernel, prange
from ..plan import PatinaPlan
from ..scene.scene import Scene, Surface
from ..surfaces import formulas
from .reading import read_sides

_layer_amount = inlined(formulas.layer_amount)
_metres = inlined(formulas.metres)
_under_relief = inlined(formulas.under_relief)
_laid_height = inlined(formulas.laid_height)
_felt_fill = inlined(formulas.felt_fill)
_body_share = inlined(formulas.body_share)
_mix = inlined(formulas.mix)
_NO_BARE = np.zeros((0, 0), np.uint8)
"""In place of a height without loose bits, where there are none."""
Sides = tuple[np.ndarray, np.ndarray]
"""Places (N, P, 2) in metres from which pictures are laid on, and their shares (N, P)."""


def sides_or(uv: np.ndarray, sides: Sides | None) -> Sides:
    """Where pictures are laid on from: `sides`, or straight by the coordinates (N, 2)."""
    return sides or (uv[:, None], np.ones((len(uv), 1), np.float32))


def bases(scene: Scene, owner: str, slots: np.ndarray) -> Iterator[tuple[Surface, np.ndarray]]:
    """The surfaces of an owner that lie lowest, each with the numbers of the points on it."""
    for surface in scene.surfaces():
        # What is laid over the ground is among the covers.
        if surface.owner == owner and not surface.layer:
            on = np.flatnonzero(slots == surface.index)
            if len(on):
                yield surface, on


@parallel_kernel
def _base(
    on: np.ndarray,
    places: np.ndarray,
    shares: np.ndarray,
    tile: float,
    image: np.ndarray,
    depth: float,
    out: np.ndarray,
) -> None:
    for k in prange(len(on)):
        n = on[k]
        out[n] = _metres(read_sides(image, 0, places, shares, n, tile) / 255.0, depth)


@parallel_kernel
def _lay(
    places: np.ndarray, shares: np.ndarray, tile: float, image: np.ndarray, bare: np.ndarray, break_up: float,
    fill: float, thickness: float, depth: float, base_depth: np.ndarray, amount: np.ndarray, out: np.ndarray,
) -> None:  # fmt: skip
    for n in prange(len(places)):
        if amount[n] > 0.0:
            own = read_sides(image, 0, places, shares, n, tile) / 255.0
            body = _body_share(amount[n])
            amount[n] = _layer_amount(
                amount[n], own, break_up, _under_relief(out[n], base_depth[n]), _felt_fill(fill, base_depth[n])
            )
            if len(bare):
                own = read_sides(bare, 0, places, shares, n, tile) / 255.0
            out[n] = _mix(out[n], _laid_height(out[n], _metres(own, depth), thickness, fill, body), amount[n])


def stack_heights(
    scene: Scene,
    owner: str,
    uv: np.ndarray,
    base_uv: np.ndarray,
    slots: np.ndarray,
    covers: list[tuple[PatinaPlan, np.ndarray]],
    sides: Sides | None = None,
    bare: dict[str, np.ndarray] | None = None,
) -> tuple[np.ndarray, list[np.ndarray]]:
    """(N,) float32 metres above the surface's own shape, and (N,) 0..1 how much of each layer lies at the points.

    Parameters are those of `bake.blend_values`, and
    bare : heights (S, S) uint8 of materials that lie without their loose bits
    """
    lies_bare = bare or {}
    places, shares = sides_or(uv, sides)
    out, depth = np.zeros(len(uv), np.float32), np.zeros(len(uv), np.float32)
    for surface, on in bases(scene, owner, slots):
        m = scene.material(surface.material)
        depth[on] = m.depth
        where, weights, tile = (places, shares, m.tile) if m.tile > 0 else (*sides_or(base_uv, None), 1.0)
        height = lies_bare.get(surface.material, m.height)
        _base(on, where, weights, tile, height[..., None], m.depth, out)
    amounts = []
    for plan, cover in covers:
        finish, m = plan.finish, scene.material(plan.finish.material)
        amount = np.array(cover, np.float32)
        _lay(
            places, shares, layer_tile(plan, m.tile), m.height[..., None], lies_bare.get(finish.material, _NO_BARE)[..., None],
            finish.break_up, finish.fill, finish.thickness / 1000, m.depth * finish.relief, depth, amount, out,
        )  # fmt: skip
        amounts.append(amount)
    return out, amounts


def layer_tile(plan: PatinaPlan, tile: float) -> float:
    """Metres one repeat of a patina's picture covers; of what does not tile a few centimetres."""
    return max(tile, 0.05) * plan.finish.scale
