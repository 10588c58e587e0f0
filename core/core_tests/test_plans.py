"""Plans: every setting of every kind of item explained and held in its range, whatever is sent; sites as values."""

import json
import math
import types
import typing
import unittest

from pydantic import BaseModel, ValidationError

from cenote_core.base.fields import PlanModel
from cenote_core.plan import (
    AssetShare,
    Basin,
    Cut,
    DecalPlan,
    DriftPlan,
    EditPlan,
    GroundLayer,
    GroundPlan,
    LightPlan,
    LinePlan,
    Mound,
    Pad,
    PatinaPlan,
    PatinaUse,
    PiecePlan,
    PlacedPlan,
    PlacedThing,
    SitePlan,
    StationPlan,
    Terrace,
    TouchPlan,
    Water,
    WeatherPlan,
)
from cenote_core.plan.site import item_adapter

ITEMS = {
    "ground": GroundPlan(),
    "light": LightPlan(),
    "weather": WeatherPlan(),
    "piece": PiecePlan(name="p", asset="crate"),
    "drift": DriftPlan(name="d", assets=[AssetShare(asset="grass_low")], surfaces=["ground/ground"]),
    "patina": PatinaPlan(name="m", uses=[PatinaUse(surface="wall/stone")]),
    "decal": DecalPlan(name="c"),
    "station": StationPlan(name="s"),
    "touch": TouchPlan(target="d", points=[(0, 0, 0)]),
    "placed": PlacedPlan(target="d", things=[PlacedThing(asset="grass_low", point=(0, 0, 0))]),
    "line": LinePlan(target="d", points=[(0, 0, 0), (1, 0, 0)]),
    "edit": EditPlan(target="d", identities=["00000000000000ff"], action="remove"),
}
FORMS = [
    Terrace(start=(0, 0), end=(1, 0)),
    Cut(line=[(0, 0), (1, 0)]),
    Mound(centre=(0, 0)),
    Basin(centre=(0, 0)),
    Pad(piece="p"),
    Water(centre=(0, 0)),
]


PACKAGES = tuple(f"cenote_core.{name}" for name in ("base", "measures", "plan"))


def every_model():
    """All plan models, those of measures among them."""
    found, waiting = set(), [PlanModel]
    while waiting:
        for model in waiting.pop().__subclasses__():
            if model not in found and model.__module__.startswith(PACKAGES):
                found.add(model)
                waiting.append(model)
    return sorted(found, key=lambda m: m.__name__)


def numbers(model: type[BaseModel]):
    """Fields of a model that hold one number: name, least and greatest allowed."""
    for name, field in model.model_fields.items():
        kinds = typing.get_args(field.annotation) if isinstance(field.annotation, types.UnionType) else ()
        if field.annotation not in (float, int) and not set(kinds) & {float, int}:
            continue
        ends = {
            attribute: getattr(m, attribute)
            for m in field.metadata
            for attribute in ("ge", "le")
            if hasattr(m, attribute)
        }
        yield name, ends.get("ge"), ends.get("le")


class Settings(unittest.TestCase):
    def test_every_number_has_a_range_and_its_default_lies_in_it(self):
        count = 0
        for model in every_model():
            for name, low, high in numbers(model):
                self.assertIsNotNone(low, f"{model.__name__}.{name}")
                self.assertIsNotNone(high, f"{model.__name__}.{name}")
                default = model.model_fields[name].default
                if isinstance(default, float | int):
                    self.assertTrue(low <= default <= high, f"{model.__name__}.{name}")
                count += 1
        self.assertGreater(count, 100)

    def test_every_quantity_is_explained_in_a_sentence_with_its_unit(self):
        for model in every_model():
            for name, field in model.model_fields.items():
                extra = field.json_schema_extra
                if isinstance(extra, dict) and "unit" in extra:
                    self.assertRegex(field.description or "", r"^[A-Z0-9].*[.:]", f"{model.__name__}.{name}")
                    self.assertIn(
                        extra["unit"],
                        {
                            "",
                            "×",
                            "m",
                            "°",
                            "mm",
                            "cm",
                            "s",
                            "m/s",
                            "mm/h",
                            "cm/h",
                            "per m²",
                            "mm/s",
                            "lm",
                            "K",
                            "l/s",
                            "ml",
                            "stops",
                            "month",
                            "years",
                        },
                    )
                    self.assertGreater(extra.get("step", 1), 0)

    def test_both_ends_are_taken_and_what_lies_beyond_is_not(self):
        for kind, item in ITEMS.items():
            for name, low, high in numbers(type(item)):
                for value in (low, high):
                    if kind == "ground" and name in ("width", "depth", "cell"):
                        continue  # held by the number of points besides
                    taken = type(item).model_validate({**item.model_dump(), name: value})
                    self.assertEqual(getattr(taken, name), value)
                for value in (low - 1 - abs(low), high + 1 + abs(high), math.nan, math.inf, -math.inf, "many", [1]):
                    with self.assertRaises(ValidationError, msg=f"{kind}.{name} = {value}"):
                        type(item).model_validate({**item.model_dump(), name: value})


