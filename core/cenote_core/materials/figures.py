"""What there is to know of the kit's materials beside their pictures: told without making any.

The figures lie in `figures.json`, written by `python -m cenote_core.materials.figures > cenote_core/materials/figures.json`
in `core`; a test holds them to the recipes.
"""

from __future__ import annotations

import json
import sys
from pathlib import Path
from typing import Any

from ..graph.store import Cache
from .catalogue import CATALOGUE, make_material
from .material import Material

FIGURES: dict[str, dict[str, Any]] = json.loads(Path(__file__).with_name("figures.json").read_text())
"""By the ids of the kit's materials."""


def figures_of(material: Material) -> dict[str, Any]:
    """Metres a repeat covers and relief is deep, how metallic it is, how much light comes through, whether it has holes,
    and texels along its side."""
    return {
        "tile": material.tile,
        "metalness": round(material.told_metal, 4),
        "depth": material.depth,
        "translucency": material.translucency,
        "alpha": material.alpha is not None,
        "size": material.size,
    }


class _Host:
    """Where materials are made for their figures."""

    cache = Cache()
    memo: dict[Any, Any] = {}


if __name__ == "__main__":
    found = {key: figures_of(make_material(_Host(), key)) for key in CATALOGUE}
    json.dump(found, sys.stdout, indent=1)
    print()
