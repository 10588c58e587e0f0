"""Sky and noise: against the published formulas written out, symmetry, warmth of a low sun, seeds."""

import unittest
from functools import cache

import numpy as np

from cenote_core.base.noise import noise
from cenote_core.hashing import hash_combine
from cenote_core.light.radiance import harmonics, shared_exponent
from cenote_core.light.sky import Sky, _preetham, make_sky, sun_direction, texel_directions
from cenote_core.plan import LightPlan

RNG = np.random.Generator(np.random.Philox(12))
LUMINANCE = np.array([0.2126, 0.7152, 0.0722])


@cache
def sky(elevation: float, cloud: float, seed: int = 1) -> Sky:
    """Skies take a while; tests share them."""
    return make_sky(LightPlan(elevation=elevation, cloud=cloud, seed=seed, haze=0.2))


def looking(azimuth, elevation):
    a, e = np.radians(azimuth), np.radians(elevation)
    return np.stack([np.sin(a) * np.cos(e), np.sin(e) + 0 * a, -np.cos(a) * np.cos(e)], axis=-1)


def chromaticity(rgb):
    """CIE x, y of linear sRGB."""
    xyz = np.linalg.solve(
        np.array([[3.2406, -1.5372, -0.4986], [-0.9689, 1.8758, 0.0415], [0.0557, -0.2040, 1.0570]]), rgb
    )
    return xyz[:2] / xyz.sum(), xyz[1]


