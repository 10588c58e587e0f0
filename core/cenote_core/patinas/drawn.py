"""Droplets that are drawn: laid over a surface as a clear film of relief and gloss, on top of all patinas."""

from __future__ import annotations

import numpy as np

from ..plan import BeadsPlan, Finish, PatinaPlan, Region
from ..scene.scene import Scene

MATERIAL = "drops"
"""Their picture."""
_PICTURED = 2.0
"""Millimetres of radius of the larger drops in it."""
_APART = 0.5
"""Cover at which the picture shows all its drops and the surface between them; more would close them to a sheet."""


class FilmPlan(PatinaPlan):
    """A patina that may be held inside of regions, as droplets are."""

    regions: list[Region] = []


def inside(regions: list[Region], at: np.ndarray) -> np.ndarray:
    """(N,) 0..1 how far places (N, 3) are inside any of some regions; 1 where there are none."""
    if not regions:
        return np.ones(len(at))
    out = np.zeros(len(at))
    for region in regions:
        half = np.array([region.width, region.height, region.depth]) / 2
        away = (at - np.array(region.centre)) / (half if region.shape == "box" else half[0])
        far = np.abs(away).max(axis=1) if region.shape == "box" else np.linalg.norm(away, axis=1)
        out = np.maximum(out, np.clip((1 - far) / max(region.soft, 1e-6), 0, 1))
    return out


def drawn_plans(scene: Scene, owner: str) -> list[tuple[str, PatinaPlan]]:
    """The drawn droplets on an owner, in their order."""
    found = [(plan.order, key, plan) for key, plan in scene.site.of(BeadsPlan).items() if plan.visible and plan.drawn]
    on = lambda plan: any(use.surface.split("/")[0] == owner for use in plan.uses)  # noqa: E731
    return [(key, as_film(plan)) for _, key, plan in sorted(found, key=lambda f: f[:2]) if on(plan)]


def as_film(plan: BeadsPlan) -> FilmPlan:
    """Droplets as a patina."""
    finish = Finish(
        material=MATERIAL, scale=min(20.0, max(0.05, plan.size / _PICTURED)), variation=0.0, break_up=1.0, stain=1.0,
        film=True, soaks=0.0, takes_snow=True,
    )  # fmt: skip
    return FilmPlan(
        name=plan.name,
        finish=finish,
        amount=_APART * plan.amount,
        rules=plan.rules,
        uses=plan.uses,
        regions=plan.regions,
    )


AFAR = "afar."
"""Begins the name of a film by which the plate draws droplets that have bodies, where those are less than a pixel."""


def far_films(scene: Scene, owner: str) -> list[tuple[str, FilmPlan]]:
    """The droplets with bodies on an owner as films: their own keys, in their order."""
    shaped = [(p.order, key, p) for key, p in scene.site.of(BeadsPlan).items() if p.visible and not p.drawn]
    on = lambda plan: any(use.surface.split("/")[0] == owner for use in plan.uses)  # noqa: E731
    return [(key, as_film(plan)) for _, key, plan in sorted(shaped, key=lambda f: f[:2]) if on(plan)]
