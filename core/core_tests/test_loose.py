"""Loose stones near the eye: read from a picture's height, set down where it shows them, never in the air."""

import unittest
from dataclasses import replace

import numpy as np
from scipy.spatial import cKDTree

from cenote_core.ground.terrain import height_at
from cenote_core.materials.bits import Loose, find_bits
from cenote_core.measures.height import HeightRule
from cenote_core.plan import Finish, GroundLayer, PatinaPlan, PatinaUse, StationPlan
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proof_scene.near_stones import add_loose, bodies_share, loose_bits, loose_stones, stone_mesh
from cenote_core.proof_scene.nearfield import look_of, shaped_mesh
from cenote_core.proof_scene.tables import Shot, Tables
from cenote_core.scene import land

from .helpers import gate, one_colour, scene_of, small_site

REACH = ROUGH.relief_reach
STATION = StationPlan(name="s", position=(0.4, 0.9, 1.2), target=(0.2, 0.0, 0.0), lens=35)


def bumps(places, side=512, tile=1.0):
    """A material with domes (u, v, half length, half width, turn) on a level floor."""
    v, u = (np.mgrid[0:side, 0:side] + 0.5) / side * tile
    v = tile - v
    height = np.full((side, side), 0.2)
    for at_u, at_v, long, wide, turn in places:
        du, dv = ((d + tile / 2) % tile - tile / 2 for d in (u - at_u, v - at_v))
        along, across = du * np.cos(turn) + dv * np.sin(turn), -du * np.sin(turn) + dv * np.cos(turn)
        inside = 1 - (along / long) ** 2 - (across / wide) ** 2
        height = np.maximum(height, np.where(inside > 0, 0.2 + 0.7 * np.clip(inside, 0, 1) ** 0.2, 0))
    flat = one_colour((120, 120, 120), 0.9, side=side)
    return replace(flat, height=np.uint8(np.round(height * 255)), tile=tile, depth=0.03)


class BitsOfAPicture(unittest.TestCase):
    PLACES = ((0.3, 0.25, 0.06, 0.035, 0.5), (0.7, 0.6, 0.05, 0.03, -0.9), (0.99, 0.5, 0.06, 0.04, 1.2))

    def setUp(self):
        self.bits = find_bits(bumps(self.PLACES), Loose(0.08, 0.5))

    def test_each_is_found_once_with_its_place_size_and_turn(self):
        self.assertEqual(len(self.bits.at), 3, "the one across the rim is one")
        for u, v, long, wide, turn in self.PLACES:
            apart = np.abs(self.bits.at - [u, v])
            k = int(np.argmin(np.hypot(*np.minimum(apart, 1 - apart).T)))
            np.testing.assert_allclose(self.bits.at[k], [u, v], atol=0.003)
            np.testing.assert_allclose(self.bits.half[k], [long, wide], rtol=0.12)
            self.assertLess(abs(np.sin(self.bits.turn[k] - turn)), 0.06)
            self.assertAlmostEqual(float(self.bits.top[k]), 0.9, delta=0.03)

    def test_the_bare_relief_is_the_floor(self):
        self.assertLess(self.bits.bare.max() / 255, 0.25)
        self.assertGreaterEqual(self.bits.bare.min() / 255, 0.19)


class StonesOnASite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site()
        rule = HeightRule(gate=gate(-99, -99, 99, 99))
        layer = GroundLayer(key="ballast", material="gravel", rules=[rule])
        site.ground = site.ground.model_copy(update={"layers": [layer]})
        cls.site, cls.scene = site, scene_of(site)
        cls.stones = loose_stones(cls.scene, 1, STATION, 1.6, REACH)
        cls.bits = loose_bits(cls.scene, "gravel")
        cls.tile = cls.scene.material("gravel").tile

    def mesh(self):
        return stone_mesh(self.stones, self.bits, 1.0, np.full(len(self.stones), 10.0))

    def test_none_hovers_and_none_is_buried(self):
        self.assertGreater(len(self.stones), 300)
        look = look_of(STATION, (640, 400), ROUGH)
        ground = shaped_mesh(self.scene, "ground", look)
        tree = cKDTree(ground.positions[:, [0, 2]])
        _, nearest = tree.query(self.stones.middle[:, [0, 2]])
        floor = ground.positions[nearest, 1]
        whole = bodies_share(np.linalg.norm(self.stones.middle - STATION.position, axis=1), REACH) == 1.0
        bottom, top = (self.stones.middle[:, 1] + sign * self.stones.half[:, 1] for sign in (-1, 1))
        self.assertGreater((bottom < floor).mean(), 0.97, "they touch or are embedded")
        self.assertGreater((top > floor)[whole].mean(), 0.97, "they stand out")

    def test_each_shows_its_own_part_of_the_picture(self):
        uv = self.mesh().uv
        positions = self.mesh().positions
        # From above, the picture lies where the ground has it.
        away = np.hypot(uv[:, 0] - positions[:, 0], uv[:, 1] + positions[:, 2])
        self.assertLess(away.max(), float(self.bits.half.max()) * 1.5)

    def test_they_shrink_into_the_ground_with_distance(self):
        share = bodies_share(np.linspace(0, REACH, 50), REACH)
        self.assertTrue((np.diff(share) <= 0).all())
        self.assertEqual((share[0], share[-1]), (1.0, 0.0))
        eye = np.array(STATION.position)
        away = np.linalg.norm(self.stones.middle - eye, axis=1)
        of_picture = self.stones.half[:, 0] / self.bits.half[self.stones.number, 0]
        np.testing.assert_allclose(of_picture, bodies_share(away, REACH), atol=0.06)

    def test_there_are_none_where_something_lies_over_them(self):
        site = self.site.model_copy(deep=True)
        moss = PatinaPlan(
            name="m",
            amount=1.0,
            finish=Finish(material="moss", break_up=0.0),
            rules=[HeightRule(gate=gate(-99, -99, 99, 99))],
            uses=[PatinaUse(surface="ground/ballast")],
        )
        site.put("m", moss)
        before = len(self.stones)
        self.assertLess(len(loose_stones(scene_of(site), 1, STATION, 1.6, REACH)), 0.2 * before)

    def test_twice_the_same_bytes_and_in_the_tables(self):
        again = loose_stones(scene_of(self.site), 1, STATION, 1.6, REACH)
        np.testing.assert_array_equal(again.middle, self.stones.middle)
        out = Tables()
        add_loose(out, Shot(self.scene, {}, STATION, (640, 400), ROUGH))
        triangles = sum(len(part.faces) for part in out.parts)
        self.assertGreater(triangles, 80 * len(self.stones) * 0.9)
        self.assertTrue(np.isfinite(np.concatenate([part.positions for part in out.parts])).all())
        low = height_at(self.site.ground, land.heights(self.scene), out.parts[0].positions[:, [0, 2]])
        self.assertLess(np.abs(out.parts[0].positions[:, 1] - low).max(), 0.12)
