"""Meshes as real models have them: repeated corners, needles, single points, huge and tiny coordinates, nothing at all."""

import unittest

import numpy as np

from cenote_core.decals.project import project
from cenote_core.errors import CenoteError
from cenote_core.formats.model import Model, settled_asset
from cenote_core.kinds import KINDS
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.measures import MEASURES
from cenote_core.mesh.mesh import (
    PER_VERTEX,
    Mesh,
    cleaned,
    face_areas,
    face_normals,
    make_mesh,
    part,
    vertex_normals,
    with_box_uv,
)
from cenote_core.mesh.nearest import segment_tree, triangle_tree
from cenote_core.mesh.rays import RayScene
from cenote_core.mesh.refine import refine
from cenote_core.mesh.tangents import tangents
from cenote_core.mesh.texels import texel_table
from cenote_core.mesh.unwrap import unwrap
from cenote_core.plan import BeadsPlan, DecalPlan, PatinaPlan, PatinaUse, PiecePlan, WeatherPlan, rule_of
from cenote_core.proof_scene.edges import sharp_edges
from cenote_core.scene.scene import Scene
from cenote_core.soundness import OURS, sound

from .helpers import CACHE, drift, gate, small_site
from .test_distances import segment_distances

BOX = np.array([[x, y, z] for x in (0, 1) for y in (0, 1) for z in (0, 1)], float)
SIDES = np.array([[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3]])  # fmt: skip


def with_more(positions, faces=()):
    """The box with more vertices and faces, which count from the first of the new ones."""
    more = np.array(faces, int).reshape(-1, 3) + len(BOX)
    return np.concatenate([BOX, np.asarray(positions, float).reshape(-1, 3)]), np.concatenate([SIDES, more])


BAD = {
    "two corners in one place": with_more([[0, 0, 0], [0, 0, 0], [1, 0, 0]], [[0, 1, 2]]),
    "one corner twice": with_more([[0, 0, 0], [1, 0, 0]], [[0, 0, 1], [0, 1, 1], [1, 0, 1]]),
    "a single point": with_more([[2, 2, 2]], [[0, 0, 0]]),
    "a needle": with_more([[0, 1, 0], [1, 1, 0], [0.5, 1 + 1e-9, 0]], [[0, 1, 2]]),
    "all on one line": with_more([[0, 2, 0], [1, 2, 0], [3, 2, 0]], [[0, 1, 2]]),
    "the same face twice": (BOX, np.concatenate([SIDES, SIDES[:3]])),
    "tiny": (BOX * 1e-5, SIDES),
    "huge": (BOX * 1e4, SIDES),
    "far off": (BOX + 1e5, SIDES),
    "flat": (BOX * [1, 0, 1], SIDES),
    "no faces": (BOX, np.zeros((0, 3), int)),
    "nothing": (np.zeros((0, 3)), np.zeros((0, 3), int)),
    "not a number": with_more([[np.nan, 0, 0], [1, 0, 0], [0, 1, 0]], [[0, 1, 2]]),
}


