"""Droplets that do not form by themselves: by rain on panes, round a foot, drawn, laid by hand, seen from afar."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.beads.base_pool import foot_pool, rim_height, standing_pool
from cenote_core.beads.profile import CAPILLARY
from cenote_core.beads.site_droplets import bead_mesh, droplets, shown
from cenote_core.materials.waters import drops as drops_picture
from cenote_core.mesh.nearest import triangle_tree
from cenote_core.patinas.bake import blend_values
from cenote_core.patinas.cover import stack, unlisted
from cenote_core.plan import BeadsPlan, PatinaUse, PiecePlan, StationPlan, TouchPlan, WeatherPlan
from cenote_core.proof_scene.beads import add_beads, too_far
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proof_scene.owners import add_owners
from cenote_core.proof_scene.tables import Shot, Tables
from cenote_core.surfaces import channels

from .helpers import scene_of, small_site


class OnPanes(unittest.TestCase):
    """Rain stands and runs on glass by itself."""

    def beads(self, **weather):
        site = small_site()
        site.put("lamp", PiecePlan(name="lamp", asset="lamp", position=(3, 0, 2), foot_width=0.0))
        site.weather = WeatherPlan(**weather)
        return shown(scene_of(site))

    def test_it_comes_with_rain_and_on_glass_only(self):
        self.assertEqual(self.beads(), [])
        (key, plan), *more = self.beads(rain=8.0, wind_from=90.0)
        self.assertEqual((key, more), ("rain-on-panes", []))
        self.assertEqual([use.surface for use in plan.uses], ["lamp/pane"])
        self.assertEqual(plan.rules[0].toward, 90.0)
        self.assertGreater(self.beads(rain=16.0)[0][1].runs, plan.runs)


class AtTheFoot(unittest.TestCase):
    """A pool round the foot of a thing: its volume, its edge, and where it ends."""

    @classmethod
    def setUpClass(cls):
        site = small_site(material="concrete")
        site.pieces.clear()
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0))
        cls.scene = scene_of(site)

    def pool(self, **more):
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], **{"pool": 40.0, "angle": 60.0, **more})
        return standing_pool(self.scene, plan, "bucket", 3)

    def test_as_much_stands_there_as_was_asked_for(self):
        for asked in (15.0, 40.0, 120.0):
            height, (x, _), _ = self.pool(pool=asked)
            cell = float(x[0, 1] - x[0, 0])
            self.assertAlmostEqual(height.sum() * cell**2 * 1e6 / asked, 1.0, delta=0.03)
        self.assertIsNone(self.pool(pool=0.0))

    def test_it_is_as_high_as_weight_lets_it_and_round_at_its_edge(self):
        for angle in (40.0, 60.0, 90.0):
            height, _, _ = self.pool(pool=200.0, angle=angle)
            level = 2 * CAPILLARY * np.sin(np.radians(angle) / 2)
            self.assertAlmostEqual(float(height.max()) / level, 1.0, delta=0.06)
        inward = np.linspace(0, 0.006, 400)
        rim = rim_height(60.0, inward)
        self.assertTrue((np.diff(rim) >= 0).all() and rim[0] == 0)
        # It begins as steep as its contact angle and bends over.
        steep = np.degrees(np.arctan2(rim[4], inward[4]))
        self.assertAlmostEqual(float(steep), 60.0, delta=8.0)
        self.assertLess(np.diff(rim)[380], 0.1 * np.diff(rim)[2])

    def test_it_ends_where_what_it_stands_on_ends(self):
        site = small_site()
        site.pieces.clear()
        site.put("ledge", PiecePlan(name="ledge", asset="ledge", position=(0, 0, 0), foot_width=0.0))
        top = float(scene_of(site).mesh("ledge").bounds()[1][1])
        at = (float(scene_of(site).mesh("ledge").bounds()[1][0]) - 0.16, top, 0.0)
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=at, foot_width=0.0))
        scene = scene_of(site)
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], pool=300.0, angle=60.0)
        height, (x, _), _ = standing_pool(scene, plan, "bucket", 3)
        self.assertLess(x[height > 0].max(), float(scene.mesh("ledge").bounds()[1][0]) + 0.005)

    def test_its_sheet_is_part_of_what_is_drawn(self):
        plan = BeadsPlan(name="sweat", uses=[PatinaUse(surface="bucket/zinc")], pool=40.0, amount=0.05)
        with_pool = bead_mesh(self.scene, "b", plan, "bucket")
        without = bead_mesh(self.scene, "b", plan.model_copy(update={"pool": 0.0}), "bucket")
        sheet = foot_pool(self.scene, "b", plan, "bucket")
        self.assertEqual(len(with_pool.faces), len(without.faces) + len(sheet.faces))
        self.assertGreater(sheet.normals[:, 1].mean(), 0.8)


class Drawn(unittest.TestCase):
    """Droplets laid over a surface as relief and gloss."""

    def site(self, **more):
        site = small_site()
        site.put("b", BeadsPlan(name="drops", drawn=True, uses=[PatinaUse(surface="wall/stone")], **more))
        return site

    def test_they_are_a_film_on_top_of_all_and_no_bodies(self):
        site = self.site(size=4.0)
        scene = scene_of(site)
        key, film = stack(scene, "wall")[-1]
        self.assertEqual((key, film.finish.material, film.finish.scale), ("b", "drops", 2.0))
        self.assertEqual(shown(scene), [])
        self.assertIn("b", unlisted(scene))
        site.put("b", site.of(BeadsPlan)["b"].model_copy(update={"drawn": False}))
        self.assertEqual([key for key, _ in shown(scene_of(site))], ["b"])
        self.assertNotIn("b", unlisted(scene_of(site)))

    def test_the_surface_keeps_its_colour_and_shines_where_they_lie(self):
        scene = scene_of(self.site())
        (key, film) = stack(scene, "wall")[-1]
        uv = np.random.default_rng(4).random((4000, 2)).astype(np.float32) * 0.06
        slots = np.zeros(4000, np.int32)
        bare = blend_values(scene, "wall", uv, uv, slots, [])
        drops = blend_values(scene, "wall", uv, uv, slots, [(film, np.full(4000, film.amount, np.float32))])
        rough = channels.ROUGHNESS
        on = drops[:, rough] < 0.2
        self.assertTrue(0.25 < on.mean() < 0.8, on.mean())
        self.assertGreater(bare[:, rough].min(), 0.4)
        ratio = drops[:, channels.COLOUR].sum(axis=1) / bare[:, channels.COLOUR].sum(axis=1)
        self.assertTrue((ratio > 0.7).all() and (ratio < 1.3).all())
        np.testing.assert_allclose(drops[drops[:, rough] > 0.4][:, rough].mean(), bare[:, rough].mean(), rtol=0.15)

    def test_drops_of_the_picture_lie_side_by_side_and_go_on_over_its_rim(self):
        made = drops_picture(256, 1)
        height = made.height.astype(float)
        self.assertTrue(0.3 < (height > 4).mean() < 0.75)
        seam = np.abs(height[0] - height[-1]).mean()
        self.assertLess(seam, 2.0 * np.abs(np.diff(height, axis=0)).mean())


class ByHand(unittest.TestCase):
    """Strokes that lay droplets one after another."""

    @classmethod
    def setUpClass(cls):
        cls.site = small_site()
        cls.site.pieces.clear()
        cls.site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(0, 0, 0), foot_width=0.0))
        turn = np.linspace(-0.6, 0.6, 13)
        out = np.column_stack([np.sin(turn), 0 * turn, np.cos(turn)])
        start = (out * 0.5 + [0, 0.12, 0]).astype(np.float32)
        cls.path = scene_of(cls.site).rays(("bucket",)).meet(start, (-out).astype(np.float32), 1.0).positions

    def laid(self, *more, **stroke):
        site = small_site()
        site.pieces.clear()
        site.put("bucket", self.site.pieces["bucket"])
        path = [tuple(float(v) for v in p) for p in self.path]
        asked = {"radius": 0.02, "falloff": 0.0, "strength": 1.0, "action": "lay", **stroke}
        site.put("t-1", TouchPlan(target="b", owner="bucket", points=path, order=1, **asked))
        for number, touch in enumerate(more, start=2):
            site.put(f"t-{number}", TouchPlan(target="b", owner="bucket", points=path, order=number, **touch))
        plan = BeadsPlan(name="b", size=1.5, amount=0.0, uses=[PatinaUse(surface="bucket/zinc")])
        site.put("b", plan)
        (found,) = droplets(scene_of(site), "b", plan, "bucket").values()
        return found

    def test_they_lie_on_the_surface_at_even_distances_in_it(self):
        found = self.laid()
        order = np.argsort(found.at[:, 0])
        apart = np.linalg.norm(np.diff(found.at[order], axis=0), axis=1)
        self.assertGreater(len(found), 20)
        self.assertLess(apart.std() / apart.mean(), 0.15)
        mesh = scene_of(self.site).mesh("bucket")
        away = triangle_tree(mesh.positions, mesh.faces).distance(found.at.astype(np.float32), 0.05)
        self.assertLess(away.max(), 2e-4)
        self.assertGreater((found.normal * (found.at * [1, 0, 1])).sum(axis=1).min(), 0, "they look outward")
        np.testing.assert_array_equal(found.at, self.laid().at)

    def test_a_soft_brush_scatters_them_and_a_weak_one_leaves_gaps(self):
        spread = lambda found: float(found.at[:, 1].std())  # noqa: E731
        self.assertGreater(spread(self.laid(falloff=1.0)), 3 * spread(self.laid()) + 1e-3)
        self.assertLess(len(self.laid(strength=0.4)), 0.7 * len(self.laid()))

    def test_what_is_erased_after_is_gone(self):
        self.assertEqual(len(self.laid({"action": "erase", "radius": 0.05})), 0)
        self.assertLess(len(self.laid({"action": "less", "radius": 0.05, "strength": 0.5})), 0.9 * len(self.laid()))


class FromAfar(unittest.TestCase):
    """What is far is drawn by itself, even where droplets are shaped."""

    def test_droplets_of_less_than_a_pixel_are_films_and_nearer_ones_bodies(self):
        site = small_site()
        site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(2, 0, 2), foot_width=0.0))
        site.put("b", BeadsPlan(name="dew", size=2.0, amount=0.1, uses=[PatinaUse(surface="bucket/zinc")]))
        scene = scene_of(site)
        meshes = {owner: scene.mesh(owner) for owner in scene.owners()}
        made = {}
        for away in (0.6, 40.0):
            station = StationPlan(name="s", position=(2, 0.2, 2 + away), target=(2, 0.2, 2))
            shot = Shot(scene, meshes, station, (640, 400), replace(ROUGH, page_side=0))
            owners, drops = Tables(), Tables()
            add_owners(owners, shot, ["bucket"])
            add_beads(drops, shot)
            made[away] = len(too_far(shot, "bucket")), len(owners.layers), len(drops.parts)
        (near, near_layers, near_parts), (far, far_layers, far_parts) = made[0.6], made[40.0]
        self.assertEqual((near, far), (0, 1))
        self.assertEqual(far_layers, near_layers + 1)
        self.assertEqual((near_parts > 0, far_parts), (True, 0))
