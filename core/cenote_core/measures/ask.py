"""What a measure may ask of the site it is taken on; `scene/measuring.py` answers."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING, Any, Protocol

import numpy as np

if TYPE_CHECKING:
    from ..mesh.mesh import Points
    from ..mesh.nearest import NearestTree
    from ..mesh.rays import RayScene
    from ..plan import GroundPlan, LightPlan, StationPlan, TouchPlan


class Standing(Protocol):
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
    touches: Sequence[TouchPlan]
    surfaces: tuple[str, ...]

    @property
    def ground(self) -> GroundPlan: ...
    @property
    def light(self) -> LightPlan: ...
    def kept(self, name: str, hangs_on: object, make: Callable[[], Any]) -> Any:
        """What `make` gives, kept under what it hangs on."""

    def owner_key(self, owner: str) -> str:
        """Hash of an owner's mesh as it stands."""

    def ground_key(self) -> str:
        """Hash of the ground as it stands."""

    def near_key(self, reach: float) -> str:
        """Hash of the owner and everything within `reach` metres of it."""

    def foot(self) -> float:
        """Height of the owner's lowest point; of the ground: the site's zero."""

    def size(self) -> float:
        """The owner's enlargement."""

    def to_local(self, positions: np.ndarray) -> np.ndarray:
        """Site coordinates → the owner's own, (N, 3)."""

    def heights(self) -> tuple[np.ndarray, float]:
        """(R, C) heights of the ground and the width of its cells, metres."""

    def on_ground(self, grid: np.ndarray, at: np.ndarray) -> np.ndarray:
        """(N,) values of a grid over the ground at (N, 3) places, bilinear."""

    def traced(self, name: str, reach: float, trace: Callable[[RayScene, Points], np.ndarray]) -> np.ndarray:
        """(R, R) map of a measure by rays on the owner's texels; `trace` is given all that stands, and points."""

    def pieces(self, named: Sequence[str]) -> list[str]:
        """Pieces that stand, of those named or of all, the owner itself left out."""

    def pieces_tree(self, pieces: Sequence[str]) -> NearestTree:
        """Exact distances to some pieces."""

    def ground_tree(self, reach: float) -> NearestTree:
        """Exact distances to the ground within `reach` metres of the owner's box, as seen from above."""

    def edge(self, positions: np.ndarray) -> np.ndarray:
        """(N,) metres from the edge of the item's surfaces on this owner."""

    def shores(self) -> tuple[list[np.ndarray], list[tuple[np.ndarray, float]]]:
        """Lines of all water edges, and the wet area and level of each pool."""

    def drifts(self, named: Sequence[str]) -> list[str]:
        """Visible drifts: those named, or all of larger tiers than the item's."""

    def drift_key(self, drift: str) -> str:
        """Hash of everything a drift's instances depend on."""

    def standing(self, drifts: Sequence[str]) -> Standing:
        """Stems and crowns of everything that stands of some drifts."""

    def picture(self, picture: str) -> np.ndarray | None:
        """An image of the site, or None where it is missing."""

    def picture_key(self, picture: str) -> str:
        """Hash of an image of the site, empty where there is none."""

    def stations(self, named: Sequence[str]) -> list[StationPlan]:
        """Stations: those named or all."""
