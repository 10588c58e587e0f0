"""What the walk brings along: a height image of a wooded bank and a barn that was not made by Cenote's kit.

Both are written in open formats as another program would: PNG of 16 bits, GLB in millimetres with z up.
"""

from __future__ import annotations

import sys
from pathlib import Path

import numpy as np
import trimesh
from PIL import Image
from scipy.ndimage import gaussian_filter

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core")]

from cenote_core.graph.store import Cache  # noqa: E402
from cenote_core.kit.builtin import BuiltinKit  # noqa: E402

SIDE, SITE, TOP = 769, 48.0, 9.0
"""Points and metres along a side of the height image, and metres from black to white."""


def bank_heights() -> np.ndarray:
    """(SIDE, SIDE) metres: a yard in the south, a bank that rises to the north, all a little uneven."""
    x, z = np.meshgrid(*[np.linspace(-SITE / 2, SITE / 2, SIDE)] * 2)
    draw = np.random.default_rng(12)
    rough = sum(
        gaussian_filter(draw.normal(size=x.shape), width, mode="reflect") * width * share
        for width, share in ((60, 1.6), (22, 0.5), (8, 0.12), (3, 0.03))
    )
    # The foot of the bank winds, and comes round on the west side.
    foot = -4.0 + 1.2 * np.sin(x / 5.5) + 0.5 * np.sin(x / 2.3 + 1) + np.clip((-x - 7) * 0.75, 0, None)
    up = np.clip((foot - z) / 13.0, 0, 1)
    y = 7.4 * up * up * (3 - 2 * up) + rough * (0.25 + 0.75 * np.clip(up * 3, 0, 1))
    return np.clip(y + 0.3, 0, TOP)


def save_bank(path: Path) -> None:
    Image.fromarray(np.rint(bank_heights() / TOP * 65535).astype(np.uint16)).save(path)


def _walled(mesh: trimesh.Trimesh, tile: float, material: trimesh.visual.material.PBRMaterial) -> trimesh.Trimesh:
    """Faces mapped from the side they look to, `tile` metres a repeat."""
    mesh = trimesh.Trimesh(mesh.triangles.reshape(-1, 3), np.arange(len(mesh.faces) * 3).reshape(-1, 3), process=False)
    side = np.abs(mesh.face_normals).argmax(axis=1).repeat(3)
    across = np.where(side == 0, mesh.vertices[:, 1], mesh.vertices[:, 0])
    down = np.where(side == 2, mesh.vertices[:, 1], mesh.vertices[:, 2])
    mesh.visual = trimesh.visual.TextureVisuals(np.column_stack([across, down]) / tile, material=material)
    return mesh


def _material(kit: BuiltinKit, name: str, roughness: float = 0.9) -> tuple[float, trimesh.visual.material.PBRMaterial]:
    made = kit.material(name)
    picture = Image.fromarray(made.colour).resize((512, 512), Image.Resampling.BOX)
    return made.tile, trimesh.visual.material.PBRMaterial(
        name=name, baseColorTexture=picture, roughnessFactor=roughness, metallicFactor=0.0
    )


def _box(low: tuple[float, float, float], high: tuple[float, float, float]) -> trimesh.Trimesh:
    return trimesh.creation.box(bounds=[low, high])


def _slab(run: float, rise: float, length: float, eaves: float, over: float, thick: float, way: int) -> trimesh.Trimesh:
    """One side of a roof: from the ridge down past the eaves."""
    slope = np.array([way * run, 0.0, -rise]) * (1 + over / run)
    ridge = np.array([0.0, 0.0, eaves + rise])
    half = np.array([0.0, length / 2 + over, 0.0])
    up = np.array([way * rise, 0.0, run])
    up *= thick / np.linalg.norm(up)
    corners = [ridge + s * slope + e * half + u * up for u in (0, 1) for s in (0, 1) for e in (-1, 1)]
    return trimesh.convex.convex_hull(np.array(corners))


