"""From a site to what the tracer takes: everything uploaded, the camera and the light."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from ..kinds import KINDS
from ..mesh import engine
from ..plan import StationPlan
from ..proof_scene.detail import Detail
from ..proof_scene.nearfield import look_of, shaped_meshes
from ..proof_scene.tables import Shot, Tables
from ..scene.scene import Scene
from ..stations.camera import axes, field_of_view
from ..tracer.bvh_cache import KeptTrees
from ..tracer.paths import View, view_of
from ..tracer.world import Sky, World, sky_of, upload

SUN_RADIUS = 0.2665
"""Degrees; half the sun's mean angular diameter as seen from the ground."""
_TREES = KeptTrees(700_000_000)


@dataclass(frozen=True)
class Stage:
    """A site ready to be traced."""

    world: World
    sky: Sky
    station: StationPlan


def prepare(scene: Scene, station: StationPlan, size: tuple[int, int], detail: Detail) -> Stage:
    """Gather all tables of a site as fine as a station asks for in a picture of so many pixels; hand them over."""
    tables = Tables()
    meshes = shaped_meshes(scene, look_of(station, size, detail))
    shot = Shot(scene, meshes, station, size, detail)
    for kind in KINDS.values():
        if kind.emit:
            kind.emit(tables, shot)
    arrays = tables.arrays()
    light, weather = scene.sky(), scene.site.weather
    patterns = np.stack(tables.patterns) if tables.patterns else None

    def work(_: object) -> tuple[World, Sky]:
        world = upload(*arrays, trees=_TREES, fallen=weather.fallen, patterns=patterns)
        return world, sky_of(light.image, light.sun_direction, light.sun_colour, SUN_RADIUS, tables.lamps)

    return Stage(*engine.run(work), station)


def camera(station: StationPlan, width: int, height: int) -> View:
    """A station as a camera; on the engine's thread."""
    eye, right, up, forward = axes(station)
    half = float(np.tan(np.radians(field_of_view(station.lens)) / 2))
    return view_of(eye, forward, right * half, up * half * height / width, (width, height))


def give_back() -> None:
    """Give back what is not worth keeping for the next proof."""
    engine.run(lambda mi: _TREES.trim())
    engine.release_memory()
