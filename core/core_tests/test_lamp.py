"""Lamps: their colours against published figures, their light at a spot, in the plate, in proofs and in files."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
import pygltflib as gl

from cenote_core.base.packet import unpack
from cenote_core.explained import why_here
from cenote_core.handover import hand_over
from cenote_core.kinds import KINDS
from cenote_core.kinds.kind import Draft
from cenote_core.light.photometry import LUX, glow, planckian
from cenote_core.materials.material import LUMINANCE
from cenote_core.plan.kinds.lamp import LampPlan
from cenote_core.proof_scene.tables import Tables

from .helpers import scene_of, small_site

BULB = LampPlan(name="bulb", position=(0.0, 3.0, 0.0), lumens=4 * np.pi * 90, temperature=2856, radius=0.05)
KIND = KINDS["lamp"]


class Colours(unittest.TestCase):
    def test_chromaticities_are_those_published(self):
        # CIE 015: illuminant A is a black body at 2856 K; the others as tabulated for black bodies.
        for kelvin, x, y in (
            (2856, 0.4476, 0.4074),
            (2000, 0.5267, 0.4133),
            (4000, 0.3805, 0.3768),
            (6500, 0.3135, 0.3237),
            (10000, 0.2807, 0.2884),
        ):
            np.testing.assert_allclose(planckian(kelvin), (x, y), atol=0.002)

    def test_colours_go_from_red_to_blue_and_are_all_as_bright(self):
        found = np.array([glow(kelvin) for kelvin in range(1700, 12000, 100)])
        np.testing.assert_allclose(found @ LUMINANCE, 1.0, rtol=1e-9)
        ratio = found[:, 2] / found[:, 0]
        self.assertTrue((np.diff(ratio) >= 0).all())
        self.assertLess(ratio[0], 0.05)
        self.assertGreater(ratio[-1], 1.2)


class OnASite(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        site = small_site()
        site.put("bulb", BULB)
        site.put("dark", BULB.model_copy(update={"lumens": 0.0, "name": "dark"}))
        site.put("hidden", BULB.model_copy(update={"visible": False, "name": "hidden"}))
        cls.scene = scene_of(site)

    def verdict(self, point):
        found = why_here(self.scene, "ground", np.array(point, float))
        return next((verdict for verdict in found if verdict.kind == "lamp"), None)

    def test_lux_at_a_spot_fall_with_the_square_and_the_cosine(self):
        for x in (0.0, 2.0):
            found = self.verdict((x, 0.0, 1.0))
            away = np.sqrt(x * x + 1 + 3.0**2)
            self.assertTrue(found.stands)
            lux = float(found.summary.split("gives ")[1].split()[0])
            # Told with three digits, two centimetres above the ground.
            self.assertAlmostEqual(lux, 90 * 3.0 / away**3, delta=0.03 * lux)

    def test_a_wall_between_stops_it(self):
        low, high = (np.asarray(corner, float) for corner in self.scene.mesh("wall").bounds())
        middle = (low + high) / 2
        off = np.array([0.0, 0.0, 0.6])
        site = small_site()
        site.put("bulb", BULB.model_copy(update={"position": tuple((middle + off).tolist())}))
        scene = scene_of(site)
        behind = middle - off * 1.5
        found = [v for v in why_here(scene, "ground", np.array([behind[0], 0.0, behind[2]])) if v.kind == "lamp"]
        self.assertEqual([(v.stands, v.summary) for v in found], [(False, "Something stands between.")])

    def test_only_those_that_shine_are_listed_traced_and_previewed_alike(self):
        listed = KIND.listed(self.scene, lambda *_: "")["lamps"]
        self.assertEqual([lamp.key for lamp in listed], ["bulb"])
        np.testing.assert_allclose(np.array(listed[0].intensity) @ LUMINANCE, 90 / LUX, rtol=1e-6)
        tables = Tables()

        class Shot:
            scene = self.scene

        KIND.emit(tables, Shot)
        self.assertEqual([tuple(lamp.intensity) for lamp in tables.lamps], [listed[0].intensity])
        draft = Draft(self.scene, self.scene, "bulb", BULB, None, 0, lambda *_: b"")
        self.assertEqual(unpack(KIND.preview(draft))[1]["intensity"], list(listed[0].intensity))

    def test_it_is_a_point_light_of_so_many_candela_in_the_file(self):
        with tempfile.TemporaryDirectory() as name:
            hand_over(self.scene, "test", Path(name), lambda stage, share: None, 64)
            document = gl.GLTF2().load(str(Path(name) / "site.glb"))
        lights = document.extensions["KHR_lights_punctual"]["lights"]
        (number,) = [k for k, light in enumerate(lights) if light["type"] == "point"]
        light = lights[number]
        self.assertEqual(light["name"], "bulb")
        self.assertAlmostEqual(light["intensity"] * float(np.array(light["color"]) @ LUMINANCE), 90, delta=0.01)
        (node,) = [
            node for node in document.nodes if (node.extensions or {}).get("KHR_lights_punctual") == {"light": number}
        ]
        self.assertEqual(node.translation, [0.0, 3.0, 0.0])

    def test_one_without_light_says_so_and_is_cured(self):
        effect = KIND.effect(self.scene, "dark", self.scene.site.plan_of("dark"))
        self.assertEqual((effect.amount, effect.reason), (0, "It gives no light."))
        self.assertEqual(KIND.effect(self.scene, "dark", LampPlan(**effect.plan)).amount, 800)
