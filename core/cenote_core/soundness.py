"""Items that cannot be worked out, found by trying each by itself: nothing that one item does takes its site down.

Whoever meets an error while something is made of a site asks here whose it is, and goes on with the site without it: a drift
that asks for itself, a piece whose model has nothing to stand on, a mistake of ours in the code of one kind.
"""

from __future__ import annotations

import logging
from typing import Any

from .errors import AskingEnded, CenoteError
from .kinds import KINDS
from .kinds.kind import Kind
from .plan.site import SitePlan
from .scene.scene import Scene

log = logging.getLogger(__name__)
OURS = "Something unforeseen goes wrong in working it out; the log has the details."
"""What is said of an error that is no refusal."""


def sound(scene: Scene) -> tuple[SitePlan, dict[str, str]]:
    """The site without what cannot be worked out, and why not, by the keys of items.

    Of what a site always has a plainer one stands in. What is tried is kept like all that is derived, so whoever goes on with
    the site makes nothing twice. Raises AskingEnded if the asker ends meanwhile.
    """
    site, reasons = scene.site, {}
    for kind in KINDS.values():
        if kind.trial is None:
            continue
        for key, plan in sorted(site.items[kind.name].items()):
            reason = _tried(Scene(site, scene.kit, scene.cache), kind, key, plan)
            if reason:
                reasons[key] = reason
                site = _spared(site, scene, kind, key, plan)
    return site, reasons


def _tried(scene: Scene, kind: Kind, key: str, plan: Any) -> str:
    """Why an item cannot be worked out; empty where it can."""
    assert kind.trial is not None
    if not plan.visible:
        return ""
    try:
        kind.trial(scene, key, plan)
    except AskingEnded:
        raise
    except CenoteError as error:
        return str(error)
    except MemoryError:
        return "It takes more memory than there is. Make it smaller or coarser."
    except Exception:
        log.exception("%s '%s' cannot be worked out", kind.name, key)
        return OURS
    return ""


def _spared(site: SitePlan, scene: Scene, kind: Kind, key: str, plan: Any) -> SitePlan:
    """The site with a plainer item that can be worked out, or without it."""
    for plainer in kind.plainer(plan):
        changed = site.with_item(key, plainer)
        if not _tried(Scene(changed, scene.kit, scene.cache), kind, key, plainer):
            return changed
    if kind.plan.single:
        return site.with_item(key, SitePlan().plan_of(key))
    return site.without(key)
