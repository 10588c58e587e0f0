"""A site's plan is read and checked once a revision, and is the database's all the same."""

from unittest import mock

from django.test import TestCase

from sites import computing
from sites.computing import site_plan
from sites.models import Item, Site

from .helpers import change, client_of, grass, person, post, site_of


class PlanOfASite(TestCase):
    def setUp(self):
        self.user = person()
        self.client = client_of(self.user)
        self.site = site_of(self.user, g=grass())

    def density(self):
        return site_plan(self.site).drifts["g"].density

    def write(self, density):
        item = Item.objects.get(site=self.site, key="g")
        self.assertEqual(
            change(self.client, self.site, ("g", item.revision, grass(density=density).model_dump(mode="json")))[0], 200
        )

    def test_what_has_not_changed_is_not_read_again(self):
        self.density()
        with mock.patch.object(computing, "read") as reading:
            self.assertEqual(self.density(), 3)
        reading.assert_not_called()

    def test_every_write_undo_and_redo_is_seen_by_who_read_the_site_before(self):
        before = Site.objects.get(pk=self.site.pk)
        self.assertEqual(self.density(), 3)
        self.write(7)
        self.assertEqual(site_plan(before).drifts["g"].density, 7)
        for way, expected in (("undo", 3), ("redo", 7)):
            self.assertEqual(post(self.client, f"/api/sites/{self.site.pk}/{way}", {})[0], 200)
            self.assertEqual(self.density(), expected, way)

    def test_what_is_only_tried_stays_out_of_it(self):
        self.density()
        tried = {"key": "g", "plan": grass(density=0).model_dump(mode="json"), "eye": [0, 2, 5], "most": 1000}
        answer = self.client.post(f"/api/sites/{self.site.pk}/preview", tried, content_type="application/json")
        self.assertEqual(answer.status_code, 200)
        self.assertEqual(self.density(), 3)

    def test_sites_do_not_mix(self):
        other = site_of(self.user, g=grass(density=1))
        self.assertEqual(self.density(), 3)
        self.assertEqual(site_plan(other).drifts["g"].density, 1)

    def test_no_more_than_some_sites_are_kept(self):
        with mock.patch.object(computing, "_READ_AT_MOST", 2):
            for _ in range(4):
                site_plan(site_of(self.user))
            self.assertLessEqual(len(computing._read), 2)
        self.assertEqual(self.density(), 3)
