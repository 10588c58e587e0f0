"""Water that runs over surfaces: conserved, downhill, straight on a plane, round edges and across objects."""

import unittest

import numpy as np

from cenote_core.errors import CenoteError
from cenote_core.measures.flow import Flow, Nodes, line_load, passed, route
from cenote_core.mesh.rays import RayScene
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import PatinaPlan, PatinaUse, PiecePlan, rule_of
from cenote_core.scene import runoff_network

from .helpers import scene_of, small_site


def plane(width, length, texel, slope):
    """A tilted plane of texels (x across, falling towards +z), as nodes, a ray scene and a way from hits to texels."""
    columns, rows = round(width / texel), round(length / texel)
    x, s = np.meshgrid((np.arange(columns) + 0.5) * texel, (np.arange(rows) + 0.5) * texel)
    c, d = np.cos(np.radians(slope)), np.sin(np.radians(slope))
    at = np.column_stack([x.ravel(), -s.ravel() * d, s.ravel() * c]).astype(np.float32)
    count = len(at)
    nodes = Nodes(
        at,
        np.tile(np.float32([0, c, d]), (count, 1)),
        np.full(count, texel**2, np.float32),
        np.tile(np.float32([0, 0, 1]), (count, 1)),
        s.ravel().astype(np.float32),
    )
    corners = np.float32([(0, 0, 0), (0, -length * d, length * c), (width, -length * d, length * c), (width, 0, 0)])
    rays = RayScene(corners, np.int32([[0, 1, 2], [0, 2, 3]]))

    def targets(met):
        u, v = met.positions[:, 0] / texel - 0.5, met.positions[:, 2] / c / texel - 0.5
        u, v = np.clip(u, 0, columns - 1.001), np.clip(v, 0, rows - 1.001)
        i, j = np.floor(u).astype(int), np.floor(v).astype(int)
        steps = ((0, 0), (1, 0), (0, 1), (1, 1))
        target = np.stack([(j + b) * columns + i + a for a, b in steps], axis=1)
        share = np.stack([np.abs(1 - a - (u - i)) * np.abs(1 - b - (v - j)) for a, b in steps], axis=1)
        return target, share

    return nodes, rays, targets, (rows, columns)


