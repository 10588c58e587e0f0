"""The kit: assets, materials, and bringing in models from files."""

import io
from functools import lru_cache
from typing import Any, Literal
from uuid import UUID

import numpy as np
from django.http import Http404, HttpRequest, HttpResponse
from ninja import Router, Schema
from ninja.errors import HttpError
from PIL import Image

from cenote_core.base.packet import pack
from cenote_core.graph.derived import derived
from cenote_core.kinds.weather import VERSION_DIGITS
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.kit.catalogue import CATALOGUE
from cenote_core.kit.flora import GRASSES
from cenote_core.kit.kit import Kit, drawn_lods
from cenote_core.kit.site_grasses import plan_of
from cenote_core.mesh.mesh import Mesh
from cenote_core.mesh.packed import mesh_packet
from cenote_core.plan import GrassPlan
from kit.assets import SiteKit
from kit.listing import AssetOut, asset_out, own_assets
from sites.access import site_for
from sites.computing import cache, scene_of

from .imports.rows import import_row

router = Router(tags=["kit"])
FOREVER = "private, max-age=31536000, immutable"


@lru_cache(maxsize=1)
def generated() -> list[dict[str, Any]]:
    """Every generated asset as the kit lists it."""
    return _listed(BuiltinKit(cache()))


@derived(lambda kit: [kit.asset_ref(key) for key in CATALOGUE], keep="disk")
def _listed(kit: BuiltinKit) -> list[dict[str, Any]]:
    """Kept, so that a start does not read all their meshes."""
    return [
        {
            **asset_out(
                key,
                r.title,
                r.kind,
                kit.asset(key),
                f"/api/kit/assets/{key}/lod",
                kit.asset_ref(key).key[:VERSION_DIGITS],
            ),
            "species": r.plant.species if r.plant else "",
        }
        for key, r in CATALOGUE.items()
    ]


@router.get("/assets", response=list[AssetOut])
def assets(request: HttpRequest, site: UUID | None = None) -> Any:
    """Everything that can be placed or scattered; with a site, its imported models and its own grasses too."""
    out = list(generated())
    if site is not None:
        found = site_for(request, str(site))
        kit = SiteKit(found, cache())
        for row in kit.rows().values():
            root = f"/api/kit/imports/{row.id}/lod"
            out.append(
                asset_out(
                    row.id, row.title, "imported", kit.asset(row.id), root, kit.asset_ref(row.id).key[:VERSION_DIGITS]
                )
            )
        out += own_assets(scene_of(found), str(found.pk))
    return out


class GrassOut(Schema):
    asset: str
    plan: GrassPlan


@router.get("/grasses", response=list[GrassOut])
def grasses(request: HttpRequest) -> Any:
    """How the grasses of the kit grow: each may be the beginning of one's own."""
    return [{"asset": key, "plan": plan_of(CATALOGUE[key].title, grass)} for key, grass in GRASSES.items()]


def versioned(request: HttpRequest, data: bytes, kind: str, key: str) -> HttpResponse:
    """An answer the browser keeps for good if its address names the very version it got, else for a minute."""
    answer = HttpResponse(data, content_type=kind)
    named = request.GET.get("v") == key[:VERSION_DIGITS]
    answer["Cache-Control"] = FOREVER if named else "private, max-age=60"
    return answer


def lod_answer(request: HttpRequest, lods: list[Mesh], level: int, key: str) -> HttpResponse:
    """One level of detail as a packet; 404 where there is none."""
    if not 0 <= level < len(lods):
        raise Http404
    return versioned(request, mesh_packet(lods[level]), "application/octet-stream", key)


@router.get("/assets/{asset_id}/lod/{int:level}", include_in_schema=False)
def lod(request: HttpRequest, asset_id: str, level: int) -> Any:
    """A level of detail of an asset of the kit."""
    if asset_id not in CATALOGUE:
        raise Http404
    kit = BuiltinKit(cache())
    return lod_answer(request, drawn_lods(kit, asset_id), level, kit.asset_ref(asset_id).key)


def _kit_of(request: HttpRequest, material_id: str) -> BuiltinKit:
    """The kit a material is in, if whoever asks may see it."""
    if material_id.startswith("import-"):
        return SiteKit(import_row(request, material_id.rpartition(".")[0]).site, cache())
    return BuiltinKit(cache())


@router.get("/materials/{material_id}/raw", include_in_schema=False)
def material_raw(request: HttpRequest, material_id: str, side: int = 512) -> Any:
    """The pictures as bytes, row 0 at v = 0, exact: for patinas, whose edge depends on their relief."""
    if not 16 <= side <= 2048:
        raise HttpError(422, "A side of 16 to 2048 texels can be asked for.")
    kit = _kit_of(request, material_id)
    m = kit.material(material_id)

    def resized(planes: np.ndarray) -> np.ndarray:
        image = Image.fromarray(np.ascontiguousarray(planes))
        return np.asarray(image if image.width == side else image.resize((side, side), Image.Resampling.BOX))[::-1]

    alpha = np.full_like(m.height, 255)
    planes = {"colour": np.dstack([m.colour, alpha]), "relief": np.dstack([m.normal[..., :2], m.roughness, m.height])}
    data = pack(
        {name: np.ascontiguousarray(resized(value)) for name, value in planes.items()}, {"tile": m.tile, "side": side}
    )
    return versioned(request, data, "application/octet-stream", kit.material_ref(material_id).key)


@derived(lambda kit, material_id, which, side=0: [kit.material_ref(material_id), which, side], keep="disk")
def material_webp(kit: Kit, material_id: str, which: str, side: int = 0) -> bytes:
    """A picture of a material as it is sent, made once. `side`: at most so many texels; 0 as many as there are."""
    m = kit.material(material_id)
    if which == "colour":
        planes = m.colour if m.fourth is None else np.dstack([m.colour, m.fourth])
    else:
        planes = np.dstack([m.normal[..., :2], m.roughness, m.height])
    image = Image.fromarray(planes)
    if 0 < side < image.width:
        image = image.resize((side, side), Image.Resampling.BOX)
    out = io.BytesIO()
    image.save(out, "WEBP", quality=92, method=2, exact=True)
    return out.getvalue()


@router.get("/materials/{material_id}/{which}.webp", include_in_schema=False)
def material_picture(request: HttpRequest, material_id: str, which: Literal["colour", "relief"], side: int = 0) -> Any:
    """`colour`: base colour with alpha; `relief`: normal x, normal y, roughness, height."""
    if side and not 16 <= side <= 2048:
        raise HttpError(422, "A side of 16 to 2048 texels can be asked for.")
    kit = _kit_of(request, material_id)
    data = material_webp(kit, material_id, which, side)
    return versioned(request, data, "image/webp", kit.material_ref(material_id).key)
