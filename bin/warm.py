"""Run every compiled kernel once on something small, so that nobody waits for a compiler later."""

import os
import sys
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT)]

from cenote_core.decals.project import decal_mesh  # noqa: E402
from cenote_core.drifts.instancing import build_instances  # noqa: E402
from cenote_core.drifts.wind import wind_of  # noqa: E402
from cenote_core.graph.store import Cache  # noqa: E402
from cenote_core.ground.forms import line_distance  # noqa: E402
from cenote_core.kit.builtin import BuiltinKit  # noqa: E402
from cenote_core.light.radiance import shared_exponent  # noqa: E402
from cenote_core.measures.crown import crown  # noqa: E402
from cenote_core.patinas.bake import bake_maps  # noqa: E402
from cenote_core.plan import Arrangement  # noqa: E402
from cenote_core.plan.site import SitePlan  # noqa: E402
from cenote_core.proof_scene.drifts import placed  # noqa: E402
from cenote_core.proofs.prewarm import make_kernels  # noqa: E402
from cenote_core.proofs.upsampling import joint_bilateral_upsample  # noqa: E402
from cenote_core.scene.scene import Scene  # noqa: E402
from demo import tarn_halt  # noqa: E402

cache = Cache()
# Pictures and meshes of the kit are kept for whoever comes next; everything else is worked out, to reach its kernels.
kit = BuiltinKit(Cache(Path(os.environ["CENOTE_VAR"]) / "cache"))
site = SitePlan.from_items(tarn_halt.items())
site.ground = site.ground.model_copy(update={"cell": 2.0})
scene = Scene(site, kit, cache)
for number, (key, plan) in enumerate(site.drifts.items()):
    lies = plan.arrangement.model_copy(update={"even": number == 0})
    build_instances(scene, key, plan.model_copy(update={"spacing": 1.5 + number, "arrangement": lies}))
    print(f"  {number + 1} of {len(site.drifts) + 2}", flush=True)
# Kernels the demo's drifts do not reach.
arranged = Arrangement(regularity=0.6, by_size=True, clump=2.0)
stones = site.drifts["drift-stones"]
build_instances(scene, "drift-stones", stones.model_copy(update={"arrangement": arranged, "spacing": 1.4}))
crown(np.zeros((4, 3), np.float32), np.zeros((1, 3)), np.ones(1), np.ones(1))
line_distance(np.zeros((2, 2)), np.zeros((2, 2)), np.array([[0.0, 0.0], [1.0, 1.0]]))
kit.material("far.bracken.h13")
shared_exponent(np.zeros((2, 2, 3), np.float32))
# Of one patina: the pictures of all the others are made later, on all processors.
on_wall = [key for key, plan in site.patinas.items() if any(use.surface.startswith("wall/") for use in plan.uses)]
few = site
for key in set(site.patinas) - set(on_wall[:1]):
    few = few.without(key)
bake_maps(Scene(few, kit, cache), "wall", 128, 64)
colours, planes = ("colour", "normal", "sky_seen"), ("depth", "cover")
guides = {n: np.ones((4, 4, 3), np.float32) for n in colours} | {n: np.ones((4, 4), np.float32) for n in planes}
joint_bilateral_upsample(np.ones((2, 2, 3), np.float32), guides)
make_kernels()
stones_there = build_instances(scene, "drift-stones", stones)
lump = scene.kit.asset(stones.assets[0].asset).lods[-1]
placed(lump, np.zeros(len(lump.slot_names), np.int64), stones_there, wind_of(site.weather))
for decal in site.decals.values():
    decal_mesh(scene, decal)
