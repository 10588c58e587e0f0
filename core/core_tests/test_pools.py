"""Standing water: hollows are filled as brute force fills them, nothing is lost, and it stands where it can."""

import unittest

import numpy as np

from cenote_core.columns.grid import STEPS, columns_of
from cenote_core.materials.waters import rain_rings, still_water
from cenote_core.plan import PiecePlan, WeatherPlan
from cenote_core.pools.filling import fill, hollows_of
from cenote_core.pools.standing import standing_water
from cenote_core.pools.surface import water_surface
from cenote_core.pools.wetness import damp_map

from .helpers import scene_of, small_site


def joints(rows, columns):
    out = np.ones((rows, columns, 4), bool)
    out[:, -1, 0] = out[-1, :, 1] = out[:, 0, 2] = out[0, :, 3] = False
    return out


def rim(shape):
    out = np.zeros(shape, bool)
    out[[0, -1]] = out[:, [0, -1]] = True
    return out


def flooded(height):
    """Every node raised until water runs off: by lowering from infinity again and again."""
    level = np.where(rim(height.shape), height, np.inf)
    while True:
        padded = np.pad(level, 1, constant_values=np.inf)
        lowest = np.min([padded[1 + r : 1 + r + len(level), 1 + c : 1 + c + level.shape[1]] for r, c in STEPS], axis=0)
        new = np.minimum(level, np.maximum(height, lowest))
        if np.array_equal(new, level):
            return level
        level = new


