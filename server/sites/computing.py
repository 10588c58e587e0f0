"""From database rows to the core's scene, with the process's one cache."""

from collections import OrderedDict
from functools import lru_cache
from typing import Any

from django.conf import settings

from cenote_core.graph.store import Cache
from cenote_core.plan.site import SitePlan
from cenote_core.plan.stored import read
from cenote_core.scene.scene import Scene
from kit.assets import SiteKit

from .models import Item, Site


@lru_cache(maxsize=1)
def cache() -> Cache:
    """Derived arrays of this process; shared on disk with the worker."""
    return Cache(settings.CACHE_FOLDER)


_read: OrderedDict[Any, tuple[int | None, dict[str, Any]]] = OrderedDict()
_READ_AT_MOST = 24


def site_plan(site: Site) -> SitePlan:
    """The site's items as the core's plan; those of a revision are read and checked once. Plans are never changed."""
    # As the database has it now: whoever asks may have read the site before its last change.
    current = Site.objects.filter(pk=site.pk).values_list("revision", flat=True).first()
    revision, items = _read.get(site.pk, (-1, {}))
    if revision != current:
        rows = Item.objects.filter(site=site, deleted=False).values_list("key", "plan")
        items = {key: read(plan) for key, plan in rows}
        _read[site.pk] = current, items
        while len(_read) > _READ_AT_MOST:
            _read.popitem(last=False)
    return SitePlan.from_items(items.items())


def _kit_of(site: Site) -> SiteKit:
    """The site's kit, with everything the database knows of it: computing asks it no more."""
    kit = SiteKit(site, cache())
    kit.rows()
    kit.pictures()
    return kit


def scene_of(site: Site) -> Scene:
    """The site made ready for computing."""
    if getattr(site, "scene_kept", None) is not None:
        return site.scene_kept
    scene = Scene(site_plan(site), _kit_of(site), cache())
    if hasattr(site, "scene_kept"):
        site.scene_kept = scene
    return scene


def scene_in(site: Site, spell: str) -> Scene:
    """The site in one of its spells, whichever shows; in that which shows where none is named."""
    if not spell:
        return scene_of(site)
    return Scene(site_plan(site).in_spell(spell), _kit_of(site), cache())


def plan_as_it_is(site: Site) -> dict[str, Any]:
    """The site's items by key, to be kept with work that is asked for now and done later."""
    return dict(Item.objects.filter(site=site, deleted=False).values_list("key", "plan"))


def scene_as_it_was(site: Site, plan: dict[str, Any] | None) -> Scene:
    """The scene of items that were kept; of the site as it is where none were."""
    if plan is None:
        return scene_of(site)
    items = {key: read(item) for key, item in plan.items()}
    return Scene(SitePlan.from_items(items.items()), _kit_of(site), cache())
