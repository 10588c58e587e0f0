"""A format that a site is handed over in."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from pathlib import Path

from ...delivery.listing import Delivery


@dataclass(frozen=True)
class Format:
    """One file of a hand-over.

    Attributes
    ----------
    file : what it is called
    write : writes the list of a site into a file of this path
    """

    file: str
    write: Callable[[Delivery, Path], None]
