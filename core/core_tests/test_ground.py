"""The ground: sheet, forms, strokes, pads, water, surfaces."""

import unittest
from unittest import mock

import numpy as np

from cenote_core.base.noise import noise
from cenote_core.ground.sculpt import sculpt
from cenote_core.ground.terrain import axes, coarser, formed, ground_mesh, height_at, sheet, thinned
from cenote_core.measures.height import HeightRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.patinas.cover import shares
from cenote_core.plan import Basin, Cut, GroundLayer, GroundPlan, Mound, Pad, PiecePlan, Terrace, TouchPlan, Water
from cenote_core.scene import land

from .helpers import gate, scene_of, small_site


def heights(plan, image=None):
    return formed(plan, sheet(plan, image))


def at(plan, y, *places):
    return height_at(plan, y, np.array(places, float))


def stroke(action, **more):
    plan = {"target": "ground", "action": action, "points": [(0, 0, 0)], "radius": 2, "strength": 1, "falloff": 0.5}
    return TouchPlan(**{**plan, **more})


class Appearance(unittest.TestCase):
    def test_terrace_raises_the_left_of_its_line(self):
        plan = GroundPlan(width=20, depth=20, amount=0, forms=[Terrace(start=(-10, 0), end=(10, 0), height=3, run=4)])
        np.testing.assert_allclose(at(plan, heights(plan), [0, -6], [0, -2], [0, 3]), [3, 1.5, 0], atol=0.02)

    def test_cut_levels_its_floor(self):
        form = Cut(line=[(-10, 0), (10, 0)], width=3, bank=1, level=0.4)
        plan = GroundPlan(width=20, depth=20, amount=2, forms=[form])
        places = np.column_stack([np.linspace(-8, 8, 20), np.linspace(-1.2, 1.2, 20)])
        np.testing.assert_allclose(height_at(plan, heights(plan), places), 0.4, atol=1e-6)

    def test_camber_raises_the_middle_of_a_path(self):
        form = Cut(line=[(-10, 0), (10, 0)], width=4, depth=0, bank=0.5, camber=0.2)
        plan = GroundPlan(width=20, depth=20, cell=0.1, amount=0, forms=[form])
        np.testing.assert_allclose(at(plan, heights(plan), [0, 0], [0, 1], [0, 2]), [0.2, 0.15, 0], atol=0.01)

    def test_mound(self):
        plan = GroundPlan(width=20, depth=20, amount=0, forms=[Mound(centre=(1, 1), radius=4, height=2)])
        np.testing.assert_allclose(at(plan, heights(plan), [1, 1], [6, 1]), [2, 0], atol=0.02)

    def test_basin_has_floor_rim_and_untouched_ground_outside(self):
        form = Basin(centre=(0, 0), radius=4, floor=-1, rim=0.5, rim_width=0.6, inside=2, outside=1.5)
        plan = GroundPlan(width=20, depth=20, cell=0.1, amount=0, forms=[form])
        found = at(plan, heights(plan), [0, 0], [1.5, 0], [4, 0], [0, 4], [6, 0], [9, 9])
        np.testing.assert_allclose(found, [-1, -1, 0.5, 0.5, 0, 0], atol=0.01)

    def test_forms_are_laid_in_order(self):
        cut, mound = Cut(line=[(-9, 0), (9, 0)], width=2, bank=0.5, level=0.0), Mound(centre=(0, 0), radius=3, height=1)
        first = GroundPlan(width=20, depth=20, amount=0, forms=[cut, mound])
        last = first.model_copy(update={"forms": [mound, cut]})
        self.assertAlmostEqual(at(first, heights(first), [0, 0])[0], 1.0, places=2)
        self.assertAlmostEqual(at(last, heights(last), [0, 0])[0], 0.0, places=6)


