"""Patinas baked: the formulas in plain numpy, the stack, the ground's surfaces, tangent frames."""

import unittest
from unittest import mock

import numpy as np
from scipy.ndimage import map_coordinates

from cenote_core.errors import CenoteError
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.materials.catalogue import GONE
from cenote_core.materials.material import srgb_to_linear, tinted
from cenote_core.measures.height import HeightRule
from cenote_core.measures.near import NearRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.patinas.bake import MACRO, bake_maps, blend_values, pictures
from cenote_core.patinas.cover import cover, owner_covers, share_covered, shares, surface_share
from cenote_core.patinas.triplanar import ground_triplanar, sides
from cenote_core.plan import Finish, GroundLayer, PatinaPlan, PatinaUse, PiecePlan, Terrace, TouchPlan
from cenote_core.surfaces import channels
from cenote_core.surfaces.formulas import felt_fill, layer_amount

from .helpers import CACHE, gate, scene_of, small_site

RNG = np.random.Generator(np.random.Philox(8))
COUNT = 400


def read(image, u, v):
    """(N, C) a picture read bilinearly and repeating, its last row at v = 0."""
    size = len(image)
    rows, columns = (1 - v % 1) * size - 0.5, (u % 1) * size - 0.5
    return np.stack(
        [
            map_coordinates(image[..., c].astype(float), [rows, columns], order=1, mode="grid-wrap")
            for c in range(image.shape[-1])
        ],
        axis=-1,
    )


def based(material, uv):
    """(N, 9) linear colour, roughness, normal x and y, metalness, height and wetness of a dry tiling material."""
    image = pictures(material)
    u, v = (uv / material.tile).T
    seen = read(image, u, v)
    drift = 0.86 + 0.28 * read(image, u / MACRO, v / MACRO)[:, 4]
    metal = np.full(len(uv), material.metalness)
    height = (seen[:, 4] - 0.5) * material.depth
    return np.column_stack(
        [seen[:, :3] * drift[:, None], seen[:, 3], seen[:, 5], seen[:, 6], metal, height, 0 * height]
    )


def laid(under, finish, material, uv, amount, base_depth):
    """A patina over what lies under it, by the formulas of the design."""
    image = pictures(material)
    tile = max(material.tile, 0.05) * finish.scale
    seen = read(image, *(uv / tile).T)
    beneath = np.clip(0.5 + under[:, 7] / base_depth, 0, 1)
    if finish.fill < 0:
        beneath = 1 - beneath
    part = abs(finish.fill) * min(1, base_depth / 0.004)
    t = amount * (1 + finish.break_up + part) - finish.break_up * (1 - seen[:, 4]) - part * beneath
    t = np.clip(t * (1 + 2 * finish.break_up + 2 * part), 0, 1)
    m = np.where(amount > 0, t * t * (3 - 2 * t), 0.0)[:, None]
    wide = read(image, *(uv / (4 * finish.variation_size)).T)[:, 4]
    drift = 1 + finish.variation * 2 * (wide - 0.5)
    tint = srgb_to_linear(np.array([int(finish.tint[k : k + 2], 16) / 255 for k in (1, 3, 5)], np.float32))
    colour = np.minimum(1, seen[:, :3] * tint * drift[:, None])
    stained = under[:, :3] * (0.35 + colour)
    keep = m * (1 - 0.5 * finish.stain)
    out = under.copy()
    out[:, :3] += (colour + (stained - colour) * finish.stain - under[:, :3]) * m
    out[:, 3:4] += (np.minimum(1, seen[:, 3:4] * finish.roughness) - under[:, 3:4]) * keep
    out[:, 4:6] += (seen[:, 5:7] * finish.relief - under[:, 4:6]) * keep
    out[:, 6:7] *= 1 - keep
    own = finish.thickness / 1000 + (seen[:, 4] - 0.5) * material.depth * finish.relief
    body = np.clip((amount - 0.1) / 0.7, 0, 1)
    top = under[:, 7] * (1 - max(finish.fill, 0)) + own * body * body * (3 - 2 * body)
    out[:, 7] += (top - under[:, 7]) * m[:, 0]
    return out


