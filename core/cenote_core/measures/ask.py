"""What a measure may ask of the site it is taken on; `scene/measuring.py` answers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Protocol

import numpy as np

from ..graph.derived import Ref
from ..graph.store import Cache
from ..mesh.mesh import Mesh, Points
from ..mesh.nearest import NearestTree
from ..mesh.rays import RayScene
from ..stations.camera import Viewpoint
from .items import Ground, Light, Stroke


class Trace(Protocol):
    """(N,) values at points of what rays meet within `reach` metres; a function of a module, which counts by its code."""

    def __call__(self, rays: RayScene, points: Points, reach: float, /, *settings: float) -> np.ndarray: ...


Washed = tuple[Sequence[str], Sequence[str]]
"""Pieces water has to have landed on, and patinas it has to have washed; none: any."""


class Placement(Protocol):
    """Stems and crowns of what stands: (S, 3) feet, (S,) radii of stems and crowns, (S,) heights of tops."""

    feet: np.ndarray
    stems: np.ndarray
    crowns: np.ndarray
    tops: np.ndarray


class Ask(Protocol):
    """One item (a drift, a patina, a surface of the ground) asking about one owner.

    Attributes
    ----------
    owner : the ground or the piece whose points are asked about
    touches : the item's strokes
    surfaces : the surfaces the item lies on
    """

    owner: str
    surfaces: tuple[str, ...]

    @property
    def touches(self) -> Sequence[Stroke]: ...
    @property
    def ground(self) -> Ground: ...
    @property
    def light(self) -> Light: ...
    @property
    def cache(self) -> Cache: ...
    @property
    def memo(self) -> dict[Any, Any]: ...
    def ground_ref(self) -> Ref[np.ndarray]:
        """The heights of the ground as it stands."""

    def mesh_refs(self, owners: Sequence[str]) -> Sequence[Ref[Mesh]]:
        """The meshes of owners as they stand."""

    def near_refs(self, reach: float) -> Sequence[Ref[Mesh]]:
        """The meshes of the owner and of everything within `reach` metres of it."""

    def foot(self) -> float:
        """Height of the owner's lowest point; of the ground: the site's zero."""

    def top(self) -> float:
        """Height of the owner's highest point."""

    def size(self) -> float:
        """The owner's enlargement."""

    def to_local(self, positions: np.ndarray) -> np.ndarray:
        """Site coordinates → the owner's own, (N, 3)."""

    def heights(self) -> tuple[np.ndarray, float]:
        """(R, C) heights of the ground and the width of its cells, metres."""

    def on_ground(self, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
        """(N,) values of a grid over the ground at (N, 3) places, bilinear."""

    def traced_ref(self, trace: Trace, reach: float, settings: tuple[float, ...] = ()) -> Ref[np.ndarray]:
        """(R, R) map of a measure by rays on the owner's texels; what is further off than `reach` metres does not count."""

    def runoff_ref(self, wind_from: float, wind: float, off: Washed, dry: float) -> Ref[Any]:
        """What `runoff` is made from, without making it."""

    def runoff(self, wind_from: float, wind: float, off: Washed, dry: float) -> np.ndarray:
        """(R, R) metres of rained-on surface that drain over the owner's texels; `off` some pieces and some patinas."""

    def laid_refs(self, patinas: Sequence[str]) -> Sequence[Ref[Any]]:
        """What `laid` is made from, without making it."""

    def laid(self, patinas: Sequence[str]) -> list[np.ndarray]:
        """(R, R) covers of those of some patinas that lie on the owner."""

    def parts(self, at: Points) -> np.ndarray:
        """(N,) int64 which part of the owner, of those that hang together, each point lies on."""

    def pieces(self, named: Sequence[str]) -> list[str]:
        """Pieces that stand, of those named or of all, the owner itself left out."""

    def near(self, reach: float) -> list[str]:
        """The ground and pieces within `reach` metres of the owner, itself left out."""

    def pieces_tree(self, pieces: Sequence[str]) -> NearestTree:
        """Exact distances to some pieces."""

    def ground_tree(self, reach: float) -> NearestTree:
        """Exact distances to the ground within `reach` metres of the owner's box, as seen from above."""

    def edge(self, positions: np.ndarray) -> np.ndarray:
        """(N,) metres from the edge of the item's surfaces on this owner."""

    def shores(self) -> tuple[list[np.ndarray], list[tuple[np.ndarray, float | np.ndarray]]]:
        """Lines of all water edges, and the wet area of each water with its level: one, or on the ground's points."""

    def shores_refs(self) -> list[Ref[Any]]:
        """What `shores` is made from, without making it."""

    def drifts(self, named: Sequence[str]) -> list[str]:
        """Visible drifts: those named, or all of larger tiers than the item's."""

    def standing_ref(self, drifts: Sequence[str]) -> Ref[Any]:
        """What `standing` gives, without making it."""

    def standing(self, drifts: Sequence[str]) -> Placement:
        """Stems and crowns of everything that stands of some drifts."""

    def picture(self, picture: str) -> np.ndarray | None:
        """An image of the site, or None where it is missing."""

    def picture_ref(self, picture: str) -> Ref[np.ndarray] | None:
        """The same, without reading it."""

    def stations(self, named: Sequence[str]) -> Sequence[Viewpoint]:
        """Stations: those named or all."""
