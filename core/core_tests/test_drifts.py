"""Drifts whole: arrangement, sizes, keep-outs, borders, hand work, twins."""

import unittest

import numpy as np
from scipy.spatial import cKDTree

from cenote_core.drifts.bodies import body_of
from cenote_core.drifts.instancing import build_instances
from cenote_core.drifts.keepouts import free_space
from cenote_core.drifts.manual_edits import line_places
from cenote_core.drifts.places import clumped, ground_faces, places_of
from cenote_core.explained import why_here
from cenote_core.measures.height import HeightRule
from cenote_core.measures.path import path_distance
from cenote_core.measures.slope import SlopeRule
from cenote_core.plan import (
    Arrangement,
    AssetShare,
    Border,
    Cut,
    EditPlan,
    KeepOut,
    LinePlan,
    Match,
    Mound,
    PiecePlan,
    PlacedPlan,
    PlacedThing,
    StationPlan,
    TouchPlan,
    Variety,
)
from cenote_core.snags.drifts import twins
from cenote_core.stations.camera import axes

from .helpers import bare_ground, drift, gate, least_distance, scene_of, small_site


def hexed(identity):
    return [f"{int(i):016x}" for i in identity]


class Arranged(unittest.TestCase):
    def test_chance_lets_them_come_nearer_and_keeps_the_density(self):
        scene = scene_of(bare_ground())
        even = build_instances(scene, "d", drift(density=6, headroom=0))
        loose = build_instances(scene, "d", drift(density=6, headroom=0, arrangement=Arrangement(regularity=0.0)))
        self.assertAlmostEqual(len(even) / 400, 6, delta=0.6)
        self.assertAlmostEqual(len(loose) / 400, 6, delta=0.6)
        near = lambda found: np.quantile(cKDTree(found.position).query(found.position, 2)[0][:, 1], 0.05)  # noqa: E731
        self.assertLess(near(loose), 0.6 * near(even))

    def test_pushed_apart_more_find_room_and_as_many_lie_wider_apart(self):
        scene = scene_of(bare_ground())

        def full(**how):
            how = Arrangement(**how)
            return build_instances(scene, "d", drift(density=1000, spacing=0.3, headroom=0, arrangement=how))

        thrown, even = full(), full(even=True)
        self.assertGreater(len(even), 1.15 * len(thrown))
        as_many = drift(density=len(thrown) / 400 - 0.2, spacing=0.3, headroom=0, arrangement=Arrangement(even=True))
        some = build_instances(scene, "d", as_many)
        least = lambda found: cKDTree(found.position).query(found.position, 2)[0][:, 1].min()  # noqa: E731
        self.assertGreater(least(some), 1.02 * least(thrown))

    def test_large_ones_keep_more_distance(self):
        plan = drift(
            density=40,
            headroom=0,
            arrangement=Arrangement(by_size=True),
            variety=Variety(size_min=0.5, size_max=2.0, sink_max=0.0),
        )
        found = build_instances(scene_of(bare_ground(width=10, depth=10)), "d", plan)
        pairs = cKDTree(found.position).query_pairs(0.4, output_type="ndarray")
        apart = np.linalg.norm(found.position[pairs[:, 0]] - found.position[pairs[:, 1]], axis=1)
        wanted = plan.spacing * (found.scale[pairs[:, 0]] + found.scale[pairs[:, 1]]) / 2
        self.assertGreater(len(found), 500)
        self.assertGreater((apart - wanted).min(), -1e-5)

    def test_by_size_lowering_the_density_only_removes(self):
        scene = scene_of(bare_ground(width=10, depth=10))
        kept = None
        for density in (30, 10, 3, 1):
            plan = drift(density=density, headroom=0, arrangement=Arrangement(by_size=True))
            now = set(build_instances(scene, "d", plan).identity.tolist())
            self.assertTrue(kept is None or now <= kept)
            kept = now

    def test_clumps_are_dense_within_and_thin_between(self):
        plan = drift(density=20, headroom=0, arrangement=Arrangement(clump=3, tightness=1.0))
        scene = scene_of(bare_ground())
        found, everywhere = (
            build_instances(scene, "d", plan),
            build_instances(scene, "d", drift(density=20, headroom=0)),
        )
        share = clumped(found.position, 3, 1.0, plan.seed)
        self.assertGreater(share.min(), 0.0)
        self.assertLess(len(found), 0.75 * len(everywhere))
        counts, *_ = np.histogram2d(found.position[:, 0], found.position[:, 2], bins=20)
        self.assertGreater((counts == 0).mean(), 0.1)

    def test_rows_run_in_their_direction_at_their_distance(self):
        plan = drift(
            density=100,
            spacing=0.5,
            headroom=0,
            arrangement=Arrangement(rows=2.0, heading=90, regularity=1),
            variety=Variety(sink_max=0),
        )
        found = build_instances(scene_of(bare_ground()), "d", plan)
        rest = np.abs(found.position[:, 2] / 2.0 - np.round(found.position[:, 2] / 2.0)) * 2.0
        self.assertLess(rest.max(), 1e-3)
        self.assertGreaterEqual(least_distance(found.position), 0.499)

    def test_border_thins_and_shrinks(self):
        plan = drift(density=20, headroom=0, border=Border(width=4, size=0.3, density=0.2, ragged=0.0))
        found = build_instances(scene_of(bare_ground()), "d", plan)
        edge = 10 - np.abs(found.position[:, [0, 2]]).max(axis=1)
        outer, inner = edge < 0.7, edge > 5
        area_outer, area_inner = 400 - 18.6**2, 100
        self.assertLess(outer.sum() / area_outer, 0.4 * inner.sum() / area_inner)
        self.assertLess(found.scale[outer].mean(), 0.5 * found.scale[inner].mean())

    def test_size_by_place(self):
        rule = HeightRule(gate=gate(0.0, 1.0, 99, 99))
        site = bare_ground(forms=[Mound(centre=(0, 0), radius=6, height=1)])
        found = build_instances(scene_of(site), "d", drift(headroom=0, size_rules=[rule], size_least=0.25))
        flat = np.hypot(found.position[:, 0], found.position[:, 2])
        self.assertAlmostEqual(found.scale[flat < 0.7].mean() / found.scale[flat > 7].mean(), 4.0, delta=0.5)

    def test_ground_faces_are_those_under_the_points(self):
        scene = scene_of(bare_ground(amount=1.0))
        flat = np.random.Generator(np.random.Philox(3)).uniform(-9.9, 9.9, (400, 2))
        face, bary = ground_faces(scene, flat)
        mesh = scene.mesh("ground")
        w = np.column_stack([1 - bary.sum(axis=1), bary])
        self.assertGreater(w.min(), -1e-5)
        found = np.einsum("nk,nkc->nc", w, mesh.positions[mesh.faces[face]])
        np.testing.assert_allclose(found[:, [0, 2]], flat, atol=1e-4)


