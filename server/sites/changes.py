"""Writing to a site: validated, revision-checked, logged, undoable."""

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.shortcuts import get_object_or_404

from cenote_core.errors import CenoteError
from cenote_core.plan.kinds import SINGLES
from cenote_core.plan.site import item_adapter
from cenote_core.plan.stored import read, upgraded, written

from .models import Change, Item, Site

MOST_ITEMS = 5000


@dataclass(frozen=True)
class Edit:
    """One item to be created (revision 0), changed, or deleted (plan None)."""

    key: str
    revision: int
    plan: dict[str, Any] | None


def _held(site_id: Any) -> Site:
    """The site, kept from other writers; not there if it was deleted while the request was on its way."""
    return get_object_or_404(Site.objects.select_for_update(), pk=site_id)


class Stale(Exception):
    """Somebody else changed an item first; both versions are kept."""

    def __init__(self, theirs: list[Item], kept: int) -> None:
        super().__init__("stale")
        self.theirs = theirs
        self.kept = kept


def apply_edits(site_id: Any, user: AbstractBaseUser, label: str, edits: list[Edit]) -> tuple[Site, list[Item]]:
    """Make all edits or none. Raises Stale, or pydantic's ValidationError for a bad plan."""
    plans = {e.key: None if e.plan is None else written(item_adapter.validate_python(e.plan)) for e in edits}
    if len(plans) != len(edits):
        raise CenoteError("One change names the same item twice.")
    stale: list[Item] = []
    with transaction.atomic():
        site = _held(site_id)
        found = {i.key: i for i in Item.objects.filter(site=site, key__in=plans)}
        for edit in edits:
            item = found.get(edit.key)
            _check_kind(item, edit, plans[edit.key])
            _check_lock(site, item, plans[edit.key])
            if (
                item.revision if item and not (item.deleted and edit.revision == 0) else edit.revision
            ) != edit.revision:
                stale.append(item)
        if stale:
            kept = _log(
                site, user, label, [_entry(found.get(e.key), plans[e.key], e.key) for e in edits], Change.REFUSED
            )
        else:
            entries = [_entry(found.get(e.key), plans[e.key], e.key) for e in edits]
            items = [_write(site, found.get(e["key"]), e["key"], e["after"]) for e in entries]
            if Item.objects.filter(site=site, deleted=False).count() > MOST_ITEMS:
                raise CenoteError(f"A site holds at most {MOST_ITEMS} items. Clear some strokes or pieces first.")
            Change.objects.filter(site=site, state=Change.UNDONE).update(state=Change.DROPPED)
            _log(site, user, label, entries, Change.DONE)
    if stale:
        raise Stale(stale, kept.number)
    return site, items


def _check_kind(item: Item | None, edit: Edit, plan: dict[str, Any] | None) -> None:
    if item is None and plan is None:
        raise CenoteError("This item is already gone.")
    if item is not None and plan is not None and item.kind != plan["kind"]:
        raise CenoteError(f"'{edit.key}' is a {item.kind} and cannot become a {plan['kind']}.")
    if plan is None and edit.key in SINGLES:
        raise CenoteError("A site always has ground, light and weather; they cannot be deleted.")


_PRESENCE = {"locked", "visible", "schema"}
"""What may be changed of a locked item: whether it is locked, and whether it is shown."""


def _check_lock(site: Site, item: Item | None, plan: dict[str, Any] | None) -> None:
    """A locked item is changed by nobody until its lock is opened, and nothing is done on it by hand."""
    before = item.plan if item is not None and not item.deleted else None
    if before is not None and before.get("locked"):
        rest = lambda stored: {k: v for k, v in stored.items() if k not in _PRESENCE}  # noqa: E731
        if plan is None or rest(plan) != rest(upgraded(before)):
            raise CenoteError(f"‘{before['name']}’ is locked. Open its lock in the course to change it.")
    hand = plan or before or {}
    if "target" in hand and isinstance(hand["target"], str):
        key = "ground" if hand["target"].startswith("ground.") else hand["target"]
        target = Item.objects.filter(site=site, key=key, deleted=False, plan__locked=True).first()
        if target is not None:
            raise CenoteError(f"‘{target.plan['name']}’ is locked. Open its lock in the course to change it.")


def _entry(item: Item | None, after: dict[str, Any] | None, key: str) -> dict[str, Any]:
    before = item.plan if item is not None and not item.deleted else None
    return {"key": key, "before": before, "after": after}


def _write(site: Site, item: Item | None, key: str, plan: dict[str, Any] | None) -> Item:
    if item is None:
        return Item.objects.create(site=site, key=key, kind=plan["kind"], plan=plan)
    item.revision += 1
    item.deleted = plan is None
    if plan is not None:
        item.plan = plan
    item.save()
    return item


def _log(site: Site, user: AbstractBaseUser, label: str, entries: list[dict[str, Any]], state: str) -> Change:
    site.revision += 1
    site.save()
    return Change.objects.create(
        site=site, number=site.revision, user=user, label=label[:120], entries=entries, state=state
    )


def step_back(site_id: Any) -> tuple[Site, list[Item], str]:
    """Undo the newest change that stands. Returns the site, the items as they are now and the change's label."""
    return _step(site_id, Change.DONE, "-number", Change.UNDONE, "before")


def step_forward(site_id: Any) -> tuple[Site, list[Item], str]:
    """Redo the oldest change that was undone."""
    return _step(site_id, Change.UNDONE, "number", Change.DONE, "after")


def _step(site_id: Any, state: str, order: str, new_state: str, side: str) -> tuple[Site, list[Item], str]:
    with transaction.atomic():
        site = _held(site_id)
        change = Change.objects.filter(site=site, state=state).order_by(order).first()
        if change is None:
            return site, [], ""
        found = {i.key: i for i in Item.objects.filter(site=site, key__in=[e["key"] for e in change.entries])}
        # A step of long ago wrote its plans under the schema of its day.
        items = [_write(site, found.get(e["key"]), e["key"], _today(e[side])) for e in change.entries]
        change.state = new_state
        change.save()
        site.revision += 1
        site.save()
    return site, items, change.label


def _today(stored: dict[str, Any] | None) -> dict[str, Any] | None:
    return None if stored is None else written(read(stored))


def history_state(site: Site) -> tuple[str, str]:
    """Labels of what undo and redo would do next; empty if nothing."""
    back = Change.objects.filter(site=site, state=Change.DONE).order_by("-number").first()
    forward = Change.objects.filter(site=site, state=Change.UNDONE).order_by("number").first()
    return back.label if back else "", forward.label if forward else ""