class Hollows(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        rng = np.random.default_rng(5)
        cls.height = rng.random((26, 31)).cumsum(axis=0) * 0.05 + rng.random((26, 31))
        cls.hollows = hollows_of(cls.height, joints(26, 31), rim((26, 31)))

    def filled(self, depth):
        return fill(self.height, self.hollows, np.full(self.height.shape, depth * 0.01), 0.01)

    def test_hollows_spill_where_brute_force_says(self):
        wanted = flooded(self.height)
        spill = np.append(self.hollows.spill, np.nan)[self.hollows.of]
        found = np.where(self.hollows.of >= 0, spill, self.height)
        np.testing.assert_allclose(found, wanted)

    def test_each_spills_into_one_that_comes_before_it(self):
        self.assertTrue((self.hollows.below < np.arange(len(self.hollows.below))).all())
        self.assertTrue((self.hollows.below >= 0).any() and (self.hollows.below < 0).any())

    def test_what_comes_down_stands_or_runs_off(self):
        for depth in (0.001, 0.03, 0.2, 5.0):
            found = self.filled(depth)
            came = depth * 0.01 * self.height.size
            self.assertAlmostEqual(found.stored.sum() + found.off.sum(), came, places=9)
            level = np.append(found.level, -np.inf)[self.hollows.of]
            stands = np.maximum(level - self.height, 0).sum() * 0.01
            self.assertAlmostEqual(stands, found.stored.sum(), places=9)

    def test_levels_rise_with_rain_and_stop_at_the_spill(self):
        levels = [self.filled(depth).level for depth in (0.01, 0.05, 0.2, 10.0)]
        for lower, higher in zip(levels, levels[1:], strict=False):
            self.assertTrue((higher >= lower).all())
        np.testing.assert_allclose(levels[-1], self.hollows.spill)

    def test_a_slope_holds_none(self):
        slope = np.add.outer(np.linspace(1, 0, 20), np.zeros(12))
        found = hollows_of(slope, joints(20, 12), rim((20, 12)))
        self.assertEqual(len(found.spill), 0)
        self.assertAlmostEqual(fill(slope, found, np.ones(slope.shape), 1.0).off.sum(), slope.size)

    def test_a_bowl_fills_as_its_shape_says(self):
        x, z = np.meshgrid(np.linspace(-1, 1, 201), np.linspace(-1, 1, 201))
        cone = np.minimum(np.hypot(x, z), 0.8)
        cell = 0.01
        found = hollows_of(cone, joints(201, 201), rim((201, 201)))
        volume = np.zeros(cone.shape)
        volume[100, 100] = np.pi * 0.5**3 / 3
        # A cone of slope one holds π h³ / 3.
        self.assertAlmostEqual(fill(cone, found, volume, cell**2).level.max(), 0.5, delta=0.002)


class Rings(unittest.TestCase):
    def test_rain_leaves_rings_that_go_on_over_the_rim_of_the_tile(self):
        still, rained = still_water(256, 3), rain_rings(256, 3)
        lean = lambda m: np.abs(m.normal[..., :2].astype(float) - 128).mean()  # noqa: E731
        self.assertGreater(lean(rained), 1.5 * lean(still))
        height = rained.height.astype(float)
        seam = np.abs(height[:, 0] - height[:, -1]).mean()
        self.assertLess(seam, 1.5 * np.abs(np.diff(height, axis=1)).mean())


class OnASite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site(material="concrete")
        site.pieces.clear()
        site.put("platform", PiecePlan(name="platform", asset="platform", position=(0, 0, 0), foot_width=0.0))
        site.weather = WeatherPlan(standing=10.0, wetness=0.7)
        cls.scene = scene_of(site)
        cls.found = standing_water(cls.scene, "platform", 0.010)

    def test_what_came_stands_soaked_or_ran_off_to_one_per_cent(self):
        found = self.found
        self.assertGreater(found.came, 0.1)
        self.assertAlmostEqual((found.stored + found.soaked + found.off.sum()) / found.came, 1.0, delta=0.01)
        self.assertGreater(found.stored / found.came, 0.03)

    def test_its_surface_is_level_and_lies_a_hair_over_the_slab(self):
        mesh = water_surface(self.scene, "platform")
        self.assertGreater(len(mesh.faces), 50)
        self.assertTrue((mesh.normals == [0, 1, 0]).all())
        columns = columns_of(self.scene, "platform")
        row, column = columns.node_of(mesh.positions[:, [0, 2]].astype(float))
        r, c = row.astype(int), column.astype(int)
        # Of the four columns round a place the one whose surface it lies on.
        around = np.stack([mesh.positions[:, 1] - columns.height[r + i, c + j] for i in (0, 1) for j in (0, 1)])
        over = around[np.abs(around).argmin(axis=0), np.arange(around.shape[1])]
        self.assertLess(over.max(), 0.004)
        self.assertGreater(over.min(), 0.0)

    def test_the_slab_is_soaked_under_it_and_damp_round_it(self):
        found, mud = np.moveaxis(damp_map(self.scene, "platform"), -1, 0)
        self.assertTrue(found.max() == 1.0 and found.min() == 0.0)
        # Mud is left at the border of what is wet, less on the bed, and nowhere farther off.
        self.assertGreater(mud.max(), 0.8)
        self.assertTrue((mud[found == 0] == 0).all())
        self.assertLess(np.median(mud[found == 1.0]), 0.7)
        self.assertGreater(((found > 0.05) & (found < 0.95)).mean(), 0.002)

    def test_more_rain_never_leaves_less(self):
        stored = [standing_water(self.scene, "platform", mm / 1000).stored for mm in (0.3, 1, 4, 40)]
        self.assertTrue((np.diff(stored) >= 0).all() and stored[2] > stored[1] > stored[0] > 0)

    def test_what_drains_keeps_none_and_dry_weather_makes_none(self):
        site = small_site(material="gravel")
        site.weather = WeatherPlan(standing=30.0)
        self.assertEqual(standing_water(scene_of(site), "ground", 0.03).stored, 0.0)
        site.weather = WeatherPlan()
        self.assertIsNone(water_surface(scene_of(site), "ground"))
        self.assertIsNone(damp_map(scene_of(site), "ground"))

    def test_nothing_is_lost_where_walls_close_a_yard_in_all_round(self):
        site = small_site(material="concrete", width=20, depth=20)
        site.pieces.clear()
        for k, (x, z, turn) in enumerate(((0, -4, 0), (0, 4, 0), (-4, 0, 90), (4, 0, 90))):
            wall = PiecePlan(name=f"wall {k}", asset="wall", position=(x, -0.3, z), turn=turn, foot_width=0.0)
            site.put(f"wall-{k}", wall)
        found = standing_water(scene_of(site), "ground", 0.02)
        self.assertAlmostEqual((found.stored + found.soaked + found.off.sum()) / found.came, 1.0, delta=0.001)

    def test_none_comes_down_under_a_roof_and_none_runs_in(self):
        site = small_site(material="concrete")
        site.put("roof", PiecePlan(name="roof", asset="platform", position=(0, 4.0, -2), size=3.0, foot_width=0.0))
        found = standing_water(scene_of(site), "wall", 0.030)
        self.assertEqual((found.came, found.stored), (0.0, 0.0))
        open_ = standing_water(scene_of(small_site(material="concrete")), "wall", 0.030)
        self.assertGreater(open_.came, 0.1)


if __name__ == "__main__":
    unittest.main()
