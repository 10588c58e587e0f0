"""What gathers at the foot of pieces: where they touch something, nowhere else, and no more than asked for."""

import unittest
from collections import Counter
from unittest import mock

import numpy as np

from cenote_core.graph import derived as graph
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.patinas.contact import contact_plans
from cenote_core.patinas.cover import cover, owner_covers, stack, unlisted
from cenote_core.plan import PatinaPlan, PatinaUse, PiecePlan
from cenote_core.scene.scene import Scene

from .helpers import CACHE, scene_of, small_site


def strip(scene, owner, resolution=128):
    """Points of an owner and how much of its strip lies at each."""
    (key, plan), *_ = contact_plans(scene, owner)
    return scene.table(owner, resolution).points.positions, cover(scene, key, plan, owner, resolution)


class Feet(unittest.TestCase):
    def site(self, **more):
        site = small_site()
        site.pieces.clear()
        site.put("low", PiecePlan(name="crate", asset="crate", position=(0, 0, 0), **more))
        return site

    def test_it_lies_at_the_foot_and_not_above_its_width(self):
        for width in (0.06, 0.2):
            at, amount = strip(scene_of(self.site(foot_width=width)), "low")
            self.assertGreater(amount[at[:, 1] < 0.15 * width].max(), 0.9)
            self.assertGreater(amount[at[:, 1] < 0.15 * width].mean(), 0.4)
            self.assertEqual(amount[at[:, 1] > width].max(), 0.0)

    def test_on_the_ground_it_lies_about_the_piece_alone(self):
        at, amount = strip(scene_of(self.site(foot_width=0.2)), "ground")
        away = np.maximum(np.abs(at[:, [0, 2]]) - 0.35, 0).max(axis=1)
        self.assertGreater(amount[away < 0.1].mean(), 0.2)
        self.assertEqual(amount[away > 0.6].max(), 0.0)

    def test_a_piece_on_another_gathers_where_they_touch(self):
        site = self.site(foot_width=0.0)
        site.put("high", PiecePlan(name="upper", asset="crate", position=(0.1, 0.42, 0), foot_width=0.08))
        scene = scene_of(site)
        self.assertEqual(contact_plans(scene, "low"), [])
        at, amount = strip(scene, "high")
        self.assertGreater(amount[at[:, 1] < 0.43].max(), 0.35)
        self.assertEqual(amount[at[:, 1] > 0.6].max(), 0.0)

    def test_without_a_width_there_is_none_and_the_stack_is_the_artists(self):
        site = self.site(foot_width=0.0)
        site.put("m", PatinaPlan(name="moss", uses=[PatinaUse(surface="low/timber")]))
        self.assertEqual([key for key, _ in stack(scene_of(site), "low")], ["m"])
        self.assertEqual(unlisted(scene_of(site)), {})
        site.put("low", PiecePlan(name="crate", asset="crate", foot_width=0.1))
        self.assertEqual([key for key, _ in stack(scene_of(site), "low")], ["contact.low", "m"])

    def test_moving_a_piece_far_off_makes_no_other_strip_again(self):
        site = self.site(foot_width=0.1)
        site.put("far", PiecePlan(name="far", asset="crate", position=(6, 0, 6), foot_width=0.1))
        cache = scene_of(site).cache
        owner_covers(scene_of(site), "low", 64)
        made, before = Counter(), graph.Ref._made

        def counted(ref):
            made[ref.name.rpartition(".")[2]] += 1
            return before(ref)

        moved = site.with_item("far", site.pieces["far"].model_copy(update={"position": (7, 0, 6)}))
        with mock.patch.object(graph.Ref, "_made", counted):
            owner_covers(Scene(moved, BuiltinKit(CACHE), cache), "low", 64)
        self.assertEqual(made["cover"], 0)