class OnAPlane(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.nodes, rays, targets, cls.shape = plane(3.0, 2.0, 0.02, 40.0)
        cls.flow = route(rays, cls.nodes, targets)

    def test_what_drains_past_is_the_way_from_the_top(self):
        held = line_load(self.flow, self.nodes, passed(self.flow, self.nodes.areas.astype(float))).reshape(self.shape)
        rows = held.mean(axis=1)
        way = (np.arange(self.shape[0]) + 0.5) * 0.02
        np.testing.assert_allclose(rows[20:-4], way[20:-4], rtol=0.08)

    def test_nothing_is_lost_or_made(self):
        sources = np.random.default_rng(1).uniform(0, 1, len(self.nodes.areas))
        held = passed(self.flow, sources)
        ends = self.flow.share.sum(axis=1) == 0
        self.assertAlmostEqual(float(held[ends].sum() / sources.sum()), 1.0, places=5)

    def test_nothing_flows_uphill(self):
        there = self.flow.target >= 0
        drop = self.nodes.positions[:, None, 1] - self.nodes.positions[np.maximum(self.flow.target, 0), 1]
        self.assertGreater(float(drop[there].min()), 0.0)
        self.assertGreater(there.any(axis=1).mean(), 0.97)

    def test_more_rain_dries_no_place_and_drying_leaves_less(self):
        some = np.random.default_rng(2).uniform(0, 1, len(self.nodes.areas))
        more = some + (np.random.default_rng(3).uniform(0, 1, len(some)) > 0.5)
        self.assertTrue((passed(self.flow, more) >= passed(self.flow, some) - 1e-9).all())
        self.assertTrue((passed(self.flow, some, dry=0.5) <= passed(self.flow, some) + 1e-9).all())

    def test_a_source_makes_a_streak_straight_down(self):
        rows, columns = self.shape
        sources = np.zeros(self.shape)
        sources[10, columns // 2] = 1.0
        held = passed(self.flow, sources.ravel()).reshape(self.shape)
        for row in (40, 70, 95):
            middle = (held[row : row + 2].sum(axis=0) * np.arange(columns)).sum() / held[row : row + 2].sum()
            self.assertLess(abs(middle - columns // 2) * 0.02, 0.12, "no further aside than a rill or so")
        reached = (held[95:99].sum(axis=0) > 0.01) * 0.02
        self.assertLess(reached.sum(), 0.4)

    def test_water_gathers_into_rills(self):
        held = line_load(self.flow, self.nodes, passed(self.flow, self.nodes.areas.astype(float))).reshape(self.shape)
        low = held[-20:-4].mean(axis=0)
        self.assertGreater(low.std() / low.mean(), 0.4)

    def test_carried_by_hand(self):
        target = np.int32([[1, 2, -1, -1], [3, -1, -1, -1], [3, -1, -1, -1], [-1, -1, -1, -1]])
        share = np.float32([[0.25, 0.75, 0, 0], [1, 0, 0, 0], [1, 0, 0, 0], [0, 0, 0, 0]])
        flow = Flow(target, share, np.ones(4, np.float32), np.ones(4, np.float32), np.int32([0, 1, 2, 3]))
        np.testing.assert_allclose(passed(flow, np.array([4.0, 1, 0, 0.5])), [4, 2, 3, 5.5])


class AcrossObjects(unittest.TestCase):
    """A crate hung over the coping of the wall drips on it; the coping's water turns round its edge and falls."""

    @classmethod
    def setUpClass(cls):
        site = small_site()
        top = float(scene_of(site).mesh("wall").bounds()[1][1])
        site.put("crate", PiecePlan(name="crate", asset="crate", position=(0.4, top + 0.01, -2.0), foot_width=0.0))
        cls.scene = scene_of(site)
        cls.flow, cls.nodes = runoff_network.flow(cls.scene), runoff_network.nodes(cls.scene)
        counts = [len(cls.scene.table(o, runoff_network._side(cls.scene, o)).index) for o in cls.scene.owners()]
        cls.owner = np.repeat(cls.scene.owners(), counts)

    def test_all_that_is_caught_ends_somewhere(self):
        sources = runoff_network.caught(self.scene, 200.0, 4.0)
        self.assertGreater(sources.sum(), 0.5)
        held = passed(self.flow, sources)
        ends = self.flow.share.sum(axis=1) == 0
        self.assertAlmostEqual(float(held[ends].sum() / sources.sum()), 1.0, places=4)
        on_ground = held[ends & (self.owner == "ground")].sum() / sources.sum()
        self.assertGreater(on_ground, 0.85, "nearly all of it reaches the ground")

    def test_what_lands_on_the_crate_runs_on_over_the_wall(self):
        washed = np.where(self.owner == "crate", runoff_network.caught(self.scene, 200.0, 4.0), 0.0)
        held = passed(self.flow, washed)
        wall = self.owner == "wall"
        self.assertGreater(held[wall].max(), 0.0)
        sides = wall & (np.abs(self.nodes.normals[:, 1]) < 0.3)
        self.assertGreater((held[sides] > 0).mean(), 0.005, "over the coping's edge and down its face")

    def test_the_map_of_an_owner(self):
        found = runoff_network.runoff_map(self.scene, "wall", 200.0, 4.0, (), (), 0.0)
        self.assertTrue(np.isfinite(found).all() and (found >= 0).all())
        self.assertGreater(found.max(), 0.3)
        over = runoff_network.runoff_map(self.scene, "wall", 200.0, 4.0, ("crate",), (), 0.0)
        self.assertTrue((over <= found + 1e-4).all())

    def test_a_stain_begins_where_the_patina_lies_that_is_washed_off(self):
        site = self.scene.site.model_copy(deep=True)
        rust = PatinaPlan(name="rust", amount=1.0, rules=[], uses=[PatinaUse(surface="wall/coping")])
        streak = PatinaPlan(
            name="streak", rules=[rule_of("runoff", patinas=["rust"])], uses=[PatinaUse(surface="wall/stone")]
        )
        site.put("rust", rust)
        site.put("streak", streak)
        scene = scene_of(site)
        some = runoff_network.runoff_map(scene, "wall", 200.0, 4.0, (), ("rust",), 0.0)
        self.assertGreater(some.max(), 0.05)
        self.assertTrue((some <= runoff_network.runoff_map(scene, "wall", 200.0, 4.0, (), (), 0.0) + 1e-4).all())
        none = runoff_network.runoff_map(scene, "crate", 200.0, 4.0, (), ("rust",), 0.0)
        self.assertEqual(float(none.max()), 0.0, "nothing runs up to the crate")
        self.assertGreater(float(owner_covers(scene, "wall", 128)[1].max()), 0.05)

    def test_a_patina_that_washes_itself_off_is_refused_in_words(self):
        site = self.scene.site.model_copy(deep=True)
        ring = PatinaPlan(
            name="ring", rules=[rule_of("runoff", patinas=["ring"])], uses=[PatinaUse(surface="wall/stone")]
        )
        site.put("ring", ring)
        with self.assertRaisesRegex(CenoteError, "ring"):
            owner_covers(scene_of(site), "wall", 128)


if __name__ == "__main__":
    unittest.main()
