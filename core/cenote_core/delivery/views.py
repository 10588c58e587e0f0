"""Stations as cameras and the sun as a light."""

from __future__ import annotations

import numpy as np
from scipy.spatial.transform import Rotation

from ..light.photometry import LUX
from ..materials.material import LUMINANCE
from ..scene.scene import Scene
from ..stations.camera import ASPECT, SENSOR, axes
from .listing import Camera, Delivery, Light


def add_stations(to: Delivery, scene: Scene) -> None:
    """Every station as a camera, in their order."""
    for plan in sorted(scene.site.stations.values(), key=lambda plan: (plan.order, plan.name)):
        eye, right, up, forward = axes(plan)
        turn = Rotation.from_matrix(np.column_stack([right, up, -forward])).as_quat()
        tall = float(2 * np.arctan(SENSOR / ASPECT / 2 / plan.lens))
        to.cameras.append(Camera(plan.name, tuple(eye.tolist()), tuple(turn.tolist()), tall, ASPECT))


def add_sun(to: Delivery, scene: Scene) -> None:
    """The sun as a light from far off: which way it shines, its colour, and how many lux what faces it gets."""
    sky = scene.sky()
    strength = float(sky.sun_colour @ LUMINANCE)
    if strength <= 0:
        return
    brightest = float(sky.sun_colour.max())
    turn, _ = Rotation.align_vectors([-sky.sun_direction], [[0.0, 0.0, -1.0]])
    colour = tuple((sky.sun_colour / brightest).tolist())
    to.lights.append(Light("sun", colour, LUX * brightest, tuple(turn.as_quat().tolist())))
