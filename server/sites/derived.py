"""What the plate draws, worked out by the core and packed for the browser."""

from typing import Any

import numpy as np

from cenote_core.base.packet import pack
from cenote_core.decals.project import decal_mesh, stacked
from cenote_core.drifts.plots import Counted, Eye, Plot, near_plots, plots_of
from cenote_core.drifts.populate import asker_of, populate
from cenote_core.errors import CenoteError
from cenote_core.graph.derived import derived
from cenote_core.ground.terrain import coarser, ground_mesh, thinned
from cenote_core.kit.catalogue import CATALOGUE as ASSETS
from cenote_core.kit.farcard import SLOT
from cenote_core.kit.kit import drawn_lods_for_now
from cenote_core.kit.own import tuft_ids
from cenote_core.light.radiance import harmonics, shared_exponent
from cenote_core.light.sky import Sky, make_sky, texel_directions
from cenote_core.materials.catalogue import CATALOGUE as MATERIALS
from cenote_core.materials.catalogue import GONE
from cenote_core.measures.distance import FAR
from cenote_core.mesh.mesh import Mesh
from cenote_core.patinas.cover import asker_of as patina_asker
from cenote_core.patinas.cover import owner_covers, stack, unlisted
from cenote_core.patinas.layers import PREFIX
from cenote_core.plan import (
    GROUND,
    DecalPlan,
    DriftPlan,
    EditPlan,
    GrassPlan,
    GroundPlan,
    LightPlan,
    LinePlan,
    PatinaPlan,
    PlacedPlan,
    Rule,
    TouchPlan,
    WeatherPlan,
)
from cenote_core.rules import histogram
from cenote_core.scene import land
from cenote_core.scene.measuring import measure
from cenote_core.scene.scene import PREVIEW_LIMIT, VIEW_LIMIT, Scene
from cenote_core.weather.exposure import sky_exposure

RING = "ring"
"""Stands for a version where there is none, because what it is of asks for itself."""
VERSION_DIGITS = 12
"""Digits of a hash that tell the versions of a picture or a mesh apart in its address."""
PREVIEW_INSTANCES = 120_000
VIEW_SIDE, PREVIEW_SIDE = 1025, 513
"""Points of the ground along a side, at most, as the plate draws it: at rest, and while it is being changed."""


def mesh_packet(mesh: Mesh | None, info: dict[str, Any] | None = None) -> bytes:
    """A mesh with its faces sorted by slot, so that each slot is one run of indices."""
    if mesh is None:
        return pack({}, {"empty": True, **(info or {})})
    order = np.argsort(mesh.slots, kind="stable")
    counts = np.bincount(mesh.slots, minlength=len(mesh.slot_names))
    arrays = {
        "position": mesh.positions,
        "normal": mesh.normals,
        "uv": mesh.uv,
        "index": mesh.faces[order].astype(np.uint32).ravel(),
    }
    if mesh.uv2 is not None:
        arrays["uv1"] = mesh.uv2
    if mesh.base_uv is not None:
        arrays["baseUv"] = mesh.base_uv
    if mesh.colour is not None:
        arrays["color"] = mesh.colour
    if mesh.sway is not None:
        arrays["sway"] = np.clip(mesh.sway * 127 + 0.5, 0, 255).astype(np.uint8)
    return pack(
        arrays, {"slots": list(mesh.slot_names), "counts": counts.tolist(), "ownUv": mesh.own_uv, **(info or {})}
    )


def ground_packet(scene: Scene, most: int, info: dict[str, Any] | None = None) -> bytes:
    """The ground as the plate draws it, and how many rows and columns of points it has."""
    plan, y = thinned(scene.site.ground, land.heights(scene), most)
    return mesh_packet(ground_mesh(plan, y), {"grid": list(y.shape), **(info or {})})


def ground_preview(scene: Scene) -> bytes:
    """The ground while it is being shaped: reckoned on no more points than are drawn, however fine it is."""
    looked = Scene(scene.site.with_item(GROUND, coarser(scene.site.ground, PREVIEW_SIDE)), scene.kit, scene.cache)
    return ground_packet(looked, PREVIEW_SIDE, {"lifts": _lifts(looked)})


