"""A number for every board: the same all over it, even over many, another for each seed and piece."""

import unittest

import numpy as np

from cenote_core.measures.chance import chance
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse, PiecePlan, rule_of
from cenote_core.scene.measuring import Answers, RuleContext

from .helpers import gate, scene_of, small_site


class Chance(unittest.TestCase):
    def test_even_and_of_its_own_for_each_seed_and_owner(self):
        numbers = np.arange(20_000)
        found = chance(numbers, "shelter", 3)
        self.assertTrue(np.abs(np.histogram(found, 10, (0, 1))[0] - 2000).max() < 200)
        for other in (chance(numbers, "shelter", 4), chance(numbers, "wall", 3)):
            self.assertLess(abs(np.corrcoef(found, other)[0, 1]), 0.03)
        np.testing.assert_array_equal(found, chance(numbers, "shelter", 3))

    def site(self, each, share=0.5, seed=3):
        site = small_site()
        for key, x in (("a", -3), ("b", 0), ("c", 3)):
            site.put(key, PiecePlan(name=key, asset="crate", position=(x, 0, 2), foot_width=0.0))
        rule = rule_of("chance", each=each, seed=seed, gate=gate(1 - share, 1 - share, 1, 1))
        uses = [PatinaUse(surface=f"{key}/timber") for key in "abc"]
        site.put("p", PatinaPlan(name="p", amount=1.0, rules=[rule], uses=uses))
        return site

    def test_whole_boards_are_taken_and_about_as_many_as_asked_for(self):
        scene = scene_of(self.site("part"))
        side = scene.resolution("a")
        table = scene.table("a", side)
        parts = Answers(scene, "a", RuleContext("p")).parts(table.points)
        self.assertGreater(len(np.unique(parts)), 8, "a crate is made of boards")
        cover = owner_covers(scene, "a", 1024)[0].reshape(-1)[table.index]
        mean = np.bincount(parts, cover) / np.maximum(np.bincount(parts), 1)
        there = np.bincount(parts) > 20
        self.assertTrue(((mean[there] < 0.05) | (mean[there] > 0.95)).all(), "none is half taken")
        self.assertTrue(0.2 < (mean[there] > 0.5).mean() < 0.8)

    def test_whole_pieces(self):
        taken = []
        for seed in range(12):
            scene = scene_of(self.site("piece", seed=seed))
            covers = [owner_covers(scene, key, 64)[0] for key in "abc"]
            self.assertTrue(all(c.min() == c.max() for c in covers))
            taken += [float(c.max()) for c in covers]
        self.assertTrue(0.25 < np.mean(taken) < 0.75, taken)


if __name__ == "__main__":
    unittest.main()