class Variety_(unittest.TestCase):
    def test_four_assets_repeat_less_than_one_in_a_hundred_within_three_spacings(self):
        mix = ["grass_low", "grass_mid", "grass_tall", "tussock"]
        plan = drift(assets=mix, density=100, headroom=0)
        found = build_instances(scene_of(bare_ground()), "d", plan)
        self.assertLess(twins(found, 3 * plan.spacing).mean(), 0.01)
        shares = np.bincount(found.asset) / len(found)
        np.testing.assert_allclose(shares, 0.25, atol=0.05)

    def test_weights_are_kept(self):
        mix = [
            AssetShare(asset="grass_low", weight=6),
            AssetShare(asset="fern_full", weight=2),
            AssetShare(asset="rush"),
        ]
        found = build_instances(scene_of(bare_ground()), "d", drift(assets=mix, density=10, headroom=0))
        np.testing.assert_allclose(np.bincount(found.asset) / len(found), [6 / 9, 2 / 9, 1 / 9], atol=0.04)

    def test_a_change_of_rules_changes_no_plant_that_stays(self):
        scene = scene_of(bare_ground(amount=1.5))
        before = build_instances(scene, "d", drift(headroom=0))
        after = build_instances(scene, "d", drift(headroom=0, rules=[SlopeRule(gate=gate(0, 0, 2, 5))]))
        self.assertLess(len(after), len(before))
        _, a, b = np.intersect1d(before.identity, after.identity, return_indices=True)
        self.assertEqual(len(b), len(after))
        for name in ("position", "rotation", "scale", "asset", "tint"):
            np.testing.assert_array_equal(getattr(before, name)[a], getattr(after, name)[b], err_msg=name)

    def test_match_to_the_scene(self):
        scene = scene_of(bare_ground())
        plain, matched = (
            build_instances(scene, "d", drift(headroom=0, match=m)) for m in (Match(), Match(gain=0.5, tint="#ff8080"))
        )
        ratio = matched.tint / plain.tint
        np.testing.assert_allclose(ratio, np.tile(ratio[0], (len(ratio), 1)), rtol=1e-4)
        self.assertAlmostEqual(float(ratio[0, 0]), 0.5, places=4)
        self.assertLess(ratio[0, 1], 0.15)