def drift_packet(scene: Scene, key: str, plan: DriftPlan) -> bytes:
    """A saved drift: what its plots are. Only one comes along here, more have addresses of their own."""
    plots, places = plots_of(scene, key, plan)
    counted = Counted(sum(plot.count for plot in plots), places)
    return _drift_packet(plan, plots if len(plots) == 1 else [], [plot.entry() for plot in plots], counted)


def drift_preview(scene: Scene, key: str, plan: DriftPlan, eye: Eye, most: int) -> bytes:
    """A drift as it would be: of its plots the nearest, as many as the plate takes in while a handle is dragged."""
    near, others, counted = near_plots(scene, key, plan, eye, most)
    beyond = [{"cell": name, "count": count} for name, count in others]
    return _drift_packet(plan, near, [*(plot.entry() for plot in near), *beyond], counted)


def _drift_packet(plan: DriftPlan, along: list[Plot], entries: list[dict[str, Any]], counted: Counted) -> bytes:
    return pack(
        {plot.cell: np.frombuffer(plot.data, np.uint8) for plot in along},
        {
            "assets": [share.asset for share in plan.assets],
            "count": counted.standing,
            "places": counted.places,
            "plots": entries,
        },
    )


def own_packet(scene: Scene, item: str) -> bytes:
    """The tufts of a grass as it would be: their levels of detail, one array of bytes each."""
    levels = {
        f"{asset}/{n}": np.frombuffer(mesh_packet(lod), np.uint8)
        for asset in tuft_ids(item)
        for n, lod in enumerate(drawn_lods_for_now(scene.kit, asset))
    }
    return pack(levels, {"own": tuft_ids(item)})


def covers_packet(scene: Scene, owners: list[str], limit: int, info: dict[str, Any] | None = None) -> bytes:
    """Covers of several owners as bytes, one array an owner: (patinas, R, R), row 0 at v = 0."""
    arrays, order = {}, {}
    for owner in owners:
        values = owner_covers(scene, owner, limit)
        arrays[owner] = np.clip(values * 255 + 0.5, 0, 255).astype(np.uint8)
        order[owner] = [key for key, _ in stack(scene, owner)]
    return pack(arrays, {"patinas": order, **(info or {})})


HARMONICS_EVERY = 4
"""Texels from one to the next that the harmonics of a sky are taken from: they vary slowly."""


