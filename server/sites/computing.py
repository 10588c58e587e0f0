"""From database rows to the core's scene, with the process's one cache."""

from collections import OrderedDict
from collections.abc import Callable
from functools import lru_cache
from typing import Any, TypeVar

from django.conf import settings
from django.http import Http404
from ninja.errors import HttpError

from cenote.recent import Recent
from cenote_core.errors import AskingEnded
from cenote_core.graph.store import Cache
from cenote_core.plan.site import SitePlan
from cenote_core.plan.stored import read
from cenote_core.scene.scene import Scene
from cenote_core.soundness import sound
from kit.assets import SiteKit

from .models import Item, Site

T = TypeVar("T")


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


def scene_of(site: Site, spell: str = "") -> Scene:
    """The site made ready for computing, without what is known not to be; in one of its spells, or that which shows."""
    kept = getattr(site, "scene_kept", None)
    if kept is not None and not spell:
        return kept
    found = _sound.get(_state_of(site, spell), None)
    plan = site_plan(site).in_spell(spell) if found is None else found[0]
    scene = Scene(plan, _kit_of(site), cache())
    if hasattr(site, "scene_kept") and not spell:
        site.scene_kept = scene
    return scene


_sound: Recent[Any] = Recent(200)
"""Sites without the items that could not be worked out, and why not: by site, revision, kit and spell."""


def _state_of(site: Site, spell: str) -> Any:
    now = Site.objects.filter(pk=site.pk).values_list("revision", "kit").first()
    return site.pk, now, spell


def left_out(site: Site, spell: str = "") -> dict[str, str]:
    """Items that were found not to be worked out, and why not, by key."""
    found = _sound.get(_state_of(site, spell), None)
    return {} if found is None else found[1]


def sparing(site: Site, ask: Callable[[Scene], T], spell: str = "") -> T:
    """What is asked of a site; if an item of it cannot be worked out, the same of the site without it."""
    scene = scene_of(site, spell)
    try:
        return ask(scene)
    except (AskingEnded, Http404, HttpError):
        raise
    except Exception:
        plan, reasons = sound(scene)
        if not reasons:
            raise
        known = left_out(site, spell)
        _sound.set(_state_of(site, spell), (plan, {**known, **reasons}))
        if hasattr(site, "scene_kept"):
            site.scene_kept = None
        return ask(scene_of(site, spell))


def plan_as_it_is(site: Site) -> dict[str, Any]:
    """The site's items by key, to be kept with work that is asked for now and done later."""
    return dict(Item.objects.filter(site=site, deleted=False).values_list("key", "plan"))


def scene_as_it_was(site: Site, plan: dict[str, Any] | None) -> Scene:
    """The scene of items that were kept; of the site as it is where none were."""
    if plan is None:
        return scene_of(site)
    items = {key: read(item) for key, item in plan.items()}
    return Scene(SitePlan.from_items(items.items()), _kit_of(site), cache())
