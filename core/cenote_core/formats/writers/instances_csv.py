"""A row of each instance, as comma-separated values."""

from __future__ import annotations

import csv
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import numpy as np

from ...delivery.listing import Delivery, Rows
from .format import Format

COLUMNS = ["drift", "asset", "identity", "x", "y", "z", "qx", "qy", "qz", "qw", "scale"]
COLUMNS += ["tint_r", "tint_g", "tint_b", "mirrored"]


def write(delivery: Delivery, path: Path) -> None:
    """Identities are sixteen hexadecimal digits."""
    with path.open("w", newline="") as file:
        writer = csv.writer(file)
        writer.writerow(COLUMNS)
        for rows in delivery.rows:
            writer.writerows(_lines(rows))


def _lines(rows: Rows) -> Iterator[tuple[Any, ...]]:
    count = len(rows.scale)
    columns = [
        [rows.drift] * count,
        [rows.asset] * count,
        [f"{identity:016x}" for identity in rows.identity.tolist()],
        *(rows.position.astype(np.float64).round(4).T.tolist()),
        *(rows.turn.astype(np.float64).round(6).T.tolist()),
        rows.scale.astype(np.float64).round(4).tolist(),
        *(rows.tint.astype(np.float64).round(4).T.tolist()),
        rows.mirrored.astype(int).tolist(),
    ]
    return zip(*columns, strict=True)


FORMAT = Format("instances.csv", write)
