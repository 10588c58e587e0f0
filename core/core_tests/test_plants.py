"""How plants are grown and drawn: trees, grass, herbs, cards, leaf pictures, and their place in a proof."""

import unittest

import numpy as np
from scipy.cluster.hierarchy import fclusterdata

from cenote_core.drifts.bodies import BANDS, body_of
from cenote_core.drifts.wind import sway_offsets, wind_of
from cenote_core.kit import trees
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.cards import Cards, cards_mesh, direction
from cenote_core.kit.flora import PLANTS
from cenote_core.kit.fronds import bracken, fern
from cenote_core.kit.herbs import Rosette, Stems, dwarf_shrub, herb, mat
from cenote_core.kit.impostor import SIDE, card_outline, impostor_card, impostor_picture
from cenote_core.kit.kit import LOD_REACH
from cenote_core.kit.plants import fallen_twigs
from cenote_core.kit.stones import stone
from cenote_core.materials.drawing import Sheet, outline, placed
from cenote_core.materials.leaves import STYLES, twig_picture
from cenote_core.materials.material import material
from cenote_core.mesh import engine
from cenote_core.mesh.jit import mi
from cenote_core.mesh.mesh import make_mesh
from cenote_core.plan import Pad, StationPlan, WeatherPlan
from cenote_core.proof_scene.detail import ROUGH
from cenote_core.proof_scene.drifts import _levels, _lods, add_drifts
from cenote_core.proof_scene.drifts import placed as placed_triangles
from cenote_core.proof_scene.tables import Shot, Tables
from cenote_core.tracer import reading

from .helpers import CACHE, drift, rotated, scattered, scene_of, small_site


class Trees(unittest.TestCase):
    def test_the_same_seed_grows_the_same_tree_and_another_another(self):
        one, two, other = (trees.tree(trees.BIRCH, seed, 7.0) for seed in (3, 3, 4))
        for a, b in zip(one, two, strict=True):
            self.assertEqual(a.positions.tobytes(), b.positions.tobytes())
        self.assertNotEqual(one[0].positions.tobytes(), other[0].positions.tobytes())

    def test_each_species_has_its_own_habit(self):
        grown = {
            name: trees.tree(getattr(trees, name), 5, 8.0)[0] for name in ("BIRCH", "ALDER", "ROWAN", "PINE", "HAZEL")
        }

        def leaf_heights(mesh):
            leaves = mesh.positions[mesh.faces[mesh.slots == mesh.slot_names.index("leaf")].ravel()]
            return np.quantile(leaves[:, 1], [0.02, 0.5])

        low = {name: leaf_heights(mesh)[0] for name, mesh in grown.items()}
        # A pine carries its crown high, an alder and a hazel are leafed almost to the ground.
        self.assertGreater(low["PINE"], 2.5)
        self.assertLess(max(low["ALDER"], low["HAZEL"]), 1.8)
        for name, mesh in grown.items():
            self.assertAlmostEqual(mesh.bounds()[1][1], 8.0, delta=1.6, msg=name)
            self.assertLess(abs(mesh.bounds()[0][1]), 0.9, name)

    def test_levels_keep_height_and_width_with_a_fraction_of_the_triangles(self):
        fine, middle, coarse = trees.tree(trees.ROWAN, 9, 6.0)
        self.assertLess(middle.triangle_count, 0.35 * fine.triangle_count)
        self.assertLess(coarse.triangle_count, 0.5 * middle.triangle_count)
        for level in (middle, coarse):
            np.testing.assert_allclose(level.bounds()[1][1], fine.bounds()[1][1], rtol=0.15)

    def test_an_old_tree_is_thicker_at_its_foot_than_a_young_one(self):
        radius = {}
        for height in (3.0, 10.0):
            mesh = trees.tree(trees.PINE, 2, height)[0]
            foot = mesh.positions[mesh.positions[:, 1] < 0.05]
            radius[height] = np.hypot(foot[:, 0], foot[:, 2]).max()
        self.assertGreater(radius[10.0], 2 * radius[3.0])

    def test_roots_do_not_sway_and_tips_do(self):
        for mesh in trees.tree(trees.BIRCH, 1, 9.0):
            low, high = mesh.positions[:, 1] < 0.2, mesh.positions[:, 1] > 8
            self.assertLess(mesh.sway[low, 0].max(), 0.01)
            self.assertGreater(mesh.sway[high, 0].min(), 0.65)


