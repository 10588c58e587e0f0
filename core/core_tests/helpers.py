"""What several core tests share: simple meshes, a small scene, one cache for all."""

from __future__ import annotations

import hashlib
import os
import shutil
import tempfile
from pathlib import Path

import numpy as np

import cenote_core
from cenote_core.drifts.instances import Instances
from cenote_core.graph.store import Cache
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.materials.material import Material
from cenote_core.mesh.mesh import Mesh, make_mesh
from cenote_core.plan import AssetShare, DriftPlan, Gate, GroundPlan, PiecePlan
from cenote_core.plan.site import SitePlan
from cenote_core.scene.scene import Scene


def _cache_of_this_code() -> Cache:
    """The application's own cache, which `bin/test` names: what its other tests need is made once.

    Else one that runs of the very same code share; what other code has made is thrown away.
    """
    if "CENOTE_VAR" in os.environ:
        return Cache(Path(os.environ["CENOTE_VAR"]) / "cache")
    digest = hashlib.blake2b(digest_size=8)
    for path in sorted(Path(cenote_core.__file__).parent.rglob("*.py")):
        digest.update(path.read_bytes())
    folder = Path(tempfile.gettempdir()) / f"cenote-test-cache-{digest.hexdigest()}"
    for other in folder.parent.glob("cenote-test-cache*"):
        if other != folder:
            shutil.rmtree(other, ignore_errors=True)
    return Cache(folder)


CACHE = _cache_of_this_code()


def sheet(cells: int, size: float, bumps: float = 0.0) -> Mesh:
    """A square sheet of 2 · cells² triangles, flat or gently wavy."""
    x = np.linspace(0, size, cells + 1)
    gx, gz = np.meshgrid(x, x)
    gy = bumps * (np.sin(gx / 7) + np.cos(gz / 5))
    a = (np.arange(cells)[:, None] * (cells + 1) + np.arange(cells)).ravel()
    n = cells + 1
    faces = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    return make_mesh(np.column_stack([gx.ravel(), gy.ravel(), gz.ravel()]), faces)


def gate(a: float, b: float, c: float, d: float) -> Gate:
    return Gate(rise_start=a, rise_end=b, fall_start=c, fall_end=d)


def one_colour(colour: tuple[int, int, int], rough: float, alpha: np.ndarray | None = None, side: int = 32) -> Material:
    """A material of one colour, smooth and level."""
    plane = lambda value: np.full((side, side), value, np.uint8)  # noqa: E731
    normal = np.broadcast_to(np.uint8([128, 128, 255]), (side, side, 3)).copy()
    return Material(
        np.full((side, side, 3), colour, np.uint8), plane(round(rough * 255)), plane(128), normal, 0.0, alpha
    )


def small_site(**ground: object) -> SitePlan:
    """Flat ground of 12 × 12 m with a platform on it."""
    site = SitePlan()
    site.ground = GroundPlan(**{"width": 12, "depth": 12, "cell": 0.5, "amount": 0.0, **ground})  # type: ignore[arg-type]
    site.put("wall", PiecePlan(name="wall", asset="wall", position=(0, 0, -2), foot_width=0.0))
    return site


def bare_ground(**ground: object) -> SitePlan:
    """Flat ground of 20 × 20 m with nothing on it."""
    site = small_site(**{"width": 20, "depth": 20, **ground})
    site.pieces.clear()
    return site


def drift(**more: object) -> DriftPlan:
    """A drift of short grass on the ground; `assets` may be given by their ids."""
    plan: dict[str, object] = {
        "name": "grass",
        "assets": ["grass_low"],
        "surfaces": ["ground/ground"],
        "density": 8,
        "spacing": 0.2,
        **more,
    }
    plan["assets"] = [AssetShare(asset=a) if isinstance(a, str) else a for a in plan["assets"]]  # type: ignore[attr-defined]
    return DriftPlan(**plan)  # type: ignore[arg-type]


def scene_of(site: SitePlan) -> Scene:
    return Scene(site, BuiltinKit(CACHE), CACHE)


def least_distance(points: np.ndarray) -> float:
    """Brute force by a tree: the least distance between any two points."""
    from scipy.spatial import cKDTree

    return float(cKDTree(points.astype(np.float64)).query(points.astype(np.float64), k=2)[0][:, 1].min())


def scattered(count: int, size: float, seed: int = 1) -> Instances:
    """Anything anywhere, turned all ways, half of it mirrored."""
    draw = np.random.default_rng(seed)
    turns = draw.normal(size=(count, 4))
    return Instances(
        ((draw.random((count, 3)) - 0.5) * [size, 6, size]).astype(np.float32),
        (turns / np.linalg.norm(turns, axis=1, keepdims=True)).astype(np.float32),
        (0.2 + 3 * draw.random(count)).astype(np.float32),
        (0.4 + draw.random((count, 3))).astype(np.float32),
        draw.integers(0, 32, count).astype(np.int32),
        draw.integers(0, 2**64, count, dtype=np.uint64),
        count,
        draw.random(count) < 0.5,
    )


def rotated(quaternion: np.ndarray, vectors: np.ndarray, mirrored: np.ndarray | None = None) -> np.ndarray:
    """(N, 4) rotations applied to (V, 3) vectors → (N, V, 3); where `mirrored` (N,), to the vectors with −x."""
    x, y, z, w = (quaternion[:, k, None] for k in range(4))
    matrix = np.stack(
        [
            np.concatenate([1 - 2 * (y * y + z * z), 2 * (x * y - z * w), 2 * (x * z + y * w)], 1),
            np.concatenate([2 * (x * y + z * w), 1 - 2 * (x * x + z * z), 2 * (y * z - x * w)], 1),
            np.concatenate([2 * (x * z - y * w), 2 * (y * z + x * w), 1 - 2 * (x * x + y * y)], 1),
        ],
        axis=1,
    )
    if mirrored is not None:
        matrix[mirrored, :, 0] *= -1
    return np.matmul(vectors[None].astype(np.float32), matrix.transpose(0, 2, 1).astype(np.float32))