class Formulas(unittest.TestCase):
    def setUp(self):
        self.kit = BuiltinKit(CACHE)
        self.scene = scene_of(small_site())
        self.uv = RNG.uniform(-3, 3, (COUNT, 2)).astype(np.float32)
        self.slots = np.zeros(COUNT, np.int32)
        wall = next(s for s in self.scene.surfaces() if s.ref == "wall/stone")
        self.base = self.kit.material(wall.material)

    def flat(self, *covers):
        # How it answers to the weather is not among what these formulas say.
        found = blend_values(self.scene, "wall", self.uv, self.uv, self.slots, list(covers))
        return found[:, : channels.WETNESS + 1]

    def test_the_base_drifts_in_brightness_by_its_own_relief(self):
        np.testing.assert_allclose(self.flat(), based(self.base, self.uv), atol=2e-4)

    def test_finishes_of_every_kind_against_plain_numpy(self):
        amount = RNG.random(COUNT).astype(np.float32)
        amount[:40] = 0
        # Single precision in the core, double here.
        for finish in (
            Finish(material="moss", variation=0.4, break_up=0.0, stain=0.0),
            Finish(material="moss", variation=0.2, break_up=0.8, stain=0.0, relief=2.0, tint="#88aa66"),
            Finish(material="grime", variation=0.5, break_up=0.4, stain=0.7, roughness=0.6, scale=2.5),
            Finish(material="grime", variation=0.0, break_up=1.0, stain=1.0),
            Finish(material="moss", break_up=0.3, fill=0.8, thickness=12.0),
            Finish(material="timber", break_up=0.4, fill=-0.6),
        ):
            plan = PatinaPlan(name="p", finish=finish)
            expected = laid(
                based(self.base, self.uv), finish, self.kit.material(finish.material), self.uv, amount, self.base.depth
            )
            np.testing.assert_allclose(self.flat((plan, amount)), expected, atol=1e-3, err_msg=str(finish))

    def test_what_fills_lies_in_the_joints_before_it_lies_on_the_faces(self):
        heights = self.flat()[:, 7]
        self.assertAlmostEqual(np.ptp(heights), self.base.depth, delta=0.5 * self.base.depth)
        low, high = heights < np.quantile(heights, 0.2), heights > np.quantile(heights, 0.8)
        half = np.full(COUNT, 0.4, np.float32)
        plans = [
            PatinaPlan(name="p", finish=Finish(material="moss", break_up=0.2, fill=fill, thickness=8.0))
            for fill in (0, 0.9)
        ]
        risen = [self.flat((plan, half))[:, 7] - heights for plan in plans]
        self.assertGreater(risen[1][low].mean(), 3 * max(risen[1][high].mean(), 1e-4))
        self.assertLess(risen[0][low].mean(), 2 * risen[0][high].mean() + 0.02)
        rubbed = self.flat(
            (PatinaPlan(name="p", finish=Finish(material="moss", break_up=0.2, fill=-0.9)), 0.4 + 0 * half)
        )
        before = self.flat()
        changed = np.abs(rubbed[:, :3] - before[:, :3]).sum(axis=1)
        self.assertGreater(changed[high].mean(), 3 * changed[low].mean(), "below 0 what stands out comes first")
        # Wherever its cover is whole it lies, whatever is under it, and evens it out.
        whole = self.flat((plans[1], np.ones(COUNT, np.float32)))[:, 7]
        bare = self.flat((plans[0], np.ones(COUNT, np.float32)))[:, 7]
        self.assertLess(whole.std(), bare.std())

    def test_on_what_has_no_relief_fill_makes_no_hard_edge(self):
        flat = felt_fill(0.8, 0.0)
        self.assertEqual(flat, 0.0)
        self.assertEqual(felt_fill(-0.8, 0.02), -0.8)
        ramp = [layer_amount(c, 0.5, 0.0, 0.5, flat) for c in np.linspace(0, 1, 101)]
        np.testing.assert_allclose(ramp, [layer_amount(c, 0.5, 0.0, 0.5, 0.0) for c in np.linspace(0, 1, 101)])
        self.assertLess(max(np.diff(ramp)), 0.016, "from none to all over the whole of the cover")

    def test_a_stack_is_laid_from_the_lowest_up(self):
        full = np.ones(COUNT, np.float32)
        moss, grime = (
            PatinaPlan(name=m, finish=Finish(material=m, break_up=0.0, variation=0.0)) for m in ("moss", "grime")
        )
        np.testing.assert_allclose(
            self.flat((grime, full), (moss, full))[:, :3], self.flat((moss, full))[:, :3], atol=1e-5
        )
        self.assertGreater(np.abs(self.flat((moss, full), (grime, full)) - self.flat((moss, full))).max(), 0.05)

    def test_a_point_does_not_depend_on_its_neighbours(self):
        amount = RNG.random(COUNT).astype(np.float32)
        plan = PatinaPlan(name="p", finish=Finish(material="moss"))
        whole = self.flat((plan, amount))
        some = np.arange(0, COUNT, 7)
        part = blend_values(self.scene, "wall", self.uv[some], self.uv[some], self.slots[some], [(plan, amount[some])])
        np.testing.assert_array_equal(whole[some], part[:, : whole.shape[1]])

    def test_a_material_that_is_gone_is_laid_in_plain_grey_and_the_rest_goes_on(self):
        half = np.full(COUNT, 0.5, np.float32)
        gone = PatinaPlan(name="p", finish=Finish(material="felt-of-old", break_up=0.0))
        grey = PatinaPlan(name="p", finish=Finish(material=GONE, break_up=0.0))
        np.testing.assert_array_equal(self.flat((gone, half)), self.flat((grey, half)))
        with self.assertRaisesRegex(CenoteError, "felt-of-old"):
            self.kit.material_ref("felt-of-old")

    def test_a_tinted_picture_is_its_light_times_the_tint_to_the_byte(self):
        colour = np.random.default_rng(2).integers(0, 256, (40, 50, 3), dtype=np.uint8)
        for tint in ([1, 1, 1], [0.62, 0.8, 1.22], [0, 3.0, 0.001]):
            linear = srgb_to_linear(colour.astype(np.float32) / 255) * np.array(tint, np.float32)
            encoded = np.where(
                linear <= 0.0031308, linear * 12.92, 1.055 * np.maximum(linear, 1e-9) ** (1 / 2.4) - 0.055
            )
            expected = np.floor(np.clip(encoded, 0, 1) * 255 + 0.5)
            np.testing.assert_array_equal(tinted(colour, np.array(tint)), expected, str(tint))
        np.testing.assert_array_equal(tinted(colour, np.ones(3)), colour)


