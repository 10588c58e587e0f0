"""What the tracer reads: random numbers, packed tables, surfaces under a point, kept trees."""

import unittest
from dataclasses import replace

import numpy as np

from cenote_core.measures.noise import NoiseRule
from cenote_core.mesh import engine
from cenote_core.mesh.jit import dr, mi
from cenote_core.mesh.mesh import Mesh, points_on
from cenote_core.mesh.texels import sample_map
from cenote_core.patinas.bake import _frame_turn, blend_values
from cenote_core.patinas.cover import owner_covers, stack
from cenote_core.plan import GroundLayer, PatinaPlan, PatinaUse, PiecePlan, StationPlan
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proof_scene.owners import add_owners
from cenote_core.proof_scene.tables import Shot, Tables
from cenote_core.surfaces import channels
from cenote_core.tracer import reading
from cenote_core.tracer.bvh_cache import KeptTrees
from cenote_core.tracer.hits import Hit, first_solid, spot_at
from cenote_core.tracer.numbers import hashed, spread_pair, unit
from cenote_core.tracer.tables import (
    LAYER,
    OWN_BASE,
    ROW,
    SURFACE,
    Triangles,
    packed_covers,
    packed_row,
    packed_texels,
    packed_vertices,
)  # fmt: skip
from cenote_core.tracer.world import upload
from cenote_core.weather.exposure import damp_at, exposure_at

from .helpers import gate, one_colour, scene_of, small_site


class Numbers(unittest.TestCase):
    def test_every_power_of_two_samples_fall_one_to_a_box(self):
        def work(_):
            index = mi.UInt32(np.tile(np.arange(64, dtype=np.uint32), 50))
            seed = mi.UInt32(np.repeat(np.arange(50, dtype=np.uint32) * 977, 64))
            return np.stack([np.array(v) for v in spread_pair(index, seed)]).reshape(2, 50, 64)

        x, y = engine.run(work)
        for count in (4, 16, 64):
            for columns in (1, 2, 4, count):
                rows = count // columns
                box = np.floor(x[:, :count] * columns) * rows + np.floor(y[:, :count] * rows)
                self.assertTrue((np.sort(box, axis=1) == np.arange(count)).all(), (count, columns))
        self.assertLess(abs(np.corrcoef(x[:, 0], y[:, 0])[0, 1]), 0.4)
        self.assertGreater(len(np.unique(x[:, 0])), 45)

    def test_hashed_words_are_even(self):
        found = engine.run(lambda _: np.array(unit(hashed(mi.UInt32(np.arange(200_000, dtype=np.uint32))))))
        counts = np.bincount((found * 50).astype(int), minlength=50)
        self.assertLess(float(np.square(counts - 4000).sum() / 4000), 100)
        self.assertTrue((found >= 0).all() and (found < 1).all())


