"""Stations as cameras and the sun as a light, in a GLB."""

from __future__ import annotations

import numpy as np
import pygltflib as gl
from scipy.spatial.transform import Rotation

from ..materials.material import LUMINANCE
from ..scene.scene import Scene
from ..stations.camera import ASPECT, SENSOR, axes
from .glb import Writer

_LIGHTS = "KHR_lights_punctual"
_LUX = 12_000.0
"""Lux of one unit of the sky's own scale: the sun in a clear sky then gives about a hundred thousand."""
_NEAR, _FAR = 0.05, 2000.0
"""Metres between which cameras see."""


def add_stations(out: Writer, scene: Scene) -> None:
    """Every station as a camera, in their order."""
    for plan in sorted(scene.site.stations.values(), key=lambda plan: (plan.order, plan.name)):
        eye, right, up, forward = axes(plan)
        out.document.cameras.append(
            gl.Camera(
                name=plan.name,
                type="perspective",
                perspective=gl.Perspective(
                    yfov=float(2 * np.arctan(SENSOR / ASPECT / 2 / plan.lens)),
                    aspectRatio=ASPECT,
                    znear=_NEAR,
                    zfar=_FAR,
                ),
            )
        )
        # Cameras of the format look along −z.
        turn = Rotation.from_matrix(np.column_stack([right, up, -forward])).as_quat()
        out.node(
            gl.Node(
                name=plan.name,
                camera=len(out.document.cameras) - 1,
                translation=eye.tolist(),
                rotation=turn.tolist(),
            )
        )


def add_sun(out: Writer, scene: Scene) -> None:
    """The sun as a light from far off: which way it shines, its colour, and how many lux what faces it gets."""
    sky = scene.sky()
    strength = float(sky.sun_colour @ LUMINANCE)
    if strength <= 0:
        return
    colour = sky.sun_colour / sky.sun_colour.max()
    lux = _LUX * strength * float(sky.sun_colour.max() / max(strength, 1e-9))
    light = {"type": "directional", "name": "sun", "color": colour.tolist(), "intensity": lux}
    out.uses(_LIGHTS)
    out.document.extensions[_LIGHTS] = {"lights": [light]}
    turn, _ = Rotation.align_vectors([-sky.sun_direction], [[0.0, 0.0, -1.0]])
    out.node(gl.Node(name="sun", rotation=turn.as_quat().tolist(), extensions={_LIGHTS: {"light": 0}}))
