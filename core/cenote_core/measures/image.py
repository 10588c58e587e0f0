"""Image: brightness of a picture laid over the ground from above."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field
from scipy.ndimage import map_coordinates

from ..base.fields import ItemId
from ..mesh.mesh import Points
from .ask import Ask
from .rule import SHARE, About, Rule


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


class ImageRule(Rule):
    """Brightness of an image laid over the ground from above, 0 to 1."""

    measure: Literal["image"] = "image"
    image: ItemId = Field(
        default="none", description="Which of the site's images.", json_schema_extra={"choose": "image"}
    )
    about: ClassVar[About] = About(
        "image", SHARE, "brightness of an image laid over the ground", "brightness", (0.4, 0.6, 1, 1), place=160,
        span=(0, 1), cuts=False, more="which image",
    )  # fmt: skip

    def depends(self, ask: Ask) -> object:
        return ask.picture_ref(self.image), ask.ground.width, ask.ground.depth

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        picture = ask.picture(self.image)
        if picture is None:
            return np.zeros(len(at), np.float32)
        return image_over(at.positions, picture, ask.ground.width, ask.ground.depth)