class Packing(unittest.TestCase):
    def test_normals_and_colours_come_back(self):
        draw = np.random.default_rng(4)
        normals = draw.normal(size=(5000, 3))
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        colours = draw.uniform(0, 4, (5000, 3)) ** 2 / 4
        rows = packed_vertices(np.zeros((5000, 2)), normals, colours)

        def work(_):
            one = reading.unpacked_normal(mi.UInt32(rows[:, 2].copy()))
            two = reading.unpacked_colour(mi.UInt32(rows[:, 3].copy()))
            return np.array(one).T, np.array(two).T

        found_normals, found_colours = engine.run(work)
        np.testing.assert_allclose(found_normals, normals, atol=1.5e-4)
        np.testing.assert_allclose(found_colours, colours, atol=0.004)
        dark = colours < 0.05
        np.testing.assert_allclose(found_colours[dark], colours[dark], atol=6e-4)

    def test_rows_refuse_what_they_have_no_word_for(self):
        with self.assertRaises(ValueError):
            packed_row(LAYER, {"colour": 1.0})

    def test_covers_and_texels_are_read_bilinearly(self):
        draw = np.random.default_rng(5)
        covers = draw.random((6, 16, 16)).astype(np.float32)
        material = one_colour((10, 200, 90), 0.4, side=16)
        material.height[:] = draw.integers(0, 256, (16, 16))
        uv = draw.uniform(0.05, 0.95, (4000, 2)).astype(np.float32)
        words = packed_covers(covers)

        def work(_):
            triangle = Triangles(
                np.zeros((3, 3), np.float32),
                np.zeros((3, 4), np.uint32),
                np.array([[0, 1, 2, 0]], np.uint32),
                np.zeros((1, 4), np.float32),
            )
            world = upload(
                triangle,
                packed_texels(material),
                words,
                np.zeros((1, ROW), np.uint32),
                np.zeros((0, 16), np.uint32),
                KeptTrees(0),
            )
            u, v = mi.Float(uv[:, 0].copy()), mi.Float(uv[:, 1].copy())
            read = [
                np.array(
                    reading.cover(
                        world,
                        mi.UInt32(0),
                        mi.UInt32(16),
                        mi.UInt32(k // 4),
                        mi.UInt32(8 * (k % 4)),
                        u,
                        v,
                        mi.Bool(True),
                    )
                )
                for k in range(6)
            ]
            exact = np.array(reading.texel(world, mi.UInt32(0), mi.UInt32(16), u, v, None, mi.Bool(True)).height)
            rough = 0.0
            for k in range(600):
                jitter = (
                    unit(hashed(dr.arange(mi.UInt32, 4000) + 4000 * k)),
                    unit(hashed(dr.arange(mi.UInt32, 4000) + 4000 * (k + 600))),
                )
                rough = (
                    rough
                    + np.array(reading.texel(world, mi.UInt32(0), mi.UInt32(16), u, v, jitter, mi.Bool(True)).height)
                    / 600
                )
            return read, exact, rough

        read, exact, rough = engine.run(work)
        for k in range(6):
            np.testing.assert_allclose(read[k], sample_map(covers[k], uv), atol=0.004)
        flipped = material.height[::-1].astype(np.float32) / 255
        inside = ((uv > 1 / 16) & (uv < 15 / 16)).all(axis=1)
        np.testing.assert_allclose(exact[inside], sample_map(flipped, uv)[inside], atol=2e-3)
        # One texel a read, each as often as it counts: the same in the mean.
        self.assertLess(float(np.abs(rough - exact).mean()), 0.012)
        self.assertLess(abs(float((rough - exact).mean())), 0.002)


def unwrap_directions(mesh):
    """(F, 3) unit directions on each face in which its coordinates grow, u and v, by solving for them face by face."""
    p, uv = mesh.positions[mesh.faces].astype(float), mesh.uv[mesh.faces].astype(float)
    sides = np.stack([p[:, 1] - p[:, 0], p[:, 2] - p[:, 0]], axis=1)
    steps = np.stack([uv[:, 1] - uv[:, 0], uv[:, 2] - uv[:, 0]], axis=1)
    tangents = np.linalg.solve(steps, sides)
    return np.moveaxis(tangents / np.linalg.norm(tangents, axis=2, keepdims=True), 1, 0)


class Surfaces(unittest.TestCase):
    """What the tracer finds at a point and what baked maps are made from is the same."""

    def held_against(self, scene, owner, count=3000):
        tables = Tables()
        meshes = {owner: scene.mesh(owner) for owner in scene.owners()}
        add_owners(
            tables, Shot(scene, meshes, StationPlan(name="s"), (640, 400), replace(ROUGH, page_side=0)), scene.owners()
        )
        arrays = tables.arrays()
        mesh = scene.mesh(owner)
        before = sum(scene.mesh(o).triangle_count for o in scene.owners()[: scene.owners().index(owner)])
        draw = np.random.default_rng(7)
        areas = mesh.face_areas()
        face = draw.choice(len(areas), count, p=areas / areas.sum())
        bary = draw.random((count, 2)).astype(np.float32)
        bary = np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary)
        points = points_on(mesh, face, bary)

        def work(_):
            weather = scene.site.weather
            world = upload(*arrays, trees=KeptTrees(0), fallen=weather.fallen)
            hit = Hit(
                mi.Float(np.ones(count)),
                mi.UInt32((face + before).astype(np.uint32)),
                mi.Float(bary[:, 0].copy()),
                mi.Float(bary[:, 1].copy()),
            )
            toward = mi.Vector3f(-points.normals.T.astype(np.float32))
            spot = spot_at(world, hit, toward, None, mi.Float(0.0), mi.Bool(True))
            return np.array(spot.colour).T, np.array(spot.roughness), np.array(spot.metalness), np.array(spot.normal).T

        colour, rough, metal, normal = engine.run(work)
        w = np.column_stack([1 - bary.sum(axis=1), bary])
        uv = np.einsum("nk,nkc->nc", w, mesh.uv[mesh.faces[face]]).astype(np.float32)
        maps = owner_covers(scene, owner, 1024)
        covers = [
            (plan, np.float32(sample_map(maps[k], points.uv2))) for k, (_, plan) in enumerate(stack(scene, owner))
        ]
        opened = exposure_at(scene, owner, points.uv2)
        up = points.normals[:, 1]
        damp = damp_at(scene, owner, points.uv2)
        expected = blend_values(scene, owner, uv, uv, points.slots, covers, None, None, opened, up, damp)
        np.testing.assert_allclose(colour, expected[:, :3], atol=0.012)
        np.testing.assert_allclose(rough, np.maximum(expected[:, 3], 20 / 255), atol=0.02)
        np.testing.assert_allclose(metal, expected[:, 6], atol=0.01)
        # Slopes run along the faces, which on a rounded edge is not across the smooth normal.
        along, across = (directions[face] for directions in unwrap_directions(mesh))
        leaning = points.normals + along * expected[:, 4:5] + across * expected[:, 5:6]
        leaning /= np.linalg.norm(leaning, axis=1, keepdims=True)
        np.testing.assert_allclose(normal, leaning, atol=0.02)
        return covers, expected

    def test_a_wall_with_two_patinas(self):
        site = small_site()
        rule = NoiseRule(gate=gate(0.3, 0.6, 1, 1))
        for order, name in enumerate(("moss", "grime")):
            plan = PatinaPlan(
                name=name,
                rules=[rule],
                order=order,
                uses=[PatinaUse(surface=ref) for ref in ("wall/stone", "wall/coping")],
            )
            plan.finish.material = name
            plan.finish.stain = 0.4 * order
            site.put(f"p-{name}", plan)
        covers, _ = self.held_against(scene_of(site), "wall")
        self.assertGreater(np.mean([(amount > 0.1).mean() for _, amount in covers]), 0.1)

    def test_a_wall_with_metal_on_it(self):
        """What a patina of metal covers is metal, in so far as it covers it, and what lies on that is not."""
        site = small_site()
        uses = [PatinaUse(surface=f"wall/{slot}") for slot in ("stone", "coping")]
        for order, name in enumerate(("zinc", "grime")):
            rule = NoiseRule(gate=gate(0.3, 0.6, 1, 1), seed=order)
            plan = PatinaPlan(name=name, rules=[rule], order=order, uses=uses)
            plan.finish.material = name
            site.put(f"p-{name}", plan)
        scene = scene_of(site)
        covers, expected = self.held_against(scene, "wall")
        (_, below), (_, above) = covers
        metal = expected[:, 6]
        np.testing.assert_allclose(metal[below == 0], 0, atol=0.01)
        clean = (below > 0.98) & (above == 0)
        self.assertGreater(clean.sum(), 20)
        np.testing.assert_allclose(metal[clean], scene.material("zinc").metalness, atol=0.1)
        hidden = (below > 0.98) & (above > 0.9)
        self.assertGreater(hidden.sum(), 20)
        self.assertLess(metal[hidden].mean(), 0.5 * metal[clean].mean())

    def test_leaves_of_a_plant_that_stands_as_a_piece_are_cut_out(self):
        site = small_site()
        site.put("fern", PiecePlan(name="fern", asset="fern_full", position=(2, 0, 2), foot_width=0.0))
        scene = scene_of(site)
        tables = Tables()
        meshes = {owner: scene.mesh(owner) for owner in scene.owners()}
        shot = Shot(scene, meshes, StationPlan(name="s"), (640, 400), replace(ROUGH, page_side=0))
        add_owners(tables, shot, ["fern"])
        mesh, world = scene.mesh("fern"), tables.arrays()
        draw = np.random.default_rng(3)
        count, above = 4000, 5e-4
        areas = mesh.face_areas()
        face = draw.choice(len(areas), count, p=areas / areas.sum())
        bary = draw.random((count, 2)).astype(np.float32)
        bary = np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary)
        points = points_on(mesh, face, bary)
        straight = mesh.face_normals()[face]

        def work(_):
            reached = upload(*world, trees=KeptTrees(0))
            origin = mi.Point3f((points.positions + above * straight).T.astype(np.float32))
            toward = mi.Vector3f(-straight.T.astype(np.float32))
            return np.array(first_solid(reached, origin, toward, mi.UInt32(5), mi.Bool(True)).distance)

        stopped = engine.run(work) < 2 * above
        alpha = scene.material(scene.seasonal("fern_frond")).alpha
        w = np.column_stack([1 - bary.sum(axis=1), bary])
        uv = np.einsum("nk,nkc->nc", w, mesh.base_uv[mesh.faces[face]])
        # Only where the picture is plainly leaf or plainly not, some texels around.
        across = np.arange(-2, 3)
        side = len(alpha)
        at = np.floor(np.column_stack([uv[:, 0], 1 - uv[:, 1]]) * side).astype(int)
        around = alpha[
            (at[:, 1, None, None] + across[:, None]) % side, (at[:, 0, None, None] + across[None, :]) % side
        ].reshape(count, -1)
        leaf, hole = around.min(axis=1) == 255, around.max(axis=1) == 0
        self.assertGreater(leaf.mean(), 0.1)
        self.assertGreater(hole.mean(), 0.1)
        self.assertGreater(stopped[leaf].mean(), 0.99)
        # Another frond may lie right behind.
        self.assertLess(stopped[hole].mean(), 0.05)

    def test_a_wall_under_a_little_snow(self):
        site = small_site()
        site.weather.snow = 0.8
        _, expected = self.held_against(scene_of(site), "wall")
        white = expected[:, :3].min(axis=1) > 0.7
        self.assertTrue(0.02 < white.mean() < 0.9, "on its top and not on its sides")

    def test_the_same_wall_in_the_rain(self):
        site = small_site()
        site.weather.wetness = 0.8
        plan = PatinaPlan(
            name="moss", amount=0.6, uses=[PatinaUse(surface=f"wall/{slot}") for slot in ("stone", "coping")]
        )
        site.put("p-moss", plan)
        _, expected = self.held_against(scene_of(site), "wall")
        wet = expected[:, channels.WETNESS]
        self.assertTrue(0.05 < (wet == 0).mean() < 0.95 and (wet > 0.5).mean() > 0.05, (wet == 0).mean())

    def test_what_lies_on_it_answers_to_the_weather_in_its_own_way(self):
        """A patina that soaks darkens what does not; one kept free of snow and frost stays bare."""
        site = small_site()
        site.pieces["wall"].soaks = 0.0
        site.weather.wetness, site.weather.frost, site.weather.snow = 0.9, 0.5, 0.6
        plan = PatinaPlan(name="moss", uses=[PatinaUse(surface=f"wall/{slot}") for slot in ("stone", "coping")])
        plan.finish.soaks, plan.finish.takes_snow, plan.finish.takes_frost = 1.0, False, False
        plan.rules = [NoiseRule(gate=gate(0.3, 0.6, 1, 1))]
        site.put("p-moss", plan)
        (covers, expected) = self.held_against(scene_of(site), "wall")
        answer, amount = expected[:, channels.ANSWER], covers[0][1]
        np.testing.assert_allclose(answer[amount == 0], [[0, 0, 0]] * int((amount == 0).sum()))
        np.testing.assert_allclose(answer[amount > 0.97], [[1, 1, 1]] * int((amount > 0.97).sum()), atol=0.1)
        white = expected[:, :3].min(axis=1) > 0.6
        self.assertGreater(white[amount == 0].mean(), 5 * white[amount > 0.97].mean())

    def test_ground_with_a_surface_laid_over_it(self):
        site = small_site()
        layer = GroundLayer(key="gravel", material="gravel", rules=[NoiseRule(gate=gate(0.4, 0.5, 1, 1))])
        site.ground = site.ground.model_copy(update={"layers": [layer]})
        self.held_against(scene_of(site), "ground")


