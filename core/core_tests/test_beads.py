"""Droplets: the shape of one by the theory of capillarity, how many grow and merge, where they form, what they look like."""

import unittest

import numpy as np

from cenote_core.beads.growth import Droplets, covered, grown, steps_until
from cenote_core.beads.landing import landed
from cenote_core.beads.profile import CAPILLARY, SAMPLES, curve_of, foot_of, profiles, volume_of
from cenote_core.beads.shape import bodies, outline_at, outlines, with_memory
from cenote_core.beads.site_droplets import MOST_SEEN, bead_mesh, droplets
from cenote_core.beads.sliding_drops import RECEDES, Running, holds, ran, too_heavy
from cenote_core.kinds import KINDS
from cenote_core.measures.slope import SlopeRule
from cenote_core.mesh.rays import RayScene
from cenote_core.patinas.drawn import inside
from cenote_core.plan import BeadsPlan, PatinaUse, PiecePlan, Region, TouchPlan

from .helpers import gate, scene_of, small_site


def cap(foot, degrees):
    """Volume of a cap of a ball with a foot and a contact angle."""
    c, s = np.cos(np.radians(degrees)), np.sin(np.radians(degrees))
    return np.pi * foot**3 / 3 * (2 - 3 * c + c**3) / s**3


def flat(count, side, seed=1):
    draw = np.random.default_rng(seed)
    at = np.column_stack([draw.random(count) * side, np.zeros(count), draw.random(count) * side])
    return at, np.tile([0, 1.0, 0], (count, 1))


class Shapes(unittest.TestCase):
    def test_small_ones_are_caps_of_balls_and_large_ones_as_high_as_weight_lets_them(self):
        for degrees in (20.0, 60.0, 90.0, 120.0):
            made = profiles(degrees)
            self.assertAlmostEqual(made.volume[0] / cap(made.radius[0], degrees), 1.0, places=3)
            highest = 2 * CAPILLARY * np.sin(np.radians(degrees) / 2)
            # A puddle of finite width is a little higher than one without end.
            self.assertTrue(1.0 <= made.height[-1] / highest < 1.06, (degrees, made.height[-1] / highest))

    def test_the_rim_meets_the_surface_at_the_contact_angle(self):
        for degrees in (30.0, 90.0, 140.0):
            made = profiles(degrees)
            step_out, step_down = made.out[10, -1] - made.out[10, -2], made.down[10, -1] - made.down[10, -2]
            self.assertAlmostEqual(np.degrees(np.arctan2(step_down, step_out)), degrees, delta=3.0)

    def test_foot_and_volume_are_each_others_inverse_and_curves_hold_the_volume(self):
        made = profiles(76.0)
        foot = np.array([2e-5, 3e-4, 1.1e-3, 4e-3, 9e-3])
        volume = volume_of(made, foot)
        np.testing.assert_allclose(foot_of(made, volume), foot, rtol=1e-6)
        out, down = curve_of(made, volume)
        self.assertEqual(out.shape, (5, SAMPLES))
        held = np.pi * np.trapezoid(out**2, down, axis=1)
        np.testing.assert_allclose(held, volume, rtol=0.02)

    def test_no_two_outlines_are_within_two_per_cent(self):
        count = 400
        names = np.random.default_rng(4).integers(0, 2**63, count).astype(np.uint64)
        turn = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        round_ = outline_at(outlines(names, 0.5), turn)
        apart = np.sqrt(np.square(round_[:, None] - round_[None]).mean(axis=2)) + np.eye(count)
        self.assertGreater(apart.min(), 0.004)
        nearest = np.abs(round_[:, None] - round_[None]).max(axis=2) + np.eye(count)
        self.assertGreater(nearest.min(), 0.01)
        self.assertGreater(np.median(nearest.min(axis=1)), 0.02)

    def test_one_that_has_merged_is_longer_the_way_its_parents_lay(self):
        one = Droplets(
            np.zeros((1, 3)), np.array([[0, 1.0, 0]]), np.array([1e-9]), np.array([[0.2, 0, 0]]), np.zeros(1, np.int64)
        )
        made = profiles(80.0)
        mesh = bodies(one, made, 0.0, np.array([3]))
        size = np.ptp(mesh.positions, axis=0)
        self.assertAlmostEqual(size[0] / size[2], 1.2 / 0.8, delta=0.06)
        self.assertTrue((with_memory(np.zeros((1, 2, 5)), one)[0, :, 1:] == 0).all())

    def test_a_body_has_its_volume_and_looks_outward(self):
        volume = np.array([2e-10, 4e-9, 6e-8])
        count = len(volume)
        drops = Droplets(
            np.column_stack([np.arange(count) * 0.05, np.zeros(count), np.zeros(count)]),
            np.tile([0, 1.0, 0], (count, 1)), volume, np.zeros((count, 3)), np.arange(count),
        )  # fmt: skip
        mesh = bodies(drops, profiles(70.0), 0.0, np.full(count, 3))
        a, b, c = mesh.positions[mesh.faces].astype(float).transpose(1, 0, 2)
        self.assertGreater((np.cross(b - a, c - a)[:, 1] > 0).mean(), 0.95)
        # The space over the level of the surface between it and the skin.
        held = (np.cross(b - a, c - a)[:, 1] / 2 * (a + b + c)[:, 1] / 3).sum()
        self.assertAlmostEqual(held / volume.sum(), 1.0, delta=0.06)