class Daylight(unittest.TestCase):
    def test_the_zenith_has_the_luminance_and_colour_of_the_paper(self):
        """Preetham, Shirley and Smits 1999, appendix A.2."""
        for turbidity, elevation in ((2.0, 60.0), (3.5, 40.0), (6.0, 25.0)):
            sun = sun_direction(LightPlan(azimuth=0, elevation=elevation))
            s = np.radians(90 - elevation)
            chi = (4 / 9 - turbidity / 120) * (np.pi - 2 * s)
            bright = (4.0453 * turbidity - 4.9710) * np.tan(chi) - 0.2155 * turbidity + 2.4192
            x = (
                (0.00166 * s**3 - 0.00375 * s**2 + 0.00209 * s) * turbidity**2
                + (-0.02903 * s**3 + 0.06377 * s**2 - 0.03202 * s + 0.00394) * turbidity
                + (0.11693 * s**3 - 0.21196 * s**2 + 0.06052 * s + 0.25886)
            )
            up = _preetham(np.array([[0.0, 1.0, 0.0]]), sun, turbidity)[0]
            (found, _), luminance = chromaticity(up)
            self.assertAlmostEqual(luminance, bright, delta=0.01 * bright)
            self.assertAlmostEqual(found, x, delta=0.002)

    def test_a_clear_sky_is_the_same_on_both_sides_of_the_sun(self):
        sun = sun_direction(LightPlan(azimuth=140, elevation=35))
        off, high = RNG.uniform(0, 180, 60), RNG.uniform(3, 85, 60)
        left, right = (_preetham(looking(140 + side * off, high), sun, 3.0) for side in (-1, 1))
        np.testing.assert_allclose(left, right, rtol=1e-9)

    def test_it_pales_toward_the_horizon_and_is_darkest_away_from_the_sun(self):
        sun = sun_direction(LightPlan(azimuth=180, elevation=40))
        bright = lambda az, el: _preetham(looking(np.array([az]), np.array([el])), sun, 2.5)[0] @ LUMINANCE  # noqa: E731
        self.assertGreater(bright(180.0, 50.0), bright(0.0, 50.0) * 1.5)
        self.assertGreater(bright(0.0, 3.0), bright(0.0, 60.0) * 1.5)

    def test_the_lower_the_sun_the_redder_and_weaker(self):
        suns = [sky(e, 0.0).sun_colour for e in (60, 5)]
        warmth = [s[0] / s[2] for s in suns]
        self.assertLess(warmth[0] * 1.3, warmth[1])
        self.assertGreater(suns[0] @ LUMINANCE, 1.3 * (suns[1] @ LUMINANCE))

    def test_cloud_hides_blue_and_the_seed_moves_it(self):
        blue = [float((s.image[:192, :, 2] / s.image[:192, :, 0] > 1.25).mean()) for s in (sky(60, 0.0), sky(60, 0.8))]
        self.assertGreater(blue[0], blue[1] + 0.2)
        self.assertGreater(np.abs(sky(60, 0.8).image - sky(60, 0.8, 2).image).mean(), 0.02)

    def test_land_lies_below_the_horizon_and_no_radiance_is_negative(self):
        found = sky(60, 0.8)
        self.assertTrue(np.isfinite(found.image).all())
        self.assertGreaterEqual(found.image.min(), 0)
        above, below = found.image[768 // 4] @ LUMINANCE, found.image[768 * 5 // 8] @ LUMINANCE
        self.assertLess(below.mean(), 0.6 * above.mean())
        np.testing.assert_allclose(np.linalg.norm(found.sun_direction), 1.0)


def gradient(ix, iy, iz, seed, x, y, z):
    """One of the twelve edges of a cube, chosen by the hash of a lattice point, against an offset."""
    h = np.uint64(seed)
    for i in (ix, iy, iz):
        h = np.uint64(hash_combine(h, np.uint64(i & 0xFFFFFFFFFFFFFFFF)))
    k = int(np.uint64(h) % np.uint64(12))
    a, b = ((x, y), (x, z), (y, z))[0 if k < 4 else 1 if k < 8 else 2]
    return (a if k & 1 else -a) + (b if k & 2 else -b)


def one_octave(p, seed):
    cell = np.floor(p).astype(int)
    inside = p - cell
    fade = inside**3 * (inside * (inside * 6 - 15) + 10)
    total = 0.0
    for corner in np.ndindex(2, 2, 2):
        weight = np.prod(np.where(np.array(corner) == 1, fade, 1 - fade))
        total += weight * gradient(*(cell + corner).tolist(), seed, *(inside - corner))
    return total


class Noise(unittest.TestCase):
    def test_against_the_definition_written_out(self):
        at = RNG.uniform(-40, 40, (60, 3)).astype(np.float32)
        found = noise(at, 3.0, 3, 11)
        for point, value in zip(at.astype(float), found, strict=True):
            waves = [one_octave(point / 3.0 * 2**k, 11 + 7919 * k) * 0.5**k for k in range(3)]
            expected = np.clip(0.5 + 0.9 * sum(waves) / 1.75, 0, 1)
            self.assertAlmostEqual(float(value), float(expected), delta=2e-4)

    def test_it_has_no_preferred_direction(self):
        """Mean squared steps along the axes and the diagonals differ by a few per cent only."""
        at = RNG.uniform(-200, 200, (40_000, 3)).astype(np.float32)
        base = noise(at, 5.0, 1, 3)
        steps = []
        for way in ((1, 0, 0), (0, 1, 0), (0, 0, 1), (1, 0, 1), (1, 1, 1), (1, 0, -1)):
            unit = np.array(way, np.float32) / np.float32(np.linalg.norm(way))
            steps.append(float(((noise(at + unit * np.float32(0.3), 5.0, 1, 3) - base) ** 2).mean()))
        self.assertLess(max(steps) / min(steps), 1.2)

    def test_ridged_has_sharp_crests_and_keeps_its_mean(self):
        line = np.column_stack([np.linspace(0, 400, 40_000), np.full(40_000, 0.37), np.zeros(40_000)]).astype(
            np.float32
        )
        soft, ridged = noise(line, 6.0, 1, 5), noise(line, 6.0, 1, 5, ridged=1.0)
        self.assertAlmostEqual(float(ridged.mean()), 0.5, delta=0.12)
        bend = lambda v: np.abs(np.diff(v.astype(float), 2)).max()  # noqa: E731
        self.assertGreater(bend(ridged), 5 * bend(soft))


if __name__ == "__main__":
    unittest.main()


class Sent(unittest.TestCase):
    @staticmethod
    def read(words):
        """As the specification of OpenGL ES 3.0 reads RGB9_E5."""
        mantissas = np.stack([words >> np.uint32(9 * c) & np.uint32(511) for c in range(3)], axis=-1)
        return mantissas * 2.0 ** ((words >> np.uint32(27)).astype(float) - 24)[..., None], mantissas

    def test_radiance_keeps_nine_bits_at_every_brightness(self):
        image = (np.exp(RNG.uniform(-8, 10, (40, 60, 1))) * RNG.uniform(0.01, 1, (40, 60, 3))).astype(np.float32)
        words = shared_exponent(image)
        again, mantissas = self.read(words)
        half_step = 2.0 ** ((words >> np.uint32(27)).astype(float) - 25)[..., None]
        self.assertTrue((np.abs(again - image) <= half_step * (1 + 1e-9)).all())
        self.assertGreaterEqual(mantissas.max(axis=-1).min(), 256)

    def test_nothing_too_much_and_what_rounds_up(self):
        image = np.array([[(0, 0, 0), (-1, 0, 0), (1e9, 1, 0), (1.9999, 0, 0), (2.0**-20, 0, 0)]], np.float32)
        again, _ = self.read(shared_exponent(image))
        np.testing.assert_allclose(again[0, :, 0], [0, 0, 65408, 2.0, 2.0**-20])

    def test_harmonics_of_plain_skies_are_those_of_the_books(self):
        directions, _ = texel_directions(96, 48)
        x, y, z = np.moveaxis(directions, -1, 0)
        # ∫ f · Y over the sphere, worked out by hand.
        for field, expected in (
            (np.full_like(x, 2.0), {0: 2 * np.sqrt(4 * np.pi)}),
            (y, {1: np.sqrt(4 * np.pi / 3)}),
            (3.0 * x, {3: 3 * np.sqrt(4 * np.pi / 3)}),
            (y * z, {5: np.sqrt(4 * np.pi / 15)}),
            (3 * z * z - 1, {6: np.sqrt(16 * np.pi / 5)}),
        ):
            found = harmonics(field[..., None] * [1.0, 0.5, 0.0], directions)
            wanted = np.zeros(9)
            for k, value in expected.items():
                wanted[k] = value
            np.testing.assert_allclose(found, wanted[:, None] * [1.0, 0.5, 0.0], atol=0.006)
