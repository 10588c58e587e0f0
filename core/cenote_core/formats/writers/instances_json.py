"""All instances as JSON, by columns: a lot of each asset in each drift."""

from __future__ import annotations

import json
from pathlib import Path
from typing import Any

import numpy as np

from ...delivery.listing import Delivery, Rows
from .format import Format


def write(delivery: Delivery, path: Path) -> None:
    """Lots are written one by one, so that a large site is never held as text."""
    head = {"site": delivery.name, "unit": "metre", "up": "+y", "handed": "right", "count": delivery.instances}
    with path.open("w") as file:
        file.write(json.dumps(head)[:-1] + ', "lots": [')
        for number, rows in enumerate(delivery.rows):
            file.write(("," if number else "") + "\n" + json.dumps(_lot(rows), separators=(",", ":")))
        file.write("\n]}\n")


def _lot(rows: Rows) -> dict[str, Any]:
    return {
        "drift": rows.drift,
        "asset": rows.asset,
        "identity": [f"{identity:016x}" for identity in rows.identity.tolist()],
        "position": rows.position.astype(np.float64).round(4).tolist(),
        "turn_xyzw": rows.turn.astype(np.float64).round(6).tolist(),
        "scale": rows.scale.astype(np.float64).round(4).tolist(),
        "tint_linear": rows.tint.astype(np.float64).round(4).tolist(),
        "mirrored": rows.mirrored.tolist(),
    }


FORMAT = Format("instances.json", write)