class Growth(unittest.TestCase):
    def test_the_share_covered_levels_off_near_0_55(self):
        # Beysens and Knobler 1986: 0.55 while droplets merge, whatever their size.
        at, normal = flat(60_000, 0.1)
        shares = []
        for until in (0.0003, 0.00036, 0.00043):
            found = grown(at, normal, np.zeros(len(at), np.int64), 5e-5, until, 1.0)
            shares.append(covered(np.cbrt(found.volume), 0.01))
        np.testing.assert_allclose(shares, 0.555, atol=0.035)

    def test_merging_keeps_volume_and_the_middle_of_the_water(self):
        at, normal = flat(3000, 0.03)
        begun = grown(at, normal, np.zeros(3000, np.int64), 5e-5, 5e-5, 1.0)
        found = grown(at, normal, np.zeros(3000, np.int64), 5e-5, 3e-4, 1.0)
        self.assertLess(len(found), 0.8 * len(begun))
        # Each site's water has grown alike, so the whole is that of all sites.
        alone = np.cbrt(found.volume).min()
        self.assertAlmostEqual(found.volume.sum() / (3000 * alone**3), 1.0, delta=1e-6)
        middle = (found.at * found.volume[:, None]).sum(axis=0) / found.volume.sum()
        np.testing.assert_allclose(middle, at.mean(axis=0), atol=1e-9)

    def test_none_touch_in_the_end_and_it_comes_out_the_same_again(self):
        at, normal = flat(4000, 0.04)
        start = np.random.default_rng(2).integers(0, steps_until(5e-5, 6e-4), 4000)
        found = grown(at, normal, start, 5e-5, 6e-4, 1.0)
        radius = np.cbrt(found.volume)
        apart = np.linalg.norm(found.at[:, None] - found.at[None], axis=2)
        touch = (apart < radius[:, None] + radius[None]) & ~np.eye(len(radius), dtype=bool)
        self.assertLess(touch.sum() / 2, 0.01 * len(radius))
        again = grown(at, normal, start, 5e-5, 6e-4, 1.0)
        np.testing.assert_array_equal(found.at, again.at)
        self.assertGreater(radius.max() / radius.min(), 8, "sizes of all kinds")

    def test_the_two_sides_of_a_pane_do_not_merge(self):
        at, normal = flat(500, 0.02)
        both = np.concatenate([at, at - [0, 0.0002, 0]]), np.concatenate([normal, -normal])
        one = grown(at, normal, np.zeros(500, np.int64), 5e-5, 4e-4, 1.0)
        two = grown(*both, np.zeros(1000, np.int64), 5e-5, 4e-4, 1.0)
        self.assertAlmostEqual(len(two) / (2 * len(one)), 1.0, delta=0.02)

    def test_nothing_grows_where_there_are_no_sites(self):
        self.assertEqual(len(grown(np.zeros((0, 3)), np.zeros((0, 3)), np.zeros(0, np.int64), 5e-5, 1e-3, 1.0)), 0)


