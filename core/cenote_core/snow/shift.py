"""Snow shifts until it holds: it slides where it is too steep for it, and heaps fall to their angle of repose.

Nothing is made or lost on the way. Heaps settle by moving what is too steep to lower neighbours again and again (as
Fearing, *Computer modelling of fallen snow*, 2000, has avalanches).
"""

from __future__ import annotations

import numpy as np

from ..base.kernels import kernel
from ..columns.grid import stepped

REPOSE = 0.9
"""Rise over run at which fresh snow comes to rest: forty-two degrees."""
_SETTLED = 1e-4
"""Metres that still move in a round at most when a heap counts as settled."""
_ROUNDS = 400
_STOPS = 8
"""What is on its way stops only where nearly all would hold: the share that holds to this power."""


@kernel
def settle(base: np.ndarray, depth: np.ndarray, joined: np.ndarray, cell: float, repose: float) -> np.ndarray:
    """(R, C) depths after snow has shifted to its angle of repose.

    Parameters
    ----------
    base : (R, C) float64 heights it lies on, metres; nan where there is nothing
    depth : (R, C) float64 metres
    joined : (R, C, 4) bool, may it move to the neighbour? (`columns.STEPS`)
    cell : metres between neighbours
    repose : rise over run at which it comes to rest
    """
    rows, columns = base.shape
    out = depth.copy()
    steepest = repose * cell
    for turn in range(_ROUNDS):
        moved = 0.0
        for n in range(rows * columns):
            # Forward and backward by turns, so that nothing leans one way.
            at = n if turn % 2 == 0 else rows * columns - 1 - n
            r, c = at // columns, at % columns
            if not out[r, c] > 0.0:
                continue
            for k in range(4):
                if not joined[r, c, k]:
                    continue
                nr, nc = stepped(r, c, k)
                over = (base[r, c] + out[r, c]) - (base[nr, nc] + out[nr, nc]) - steepest
                if over > 0.0:
                    going = min(out[r, c], 0.5 * over)
                    out[r, c] -= going
                    out[nr, nc] += going
                    moved = max(moved, going)
        if moved < _SETTLED:
            break
    return out


@kernel
def slide(
    base: np.ndarray, joined: np.ndarray, order: np.ndarray, going: np.ndarray, holds: np.ndarray
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Let what does not hold run down until it holds or falls over an edge.

    Parameters
    ----------
    base : (R, C) float64 heights, metres; nan where there is nothing
    joined : (R, C, 4) bool
    order : (N,) int64 flat numbers of nodes from the highest down
    going : (R, C) float64 metres that have come loose
    holds : (R, C) float64 share of what comes by that stays

    Returns
    -------
    (R, C) metres that come to rest on each node, (R, C) metres that fall over an edge at it, and (R, C) int64 over
    which of its four sides, −1 for none
    """
    rows, columns = base.shape
    rest, falls = np.zeros((rows, columns)), np.zeros((rows, columns))
    side = np.full((rows, columns), -1, np.int64)
    coming = going.copy()
    for at in order:
        r, c = at // columns, at % columns
        here = coming[r, c]
        if not here > 0.0:
            continue
        # What has just come loose here does not hold; what comes from above may.
        stays = (here - going[r, c]) * holds[r, c] ** _STOPS
        rest[r, c] += stays
        here -= stays
        lowest, way = base[r, c], -1
        edge = -1
        for k in range(4):
            nr, nc = stepped(r, c, k)
            inside = 0 <= nr < rows and 0 <= nc < columns
            if joined[r, c, k]:
                if base[nr, nc] < lowest:
                    lowest, way = base[nr, nc], k
            elif not inside or np.isnan(base[nr, nc]) or base[nr, nc] < base[r, c]:
                edge = k
        if way >= 0:
            nr, nc = stepped(r, c, way)
            coming[nr, nc] += here
        elif edge >= 0:
            falls[r, c] += here
            side[r, c] = edge
        else:
            rest[r, c] += here
    return rest, falls, side
