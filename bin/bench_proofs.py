"""Proofs of the demo as an artist meets them: first, second and third of a worker, a good one, and its error.

Run by bin/bench; by itself: bin/bench_proofs.py [--error], with the environment of bin/common.
"""

from __future__ import annotations

import argparse
import resource
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from pathlib import Path

import numpy as np

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT)]

from cenote_core.graph.store import Cache  # noqa: E402
from cenote_core.kit.builtin import BuiltinKit  # noqa: E402
from cenote_core.materials.material import linear_to_srgb  # noqa: E402
from cenote_core.plan.site import SitePlan  # noqa: E402
from cenote_core.proof_scene.detail import GOOD, ROUGH  # noqa: E402
from cenote_core.proofs.picture import denoised  # noqa: E402
from cenote_core.proofs.prepare import prepare  # noqa: E402
from cenote_core.proofs.prewarm import make_kernels  # noqa: E402
from cenote_core.proofs.render import ProofSettings, Tracing, Watch, render_proof  # noqa: E402
from cenote_core.proofs.tone import neutral  # noqa: E402
from cenote_core.scene.scene import Scene  # noqa: E402
from demo import tarn_halt  # noqa: E402

STATION, SIZE = "station-1", (1280, 800)
SILENT = Watch(lambda stage, share, left: None)
BUDGETS = {"first rough": "20 s", "second rough": "8 s", "third rough": "8 s", "good": "120 s, 4 GB"}
SMALL = {"width": 640, "height": 400}
REFERENCE = 512
"""Samples a pixel of the picture a good one is held against."""


def demo_scene() -> Scene:
    """The demo with a cache that other runs have filled."""
    cache = Cache(Path(tempfile.gettempdir()) / "cenote-bench-cache")
    return Scene(SitePlan.from_items(tarn_halt.items()), BuiltinKit(cache), cache)


def memory_now() -> float:
    """Memory this process holds, GB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * resource.getpagesize() / 1e9


def proofs() -> None:
    """Three rough proofs and a good one, one after the other in a process that has done nothing before."""
    scene = demo_scene()
    make_kernels()
    with tempfile.TemporaryDirectory() as folder:
        for name in BUDGETS:
            quality = name.split()[-1]
            started = time.perf_counter()
            made = render_proof(scene, ProofSettings(station=STATION, quality=quality), Path(folder), SILENT)
            took = time.perf_counter() - started
            peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1e6
            print(
                f"{name + ' proof 1280 × 800 of the demo':<58} {took:9.1f} s   budget {BUDGETS[name]:<14}"
                f" peak {peak:5.2f} GB  then {memory_now():.2f} GB; {made['samples']} samples,"
                f" {made['triangles'] / 1e6:.2f} M triangles",
                flush=True,
            )


def error() -> None:
    """Root mean square error on the screen, 0..1, of a good proof against one of many more samples."""
    scene = demo_scene()
    stage = prepare(scene, scene.site.stations[STATION], tuple(SMALL.values()), GOOD)
    settings = ProofSettings(station=STATION, quality="good", **SMALL)

    def traced(detail):
        with tempfile.TemporaryDirectory() as folder:
            tracing = Tracing(scene, stage, settings, detail, Path(folder), SILENT)
            return tracing.film, tracing.full(False)[1]

    shown = lambda light: linear_to_srgb(neutral(np.maximum(light, 0)))  # noqa: E731
    _, passes = traced(GOOD)
    many = replace(GOOD, first=REFERENCE, most=REFERENCE, noise=1e-6)
    _, truth = traced(many)
    apart = lambda light: float(np.sqrt(np.mean((shown(light) - shown(truth["beauty"])) ** 2)))  # noqa: E731
    print(
        f"  error against {REFERENCE} samples: as traced {apart(passes['beauty']):.4f}, as shown {apart(denoised(passes)):.4f}"
    )


def main() -> None:
    """Fill the cache as bin/start does, then measure in a fresh process."""
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--error", action="store_true", help="also hold a good proof against 512 samples (minutes)")
    parser.add_argument("--fresh", action="store_true", help=argparse.SUPPRESS)
    options = parser.parse_args()
    if options.fresh:
        return proofs()
    scene = demo_scene()
    prepare(scene, scene.site.stations[STATION], SIZE, ROUGH)
    subprocess.run([sys.executable, __file__, "--fresh"], check=True)
    if options.error:
        error()


if __name__ == "__main__":
    main()
