"""Files in and out: good ones, broken ones, hostile ones; GLB judged by the Khronos validator."""

import csv
import io
import json
import struct
import subprocess
import tempfile
import unittest
import zipfile
from pathlib import Path

import numpy as np
import pygltflib as gl
import trimesh
from PIL import Image

from cenote_core.errors import CenoteError
from cenote_core.formats.model import proposed_settings, read_model, settled_asset
from cenote_core.handover import hand_over
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.plan import (
    AssetShare,
    Basin,
    BeadsPlan,
    DecalPlan,
    DriftPlan,
    PatinaPlan,
    PatinaUse,
    Water,
    WeatherPlan,
)

from .helpers import CACHE, drift, scene_of, small_site

ROOT = Path(__file__).resolve().parent.parent.parent


def box_glb(**material):
    mesh = trimesh.creation.box(extents=(2, 1, 0.5))
    picture = Image.fromarray(np.full((32, 32, 3), (200, 40, 10), np.uint8))
    mesh.visual = trimesh.visual.TextureVisuals(
        uv=np.random.default_rng(1).random((len(mesh.vertices), 2)),
        material=trimesh.visual.material.PBRMaterial(
            name="shell", baseColorTexture=picture, roughnessFactor=0.3, metallicFactor=0.1, **material
        ),
    )
    return mesh.export(file_type="glb")


def glb_of(document, binary=b""):
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    binary += b"\0" * (-len(binary) % 4)
    body = struct.pack("<I4s", len(text), b"JSON") + text
    if binary:
        body += struct.pack("<I4s", len(binary), b"BIN\0") + binary
    return b"glTF" + struct.pack("<II", 2, 12 + len(body)) + body


class Reading(unittest.TestCase):
    def test_glb_keeps_transforms_slots_and_textures(self):
        scene = trimesh.Scene()
        one = trimesh.load(io.BytesIO(box_glb()), file_type="glb", force="mesh")
        scene.add_geometry(one, node_name="a", transform=trimesh.transformations.translation_matrix([10, 0, 0]))
        scene.add_geometry(one, node_name="b", transform=trimesh.transformations.scale_matrix(2))
        model = read_model(scene.export(file_type="glb"), "two.glb")
        low, high = model.mesh.bounds()
        np.testing.assert_allclose([low, high], [[-2, -1, -0.5], [11, 1, 0.5]], atol=1e-5)
        self.assertEqual(model.parts, 2)
        self.assertEqual(model.mesh.slot_names, ("shell",))
        self.assertGreater(int(model.materials[0].colour[..., 0].mean()), 180)
        self.assertAlmostEqual(model.materials[0].roughness.mean() / 255, 0.3, delta=0.01)
        self.assertIsNotNone(model.mesh.base_uv)

    def test_obj_with_mtl_and_picture_in_a_zip(self):
        picture = io.BytesIO()
        Image.new("RGB", (16, 16), (10, 200, 30)).save(picture, "PNG")
        obj = "mtllib m.mtl\nv 0 0 0\nv 100 0 0\nv 0 100 0\nvt 0 0\nvt 1 0\nvt 0 1\nusemtl leaf\nf 1/1 2/2 3/3\n"
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("thing/a.obj", obj)
            archive.writestr("thing/m.mtl", "newmtl leaf\nmap_Kd tex/p.png\n")
            archive.writestr("thing/tex/p.png", picture.getvalue())
        model = read_model(out.getvalue(), "a.zip")
        self.assertEqual(model.mesh.triangle_count, 1)
        self.assertGreater(int(model.materials[0].colour[..., 1].mean()), 150)
        self.assertEqual(proposed_settings(model).scale, 0.01)

    def test_ply_and_stl_and_vertex_colours(self):
        mesh = trimesh.creation.box(extents=(1, 1, 1))
        mesh.visual.vertex_colors = np.tile([255, 0, 0, 255], (len(mesh.vertices), 1))
        model = read_model(mesh.export(file_type="ply"), "b.ply")
        np.testing.assert_allclose(model.mesh.colour[:, :3], np.tile([1, 0, 0], (len(model.mesh.colour), 1)), atol=0.01)
        self.assertEqual(read_model(mesh.export(file_type="stl"), "b.stl").mesh.triangle_count, 12)

    def test_settled_asset_stands_upright_on_its_foot(self):
        mesh = trimesh.creation.box(extents=(100, 200, 300))  # 3 m high in centimetres, z up
        model = read_model(mesh.export(file_type="stl"), "b.stl")
        proposal = proposed_settings(model)
        self.assertEqual((proposal.scale, proposal.up), (0.01, "z"))
        low, high = settled_asset(model, "import-x", "box", proposal.scale, proposal.up).lods[0].bounds()
        np.testing.assert_allclose([low, high], [[-0.5, 0, -1], [0.5, 3, 1]], atol=1e-5)

    def test_broken_triangles_are_left_out_and_counted(self):
        obj = "v 0 0 0\nv 1 0 0\nv 0 1 0\nv nan 0 0\nf 1 2 3\nf 1 2 3\nf 1 1 2\nf 1 2 4\n"
        model = read_model(obj.encode(), "x.obj")
        self.assertEqual(model.mesh.triangle_count, 1)
        self.assertTrue(any("broken triangles" in w for w in model.warnings), model.warnings)


