"""Proofs: what is in the picture and its passes; materials and kit that go into it."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image

from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import CATALOGUE as ASSETS
from cenote_core.light.sky import make_sky, sun_direction
from cenote_core.materials.catalogue import CATALOGUE as MATERIALS
from cenote_core.mesh import engine
from cenote_core.mesh.unwrap import unwrap
from cenote_core.plan import GroundPlan, LightPlan, StationPlan
from cenote_core.proofs.assemble import ROUGH, SQUARES, before_camera, ground_meshes, map_side, within_room
from cenote_core.proofs.camera import field_of_view, in_view
from cenote_core.proofs.render import ProofSettings, render_proof
from cenote_core.proofs.tone import neutral, to_screen

from .helpers import CACHE, scene_of, sheet, small_site


class Proof(unittest.TestCase):
    def test_picture_and_passes(self):
        site = small_site()
        site.light = LightPlan(azimuth=200, elevation=40, cloud=0.1, haze=0)
        site.put("s", StationPlan(name="s", position=(0, 1.2, 6), target=(0, 0.9, -2)))
        stages = []
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            result = render_proof(
                scene_of(site),
                ProofSettings(station="s", width=96, height=64),
                folder,
                lambda s, x: stages.append((s, x)),
            )
            picture = np.asarray(Image.open(folder / "picture.png"), float)
            channels = OpenEXR.File(str(folder / "passes.exr"), separate_channels=True).channels()
        self.assertEqual(picture.shape, (64, 96, 3))
        depth, normal = channels["depth.Z"].pixels, channels["normal.Z"].pixels
        # The wall's face stands about 7.9 m before the eye and looks at it; the sky has no depth.
        self.assertAlmostEqual(float(depth[34, 48]), 7.85, delta=0.25)
        self.assertGreater(float(normal[34, 48]), 0.85)
        self.assertEqual(float(depth[2, 48]), 0.0)
        sky, wall = picture[2:8].mean(axis=(0, 1)), picture[32:38, 40:56].mean(axis=(0, 1))
        self.assertGreater(sky[2], sky[0])
        self.assertTrue((wall > 40).all() and (wall < 235).all(), wall)
        self.assertGreater(picture[30:40, 30:66].std(), 8)
        for name in ("R", "colour.G", "normal.Y"):
            self.assertTrue(np.isfinite(channels[name].pixels).all(), name)
        shares = [share for _, share in stages]
        self.assertEqual(shares, sorted(shares))
        self.assertEqual(set(result["files"]), {"picture.png", "passes.exr"})

    def test_cancelling_reaches_the_caller(self):
        class Stop(Exception):
            pass

        def report(stage, share):
            raise Stop

        site = small_site()
        site.put("s", StationPlan(name="s"))
        with tempfile.TemporaryDirectory() as name, self.assertRaises(Stop):
            render_proof(scene_of(site), ProofSettings(station="s", width=64, height=64), Path(name), report)


class GroundBeforeTheCamera(unittest.TestCase):
    def test_it_lies_within_the_sheet_and_holds_what_the_camera_stands_before(self):
        ground = GroundPlan(width=50, depth=40)
        draw = np.random.default_rng(2)
        for k in range(120):
            side = SQUARES[k % 2]
            eye, target = draw.uniform((-25, 1, -20), (25, 3, 20), (2, 3))
            station = StationPlan(name="s", position=tuple(eye), target=tuple(target))
            low, high = before_camera(ground, station, side)
            np.testing.assert_allclose(high - low, side)
            self.assertTrue((low >= [-25, -20]).all() and (high <= [25, 20]).all())
            ahead = (target - eye)[[0, 2]]
            seen = eye[[0, 2]] + 4 * ahead / np.linalg.norm(ahead)
            if (np.abs(seen) < [25, 20]).all():
                self.assertTrue(((seen >= low) & (seen <= high)).all(), (eye, target))

    def test_a_small_sheet_is_all_of_it(self):
        station = StationPlan(name="s", position=(0, 2, 6), target=(0, 0, 0))
        low, high = before_camera(GroundPlan(width=8, depth=11), station, 12)
        np.testing.assert_array_equal([low, high], [[-4, -5.5], [4, 5.5]])

    def test_looking_straight_down_there_is_ground_too(self):
        station = StationPlan(name="s", position=(3, 9, 2), target=(3, 0, 2))
        low, high = before_camera(GroundPlan(width=50, depth=40), station, 12)
        np.testing.assert_allclose((low + high) / 2, [3, 2], atol=12)

    def test_maps_of_a_piece_are_as_fine_as_the_picture_where_it_is_nearest(self):
        floor = sheet(4, 8.0)
        station = StationPlan(name="s", position=(4, 2, 4), target=(4, 0, 4.001), lens=18)
        # Straight above: 64 m² two metres below, of which 1000 pixels show a width of four.
        texel = np.sqrt(64 / 0.67) / map_side(floor, station, (1000, 1000), 8192)
        self.assertTrue(0.5 * 0.004 <= texel <= 0.004)
        self.assertEqual(map_side(floor, station, (1000, 1000), 512), 512)
        higher = station.model_copy(update={"position": (4, 32, 4)})
        self.assertEqual(map_side(floor, station, (1000, 1000), 8192), 16 * map_side(floor, higher, (1000, 1000), 8192))
        away = station.model_copy(update={"target": (4, 9, 4.001)})
        self.assertEqual(map_side(floor, away, (1000, 1000), 8192), 128)

    def test_many_pieces_that_are_near_share_the_room_there_is(self):
        self.assertEqual(within_room([4096, 2048, 128], 4096**2 * 2), [4096, 2048, 128])
        self.assertEqual(within_room([4096, 4096, 2048, 128], 4096**2), [2048, 2048, 2048, 128])
        # As many as there may be, each has what was always there.
        self.assertEqual(within_room([4096] * 30 + [256], 1024**2), [1024] * 30 + [256])
        self.assertEqual(within_room([]), [])

    def test_all_parts_together_are_the_ground(self):
        site = small_site(width=50, depth=40)
        station = StationPlan(name="s", position=(0, 2, 10), target=(0, 0, 0))
        scene = scene_of(site)
        detail = replace(ROUGH, ground_side=64)

        def parts(mi):
            made = ground_meshes(mi, scene, station, detail)
            uv = {k: np.array(mi.traverse(m)["vertex_texcoords"]) for k, m in made.items()}
            return {k: m.face_count() for k, m in made.items()}, uv

        counts, uv = engine.run(parts)
        self.assertEqual(set(counts), {"owner_square_0", "owner_square_1", "owner_ground"})
        self.assertEqual(sum(counts.values()), scene.mesh("ground").triangle_count)
        least, larger = SQUARES[0] ** 2, SQUARES[1] ** 2
        for name, area in (("owner_square_0", least), ("owner_square_1", larger - least)):
            self.assertAlmostEqual(counts[name] / sum(counts.values()), area / (50 * 40), delta=0.03)
        for found in uv.values():
            self.assertTrue(((found > -1e-6) & (found < 1 + 1e-6)).all())


class Light(unittest.TestCase):
    def test_sun_stands_where_it_is_asked(self):
        np.testing.assert_allclose(sun_direction(LightPlan(azimuth=90, elevation=1)), [0.99985, 0.01745, 0], atol=1e-4)
        np.testing.assert_allclose(sun_direction(LightPlan(azimuth=180, elevation=90)), [0, 1, 0], atol=1e-9)

    def test_clear_sky_is_blue_and_brightest_near_the_sun(self):
        plan = LightPlan(azimuth=90, elevation=30, cloud=0, turbidity=2.5)
        image = make_sky(plan).image
        height, width = image.shape[:2]
        row = int((0.5 - 30 / 180) * height)
        luminance = image @ [0.2126, 0.7152, 0.0722]
        self.assertAlmostEqual(np.argmax(luminance[row]) / width, 0.25, delta=0.02)
        overhead = image[: height // 8].mean(axis=(0, 1))
        self.assertGreater(overhead[2], overhead[0] * 1.2)

    def test_overcast_takes_the_edge_off_the_sun(self):
        clear, grey = make_sky(LightPlan(cloud=0)), make_sky(LightPlan(cloud=1))
        self.assertLess(grey.sun_colour.sum(), clear.sun_colour.sum() * 0.15)

    def test_neutral_tone_mapping(self):
        # Below the shoulder only the fixed offset is taken away; peaks are squeezed under 1 (Khronos PBR Neutral).
        np.testing.assert_allclose(neutral(np.array([[0.5, 0.5, 0.5]])), [[0.46] * 3], atol=1e-6)
        self.assertLess(neutral(np.array([[9.0, 9.0, 9.0]])).max(), 1.0)
        self.assertEqual(to_screen(np.zeros((1, 1, 3)), 2.0).tolist(), [[[0, 0, 0]]])

    def test_lens(self):
        self.assertAlmostEqual(field_of_view(18.0), 90.0)
        station = StationPlan(name="s", position=(0, 0, 0), target=(0, 0, -1), lens=18)
        seen = in_view(station, 1.0, np.array([[0, 0, -5], [4, 0, -5], [6, 0, -5], [0, 0, 5]]), 0.1)
        self.assertEqual(seen.tolist(), [True, True, False, False])


class Kit(unittest.TestCase):
    def setUp(self):
        self.kit = BuiltinKit(CACHE)

    def test_every_asset_is_sound(self):
        for key in ASSETS:
            asset = self.kit.asset(key)
            counts = [lod.triangle_count for lod in asset.lods]
            self.assertEqual(counts, sorted(counts, reverse=True), key)
            for lod in asset.lods:
                self.assertTrue(np.isfinite(lod.positions).all() and np.isfinite(lod.uv).all(), key)
                np.testing.assert_allclose(np.linalg.norm(lod.normals, axis=1), 1, atol=1e-3, err_msg=key)
                self.assertLess(lod.faces.max(), len(lod.positions))
                self.assertFalse(set(lod.slot_names) - set(asset.materials), key)
            self.assertGreater(counts[0], 10)
            plain = {m for m in asset.materials.values() if m != f"far.{key}"}
            self.assertFalse(plain - set(MATERIALS), key)

    def test_plants_have_three_levels_and_true_height(self):
        for key, low, high in (("birch_tall", 8.5, 10.5), ("fern_full", 0.4, 0.9), ("grass_mid", 0.25, 0.45)):
            asset = self.kit.asset(key)
            self.assertEqual(len(asset.lods), 4 if ASSETS[key].plant.far else 3)
            self.assertTrue(low < asset.lods[0].bounds()[1][1] < high, key)
        self.assertNotEqual(
            self.kit.asset("birch_tall").lods[0].positions.tobytes(),
            self.kit.asset("birch_mid").lods[0].positions.tobytes(),
        )

    def test_materials_tile_without_a_seam(self):
        for key, recipe in MATERIALS.items():
            material = self.kit.material(key)
            if material.tile <= 0:
                continue
            image = material.colour.astype(float)
            inside = np.abs(np.diff(image, axis=1)).mean()
            across = np.abs(image[:, 0] - image[:, -1]).mean()
            self.assertLess(across, inside * 2.2 + 2, f"{key} left-right")
            down = np.abs(np.diff(image, axis=0)).mean()
            self.assertLess(np.abs(image[0] - image[-1]).mean(), down * 2.2 + 2, f"{key} top-bottom")
            del recipe

    def test_cut_out_pictures_have_both_leaf_and_air(self):
        for key in ("birch_spray", "fern_frond", "bramble_spray", "fallen_leaves", "crack", "leak"):
            alpha = self.kit.material(key).alpha
            self.assertGreater((alpha > 128).mean(), 0.01, key)
            self.assertGreater((alpha < 10).mean(), 0.3, key)

    def test_unwrap_has_no_overlaps(self):
        from cenote_core.mesh.texels import texel_table

        for key in ("platform", "churn", "stone_round"):
            mesh = unwrap(self.kit.asset(key).lods[0])
            table = texel_table(mesh, 512)
            p, t = mesh.positions[mesh.faces].astype(float), mesh.uv2[mesh.faces].astype(float)
            flat = np.abs(np.cross(t[:, 1] - t[:, 0], t[:, 2] - t[:, 0])).sum() / 2 * 512**2
            self.assertAlmostEqual(len(table.index) / flat, 1.0, delta=0.12, msg=key)
            del p
