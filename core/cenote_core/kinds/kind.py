"""What there is to a kind of item beside its plan: its parts of the plate, its preview, its place in proofs, its words.

A module in this package declares `KINDS_HERE`, a tuple of `Kind`. Nothing else has to be told of it: the manifest, the
addresses of parts, previews, proofs and explanations go through all kinds.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from ..base.fields import Item
from ..base.packet import pack
from ..delivery.listing import Delivery
from ..drifts.plots import Eye
from ..errors import AskingEnded
from ..explain.verdict import Verdict
from ..mesh.mesh import Points
from ..proof_scene.tables import Shot, Tables
from ..scene.measuring import RuleContext
from ..scene.scene import Scene
from ..snags.effect import Effect
from ..snags.snag import Snag

RING = "ring"
"""Stands for a version where there is none, because what it is of asks for itself."""
PREVIEW_INSTANCES = 120_000
"""Things of a drift a preview holds, if the plate does not say how many it can draw."""

Address = Callable[[str, str, str], str]
"""Part, name and version → where the browser fetches it."""


@dataclass(frozen=True)
class Part:
    """Something of a site that the plate fetches by an address of its own, under a name.

    Attributes
    ----------
    there : is there such a one?
    version : a hash that is another one if the bytes are, made without computing them
    make : the bytes
    """

    there: Callable[[Scene, str], bool]
    version: Callable[[Scene, str], str]
    make: Callable[[Scene, str], bytes]


@dataclass(frozen=True)
class Draft:
    """An item while it is being changed.

    Attributes
    ----------
    before, after : the site as it is saved, and as it would be
    plan : the item's plan as it would be
    eye : where the plate is seen from, metres
    most : things of a drift that may come along
    of : the preview of another item of the changed site, by its key and plan
    """

    before: Scene
    after: Scene
    key: str
    plan: Any
    eye: Eye
    most: int
    of: Callable[[str, Any], bytes]


@dataclass(frozen=True)
class Kind:
    """A kind of item.

    Attributes
    ----------
    plan : its model
    place : kinds are listed, and put into proofs, from the lowest on
    sections : what it adds to the manifest, by name, with the type of each
    listed : the sections' values
    parts : by the name they have in addresses
    preview : what the plate needs while an item is changed
    emit : puts all items of the kind into a proof's tables
    hand_over : puts them into the list of what is handed over
    effect : what an item brings about, and if nothing, why
    why : the verdicts of all its items at a spot: owner, and the one point with its surface
    snags : what a viewer would notice on its items
    context : who asks when the item's rules are measured
    trial : makes what all else of an item hangs on, and raises where that cannot be made
    plainer : plans to try in place of one that cannot be worked out, the fullest first
    """

    plan: type[Item]
    place: int
    sections: Mapping[str, Any] = field(default_factory=dict)
    listed: Callable[[Scene, Address], dict[str, Any]] = lambda scene, address: {}
    parts: Mapping[str, Part] = field(default_factory=dict)
    preview: Callable[[Draft], bytes] | None = None
    emit: Callable[[Tables, Shot], None] | None = None
    hand_over: Callable[[Delivery, Scene], None] | None = None
    effect: Callable[[Scene, str, Any], Effect] | None = None
    why: Callable[[Scene, str, Points], list[Verdict]] | None = None
    snags: Callable[[Scene], list[Snag]] | None = None
    context: Callable[[Scene, str, Any], RuleContext] | None = None
    trial: Callable[[Scene, str, Any], object] | None = None
    plainer: Callable[[Any], Iterable[Any]] = lambda plan: ()

    @property
    def name(self) -> str:
        """What it is called in plans."""
        return str(self.plan.model_fields["kind"].default)


def or_ring(version: Callable[[], str]) -> str:
    """A version, or `RING` where items ask for each other or cannot be worked out: its address answers with the reason."""
    try:
        return version()
    except AskingEnded:
        raise
    except Exception:
        return RING


def masks_packet(key: str, masks: Mapping[str, np.ndarray]) -> bytes:
    """Where an item may be, (R, R) 0..1 an owner, as the plate takes the covers of patinas: (1, R, R) bytes."""
    arrays = {owner: np.clip(mask * 255 + 0.5, 0, 255).astype(np.uint8)[None] for owner, mask in masks.items()}
    return pack(arrays, {"patinas": {owner: [key] for owner in masks}})