class Covers(unittest.TestCase):
    def setUp(self):
        self.site = small_site()
        uses = [PatinaUse(surface="wall/stone"), PatinaUse(surface="wall/coping", amount=0.25)]
        self.plan = PatinaPlan(name="m", uses=uses, rules=[NoiseRule(gate=gate(0.3, 0.6, 1, 1), size=0.4)])
        self.site.put("m", self.plan)

    def test_lowering_the_amount_scales_it_everywhere(self):
        scene = scene_of(self.site)
        table = scene.table("wall", 128)
        half = self.plan.model_copy(update={"amount": 0.5})
        np.testing.assert_allclose(
            cover(scene, "m", half, "wall", table.resolution),
            0.5 * cover(scene, "m", self.plan, "wall", table.resolution),
            atol=1e-6,
        )

    def test_the_share_said_is_the_mean_by_area(self):
        scene = scene_of(self.site)
        for surface in (s for s in scene.surfaces() if s.owner == "wall"):
            table = scene.table("wall", scene.resolution("wall", 256))
            on = table.points.slots == surface.index
            values = cover(scene, "m", self.plan, "wall", table.resolution)[on]
            expected = np.average(values, weights=table.points.areas[on])
            self.assertAlmostEqual(share_covered(scene, "m", self.plan, surface), float(expected), places=5)

    def test_the_shares_of_all_surfaces_are_worked_out_once_and_kept(self):
        scene = scene_of(self.site)
        surfaces = [s for s in scene.surfaces() if s.owner == "wall"]
        with mock.patch("cenote_core.patinas.cover.cover", wraps=cover) as worked:
            plan = self.plan.model_copy(update={"amount": 0.731})
            for _ in range(3):
                for surface in surfaces:
                    share_covered(scene, "m", plan, surface)
        self.assertEqual(worked.call_count, 1)

    def test_strokes_paint_where_rules_forbid_and_wipe_where_they_allow(self):
        never = self.plan.model_copy(update={"rules": [HeightRule(gate=gate(50, 51, 60, 61))]})
        dab = {"target": "m", "owner": "wall", "points": [(0, 0.8, 0.25)], "radius": 0.5, "strength": 1, "falloff": 0}
        scene = scene_of(self.site)
        table = scene.table("wall", 256)
        near = np.linalg.norm(scene.to_local("wall", table.points.positions) - [0, 0.8, 0.25], axis=1) < 0.45
        stone = near & (table.points.slots == 0)
        self.assertEqual(cover(scene, "m", never, "wall", table.resolution).max(), 0)
        self.site.put("t", TouchPlan(action="more", **dab))
        self.assertGreater(cover(scene_of(self.site), "m", never, "wall", table.resolution)[stone].min(), 0.95)
        self.site.put("t", TouchPlan(action="less", **dab))
        self.assertLess(cover(scene_of(self.site), "m", self.plan, "wall", table.resolution)[stone].max(), 0.05)

    def test_the_address_changes_with_what_it_depends_on_and_with_nothing_else(self):
        key = lambda: owner_covers.ref(scene_of(self.site), "wall", 512).key  # noqa: E731
        first = key()
        self.site.put("m", self.plan.model_copy(update={"note": "said", "finish": Finish(material="grime")}))
        self.assertEqual(first, key(), "the finish is laid on where it is drawn")
        self.site.put("far", PiecePlan(name="crate", asset="crate", position=(5, 0, 5), foot_width=0.0))
        self.assertEqual(first, key())
        self.site.put("m", self.plan.model_copy(update={"amount": 0.9}))
        self.assertNotEqual(first, key())

    def test_what_no_patina_lies_on_has_no_covers(self):
        self.site.put("crate", PiecePlan(name="crate", asset="crate", position=(3, 0, 3), foot_width=0.0))
        self.assertEqual(owner_covers(scene_of(self.site), "crate", 64).shape[0], 0)


