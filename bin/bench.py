"""The budgets of the design, measured. Every figure is a median; memory is the process's peak so far."""

from __future__ import annotations

import resource
import statistics
import sys
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT), str(ROOT / "bin")]

from bench_proofs import demo_scene  # noqa: E402

from cenote_core.base.noise import noise  # noqa: E402
from cenote_core.decals.project import project  # noqa: E402
from cenote_core.drifts.instancing import build_instances  # noqa: E402
from cenote_core.graph.store import Cache  # noqa: E402
from cenote_core.kit.builtin import BuiltinKit  # noqa: E402
from cenote_core.measures.height import height  # noqa: E402
from cenote_core.measures.hollow import HollowRule  # noqa: E402
from cenote_core.measures.noise import NoiseRule  # noqa: E402
from cenote_core.measures.slope import SlopeRule, slope  # noqa: E402
from cenote_core.mesh import engine  # noqa: E402
from cenote_core.mesh.mesh import make_mesh, points_on  # noqa: E402
from cenote_core.mesh.nearest import triangle_tree  # noqa: E402
from cenote_core.mesh.rays import RayScene  # noqa: E402
from cenote_core.mesh.texels import sample_map  # noqa: E402
from cenote_core.patinas.cover import owner_covers  # noqa: E402
from cenote_core.plan import AssetShare, DecalPlan, DriftPlan, Gate, GroundPlan, KeepOut, PiecePlan  # noqa: E402
from cenote_core.plan.site import SitePlan  # noqa: E402
from cenote_core.rules import apply_rule  # noqa: E402
from cenote_core.sampling.points import full_density, spaced_points  # noqa: E402
from cenote_core.scene import runoff_network  # noqa: E402
from cenote_core.scene.scene import PREVIEW_LIMIT, VIEW_LIMIT, Scene  # noqa: E402
from cenote_core.snags.drifts import twins  # noqa: E402
from demo import tarn_halt  # noqa: E402


def median(work: Callable[[], object], runs: int = 5) -> float:
    """Median seconds of several runs, after one that does not count."""
    work()
    times = []
    for _ in range(runs):
        started = time.perf_counter()
        work()
        times.append(time.perf_counter() - started)
    return statistics.median(times)