class Sheets(unittest.TestCase):
    def test_mesh_faces_up_and_covers_the_sheet(self):
        plan = GroundPlan(width=10, depth=8, amount=1)
        mesh = ground_mesh(plan, heights(plan))
        self.assertGreater(mesh.face_normals()[:, 1].min(), 0)
        flat = mesh.positions * [1, 0, 1]
        a, b, c = (flat[mesh.faces[:, k]] for k in range(3))
        self.assertAlmostEqual(np.linalg.norm(np.cross(b - a, c - a), axis=1).sum() / 2, 80, delta=1e-3)

    def test_a_large_sheet_is_thinned_for_looking_and_keeps_its_heights(self):
        plan = GroundPlan(width=60, depth=30, cell=0.1, amount=4, feature=20, detail=3)
        y = heights(plan)
        coarse, low = thinned(plan, y, 257)
        self.assertEqual(max(low.shape), 257)
        self.assertLess(min(low.shape), 135)
        self.assertEqual((coarse.width, coarse.depth), (60, 30))
        x, z = axes(coarse)
        corners = np.array([(x[0], z[0]), (x[-1], z[0]), (x[0], z[-1]), (x[-1], z[-1])])
        np.testing.assert_allclose(low[[0, 0, -1, -1], [0, -1, 0, -1]], height_at(plan, y, corners), atol=1e-9)
        spots = np.random.Generator(np.random.Philox(2)).uniform([-29, -14], [29, 14], (500, 2))
        np.testing.assert_allclose(height_at(coarse, low, spots), height_at(plan, y, spots), atol=0.03)
        same, kept = thinned(plan, y, 601)
        self.assertIs(kept, y)
        self.assertIs(same, plan)

    def test_a_large_sheet_is_reckoned_in_rows_as_a_small_one_is_at_once(self):
        plan = GroundPlan(width=30, depth=70, cell=0.1, amount=4, feature=9, seed=3)
        y = sheet(plan)
        x, z = axes(plan)
        self.assertGreater(len(z), 512)
        rows, columns = [0, 255, 256, 511, 512, 700], [0, 33, 300]
        flat = np.array([(x[c], 0.0, z[r]) for r in rows for c in columns])
        expected = (noise(flat, plan.feature, plan.detail, plan.seed, plan.ridged) - 0.5) * plan.amount
        np.testing.assert_array_equal(y[np.ix_(rows, columns)].ravel(), expected)

    def test_a_coarser_ground_lies_where_the_fine_one_does(self):
        fine = GroundPlan(width=40, depth=24, cell=0.05, amount=3, feature=12)
        coarse = coarser(fine, 101)
        self.assertIs(coarser(fine, 801), fine)
        self.assertEqual(sheet(coarse).shape, (61, 101))
        np.testing.assert_allclose(sheet(coarse), sheet(fine)[::8, ::8], atol=1e-5)

    def test_grid_normals_are_those_of_the_slope(self):
        plan = GroundPlan(width=10, depth=10, amount=0)
        x, z = axes(plan)
        mesh = ground_mesh(plan, np.tile(x, (len(z), 1)))
        np.testing.assert_allclose(mesh.normals, np.tile([-(0.5**0.5), 0.5**0.5, 0], (len(mesh.normals), 1)), atol=1e-5)

    def test_image_gives_its_heights_where_its_pixels_are(self):
        image = np.linspace(0, 1, 101)[None, :].repeat(51, axis=0)
        plan = GroundPlan(width=20, depth=10, amount=0, image_height=8)
        found = at(plan, heights(plan, image), [-10, 0], [0, 3], [10, 0])
        np.testing.assert_allclose(found, [0, 4, 8], atol=1e-6)
        half = plan.model_copy(update={"image_crop": (0.5, 0.0, 1.0, 1.0)})
        self.assertAlmostEqual(at(half, heights(half, image), [-10, 0])[0], 4.0, delta=0.05)

    def test_smoothing_takes_the_steps_of_eight_bits(self):
        ramp = np.round(np.linspace(0, 0.05, 400) * 255) / 255
        image = ramp[None, :].repeat(40, axis=0)
        plan = GroundPlan(width=40, depth=4, cell=0.1, amount=0, image_height=100)
        rough = np.abs(np.diff(heights(plan, image)[10], n=2)).max()
        smooth = np.abs(np.diff(heights(plan.model_copy(update={"image_smooth": 1.5}), image)[10], n=2)).max()
        self.assertLess(smooth, rough * 0.1)

    def test_ridged_is_sharper_and_keeps_its_height(self):
        plan = GroundPlan(width=40, depth=40, amount=4, feature=10)
        soft, sharp = heights(plan), heights(plan.model_copy(update={"ridged": 1.0}))
        self.assertLess(abs(soft.mean() - sharp.mean()), 0.6)
        bend = lambda y: np.abs(np.diff(y, n=2, axis=0))  # noqa: E731
        self.assertGreater(np.quantile(bend(sharp), 0.999), 1.5 * np.quantile(bend(soft), 0.999))


