"""Files that belong to nothing in the database any more."""

import time
from collections.abc import Collection, Iterator
from pathlib import Path

LEFT_FOR = 3600.0
"""Seconds for which a file without a row is left: its row may be on its way."""


def orphans(folder: Path, known: Collection[str]) -> Iterator[Path]:
    """What lies in a folder, is older than that and has none of the names that are known."""
    before = time.time() - LEFT_FOR
    return (path for path in folder.glob("*") if path.name not in known and path.stat().st_mtime < before)
