"""Height above the site's zero, or above the foot of the object."""

from __future__ import annotations

import numpy as np


def height(positions: np.ndarray, foot: float = 0.0) -> np.ndarray:
    """(N, 3) positions → (N,) float32 metres above `foot`."""
    return (positions[:, 1] - np.float32(foot)).astype(np.float32)
