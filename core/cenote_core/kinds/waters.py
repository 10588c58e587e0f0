"""Still and running water as the plate knows it: its sheet, its waves and what light does in it."""

from __future__ import annotations

from typing import Any

import numpy as np
from pydantic import BaseModel

from ..base.packet import pack
from ..mesh.packed import mesh_packet
from ..scene.scene import Scene
from ..surfaces.water import MIRRORED, MIRRORED_LEVERS, TILE
from ..waters.look import BRIGHTEST, loses, meets_mud, mirrored
from ..waters.sheet import sheet, waves_of
from .kind import Address, Part, or_ring


class WaterOut(BaseModel):
    """One of the ground's waters.

    `waves` are rows of radians a metre along x and z, metres of height, radians a second and the phase at the start;
    `loses` is what a metre takes of red, green and blue, `murk` how often light meets mud on one, `light` the strength of
    the patterns it throws, `pattern` where those are that it mirrors.
    """

    number: int
    url: str
    waves: list[tuple[float, float, float, float, float]]
    loses: tuple[float, float, float]
    murk: float
    light: float
    pattern: str


def _there(scene: Scene, name: str) -> bool:
    return name.isdecimal() and len(name) < 4 and int(name) < len(scene.site.ground.waters())


def _version(scene: Scene, name: str) -> str:
    return or_ring(lambda: sheet.ref(scene, int(name)).key)


def _packet(scene: Scene, name: str) -> bytes:
    """The sheet's mesh, with metres of water under its vertices and the share of each that is foam."""
    found = sheet(scene, int(name))
    return mesh_packet(found.mesh, {}, {"depth": found.depth, "foam": found.foam}) if found else mesh_packet(None)


def _pattern(scene: Scene, name: str) -> bytes:
    """(levers, side, side) bytes, and what the plate needs to read them."""
    info = {"tile": TILE, "mirrored": MIRRORED, "levers": list(MIRRORED_LEVERS), "brightest": BRIGHTEST}
    return pack({"planes": mirrored(scene, int(name))}, info)


def listed(scene: Scene, address: Address) -> dict[str, Any]:
    """The values of `SECTIONS`."""
    out = []
    for number, form in enumerate(scene.site.ground.waters()):
        waves = waves_of(scene, form)
        rows = np.column_stack([waves.vectors, waves.height, waves.rate, waves.phase])
        out.append(
            {
                "number": number,
                "url": address("water", str(number), _version(scene, str(number))),
                "waves": [tuple(float(v) for v in row) for row in rows],
                "loses": loses(form.murk),
                "murk": meets_mud(form.murk),
                "light": form.patterns * scene.site.daylight.water_light,
                "pattern": address("waterlight", str(number), mirrored.ref(scene, number).key),
            }
        )
    return {"waters": out}


SECTIONS: dict[str, Any] = {"waters": list[WaterOut]}
"""What the manifest says of it."""
PARTS = {
    "water": Part(_there, _version, _packet),
    "waterlight": Part(_there, lambda scene, name: mirrored.ref(scene, int(name)).key, _pattern),
}
