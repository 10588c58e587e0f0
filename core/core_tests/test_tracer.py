"""The path tracer: held against another integrator, closed forms, and the same surfaces worked out without it."""

import unittest

import numpy as np

from cenote_core.materials.material import srgb_to_linear
from cenote_core.mesh import engine
from cenote_core.mesh.jit import mi
from cenote_core.tracer.bvh_cache import KeptTrees
from cenote_core.tracer.lights import Lamp
from cenote_core.tracer.paths import LIGHT, see, trace, view_of
from cenote_core.tracer.scatter import LOST, SPREAD
from cenote_core.tracer.tables import (
    CUT_OUT,
    FADES,
    SCATTERS,
    SURFACE,
    THIN,
    Triangles,
    joined,
    packed_row,
    packed_texels,
    packed_vertices,
)  # fmt: skip
from cenote_core.tracer.world import sky_of, upload

from .helpers import one_colour

WIDTH, HEIGHT, BOUNCES = 64, 32, 4
SUN, SUN_LIGHT = np.array([0.4, 0.7, 0.5]) / np.linalg.norm([0.4, 0.7, 0.5]), np.array([3.0, 2.8, 2.4])
EYE, FORWARD = np.array([0, 1.5, 5.0]), np.array([0, -0.15, -1.0]) / np.linalg.norm([0, 0.15, 1])
SKY = np.full((16, 32, 3), [0.3, 0.5, 0.9], np.float32)
HALF = np.tan(np.radians(25))


def quad(corner, u, v):
    """Positions, faces, normals and coordinates of a parallelogram."""
    corner, u, v = (np.asarray(x, np.float32) for x in (corner, u, v))
    normal = np.cross(u, v) / np.linalg.norm(np.cross(u, v))
    corners = np.array([corner, corner + u, corner + u + v, corner + v])
    return (
        corners,
        np.array([[0, 1, 2], [0, 2, 3]]),
        np.tile(normal, (4, 1)),
        np.float32([[0, 0], [1, 0], [1, 1], [0, 1]]),
    )