class Strokes(unittest.TestCase):
    def setUp(self):
        self.plan = GroundPlan(width=20, depth=20, cell=0.1, amount=0)
        self.x, self.z = axes(self.plan)
        self.flat = heights(self.plan)

    def after(self, touch, y=None):
        return sculpt(self.flat if y is None else y, self.x, self.z, touch)

    def test_raise_and_lower_by_the_amount_in_the_core_and_nothing_beyond_the_radius(self):
        up = self.after(stroke("raise", amount=0.7))
        np.testing.assert_allclose(at(self.plan, up, [0, 0], [0.9, 0], [2.05, 0]), [0.7, 0.7, 0], atol=1e-9)
        np.testing.assert_allclose(self.after(stroke("lower", amount=0.7), up), self.flat, atol=1e-9)

    def test_flatten_reaches_its_level(self):
        rough = heights(self.plan.model_copy(update={"amount": 2.0}))
        done = self.after(stroke("flatten", level=1.25), rough)
        self.assertAlmostEqual(at(self.plan, done, [0.3, 0.4])[0], 1.25)
        np.testing.assert_array_equal(done[:50], rough[:50])

    def test_smooth_and_erode_lower_what_is_rough_and_erosion_keeps_mass(self):
        spike = self.flat.copy()
        spike[98:103, 98:103] = 3.0
        for action in ("smooth", "erode"):
            done = self.after(stroke(action, radius=3), spike)
            self.assertLess(done.max(), 2.5)
        done = self.after(stroke("erode", radius=5, falloff=0.0), spike)
        self.assertAlmostEqual(done.sum(), spike.sum(), delta=1e-6 * spike.sum())

    def test_roughen_is_the_same_every_time(self):
        one, two = (self.after(stroke("roughen", amount=0.4)) for _ in range(2))
        np.testing.assert_array_equal(one, two)
        self.assertGreater(one.std(), 0)

    def test_a_stroke_keeps_its_roughness_whatever_it_is_called(self):
        one = self.after(stroke("roughen", amount=0.4, name="stroke"))
        other = self.after(stroke("roughen", amount=0.4, name="by the gate"))
        np.testing.assert_array_equal(one, other)

    def test_one_more_stroke_hashes_no_more_than_its_block_and_does_no_other_again(self):
        site = small_site()
        for number in range(40):
            site.put(f"t{number:02}", stroke("raise", amount=0.01, order=number))
        scene = scene_of(site)
        with mock.patch.object(land._sculpted, "needs", wraps=land._sculpted.needs) as hashed:
            land.heights(scene)
            scene.mesh.ref("ground"), land.bare_ref(scene)
        self.assertEqual(hashed.call_count, 3)
        site.put("t99", stroke("raise", amount=0.01, order=99))
        with mock.patch("cenote_core.scene.land.sculpt", wraps=land.sculpt) as done:
            land.heights(scene_of(site))
        self.assertEqual(done.call_count, 40 % 16 + 1)

    def test_many_strokes_survive_a_change_of_the_fractal(self):
        site = small_site(cell=0.25)
        for k in range(40):
            site.put(f"t{k:02}", stroke("raise", amount=0.1, order=k, points=[(3, 0, 3)], radius=1, falloff=0))
        self.assertAlmostEqual(at(site.ground, land.heights(scene_of(site)), [3, 3])[0], 4.0, places=6)
        site.ground = site.ground.model_copy(update={"amount": 1.0, "seed": 9})
        bare = heights(site.ground)
        after = land.heights(scene_of(site))
        self.assertAlmostEqual(at(site.ground, after - bare, [3, 3])[0], 4.0, places=6)
        site.touches["t05"] = site.touches["t05"].model_copy(update={"visible": False})
        self.assertAlmostEqual(at(site.ground, land.heights(scene_of(site)) - bare, [3, 3])[0], 3.9, places=6)


