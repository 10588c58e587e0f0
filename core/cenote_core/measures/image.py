"""Image: brightness of a picture laid over the ground from above, or thrown onto what stands from a side."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import map_coordinates

from ..base.fields import ItemId, quantity
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule

Way = Literal["ground", "above", "north", "east", "south", "west"]
_AXES = {
    "above": ((1, 0, 0), (0, 0, -1)),
    "south": ((1, 0, 0), (0, 1, 0)),
    "north": ((-1, 0, 0), (0, 1, 0)),
    "east": ((0, 0, -1), (0, 1, 0)),
    "west": ((0, 0, 1), (0, 1, 0)),
}
"""From each side: where the picture's right and its upper rim point, seen by who stands there and looks at it."""


def image_over(positions: np.ndarray, picture: np.ndarray, width: float, depth: float) -> np.ndarray:
    """(N,) float32 brightness 0..1 at places; the picture's top row lies at the north border.

    Parameters
    ----------
    picture : (H, W) float, 0..1
    width, depth : float, size of the ground it covers, metres
    """
    rows = (positions[:, 2] / depth + 0.5) * picture.shape[0] - 0.5
    columns = (positions[:, 0] / width + 0.5) * picture.shape[1] - 0.5
    return np.asarray(map_coordinates(picture, [rows, columns], order=1, mode="nearest"), np.float32)


def image_thrown(
    positions: np.ndarray, picture: np.ndarray, way: Way, size: float, middle: tuple[float, float, float]
) -> np.ndarray:
    """(N,) float32 brightness 0..1 of a picture thrown onto places along parallel rays; 0 beyond its rims.

    Parameters
    ----------
    picture : (H, W) float, 0..1
    way : the side it comes from
    size : its width, metres; its height follows from its proportions
    middle : where its middle falls: east, up and south, metres
    """
    right, up = (np.array(axis, float) for axis in _AXES[way])
    off = positions - np.asarray(middle)
    height = size * picture.shape[0] / picture.shape[1]
    u, v = off @ right / size + 0.5, off @ up / height + 0.5
    rows, columns = (1 - v) * picture.shape[0] - 0.5, u * picture.shape[1] - 0.5
    found = map_coordinates(picture, [rows, columns], order=1, mode="nearest")
    return np.where((u >= 0) & (u <= 1) & (v >= 0) & (v <= 1), found, 0).astype(np.float32)


class ImageRule(Rule):
    """Brightness of an image, 0 to 1: laid over the ground from above, or thrown onto what stands from a side."""

    measure: Literal["image"] = "image"
    image: ItemId = Field(
        default="none", description="Which of the site's images.", json_schema_extra={"choose": "image"}
    )
    way: Way = Field(
        default="ground",
        description="Where the image comes from.",
        json_schema_extra={
            "label": "where it comes from",
            "words": {
                "ground": "from above, as large as the ground", "above": "from above", "north": "from the north",
                "east": "from the east", "south": "from the south", "west": "from the west",
            },
        },
    )  # fmt: skip
    width: float = quantity(
        4.0, 0.05, 1000.0, "m", "Width of the image, if it is not as large as the ground.", 0.1, "width of the image",
        (0.2, 40, 2),
    )  # fmt: skip
    east: float = quantity(
        0.0, -2000.0, 2000.0, "m", "Where the image's middle lies.", 0.1, "middle, east", (-20, 20, 1)
    )
    up: float = quantity(0.0, -500.0, 500.0, "m", "Where the image's middle lies.", 0.1, "middle, up", (-5, 15, 1))
    south: float = quantity(
        0.0, -2000.0, 2000.0, "m", "Where the image's middle lies.", 0.1, "middle, south", (-20, 20, 1)
    )
    about: ClassVar[About] = About(
        "image", SHARE, "brightness of an image laid over the ground or thrown onto a side", "brightness",
        (0.4, 0.6, 1, 1), place=160, span=(0, 1), cuts=False, more="which image, from where",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.picture_ref(self.image), ask.ground.width, ask.ground.depth

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        picture = ask.picture(self.image)
        if picture is None:
            return np.zeros(len(at), np.float32)
        if self.way == "ground":
            return image_over(at.positions, picture, ask.ground.width, ask.ground.depth)
        return image_thrown(at.positions, picture, self.way, self.width, (self.east, self.up, self.south))
