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
from cenote_core.mesh.unwrap import unwrap
from cenote_core.plan import LightPlan, StationPlan
from cenote_core.proof_scene.detail import GOOD
from cenote_core.proofs.prepare import prepare
from cenote_core.proofs.render import ProofSettings, Tracing, Watch, render_proof
from cenote_core.proofs.settings import FILM, GROWING
from cenote_core.proofs.tone import neutral, to_screen
from cenote_core.stations.camera import field_of_view, in_view
from cenote_core.tracer.film import empty_film, load_film, noisy, save_film, tiled

from .helpers import CACHE, scene_of, small_site


def watched(seen=None, **more):
    """Somebody who writes down what he is told."""
    return Watch(lambda stage, share, left: seen is not None and seen.append((stage, share, left)), **more)


def looking_at_the_wall(**light):
    site = small_site()
    site.light = LightPlan(**{"azimuth": 200, "elevation": 40, "cloud": 0.1, "haze": 0, **light})
    site.put("s", StationPlan(name="s", position=(0, 1.2, 6), target=(0, 0.9, -2)))
    return scene_of(site)


GOOD_SOON = replace(GOOD, first=2, most=12, noise=0.05)


def plane(channels, layer, letters="RGB"):
    """(H, W, …) a layer of an EXR."""
    return np.stack([channels[f"{layer}{c}"] for c in letters], -1).astype(float)


def recomposed(channels):
    """The picture made anew of its light, its haze and what falls before it."""
    out = plane(channels, "clean.")
    for layer in ("haze.", "falling."):
        out = out * (1 - plane(channels, layer, "A")) + plane(channels, layer)
    return out