class KeptOut(unittest.TestCase):
    def test_no_body_comes_nearer_to_a_piece_than_the_clearance(self):
        site = small_site()
        keep = KeepOut(of="pieces", clearance=0.15)
        plan = drift(assets=["fern_full", "bramble_low"], density=20, keep_outs=[keep])
        scene = scene_of(site)
        loose = build_instances(scene, "d", plan.model_copy(update={"keep_outs": []}))
        found = build_instances(scene, "d", plan)
        self.assertLess(len(found), len(loose))
        mesh = scene.mesh("wall")
        from cenote_core.mesh.nearest import triangle_tree

        tree = triangle_tree(mesh.positions, mesh.faces)
        bodies = [body_of(scene.kit.asset(a)) for a in ("fern_full", "bramble_low")]
        x, y, z, w = found.rotation.T.astype(float)
        up = np.column_stack([2 * (x * y - z * w), 1 - 2 * (x * x + z * z), 2 * (y * z + x * w)])
        for band in range(5):
            high = np.array([b.heights[band] for b in bodies])[found.asset] * found.scale
            thick = np.array([b.radii[band] for b in bodies])[found.asset] * found.scale
            free = tree.distance(found.position + up * high[:, None]) - thick
            self.assertGreater(free.min(), 0.15 - 0.05)

    def test_what_it_stands_on_is_no_keep_out(self):
        site = small_site()
        plan = drift(surfaces=["wall/coping"], density=30, headroom=0.05, keep_outs=[KeepOut(of="pieces")])
        self.assertGreater(len(build_instances(scene_of(site), "d", plan)), 5)

    def test_ferns_keep_off_birch_stems_and_grass_may_touch(self):
        site = bare_ground()
        trees = drift(name="b", tier="canopy", assets=["birch_young"], density=0.2, spacing=2, headroom=0)
        site.put("b", trees)
        keep = [KeepOut(of="b", clearance=0.4)]
        found = build_instances(scene_of(site), "d", drift(density=20, headroom=0, keep_outs=keep))
        stems = build_instances(scene_of(site), "b", trees)
        distance, _ = cKDTree(stems.position).query(found.position)
        self.assertGreater(distance.min(), 0.4)

    def test_nothing_stands_on_a_path_and_it_is_said_why(self):
        site = bare_ground()
        forms = [Cut(line=[(-7, -2), (0, 1), (7, -1)], width=1.2, depth=0.1, bank=0.4)]
        site.ground = site.ground.model_copy(update={"forms": forms})
        plan = drift(density=25, headroom=0, keep_outs=[KeepOut(of="paths", clearance=0.1)])
        scene = scene_of(site)
        found = build_instances(scene, "d", plan)
        self.assertGreater(path_distance(found.position, forms).min(), 0.1)
        open_ground = build_instances(scene, "d", plan.model_copy(update={"keep_outs": []}))
        on_it = path_distance(open_ground.position, forms) < 0.1
        # Beside the floor nothing is lost but what the stems' own width asks for.
        self.assertGreater(len(found), (~on_it).sum() * 0.95)
        site.put("d", plan)
        verdict = why_here(scene_of(site), "ground", np.array([0.0, 0.0, 1.0]))[0]
        self.assertEqual((verdict.stands, verdict.summary), (False, "Stopped: too near to a path."))

    def test_camera_corridor_is_free(self):
        site = bare_ground()
        station = StationPlan(name="s", position=(0, 0.6, 8), target=(0, 0.4, 0), lens=35)
        site.put("s", station)
        plan = drift(
            assets=["fern_full"], density=10, headroom=0, keep_outs=[KeepOut(of="stations", clearance=0.5, reach=6)]
        )
        found = build_instances(scene_of(site), "d", plan)
        eye, _, _, forward = axes(station)
        t = np.clip((found.position - eye) @ forward, 0, 6)
        off = np.linalg.norm(found.position - eye - t[:, None] * forward, axis=1)
        self.assertGreater(off.min(), 0.5)
        self.assertGreater(len(found), 100)

    def test_a_keep_out_of_something_gone_forbids_nothing(self):
        scene = scene_of(bare_ground())
        plan = drift(headroom=0, keep_outs=[KeepOut(of="no-such-piece")])
        self.assertEqual(len(build_instances(scene, "d", plan)), len(build_instances(scene, "d", drift(headroom=0))))
        free = free_space(
            scene, plan, plan.keep_outs[0], np.zeros((2, 3)), np.ones((2, 3)), np.zeros(2, int), np.ones(2)
        )
        self.assertTrue(np.isinf(free).all())