class Refusing(unittest.TestCase):
    def refused(self, data, name, words):
        with self.assertRaises(CenoteError) as caught:
            read_model(data, name)
        self.assertRegex(str(caught.exception), words)

    def test_each_gets_a_sentence(self):
        good = box_glb()
        self.refused(b"", "a.glb", "empty")
        self.refused(good[: len(good) // 2], "a.glb", "cut short")
        self.refused(b"\x89PNG" + b"0" * 99, "a.glb", "not a GLB")
        self.refused(b"hello", "a.docx", "not read")
        self.refused(b"PK\x03\x04junk", "a.zip", "damaged")
        self.refused(b"{not json", "a.gltf", "JSON")
        self.refused(b'{"asset": {"version": "1.0"}}', "a.gltf", "version 2")
        self.refused(b"ply\nformat ascii 1.0\nelement vertex 3\n", "a.ply", "damaged|no triangles")
        self.refused(b"v 0 0 0\nv 1 1 1\n", "a.obj", "no triangles|damaged")
        self.refused(b"solid x\nendsolid x\n", "a.stl", "no triangles|damaged")

    def test_hostile_gltf(self):
        asset = {"version": "2.0"}
        ring = {"asset": asset, "nodes": [{"children": [1]}, {"children": [0]}], "scenes": [{"nodes": [0]}]}
        self.refused(glb_of(ring), "a.glb", "ring")
        self.refused(glb_of({"asset": asset, "nodes": [{"children": [7]}]}), "a.glb", "does not exist")
        self.refused(glb_of({"asset": asset, "nodes": [{}] * 30_000}), "a.glb", "at most 20,000")
        many = [{"primitives": [{"attributes": {}}] * 15_000}]
        self.refused(glb_of({"asset": asset, "meshes": many * 2}), "a.glb", "30,000 parts of meshes; at most 20,000")
        self.refused(
            glb_of({"asset": asset, "meshes": many, "nodes": [{"mesh": 0}] * 5}), "a.glb", "75,000 parts of meshes"
        )
        self.refused(
            glb_of({"asset": asset, "buffers": [{"uri": "there.bin", "byteLength": 4}]}), "a.glb", "another file"
        )
        beyond = {
            "asset": asset,
            "buffers": [{"byteLength": 12}],
            "bufferViews": [{"buffer": 0, "byteLength": 12}],
            "accessors": [{"bufferView": 0, "componentType": 5126, "count": 900, "type": "VEC3"}],
        }
        self.refused(glb_of(beyond, b"\0" * 12), "a.glb", "beyond its data")
        beyond["bufferViews"][0]["byteLength"] = 999
        self.refused(glb_of(beyond, b"\0" * 12), "a.glb", "shorter than")
        self.refused(
            glb_of({"asset": asset, "extensionsRequired": ["KHR_draco_mesh_compression"]}),
            "a.glb",
            "without compression",
        )
        self.refused(glb_of({"asset": asset, "nodes": 5}), "a.glb", "contradicts")

    def test_index_out_of_range(self):
        positions = np.array([[0, 0, 0], [1, 0, 0], [0, 1, 0]], np.float32).tobytes()
        indices = np.array([0, 1, 9], np.uint32).tobytes()
        document = {
            "asset": {"version": "2.0"},
            "scene": 0,
            "scenes": [{"nodes": [0]}],
            "nodes": [{"mesh": 0}],
            "meshes": [{"primitives": [{"attributes": {"POSITION": 0}, "indices": 1}]}],
            "buffers": [{"byteLength": 48}],
            "bufferViews": [{"buffer": 0, "byteLength": 36}, {"buffer": 0, "byteOffset": 36, "byteLength": 12}],
            "accessors": [
                {"bufferView": 0, "componentType": 5126, "count": 3, "type": "VEC3"},
                {"bufferView": 1, "componentType": 5125, "count": 3, "type": "SCALAR"},
            ],
        }
        self.refused(glb_of(document, positions + indices), "a.glb", "broken|damaged")

    def test_zip_bomb(self):
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr("a.obj", b"0" * 50_000_000)
        self.refused(out.getvalue(), "a.zip", "would unpack")

    def test_picture_of_absurd_size(self):
        huge = io.BytesIO()
        Image.new("1", (30_000, 30_000)).save(huge, "PNG")
        obj = "mtllib m.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvt 0 0\nusemtl a\nf 1/1 2/1 3/1\n"
        out = io.BytesIO()
        with zipfile.ZipFile(out, "w") as archive:
            archive.writestr("a.obj", obj)
            archive.writestr("m.mtl", "newmtl a\nmap_Kd p.png\n")
            archive.writestr("p.png", huge.getvalue())
        self.refused(out.getvalue(), "a.zip", "8192")


class HandingOver(unittest.TestCase):
    def test_glb_passes_the_khronos_validator(self):
        site = small_site()
        site.put(
            "d",
            DriftPlan(
                name="grass",
                assets=[AssetShare(asset="grass_low"), AssetShare(asset="fern_full")],
                surfaces=["ground/ground"],
                density=3,
            ),
        )
        site.put("m", PatinaPlan(name="moss", uses=[PatinaUse(surface="wall/stone")]))
        site.put("c", DecalPlan(name="crack", position=(0, 0.8, -1.8), facing=(0, 0, 1)))
        site.put("b", BeadsPlan(name="dew", size=8, crowded=0.1, between=0, uses=[PatinaUse(surface="wall/coping")]))
        site.weather = WeatherPlan(snow=4.0, standing=20.0, icicles=30.0, rain=6.0)
        pond = [Basin(centre=(3, 3), radius=2, floor=-0.5, rim=0, inside=1), Water(centre=(3, 3), level=-0.2, murk=0.4)]
        site.ground = site.ground.model_copy(update={"forms": pond})
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            result = hand_over(scene_of(site), "test", folder, lambda stage, share: None)
            script = (
                "const v=require('gltf-validator'),fs=require('fs');"
                "v.validateBytes(new Uint8Array(fs.readFileSync(process.argv[1]))).then(r=>console.log(JSON.stringify(r)))"
            )
            done = subprocess.run(
                ["node", "-e", script, str(folder / "site.glb")],
                cwd=ROOT / "web",
                capture_output=True,
                text=True,
                check=True,
            )
            report = json.loads(done.stdout)
            errors = [m for m in report["issues"]["messages"] if m["severity"] == 0]
            self.assertEqual(report["issues"]["numErrors"], 0, errors[:5])
            self.assertIn("EXT_mesh_gpu_instancing", report["info"]["extensionsUsed"])
            rows = (folder / "instances.csv").read_text().splitlines()
            self.assertEqual(len(rows) - 1, result["instances"])
            self.assertGreater(result["instances"], 100)
            nodes = {node.name for node in gl.GLTF2().load(str(folder / "site.glb")).nodes}
            self.assertIn("still water 1", nodes)
            self.assertLessEqual(
                {"snow on wall", "snow on ground", "water on ground", "ice on wall", "drops on wall", "dew on wall"},
                nodes,
            )
            again = read_model((folder / "site.glb").read_bytes(), "site.glb")
            self.assertGreater(again.mesh.triangle_count, 1000)

    def test_mirrored_ones_are_handed_over_as_a_mirrored_mesh(self):
        site = small_site()
        site.put("d", drift(assets=["bramble"], density=4))
        with tempfile.TemporaryDirectory() as name:
            hand_over(scene_of(site), "test", Path(name), lambda stage, share: None)
            document = gl.GLTF2().load(str(Path(name) / "site.glb"))
            rows = list(csv.DictReader((Path(name) / "instances.csv").read_text().splitlines()))
            lots = json.loads((Path(name) / "instances.json").read_text())
        # The two tables say the same.
        self.assertEqual(lots["count"], len(rows))
        by_columns = [
            (lot["drift"], lot["asset"], lot["identity"][n], *lot["position"][n], *lot["turn_xyzw"][n], lot["scale"][n])
            for lot in lots["lots"]
            for n in range(len(lot["identity"]))
        ]
        named = ("drift", "asset", "identity"), ("x", "y", "z", "qx", "qy", "qz", "qw", "scale")
        by_rows = [(*(row[c] for c in named[0]), *(float(row[c]) for c in named[1])) for row in rows]
        self.assertEqual(by_columns, by_rows)
        nodes = [node for node in document.nodes if "EXT_mesh_gpu_instancing" in node.extensions]
        counts, spans = {}, {}
        for node in nodes:
            mesh = document.meshes[node.mesh]
            mirrored = mesh.name.endswith(", mirrored")
            attributes = node.extensions["EXT_mesh_gpu_instancing"]["attributes"]
            counts[mirrored] = document.accessors[attributes["TRANSLATION"]].count
            at = document.accessors[mesh.primitives[0].attributes.POSITION]
            spans[mirrored] = (at.min[0], at.max[0])
            self.assertGreater(min(document.accessors[attributes["SCALE"]].min or [1]), 0)
        np.testing.assert_allclose(spans[True], (-spans[False][1], -spans[False][0]), atol=1e-5)
        self.assertEqual(counts[True], sum(row["mirrored"] == "1" for row in rows))
        self.assertEqual(counts[False], sum(row["mirrored"] == "0" for row in rows))

    def test_a_mirrored_mesh_looks_outward_and_is_as_large(self):
        mesh = BuiltinKit(CACHE).asset("crate").lods[0]
        over = mesh.mirrored()
        self.assertAlmostEqual(float(mesh.face_areas().sum()), float(over.face_areas().sum()), places=5)
        np.testing.assert_allclose(over.face_normals() * [-1, 1, 1], mesh.face_normals(), atol=1e-5)