class Kernels(unittest.TestCase):
    """Everything that takes a mesh takes these: results are finite, nothing raises but in words."""

    def each(self, look):
        for name, (positions, faces) in BAD.items():
            with self.subTest(name), np.errstate(all="ignore"):
                look(cleaned(make_mesh(positions, faces)))

    def test_areas_normals_and_tangents(self):
        def look(sound_one):
            for values in (
                face_areas(sound_one.positions, sound_one.faces),
                face_normals(sound_one.positions, sound_one.faces),
                vertex_normals(sound_one.positions, sound_one.faces),
                tangents(sound_one.positions, sound_one.faces, sound_one.normals, sound_one.uv),
                with_box_uv(sound_one).uv,
            ):
                self.assertTrue(np.isfinite(values).all())

        self.each(look)

    def test_nearest(self):
        points = np.random.default_rng(2).random((200, 3)) * 3 - 1

        def look(mesh):
            found, which = triangle_tree(mesh.positions, mesh.faces).nearest(points, 1000.0)
            self.assertTrue(np.isfinite(found).all())
            if len(mesh.faces):
                # No farther than the nearest corner, no nearer than the box all lies in.
                corners = np.linalg.norm(points[:, None] - mesh.positions[np.unique(mesh.faces)], axis=2).min(axis=1)
                self.assertTrue((found <= np.minimum(corners, 1000.0) + 1e-4 * (1 + corners)).all())

        self.each(look)

    def test_flat_triangles_are_segments(self):
        """Against segments by brute force, whichever corner repeats or lies between the others."""
        rng = np.random.default_rng(3)
        points, start, end = rng.random((300, 3)) * 4 - 2, rng.random((40, 3)), rng.random((40, 3))
        between = start + (end - start) * rng.random((40, 1))
        expected = segment_distances(points, start, end).min(axis=1)
        for corners in (
            (start, start, end),
            (start, end, end),
            (start, end, start),
            (start, between, end),
            (between, end, start),
        ):
            positions = np.stack(corners, axis=1).reshape(-1, 3)
            found = triangle_tree(positions, np.arange(120).reshape(-1, 3)).distance(points)
            np.testing.assert_allclose(found, expected, atol=1e-7)
        np.testing.assert_allclose(segment_tree(start, end).distance(points), expected, atol=1e-9)

    def test_rays_texels_unwrap_edges_and_cuts(self):
        down = np.tile(np.array([0, -1, 0], np.float32), (9, 1))
        at = np.column_stack([np.linspace(-1, 2, 9), np.full(9, 3.0), np.linspace(-1, 2, 9)]).astype(np.float32)

        def look(mesh):
            whole = unwrap(mesh)
            self.assertTrue(np.isfinite(whole.uv2).all())
            met = RayScene(whole.positions, whole.faces).meet(at, down, 100.0)
            self.assertTrue(np.isfinite(met.positions[met.hit]).all())
            if not len(whole.faces):
                with self.assertRaisesRegex(CenoteError, "no triangles"):
                    texel_table(whole, 64)
                return
            table = texel_table(whole, 64)
            self.assertTrue(np.isfinite(table.points.positions).all() and np.isfinite(table.points.normals).all())
            self.assertTrue(np.isfinite(sharp_edges(whole)).all())
            cut = project(whole, DecalPlan(name="c", position=(0.5, 1, 0.5), facing=(0, 1, 0)), "x")
            self.assertTrue(cut is None or np.isfinite(cut.positions).all())
            finer = refine(whole.positions, whole.faces, lambda p: np.full(len(p), 0.4), 4000)
            self.assertTrue(np.isfinite(finer.values).all())

        self.each(look)


class OneMore(BuiltinKit):
    """The kit with an asset brought in."""

    def __init__(self, asset, name):
        super().__init__(CACHE)
        self.asset_, self.name = asset, name

    def asset_ref(self, asset_id):
        from cenote_core.graph.derived import Key, Ref
        from cenote_core.hashing import content_hash

        if asset_id != "import-bad":
            return super().asset_ref(asset_id)
        key = content_hash("bad", self.name)
        return Ref(Key(key, "bad", (), frozenset([key]), False), lambda: self.asset_, CACHE, "memory")


class BroughtIn(unittest.TestCase):
    """Such a model on a site: read, settled, weathered, planted round and snowed on; the site goes on."""

    def site(self):
        site = small_site()
        site.put("bad", PiecePlan(name="bad", asset="import-bad", position=(3, 0, 2)))
        site.put("d", drift(surfaces=["ground/ground", "bad/body"], density=4))
        rules = [
            rule_of(name, gate=gate(-9e3, -9e3, 9e3, 9e3))
            for name in MEASURES
            if name not in ("image", "laid", "painted", "camera")
        ]
        site.put(
            "m",
            PatinaPlan(name="moss", rules=rules, uses=[PatinaUse(surface="bad/body"), PatinaUse(surface="wall/stone")]),
        )
        site.put("c", DecalPlan(name="crack", position=(3, 1, 2), facing=(0, 1, 0)))
        site.put("b", BeadsPlan(name="dew", size=8, crowded=0.1, between=0, uses=[PatinaUse(surface="bad/body")]))
        site.weather = WeatherPlan(snow=4.0, standing=20.0, icicles=30.0, rain=6.0)
        return site

    def test_each(self):
        for name, (positions, faces) in BAD.items():
            with self.subTest(name), np.errstate(all="ignore"):
                mesh = cleaned(make_mesh(positions, faces))
                if not len(mesh.faces):
                    continue
                asset = settled_asset(Model(mesh, [], 1, [], "obj"), "import-bad", name, 1.0, "y")
                scene = Scene(self.site(), OneMore(asset, name), CACHE)
                found, reasons = sound(scene)
                # A spacing that a model in a wrong unit does not allow is refused in words, and nothing else.
                self.assertEqual(set(reasons), {"d"} if name == "huge" else set(), reasons)
                self.assertNotIn(OURS, reasons.values())
                scene = Scene(found, scene.kit, CACHE)
                for kind in KINDS.values():
                    for key, plan in found.items[kind.name].items():
                        if kind.effect:
                            kind.effect(scene, key, plan)


