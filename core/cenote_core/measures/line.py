"""Near a line: distance from a drawn line as seen from above."""

from __future__ import annotations

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..base.fields import Point2
from ..mesh.mesh import Points
from ..mesh.nearest import line_tree
from .ask import Ask
from .distance import FROM_ABOVE, near
from .rule import METRES, About, Rule


class LineRule(Rule):
    """Distance from a drawn line as seen from above, metres."""

    measure: Literal["line"] = "line"
    line: list[Point2] = Field(
        default=[(-5.0, 0.0), (5.0, 0.0)],
        min_length=2,
        max_length=500,
        description="The line, x and z in metres.",
        json_schema_extra={"choose": "line"},
    )
    about: ClassVar[About] = About(
        "near a line", METRES, "distance from a line drawn in the plate", "distances from the line", (0, 0, 1, 2),
        place=90, distance=True, more="the line",
    )  # fmt: skip

    def values(self, at: Points, ask: Ask) -> np.ndarray:
        flat = np.array([(x, 0.0, z) for x, z in self.line])
        return near(line_tree(flat), at.positions * FROM_ABOVE)
