"""Stored plans of every age are read; what cannot be read says so."""

import json
import unittest
from pathlib import Path
from unittest import mock

from cenote_core.errors import CenoteError
from cenote_core.plan import DriftPlan, GroundPlan
from cenote_core.plan import stored as module
from cenote_core.plan.kinds.ground import MOST_POINTS
from cenote_core.plan.site import item_adapter
from cenote_core.plan.stored import SCHEMA, read, upgraded, written

FIXTURES = Path(__file__).parent / "fixtures"


class Reading(unittest.TestCase):
    def test_plans_of_every_schema_are_read(self):
        for number in range(1, SCHEMA + 1):
            plans = json.loads((FIXTURES / f"plans_{number}.json").read_text())
            self.assertEqual({plan["schema"] for plan in plans.values()}, {number})
            kinds = {read(plan).kind for plan in plans.values()}
            known = {kind for kind in json.dumps(item_adapter.json_schema()).split('"') if kind in kinds}
            self.assertEqual(kinds, known)
            self.assertGreaterEqual(len(kinds), 13)

    def test_written_and_read_it_is_the_same(self):
        plan = DriftPlan(name="ferns", density=3.5, spacing=0.4)
        self.assertEqual(read(json.loads(json.dumps(written(plan)))), plan)
        self.assertNotIn("schema", upgraded(written(plan)))

    def test_plans_from_before_there_were_numbers_count_as_the_first(self):
        plan = written(GroundPlan(width=20))
        del plan["schema"]
        self.assertEqual(read(plan).width, 20)

    def test_steps_are_taken_one_after_the_other_from_where_a_plan_stands(self):
        def widen(plan):
            return {**plan, "width": plan["width"] * 10}

        def rename(plan):
            plan = dict(plan)
            plan["name"] = plan.pop("title", plan.get("name"))
            return plan

        old = {"schema": 1, "kind": "ground", "title": "bank", "width": 3.0}
        younger = {"schema": 2, "kind": "ground", "title": "bank", "width": 30.0}
        with mock.patch.multiple(module, STEPS=(widen, rename), SCHEMA=3):
            self.assertEqual((read(old).name, read(old).width), ("bank", 30.0))
            self.assertEqual(read(younger).width, 30.0)
            self.assertEqual(written(read(old))["schema"], 3)
        self.assertEqual(old["title"], "bank", "a step changes no plan, it makes another")

    def test_a_ground_of_more_points_than_there_may_be_now_is_coarser(self):
        large = {"schema": 1, "kind": "ground", "name": "plain", "width": 2000, "depth": 1500, "cell": 0.5}
        self.assertEqual(read(large).cell, 0.85)
        self.assertEqual(read({**large, "cell": 1.5}).cell, 1.5)
        longest = read({**large, "width": 2000, "depth": 2, "cell": 0.02})
        self.assertLessEqual((longest.width / longest.cell + 1) * (longest.depth / longest.cell + 1), MOST_POINTS)

    def test_what_cannot_be_read_says_so(self):
        for schema in (SCHEMA + 1, 0, -1, "2", None):
            with self.assertRaisesRegex(CenoteError, "newer version"):
                read({**written(GroundPlan()), "schema": schema})
        with self.assertRaisesRegex(CenoteError, "‘bank’ is stored in a way"):
            read({"schema": 1, "kind": "ground", "name": "bank", "breadth": 3})