class GroundSurfaces(unittest.TestCase):
    def setUp(self):
        self.site = small_site()
        gravel = GroundLayer(key="gravel", rules=[NearRule(gate=gate(-1, -1, 1.5, 2.5))])
        rock = GroundLayer(key="rock", material="rock", amount=0.6, rules=[NoiseRule(gate=gate(0.4, 0.6, 1, 1))])
        self.site.ground = self.site.ground.model_copy(update={"layers": [gravel, rock]})

    def test_shares_sum_to_one_and_later_ones_lie_on_top(self):
        found = shares(scene_of(self.site))
        self.assertEqual(set(found), {"ground", "gravel", "rock"})
        np.testing.assert_allclose(sum(found.values()), 1.0, atol=1e-5)
        self.assertAlmostEqual(found["rock"].max(), 0.6, delta=1e-3)
        # Under rock at its fullest no more than the rest of the place is left for gravel.
        self.assertLess(found["gravel"][found["rock"] > 0.59].max(), 0.42)

    def test_shares_are_read_where_points_lie(self):
        scene = scene_of(self.site)
        table = scene.table("ground", 128)
        gravel = surface_share(scene, "ground", table.points, ["ground/gravel"])
        rest = surface_share(scene, "ground", table.points, ["ground/ground", "ground/rock"])
        np.testing.assert_allclose(gravel + rest, 1.0, atol=1e-4)
        far = np.hypot(table.points.positions[:, 0], table.points.positions[:, 2]) > 8
        self.assertEqual(gravel[far].max(), 0)
        everything = ["ground/ground", "ground/gravel", "ground/rock"]
        self.assertEqual(surface_share(scene, "ground", table.points, everything), 1.0)
        self.assertEqual(np.max(surface_share(scene, "ground", table.points, ["wall/stone"])), 0)

    def test_where_none_of_them_lies_the_ground_keeps_its_own_material(self):
        """In proofs and hand-overs as well: the base must not be taken from what is laid over it."""
        bare = small_site()
        nowhere = GroundLayer(key="gravel", material="gravel", rules=[HeightRule(gate=gate(900, 901, 902, 903))])
        bare_maps = bake_maps(scene_of(bare), "ground", 64)
        bare.ground = bare.ground.model_copy(update={"layers": [nowhere]})
        np.testing.assert_array_equal(bake_maps(scene_of(bare), "ground", 64).colour, bare_maps.colour)

    def test_flattened_colours_follow_the_shares(self):
        scene = scene_of(self.site)
        maps = bake_maps(scene, "ground", 128)
        table = scene.table("ground", 128)
        gravel = surface_share(scene, "ground", table.points, ["ground/gravel"])
        base = surface_share(scene, "ground", table.points, ["ground/ground"])
        colour = srgb_to_linear(maps.colour.reshape(-1, 3)[table.index].astype(np.float32) / 255)
        kit = BuiltinKit(CACHE)
        for share, material in ((gravel, "gravel"), (base, self.site.ground.material)):
            mean = pictures(kit.material(material))[..., :3].mean(axis=(0, 1))
            np.testing.assert_allclose(colour[share > 0.98].mean(axis=0), mean, rtol=0.25, atol=0.01)