def memory() -> float:
    """Peak memory of this process, GB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6


def report(what: str, seconds: float, budget: str, more: str = "") -> None:
    print(f"{what:<58} {seconds:9.3f} s   budget {budget:<14} peak {memory():5.2f} GB  {more}", flush=True)


def terrain(cells: int, size: float):
    """A wavy sheet of 2 · cells² triangles with an unwrap."""
    x = np.linspace(0, size, cells + 1)
    gx, gz = np.meshgrid(x, x)
    gy = np.sin(gx / 7) * 2 + np.cos(gz / 5)
    a = (np.arange(cells)[:, None] * (cells + 1) + np.arange(cells)).ravel()
    n = cells + 1
    faces = np.concatenate([np.column_stack([a, a + n, a + 1]), np.column_stack([a + 1, a + n, a + n + 1])])
    return make_mesh(np.column_stack([gx.ravel(), gy.ravel(), gz.ravel()]), faces)


def points_with_rules(mesh, spacing: float):
    """Spaced points and six rules at each."""
    keys = np.arange(len(mesh.faces), dtype=np.uint64)
    found = spaced_points(mesh.positions, mesh.faces, keys, mesh.face_areas(), spacing, 1)
    points = points_on(mesh, found.face, found.bary)
    gate = Gate(rise_start=0.1, rise_end=0.4, fall_start=60, fall_end=80)
    shelter = np.linspace(0, 1, 512 * 512, dtype=np.float32).reshape(512, 512)
    amount = np.ones(len(found), np.float32)
    uv = (found.positions[:, [0, 2]] / 100).astype(np.float32)
    measured = (
        slope(points.normals),
        height(points.positions),
        sample_map(shelter, uv),
        noise(points.positions, 2, 3, 1),
        noise(points.positions, 9, 2, 2),
        noise(points.positions, 0.5, 2, 3),
    )
    for values in measured:
        apply_rule(amount, gate, 0.8, values)
    return found, amount


def spread(positions: np.ndarray, area: float) -> tuple[float, float]:
    """The least distance between any two points, and that as a share of the most so many could keep."""
    from scipy.spatial import cKDTree

    least = float(cKDTree(positions).query(positions, k=2)[0][:, 1].min())
    return least, least / float(np.sqrt(2 * area / (np.sqrt(3) * len(positions))))


def quality(positions: np.ndarray, mesh) -> str:
    """Least distance, relative radius (Lagae and Dutré 2008), and holes: how far the surface lies from the points.

    The relative radius is also given of the first half alone, which is what an artist sees who asks for half as many.
    """
    from scipy.spatial import cKDTree

    area, tree = float(mesh.face_areas().sum()), cKDTree(positions)
    (least, relative), (_, half) = (spread(some, area) for some in (positions, positions[: len(positions) // 2]))
    rng = np.random.default_rng(3)
    face = rng.choice(len(mesh.faces), 400_000, p=mesh.face_areas() / area)
    bary = rng.random((len(face), 2))
    bary = np.where(bary.sum(axis=1, keepdims=True) > 1, 1 - bary, bary)
    # The sheet ends at its rim, where no points of the other side help.
    off = tree.query(points_on(mesh, face, bary).positions)[0]
    mean = np.sqrt(area / len(positions))
    return (
        f"least distance {least:.4f} m, relative radius {relative:.3f}, of the first half {half:.3f},"
        f" holes up to {off.max():.3f} m ({off.max() / mean:.2f} of the mean distance),"
        f" {np.mean(off > 0.9 * mean):.2%} of the surface in holes"
    )


def sampling() -> None:
    mesh = terrain(316, 100.0)
    area = float(mesh.face_areas().sum())
    spacing = float(np.sqrt(area * full_density(1.0) / 1e6))
    found, _ = points_with_rules(mesh, spacing)
    report(
        f"{len(found):,} spaced points, six rules, 200 000 triangles",
        median(lambda: points_with_rules(mesh, spacing), 3),
        "3 s, 1 GB",
    )
    print("  growth:", end="")
    for count in (1e3, 1e4, 1e5, 1e6):
        s = float(np.sqrt(area * full_density(1.0) / count))
        keys = np.arange(len(mesh.faces), dtype=np.uint64)
        work = lambda s=s, keys=keys: spaced_points(mesh.positions, mesh.faces, keys, mesh.face_areas(), s, 1)  # noqa: E731
        print(f"  {count:,.0f}: {median(work, 3):.3f} s", end="", flush=True)
    print()
    peers(mesh, area)


def peers(mesh, area: float) -> None:
    """At equal count, as far as the peers' own methods allow."""
    count = 100_000
    keys = np.arange(len(mesh.faces), dtype=np.uint64)
    rates = {}
    for name, even in (("ours", False), ("ours, pushed apart", True)):
        spacing = float(np.sqrt(area * full_density(1.0, even) / count))
        work = lambda s=spacing, e=even: spaced_points(mesh.positions, mesh.faces, keys, mesh.face_areas(), s, 1, e)  # noqa: E731
        found = work()
        rates[name] = len(found) / median(work, 7)
        print(f"  {name}: {len(found):,} points, {rates[name]:,.0f}/s, {quality(found.positions, mesh)}")

    def against(other: float) -> str:
        return ", ".join(f"{name} {rate / other:.1f} times" for name, rate in rates.items())

    spacing = float(np.sqrt(area * full_density(1.0) / count))
    try:
        import trimesh

        surface = trimesh.Trimesh(mesh.positions, mesh.faces, process=False)
        started = time.perf_counter()
        even, _ = trimesh.sample.sample_surface_even(surface, count, radius=spacing, seed=1)
        other = len(even) / (time.perf_counter() - started)
        print(
            f"  trimesh sample_surface_even: {len(even):,} points, {other:,.0f}/s, {against(other)}; {quality(np.asarray(even), mesh)}"
        )
    except ImportError:
        print("  trimesh is not installed")
    try:
        import pymeshlab

        def disk(wanted: int):
            meshes = pymeshlab.MeshSet()
            meshes.add_mesh(pymeshlab.Mesh(mesh.positions.astype(float), mesh.faces))
            started = time.perf_counter()
            meshes.generate_sampling_poisson_disk(samplenum=wanted, exactnumflag=False)
            return meshes.current_mesh().vertex_matrix(), time.perf_counter() - started

        # It gives half as many again as it is asked for; so it is asked for fewer, to give as many as ours.
        few = len(disk(count // 10)[0])
        runs = [disk(round(count * (count // 10) / few)) for _ in range(3)]
        points, took = runs[0][0], statistics.median(seconds for _, seconds in runs)
        other = len(points) / took
        print(
            f"  pymeshlab Poisson disk: {len(points):,} points, {other:,.0f}/s, {against(other)}; {quality(points, mesh)}"
        )
    except ImportError:
        print("  pymeshlab is not installed (bin/bench --peers)")


def drifts() -> None:
    """Whole drifts on a field, from places to turned and tinted instances, rules and keep-outs included."""
    cache = Cache()
    site = SitePlan()
    site.ground = GroundPlan(width=260, depth=260, cell=0.5, amount=4, feature=20)
    site.put("wall", PiecePlan(name="w", asset="wall", position=(0, 0, 0)))
    counts, seconds = [], []
    print("  drifts of two assets, three rules, a keep-out:", end="", flush=True)
    for wanted in (1e3, 1e4, 1e5, 1e6):
        spacing = float(np.sqrt(260**2 * full_density(1.0) * 0.75 / wanted))
        plan = DriftPlan(
            name="d",
            assets=[AssetShare(asset="grass_mid"), AssetShare(asset="grass_low")],
            surfaces=["ground/ground"],
            density=10_000,
            spacing=spacing,
            headroom=0.2,
            keep_outs=[KeepOut(of="pieces", clearance=0.02)],
            rules=[
                SlopeRule(gate=Gate(rise_start=0, rise_end=0, fall_start=40, fall_end=60)),
                NoiseRule(gate=Gate(rise_start=0.2, rise_end=0.4, fall_start=1, fall_end=1), size=6),
                HollowRule(gate=Gate(rise_start=-90, rise_end=-90, fall_start=90, fall_end=90)),
            ],
        )
        runs = []
        for run in range(3):
            cache.forget()
            scene = Scene(site, BuiltinKit(cache), cache)
            scene.standing()
            started = time.perf_counter()
            found = build_instances(scene, "d", plan.model_copy(update={"seed": run + 1}))
            runs.append(time.perf_counter() - started)
        counts.append(len(found))
        seconds.append(statistics.median(runs[1:]))
        print(f"  {len(found):,}: {seconds[-1]:.2f} s", end="", flush=True)
    slope, start = np.polyfit(counts, seconds, 1)
    print(f"\n  fit: {start:.2f} s + {slope * 1e6:.2f} s a million; peak {memory():.2f} GB")
    print(f"  neighbours that are twins within 3 spacings: {twins(found, 3 * spacing).mean():.2%} with 2 assets")
    mesh = terrain(316, 100.0)
    tree = triangle_tree(mesh.positions, mesh.faces)
    points = mesh.positions[:: max(1, len(mesh.positions) // 50_000)].astype(float) + [0, 0.4, 0]
    report(
        f"true distance, {len(points):,} points to 200 000 triangles",
        median(lambda: tree.distance(points), 3),
        "none set",
    )


def rays() -> None:
    mesh = terrain(200, 40.0)
    scene = RayScene(mesh.positions, mesh.faces)
    points = mesh.positions[::1]
    normals = mesh.normals[::1]
    per_point = 256
    ours = median(lambda: scene.occlusion(points, normals, 5.0, per_point), 3)
    total = len(points) * per_point

    def engine_alone() -> None:
        def work(mi) -> None:
            import drjit as dr

            count = len(points)
            origin = mi.Point3f(*(mi.Float(np.ascontiguousarray(points[:, k])) for k in range(3))) + mi.Vector3f(
                0, 1e-3, 0
            )

            def body(i, hits):
                angle = mi.Float(i) * 2.4
                sine, cosine = dr.sincos(angle)
                ray = mi.Ray3f(origin, mi.Vector3f(0.7 * cosine, 0.71, 0.7 * sine))
                ray.maxt = mi.Float(5.0)
                return i + 1, hits + dr.select(scene._scene.ray_test(ray), mi.UInt32(1), mi.UInt32(0))

            _, hits = dr.while_loop(
                (dr.zeros(mi.UInt32, count), dr.zeros(mi.UInt32, count)), lambda i, hits: i < per_point, body
            )
            np.array(hits)

        engine.run(work)

    alone = median(engine_alone, 3)
    report(
        f"occlusion, {total / 1e6:.1f} M rays",
        ours,
        "80 % of engine",
        f"{total / ours / 1e6:.1f} M/s; engine alone {total / alone / 1e6:.1f} M/s: {alone / ours * 100:.0f} %",
    )


def editing() -> None:
    scene = demo_scene()
    plan = scene.site.drifts["drift-grass"]
    build_instances(scene, "drift-grass", plan)
    densities = iter(range(1, 1000))

    def changed() -> None:
        rule = plan.rules[0].model_copy(
            update={"gate": Gate(rise_start=0, rise_end=0, fall_start=30 + next(densities) * 0.01, fall_end=50)}
        )
        build_instances(scene, "drift-grass", plan.model_copy(update={"rules": [rule, *plan.rules[1:]]}))

    places = build_instances(scene, "drift-grass", plan).places
    report(f"drift of {places:,} places re-evaluated after one rule", median(changed), "0.15 s (50 000)")
    amount = np.ones(1024 * 1024, np.float32)
    values = [np.random.default_rng(k).random(1024 * 1024, dtype=np.float32) for k in range(6)]
    gate = Gate(rise_start=0.1, rise_end=0.4, fall_start=0.8, fall_end=0.9)

    def six_rules() -> None:
        amount.fill(1)
        for v in values:
            apply_rule(amount, gate, 0.8, v)

    report("cover of 1024², six rules, measures cached", median(six_rules), "0.06 s")
    mesh = terrain(316, 100.0)
    decal = DecalPlan(name="d", position=(50, 0, 50), facing=(0, 1, 0), width=2, height=2, depth=6)
    report("decal of 2 m on a 200 000-triangle mesh", median(lambda: project(mesh, decal)), "0.03 s")


def weathering() -> None:
    """The demo's patinas from nothing, and with a gate in motion on one that many surfaces carry."""
    kit = demo_scene().kit
    scene = Scene(SitePlan.from_items(tarn_halt.items()), kit, Cache())
    for owner in scene.owners():
        scene.table(owner, scene.resolution(owner))
    began = time.perf_counter()
    for owner in scene.owners():
        owner_covers(scene, owner, VIEW_LIMIT)
    report("all covers of the demo from nothing", time.perf_counter() - began, "45 s")
    fresh = Scene(scene.site, kit, Cache())
    count = len(runoff_network.nodes(fresh).areas)
    began = time.perf_counter()
    runoff_network.flow(fresh)
    report("  of it, where water runs", time.perf_counter() - began, "", f"{count:,} texels")
    moss, steps = scene.site.patinas["patina-grime"], iter(range(1, 1000))
    touched = sorted({use.surface.split("/")[0] for use in moss.uses})

    def dragged() -> None:
        amount = 0.5 + next(steps) * 0.001
        site = scene.site.with_item("patina-grime", moss.model_copy(update={"amount": amount}))
        for owner in touched:
            owner_covers(Scene(site, kit, scene.cache), owner, PREVIEW_LIMIT)

    report(f"one patina on {len(moss.uses)} surfaces, as previewed", median(dragged), "0.1 s")


if __name__ == "__main__":
    sampling()
    drifts()
    rays()
    editing()
    weathering()
