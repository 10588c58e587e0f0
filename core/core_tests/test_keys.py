"""Keys cover what values hang on: every setting of every item of a rich site is changed, one at a time."""

import typing
import unittest
from dataclasses import replace

import numpy as np
from annotated_types import Ge, Gt, Le, Lt
from pydantic import BaseModel, ValidationError

from cenote_core.decals.project import decal_mesh
from cenote_core.drifts.instancing import build_instances
from cenote_core.errors import CenoteError
from cenote_core.graph.store import Cache
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.measures.crown import CrownRule
from cenote_core.measures.near import NearRule
from cenote_core.measures.noise import NoiseRule
from cenote_core.measures.slope import SlopeRule
from cenote_core.patinas.bake import bake_maps
from cenote_core.patinas.cover import owner_covers
from cenote_core.plan import (
    Border,
    Cut,
    DecalPlan,
    GroundLayer,
    KeepOut,
    LinePlan,
    Mound,
    Pad,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    StationPlan,
    TouchPlan,
)  # fmt: skip
from cenote_core.scene import land
from cenote_core.scene.scene import Scene

from .helpers import CACHE, drift, gate, scene_of, small_site

LIMIT = 32


def rich_site():
    """Whatever asks for something else: pads, paths, surfaces, crowns, keep-outs, strokes, a line, a decal."""
    gravel = GroundLayer(key="gravel", material="gravel", rules=[NoiseRule(gate=gate(0.45, 0.55, 1, 1))])
    mould = GroundLayer(key="mould", material="leaf_soil", rules=[CrownRule(gate=gate(0.05, 0.3, 1, 1), drifts=["t"])])
    forms = [Mound(centre=(3, 3), radius=2, height=0.5), Cut(line=[(-5, 4), (5, 5)], width=1), Pad(piece="crate")]
    site = small_site(forms=forms, layers=[gravel, mould], amount=0.4, feature=4.0, cell=1.0)
    site.put("crate", PiecePlan(name="crate", asset="crate", position=(3, 0, 1), ground_at=0.0))
    site.put("s", StationPlan(name="s", position=(0, 1.2, 6), target=(0, 0.5, 0)))
    everywhere = ["ground/ground", "ground/gravel", "ground/mould"]
    site.put(
        "t",
        drift(name="t", tier="canopy", assets=["birch_young"], surfaces=everywhere, density=0.2, spacing=1, headroom=0),
    )
    rules = [SlopeRule(gate=gate(0, 0, 20, 40)), NearRule(gate=gate(0.1, 0.4, 99, 99))]
    keeps = [
        KeepOut(of="pieces", clearance=0.05),
        KeepOut(of="t", clearance=0.2),
        KeepOut(of="stations", clearance=0.2),
    ]
    site.put(
        "d",
        drift(
            assets=["grass_low", "fern_young"], surfaces=["ground/ground"], density=4, rules=rules, keep_outs=keeps,
            size_rules=[NoiseRule(gate=gate(0.2, 0.8, 1, 1))], border=Border(width=1.0), headroom=0.3,
        ),
    )  # fmt: skip
    site.put("dab", TouchPlan(target="d", points=[(1, 0, 1)], radius=1.0, action="less"))
    site.put("row", LinePlan(target="d", points=[(-4, 0, -4), (-2, 0, -4)]))
    uses = [PatinaUse(surface="wall/stone"), PatinaUse(surface="ground/ground", amount=0.5)]
    site.put("m", PatinaPlan(name="moss", uses=uses, rules=[NearRule(gate=gate(0, 0, 1, 3), pieces=["crate"])]))
    site.put("c", DecalPlan(name="crack", position=(0, 0.8, -1.75), facing=(0, 0, 1), receivers=["wall"]))
    return site


def bounds(field):
    """Least and greatest value a number may have."""
    low, high = -1e9, 1e9
    for mark in field.metadata:
        if isinstance(mark, Ge | Gt):
            low = float(getattr(mark, "ge", getattr(mark, "gt", low)))
        if isinstance(mark, Le | Lt):
            high = float(getattr(mark, "le", getattr(mark, "lt", high)))
    return low, high


def other(field, value):
    """Another value the field may have, or None where none is known."""
    options = typing.get_args(field.annotation) if typing.get_origin(field.annotation) is typing.Literal else ()
    if options:
        return next((o for o in options if o != value), None)
    if isinstance(value, bool):
        return not value
    if isinstance(value, int | float):
        low, high = bounds(field)
        step = max(abs(value) * 0.3, 1 if isinstance(value, int) else 0.2)
        for moved in (value + step, value - step, value + step / 10, value - step / 10):
            if low <= moved <= high:
                return int(moved) if isinstance(value, int) else moved
    return None


