"""All derived values of a rich site, from an empty cache, in several orders and weathers.

What may be asked for while a value is made hangs on its declared needs alone: never on what somebody asked for before, and
never on an argument that its key does not tell.
"""

import random
import unittest
from unittest import mock

import numpy as np

from cenote_core import view
from cenote_core.errors import CenoteError
from cenote_core.graph.derived import Derived, Ref
from cenote_core.graph.store import Cache
from cenote_core.kinds import KINDS, PARTS
from cenote_core.kit.builtin import BuiltinKit
from cenote_core.plan import BeadsPlan, Cut, DecalPlan, PatinaPlan, PatinaUse, PiecePlan, Water, WeatherPlan, rule_of
from cenote_core.scene.scene import Scene

from .helpers import CACHE, drift, gate, small_site

WEATHERS = {
    "dry": WeatherPlan(),
    "snow": WeatherPlan(snow=3.0, wind=4.0),
    "rain": WeatherPlan(rain=6.0, wetness=0.8, standing=20.0),
    "thaw": WeatherPlan(snow=3.0, melted=1.0, icicles=30.0, wetness=0.5, frost=0.3, dust=0.2),
}


def site_in(weather):
    """A piece over another, one half beside the ground, one far from it; things that ask for each other."""
    forms = [Cut(line=[(-3, -2), (3, -2)], width=0.6, depth=0.3, water=0.5), Water(centre=(2, 2), level=-0.2)]
    site = small_site(width=6, depth=6, cell=0.5, forms=forms)
    site.pieces.clear()
    for key, at in {"a": (0, 0, 0), "b": (0.3, 0.62, 0), "c": (3.2, 0, 0), "far": (60, 0, 0)}.items():
        site.put(key, PiecePlan(name=key, asset="crate", position=at))
    site.put(
        "d",
        drift(assets=["stone_small", "fern_young"], density=1.5, rules=[rule_of("near", gate=gate(0.1, 0.2, 9, 9))]),
    )
    site.put("t", drift(name="t", tier="canopy", assets=["birch_young"], density=0.1, spacing=2, headroom=0))
    runoff = rule_of("runoff", gate=gate(0.01, 0.2, 9, 9))
    uses = [PatinaUse(surface=ref) for ref in ("a/wood", "ground/ground", "d/stone", "t/trunk")]
    site.put("m", PatinaPlan(name="m", uses=uses, rules=[rule_of("crown", gate=gate(0, 0.1, 9, 9)), runoff]))
    site.put("c1", DecalPlan(name="crack", position=(0, 0.6, 0), facing=(0, 1, 0), receivers=["a"]))
    site.put("e", BeadsPlan(name="dew", size=8, crowded=0.05, between=0, uses=[PatinaUse(surface="b/wood")]))
    site.weather = weather
    return site


class _Asked:
    """Remembers every derived value that is asked for of a scene."""

    def __init__(self):
        self.calls, self.by_key = {}, {}

    def __enter__(self):
        whole = Derived.ref

        def ref(derived, host, *args, **kwargs):
            made = whole(derived, host, *args, **kwargs)
            if isinstance(host, Scene) and not kwargs and all(_plain(a) for a in args):
                self.calls[derived.name, repr(args)] = (derived, args)
                self.by_key.setdefault((derived.name, made.key), {})[repr(args)] = (derived, args)
            return made

        self.patch = mock.patch.object(Derived, "ref", ref)
        self.patch.__enter__()
        return self

    def __exit__(self, *more):
        self.patch.__exit__(*more)


def _plain(argument):
    """May it be asked of another scene of the same site?"""
    return not isinstance(argument, Ref) and "object at 0x" not in repr(argument)


def everything(scene):
    """All that a plate asks for, and what every item brings about."""
    asked = []
    view.manifest(scene, lambda part, name, version: asked.append((part, name)) or "x")
    for part, name in asked:
        if PARTS[part].there(scene, name):
            PARTS[part].make(scene, name)
    for kind in KINDS.values():
        for key, plan in scene.site.items[kind.name].items():
            if kind.effect:
                kind.effect(scene, key, plan)


def same(one, other):
    if isinstance(one, np.ndarray):
        return np.array_equal(one, other, equal_nan=one.dtype.kind == "f")
    if hasattr(one, "__dataclass_fields__"):
        return all(same(getattr(one, f), getattr(other, f)) for f in one.__dataclass_fields__)
    if isinstance(one, list | tuple):
        return len(one) == len(other) and all(map(same, one, other))
    if isinstance(one, dict):
        return one.keys() == other.keys() and all(same(one[k], other[k]) for k in one)
    return one == other or type(one).__module__.startswith(("mitsuba", "drjit")) or repr(one) == repr(other)


class Orders(unittest.TestCase):
    def fresh(self, site):
        # Assets and materials of the kit are the same whoever asks for them; all else is made anew.
        return Scene(site, BuiltinKit(CACHE), Cache())

    def test_in_all_weathers(self):
        for name, weather in WEATHERS.items():
            with self.subTest(weather=name):
                site = site_in(weather)
                with _Asked() as asked:
                    everything(self.fresh(site))
                self.assertGreater(len(asked.calls), 60)
                calls = [asked.calls[key] for key in sorted(asked.calls)]
                random.Random(name).shuffle(calls)
                for order in (calls, calls[::-1]):
                    scene = self.fresh(site)
                    for derived, args in order:
                        try:
                            derived.ref(scene, *args).value()
                        except CenoteError:
                            # Refused in words; nothing undeclared.
                            continue
                self.keys_tell_arguments(scene, asked)

    def keys_tell_arguments(self, scene, asked):
        """Where one key stands for several arguments, they give the same value."""
        for (name, _), calls in asked.by_key.items():
            if len(calls) < 2:
                continue
            values = [derived.make(scene, *args) for derived, args in list(calls.values())[:3]]
            for other in values[1:]:
                self.assertTrue(same(values[0], other), f"{name}: one key for {sorted(calls)[:3]}")
