"""Room above: roofs, solids, the earth, and what lies beside the sheet."""

import unittest

import numpy as np

from cenote_core.drifts.headroom import room_above
from cenote_core.drifts.instancing import build_instances
from cenote_core.plan import Mound, PiecePlan

from .helpers import drift, scene_of, small_site


class Headroom(unittest.TestCase):
    def bare(self, **ground):
        site = small_site(**{"width": 20, "depth": 20, **ground})
        site.pieces.clear()
        return site

    def test_under_a_roof_and_in_the_earth_is_no_room_but_in_a_cellar_is(self):
        site = self.bare()
        low = PiecePlan(name="low", asset="platform", position=(0, -0.6, 0))
        site.put("low", low)
        scene = scene_of(site)
        box_low, box_high = scene.mesh("low").bounds()
        self.assertLess(box_low[1], -0.1)
        inside = np.array([[0.0, y, 0.0] for y in (-0.3, 0.0)], np.float32)
        self.assertFalse(room_above(scene, "ground", inside[1:], 0.3).any())
        # Beside the sunk platform: in the earth, on it, above it, and beside the sheet where there is no earth.
        beside = np.array([[5, -0.2, 5], [5, 0.0, 5], [5, 0.4, 5], [50, -0.2, 5]], np.float32)
        self.assertEqual(room_above(scene, "low", beside, 0.3).tolist(), [False, True, True, True])
        # A floor a metre and a half below the ground, with the shelter's roof between it and the earth.
        site.put("cellar", PiecePlan(name="cellar", asset="shelter", position=(5, -4.5, -5)))
        scene = scene_of(site)
        floor, top = (float(corner[1]) for corner in scene.mesh("cellar").bounds())
        self.assertLess(top, -0.1)
        place = np.array([[5, floor + 0.3, -5]], np.float32)
        self.assertTrue(room_above(scene, "cellar", place, 0.5)[0])
        self.assertFalse(room_above(scene, "cellar", place, 6.0)[0])

    def test_without_pieces_there_is_room_everywhere_on_the_ground(self):
        scene = scene_of(self.bare(amount=3, feature=5))
        places = scene.mesh("ground").positions[::7]
        self.assertTrue(room_above(scene, "ground", places, 4.0).all())

    def test_a_piece_the_ground_was_heaped_over_grows_nothing_where_it_is_buried(self):
        site = self.bare(forms=[Mound(centre=(4, 0), radius=4, height=3)], cell=0.1)
        site.put("low", PiecePlan(name="low", asset="platform", position=(0, 0, 0), ground_at=0.0))
        surfaces = [f"low/{slot}" for slot in scene_of(site).mesh("low").slot_names]
        plan = drift(surfaces=surfaces, density=20, headroom=0.3)
        found = build_instances(scene_of(site), "d", plan)
        # On its top and sides; its hollow below has a ceiling and counts as a room.
        place = found.position[found.position[:, 1] > 0.1]
        away = np.hypot(place[:, 0] - 4, place[:, 2])
        self.assertGreater((away > 4).sum(), 50)
        self.assertFalse((away < 1.5).any())
