"""Kinds of weathering: whole, and each lying where its sentence says."""

import unittest

import numpy as np

from cenote_core.materials.catalogue import CATALOGUE
from cenote_core.patinas.cover import cover
from cenote_core.plan import PiecePlan
from cenote_core.weatherings import WEATHERINGS

from .helpers import scene_of, small_site

SIDE = 128


class Kinds(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site()
        site.put("shelter", PiecePlan(name="shelter", asset="shelter", position=(0, 0, 2.5), foot_width=0.0))
        cls.scene = scene_of(site)
        cls.refs = [s.ref for s in cls.scene.surfaces() if s.owner != "ground"]

    def laid(self, kind, owner, seed=3):
        plan = WEATHERINGS[kind].make(self.refs, seed)
        return cover(self.scene, kind, plan, owner, SIDE), self.scene.table(owner, SIDE).points

    def test_each_is_whole_and_starts_something(self):
        self.assertGreaterEqual(len(WEATHERINGS), 8)
        places = [w.place for w in WEATHERINGS.values()]
        self.assertEqual(places, sorted(set(places)))
        for kind, weathering in WEATHERINGS.items():
            self.assertIn(weathering.material, CATALOGUE, kind)
            self.assertTrue(weathering.title and weathering.about.endswith("."), kind)
            amounts, areas = zip(
                *((a, p.areas) for a, p in (self.laid(kind, o) for o in ("wall", "shelter"))), strict=True
            )
            share = np.average(np.concatenate(amounts), weights=np.concatenate(areas))
            # Something to see, and never laid over everything.
            self.assertTrue(0.004 < share < 0.6, (kind, share))

    def test_another_seed_lies_elsewhere_and_the_same_seed_the_same(self):
        one, two, again = (self.laid("moss", "wall", seed)[0] for seed in (3, 4, 3))
        np.testing.assert_array_equal(one, again)
        self.assertGreater(np.abs(one - two).mean(), 0.4 * one.mean())

    def test_mud_lies_low_dust_and_soot_where_no_rain_falls_algae_to_the_north(self):
        amount, at = self.laid("mud_splash", "wall")
        self.assertEqual(amount[at.positions[:, 1] > 0.5].max(), 0.0)
        self.assertGreater(amount[at.positions[:, 1] < 0.1].mean(), 0.1)
        amount, at = self.laid("algae", "wall")
        north, south = (amount[at.normals[:, 2] * sign > 0.9].mean() for sign in (-1, 1))
        self.assertGreater(north, 5 * south + 0.02)
        for kind in ("soot", "dust"):
            amount, at = self.laid(kind, "wall")
            top = (at.normals[:, 1] > 0.95) & (at.positions[:, 1] > at.positions[:, 1].max() - 0.05)
            self.assertLess(amount[top].max(), 0.03, kind)

    def test_lichen_lies_on_open_tops_more_than_on_shaded_sides(self):
        amount, at = self.laid("lichen", "wall")
        top = at.normals[:, 1] > 0.95
        north = at.normals[:, 2] < -0.9
        self.assertGreater(amount[top].mean(), 3 * amount[north].mean() + 0.02)


if __name__ == "__main__":
    unittest.main()
