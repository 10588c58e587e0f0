"""How fast the machine is just now, so that figures of different days can be compared."""

import sys
import time
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core")]

from cenote_core.mesh.rays import RayScene  # noqa: E402

_ADDITIONS, _RAYS, _CELLS = 5_000_000, 1_000_000, 200


def additions() -> float:
    """Seconds for a loop of plain additions in Python: one processor, no memory."""
    started, total = time.perf_counter(), 0
    for k in range(_ADDITIONS):
        total += k
    return time.perf_counter() - started


def rays() -> float:
    """Seconds for rays of the engine alone, down onto a wavy sheet: all processors."""
    x = np.linspace(0, 10, _CELLS + 1)
    gx, gz = np.meshgrid(x, x)
    positions = np.column_stack([gx.ravel(), np.sin(gx * 3).ravel(), gz.ravel()]).astype(np.float32)
    a = (np.arange(_CELLS)[:, None] * (_CELLS + 1) + np.arange(_CELLS)).ravel()
    n = _CELLS + 1
    faces = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    scene = RayScene(positions, faces.astype(np.uint32))
    drawn = np.random.default_rng(1).random((_RAYS, 2)).astype(np.float32) * 10
    origins = np.column_stack([drawn[:, 0], np.full(_RAYS, 5, np.float32), drawn[:, 1]])
    down = np.tile(np.array([0, -1, 0], np.float32), (_RAYS, 1))
    scene.meet(origins[:1000], down[:1000], 20.0)
    started = time.perf_counter()
    scene.meet(origins, down, 20.0)
    return time.perf_counter() - started


if __name__ == "__main__":
    print(
        f"machine just now: {_ADDITIONS / additions() / 1e6:.1f} M additions a second, {_RAYS / rays() / 1e6:.1f} M rays a second",
        flush=True,
    )