class Items(unittest.TestCase):
    def test_each_goes_to_json_and_back_unchanged(self):
        for kind, item in ITEMS.items():
            text = item.model_dump_json()
            again = item_adapter.validate_json(text)
            self.assertEqual(type(again), type(item))
            self.assertEqual(again, item)
            self.assertEqual(json.loads(text)["kind"], kind)

    def test_unknown_kinds_and_fields_are_refused(self):
        with self.assertRaises(ValidationError):
            item_adapter.validate_python({"kind": "volcano", "name": "v"})
        for item in ITEMS.values():
            with self.assertRaises(ValidationError):
                item_adapter.validate_python({**item.model_dump(), "colour_of_the_sky": "blue"})

    def test_names_must_be_there_and_not_endless(self):
        for item in ITEMS.values():
            for name in ("", "x" * 81):
                with self.assertRaises(ValidationError):
                    type(item).model_validate({**item.model_dump(), "name": name})

    def test_ids_and_surfaces_hold_nothing_that_leads_elsewhere(self):
        for bad in ("", "../etc", "a b", "a/b/c", "x" * 65, "a\n", "é"):
            with self.assertRaises(ValidationError, msg=repr(bad)):
                PiecePlan(name="p", asset=bad)
        for bad in ("ground", "ground/", "/stone", "a/b/c", "../x/y", "wall/" + "x" * 65):
            with self.assertRaises(ValidationError, msg=repr(bad)):
                PatinaUse(surface=bad)
        self.assertEqual(PatinaUse(surface="wall-1/old stone").surface, "wall-1/old stone")

    def test_colours_are_six_hexadecimal_figures(self):
        for bad in ("red", "#fff", "#gggggg", "#ffffff ", "ffffff"):
            with self.assertRaises(ValidationError, msg=bad):
                DecalPlan(name="d", tint=bad)


class Sound(unittest.TestCase):
    def test_a_mix_needs_some_weight(self):
        with self.assertRaisesRegex(ValidationError, "weight above 0"):
            DriftPlan(name="d", assets=[AssetShare(asset="a", weight=0), AssetShare(asset="b", weight=0)])
        self.assertEqual(DriftPlan(name="d").assets, [])

    def test_a_surface_carries_a_patina_once(self):
        with self.assertRaisesRegex(ValidationError, "only once"):
            PatinaPlan(name="m", uses=[PatinaUse(surface="w/stone"), PatinaUse(surface="w/stone", amount=0.5)])

    def test_a_decal_faces_somewhere(self):
        with self.assertRaisesRegex(ValidationError, "not be zero"):
            DecalPlan(name="d", facing=(0, 0, 0))

    def test_a_ground_has_at_most_2048_by_2048_points_and_says_what_to_do(self):
        GroundPlan(width=200, depth=200, cell=0.1)
        GroundPlan(width=2000, depth=2000, cell=1.0)
        with self.assertRaisesRegex(ValidationError, "at most 4,194,304. Make the cell larger"):
            GroundPlan(width=250, depth=250, cell=0.1)

    def test_the_part_of_an_image_has_some_size(self):
        for crop in ((0.5, 0, 0.5, 1), (0.6, 0, 0.4, 1), (0, 0, 1.2, 1), (-0.1, 0, 1, 1)):
            with self.assertRaises(ValidationError, msg=str(crop)):
                GroundPlan(image_crop=crop)

    def test_surfaces_of_the_ground_have_names_of_their_own(self):
        for keys in (("gravel", "gravel"), ("ground",)):
            with self.assertRaisesRegex(ValidationError, "name of its own"):
                GroundPlan(layers=[GroundLayer(key=k) for k in keys])

    def test_all_forms_can_be_stacked_in_any_order(self):
        for turn in range(len(FORMS)):
            forms = FORMS[turn:] + FORMS[:turn]
            again = GroundPlan.model_validate_json(GroundPlan(forms=forms).model_dump_json())
            self.assertEqual(again.forms, forms)
        self.assertEqual(GroundPlan(forms=FORMS).paths(), [FORMS[1]])

    def test_lists_do_not_grow_without_end(self):
        with self.assertRaises(ValidationError):
            GroundPlan(forms=[FORMS[2]] * 65)
        with self.assertRaises(ValidationError):
            TouchPlan(target="d", points=[(0, 0, 0)] * 4001)
        with self.assertRaises(ValidationError):
            TouchPlan(target="d", points=[])


class Sites(unittest.TestCase):
    def test_items_go_to_their_places(self):
        site = SitePlan.from_items([(f"the-{kind}", item) for kind, item in ITEMS.items()])
        self.assertEqual(site.pieces["the-piece"], ITEMS["piece"])
        self.assertEqual(site.light, ITEMS["light"])
        for place in ("drifts", "patinas", "decals", "stations", "touches", "placed", "lines", "edits"):
            self.assertEqual(len(getattr(site, place)), 1, place)

    def test_another_item_makes_another_site(self):
        site = SitePlan.from_items([("d", ITEMS["drift"])])
        denser = ITEMS["drift"].model_copy(update={"density": 9.0})
        other = site.with_item("d", denser)
        self.assertEqual((site.drifts["d"].density, other.drifts["d"].density), (2.0, 9.0))
        more = site.with_item("e", denser)
        self.assertEqual((len(site.drifts), len(more.drifts)), (1, 2))
        self.assertEqual(site.with_item("ground", GroundPlan(width=77)).ground.width, 77)
        self.assertEqual(site.ground.width, 40)

    def test_hand_work_comes_in_the_order_it_was_made_without_what_is_left_out(self):
        site = SitePlan()
        for key, order, visible in (("c", 3, True), ("a", 1, True), ("b", 2, False), ("z", 1, True)):
            stroke = TouchPlan(name=key, target="d", points=[(0, 0, 0)], order=order, visible=visible)
            site.put(key, stroke)
        site.put("other", TouchPlan(name="other", target="e", points=[(0, 0, 0)]))
        self.assertEqual([t.name for t in site.touches_of("d")], ["a", "z", "c"])
        self.assertEqual([key for key, _ in site.placed_of("d")], [])


if __name__ == "__main__":
    unittest.main()