def variants(plan, path=()):
    """(path, plan) with one setting changed, nested models and lists of models included."""
    for name, field in type(plan).model_fields.items():
        value = getattr(plan, name)
        if name in ("kind", "measure", "form"):
            continue
        if isinstance(value, BaseModel):
            found = [(p, {name: v}) for p, v in variants(value, (*path, name))]
        elif isinstance(value, list) and value and isinstance(value[0], BaseModel):
            found = [
                (p, {name: [*value[:k], v, *value[k + 1 :]]})
                for k, one in enumerate(value)
                for p, v in variants(one, (*path, name, k))
            ]
        else:
            changed = other(field, value)
            found = [] if changed is None else [((*path, name), {name: changed})]
        for where, update in found:
            try:
                yield (
                    where,
                    type(plan).model_validate({**plan.model_dump(), **{k: _dumped(v) for k, v in update.items()}}),
                )
            except ValidationError:
                continue


def _dumped(value):
    if isinstance(value, BaseModel):
        return value.model_dump()
    return [_dumped(v) for v in value] if isinstance(value, list) else value


VALUES = {
    "heights": (lambda s: land.heights.ref(s), lambda y: y),
    "drift d": (lambda s: build_instances.ref(s, "d", s.site.drifts["d"]), lambda found: _standing(found)),
    "drift t": (lambda s: build_instances.ref(s, "t", s.site.drifts["t"]), lambda found: _standing(found)),
    "covers of the ground": (lambda s: owner_covers.ref(s, "ground", LIMIT), lambda covers: covers),
    "covers of the wall": (lambda s: owner_covers.ref(s, "wall", LIMIT), lambda covers: covers),
    "baked wall": (lambda s: bake_maps.ref(s, "wall", LIMIT, LIMIT), lambda maps: maps.colour),
    "decal": (lambda s: decal_mesh.ref(s, s.site.decals["c"]), lambda mesh: mesh.positions),
    "water": (lambda s: land.shores.ref(s), lambda found: np.concatenate([*found[0], np.zeros((1, 2))])),
}


def _standing(found):
    return np.column_stack([found.position, found.rotation, found.scale, found.tint, found.asset, found.mirrored])


class SmallPictures(BuiltinKit):
    """The kit with every picture thinned out: what is tested hangs on the settings, whatever the size of pictures."""

    def __init__(self, cache):
        super().__init__(cache)
        self.thinned = {}

    def material(self, material_id):
        if material_id not in self.thinned:
            whole = super().material(material_id)
            step = max(1, whole.size // 64)
            planes = {
                name: np.ascontiguousarray(plane[::step, ::step])
                for name in ("colour", "roughness", "height", "normal", "alpha")
                if (plane := getattr(whole, name)) is not None
            }
            self.thinned[material_id] = replace(whole, **planes)
        return self.thinned[material_id]


KIT = SmallPictures(CACHE)


def anew(site):
    """A site with a cache of its own: the shared one would answer with what lies under the key."""
    return Scene(site, KIT, Cache())


class Keys(unittest.TestCase):
    def test_where_a_value_changes_its_key_does_whatever_setting_was_changed(self):
        site = rich_site()
        plain = anew(site)
        before = {name: (ref(plain).key, part(ref(plain).value())) for name, (ref, part) in VALUES.items()}
        for name, (_, value) in before.items():
            self.assertGreater(value.size, 0, name)
        items = {
            "ground": site.ground, "light": site.light, "weather": site.weather, "crate": site.pieces["crate"],
            "wall": site.pieces["wall"], "s": site.stations["s"], "t": site.drifts["t"], "d": site.drifts["d"],
            "dab": site.touches["dab"], "row": site.lines["row"], "m": site.patinas["m"], "c": site.decals["c"],
        }  # fmt: skip
        tried, told = 0, 0
        for item, plan in items.items():
            for path, changed in variants(plan):
                scene = anew(site.with_item(item, changed))
                tried += 1
                for name, (ref, part) in VALUES.items():
                    was_key, was = before[name]
                    try:
                        if ref(scene).key != was_key:
                            told += 1
                            continue
                    except CenoteError:
                        # Said in words, so nobody is shown anything stale.
                        continue
                    now = part(ref(scene).value())
                    same = now.shape == was.shape and np.array_equal(now, was)
                    self.assertTrue(same, f"{name} changed with {item}.{'.'.join(map(str, path))}, its key did not")
        self.assertGreater(tried, 150)
        self.assertGreater(told, 100)

    def test_a_sky_hangs_on_every_setting_of_the_light_that_it_changes_with(self):
        site = small_site()
        before = scene_of(site).sky.ref()
        for path, changed in variants(site.light):
            now = anew(site.with_item("light", changed)).sky.ref()
            if now.key == before.key:
                np.testing.assert_array_equal(now.value().image, before.value().image, str(path))
