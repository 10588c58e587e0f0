"""Kinds of weathering: whole, and each lying where its sentence says."""

import unittest

import numpy as np

from cenote_core.materials.catalogue import CATALOGUE
from cenote_core.patinas.cover import cover
from cenote_core.patinas.growth import grown
from cenote_core.plan import PatinaPlan, PiecePlan
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
        plan = WEATHERINGS[kind].patina(kind, self.refs, seed)
        return cover(self.scene, kind, plan, owner, SIDE), self.scene.table(owner, SIDE).points

    def test_each_is_whole_and_starts_something(self):
        self.assertGreaterEqual(len(WEATHERINGS), 20)
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

    def test_every_kind_grows_with_the_years_from_nothing_and_never_shrinks(self):
        for kind, weathering in WEATHERINGS.items():
            shares = []
            for years in (0.0, 2.0, 8.0, 30.0, 120.0):
                site = self.scene.site.model_copy(deep=True)
                site.weather = site.weather.model_copy(update={"years": years})
                plan = weathering.patina(kind, self.refs, 3)
                shares.append(cover(scene_of(site), kind, plan, "wall", 64))
            self.assertEqual(float(shares[0].max()), 0.0, kind)
            for earlier, later in zip(shares, shares[1:], strict=False):
                self.assertTrue((later >= earlier - 1e-6).all(), kind)
            if shares[-1].max() > 0:
                self.assertGreater(float(shares[-1].mean()), float(shares[1].mean()), kind)

    def test_two_thirds_after_its_pace_where_it_gathers_best(self):
        self.assertAlmostEqual(float(grown(np.ones(1, np.float32), 12.0, 12.0)[0]), 1 - np.exp(-1), places=6)
        # Where conditions are half as good it takes twice as long.
        self.assertAlmostEqual(float(grown(np.float32([0.5]), 24.0, 12.0)[0]), 0.5 * (1 - np.exp(-1)), places=6)
        rates = np.linspace(0, 1, 50, dtype=np.float32)
        np.testing.assert_allclose(grown(rates, 1e6, 12.0), rates, atol=1e-6)
        self.assertEqual(float(grown(rates, 0.0, 12.0).max()), 0.0)

    def test_each_dial_turns_numbers_that_are_there_and_within_bounds(self):
        for kind, weathering in WEATHERINGS.items():
            self.assertTrue(3 <= len(weathering.dials) + 2 <= 6, (kind, "with amount and years"))
            for dial in weathering.dials:
                for value in (dial.low, (dial.low + dial.high) / 2, dial.high):
                    plan = weathering.patina(kind, self.refs, 3).model_dump()
                    for sets in dial.sets:
                        turn(plan, sets.at, sets.times * value + sets.plus, (kind, dial.title))
                    PatinaPlan.model_validate(plan)
                self.assertTrue(dial.sets[0].plus == 0 and dial.sets[0].times == 1, "the first tells the value")
                first = read(weathering.patina(kind, self.refs, 3).model_dump(), dial.sets[0].at)
                self.assertTrue(dial.low <= first <= dial.high, (kind, dial.title, first))


def holder(plan, at):
    """The dictionary that holds a number of a plan, and its name."""
    measure, _, path = at.rpartition(":")
    inside = next(r for r in plan["rules"] if r["measure"] == measure) if measure else plan
    *way, last = path.split(".")
    for name in way:
        inside = inside[name]
    return inside, last


def read(plan, at):
    inside, last = holder(plan, at)
    return inside[last]


def turn(plan, at, value, what):
    inside, last = holder(plan, at)
    assert last in inside, what
    inside[last] = value


if __name__ == "__main__":
    unittest.main()
