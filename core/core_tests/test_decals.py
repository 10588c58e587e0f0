"""Decals: what the box meets, where the picture lies on it, how it fades; against closed forms and brute force."""

import unittest

import numpy as np

from cenote_core.decals.project import LIFT, decal_frame, decal_mesh, project, stacked
from cenote_core.mesh.mesh import make_mesh
from cenote_core.plan import DecalPlan, Mound, PiecePlan

from .helpers import scene_of, sheet, small_site

RNG = np.random.Generator(np.random.Philox(31))


def decal(**more):
    return DecalPlan(**{"name": "d", "facing": (0, 1, 0), "width": 1, "height": 1, "depth": 1, "angle": 80, **more})


def square(at, right, up):
    """One square of two triangles, facing right × up."""
    at, right, up = (np.asarray(v, float) for v in (at, right, up))
    return make_mesh(np.array([at, at + right, at + right + up, at + up]), np.array([[0, 1, 2], [0, 2, 3]]))


def own(found, plan):
    """Corners of a decal in the frame of its projector, without the hair it is lifted by."""
    frame = decal_frame(plan)
    flat = found.positions - found.normals * LIFT - frame.origin
    return flat @ np.stack([frame.right, frame.up, frame.out]).T


def sampled(mesh, count):
    """Points spread evenly over a mesh's area, their faces, and the area each stands for."""
    areas = mesh.face_areas()
    face = RNG.choice(len(areas), count, p=areas / areas.sum())
    a, b = RNG.random((2, count))
    flip = a + b > 1
    a, b = np.where(flip, 1 - a, a), np.where(flip, 1 - b, b)
    p, q, r = (mesh.positions[mesh.faces[face, k]].astype(float) for k in range(3))
    return p + a[:, None] * (q - p) + b[:, None] * (r - p), face, areas.sum() / count


class Clipped(unittest.TestCase):
    def test_a_wavy_sheet_is_covered_as_far_as_the_box_reaches(self):
        mesh = sheet(60, 12.0, bumps=0.6)
        plan = decal(position=(6, 0.5, 6), width=3.1, height=2.2, depth=4, turn=23, soft=0)
        found = project(mesh, plan)
        at = own(found, plan)
        self.assertLessEqual(np.abs(at[:, 0]).max(), 1.55 + 1e-4)
        self.assertLessEqual(np.abs(at[:, 1]).max(), 1.10 + 1e-4)
        # Seen along the projector it is the whole picture, whatever the relief.
        a, b, c = (at[found.faces[:, k], :2] for k in range(3))
        (ux, uy), (vx, vy) = (b - a).T, (c - a).T
        self.assertAlmostEqual(np.abs(ux * vy - uy * vx).sum() / 2, 3.1 * 2.2, delta=0.01)

    def test_area_on_loose_triangles_against_sampling(self):
        corners = RNG.uniform(-1, 1, (400, 1, 3)) + RNG.uniform(-0.35, 0.35, (400, 3, 3))
        mesh = make_mesh(corners.reshape(-1, 3), np.arange(1200).reshape(-1, 3))
        plan = decal(facing=(0.4, 0.8, -0.3), width=1.3, height=0.9, depth=1.1, turn=-40, angle=55, soft=0)
        found = project(mesh, plan)
        points, face, each = sampled(mesh, 400_000)
        frame = decal_frame(plan)
        at = (points - frame.origin) @ np.stack([frame.right, frame.up, frame.out]).T
        inside = (np.abs(at) <= np.array([1.3, 0.9, 1.1]) / 2).all(axis=1)
        # Faces stay up to 8° past the angle: the picture is faded out there, not cut.
        turned = mesh.face_normals()[face] @ frame.out > np.cos(np.radians(55 + 8))
        self.assertAlmostEqual(found.face_areas().sum(), (inside & turned).sum() * each, delta=0.06)

    def test_nothing_met_is_no_mesh(self):
        mesh = sheet(4, 4.0)
        for plan in (
            decal(position=(20, 0, 20)),
            decal(position=(2, 3, 2)),
            decal(position=(2, 0, 2), facing=(0, -1, 0)),
        ):
            self.assertIsNone(project(mesh, plan))

    def test_a_triangle_much_larger_than_the_box_is_cut_to_it(self):
        huge = make_mesh(np.array([[-900.0, 0, -900], [-900, 0, 900], [1800, 0, 0]]), np.array([[0, 1, 2]]))
        found = project(huge, decal(width=0.6, height=0.4, turn=12))
        self.assertAlmostEqual(found.face_areas().sum(), 0.24, delta=1e-4)


