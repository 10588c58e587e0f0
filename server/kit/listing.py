"""Assets as the kit lists them: what they measure, and where their meshes are."""

from typing import Any

from ninja import Schema

from cenote_core.kit.catalogue import Asset
from cenote_core.scene.scene import Scene


class AssetOut(Schema):
    id: str
    title: str
    kind: str
    size: list[float]
    lods: list[str]
    triangles: list[int]
    materials: dict[str, str]
    species: str = ""


def asset_out(asset_id: str, title: str, kind: str, asset: Asset, root: str, version: str) -> dict[str, Any]:
    """An asset as the page knows it; its levels of detail lie under `root`."""
    low, high = asset.lods[0].bounds()
    return {
        "id": asset_id,
        "title": title,
        "kind": kind,
        "size": (high - low).astype(float).round(3).tolist(),
        "lods": [f"{root}/{n}?v={version}" for n in range(len(asset.lods))],
        "triangles": [lod.triangle_count for lod in asset.lods],
        "materials": asset.materials,
    }


def own_assets(scene: Scene, site_id: str) -> list[dict[str, Any]]:
    """The tufts of a site's own grasses; their addresses carry a hash and so change when the grass does."""
    root = f"/api/sites/{site_id}/derived/own"
    out = []
    for key in scene.kit.own_ids():
        asset = scene.kit.asset(key)
        out.append(
            {
                **asset_out(key, asset.title, asset.kind, asset, f"{root}/{key}", scene.kit.asset_ref(key).key),
                "species": "grass",
            }
        )
    return out
