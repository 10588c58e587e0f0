"""Image: brightness of a picture laid over the ground from above."""

from __future__ import annotations

import numpy as np
from scipy.ndimage import map_coordinates


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