class RunDown(unittest.TestCase):
    """Droplets on a wall half a metre high that faces south."""

    angle = 70.0

    @classmethod
    def setUpClass(cls):
        corners = np.float32([[0, 0, 0], [0.4, 0, 0], [0.4, 0.5, 0], [0, 0.5, 0]])
        cls.wall = RayScene(corners, np.int32([[0, 1, 2], [0, 2, 3]]))

    def drops(self, foot, y, count=60):
        draw = np.random.default_rng(5)
        at = np.column_stack([np.linspace(0.02, 0.38, count), y + 0.02 * draw.random(count), np.zeros(count)])
        volume = volume_of(profiles(self.angle), np.full(count, foot))
        return Droplets(at, np.tile([0, 0, 1.0], (count, 1)), volume, np.zeros((count, 3)), np.arange(count) * 7919)

    def run_for(self, drops, seconds, **how):
        return ran(drops, profiles(self.angle), self.angle, self.wall, Running(seconds, **how))

    def test_furmidge_says_which_hold(self):
        made = profiles(self.angle)
        pull = np.cos(np.radians(self.angle * RECEDES)) - np.cos(np.radians(self.angle))
        np.testing.assert_allclose(holds(np.array([2e-3]), self.angle), 0.0728 * 4e-3 * pull)
        self.assertFalse(too_heavy(self.drops(1.2e-3, 0.4), made, self.angle).any())
        self.assertTrue(too_heavy(self.drops(5e-3, 0.4), made, self.angle).all())
        flat = self.drops(5e-3, 0.4)
        level = Droplets(flat.at, np.tile([0, 1.0, 0], (60, 1)), flat.volume, flat.memory, flat.name)
        self.assertFalse(too_heavy(level, made, self.angle).any(), "on what is level all hold")

    def test_light_ones_stay_where_they_are(self):
        drops = self.drops(1.2e-3, 0.4)
        found = self.run_for(drops, 5.0)
        self.assertIs(found.drops, drops)
        self.assertEqual(len(found.off), 0)

    def test_volume_is_kept_in_drops_trails_and_what_ran_off(self):
        heavy, light = self.drops(4e-3, 0.42, 12), self.drops(1e-3, 0.2, 90)
        names = Droplets.__dataclass_fields__
        both = Droplets(*(np.concatenate([getattr(d, n) for d in (heavy, light)]) for n in names))
        for seconds in (1.0, 4.0, 30.0):
            found = self.run_for(both, seconds)
            there, fell = found.drops.volume.sum(), found.off.volume.sum()
            self.assertAlmostEqual((there + fell) / both.volume.sum(), 1.0, places=9)
        self.assertGreater(fell, 0, "after half a minute some have come to the lower edge")
        self.assertTrue((found.drops.at[:, 1] > -0.001).all())
        np.testing.assert_array_equal(found.drops.at, self.run_for(both, 30.0).drops.at)
        dried = self.run_for(both, 30.0, dries=6.0)
        whole = dried.drops.volume.sum() + dried.off.volume.sum() + dried.dried
        self.assertAlmostEqual(whole / both.volume.sum(), 1.0, places=9)
        self.assertGreater(dried.dried, 0)
        self.assertLess(len(dried.drops), len(found.drops))

    def test_wind_pushes_them_aside_and_no_pull_leaves_them(self):
        heavy = self.drops(4e-3, 0.42, 12)
        middle = lambda **how: float(self.run_for(heavy, 2.0, **how).drops.at[:, 0].mean())  # noqa: E731
        self.assertGreater(middle(wind=(25.0, 0.0, 0.0)), middle() + 0.003)
        self.assertLess(middle(wind=(-25.0, 0.0, 0.0)), middle() - 0.003)
        still = self.run_for(heavy, 5.0, pull=0.0)
        self.assertIs(still.drops, heavy)
        slow, fast = (self.run_for(heavy, 1.0, speed=v).drops.at[:, 1].min() for v in (0.02, 0.08))
        self.assertLess(fast, slow - 0.02)

    def test_wide_ones_part_in_two_and_no_water_is_lost(self):
        wide = self.drops(5.5e-3, 0.44, 3)
        found = self.run_for(wide, 12.0)
        large = np.concatenate([found.drops.volume, found.off.volume]) > 0.08 * wide.volume[0]
        self.assertGreater(int(large.sum()), 3)
        self.assertAlmostEqual((found.drops.volume.sum() + found.off.volume.sum()) / wide.volume.sum(), 1.0, places=9)

    def test_what_falls_off_lies_below_and_what_meets_there_is_one(self):
        floor = np.float32([[-1, -0.4, -1], [1, -0.4, -1], [1, -0.4, 1], [-1, -0.4, 1]])
        below = RayScene(floor, np.int32([[0, 2, 1], [0, 3, 2]]))
        off = self.drops(4e-3, 0.0, 12)
        found = landed(off, profiles(self.angle), below)
        np.testing.assert_allclose(found.at[:, 1], -0.4, atol=1e-6)
        np.testing.assert_allclose(found.normal, [[0, 1, 0]] * len(found), atol=1e-6)
        self.assertAlmostEqual(found.volume.sum() / off.volume.sum(), 1.0, places=9)
        close = self.drops(4e-3, 0.0, 120)
        one = landed(close, profiles(self.angle), below)
        self.assertLess(len(one), 60)
        self.assertAlmostEqual(one.volume.sum() / close.volume.sum(), 1.0, places=9)
        nothing = RayScene(floor + np.float32([9, 0, 0]), np.int32([[0, 2, 1], [0, 3, 2]]))
        self.assertEqual(len(landed(off, profiles(self.angle), nothing)), 0)

    def test_they_go_down_leave_small_beads_and_take_up_what_is_in_their_way(self):
        heavy = self.drops(4e-3, 0.42, 12)
        early, late = (self.run_for(heavy, seconds).drops for seconds in (1.0, 3.0))
        top = lambda found: found.at[np.argsort(-found.volume)[:6], 1].mean()  # noqa: E731
        self.assertLess(top(early), 0.42)
        self.assertLess(top(late), top(early) - 0.01)
        self.assertGreater(len(late), len(early))
        self.assertLess(np.median(late.volume), 0.2 * heavy.volume[0], "a trail of smaller ones")
        below = self.drops(1e-3, 0.3, 200)
        names = Droplets.__dataclass_fields__
        both = Droplets(*(np.concatenate([getattr(d, n) for d in (heavy, below)]) for n in names))
        found = self.run_for(both, 8.0).drops
        kept = np.isin(found.name, below.name).sum()
        self.assertLess(kept, 190)
        self.assertGreater(kept, 40)


