"""Still and running water handed over, each with its waves and with what a metre of it takes of light."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

import numpy as np

from ..plan import Water
from ..scene.scene import Scene
from ..surfaces.clear import WATER as WATER_BENDS
from ..waters.look import loses, meets_mud, ripples
from ..waters.sheet import sheet
from .clear import clear
from .listing import Delivery, Finish, Part, Volume
from .pictures import PNG, encoded


def add_waters(to: Delivery, scene: Scene) -> None:
    """Each form of the ground that holds water, as a sheet of its own."""
    for number, form in enumerate(scene.site.ground.waters()):
        found = sheet(scene, number)
        if found is None:
            continue
        name = f"{'still' if isinstance(form, Water) else 'running'} water {number + 1}"
        material = to.material(name, partial(_open_water, scene, number, name, form.murk))
        to.stand(name, [Part(found.mesh, found.mesh.faces, found.mesh.uv, material)])


def _open_water(scene: Scene, number: int, name: str, murk: float) -> Finish:
    picture, relief = ripples(scene, number)
    mud = meets_mud(murk)
    red, green, blue = (float(np.exp(-(lost + mud))) for lost in loses(murk))
    own = clear(name, WATER_BENDS)
    return replace(
        own, normal_map=encoded(picture.normal, PNG), relief=relief, volume=Volume(1.0, 1.0, (red, green, blue))
    )
