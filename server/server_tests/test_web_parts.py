"""The front end's own computation, tested where it runs (Node), against figures from the core.

One test a file of web/src/tests; the figures are written anew for every run, so both sides are held to each other.
"""

from __future__ import annotations

import json
import os
import subprocess
import tempfile
from pathlib import Path

import numpy as np
from core_tests.helpers import rotated, scattered
from django.conf import settings
from django.test import SimpleTestCase

from cenote_core.base.packet import pack
from cenote_core.drifts.plots import packed
from cenote_core.ground.terrain import ground_mesh, sheet
from cenote_core.mesh.packed import mesh_packet
from cenote_core.plan import Gate, GroundPlan
from cenote_core.rules import gate_response

WEB = Path(settings.ROOT) / "web"
SCATTERED = scattered(400, 40.0, 8)
FILES = sorted(WEB.glob("src/tests/*.test.ts"))


def plot_figures() -> dict:
    """What a point of an asset has become in each instance, by the core's own placing."""
    found = SCATTERED
    point = np.array([[0.3, 1.1, -0.4]])
    placed = rotated(found.rotation, point, found.mirrored)[:, 0] * found.scale[:, None] + found.position
    return {
        "point": point[0].tolist(),
        "placed": placed.tolist(),
        "assets": found.asset.tolist(),
        "identities": [f"{v:016x}" for v in found.identity.tolist()],
        "tints": found.tint.tolist(),
        "low": found.position.min(axis=0).tolist(),
        "high": found.position.max(axis=0).tolist(),
    }


def gate_figures() -> list[dict]:
    values = np.linspace(-1, 11, 241)
    found = []
    for gate in ((0, 0, 3, 5), (1, 4, 6, 9), (2, 2, 2, 2), (0, 10, 10, 10), (3, 3, 8, 8)):
        names = ("rise_start", "rise_end", "fall_start", "fall_end")
        settings_ = dict(zip(names, map(float, gate), strict=True))
        found.append({"gate": settings_, "values": values.tolist()})
        found[-1]["response"] = gate_response(Gate(**settings_), values).tolist()
    return found


def ground_figures(folder: Path) -> dict:
    plan = GroundPlan(width=12, depth=9, cell=0.5, amount=3, feature=4, seed=3)
    y = sheet(plan)
    mesh = ground_mesh(plan, y)
    (folder / "ground.bin").write_bytes(mesh_packet(mesh, {"grid": list(y.shape)}))
    return {"triangles": mesh.positions[mesh.faces].reshape(-1, 9).tolist()}


def write_figures(folder: Path) -> None:
    (folder / "plot.bin").write_bytes(packed(SCATTERED))
    types = {"f": np.float32, "i": np.int32, "u": np.uint32, "s": np.uint16, "b": np.uint8}
    arrays = {name: np.arange(6).reshape(2, 3).astype(kind) for name, kind in types.items()}
    (folder / "packet.bin").write_bytes(pack(arrays, {"word": "Ä ₂", "list": [1, 2]}))
    figures = {"plot": plot_figures(), "gates": gate_figures(), "ground": ground_figures(folder)}
    (folder / "figures.json").write_text(json.dumps(figures))


class WebParts(SimpleTestCase):
    """A method for each file is added below."""

    results: dict[str, dict]

    @classmethod
    def setUpClass(cls):
        super().setUpClass()
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            write_figures(folder)
            out = folder / "results.json"
            done = subprocess.run(
                ["npx", "vitest", "run", "--reporter=json", f"--outputFile={out}"],
                cwd=WEB,
                env={**os.environ, "CENOTE_FIGURES": name},
                capture_output=True,
                text=True,
                timeout=300,
            )
            if not out.exists():
                raise AssertionError(f"The tests of the front end did not run:\n{done.stdout}\n{done.stderr}")
            cls.results = {Path(f["name"]).name: f for f in json.loads(out.read_text())["testResults"]}

    def check(self, name: str) -> None:
        found = self.results[name]
        failed = [
            f"{case['fullName']}\n{' '.join(case['failureMessages'])}"
            for case in found["assertionResults"]
            if case["status"] != "passed"
        ]
        self.assertFalse(failed or found["status"] != "passed", "\n".join(failed) or found.get("message", ""))
        self.assertTrue(found["assertionResults"], "a file without tests")


def _method(name: str):
    def test(self):
        self.check(name)

    return test


for path in FILES:
    setattr(WebParts, f"test_{path.name.removesuffix('.test.ts')}", _method(path.name))