def barn() -> trimesh.Scene:
    """A field barn of 5.2 × 6.6 m in metres, z up: stone walls, slit windows, boarded door, tin roof."""
    kit = BuiltinKit(Cache())
    wide, long, eaves, rise, t = 5.2, 6.6, 2.5, 1.5, 0.42
    x, y = wide / 2, long / 2
    walls = [
        _box((-x, -y, -0.3), (-x + t, y, eaves)),
        # The front has its door and two slits.
        _box((x - t, -y, -0.3), (x, -0.75, eaves)),
        _box((x - t, 0.75, -0.3), (x, y, eaves)),
        _box((x - t, -0.75, 2.1), (x, 0.75, eaves)),
        _box((-x + t, -y, -0.3), (x - t, -y + t, eaves)),
        _box((-x + t, y - t, -0.3), (x - t, y, eaves)),
    ]
    for end in (-y, y - t):
        outline = [(-x, end, eaves), (x, end, eaves), (0, end, eaves + rise)]
        walls.append(trimesh.convex.convex_hull(np.array(outline + [(a, b + t, c) for a, b, c in outline])))
    # Quoins stand a finger proud of the walls, long and short by turns.
    corner = [
        _box(
            (min(sx * (x + 0.03), sx * (x - a)), min(sy * (y + 0.03), sy * (y - b)), 0.42 * k - 0.3),
            (max(sx * (x + 0.03), sx * (x - a)), max(sy * (y + 0.03), sy * (y - b)), 0.42 * k + 0.1),
        )
        for sx in (-1, 1)
        for sy in (-1, 1)
        for k in range(6)
        for a, b in [(0.62, 0.34) if k % 2 else (0.34, 0.62)]
    ]
    timber = [
        _box((x - 0.12, -0.95, 2.08), (x + 0.04, 0.95, 2.3)),
        *[_box((x - 0.2, -0.74 + 0.247 * k, 0.0), (x - 0.15, -0.5 + 0.247 * k, 2.08)) for k in range(6)],
        *[_box((x - 0.15, -0.74, h), (x - 0.11, 0.74, h + 0.12)) for h in (0.35, 1.55)],
        *[
            _box((-x - 0.1, s * y * 0.55 - 0.06, eaves - 0.22), (x + 0.25, s * y * 0.55 + 0.06, eaves - 0.1))
            for s in (-1, 1)
        ],
    ]
    roof = [_slab(x, rise, long, eaves + 0.02, 0.32, 0.05, way) for way in (-1, 1)]
    roof.append(_box((-0.14, -y - 0.3, eaves + rise - 0.02), (0.14, y + 0.3, eaves + rise + 0.09)))
    scene = trimesh.Scene()
    for name, parts in (("stone", walls), ("coping", corner), ("timber", timber), ("tin", roof)):
        tile, material = _material(kit, {"coping": "stone"}.get(name, name))
        material.name = name
        scene.add_geometry(_walled(trimesh.util.concatenate(parts), tile, material), node_name=name)
    return scene


def save_barn(path: Path) -> None:
    """In millimetres, so that the import has something to put right."""
    scene = barn()
    scene.apply_transform(trimesh.transformations.scale_matrix(1000))
    path.write_bytes(scene.export(file_type="glb"))


def pump_house() -> trimesh.Trimesh:
    """A pump house of 3.6 × 4.6 m in metres, y up: one mesh of one grey, without any coordinates for pictures."""
    x, z, eaves, t = 1.8, 2.3, 2.7, 0.35
    parts = [
        # A plinth that stands out, and walls with a door to the south and a window to the east.
        _box((-x - 0.12, -0.4, -z - 0.12), (x + 0.12, 0.45, z + 0.12)),
        _box((-x, 0.4, -z), (-x + t, eaves, z)),
        _box((-x, 0.4, -z), (x, eaves, -z + t)),
        _box((-x, 0.4, z - t), (-0.55, eaves, z)),
        _box((0.55, 0.4, z - t), (x, eaves, z)),
        _box((-0.55, 2.35, z - t), (0.55, eaves, z)),
        _box((x - t, 0.4, -z), (x, 1.25, z)),
        _box((x - t, 2.15, -z), (x, eaves, z)),
        _box((x - t, 1.2, -z), (x, 2.2, -0.55)),
        _box((x - t, 1.2, 0.55), (x, 2.2, z)),
        # A sill, lintels, a step, the door set back, and what is behind the window.
        _box((x - t, 1.12, -0.7), (x + 0.1, 1.25, 0.7)),
        _box((x - 0.1, 2.15, -0.75), (x + 0.03, 2.38, 0.75)),
        _box((-0.75, 2.32, z - 0.1), (0.75, 2.55, z + 0.03)),
        _box((-0.7, -0.3, z + 0.1), (0.7, 0.2, z + 0.55)),
        _box((-0.56, 0.4, z - 0.22), (0.56, 2.36, z - 0.16)),
        _box((x - 0.3, 1.2, -0.56), (x - 0.26, 2.2, 0.56)),
        # A roof slab that runs out over the walls, its upstand, and a chimney with a cap.
        _box((-x - 0.3, eaves - 0.02, -z - 0.3), (x + 0.3, eaves + 0.16, z + 0.3)),
        _box((-x - 0.1, eaves + 0.15, -z - 0.1), (x + 0.1, eaves + 0.36, z + 0.1)),
        _box((-x + 0.3, eaves + 0.3, -z + 0.3), (-x + 0.85, eaves + 1.2, -z + 0.85)),
        _box((-x + 0.22, eaves + 1.2, -z + 0.22), (-x + 0.93, eaves + 1.3, -z + 0.93)),
        # A pipe from the roof to the ground.
        _box((x + 0.02, 0.2, z - 0.55), (x + 0.12, eaves, z - 0.45)),
    ]
    mesh = trimesh.util.concatenate(parts)
    grey = trimesh.visual.material.PBRMaterial(name="grey", baseColorFactor=[150, 150, 148, 255], metallicFactor=0.0)
    mesh.visual = trimesh.visual.TextureVisuals(material=grey)
    return mesh


def save_pump_house(path: Path) -> None:
    path.write_bytes(pump_house().export(file_type="glb"))


if __name__ == "__main__":
    folder = Path(sys.argv[1])
    save_pump_house(folder / "pump-house.glb")
    save_bank(folder / "bank.png")
    save_barn(folder / "barn.glb")
