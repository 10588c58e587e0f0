"""Measures by rays while something is being changed: a first answer from fewer texels, the true one once it is there."""

import unittest

import numpy as np

from cenote_core.graph.store import Cache
from cenote_core.measures.rain import RainRule
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse
from cenote_core.scene.measuring import HASTE, Answers, RuleContext
from cenote_core.scene.scene import PREVIEW_LIMIT, Scene

from .helpers import CACHE, gate, scene_of, small_site

RULE = RainRule(gate=gate(0.1, 0.6, 9, 9), toward=77.25)


def site():
    out = small_site()
    uses = [PatinaUse(surface=ref) for ref in ("wall/coping", "wall/body", "ground/ground")]
    out.put("damp", PatinaPlan(name="damp", uses=uses, rules=[RULE]))
    return out


class Haste(unittest.TestCase):
    def hasty(self, cache):
        return Scene(site(), scene_of(site()).kit, cache, hasty=True)

    def side(self, scene):
        trace, reach, settings = RULE.traced()
        return Answers(scene, "wall", RuleContext("damp")).traced_ref(trace, reach, settings).value().shape[0]

    def test_coarse_while_nobody_has_traced_it_and_fine_once_somebody_has(self):
        cache = Cache(None)
        hasty, calm = self.hasty(cache), Scene(site(), scene_of(site()).kit, cache)
        self.assertEqual(self.side(hasty) * HASTE, self.side(calm))
        # What was worked out coarsely stays so in that scene; the next one finds the finer map.
        self.assertEqual(self.side(hasty) * HASTE, self.side(calm))
        self.assertEqual(self.side(self.hasty(cache)), self.side(calm))

    def test_the_first_answer_looks_like_the_true_one(self):
        first = owner_covers(self.hasty(Cache(None)), "wall", PREVIEW_LIMIT)
        scene = Scene(site(), scene_of(site()).kit, CACHE)
        # On the surface itself: what fills the gaps of the unwrap is nowhere seen.
        there = scene.table("wall", first.shape[1]).index
        seen, true = (covers.ravel()[there] for covers in (first, owner_covers(scene, "wall", PREVIEW_LIMIT)))
        self.assertGreater(true.std(), 0.1)
        self.assertLess(np.abs(seen - true).mean(), 0.03)
        self.assertGreater(np.corrcoef(seen, true)[0, 1], 0.9)

    def test_nothing_coarse_is_taken_for_the_true_value(self):
        cache = Cache(None)
        owner_covers(self.hasty(cache), "wall", PREVIEW_LIMIT)
        after = owner_covers(Scene(site(), scene_of(site()).kit, cache), "wall", PREVIEW_LIMIT)
        alone = owner_covers(Scene(site(), scene_of(site()).kit, Cache(None)), "wall", PREVIEW_LIMIT)
        np.testing.assert_array_equal(after, alone)
