"""Half-size light lifted by guides: exact where it can be, no light across edges."""

import unittest

import numpy as np

from cenote_core.proofs.upsampling import half_sized, joint_bilateral_upsample


def flat(height=40, width=60, depth=8.0, colour=0.5):
    """Guides of a plain wall that fills the picture."""
    return {
        "colour": np.full((height, width, 3), colour, np.float32),
        "normal": np.broadcast_to(np.float32([0, 0, 1]), (height, width, 3)).copy(),
        "depth": np.full((height, width), depth, np.float32),
        "cover": np.ones((height, width), np.float32),
        "sky_seen": np.zeros((height, width, 3), np.float32),
    }


class Halved(unittest.TestCase):
    def test_means_of_two_by_two(self):
        plane = np.arange(24, dtype=np.float32).reshape(4, 6)
        np.testing.assert_allclose(half_sized(plane), [[3.5, 5.5, 7.5], [15.5, 17.5, 19.5]])

    def test_an_odd_row_and_column_are_not_lost(self):
        plane = np.ones((5, 7, 3), np.float32)
        plane[4], plane[:, 6] = 3.0, 3.0
        small = half_sized(plane)
        self.assertEqual(small.shape, (3, 4, 3))
        np.testing.assert_allclose(small[2], 3.0)
        np.testing.assert_allclose(small[:, 3], 3.0)


class Lifted(unittest.TestCase):
    def test_even_light_on_one_colour_comes_back_exactly(self):
        guides = flat()
        light = np.float32([2.0, 1.5, 0.7])
        full = joint_bilateral_upsample(half_sized(guides["colour"] * light), guides)
        np.testing.assert_allclose(full, guides["colour"] * light, rtol=1e-3)

    def test_the_surface_colour_is_as_sharp_as_the_guides(self):
        rng = np.random.default_rng(1)
        guides = flat()
        guides["colour"] = rng.uniform(0.1, 0.9, (40, 60, 3)).astype(np.float32)
        truth = guides["colour"] * np.float32(1.7)
        small = half_sized(truth)
        error = np.abs(joint_bilateral_upsample(small, guides) - truth) / truth
        self.assertLess(np.median(error), 0.02)
        # Without the guides, each pixel would get the mean of its four.
        blunt = np.repeat(np.repeat(small, 2, axis=0), 2, axis=1)
        self.assertLess(error.mean(), 0.15 * (np.abs(blunt - truth) / truth).mean())

    def test_light_does_not_run_over_a_step_in_depth(self):
        guides = flat()
        guides["depth"][:, 31:] = 16.0
        light = np.where(np.arange(60) < 31, 3.0, 0.2).astype(np.float32)[None, :, None] * np.ones(
            (40, 1, 3), np.float32
        )
        truth = guides["colour"] * light
        full = joint_bilateral_upsample(half_sized(truth), guides)
        # The half-size pixel on the edge holds both; those beside it must not.
        clean = np.r_[0:29, 33:60]
        np.testing.assert_allclose(full[:, clean], truth[:, clean], rtol=0.05)

    def test_light_does_not_run_round_a_corner(self):
        guides = flat()
        guides["normal"][:, 30:] = [1, 0, 0]
        light = np.where(np.arange(60) < 30, 1.0, 0.1).astype(np.float32)[None, :, None] * np.ones(
            (40, 1, 3), np.float32
        )
        truth = guides["colour"] * light
        np.testing.assert_allclose(joint_bilateral_upsample(half_sized(truth), guides), truth, rtol=0.02)

    def test_sky_is_the_sky_itself_and_mixes_by_its_share(self):
        guides = flat()
        sky = np.float32([0.4, 0.6, 1.0])
        share = np.where(np.arange(60) < 30, 1.0, 0.25).astype(np.float32)
        share[50:] = 0.0
        guides["cover"] = np.broadcast_to(share, (40, 60)).copy()
        guides["colour"] *= share[None, :, None]
        guides["depth"] *= guides["cover"]
        guides["sky_seen"] = (1 - guides["cover"])[..., None] * sky
        truth = guides["colour"] * 1.3 + guides["sky_seen"]
        np.testing.assert_allclose(joint_bilateral_upsample(half_sized(truth), guides), truth, rtol=2e-2, atol=1e-4)
        np.testing.assert_allclose(
            joint_bilateral_upsample(half_sized(truth), guides)[:, 52:], np.broadcast_to(sky, (40, 8, 3)), rtol=1e-5
        )

    def test_black_surfaces_and_odd_sizes_give_finite_light(self):
        guides = flat(41, 61, colour=0.0)
        rng = np.random.default_rng(2)
        small = rng.uniform(0, 40, half_sized(guides["colour"]).shape).astype(np.float32)
        full = joint_bilateral_upsample(small, guides)
        self.assertEqual(full.shape, (41, 61, 3))
        self.assertTrue(np.isfinite(full).all())
        self.assertLessEqual(full.max(), 41.0)
