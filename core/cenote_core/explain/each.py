"""The verdicts of all visible items of a kind."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from ..mesh.mesh import Points
from ..scene.scene import Scene
from .verdict import Verdict


def of_each(
    items: Callable[[Scene], Mapping[str, Any]], verdict: Callable[[Scene, str, Any, str, Points], Verdict | None]
) -> Callable[[Scene, str, Points], list[Verdict]]:
    """How a kind answers *why here*: its visible items in the order of their keys, each by `verdict`."""

    def why(scene: Scene, owner: str, points: Points) -> list[Verdict]:
        found = (verdict(scene, key, plan, owner, points) for key, plan in sorted(items(scene).items()) if plan.visible)
        return [one for one in found if one]

    return why
