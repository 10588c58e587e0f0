"""Plots: drifts cut into pieces of ground and packed for the plate, against what they were packed from."""

import unittest

import numpy as np

from cenote_core.drifts.instances import Instances, joined
from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.plots import (
    PLOT,
    WHOLE,
    cut,
    near_plots,
    nearest,
    pack_turns,
    packed,
    plot_of,
    plots_of,
    side_of,
    unpack_turns,
    unpacked,
)
from cenote_core.plan import EditPlan, PlacedPlan, PlacedThing
from cenote_core.sampling.points import full_density

from .helpers import drift, rotated, scattered, scene_of, small_site


def planted(plan):
    site = small_site()
    site.put("g", plan)
    return scene_of(site)


class Packing(unittest.TestCase):
    def setUp(self):
        self.before = scattered(5000, 60.0)
        self.after = unpacked(packed(self.before))

    def test_places_are_kept_to_half_a_step_of_the_box(self):
        box = np.ptp(self.before.position, axis=0)
        off = np.abs(self.after.position - self.before.position).max(axis=0)
        self.assertTrue((off <= box / 65535 * 0.51 + 1e-5).all(), off)

    def test_sizes_and_tints_are_kept_to_their_step(self):
        size = np.abs(self.after.scale - self.before.scale).max()
        self.assertLess(size, self.before.scale.max() / 65535)
        self.assertLess(np.abs(self.after.tint - self.before.tint).max(), self.before.tint.max() / 255)

    def test_asset_hand_and_identity_are_kept_exactly(self):
        for name in ("asset", "mirrored", "identity"):
            np.testing.assert_array_equal(getattr(self.after, name), getattr(self.before, name))

    def test_turns_are_off_by_less_than_a_quarter_of_a_degree(self):
        dot = np.abs((self.before.rotation * self.after.rotation).sum(axis=1)).clip(0, 1)
        self.assertLess(np.degrees(2 * np.arccos(dot)).max(), 0.25)

    def test_turns_that_stand_exactly_on_an_axis(self):
        axes = np.concatenate([np.eye(4), -np.eye(4)])
        back = unpack_turns(pack_turns(axes))
        np.testing.assert_allclose(np.abs((axes * back).sum(axis=1)), 1, atol=2e-6)

    def test_twenty_four_bytes_each(self):
        self.assertLess(len(packed(self.before)) / len(self.before), 24.2)

    def test_one_alone_and_all_in_one_place(self):
        one = self.before.taken(np.array([7]))
        np.testing.assert_array_equal(unpacked(packed(one)).position, one.position)
        same = self.before.taken(np.full(9, 3))
        np.testing.assert_allclose(unpacked(packed(same)).position, same.position, atol=1e-6)


class Cutting(unittest.TestCase):
    def setUp(self):
        self.found = scattered(60_000, 90.0)
        self.cells = cut(self.found.position, 0.05)

    def test_every_instance_is_on_just_one_plot(self):
        every = np.concatenate([cell.index for cell in self.cells])
        np.testing.assert_array_equal(np.sort(every), np.arange(len(self.found)))
        self.assertEqual(len({cell.name for cell in self.cells}), len(self.cells))

    def test_plots_hold_what_stands_on_them_in_its_order(self):
        for cell in self.cells:
            self.assertTrue((np.diff(cell.index) > 0).all())
            at = self.found.position[cell.index][:, [0, 2]]
            self.assertTrue((at >= cell.low).all() and (at <= cell.high).all())

    def test_few_make_one_plot_and_none_make_none(self):
        few = self.found.taken(np.arange(WHOLE))
        self.assertEqual([cell.name for cell in cut(few.position, 0.05)], ["all"])
        self.assertEqual(cut(few.position[:0], 0.05), [])

    def test_a_side_is_a_power_of_two_for_about_so_many_places(self):
        for spacing in (0.05, 0.11, 0.3, 1.0, 4.0):
            side = side_of(spacing)
            self.assertEqual(np.log2(side) % 1, 0)
            held = side**2 * full_density(spacing)
            self.assertTrue(held >= PLOT and (held <= 4 * PLOT or side == 1.0), (spacing, held))

    def test_nearest_are_the_nearest_and_no_more_than_asked(self):
        eye = (31.0, 2.0, -12.0)
        near = nearest(self.cells, eye, 20_000)
        self.assertLessEqual(sum(len(cell.index) for cell in near), 20_000)
        chosen = {cell.name for cell in near}
        farthest = max(cell.distance(eye) for cell in near)
        for cell in self.cells:
            if cell.name not in chosen:
                self.assertGreaterEqual(cell.distance(eye), farthest)
        self.assertEqual(len(nearest(self.cells, eye, 1)), 1)
        self.assertEqual(nearest([], eye, 10), [])

    def test_a_change_in_one_place_changes_one_plot(self):
        moved = self.found.position.copy()
        number = int(self.cells[3].index[2])
        moved[number, 1] += 0.4
        other = Instances(**{**vars(self.found), "position": moved})
        before = {plot.cell: plot.version for plot in (plot_of(self.found, cell) for cell in self.cells)}
        after = {plot.cell: plot.version for plot in (plot_of(other, cell) for cell in cut(other.position, 0.05))}
        self.assertEqual([cell for cell in before if before[cell] != after[cell]], [self.cells[3].name])


