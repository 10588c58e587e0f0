"""The whole demo handed over in each of its spells: cold, then warm. Fails where it cannot, or where its files are not sound.

Run by bin/bench; by itself: bin/bench_handover.py [spell name …], with the environment of bin/common.
"""

from __future__ import annotations

import sys
import tempfile
import time
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
sys.path[:0] = [str(ROOT / "core"), str(ROOT)]

from core_tests.gltf import complaints, validated  # noqa: E402

from cenote_core.graph.store import Cache  # noqa: E402
from cenote_core.handover import hand_over  # noqa: E402
from cenote_core.kit.builtin import BuiltinKit  # noqa: E402
from cenote_core.plan.site import SitePlan  # noqa: E402
from cenote_core.scene.scene import Scene  # noqa: E402
from demo import tarn_halt  # noqa: E402

BUDGETS = {"cold": 40, "warm": 15}
"""Seconds on two cores at rest."""


def once(site: SitePlan, cache: Cache, kit: Cache, folder: Path) -> float:
    """Seconds that one takes."""
    started = time.perf_counter()
    hand_over(Scene(site, BuiltinKit(kit), cache), "Tarn Halt", folder, lambda stage, share: None)
    return time.perf_counter() - started


def main(wanted: list[str]) -> int:
    site, bad = SitePlan.from_items(tarn_halt.items()), 0
    # Assets and materials are there before anybody opens a site; all else is worked out the first time.
    kit = Cache(Path(tempfile.gettempdir()) / "cenote-bench-cache")
    for key, spell in site.spells.items():
        if wanted and spell.name not in wanted:
            continue
        with tempfile.TemporaryDirectory() as kept, tempfile.TemporaryDirectory() as name:
            folder, cache = Path(name), Cache(Path(kept))
            for how, budget in BUDGETS.items():
                seconds = once(site.in_spell(key), cache, kit, folder)
                size = (folder / "site.glb").stat().st_size / 1e6
                print(f"hand over, {spell.name}, {how}: {seconds:.1f} s (budget {budget} s), {size:.0f} MB", flush=True)
                cache.forget()
            for complaint in complaints(validated(folder / "site.glb")):
                bad += 1
                print(f"  not sound: {complaint}")
    return 1 if bad else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