class Following(unittest.TestCase):
    def test_a_piece_rises_with_the_ground_it_was_set_down_on(self):
        site = small_site()
        site.put("crate", PiecePlan(name="c", asset="crate", position=(3, 0.1, 3), ground_at=0.0))
        site.put("free", PiecePlan(name="f", asset="crate", position=(3, 0.1, 3)))
        site.ground = site.ground.model_copy(update={"forms": [Mound(centre=(3, 3), radius=3, height=1.5)]})
        scene = scene_of(site)
        self.assertAlmostEqual(scene.position("crate")[1], 1.6, places=2)
        self.assertAlmostEqual(scene.position("free")[1], 0.1)

    def test_a_pad_levels_the_ground_under_a_turned_piece(self):
        site = small_site(cell=0.1, amount=0.8, feature=4)
        site.put("tank", PiecePlan(name="t", asset="crate", position=(2, 1.0, 2), turn=30, size=3))
        site.ground = site.ground.model_copy(update={"forms": [Pad(piece="tank", margin=0.2, blend=1)]})
        scene = scene_of(site)
        mesh = scene.mesh("tank")
        under = at(site.ground, land.heights(scene), *mesh.positions[:, [0, 2]])
        np.testing.assert_allclose(under, mesh.bounds()[0][1], atol=0.01)
        bare = heights(site.ground)
        np.testing.assert_array_equal(land.heights(scene)[:20], bare[:20])

    def test_a_pad_of_a_missing_piece_does_nothing(self):
        site = small_site(amount=0.5)
        site.ground = site.ground.model_copy(update={"forms": [Pad(piece="gone")]})
        np.testing.assert_array_equal(land.heights(scene_of(site)), heights(site.ground))


class Water_(unittest.TestCase):
    def test_shore_of_a_bowl_is_a_circle(self):
        site = small_site(width=20, depth=20, cell=0.1)
        site.ground = site.ground.model_copy(
            update={"forms": [Mound(centre=(0, 0), radius=8, height=-2), Water(centre=(0, 0), level=-1.0)]}
        )
        lines, pools = land.shores(scene_of(site))
        self.assertEqual((len(lines), len(pools)), (1, 1))
        np.testing.assert_allclose(np.hypot(lines[0][:, 0], lines[0][:, 2]), 4.0, atol=0.02)

    def test_water_without_a_hollow_is_none(self):
        site = small_site()
        site.ground = site.ground.model_copy(update={"forms": [Water(centre=(0, 0), level=-1.0)]})
        self.assertEqual(land.shores(scene_of(site))[0], [])


class GroundSurfaces(unittest.TestCase):
    def test_shares_sum_to_one_and_follow_rules_and_strokes(self):
        site = small_site(width=16, depth=16)
        rules = [HeightRule(gate=gate(0.5, 0.5, 99, 99))]
        layers = [
            GroundLayer(key="gravel", rules=rules),
            GroundLayer(key="rock", rules=[SlopeRule(gate=gate(80, 80, 90, 90))]),
        ]
        site.ground = site.ground.model_copy(
            update={"layers": layers, "forms": [Mound(centre=(4, 4), radius=3, height=2)]}
        )
        touch = TouchPlan(target="ground.rock", points=[(-5, 0, -5)], radius=1, strength=1, falloff=0)
        site.put("t", touch)
        found = shares(scene_of(site))
        np.testing.assert_allclose(sum(found.values()), 1.0, atol=1e-5)
        side = found["ground"].shape[0]
        read = lambda name, x, z: found[name][int((z / 16 + 0.5) * side), int((x / 16 + 0.5) * side)]  # noqa: E731
        self.assertEqual(read("gravel", 4, 4), 1.0)
        self.assertEqual(read("gravel", -2, -2), 0.0)
        self.assertEqual(read("rock", -5, -5), 1.0)
        self.assertEqual(read("ground", 0, 0), 1.0)


if __name__ == "__main__":
    unittest.main()
