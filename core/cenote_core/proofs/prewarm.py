"""The tracer's kernels made ahead: they do not hang on what stands on a site, so any few triangles do."""

from __future__ import annotations

import numpy as np

from ..mesh import engine
from ..tracer.bvh_cache import KeptTrees
from ..tracer.paths import see, trace, view_of
from ..tracer.tables import SURFACE, Triangles, packed_row, packed_vertices
from ..tracer.world import sky_of, upload


def make_kernels() -> None:
    """Compile the kernels of proofs, or load them from where they lie on disk; takes a second or two."""
    engine.run(lambda mi: _trace_nothing())


def _trace_nothing() -> None:
    corners = np.array([[-1, 0, -1], [1, 0, -1], [0, 0, 1]], np.float32)
    vertices = packed_vertices(corners[:, :2], np.tile([0.0, 1.0, 0.0], (3, 1)), np.ones((3, 3)))
    triangle = Triangles(corners, vertices, np.array([[0, 2, 1, 0]], np.uint32), np.zeros((3, 4), np.float32))
    surface = packed_row(SURFACE, {"side": 1, "tile": 1, "red": 1, "green": 1, "blue": 1})[None]
    none = np.zeros(0, np.uint32)
    world = upload(triangle, np.zeros((1, 2), np.uint32), none, surface, np.zeros((0, 16), np.uint32), KeptTrees(0))
    up = np.array([0.0, 1, 0])
    sky = sky_of(np.ones((2, 4, 3), np.float32), up, up, 0.27)
    view = view_of(up, -up, np.array([1.0, 0, 0]), np.array([0, 0, 1.0]), (4, 4))
    pixels = np.arange(16, dtype=np.uint32)
    see(world, sky, view, pixels, np.zeros(16, np.uint32))
    trace(world, sky, view, pixels, np.zeros(16, np.uint32), 2)