class Herbs(unittest.TestCase):
    def test_every_kind_is_sound_at_every_level(self):
        grown = {
            "rosette": herb(1, Rosette(9, 0.2, (0.2, 0.9), 0.4)),
            "stems": herb(2, None, Stems(4, 0.8, 12, 0.1, 0.4, "flower", (0.2, 0.1))),
            "daisy": herb(
                3, Rosette(6, 0.1, (0.2, 0.7), 0.3), Stems(3, 0.4, 2, 0.05, 0.3, "flower", (0.05, 0.05), top_flat=True)
            ),
            "mat": mat(4, 0.3, 120, 0.05, 0.07),
            "bush": dwarf_shrub(5, 0.5, 0.4, 40, 0.2),
            "fern": fern(6, 0.8, 12),
            "bracken": bracken(7, 1.1, 5),
            "twigs": fallen_twigs(7),
            "stone": stone(8),
        }
        for name, levels in grown.items():
            counts = [m.triangle_count for m in levels]
            self.assertEqual(counts, sorted(counts, reverse=True), name)
            for mesh in levels:
                self.assertTrue(np.isfinite(mesh.positions).all(), name)
                np.testing.assert_allclose(np.linalg.norm(mesh.normals, axis=1), 1, atol=1e-3, err_msg=name)
                self.assertGreater(mesh.face_areas().sum(), 0, name)
                self.assertGreater(mesh.positions[:, 1].min(), -0.2, name)

    def test_flowers_sit_on_their_stems(self):
        for mesh in herb(2, None, Stems(1, 0.8, 0, 0.1, 0.4, "flower", (0.2, 0.1), lean=0.0)):
            flower = mesh.positions[mesh.faces[mesh.slots == mesh.slot_names.index("flower")].ravel()]
            stalk = mesh.positions[mesh.faces[mesh.slots == mesh.slot_names.index("blade")].ravel()]
            self.assertAlmostEqual(flower[:, 1].min(), stalk[:, 1].max(), delta=0.03)


class Fronds(unittest.TestCase):
    def test_a_fern_rises_from_one_crown_and_arches_over(self):
        mesh = fern(3, 0.8, 12)[0]
        foot = mesh.positions[(mesh.uv[:, 1] < 0.01) & (mesh.uv[:, 0] == 0.5)]
        self.assertLess(np.hypot(foot[:, 0], foot[:, 2]).max(), 0.05)
        tip, half = (mesh.positions[np.abs(mesh.uv[:, 1] - v) < 0.01] for v in (1.0, 4 / 7))
        # Tips are farther out than the middles of the fronds and no longer much higher.
        self.assertGreater(np.hypot(tip[:, 0], tip[:, 2]).mean(), 1.2 * np.hypot(half[:, 0], half[:, 2]).mean())
        self.assertLess(tip[:, 1].mean(), half[:, 1].mean() * 1.35)

    def test_bracken_bears_its_pinnae_on_bare_stalks_the_lowest_pair_longest(self):
        mesh = bracken(5, 1.2, 1)[0]
        stalk = mesh.positions[mesh.faces[mesh.slots == mesh.slot_names.index("stalk")].ravel()]
        pinnae = mesh.faces[mesh.slots == mesh.slot_names.index("pinna")]
        low = mesh.positions[pinnae.ravel(), 1].min()
        self.assertAlmostEqual(stalk[:, 1].min(), 0, delta=0.02)
        self.assertGreater(low, 0.3)
        reach = mesh.positions[pinnae].reshape(len(pinnae), -1, 3)
        # In the order they are made, pair after pair from the stalk to the tip, eight triangles a pinna.
        across = np.linalg.norm(np.ptp(reach[: 9 * 16].reshape(9, -1, 3), axis=1), axis=1)
        self.assertTrue((np.diff(across) < 0).all(), across)

    def test_fronds_of_bracken_stand_apart(self):
        mesh = bracken(5, 1.2, 6)[0]
        stalk = mesh.positions[mesh.faces[mesh.slots == mesh.slot_names.index("stalk")].ravel()]
        feet = stalk[stalk[:, 1] < 0.01][:, [0, 2]]
        self.assertEqual(fclusterdata(feet, 0.03, "distance", method="single").max(), 6)
        self.assertGreater(np.ptp(feet, axis=0).max(), 0.2)