class OwnCoordinates(unittest.TestCase):
    """A base with coordinates of its own leans in their frame, whatever frame patinas are laid in."""

    def quad(self):
        """A level square whose base picture is turned by a quarter against the coordinates of patinas."""
        positions = np.float32([[0, 0, 0], [0, 0, 1], [1, 0, 1], [1, 0, 0]])
        uv = positions[:, [0, 2]] * [1, -1]
        base = np.column_stack([uv[:, 1], -uv[:, 0]])
        faces = np.int32([[0, 1, 2], [0, 2, 3]])
        normals = np.tile(np.float32([0, 1, 0]), (4, 1))
        return Mesh(
            positions,
            faces,
            normals,
            uv.astype(np.float32),
            np.zeros(2, np.int32),
            base_uv=base.astype(np.float32),
            uv2=positions[:, [0, 2]],
        )

    def test_in_the_tracer(self):
        mesh = self.quad()
        leaning = one_colour((120, 120, 120), 0.5, side=4)
        leaning.normal[..., 0] = 191  # half as much along u as out of the surface
        vertices = packed_vertices(mesh.uv, mesh.normals, np.ones((4, 3)))
        seams = np.concatenate([mesh.uv2, mesh.base_uv], axis=1).astype(np.float32)
        faces = np.column_stack([mesh.faces, [0, 0]]).astype(np.uint32)
        row = {"flags": OWN_BASE, "side": 4, "tile": 1, "roughness": 1, "red": 1, "green": 1, "blue": 1, "relief": 1}
        tables = Triangles(mesh.positions, vertices, faces, seams), packed_texels(leaning), np.zeros(0, np.uint32)

        def work(_):
            world = upload(*tables, packed_row(SURFACE, row)[None], np.zeros((0, 16), np.uint32), KeptTrees(0))
            hit = Hit(mi.Float(1.0), mi.UInt32(0), mi.Float(0.3), mi.Float(0.3))
            spot = spot_at(world, hit, mi.Vector3f(0, -1, 0), None, mi.Float(0.0), mi.Bool(True))
            return np.array(spot.normal).ravel()

        found = engine.run(work)
        # The base's u grows where v of the patinas does: toward −z.
        expected = np.array([0, 1, -0.5]) / np.linalg.norm([0, 1, -0.5])
        np.testing.assert_allclose(found, expected, atol=0.01)

    def test_in_flattened_maps(self):
        mesh = self.quad()
        to_uv = _frame_turn(mesh, mesh.base_uv, mesh.uv)
        to_uv2 = _frame_turn(mesh, mesh.uv, mesh.uv2)
        # Leaning along the base's u is leaning along v of the patinas, and against v of the unwrap, which runs with z.
        np.testing.assert_allclose(to_uv @ [1.0, 0.0], [[0, 1]] * 2, atol=1e-6)
        np.testing.assert_allclose(to_uv2 @ (to_uv @ [1.0, 0.0])[..., None], [[[0], [-1]]] * 2, atol=1e-6)


class Trees(unittest.TestCase):
    def test_the_same_triangles_are_built_once_and_room_is_kept(self):
        built = []
        trees = KeptTrees(most_bytes=160 * 25)

        def build(positions, faces):
            built.append(len(faces))
            return object()

        mesh = lambda count, at=0.0: (np.full((3, 3), at, np.float32), np.zeros((count, 3), np.uint32))  # noqa: E731
        first = trees.get(*mesh(10), build)
        self.assertIs(trees.get(*mesh(10), build), first)
        self.assertIsNot(trees.get(*mesh(10, at=1.0), build), first)
        self.assertEqual(built, [10, 10])
        trees.get(*mesh(10, at=2.0), build)
        self.assertLessEqual(trees.held, 160 * 25)
        self.assertIsNot(trees.get(*mesh(10), build), first)
        trees.get(*mesh(100), build)
        trees.trim()
        self.assertEqual(trees.held, 0)