def sky_packet(sky: Sky) -> bytes:
    """The sky as three.js takes it: row 0 at the nadir, columns from −x over north to the east, ready for the card."""
    height, width = sky.image.shape[:2]
    some = slice(HARMONICS_EVERY // 2, None, HARMONICS_EVERY)
    directions, _ = texel_directions(width, height)
    return pack(
        {"image": shared_exponent(np.ascontiguousarray(np.roll(sky.image[::-1], width // 4, axis=1)))},
        {
            "sun": sky.sun_direction.tolist(),
            "sunColour": sky.sun_colour.tolist(),
            "haze": sky.haze_colour.tolist(),
            "ambient": harmonics(sky.image[some, some], directions[some, some]).tolist(),
        },
    )


@derived(lambda scene: scene.sky.ref(), keep="disk")
def sky_of(scene: Scene) -> bytes:
    """The packet of a site's sky."""
    return sky_packet(scene.sky())


def manifest(scene: Scene, site_id: str) -> dict[str, Any]:
    """Addresses of everything drawn; each carries a hash, so the browser fetches only what changed."""
    root = f"/api/sites/{site_id}/derived"
    owners = []
    by_owner: dict[str, list[dict[str, str]]] = {}
    for surface in scene.surfaces():
        entry = {
            "ref": surface.ref,
            "slot": surface.slot,
            "material": surface.material,
            "label": surface.label,
            "layer": surface.layer,
        }
        by_owner.setdefault(surface.owner, []).append(entry)
    for owner in scene.owners():
        mesh = mesh_version(scene, owner)
        patinas = [key for key, _ in stack(scene, owner)]
        cover = f"{root}/covers/{owner}?v={cover_version(scene, owner)}" if patinas else ""
        owners.append(
            {
                "owner": owner,
                "mesh": f"{root}/mesh/{owner}?v={mesh}",
                "cover": cover,
                "exposure": f"{root}/exposure/{owner}?v={sky_exposure.ref(scene, owner).key}",
                "surfaces": by_owner[owner],
                "patinas": patinas,
                "lift": 0.0 if owner == GROUND else float(land.lift(scene, owner)),
            }
        )
    drifts = []
    for key, drift in sorted(scene.site.drifts.items()):
        if drift.visible:
            drifts.append({"key": key, "url": f"{root}/instances/{key}?v={drift_version(scene, key)}"})
    decals = [
        {
            "key": key,
            "url": f"{root}/decal/{key}?v={decal_mesh.ref(scene, plan).key}",
            "picture": plan.picture,
            "tint": plan.tint,
        }
        for key, plan in stacked(scene)
    ]
    return {
        "owners": owners,
        "drifts": drifts,
        "decals": decals,
        "sky": f"{root}/sky?v={sky_of.ref(scene).key}",
        "materials": materials_info(scene),
        "layers": unlisted(scene),
    }


def mesh_version(scene: Scene, owner: str) -> str:
    return scene.mesh.ref(owner).key if owner == GROUND else scene.kit.asset_ref(scene.site.pieces[owner].asset).key


def exposure_packet(scene: Scene, owner: str) -> bytes:
    """How far an owner lies open to the sky, as bytes over its unwrap."""
    return pack({"exposure": np.clip(sky_exposure(scene, owner) * 255 + 0.5, 0, 255).astype(np.uint8)}, {})


def cover_version(scene: Scene, owner: str) -> str:
    """The hash in the address of an owner's covers; one in a ring has none and answers with the reason."""
    try:
        return owner_covers.ref(scene, owner, VIEW_LIMIT).key
    except CenoteError:
        return RING


def drift_version(scene: Scene, key: str) -> str:
    """The hash in a drift's address; drifts that ask for each other in a ring have none and answer with the reason."""
    try:
        return populate.ref(scene, key, scene.site.drifts[key]).key
    except CenoteError:
        return RING


def materials_info(scene: Scene) -> dict[str, dict[str, Any]]:
    """Titles, addresses and properties of all materials: generated, of far cards, and those models brought along."""
    out = {
        key: {"title": recipe.title, "kind": recipe.kind, **material_properties(scene, key)}
        for key, recipe in MATERIALS.items()
        if key != GONE
    }
    for recipe in ASSETS.values():
        far = recipe.materials.get(SLOT)
        if far:
            out[far] = {"title": recipe.title, "kind": "far", **_where(scene, far), **_FAR}
    for surface in scene.surfaces():
        if surface.material not in out and scene.at_hand(surface.material) == surface.material:
            title = f"{surface.slot}, as brought in"
            out[surface.material] = {"title": title, "kind": "imported", **material_properties(scene, surface.material)}
    for key in sorted(_asked_for(scene) - set(out)):
        out[key] = {"title": f"{key}, no longer in the kit", "kind": GONE, **material_properties(scene, GONE)}
    return out


def _asked_for(scene: Scene) -> set[str]:
    """The materials and pictures a site names."""
    return {
        *(surface.material for surface in scene.surfaces()),
        *(plan.finish.material for plan in scene.site.patinas.values()),
        *(plan.picture for plan in scene.site.decals.values()),
    }


_FAR = {"tile": 0.0, "depth": 0.0, "metalness": 0.0, "translucency": 0.35, "alpha": True, "size": 512}
"""Far cards are alike in everything but their picture, which is drawn when it is first seen."""


def _where(scene: Scene, key: str) -> dict[str, str]:
    """Where a material's pictures lie, and the version their addresses carry."""
    name = scene.seasonal(key)
    return {"url": f"/api/kit/materials/{name}", "v": scene.kit.material_ref(name).key[:VERSION_DIGITS]}


def material_properties(scene: Scene, key: str) -> dict[str, Any]:
    """What the plate has to know beside the pictures."""
    return {**_where(scene, key), **_figures(scene, key)}


@derived(lambda scene, key: scene.kit.material_ref(key), keep="disk")
def _figures(scene: Scene, key: str) -> dict[str, Any]:
    """Kept, so that the pictures need not be read for them."""
    m = scene.kit.material(key)
    return {
        "tile": m.tile,
        "metalness": m.metalness,
        "depth": m.depth,
        "translucency": m.translucency,
        "alpha": m.alpha is not None,
        "size": m.size,
    }


def preview(scene: Scene, key: str, plan: Any, eye: Eye = (0.0, 0.0, 0.0), most: int = PREVIEW_INSTANCES) -> bytes:
    """What the plate needs while an item is being changed: coarse where that saves time, and what the eye is near."""
    changed = Scene(scene.site.with_item(key, plan), scene.kit, scene.cache)
    if isinstance(plan, TouchPlan | PlacedPlan | LinePlan | EditPlan):
        # A hand edit shows on what it is made on.
        key = plan.target
        if key == GROUND:
            return ground_preview(changed)
        if key.startswith(PREFIX):
            return covers_packet(changed, [GROUND], PREVIEW_LIMIT)
        plan = changed.site.drifts.get(key) or changed.site.patinas.get(key)
    if isinstance(plan, WeatherPlan):
        return pack({}, {"materials": materials_info(changed)})
    if isinstance(plan, GrassPlan):
        return own_packet(changed, key)
    if isinstance(plan, DriftPlan):
        return drift_preview(changed, key, plan, eye, most)
    if isinstance(plan, PatinaPlan):
        before = scene.site.patinas.get(key)
        uses = [*plan.uses, *(before.uses if before else [])]
        touched = {use.surface.split("/")[0] for use in uses} & set(changed.owners())
        return covers_packet(changed, sorted(touched), PREVIEW_LIMIT)
    if isinstance(plan, DecalPlan):
        return mesh_packet(decal_mesh(changed, plan))
    if isinstance(plan, GroundPlan):
        if scene.mesh.ref(GROUND).key == changed.mesh.ref(GROUND).key:
            # Only its surfaces have changed, not its shape.
            return covers_packet(changed, [GROUND], PREVIEW_LIMIT, {"layers": _dumped(unlisted(changed))})
        return ground_preview(changed)
    if isinstance(plan, LightPlan):
        return sky_packet(make_sky(plan))
    return pack({}, {})


def _dumped(plans: dict[str, PatinaPlan]) -> dict[str, Any]:
    return {key: plan.model_dump(mode="json") for key, plan in plans.items()}


def _lifts(scene: Scene) -> dict[str, float]:
    """How far each piece has risen with the ground."""
    return {owner: float(land.lift(scene, owner)) for owner in scene.owners()[1:]}


def rule_histograms(scene: Scene, key: str, plan: DriftPlan | PatinaPlan) -> list[dict[str, Any]]:
    """For each rule: the area-weighted histogram of its measure over the item's surfaces and the share let through."""
    asker = asker_of(scene, key, plan) if isinstance(plan, DriftPlan) else patina_asker(scene, key, plan)
    surfaces = [s for s in scene.surfaces() if s.ref in asker.surfaces]
    out = []
    for rule in plan.rules:
        values, areas = [], []
        for owner in sorted({s.owner for s in surfaces}):
            table = scene.table(owner, scene.resolution(owner, 256))
            known = scene.texel_points.ref(owner, table.resolution)
            measured = measure(scene, owner, table.points, rule, asker, known)
            on = np.isin(table.points.slots, [s.index for s in surfaces if s.owner == owner])
            values.append(measured[on])
            areas.append(table.points.areas[on])
        every = np.concatenate(values) if values else np.zeros(0, np.float32)
        weight = np.concatenate(areas) if areas else np.zeros(0, np.float32)
        result = histogram(every, weight, rule.gate, _span(rule, every))
        out.append(
            {
                "edges": result.edges.tolist(),
                "areas": result.areas.tolist(),
                "passed": result.passed.tolist(),
                "share": result.share,
            }
        )
    return out


def _span(rule: Rule, values: np.ndarray) -> tuple[float, float]:
    """The range a histogram shows: fixed for shares and angles, for metres what occurs and the gate asks for."""
    if rule.about.span is not None:
        return rule.about.span
    gate = rule.gate
    known = values[np.abs(values) < FAR * 0.99]
    low, high = (float(known.min()), float(known.max())) if len(known) else (0.0, 1.0)
    if rule.about.distance:
        asked = [v for v in (gate.rise_end, gate.fall_start, gate.fall_end) if abs(v) < 200]
        low, high = min(low, 0.0), min(high, max(2.5 * max([abs(v) for v in asked] or [4.0]), 2.0))
    step = rule.about.step
    low, high = min(low, 0.0), max(high, low + 0.5)
    return float(np.floor(low / step) * step), float(np.ceil(high / step) * step)
