"""The kit made ahead, so that nobody waits for an asset or a picture when it is first used."""

from __future__ import annotations

import os
from collections.abc import Collection, Iterator
from concurrent.futures import ProcessPoolExecutor
from multiprocessing import get_context
from pathlib import Path

from ..graph.store import Cache
from ..materials.catalogue import CATALOGUE as MATERIALS
from .builtin import BuiltinKit
from .catalogue import CATALOGUE as ASSETS
from .impostor import SLOT
from .kit import drawn_lods

_kit: BuiltinKit


def make_kit(
    folder: Path, half: int, assets: Collection[str] | None = None, materials: Collection[str] | None = None
) -> Iterator[tuple[int, int]]:
    """Make assets and materials of the kit, on all cores, and leave them in the cache of a folder.

    Parameters
    ----------
    half : the half month of the year (0 to 23) whose leaves are drawn
    assets, materials : ids of those that are made; all of the kit where none are named

    Yields
    ------
    how many are made, of how many
    """
    wanted = [key for key in ASSETS if assets is None or key in assets]
    surfaces = [key for key in MATERIALS if materials is None or key in materials]
    far = [ASSETS[key].materials[SLOT] for key in wanted if SLOT in ASSETS[key].materials]
    # Far cards are drawn from finished assets and leaves.
    rounds = [
        [("asset", key) for key in wanted] + [("material", key) for key in surfaces],
        [("far", key) for key in far],
    ]
    whole, done = sum(map(len, rounds)), 0
    with ProcessPoolExecutor(
        os.cpu_count() or 1, mp_context=get_context("spawn"), initializer=_start, initargs=(folder,)
    ) as pool:
        for jobs in rounds:
            for _ in pool.map(_make, [(what, key, half) for what, key in jobs]):
                done += 1
                yield done, whole


def _start(folder: Path) -> None:
    global _kit
    _kit = BuiltinKit(Cache(folder))


def _make(job: tuple[str, str, int]) -> None:
    what, key, half = job
    if what == "asset":
        drawn_lods(_kit, key)
    else:
        _kit.material(_kit.of_season(key, half))