class OnASite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.site = small_site()
        cls.site.put("bucket", PiecePlan(name="bucket", asset="bucket", position=(2, 0, 2), foot_width=0.0))

    def plan(self, **more):
        return BeadsPlan(name="dew", size=2.0, between=0.0, uses=[PatinaUse(surface="bucket/zinc")], **more)

    def found(self, plan, site=None):
        return droplets(scene_of(site or self.site), "b", plan, "bucket")[plan.angle or 70.0]

    def test_they_lie_on_the_surface_in_the_sizes_that_are_asked_for(self):
        scene = scene_of(self.site)
        found = self.found(self.plan())
        self.assertGreater(len(found), 500)
        away = scene.pieces_tree(["bucket"]).distance(found.at.astype(np.float32))
        self.assertLess(np.quantile(away, 0.99), 0.0015)
        foot = foot_of(profiles(70.0), found.volume) * 1000
        self.assertTrue(1.2 < np.quantile(foot, 0.9) < 3.5, np.quantile(foot, 0.9))
        mesh = bead_mesh(scene, "b", self.plan(), "bucket")
        low, high = scene.mesh("bucket").bounds()
        self.assertTrue((mesh.positions > low - 0.01).all() and (mesh.positions < high + 0.01).all())

    def test_rules_regions_and_paint_say_where(self):
        whole = len(self.found(self.plan()))
        level = self.found(self.plan(rules=[SlopeRule(gate=gate(0, 0, 20, 25))]))
        self.assertLess(len(level), 0.5 * whole)
        self.assertGreater(np.abs(level.normal[:, 1]).mean(), 0.8)
        region = Region(shape="box", centre=(2, 0.06, 2), width=1, height=0.12, depth=1, soft=0.0)
        low = self.found(self.plan(regions=[region]))
        self.assertTrue(0 < len(low) < whole)
        self.assertLess(low.at[:, 1].max(), 0.125)
        site = small_site()
        site.put("bucket", self.site.pieces["bucket"])
        wipe = TouchPlan(
            name="wiped",
            target="b",
            action="erase",
            owner="bucket",
            points=[(0, 0.1, 0.12)],
            radius=0.08,
            falloff=0,
        )
        site.put("t", wipe)
        wiped = self.found(self.plan(), site)
        near, before = (
            (np.linalg.norm(drops.at - [2, 0.1, 2.12], axis=1) < 0.05).sum()
            for drops in (wiped, self.found(self.plan()))
        )
        # Where two parts of the unwrap meet, a texel of the one may stand for the other.
        self.assertLess(near, 0.08 * before)
        self.assertGreater(len(wiped), 0.6 * whole)

    def test_as_many_are_sent_as_can_be_drawn_even_if_all_are_alike(self):
        scene = scene_of(self.site)
        ground = BeadsPlan(name="mist", size=0.05, between=0, uses=[PatinaUse(surface="ground/ground")])
        mesh = bead_mesh(scene, "b", ground, "ground")
        self.assertTrue(0.9 * MOST_SEEN < len(mesh.faces) <= MOST_SEEN)

    def test_the_share_of_a_region_is_soft(self):
        ball = Region(shape="ball", centre=(0, 0, 0), width=2.0, soft=0.5)
        at = np.array([[0, 0, 0], [0.4, 0, 0], [0.75, 0, 0], [1.01, 0, 0]])
        np.testing.assert_allclose(inside([ball], at), [1, 1, 0.5, 0], atol=1e-9)
        np.testing.assert_array_equal(inside([], at), 1)

    def test_it_says_why_there_are_none_and_how_to_get_some(self):
        effect, scene = KINDS["beads"].effect, scene_of(self.site)
        self.assertGreater(effect(scene, "b", self.plan()).amount, 500)
        self.assertIn("No surface", effect(scene, "b", BeadsPlan(name="dew")).reason)
        gone = BeadsPlan(name="dew", uses=[PatinaUse(surface="nowhere/zinc")])
        self.assertIn("no longer", effect(scene, "b", gone).reason)
        slot = BeadsPlan(name="dew", uses=[PatinaUse(surface="bucket/glass")])
        self.assertIn("no longer", effect(scene, "b", slot).reason)
        away = self.plan(regions=[Region(centre=(50, 50, 50))])
        cured = effect(scene, "b", away)
        self.assertIn("region", cured.reason)
        self.assertGreater(effect(scene, "b", BeadsPlan(**cured.plan)).amount, 0)
        none = self.plan(rules=[SlopeRule(gate=gate(170, 171, 172, 173))])
        self.assertEqual(effect(scene, "b", none).cure, "take the rules off")