def slanted(count, least, most):
    """Normals of slopes between two angles in degrees, facing all ways."""
    slope, toward = np.radians(RNG.uniform(least, most, count)), RNG.uniform(0, 2 * np.pi, count)
    return np.column_stack([np.sin(slope) * np.cos(toward), np.cos(slope), np.sin(slope) * np.sin(toward)])


def steps(normals, along):
    """How far a place moves in the pictures of each side for a metre on the surface, (N, 3 sides, 2)."""
    along = along - (along * normals).sum(axis=1, keepdims=True) * normals
    along /= np.linalg.norm(along, axis=1, keepdims=True)
    at = RNG.uniform(-5, 5, normals.shape)
    return (sides(at + 1e-3 * along, normals)[0] - sides(at, normals)[0]).astype(float) / 1e-3


class Sides(unittest.TestCase):
    def test_gentle_ground_is_seen_from_above_alone(self):
        normals = slanted(200, 0, 29.9)
        at = RNG.uniform(-9, 9, normals.shape)
        places, share = sides(at, normals)
        np.testing.assert_array_equal(share, np.tile([1, 0, 0], (200, 1)))
        np.testing.assert_allclose(places[:, 0], np.column_stack([at[:, 0], -at[:, 2]]), atol=1e-5)

    def test_shares_sum_to_one_whatever_the_slope(self):
        share = sides(np.zeros((500, 3)), slanted(500, 0, 90) * RNG.uniform(0.1, 9, (500, 1)))[1]
        np.testing.assert_allclose(share.sum(axis=1), 1, atol=1e-6)
        self.assertGreaterEqual(share.min(), 0)

    def test_no_side_that_counts_draws_its_pictures_out_to_more_than_twice_their_length(self):
        """Of a side the shortening is the normal's part toward it: where it counts, more than a half."""
        normals = slanted(400, 0, 89)
        share = sides(np.zeros((400, 3)), normals)[1]
        one = np.cross(normals, [0.3, 0.5, 0.81])
        shape = np.stack([steps(normals, one), steps(normals, np.cross(normals, one))], axis=-1)
        least = np.linalg.svd(shape, compute_uv=False)[..., -1]
        np.testing.assert_allclose(least, np.abs(normals[:, [1, 0, 2]]), atol=0.01)
        self.assertGreater(least[share > 0].min(), 0.47)
        # From above alone they would be.
        self.assertLess(least[:, 0].min(), 0.1)

    def test_all_sides_that_count_run_the_same_way(self):
        normals = slanted(400, 0, 85)
        counts = sides(np.zeros((400, 3)), normals)[1] > 0
        for axis, which in (([1.0, 0, 0], 0), ([0, 0, -1.0], 1)):
            along = np.tile(axis, (400, 1))
            step = steps(normals, along)[..., which]
            self.assertGreater(step[counts].min(), 0)

    def test_a_steep_bank_is_flattened_from_its_sides(self):
        site = small_site(forms=[Terrace(start=(-6, 0), end=(6, 0), height=4.0, run=2.0)], cell=0.1)
        scene = scene_of(site)
        at = RNG.uniform((-5, -5), (5, 5), (300, 2))
        seen = ground_triplanar(scene, at)
        self.assertGreater(np.count_nonzero(seen[1][:, 2] > 0.5), 20)
        uv = np.float32(at * [1, -1])
        found = blend_values(scene, "ground", uv, uv, np.zeros(300, np.int32), [], seen)
        material = BuiltinKit(CACHE).material(site.ground.material)
        image = pictures(material)
        drift = 0.86 + 0.28 * read(image, *(uv / material.tile / MACRO).T)[:, 4]
        mixed = sum(seen[1][:, k, None] * read(image, *(seen[0][:, k] / material.tile).T) for k in range(3))
        np.testing.assert_allclose(found[:, :3], mixed[:, :3] * drift[:, None], atol=2e-3)
        np.testing.assert_allclose(found[:, 3:6], mixed[:, [3, 5, 6]], atol=2e-3)


