"""Covers in pages, for the plate: finer ones of what the eye rests before."""

from __future__ import annotations

import numpy as np

from ..base.packet import pack
from ..graph.derived import Ref
from ..hashing import content_hash
from ..patinas.cover import plate_stack
from ..patinas.drawn import far_films
from ..patinas.pages import Page, page_cover, page_covers, page_refs
from ..plan import GROUND
from ..proof_scene.pages import ground_page, piece_page
from ..scene.scene import Scene
from .kind import Part, or_ring

PAGE_SIDE = 1024
"""Texels along a side of a page at most."""
REACH = 3.5
"""Metres a page of the ground goes to all sides of its middle."""

_FAR = 100_000
"""Metres; no ground goes so far."""


def _named(scene: Scene, name: str) -> tuple[str, tuple[int, int] | None] | None:
    """The owner of a page, and of the ground the place of its middle: `wall`, or `ground/4/-2` in whole metres."""
    owner, *at = name.split("/")
    if owner not in scene.owners():
        return None
    if owner != GROUND:
        return (owner, None) if not at else None
    try:
        x, z = (int(part) for part in at)
    except ValueError:
        return None
    return (owner, (x, z)) if max(abs(x), abs(z)) <= _FAR else None


def _page(scene: Scene, name: str) -> tuple[str, Page | None]:
    named = _named(scene, name)
    assert named is not None
    owner, at = named
    if at is None:
        return owner, piece_page(scene, owner, PAGE_SIDE)
    return owner, ground_page(scene, np.array(at, float), REACH, PAGE_SIDE)


def _films(scene: Scene, owner: str, page: Page) -> list[Ref[np.ndarray]]:
    """Covers of droplets that are drawn as films from afar."""
    return [page_cover.ref(scene, key, film, owner, page) for key, film in far_films(scene, owner)]


def _version(scene: Scene, name: str) -> str:
    owner, page = _page(scene, name)
    if page is None:
        return content_hash(owner, "no page")
    return or_ring(
        lambda: content_hash(*(ref.key for ref in [*page_refs(scene, owner, page), *_films(scene, owner, page)]))
    )


def _packet(scene: Scene, name: str) -> bytes:
    """(P, R, R) covers as bytes, row 0 at the lowest v, and the page's corners; nothing where none would be finer."""
    owner, page = _page(scene, name)
    order = [name for name, _, _ in plate_stack(scene, owner)]
    if page is None or not order:
        return pack({}, {"patinas": order})
    films = [ref.value()[None] for ref in _films(scene, owner, page)]
    values = np.clip(np.concatenate([page_covers(scene, owner, page), *films]) * 255 + 0.5, 0, 255).astype(np.uint8)
    return pack({"covers": values}, {"patinas": order, "low": list(page.low), "high": list(page.high)})


PAGE = Part(lambda scene, name: _named(scene, name) is not None, _version, _packet)