class DartBatch(unittest.TestCase):
    def setUp(self):
        self.site = bare_ground()
        self.plan = drift(assets=["grass_low", "fern_full"], headroom=0)
        self.site.put("d", self.plan)

    def found(self, plan=None):
        return build_instances(scene_of(self.site), "d", plan or self.plan)

    def test_erasing_leaves_nothing_within_the_radius(self):
        self.site.put("t", TouchPlan(target="d", action="erase", points=[(0, 0, 0)], radius=2, strength=0.2, falloff=1))
        found = self.found()
        self.assertGreater(np.hypot(found.position[:, 0], found.position[:, 2]).min(), 2.0)

    def test_placed_things_stand_whatever_the_rules_say_and_follow_the_ground(self):
        things = [PlacedThing(asset="fern_full", point=(2, 0, 2), turn=90, size=1.7)]
        self.site.put("p", PlacedPlan(target="d", things=things))
        forbidding = self.plan.model_copy(update={"rules": [SlopeRule(gate=gate(80, 80, 90, 90))]})
        found = self.found(forbidding)
        self.assertEqual((len(found), found.asset.tolist()), (1, [1]))
        self.assertAlmostEqual(float(found.scale[0]), 1.7, places=5)
        self.site.ground = self.site.ground.model_copy(update={"forms": [Mound(centre=(2, 2), radius=3, height=1)]})
        self.assertAlmostEqual(float(self.found(forbidding).position[0, 1]), 1.0, places=2)

    def test_a_placed_thing_rides_on_its_piece(self):
        self.site.put("crate", PiecePlan(name="c", asset="crate", position=(1, 0, 1), turn=90))
        self.site.put(
            "p", PlacedPlan(target="d", owner="crate", things=[PlacedThing(asset="grass_low", point=(0.1, 0.4, 0))])
        )
        level = self.plan.model_copy(update={"variety": Variety(sink_min=0, sink_max=0)})
        np.testing.assert_allclose(self.found(level).position[-1], [1, 0.4, 0.9], atol=1e-5)

    def test_lines_by_spacing_number_offset_and_both_sides(self):
        line = LinePlan(target="d", points=[(0, 0, 0), (6, 0, 0), (6, 0, 4)], spacing=0.5, jitter=0)
        flat, heading = line_places(line)
        self.assertEqual(len(flat), 21)
        np.testing.assert_allclose(np.linalg.norm(np.diff(flat, axis=0), axis=1)[:11], 0.5)
        self.assertAlmostEqual(heading[0], np.pi / 2)
        flat, _ = line_places(line.model_copy(update={"count": 5, "offset": 1.0}))
        self.assertEqual(len(flat), 5)
        np.testing.assert_allclose(flat[0], [0, 0, 1])
        flat, _ = line_places(line.model_copy(update={"both_sides": True, "offset": 0.5}))
        self.assertEqual(len(flat), 42)
        square = LinePlan(target="d", points=[(0, 0, 0), (4, 0, 0), (4, 0, 4), (0, 0, 4)], spacing=1.0, closed=True)
        self.assertEqual(len(line_places(square)[0]), 16)

    def test_a_line_faces_along_when_asked(self):
        line = LinePlan(target="d", points=[(0, 0, -5), (0, 0, 5)], face_along=True, jitter=0)
        self.site.put("l", line)
        plan = self.plan.model_copy(update={"density": 0.0, "variety": Variety(lean=0)})
        found = self.found(plan)
        np.testing.assert_allclose(found.rotation, np.tile([0, 0, 0, 1], (len(found), 1)), atol=1e-6)

    def test_changes_and_removals_are_kept_through_every_change_of_rules(self):
        before = self.found()
        near = np.argsort(np.hypot(before.position[:, 0], before.position[:, 2]))[:3]
        ids, places = hexed(before.identity[near]), [tuple(map(float, p)) for p in before.position[near]]
        self.site.put("e1", EditPlan(target="d", identities=ids[:1], places=places[:1], action="remove", order=1))
        self.site.put(
            "e2",
            EditPlan(target="d", identities=ids[1:2], places=places[1:2], move=(0.5, 0, 0), size=2, turn=90, order=2),
        )
        self.site.put("e3", EditPlan(target="d", identities=ids[2:], places=places[2:], action="pin", order=3))
        forbidding = self.plan.model_copy(update={"rules": [SlopeRule(gate=gate(80, 80, 90, 90))]})
        for plan in (self.plan, self.plan.model_copy(update={"density": 20.0, "keep_outs": [KeepOut(of="pieces")]})):
            after = self.found(plan)
            self.assertNotIn(before.identity[near[0]], after.identity)
            moved = np.flatnonzero(after.identity == before.identity[near[1]])
            np.testing.assert_allclose(after.position[moved[0]] - before.position[near[1]], [0.5, 0, 0], atol=1e-5)
            self.assertAlmostEqual(float(after.scale[moved[0]] / before.scale[near[1]]), 2.0, places=4)
        self.assertEqual(self.found(forbidding).identity.tolist(), [before.identity[near[2]]])

    def test_a_removal_is_found_again_by_its_place_when_the_spacing_changes(self):
        before = self.found()
        at = before.position[10]
        edit = EditPlan(
            target="d", identities=hexed(before.identity[10:11]), places=[tuple(map(float, at))], action="remove"
        )
        coarser = self.plan.model_copy(update={"spacing": 0.3, "density": 100.0})
        without = self.found(coarser)
        self.site.put("e", edit)
        self.assertEqual(len(self.found(coarser)), len(without) - 1)

    def test_a_removal_whose_plant_the_rules_took_takes_no_neighbour(self):
        before = self.found()
        edit = EditPlan(
            target="d",
            identities=hexed(before.identity[:1]),
            places=[tuple(map(float, before.position[0]))],
            action="remove",
        )
        thin = self.plan.model_copy(update={"rules": [HeightRule(gate=gate(50, 50, 60, 60))]})
        self.site.put("e", edit)
        self.assertEqual(len(self.found(thin)), 0)
        self.assertEqual(len(self.found()), len(before) - 1)

    def test_replacing_takes_another_asset_of_the_mix_only(self):
        before = self.found()
        ids = hexed(before.identity[:4])
        self.site.put("e", EditPlan(target="d", identities=ids, asset="fern_full"))
        self.assertEqual(self.found().asset[:4].tolist(), [1] * 4)
        self.site.put("e", EditPlan(target="d", identities=ids, asset="boulder"))
        self.assertEqual(self.found().asset[:4].tolist(), before.asset[:4].tolist())


class Places_(unittest.TestCase):
    def test_places_are_the_same_with_one_and_two_threads(self):
        import numba

        scene = scene_of(bare_ground(amount=0.8))
        plan = drift(assets=["grass_low", "fern_full"], arrangement=Arrangement(regularity=0.5, by_size=True), seed=77)
        results = []
        for threads in (1, 2):
            numba.set_num_threads(threads)
            scene.cache.forget()
            found = build_instances(scene, "d", plan)
            results.append(b"".join(getattr(found, n).tobytes() for n in ("position", "rotation", "scale", "asset")))
        self.assertEqual(results[0], results[1])
        self.assertGreater(len(places_of(scene, plan)), 1000)


if __name__ == "__main__":
    unittest.main()