class OfASite(unittest.TestCase):
    def test_all_plots_together_are_the_drift(self):
        scene = planted(drift(density=4000, spacing=0.02))
        plan = scene.site.drifts["g"]
        plots, places = plots_of(scene, "g", plan)
        found = build_instances(scene, "g", plan)
        self.assertGreater(len(plots), 1)
        self.assertEqual(sum(plot.count for plot in plots), len(found))
        self.assertEqual(places, found.places)
        whole = joined([unpacked(plot.data) for plot in plots])
        order, same = np.argsort(whole.identity), np.argsort(found.identity)
        np.testing.assert_array_equal(whole.identity[order], found.identity[same])
        np.testing.assert_allclose(whole.position[order], found.position[same], atol=1e-3)

    def test_the_plots_near_the_eye_are_those_of_the_whole(self):
        """By rules alone and with what the hand set down, moved and took away; whole where the drift is small."""
        scene = planted(drift(density=4000, spacing=0.02))
        plan = scene.site.drifts["g"]
        whole = build_instances(scene, "g", plan)
        taken = [f"{int(i):016x}" for i in whole.identity[:40]]
        scene.site.put("off", EditPlan(target="g", action="remove", identities=taken, places=[]))
        things = [PlacedThing(asset="grass_low", point=(x, 0, 1)) for x in (-3.0, 0.5, 3.0)]
        scene.site.put("hand", PlacedPlan(target="g", things=things))
        scene = scene_of(scene.site)
        every, places = plots_of(scene, "g", plan)
        by_cell = {plot.cell: plot for plot in every}
        for most, eye in ((9_000, (0.5, 1.0, 1.0)), (20_000, (-4.0, 1.0, 3.0)), (1, (0.0, 1.0, 0.0))):
            near, beyond, at_all = near_plots(scene, "g", plan, eye, most)
            self.assertEqual((at_all.standing, at_all.places), (sum(plot.count for plot in every), places))
            self.assertEqual({plot.cell for plot in near} | {name for name, _ in beyond}, set(by_cell))
            self.assertLessEqual(sum(plot.count for plot in near), max(most, PLOT * 4) + len(things))
            for plot in near:
                # What sinks or leans over the border of a plot may come with the neighbour's.
                self.assertLess(abs(plot.count - by_cell[plot.cell].count), 0.01 * plot.count + 5)
                own, saved = unpacked(plot.data), unpacked(by_cell[plot.cell].data)
                self.assertGreater(np.isin(own.identity, saved.identity).mean(), 0.99)
                self.assertFalse(np.isin(own.identity, whole.identity[:40]).any())
        all_of_it, beyond, _ = near_plots(scene, "g", plan, (0.0, 1.0, 0.0), 10**6)
        self.assertEqual([plot.version for plot in all_of_it], [plot.version for plot in every])
        self.assertEqual(beyond, [])


class Mirrors(unittest.TestCase):
    def test_a_mirrored_one_is_the_other_with_its_own_x_turned_round(self):
        half = np.sqrt(0.5)
        turn = np.array([[0, half, 0, half]])
        plain = rotated(turn, np.array([[1.0, 2.0, 3.0]]))
        over = rotated(turn, np.array([[-1.0, 2.0, 3.0]]), np.array([True]))
        np.testing.assert_allclose(plain, over, atol=1e-6)

    def test_the_share_asked_for_is_mirrored_by_identity(self):
        plan = drift(density=200, spacing=0.05)
        for share in (0.0, 0.3, 1.0):
            varied = plan.model_copy(update={"variety": plan.variety.model_copy(update={"mirrored": share})})
            scene = planted(varied)
            found = build_instances(scene, "g", varied)
            self.assertAlmostEqual(float(found.mirrored.mean()), share, delta=0.03)

    def test_more_mirrored_only_adds_to_those_that_were(self):
        plan = drift(density=200, spacing=0.05)
        found = []
        for share in (0.2, 0.6):
            varied = plan.model_copy(update={"variety": plan.variety.model_copy(update={"mirrored": share})})
            found.append(build_instances(planted(varied), "g", varied))
        np.testing.assert_array_equal(found[0].identity, found[1].identity)
        self.assertFalse((found[0].mirrored & ~found[1].mirrored).any())
        np.testing.assert_array_equal(found[0].rotation, found[1].rotation)
