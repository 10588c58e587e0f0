"""Handing a site over: its list is filled by the kinds and written by every format."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from .delivery.listing import Delivery
from .formats.writers import FORMATS
from .kinds import KINDS
from .scene.scene import Scene

Report = Callable[[str, float], None]
MAP_LIMIT = 2048
"""Most texels along a side of baked pictures, unless more are asked for."""
_LISTED = 0.92
"""Share of the work that is done when the list is there."""


def hand_over(scene: Scene, name: str, folder: Path, report: Report, most: int = MAP_LIMIT) -> dict[str, Any]:
    """Write a file of every format into a folder.

    Ground and pieces carry one baked texture set each, laid by their unwrap; drifts are instances; decals are meshes of
    their own with alpha, and so are snow and water; stations are cameras and what shines are lights.

    Parameters
    ----------
    report : told what is being worked on, and the share of the work that is done
    most : texels along a side of baked pictures, at most

    Returns
    -------
    the bytes of each file, and how many instances and pieces there are
    """
    done, steps = 0, len(scene.owners()) + sum(kind.hand_over is not None for kind in KINDS.values())

    def told(stage: str) -> None:
        nonlocal done
        report(stage, _LISTED * min(1.0, done / steps))
        done += 1

    delivery = Delivery(name, most, told)
    for kind in KINDS.values():
        if kind.hand_over is not None:
            kind.hand_over(delivery, scene)
    report("writing files", _LISTED)
    for form in FORMATS:
        form.write(delivery, folder / form.file)
    files = {form.file: (folder / form.file).stat().st_size for form in FORMATS}
    return {"files": files, "instances": delivery.instances, "pieces": len(scene.owners()) - 1, "name": name}