class Proof(unittest.TestCase):
    def proof(self, folder, **settings):
        watch = settings.pop("watch", watched())
        go_on, detail, haze = settings.pop("go_on", False), settings.pop("detail", None), settings.pop("haze", 0)
        asked = ProofSettings(station="s", **{"width": 96, "height": 64, **settings})
        return render_proof(looking_at_the_wall(haze=haze), asked, folder, watch, go_on, detail)

    def held(self, folder):
        """The picture, and the channels of the layers."""
        channels = OpenEXR.File(str(folder / "passes.exr"), separate_channels=True).channels()
        return np.asarray(Image.open(folder / "picture.png"), float), {n: c.pixels for n, c in channels.items()}

    def test_picture_and_passes(self):
        for quality, detail in (("rough", None), ("good", GOOD_SOON)):
            stages = []
            with self.subTest(quality), tempfile.TemporaryDirectory() as name:
                folder = Path(name)
                result = self.proof(folder, quality=quality, detail=detail, watch=watched(stages), haze=0.3)
                picture, channels = self.held(folder)
                self.assertEqual(picture.shape, (64, 96, 3))
                depth, normal = channels["depth.Z"], channels["normal.Z"]
                # The wall's face stands about 7.9 m before the eye and looks at it; the sky has no depth.
                self.assertAlmostEqual(float(depth[34, 48]), 7.85, delta=0.25)
                self.assertGreater(float(normal[34, 48]), 0.85)
                self.assertEqual(float(depth[2, 48]), 0.0)
                sky, wall = picture[2:8].mean(axis=(0, 1)), picture[32:38, 40:56].mean(axis=(0, 1))
                self.assertGreater(sky[2], sky[0])
                self.assertTrue((wall > 40).all() and (wall < 235).all(), wall)
                self.assertGreater(picture[30:40, 30:66].std(), 8)
                for name in ("R", "colour.G", "normal.Y"):
                    self.assertTrue(np.isfinite(channels[name]).all(), name)
                air = recomposed(channels)
                whole = plane(channels, "")
                np.testing.assert_allclose(air, whole, rtol=0.004, atol=0.002)
                self.assertGreater(plane(channels, "haze.", "A").max(), 0)
                shares = [share for _, share, _ in stages]
                self.assertEqual(shares, sorted(shares))
                self.assertEqual(set(result["files"]), {"picture.png", "passes.exr"})
                self.assertFalse((folder / GROWING).exists())

    def test_cancelling_reaches_the_caller(self):
        class Stop(Exception):
            pass

        def report(stage, share, left):
            if stage.startswith("light"):
                raise Stop

        with tempfile.TemporaryDirectory() as name, self.assertRaises(Stop):
            self.proof(Path(name), watch=Watch(report))

    def test_a_part_is_the_same_as_in_the_whole(self):
        frame = (0.25, 0.5, 0.75, 1.0)
        with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as two:
            detail = replace(GOOD_SOON, noise=1e-6, most=6)
            self.proof(Path(one), quality="good", detail=detail)
            result = self.proof(Path(two), quality="good", detail=detail, frame=frame)
            whole, part = self.held(Path(one))[1], self.held(Path(two))[1]
        self.assertEqual((result["width"], result["height"]), (48, 32))
        for name in ("noisy.R", "haze.A", "falling.B", "colour.G", "depth.Z"):
            np.testing.assert_array_equal(part[name], whole[name][32:64, 24:72], name)

    def test_a_rough_part_lies_where_it_was_asked_for(self):
        with tempfile.TemporaryDirectory() as one, tempfile.TemporaryDirectory() as two:
            self.proof(Path(one))
            self.proof(Path(two), frame=(0.26, 0.5, 0.74, 0.98))
            whole, part = self.held(Path(one))[1], self.held(Path(two))[1]
        top, left = 32, 24
        height, width = part["depth.Z"].shape
        np.testing.assert_array_equal(part["depth.Z"], whole["depth.Z"][top : top + height, left : left + width])

    def test_frames_without_room_are_refused_in_words(self):
        for frame in ((0.5, 0, 0.5, 1), (0.9, 0, 0.1, 1), (0, 0, 1, 0.1)):
            with self.assertRaisesRegex(ValueError, "larger"):
                ProofSettings(station="s", width=96, height=64, frame=frame)
        for frame in ((-1, 0, 1, 1), (0, 0, float("nan"), 1), (0, 0, 1)):
            with self.assertRaises(ValueError):
                ProofSettings(station="s", frame=frame)

    def test_it_ends_where_it_is_good_enough_and_goes_on_from_there(self):
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            detail = replace(GOOD_SOON, most=200, noise=1e-4)
            first = self.proof(folder, quality="good", detail=detail, watch=watched(enough=lambda: True))
            self.assertLess(first["samples"], 8)
            before = load_film(folder / FILM, 96, 64)
            second = self.proof(folder, quality="good", detail=replace(GOOD_SOON, noise=1.0), go_on=True)
            after = load_film(folder / FILM, 96, 64)
        self.assertGreater(second["samples"], first["samples"])
        self.assertLess(second["noise"], 0.75 * first["noise"])
        # Gone on with, not begun again: every sum has grown (up to the half floats it was kept in).
        self.assertTrue((after.count >= before.count).all())
        self.assertTrue((after.light >= before.light * 0.998 - 1e-4).all())

    def test_there_is_something_to_see_while_it_is_made(self):
        class Hurried(Tracing):
            def __init__(self, *args):
                super().__init__(*args)
                self._pause = 0.0

        seen = []
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            scene = looking_at_the_wall()
            settings = ProofSettings(station="s", quality="good", width=96, height=64)
            stage = prepare(scene, scene.site.stations["s"], (96, 64), GOOD_SOON)
            look = lambda: seen.append(np.asarray(Image.open(folder / GROWING), float))  # noqa: E731
            clean, _ = Hurried(scene, stage, settings, GOOD_SOON, folder, watched(looked=look)).full(False)
        self.assertGreater(len(seen), 2)
        last = to_screen(clean, 0.0).astype(float)
        apart = [np.abs(picture - last).mean() for picture in seen]
        self.assertLess(apart[-1], apart[0])
        self.assertLess(apart[0], 25)


