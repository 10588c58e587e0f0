"""Plants an artist made for one site, beside the kit they stand in."""

from __future__ import annotations

import numpy as np

from ..cache import Cache
from ..errors import CenoteError
from ..hashing import content_hash
from ..materials.material import Material, linear_to_srgb, srgb_to_linear
from ..materials.tile import colour
from ..plan import GrassPlan
from .catalogue import REVISION, Asset
from .flora import BLADE, Plant
from .grass import Grass, grass_tuft
from .kit import Kit

OWN = "own-"
TUFTS = 3
"""Different tufts of a grass, so that a drift of nothing else has neighbours that differ."""
BLADE_SHOWS = 0.77
"""Linear brightness of the picture of a blade, which colours are multiplied with."""


def tuft_ids(item: str) -> list[str]:
    """The asset ids of a grass item."""
    return [f"{OWN}{item}.{n}" for n in range(1, TUFTS + 1)]


def _parted(asset_id: str) -> tuple[str, int]:
    """Item and number of a tuft."""
    item, _, number = asset_id.removeprefix(OWN).rpartition(".")
    return item, int(number) if number.isdecimal() else 0


def grass_of(plan: GrassPlan) -> Grass:
    """Settings as the generator takes them: metres, radians, linear colours."""

    def linear(text: str) -> tuple[float, float, float]:
        r, g, b = np.minimum(srgb_to_linear(colour(text)) / BLADE_SHOWS, 1.0).tolist()
        return r, g, b

    return Grass(
        length=plan.length,
        root_width=plan.root_width / 1000,
        tip_width=plan.tip_width / 1000,
        head_width=plan.head_width / 1000,
        foot=plan.foot / 2,
        blades=plan.blades,
        bend=float(np.radians(plan.bend)),
        curl=float(np.radians(plan.curl)),
        clump=plan.clump,
        stiffness=plan.stiffness,
        dry=plan.dry,
        flower=plan.flower,
        root_colour=linear(plan.root_colour),
        tip_colour=linear(plan.tip_colour),
        dry_colour=linear(plan.dry_colour),
        head_colour=linear(plan.head_colour),
    )


def plan_of(name: str, grass: Grass) -> GrassPlan:
    """A grass of the kit as a beginning for one's own."""

    def written(linear: tuple[float, float, float]) -> str:
        shown = np.round(linear_to_srgb(np.array(linear) * BLADE_SHOWS) * 255).astype(int)
        return "#{:02x}{:02x}{:02x}".format(*shown)

    return GrassPlan(
        name=name,
        length=grass.length,
        blades=grass.blades,
        foot=round(grass.foot * 2, 3),
        root_width=round(grass.root_width * 1000, 2),
        tip_width=round(grass.tip_width * 1000, 2),
        head_width=round(grass.head_width * 1000, 2),
        bend=round(float(np.degrees(grass.bend)), 1),
        curl=round(float(np.degrees(grass.curl)), 1),
        clump=grass.clump,
        stiffness=grass.stiffness,
        dry=grass.dry,
        flower=grass.flower,
        root_colour=written(grass.root_colour),
        tip_colour=written(grass.tip_colour),
        dry_colour=written(grass.dry_colour),
        head_colour=written(grass.head_colour),
    )


class OwnKit:
    """A kit with the grasses of a site beside it."""

    def __init__(self, base: Kit, grasses: dict[str, GrassPlan], cache: Cache) -> None:
        self.base: Kit = base.base if isinstance(base, OwnKit) else base
        self.grasses = grasses
        self.cache = cache

    def own_ids(self) -> list[str]:
        """The assets the site's own grasses stand for, in stable order."""
        return [asset for item in sorted(self.grasses) for asset in tuft_ids(item)]

    def _plan(self, asset_id: str) -> GrassPlan:
        item, number = _parted(asset_id)
        plan = self.grasses.get(item)
        if plan is None or not 1 <= number <= TUFTS:
            raise CenoteError(f"There is no grass '{asset_id}' on this site any more. Choose another asset.")
        return plan

    def asset(self, asset_id: str) -> Asset:
        if not asset_id.startswith(OWN):
            return self.base.asset(asset_id)
        plan, (_, number) = self._plan(asset_id), _parted(asset_id)

        def make() -> Asset:
            lods = grass_tuft(plan.seed * TUFTS + number, grass_of(plan))
            return Asset(lods, BLADE, f"{plan.name}, tuft {number}", "plant")

        return self.cache.get(content_hash("own asset", self.asset_key(asset_id), plan.name), make)

    def asset_key(self, asset_id: str) -> str:
        if not asset_id.startswith(OWN):
            return self.base.asset_key(asset_id)
        grown = self._plan(asset_id).model_dump(exclude={"name", "note", "visible", "locked"})
        return content_hash("own", grown, _parted(asset_id)[1], REVISION)

    def plant(self, asset_id: str) -> Plant | None:
        if not asset_id.startswith(OWN):
            return self.base.plant(asset_id)
        plan = self.grasses.get(_parted(asset_id)[0])
        return None if plan is None else Plant(plan.name, "plant", list, BLADE, "grass", far=False)

    def material(self, material_id: str) -> Material:
        return self.base.material(material_id)

    def of_season(self, material_id: str, half: int) -> str:
        return self.base.of_season(material_id, half)

    def picture(self, picture_id: str) -> np.ndarray:
        return self.base.picture(picture_id)

    def picture_key(self, picture_id: str) -> str:
        return self.base.picture_key(picture_id)