def holes():
    """A picture of which half is air, in squares."""
    y, x = np.mgrid[:32, :32]
    return np.where((x // 4 + y // 4) % 2 == 0, 255, 0).astype(np.uint8)


class Little:
    """A floor, two walls (one of metal) and forty leaves with holes through which light comes."""

    materials = (
        one_colour((180, 150, 120), 0.6),
        one_colour((90, 160, 60), 0.5, holes()),
        one_colour((200, 200, 210), 0.3),
        one_colour((200, 120, 60), 0.35),
    )
    metal, translucent = (0.0, 0.0, 0.0, 1.0), (0.0, 0.5, 0.0, 0.0)

    def __init__(self):
        draw = np.random.default_rng(1)
        self.quads = [
            (quad([-4, 0, -4], [0, 0, 8], [8, 0, 0]), 0),
            (quad([-1, 0, -1.5], [2, 0, 0], [0, 2, 0]), 2),
            (quad([1.2, 0, -1], [1, 0, 0.3], [0, 1.5, 0]), 3),
        ]
        for _ in range(40):
            turn, (a, b, c) = draw.uniform(0, 2 * np.pi), draw.normal(size=3) * 0.2
            corner = draw.uniform([-2, 0, -0.8], [2, 1.5, 1.5])
            self.quads.append((quad(corner, [0.5 * np.cos(turn), a, 0.5 * np.sin(turn)], [b, 0.5, c]), 1))

    def tables(self):
        rows = []
        for number, material in enumerate(self.materials):
            thin, cut = self.translucent[number] > 0, material.alpha is not None
            rows.append(
                packed_row(
                    SURFACE,
                    {
                        "flags": (THIN if thin else 0) | (CUT_OUT if cut else 0), "offset": 1024 * number, "side": 32,
                        "tile": 1, "metalness": self.metal[number], "roughness": 1, "least_roughness": 0.05,
                        "translucency": self.translucent[number], "red": 1, "green": 1, "blue": 1,
                    },
                )
            )  # fmt: skip
        parts = [
            Triangles(p, packed_vertices(uv, n, np.ones((4, 3))), np.column_stack([f, [s, s]]).astype(np.uint32))
            for (p, f, n, uv), s in self.quads
        ]
        texels = np.concatenate([packed_texels(m) for m in self.materials])
        return joined(parts), texels, np.zeros(0, np.uint32), np.stack(rows), np.zeros((0, 16), np.uint32)

    def mitsuba(self, lamps=()):
        """The same for Mitsuba's own integrators."""
        scene = {"type": "scene"}
        for number, ((positions, faces, _, uv), which) in enumerate(self.quads):
            material = self.materials[which]
            base = {"type": "rgb", "value": srgb_to_linear(material.colour[0, 0] / np.float32(255)).tolist()}
            look = {"base_color": base, "roughness": float(material.roughness[0, 0] / 255)}
            if self.translucent[which]:
                look |= {
                    "type": "principledthin",
                    "diff_trans": self.translucent[which],
                    "spec_trans": 0.0,
                    "eta": 1.35,
                }
            else:
                look |= {"type": "principled", "metallic": self.metal[which], "specular": 0.4}
                look = {"type": "twosided", "inner": look}
            if material.alpha is not None:
                cut = {"type": "bitmap", "bitmap": mi.Bitmap(material.alpha[::-1, :, None].copy()), "raw": True}
                look = {"type": "mask", "opacity": cut, "inner": look}
            props = mi.Properties()
            props["bsdf"] = mi.load_dict(look)
            mesh = mi.Mesh(f"m{number}", 4, 2, has_vertex_texcoords=True, props=props)
            values = mi.traverse(mesh)
            values["vertex_positions"] = mi.Float(positions.ravel())
            values["faces"] = mi.UInt32(faces.astype(np.uint32).ravel())
            values["vertex_texcoords"] = mi.Float(uv.ravel())
            values.update()
            scene[f"m{number}"] = mesh
        scene["sky"] = {"type": "envmap", "bitmap": mi.Bitmap(SKY)}
        scene["sun"] = {
            "type": "directional", "direction": (-SUN).tolist(),
            "irradiance": {"type": "rgb", "value": SUN_LIGHT.tolist()},
        }  # fmt: skip
        for number, lamp in enumerate(lamps):
            intensity = {"type": "rgb", "value": list(lamp.intensity)}
            scene[f"lamp{number}"] = {"type": "point", "position": list(lamp.position), "intensity": intensity}
        scene["integrator"] = {"type": "volpath", "max_depth": BOUNCES + 1, "rr_depth": 100}
        scene["sensor"] = {
            "type": "perspective", "fov": 50, "fov_axis": "x",
            "to_world": mi.ScalarTransform4f().look_at(origin=EYE.tolist(), target=(EYE + FORWARD).tolist(), up=[0, 1, 0]),
            "film": {"type": "hdrfilm", "width": WIDTH, "height": HEIGHT, "rfilter": {"type": "box"}},
            "sampler": {"type": "independent"},
        }  # fmt: skip
        return mi.load_dict(scene)


LAMPS = (Lamp((1.5, 2.5, -2.0), (6.0, 4.0, 2.0), 0.0), Lamp((-2.5, 0.8, -4.0), (0.5, 1.0, 2.0), 0.0))


def camera():
    up = np.cross([1, 0, 0], FORWARD)
    return view_of(EYE, FORWARD, np.array([1.0, 0, 0]) * HALF, up * HALF * HEIGHT / WIDTH, (WIDTH, HEIGHT))


def traced(
    tables, samples, sun_radius=0.0, sky=SKY, sun_light=SUN_LIGHT, split=False, bounces=BOUNCES, first=0, lamps=()
):
    """Means over the samples of every pixel, and mean squares of the light."""

    def work(_):
        world, light, view = (
            upload(*tables, trees=KeptTrees(0)),
            sky_of(sky, SUN, sun_light, sun_radius, lamps),
            camera(),
        )
        pixels = np.arange(WIDTH * HEIGHT, dtype=np.uint32)
        sums, squares = {}, 0.0
        for number in range(first, first + samples):
            found = trace(world, light, view, pixels, np.full(len(pixels), number, np.uint32), bounces, split)
            sums = {name: sums.get(name, 0) + values / samples for name, values in found.items()}
            if not split:
                squares = squares + np.square(found["light"] + found["sky_seen"]) / samples
        shaped = {name: values.reshape(HEIGHT, WIDTH, *values.shape[1:]) for name, values in sums.items()}
        return shaped, np.reshape(squares, (HEIGHT, WIDTH, 3)) if not split else None

    return engine.run(work)


def regions(image, side=16):
    """Means of square parts of a picture."""
    return image.reshape(HEIGHT // side, side, WIDTH // side, side, -1).mean(axis=(1, 3))


class Unbiased(unittest.TestCase):
    """Held against Mitsuba's volumetric path tracer, which passes holes by null transmission."""

    def test_mean_and_regions_of_a_scene_with_holes_leaves_and_metal(self):
        little, samples = Little(), 160
        found, squares = traced(little.tables(), samples)
        ours = found["light"] + found["sky_seen"]
        theirs = engine.run(lambda _: np.array(mi.render(little.mitsuba(), spp=4 * samples, seed=3)))[..., :3]
        np.testing.assert_allclose(ours.mean(axis=(0, 1)), theirs.mean(axis=(0, 1)), rtol=0.005)
        # Four standard errors of a region's mean, theirs counted in, and half a per cent.
        error = np.sqrt(regions(np.maximum(squares - ours**2, 0)) / samples / 16**2 * 1.25)
        apart = np.abs(regions(ours) - regions(theirs))
        self.assertTrue((apart < 4 * error + 0.005 * regions(theirs)).all(), (apart / error).max())
        self.assertLess(float((error / regions(theirs)).max()), 0.02, "the test must be able to see two per cent")

    def test_lamps_beside_sun_and_sky(self):
        little, samples = Little(), 160
        found, squares = traced(little.tables(), samples, lamps=LAMPS)
        ours = found["light"] + found["sky_seen"]
        theirs = engine.run(lambda _: np.array(mi.render(little.mitsuba(LAMPS), spp=4 * samples, seed=5)))[..., :3]
        np.testing.assert_allclose(ours.mean(axis=(0, 1)), theirs.mean(axis=(0, 1)), rtol=0.01)
        error = np.sqrt(regions(np.maximum(squares - ours**2, 0)) / samples / 16**2 * 1.25)
        apart = np.abs(regions(ours) - regions(theirs))
        self.assertTrue((apart < 4 * error + 0.01 * regions(theirs)).all(), (apart / error).max())

    def test_kinds_of_light_add_up(self):
        tables = Little().tables()
        whole, _ = traced(tables, 4, lamps=LAMPS)
        parts, _ = traced(tables, 4, split=True, lamps=LAMPS)
        np.testing.assert_allclose(sum(parts[name] for name in LIGHT), whole["light"], rtol=1e-4, atol=1e-5)
        for name in LIGHT:
            self.assertGreater(parts[name].mean(), 0.001, name)

    def test_a_sample_hangs_on_its_pixel_and_number_only(self):
        def work(_):
            world, light, view = (
                upload(*Little().tables(), trees=KeptTrees(0)),
                sky_of(SKY, SUN, SUN_LIGHT, 0.3),
                camera(),
            )
            pixels = np.arange(700, 1300, dtype=np.uint32)
            whole = trace(world, light, view, pixels, np.full(600, 5, np.uint32), 3)["light"]
            chosen = np.arange(0, 600, 7)[::-1]
            some = trace(world, light, view, pixels[chosen], np.full(len(chosen), 5, np.uint32), 3)["light"]
            return whole[chosen], some

        np.testing.assert_array_equal(*engine.run(work))


class ClosedForms(unittest.TestCase):
    def floor(self, colour=(128, 128, 128), extra=()):
        little = Little()
        little.quads = [(quad([-40, 0, -40], [0, 0, 80], [80, 0, 0]), 0), *extra]
        little.materials = (one_colour(colour, 1.0), *Little.materials[1:])
        return little.tables()

    def test_sun_on_a_floor_is_reflectance_times_cosine(self):
        found, _ = traced(self.floor(), 4, sky=np.zeros_like(SKY))
        y, x = 28, 40
        at = EYE + found["depth"][y, x] * self.direction(y, x)
        self.assertAlmostEqual(float(at[1]), 0, delta=0.05)
        eye, cosine = -self.direction(y, x), SUN[1]
        half = (eye + SUN) / np.linalg.norm(eye + SUN)
        fo, fi, d = (1 - cosine) ** 5, (1 - eye[1]) ** 5, float(half @ SUN)
        rr = 2 * d * d
        burley = (1 - fo / 2) * (1 - fi / 2) + rr * (fo + fi + fo * fi * (rr - 1))
        diffuse = srgb_to_linear(np.float32(128 / 255)) / np.pi * cosine * burley
        # The specular lobe of a rough dielectric adds a little; it never takes any away.
        share = found["light"][y, x] / SUN_LIGHT
        self.assertTrue((share > diffuse * 0.995).all() and (share < diffuse * 1.25).all(), (share, diffuse))
        self.assertLess(float(np.ptp(share)), 1e-5)

    def direction(self, y, x):
        sideways = np.array([1.0, 0, 0]) * HALF * ((x + 0.5) / WIDTH * 2 - 1)
        upward = np.cross([1, 0, 0], FORWARD) * HALF * HEIGHT / WIDTH * (1 - (y + 0.5) / HEIGHT * 2)
        ray = FORWARD + sideways + upward
        return ray / np.linalg.norm(ray)

    def test_many_lamps_light_a_floor_as_the_sum_of_them(self):
        """Forty of unlike power and height, of which each sample asks one: their mean is the sum by distance and cosine."""
        rng = np.random.default_rng(8)
        middles = np.column_stack([rng.uniform(-6, 6, 40), rng.uniform(0.5, 4, 40), rng.uniform(-8, 2, 40)])
        lamps = [
            Lamp(tuple(at), (power, power, power), 0.05)
            for at, power in zip(middles, rng.uniform(0.1, 5, 40), strict=True)
        ]
        dark = np.zeros_like(SKY)
        found, _ = traced(self.floor(), 400, sky=dark, sun_light=np.zeros(3), lamps=lamps, bounces=1)
        one, _ = traced(
            self.floor(),
            4,
            sky=dark,
            sun_light=np.zeros(3),
            lamps=[Lamp((0, 300.0, 0), (9e4, 9e4, 9e4), 0.0)],
            bounces=1,
        )
        for y, x in ((28, 40), (24, 12), (30, 56)):
            at = EYE + found["depth"][y, x] * self.direction(y, x)
            away = middles - at
            distance = np.linalg.norm(away, axis=1)
            wanted = sum(lamp.intensity[0] * a[1] / d**3 for lamp, a, d in zip(lamps, away, distance, strict=True))
            # A lamp straight above that gives 1 on what faces it says what the floor sends back; rough as it is, within a tenth.
            self.assertAlmostEqual(float(found["light"][y, x, 0] / one["light"][y, x, 0]) / wanted, 1.0, delta=0.1)

    def test_what_stands_before_a_lamp_keeps_it_off_and_what_stands_behind_does_not(self):
        dark, none = np.zeros_like(SKY), np.zeros(3)
        lamp = Lamp((0.0, 2.0, -3.0), (4.0, 4.0, 4.0), 0.02)
        board = lambda height: (quad([-0.4, height, -2.6], [0.8, 0, 0], [0, 0, -0.8]), 0)  # noqa: E731
        free, under, over = (
            traced(self.floor(extra=extra), 8, sky=dark, sun_light=none, lamps=[lamp], bounces=1)[0]
            for extra in ((), (board(1.6),), (board(2.6),))
        )
        floor = free["depth"] > 0
        same = floor & np.isclose(over["depth"], free["depth"]) & np.isclose(under["depth"], free["depth"])
        np.testing.assert_allclose(over["light"][same], free["light"][same], rtol=0.02, atol=1e-3)
        at = EYE + free["depth"][..., None] * np.array(
            [[self.direction(y, x) for x in range(WIDTH)] for y in range(HEIGHT)]
        )
        core = same & (np.hypot(at[..., 0], at[..., 2] + 3.0) < 1.2)
        self.assertGreater(core.sum(), 10)
        self.assertLess(under["light"][core].max(), 0.01 * free["light"][core].mean())

    def test_shadows_of_a_sun_with_size_have_soft_rims(self):
        board = quad([-6, 3.0, 1], [12, 0, 0], [0, 0, -8])
        tables = self.floor(extra=[(board, 2)])
        between = []
        for radius in (0.0, 6.0):
            found, _ = traced(tables, 32, sun_radius=radius, sky=np.zeros_like(SKY), bounces=1)
            lit = found["light"][HEIGHT // 2 + 4 :, WIDTH // 4 : -WIDTH // 4, 1]
            lit = lit / np.percentile(lit, 90)
            between.append(np.mean((lit > 0.15) & (lit < 0.6)))
        # Pixels on the rim of a hard shadow are half lit too.
        self.assertGreater(between[1], 2 * between[0])

    def test_no_light_is_made(self):
        # Inside a white sky nothing can be brighter than the sky.
        for material in (0, 1, 2, 3):
            little = Little()
            little.quads = [(quad([-40, 0, -40], [0, 0, 80], [80, 0, 0]), material)]
            found, _ = traced(little.tables(), 64, sky=np.ones_like(SKY), sun_light=np.zeros(3))
            ground = found["light"][HEIGHT // 2 + 4 :][..., 0].mean() / max(
                found["cover"][HEIGHT // 2 + 4 :].mean(), 0.1
            )
            self.assertLess(ground, 1.03, material)
            self.assertGreater(ground, 0.02, material)

    def test_what_is_seen_is_seen_through_the_holes_of_leaves(self):
        """A board before a wall, half of it air in squares: half of what is seen is the board, the rest the wall."""
        little = Little()
        little.quads = [
            (quad([-9, -9, -4], [18, 0, 0], [0, 18, 0]), 0),
            (quad([-9, -9, -2], [18, 0, 0], [0, 18, 0]), 1),
        ]
        tables = little.tables()

        def work(_):
            world, light, view = upload(*tables, trees=KeptTrees(0)), sky_of(SKY, SUN, SUN_LIGHT, 0), camera()
            pixels = np.tile(np.arange(WIDTH * HEIGHT, dtype=np.uint32), 4)
            return see(world, light, view, pixels, np.repeat(np.arange(4, dtype=np.uint32), WIDTH * HEIGHT))

        found = engine.run(work)
        board = found["colour"][:, 0] < found["colour"][:, 1]
        self.assertTrue(0.4 < board.mean() < 0.6, board.mean())
        near, far = found["depth"][board], found["depth"][~board]
        # Seven and nine metres off, and no more than a fifth farther in the corners of the picture.
        self.assertTrue((near > 6.99).all() and (near < 8.4).all(), (near.min(), near.max()))
        self.assertTrue((far > 8.99).all() and (far < 10.8).all(), (far.min(), far.max()))
        self.assertTrue((found["normal"][:, 2] > 0.999).all())
        self.assertTrue((found["cover"] == 1).all())

    def test_a_decal_is_there_as_often_as_its_fade_says(self):
        """A sheet of white before a floor, a quarter faded in throughout."""
        corners, faces, normals, uv = quad([-40, 0.4, -40], [0, 0, 80], [80, 0, 0])
        seams = np.zeros((4, 4), np.float32)
        seams[:, 2] = 0.25
        rows = packed_vertices(uv, normals, np.ones((4, 3)))
        sheet = Triangles(corners, rows, np.column_stack([faces, [1, 1]]).astype(np.uint32), seams)
        floor, texels, covers, surfaces, layers = self.floor()
        whole = one_colour((255, 255, 255), 0.5)
        faded = packed_row(
            SURFACE,
            {"flags": CUT_OUT | FADES, "side": 32, "tile": 1, "offset": len(texels), "red": 1, "green": 1, "blue": 1},
        )
        parts = Triangles(floor.positions, floor.vertices, floor.faces), sheet
        tables = (
            joined(parts), np.concatenate([texels, packed_texels(whole)]), covers, np.stack([surfaces[0], faded]), layers,
        )  # fmt: skip

        def work(_):
            world, light, view = upload(*tables, trees=KeptTrees(0)), sky_of(SKY, SUN, SUN_LIGHT, 0), camera()
            pixels = np.tile(np.arange(WIDTH * (HEIGHT - 6), WIDTH * HEIGHT, dtype=np.uint32), 40)
            return see(world, light, view, pixels, np.repeat(np.arange(40, dtype=np.uint32), 6 * WIDTH))

        found = engine.run(work)
        white = found["colour"][:, 0] > 0.9
        self.assertAlmostEqual(float(white.mean()), 0.25, delta=0.015)

    def test_depth_and_normal_of_what_is_seen(self):
        def work(_):
            world, light, view = upload(*self.floor(), trees=KeptTrees(0)), sky_of(SKY, SUN, SUN_LIGHT, 0), camera()
            pixels = np.arange(WIDTH * HEIGHT, dtype=np.uint32)
            return see(world, light, view, pixels, np.zeros(len(pixels), np.uint32))

        found = engine.run(work)
        normal, depth = found["normal"].reshape(HEIGHT, WIDTH, 3), found["depth"].reshape(HEIGHT, WIDTH)
        np.testing.assert_allclose(normal[-4:].reshape(-1, 3), [[0, 1, 0]] * 4 * WIDTH, atol=2e-3)
        expected = EYE[1] / -self.direction(HEIGHT - 2, 20)[1]
        self.assertAlmostEqual(float(depth[HEIGHT - 2, 20]), expected, delta=0.05 * expected)
        self.assertTrue((depth[:3] == 0).all())
        np.testing.assert_allclose(
            found["sky_seen"].reshape(HEIGHT, WIDTH, 3)[:3].reshape(-1, 3), [[0.3, 0.5, 0.9]] * 3 * WIDTH, rtol=1e-5
        )


class InsideSnow(unittest.TestCase):
    """Light that comes out of snow beside where it went in."""

    def seen(self, scatters, extra=()):
        flags = SCATTERS if scatters else 0
        little = Little()
        little.quads = [(quad([-40, 0, -40], [0, 0, 80], [80, 0, 0]), 0), *extra]
        little.materials = (one_colour((230, 230, 230), 1.0), *Little.materials[1:])
        made = list(little.tables())
        rows = made[3].copy()
        rows[0, SURFACE.index("flags")] |= flags
        made[3] = rows
        return traced(tuple(made), 64, sky=np.zeros_like(SKY))[0]

    def test_an_open_field_is_as_bright_and_has_lost_a_little_red(self):
        plain, snow = (self.seen(scatters)["light"][20:, :, :].mean(axis=(0, 1)) for scatters in (False, True))
        np.testing.assert_allclose(snow, plain, rtol=0.035)
        lost = 1 - snow / plain
        self.assertTrue(lost[0] > lost[1] > lost[2] >= -1e-3, lost)
        # On the mean light travels SPREAD metres beside.
        self.assertAlmostEqual(float(lost[0]), LOST[0] * SPREAD, delta=0.01)
