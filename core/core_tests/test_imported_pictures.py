"""Pictures of imported models: metalness place by place, occlusion, glow, holes, and their full size."""

import unittest

import numpy as np
import trimesh
from PIL import Image

from cenote_core.formats.model import read_model

SIDE = 2048


def halves(left, right, side=SIDE):
    """A picture of two colours side by side."""
    out = np.empty((side, side, len(left)), np.uint8)
    out[:, : side // 2], out[:, side // 2 :] = left, right
    return Image.fromarray(out)


def read(**material):
    mesh = trimesh.creation.box(extents=(1, 1, 1))
    uv = np.random.default_rng(1).random((len(mesh.vertices), 2))
    mesh.visual = trimesh.visual.TextureVisuals(
        uv=uv, material=trimesh.visual.material.PBRMaterial(name="m", **material)
    )
    return read_model(mesh.export(file_type="glb"), "m.glb").materials[0]


class Pictures(unittest.TestCase):
    def test_metalness_is_kept_place_by_place(self):
        made = read(
            baseColorTexture=halves((120, 120, 120), (120, 120, 120)),
            metallicRoughnessTexture=halves((255, 80, 255), (255, 200, 0)),
            metallicFactor=1.0, roughnessFactor=1.0,
        )  # fmt: skip
        self.assertEqual(made.metal.shape, (SIDE, SIDE))
        np.testing.assert_allclose(made.metal[:, 100], 255, atol=2)
        np.testing.assert_allclose(made.metal[:, -100], 0, atol=2)
        self.assertAlmostEqual(made.metalness, 0.5, delta=0.02)
        self.assertEqual(made.told_metal, -1.0)
        np.testing.assert_allclose(made.roughness[:, 100], 80, atol=3)

    def test_pictures_keep_two_thousand_texels(self):
        fine = np.indices((SIDE, SIDE)).sum(axis=0) % 2 * np.uint8(255)
        made = read(baseColorTexture=Image.fromarray(np.dstack([fine] * 3).astype(np.uint8)))
        self.assertEqual(made.size, SIDE)
        self.assertGreater(made.colour.std(), 110)

    def test_occlusion_darkens_and_glow_lightens(self):
        base = halves((128, 128, 128), (128, 128, 128), 64)
        dark = read(baseColorTexture=base, occlusionTexture=halves((40, 40, 40), (255, 255, 255), 64))
        self.assertLess(int(dark.colour[:, 5, 0].max()), int(dark.colour[:, -5, 0].min()) - 30)
        glow = read(
            baseColorTexture=base, emissiveTexture=halves((255, 0, 0), (0, 0, 0), 64), emissiveFactor=[1.0, 1.0, 1.0]
        )
        self.assertGreater(int(glow.colour[:, 5, 0].min()), 250)
        np.testing.assert_allclose(glow.colour[:, -5], 128, atol=3)

    def test_what_is_masked_has_holes_and_no_metal_in_their_place(self):
        made = read(
            baseColorTexture=halves((90, 120, 60, 255), (90, 120, 60, 0), 64), alphaMode="MASK", alphaCutoff=0.5
        )
        self.assertEqual((int(made.alpha[0, 5]), int(made.alpha[0, -5])), (255, 0))
        self.assertIs(made.fourth, made.alpha)
        self.assertIsNone(made.metal)
