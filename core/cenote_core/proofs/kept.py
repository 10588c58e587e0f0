"""The stage of the last rough proof, kept for the next: of a site that has not changed nothing is gathered again."""

from __future__ import annotations

from collections.abc import Callable

from ..hashing import content_hash
from ..plan import StationPlan
from ..proof_scene.detail import Detail
from ..scene.scene import Scene
from .prepare import Stage, prepare


class KeptStage:
    """At most one stage: it may take more memory than all else of a proof. Used by one thread."""

    def __init__(self, make: Callable[[Scene, StationPlan, tuple[int, int], Detail], Stage] = prepare) -> None:
        self._make = make
        self._key = ""
        self._stage: Stage | None = None

    def get(self, scene: Scene, station: StationPlan, size: tuple[int, int], detail: Detail) -> Stage:
        """The stage of a site as a station sees it; made where it is not the one that is kept."""
        key = _key(scene, station, size, detail)
        if self._stage is None or key != self._key:
            # Room first, so that two never stand beside each other.
            self.forget()
            self._stage = self._make(scene, station, size, detail)
            self._key = key
        return self._stage

    def forget(self) -> None:
        """Let go of it."""
        self._key, self._stage = "", None


def _key(scene: Scene, station: StationPlan, size: tuple[int, int], detail: Detail) -> str:
    """Hash of everything a stage hangs on: the plans, what was brought in for them, the view and how fine it is."""
    items = {
        kind: {key: plan.model_dump(mode="json") for key, plan in found.items()}
        for kind, found in scene.site.items.items()
    }
    assets = {share.asset for plan in scene.site.drifts.values() for share in plan.assets}
    assets |= {plan.asset for plan in scene.site.pieces.values()}
    kit = [scene.kit.asset_ref(asset).key for asset in sorted(assets)]
    return content_hash("stage", items, kit, station.model_dump(mode="json"), list(size), repr(detail))