class CardMeshes(unittest.TestCase):
    def test_a_card_starts_at_its_hinge_and_hangs_at_its_tip(self):
        cards = Cards()
        cards.add(np.array([1.0, 2.0, 3.0]), direction(0.0, 0.0), (0.5, 0.2), 1.0, (1, 1, 1, 0.25))
        mesh = cards_mesh(cards, "leaf", np.zeros(3), 0.2, 0.0, 1, 0.0)
        foot, tip = mesh.positions[mesh.uv[:, 1] == 0], mesh.positions[mesh.uv[:, 1] == 1]
        np.testing.assert_allclose(foot.mean(axis=0), [1, 2, 3], atol=1e-6)
        np.testing.assert_allclose(tip.mean(axis=0), [1.5, 1.9, 3], atol=1e-6)
        self.assertAlmostEqual(np.linalg.norm(foot[0] - foot[1]), 0.2, places=6)
        self.assertEqual(mesh.sway[mesh.uv[:, 1] == 0][:, 2].max(), 0)

    def test_normals_lean_away_from_the_middle_of_the_crown(self):
        rng = np.random.Generator(np.random.Philox(3))
        cards = Cards()
        for _ in range(200):
            out = direction(rng.uniform(0, 6.3), rng.uniform(-1, 1))
            cards.add(out * 2, out, (0.3, 0.3), 1.0, (0, 0, 0, 0))
        mesh = cards_mesh(cards, "leaf", np.zeros(3), 0.1, 0.2, 1, 1.5)
        away = mesh.positions / np.linalg.norm(mesh.positions, axis=1, keepdims=True)
        self.assertGreater(np.einsum("ij,ij->i", mesh.normals, away).min(), 0.0)

    def test_a_vertical_card_has_no_undefined_side(self):
        cards = Cards()
        cards.add(np.zeros(3), np.array([0.0, 1.0, 0.0]), (0.4, 0.1), 1.0, (0, 0, 0, 0))
        self.assertTrue(np.isfinite(cards_mesh(cards, "leaf", np.ones(3), 0.1, 0.1, 1).positions).all())

    def test_an_outline_has_few_corners_and_holds_every_point(self):
        rng = np.random.default_rng(3)
        frame = np.array([(-1.0, 0.0), (1.0, 2.0)])
        for shape in range(12):
            angle = rng.random(300) * 2 * np.pi
            reach = np.sqrt(rng.random(300)) * (0.4 + 0.5 * np.abs(np.cos(shape * angle / 3)))
            points = np.column_stack([reach * np.cos(angle), 1 + reach * np.sin(angle)])
            found = card_outline(points, frame)
            self.assertLessEqual(len(found), 8)
            self.assertTrue((found >= frame[0]).all() and (found <= frame[1]).all())
            along = np.roll(found, -1, axis=0) - found
            away = points[:, None] - found[None]
            inside = along[None, :, 0] * away[..., 1] - along[None, :, 1] * away[..., 0]
            self.assertGreater(inside.min(), -1e-9, shape)

    def test_an_outline_is_not_much_larger_than_what_it_holds(self):
        angle = np.linspace(0, 2 * np.pi, 400)
        disc = np.column_stack([0.9 * np.cos(angle), 1 + 0.9 * np.sin(angle)])
        x, y = card_outline(disc, np.array([(-1.0, 0.0), (1.0, 2.0)])).T
        area = 0.5 * abs(np.dot(x, np.roll(y, -1)) - np.dot(y, np.roll(x, -1)))
        # A regular octagon about a disc is 1.055 times as large, with the room at the edge 1.14; the frame 1.57.
        self.assertLess(area / (np.pi * 0.81), 1.2)

    def test_an_outline_of_points_on_a_line_is_the_frame(self):
        frame = np.array([(-1.0, 0.0), (1.0, 2.0)])
        line = np.column_stack([np.zeros(5), np.linspace(0, 2, 5)])
        np.testing.assert_array_equal(card_outline(line, frame), [(-1, 0), (1, 0), (1, 2), (-1, 2)])

    def test_far_card_of_a_box_spans_it(self):
        box = make_mesh(np.array([(-1, 0, -0.5), (1, 0, 0.5), (1, 3, 0.5)], float), np.array([(0, 1, 2)]))
        card = impostor_card(box)
        np.testing.assert_allclose(card.bounds()[1], [1.02, 3.06, 0.52], atol=1e-5)
        np.testing.assert_allclose(
            np.unique(card.uv[:, 0]), [0.0, 0.5, 0.75 - 0.13 / 1.02, 0.75 + 0.13 / 1.02], atol=1e-5
        )

    def test_cards_show_what_stands_where_it_stands(self):
        plain = material(np.ones((4, 4, 3)), 0.8, np.full((4, 4), 0.5), 0.0, 0.0)
        # Coloured scraps to four sides, high and low, each facing up and sideways.
        middles = np.array([(0.7, 0.1, 0.0), (-0.7, 0.5, 0.0), (0.0, 0.3, 0.7), (0.0, 0.7, -0.7)])
        colours = np.array([(1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 1, 0)], float)
        scrap = 0.12 * np.array([(-1, -1, -1), (1, -1, 1), (0, 1.4, 0), (-1, 0, 1), (1, 0, 1), (0, 0, -1.4)])
        points = (middles[:, None] + scrap).reshape(-1, 3)
        mesh = make_mesh(
            points, np.arange(24).reshape(-1, 3), colour=np.column_stack([np.repeat(colours, 6, axis=0), np.ones(24)])
        )
        for lying in (False, True):
            card, picture = impostor_card(mesh, lying=lying), impostor_picture(mesh, lambda name: plain, lying)
            parts = [np.ones(len(card.uv), bool)] if lying else [card.uv[:, 0] <= 0.5, card.uv[:, 0] >= 0.5]
            for part in parts:
                # Cards are flat, or shallow: where on the picture a place is, is linear in the place.
                flat = np.column_stack([card.positions[part][:, [0, 2] if lying else [0, 1, 2]], np.ones(part.sum())])
                to_uv, *_ = np.linalg.lstsq(flat, card.uv[part].astype(float), rcond=None)
                np.testing.assert_allclose(flat @ to_uv, card.uv[part], atol=1e-6)
                seen = 0
                for middle, colour in zip(middles, colours, strict=True):
                    where = np.append(middle[[0, 2]] if lying else middle, 1.0) @ to_uv
                    row, column = ((1 - where[1]) * SIDE, where[0] * SIDE)
                    found = picture.colour[int(row), int(column)] / 255
                    self.assertEqual(picture.alpha[int(row), int(column)], 255)
                    seen += bool((np.abs(found / max(found.max(), 1e-3) - colour) < 0.1).all())
                # From a side two of them stand before each other.
                self.assertGreaterEqual(seen, 4 if lying else 3)

    def test_blades_thinner_than_a_texel_cover_their_share_of_the_picture(self):
        plain = material(np.ones((4, 4, 3)), 0.8, np.full((4, 4), 0.5), 0.0, 0.0)
        rng = np.random.default_rng(4)
        wide = 2.0 / SIDE * 0.6
        foot, top = np.linspace(-0.95, 0.95, 200), rng.uniform(0.5, 0.98, 200)
        flat = np.zeros(200)
        points = np.stack(
            [np.column_stack([foot + side, at, flat]) for side, at in ((0, flat), (wide, flat), (wide, top), (0, top))],
            axis=1,
        )
        faces = (np.array([(0, 1, 2), (0, 2, 3)])[None] + 4 * np.arange(200)[:, None, None]).reshape(-1, 3)
        picture = impostor_picture(make_mesh(points.reshape(-1, 3), faces), lambda name: plain)
        (left, low), (right, high) = points.reshape(-1, 3)[:, :2].min(axis=0), points.reshape(-1, 3)[:, :2].max(axis=0)
        half = max(-left, right) * 1.02
        covered = picture.alpha[:, : SIDE // 2].mean() / 255 * (2 * half) * (high * 1.02 - min(low, 0.0))
        self.assertAlmostEqual(covered / (wide * top.sum()), 1.0, delta=0.03)

    def test_mats_have_a_card_that_lies_and_grasses_two_that_stand(self):
        kit = BuiltinKit(CACHE)
        for key, form in (("ivy", "lying"), ("clover", "lying"), ("sedge", "crossed"), ("grass_low", "crossed")):
            finest, *_, card = kit.asset(key).lods
            self.assertEqual(PLANTS[key].far, form)
            self.assertLessEqual(card.triangle_count, 12)
            level = np.abs(card.normals[:, 1]).min()
            self.assertTrue(level > 0.9 if form == "lying" else level < 0.9, key)
            self.assertLessEqual(card.bounds()[1][1], finest.bounds()[1][1] * 1.03, key)
            self.assertGreaterEqual(np.ptp(card.positions[:, 0]), 0.97 * np.ptp(finest.positions[:, 0]), key)


class LeafPictures(unittest.TestCase):
    def test_outlines_start_and_end_in_a_point(self):
        rng = np.random.Generator(np.random.Philox(1))
        for kind in ("rhomb", "oval", "round", "strap", "lance"):
            edge = outline(kind, 1.0, 0.5, 9, rng)
            width = edge[len(edge) // 2 :, 0] - edge[: len(edge) // 2][::-1, 0]
            self.assertLess(abs(width[0]), 0.02, kind)
            self.assertLessEqual(np.abs(width).max(), 0.62, kind)

    def test_placing_turns_to_the_left(self):
        found = placed(np.array([[0.0, 1.0]]), np.array([2.0, 3.0]), np.pi / 2)
        np.testing.assert_allclose(found, [[1.0, 3.0]], atol=1e-12)

    def test_a_drawn_square_covers_its_share(self):
        sheet = Sheet(64)
        sheet.polygon(np.array([(0.25, 0.25), (0.75, 0.25), (0.75, 0.75), (0.25, 0.75)]), np.array([0.2, 0.6, 0.1]))
        made = sheet.finished(1, 0.5, 0.4)
        self.assertAlmostEqual(made.alpha.mean() / 255, 0.25, delta=0.02)
        self.assertGreater(made.colour[32, 32, 1], made.colour[32, 32, 0])

    def test_a_bough_shows_smaller_leaves_and_more_of_them(self):
        from scipy.ndimage import distance_transform_edt

        for name in STYLES:
            twig, bough = (twig_picture(256, 3, name, 12, bough=b) for b in (False, True))
            thick = [np.quantile(distance_transform_edt(m.alpha > 128)[m.alpha > 128], 0.9) for m in (twig, bough)]
            if name != "pine":  # needles are a line a pixel wide at either size
                self.assertLess(thick[1], thick[0] + 0.5, name)
            for picture in (twig, bough):
                self.assertTrue(0.08 < (picture.alpha > 128).mean() < 0.85, name)
                self.assertGreater((picture.alpha[-4:, 112:144] > 60).mean(), 0.02, f"{name} starts at the bottom")


class Bodies(unittest.TestCase):
    def test_a_birch_has_a_thin_stem_and_a_wide_crown(self):
        body = body_of(BuiltinKit(CACHE).asset("birch_tall"))
        self.assertEqual(len(body.radii), BANDS)
        self.assertLess(body.stem, 0.35)
        self.assertGreater(body.crown, 1.5)
        self.assertLess(body.radii[0], 0.3 * body.radii[2])

    def test_a_tuft_is_narrower_as_a_body_than_its_longest_blade(self):
        asset = BuiltinKit(CACHE).asset("grass_tall")
        body = body_of(asset)
        self.assertLess(body.radii.max(), asset.footprint)
        np.testing.assert_allclose(body.heights[-1], body.tall * 0.9, rtol=1e-6)


class InAProof(unittest.TestCase):
    def test_rotations_of_many_points(self):
        half = np.sqrt(0.5)
        turned = rotated(np.array([[0, half, 0, half], [0, 0, 0, 1.0]]), np.array([[1.0, 2.0, 0.0]]))
        np.testing.assert_allclose(turned, [[[0, 2, -1]], [[1, 2, 0]]], atol=1e-6)

    def test_triangles_of_instances_are_turned_sized_bent_and_tinted(self):
        asset = BuiltinKit(CACHE).asset("birch_young")
        mesh, found = asset.lods[0], scattered(7, 20)
        wind = wind_of(WeatherPlan(wind=9, wind_from=250, gusts=0.4))
        surfaces = np.arange(5, 5 + len(mesh.slot_names))
        made = placed_triangles(mesh, surfaces, found, wind)
        size = len(mesh.positions)
        tall = float(mesh.bounds()[1][1]) * found.scale.astype(float)
        expected = rotated(found.rotation, mesh.positions, found.mirrored) * found.scale[:, None, None]
        expected = expected + found.position[:, None] + sway_offsets(wind, found.position, tall, mesh.sway)
        np.testing.assert_allclose(made.positions.reshape(7, size, 3), expected, atol=2e-4)
        np.testing.assert_array_equal(made.faces[:, 3].reshape(7, -1), np.tile(surfaces[mesh.slots], (7, 1)))
        normals, colours = engine.run(
            lambda _: (
                np.array(reading.unpacked_normal(mi.UInt32(made.vertices[:, 2].copy()))).T,
                np.array(reading.unpacked_colour(mi.UInt32(made.vertices[:, 3].copy()))).T,
            )
        )
        turned = rotated(found.rotation, mesh.normals, found.mirrored).reshape(-1, 3)
        np.testing.assert_allclose(normals, turned, atol=2e-3)
        tinted = (mesh.colour[None, :, :3] * found.tint[:, None]).reshape(-1, 3)
        np.testing.assert_allclose(colours, tinted, atol=0.006)
        # Faces look where the plant's own do, mirrored or not.
        corners = made.positions[made.faces[:, :3]]
        facing = np.cross(corners[:, 1] - corners[:, 0], corners[:, 2] - corners[:, 0])
        outward = np.einsum("fk,fk->f", facing, normals[made.faces[:, 0]])
        own = mesh.positions[mesh.faces]
        before = np.cross(own[:, 1] - own[:, 0], own[:, 2] - own[:, 0])
        same = np.sign(np.einsum("fk,fk->f", before, mesh.normals[mesh.faces[:, 0]]))
        clear = np.abs(outward) > 1e-7
        agree = np.sign(outward)[clear] == np.tile(same, 7)[clear]
        self.assertGreater(agree.mean(), 0.98)

    def test_in_a_proof_cards_stand_for_plants_of_many_triangles_alone(self):
        kit = BuiltinKit(CACHE)
        for key, levels in (("birch_mid", 4), ("grass_mid", 3), ("stone_round", 3)):
            self.assertEqual(_lods(kit.asset(key)), levels, key)

    def test_levels_of_detail_by_distance_in_own_heights(self):
        from cenote_core.drifts.instancing import build_instances

        site = small_site(width=60, depth=60)
        site.pieces.clear()
        scene = scene_of(site)
        found = build_instances(scene, "d", drift(density=1, headroom=0))
        station = StationPlan(name="s", position=(0, 1.5, 29), target=(0, 0.5, 0))
        height = np.array([0.2])
        level = _levels(scene, station, 1.6, found, height, [3], ROUGH)
        seen = level >= 0
        relative = np.linalg.norm(found.position - [0, 1.5, 29], axis=1) / (0.2 * found.scale) / ROUGH.lod_scale
        np.testing.assert_array_equal(level[seen], np.minimum(np.searchsorted(LOD_REACH, relative[seen]), 2))
        self.assertLess(seen.mean(), 0.8)

    def test_wind_bends_what_a_proof_shows(self):
        site = small_site()
        site.put("d", drift(assets=["rush"], density=2, headroom=0))
        station = StationPlan(name="s", position=(0, 1.5, 9), target=(0, 0.5, 0))
        lean = {}
        for speed in (0.0, 14.0):
            site.weather = WeatherPlan(wind=speed, wind_from=270, gusts=0)
            tables = Tables()
            add_drifts(tables, Shot(scene_of(site), {}, station, (640, 400), ROUGH))
            points = np.concatenate([part.positions for part in tables.parts])
            lean[speed] = points[points[:, 1] > 0.3, 0].mean()
        self.assertGreater(lean[14.0], lean[0.0] + 0.02)

    def test_pads_are_kept_in_a_plan_written_and_read(self):
        site = small_site()
        site.ground = site.ground.model_copy(update={"forms": [Pad(piece="wall")]})
        again = type(site).model_validate(site.model_dump(mode="json"))
        self.assertEqual(again.model_dump(), site.model_dump())


if __name__ == "__main__":
    unittest.main()