class Arrays(unittest.TestCase):
    def test_a_mesh_checks_its_arrays_when_it_is_made(self):
        mesh = make_mesh(BOX, SIDES)
        for name in PER_VERTEX:
            values = {n: getattr(mesh, n) for n in (*PER_VERTEX, "faces", "slots")}
            values[name] = np.zeros((7, 4), np.float32)
            with self.assertRaisesRegex(ValueError, name if name != "positions" else "vertices"):
                Mesh(**values)
        with self.assertRaisesRegex(ValueError, "slots"):
            Mesh(mesh.positions, mesh.faces, mesh.normals, mesh.uv, mesh.slots[:3])

    def test_parts_and_unwraps_carry_all_there_is_at_vertices(self):
        rng = np.random.default_rng(4)
        more = {
            name: rng.random((8, 4 if name in ("colour", "sway") else 2)).astype(np.float32)
            for name in ("colour", "sway", "base_uv", "uv2")
        }
        mesh = make_mesh(BOX, SIDES)
        mesh = Mesh(mesh.positions, mesh.faces, mesh.normals, mesh.uv, mesh.slots, **more)
        for made in (part(mesh, np.arange(12) < 5), unwrap(mesh), with_box_uv(mesh), cleaned(mesh), mesh.mirrored()):
            at = {tuple(p): k for k, p in enumerate((mesh.positions).tolist())}
            over = np.array([-1, 1, 1]) if made.positions.min() < 0 else 1
            source = [at[tuple(p)] for p in np.abs(made.positions * over).tolist()]
            for name in ("colour", "sway", "base_uv"):
                np.testing.assert_array_equal(getattr(made, name), more[name][source])


class Tangents(unittest.TestCase):
    def test_closed_forms(self):
        """A sheet whose u runs along −z and whose v along x: tangents along −z; turned over, the hand is the other one."""
        positions = np.array([[0, 0, 0], [1, 0, 0], [1, 0, -1], [0, 0, -1]], float)
        faces, up = np.array([[0, 1, 2], [0, 2, 3]]), np.tile([0.0, 1.0, 0.0], (4, 1))
        uv = np.column_stack([-positions[:, 2], positions[:, 0]])
        np.testing.assert_allclose(tangents(positions, faces, up, uv), np.tile([0, 0, -1, -1], (4, 1)), atol=1e-6)
        np.testing.assert_allclose(
            tangents(positions, faces, up, uv[:, ::-1]), np.tile([1, 0, 0, 1], (4, 1)), atol=1e-6
        )

    def test_they_are_square_to_normals_and_of_unit_length(self):
        rng = np.random.default_rng(5)
        positions, faces = rng.random((60, 3)), rng.integers(0, 60, (90, 3))
        normals = rng.normal(size=(60, 3))
        normals /= np.linalg.norm(normals, axis=1, keepdims=True)
        found = tangents(positions, faces, normals, rng.random((60, 2)))
        np.testing.assert_allclose(np.linalg.norm(found[:, :3], axis=1), 1, atol=1e-5)
        np.testing.assert_allclose(np.einsum("ij,ij->i", found[:, :3], normals), 0, atol=1e-5)
        self.assertEqual(set(found[:, 3].tolist()), {-1.0, 1.0})
