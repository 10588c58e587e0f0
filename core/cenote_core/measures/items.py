"""What measures read of the items of a site: no more than they need, so that plans may be built from measures."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import Protocol


class Stroke(Protocol):
    """A stroke of the hand: points (x, y, z) in its owner's own coordinates, metres."""

    @property
    def owner(self) -> str: ...
    @property
    def action(self) -> str: ...
    @property
    def points(self) -> Sequence[tuple[float, float, float]]: ...
    @property
    def radius(self) -> float: ...
    @property
    def strength(self) -> float: ...
    @property
    def falloff(self) -> float: ...


class Path(Protocol):
    """A path or ditch of the ground: its middle line (x, z) and the width of its floor, metres."""

    @property
    def line(self) -> Sequence[tuple[float, float]]: ...
    @property
    def width(self) -> float: ...


class Ground(Protocol):
    """The sheet of ground: its sides in metres, and the paths on it."""

    @property
    def width(self) -> float: ...
    @property
    def depth(self) -> float: ...
    def paths(self) -> Iterable[Path]: ...


class Light(Protocol):
    """Where the sun stands, degrees."""

    @property
    def azimuth(self) -> float: ...
    @property
    def elevation(self) -> float: ...
