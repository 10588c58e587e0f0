"""The same places, once drawn by the plate's shader and once worked out in Python."""

import numpy as np

from cenote_core.materials.material import linear_to_srgb
from cenote_core.measures.height import HeightRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.mesh.mesh import points_on
from cenote_core.mesh.texels import sample_map
from cenote_core.patinas.cover import owner_covers, stack
from cenote_core.patinas.flatten import flatten_values
from cenote_core.patinas.sides import ground_sides
from cenote_core.plan import (
    Finish,
    Gate,
    GroundLayer,
    GroundPlan,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    Terrace,
)
from cenote_core.stations.camera import axes, field_of_view
from sites.computing import scene_of

from .browser import BrowserTest
from .helpers import first_hits, site_of

SIDE, BLOCK = 180, 6


def shown(station, width, height):
    """Pixels of a square in the middle of the plate, rows and columns, and the directions they look in."""
    right, up, forward = axes(station)[1:]
    half = np.tan(np.radians(field_of_view(station.lens)) / 2)
    columns, rows = (
        m.ravel()
        for m in np.meshgrid(np.arange(SIDE) + width // 2 - SIDE // 2, np.arange(SIDE) + height // 2 - SIDE // 2)
    )
    u = ((columns + 0.5) / width * 2 - 1) * half
    v = (1 - (rows + 0.5) / height * 2) * half * height / width
    return rows, columns, forward + u[:, None] * right + v[:, None] * up


def blocks(values):
    """Means of blocks of pixels, (blocks, 3): the plate may use smaller pictures than the flattener."""
    return values.reshape(SIDE // BLOCK, BLOCK, SIDE // BLOCK, BLOCK, 3).mean(axis=(1, 3)).reshape(-1, 3)


class PlateAndFlattenedMaps(BrowserTest):
    def both(self, site, station, owner, most_blurred=6.0):
        """Hold the middle of the plate against Python; returns the shares of the sides the ground is seen from."""
        self.open(site)
        self.page.get_by_role("radio", name="colour").click()
        self.page.wait_for_timeout(600)
        self.settled()
        drawn = self.plate()
        rows, columns, direction = shown(station, drawn.shape[1], drawn.shape[0])
        scene = scene_of(site)
        mesh = scene.mesh(owner)
        face, bary = first_hits(mesh, axes(station)[0], direction)
        self.assertTrue((face >= 0).all())
        points = points_on(mesh, face, bary)
        w = np.column_stack([1 - bary.sum(axis=1), bary])
        uv = np.einsum("nk,nkc->nc", w, mesh.uv[mesh.faces[face]]).astype(np.float32)
        maps = owner_covers(scene, owner, 1024)
        covers = [
            (plan, np.float32(sample_map(maps[k], points.uv2))) for k, (_, plan) in enumerate(stack(scene, owner))
        ]
        seen = ground_sides(scene, points.positions[:, [0, 2]]) if owner == "ground" else None
        worked = linear_to_srgb(flatten_values(scene, owner, uv, uv, points.slots, covers, seen)[:, :3]) * 255
        ours, theirs = blocks(worked), blocks(drawn[rows, columns])
        self.assertLess(np.abs(ours.mean(axis=0) - theirs.mean(axis=0)).max(), 2.5)
        self.assertLess(np.abs(ours - theirs).mean(), most_blurred)
        for channel in range(3):
            self.assertGreater(np.corrcoef(ours[:, channel], theirs[:, channel])[0, 1], 0.95)
        return None if seen is None else seen[1]

    def test_moss_on_a_wall(self):
        station = StationPlan(name="close", position=(0.3, 0.8, 0.0), target=(0.3, 0.8, -2), lens=35, order=1)
        site = site_of(
            self.user,
            **{
                "wall": PiecePlan(name="garden wall", asset="wall", position=(0, 0, -2.5)),
                "station-1": station,
                "m": PatinaPlan(
                    name="moss",
                    # Enlarged: its shoots are finer than the pictures of patinas that the plate holds.
                    finish=Finish(material="moss", scale=2.5),
                    uses=[PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping")],
                    rules=[NoiseRule(gate=Gate(rise_start=0.3, rise_end=0.5, fall_start=1, fall_end=1))],
                ),
            },
        )
        self.both(site, station, "wall")

    def test_a_steep_bank_of_two_materials(self):
        bank = Terrace(start=(6, 0), end=(-6, 1.5), height=5.0, run=2.6)
        gravel = GroundLayer(
            key="gravel",
            material="gravel",
            rules=[HeightRule(gate=Gate(rise_start=2.0, rise_end=2.4, fall_start=99, fall_end=99))],
        )
        ground = GroundPlan(width=12, depth=12, cell=0.2, amount=0.0, forms=[bank], layers=[gravel])
        station = StationPlan(name="close", position=(0.2, 2.6, 4.5), target=(0.2, 2.4, 0), lens=35, order=1)
        share = self.both(site_of(self.user, ground=ground, **{"station-1": station}), station, "ground")
        # The bank is steep enough to be seen from the side, and turned so that two sides count.
        self.assertGreater((share[:, 2] > 0.5).mean(), 0.3)