class Samples(unittest.TestCase):
    """Where samples go, and what is known of the noise that is left."""

    def filled(self, spread, count, seed=1):
        """A film of light 0.3 ± spread (N,), `count` samples a pixel."""
        draw = np.random.default_rng(seed)
        film = empty_film(64, 64)
        light = 0.3 + spread[:, None] * draw.normal(size=(64 * 64, count))
        found = {n: np.zeros((64 * 64 * count, 3)) for n in ("sky_seen", "colour", "normal")}
        found |= {n: np.zeros(64 * 64 * count) for n in ("depth", "cover")}
        found["light"] = np.repeat(light.reshape(-1, 1), 3, axis=1)
        film.add(np.arange(64 * 64, dtype=np.uint32), count, found)
        return film

    def test_noise_is_the_error_that_is_seen(self):
        spread = np.full(64 * 64, 0.06)
        for count in (4, 16, 64):
            film = self.filled(spread, count)
            shown = lambda x: np.maximum(x, 0) ** (1 / 2.2)  # noqa: E731
            error = shown(film.beauty()[..., 1]) - shown(0.3)
            self.assertAlmostEqual(float(film.noise(0.0).mean()), float(error.std()), delta=0.12 * error.std())

    def test_noisy_places_are_chosen_and_no_others(self):
        spread = np.full((64, 64), 0.01)
        spread[20:40, 20:40] = 0.3
        film = self.filled(spread.ravel(), 8)
        chosen = noisy(film, np.arange(64 * 64, dtype=np.uint32), 0.0, 0.03, 100)
        rows, columns = chosen // 64, chosen % 64
        self.assertGreaterEqual(len(chosen), 400)
        self.assertTrue(((rows >= 18) & (rows < 42) & (columns >= 18) & (columns < 42)).all())
        self.assertEqual(len(noisy(film, chosen, 0.0, 0.03, 8)), 0)

    def test_a_film_is_kept_and_taken_up_again(self):
        film = self.filled(np.linspace(0, 0.2, 64 * 64), 5)
        with tempfile.TemporaryDirectory() as name:
            path = Path(name) / "film.npz"
            self.assertIsNone(load_film(path, 64, 64))
            save_film(film, path)
            again = load_film(path, 64, 64)
            self.assertIsNone(load_film(path, 64, 32))
            path.write_bytes(path.read_bytes()[:500])
            self.assertIsNone(load_film(path, 64, 64))
        np.testing.assert_array_equal(again.count, film.count)
        np.testing.assert_allclose(again.beauty(), film.beauty(), rtol=1e-3)
        np.testing.assert_allclose(again.noise(0.0), film.noise(0.0), rtol=0.05, atol=2e-3)

    def test_tiles_name_every_pixel_of_the_box_once(self):
        found = tiled(50, 40, (3, 5, 33, 40))
        self.assertEqual(len(found), 30 * 35)
        rows, columns = np.unique(found) // 50, np.unique(found) % 50
        self.assertEqual((rows.min(), rows.max(), columns.min(), columns.max()), (5, 39, 3, 32))
        first = found[:20]
        self.assertLess(np.ptp(first // 50), 8)

    def test_very_bright_samples_and_broken_ones_do_no_harm(self):
        film = self.filled(np.zeros(64 * 64), 2)
        found = {n: np.zeros((2, 3)) for n in ("sky_seen", "colour", "normal")} | {
            "depth": np.zeros(2),
            "cover": np.zeros(2),
        }
        found["light"] = np.array([[np.inf, 1e9, 0.3], [np.nan, 0.3, 0.3]])
        film.add(np.array([7, 9], np.uint32), 1, found)
        beauty = film.beauty().reshape(-1, 3)
        self.assertTrue(np.isfinite(beauty).all())
        self.assertLessEqual(beauty.max(), 14.0)


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