class Maps(unittest.TestCase):
    def test_flattened_normals_lean_as_the_relief_does_whatever_the_unwrap(self):
        """A crate's boards are unwrapped turned; the relief must be turned back along with them."""
        site = small_site()
        site.put("crate", PiecePlan(name="crate", asset="crate", position=(3, 0, 3), foot_width=0.0))
        scene = scene_of(site)
        maps = bake_maps(scene, "crate", 256)
        table = scene.table("crate", 256)
        mesh = scene.mesh("crate")
        normal = maps.normal.reshape(-1, 3)[table.index].astype(float) / 127.5 - 1
        corner = mesh.faces[table.face]
        p, t = mesh.positions[corner].astype(float), mesh.uv2[corner].astype(float)
        e1, e2, d1, d2 = p[:, 1] - p[:, 0], p[:, 2] - p[:, 0], t[:, 1] - t[:, 0], t[:, 2] - t[:, 0]
        det = (d1[:, 0] * d2[:, 1] - d1[:, 1] * d2[:, 0])[:, None]
        along_u = (e1 * d2[:, 1:] - e2 * d1[:, 1:]) / det
        along_v = (e2 * d1[:, :1] - e1 * d2[:, :1]) / det
        along_u, along_v = (a / np.linalg.norm(a, axis=1, keepdims=True) for a in (along_u, along_v))
        tangent = normal[:, :1] * along_u + normal[:, 1:2] * along_v
        w = np.column_stack([1 - table.bary.sum(axis=1), table.bary])
        uv = np.einsum("nk,nkc->nc", w, mesh.uv[corner])
        # The same relief straight from the material, in the frame of the coordinates it is laid by.
        q = mesh.uv[corner].astype(float)
        f1, f2 = q[:, 1] - q[:, 0], q[:, 2] - q[:, 0]
        sign = np.sign(f1[:, 0] * f2[:, 1] - f1[:, 1] * f2[:, 0])[:, None]
        by_u, by_v = (e1 * f2[:, 1:] - e2 * f1[:, 1:]) * sign, (e2 * f1[:, :1] - e1 * f2[:, :1]) * sign
        by_u, by_v = (a / np.linalg.norm(a, axis=1, keepdims=True) for a in (by_u, by_v))
        values = blend_values(scene, "crate", uv.astype(np.float32), uv.astype(np.float32), table.points.slots, [])
        expected = values[:, 4:5] * by_u + values[:, 5:6] * by_v
        expected /= np.sqrt(1 + (values[:, 4:6] ** 2).sum(axis=1, keepdims=True))
        self.assertGreater(np.linalg.norm(expected, axis=1).mean(), 0.02)
        self.assertLess(np.quantile(np.linalg.norm(tangent - expected, axis=1), 0.95), 0.03)


if __name__ == "__main__":
    unittest.main()