class Laid(unittest.TestCase):
    def test_the_picture_lies_by_place_in_its_frame(self):
        mesh = sheet(30, 8.0, bumps=0.4)
        plan = decal(position=(4, 0.4, 4), width=2, height=1.2, depth=3, turn=70)
        found = project(mesh, plan)
        at = own(found, plan)
        np.testing.assert_allclose(found.uv, at[:, :2] / [2, 1.2] + 0.5, atol=2e-3)

    def test_turning_turns_the_picture_counter_clockwise(self):
        plain = decal_frame(decal(facing=(0, 0, 1)))
        quarter = decal_frame(decal(facing=(0, 0, 1), turn=90))
        np.testing.assert_allclose(quarter.right, plain.up, atol=1e-12)
        np.testing.assert_allclose(quarter.up, -plain.right, atol=1e-12)

    def test_frames_are_right_handed_whichever_way_they_face(self):
        for facing in [(0, 1, 0), (0, -1, 0), (0.01, 1, 0), (1, 0, 0), (-0.3, 0.2, 0.9), (1, 1, 1)]:
            frame = decal_frame(decal(facing=facing, turn=33))
            axes = np.stack([frame.right, frame.up, frame.out])
            np.testing.assert_allclose(axes @ axes.T, np.eye(3), atol=1e-12)
            self.assertAlmostEqual(np.linalg.det(axes), 1.0)
        # On a wall its up is as upright as it can be.
        self.assertGreater(decal_frame(decal(facing=(0.5, 0.3, 0.8))).up[1], 0.9)

    def test_it_lies_a_hair_above_what_it_met(self):
        found = project(sheet(8, 4.0), decal(position=(2, 0, 2)))
        np.testing.assert_allclose(found.positions[:, 1], LIFT, atol=1e-5)


class Faded(unittest.TestCase):
    def test_by_angle_as_smoothstep_over_the_soft_degrees(self):
        for lean in (10, 45, 52, 58, 64):
            up = np.array([0, np.sin(np.radians(lean)), np.cos(np.radians(lean))])
            mesh = square((-5, -5 * up[1], -5 * up[2]), (0, 10 * up[1], 10 * up[2]), (10, 0, 0))
            found = project(mesh, decal(width=0.5, height=0.5, depth=4, angle=60, soft=20))
            t = np.clip((60 - lean) / 20, 0, 1)
            np.testing.assert_allclose(found.colour[:, 3], t * t * (3 - 2 * t), atol=2e-3, err_msg=f"{lean}°")

    def test_opacity_scales_and_the_last_tenth_of_the_depth_fades(self):
        flat = sheet(4, 4.0)
        half = project(flat, decal(position=(2, 0, 2), opacity=0.5))
        np.testing.assert_allclose(half.colour[:, 3], 0.5, atol=1e-6)
        for above, expected in ((0.0, 1.0), (0.44, 1.0), (0.475, 0.5), (0.495, 0.1)):
            found = project(flat, decal(position=(2, above, 2), depth=1.0))
            np.testing.assert_allclose(found.colour[:, 3], expected, atol=1e-4, err_msg=f"{above} m above")


class OnASite(unittest.TestCase):
    def test_receivers_order_and_hidden_ones(self):
        site = small_site()
        site.put("low", decal(name="low", order=1))
        site.put("high", decal(name="high", order=2))
        site.put("gone", decal(name="gone", order=3, visible=False))
        self.assertEqual([key for key, _ in stacked(scene_of(site))], ["low", "high"])
        site.put("high", decal(name="high", order=0))
        self.assertEqual([key for key, _ in stacked(scene_of(site))], ["high", "low"])

    def test_it_falls_on_all_it_meets_or_on_what_was_chosen(self):
        site = small_site()
        plan = decal(position=(0, 0.4, -1.75), width=2, height=3, depth=4, facing=(0, 0.6, 0.8), soft=0)
        scene = scene_of(site)
        both = decal_mesh(scene, plan).face_areas().sum()
        alone = [
            decal_mesh(scene, plan.model_copy(update={"receivers": [owner]})).face_areas().sum()
            for owner in ("ground", "wall")
        ]
        self.assertAlmostEqual(both, sum(alone), delta=1e-4)
        self.assertGreater(min(alone), 0.5)

    def test_it_follows_the_ground_and_its_address_what_it_depends_on(self):
        site = small_site()
        plan = decal(position=(3, 0, 3), depth=4, receivers=["ground"])
        before, level = decal_mesh.ref(scene_of(site), plan).key, decal_mesh(scene_of(site), plan)
        self.assertEqual(
            before, decal_mesh.ref(scene_of(site), plan.model_copy(update={"picture": "leak", "order": 7})).key
        )
        self.assertNotEqual(before, decal_mesh.ref(scene_of(site), plan.model_copy(update={"turn": 5.0})).key)
        site.put("wall", PiecePlan(name="wall", asset="wall", position=(0, 0, -3)))
        self.assertEqual(before, decal_mesh.ref(scene_of(site), plan).key, "the wall receives nothing of it")
        site.ground = site.ground.model_copy(update={"forms": [Mound(centre=(3, 3), radius=4, height=0.8)]})
        self.assertNotEqual(before, decal_mesh.ref(scene_of(site), plan).key)
        risen = decal_mesh(scene_of(site), plan)
        self.assertAlmostEqual(risen.positions[:, 1].max() - level.positions[:, 1].max(), 0.8, delta=0.02)


if __name__ == "__main__":
    unittest.main()
