"""Writing to a site: validated, revision-checked, logged, undoable."""

from dataclasses import dataclass
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.db.models import F, Func, JSONField
from django.shortcuts import get_object_or_404

from cenote_core.errors import CenoteError
from cenote_core.plan.kinds import KINDS, SINGLES
from cenote_core.plan.rings import ASKING, refuse_rings
from cenote_core.plan.site import item_adapter
from cenote_core.plan.stored import read, upgraded, written

from .models import Change, Item, Site

MOST_ITEMS = 5000
MOST_REFUSED = 100
"""Refused changes of a site that are kept, the newest ones."""


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


class Others(Exception):
    """A step cannot be taken without taking along what somebody else did to the same items since."""

    def __init__(self, theirs: Change) -> None:
        super().__init__("others")
        self.theirs = theirs
        person = theirs.user
        self.whose = (person.get_full_name() or person.get_username()) if person else "Somebody"


def apply_edits(site_id: Any, user: AbstractBaseUser, label: str, edits: list[Edit]) -> tuple[Site, list[Item]]:
    """Make all edits or none. Raises Stale, or pydantic's ValidationError for a bad plan."""
    plans = {e.key: None if e.plan is None else written(item_adapter.validate_python(e.plan)) for e in edits}
    if len(plans) != len(edits):
        raise CenoteError("One change names the same item twice.")
    stale: list[str] = []
    with transaction.atomic():
        site = _held(site_id)
        found = {i.key: i for i in Item.objects.filter(site=site, key__in=plans)}
        for edit in edits:
            item = found.get(edit.key)
            _check_kind(item, edit, plans[edit.key])
            _check_lock(site, item, plans[edit.key])
            if _outdated(item, edit):
                stale.append(edit.key)
        if stale:
            kept = _log(
                site, user, label, [_entry(found.get(e.key), plans[e.key], e.key) for e in edits], Change.REFUSED
            )
            _drop_refused(site)
        else:
            entries = [_entry(found.get(e.key), plans[e.key], e.key) for e in edits]
            items = [_write(site, found.get(e["key"]), e["key"], e["after"]) for e in entries]
            _refuse_rings(site, {e["key"] for e in entries if e["after"] is not None})
            if Item.objects.filter(site=site, deleted=False).count() > MOST_ITEMS:
                raise CenoteError(f"A site holds at most {MOST_ITEMS} items. Clear some strokes or pieces first.")
            Change.objects.filter(site=site, user=user, state=Change.UNDONE).update(state=Change.DROPPED)
            _log(site, user, label, entries, Change.DONE)
    if stale:
        raise Stale([found[key] for key in stale if key in found], kept.number)
    return site, items


def _outdated(item: Item | None, edit: Edit) -> bool:
    """Is an edit based on anything else than the item as it is? Of one that never was there is no revision but 0."""
    if item is None or (item.deleted and edit.revision == 0):
        return edit.revision != 0
    return item.revision != edit.revision


def _refuse_rings(site: Site, changed: set[str]) -> None:
    asking = Item.objects.filter(site=site, deleted=False, kind__in=ASKING)
    if changed & set(asking.filter(key__in=changed).values_list("key", flat=True)):
        refuse_rings(dict(asking.values_list("key", "plan")), changed)


def _drop_refused(site: Site) -> None:
    old = Change.objects.filter(site=site, state=Change.REFUSED).order_by("-number").values("pk")[MOST_REFUSED:]
    Change.objects.filter(pk__in=list(old.values_list("pk", flat=True))).delete()


def _check_kind(item: Item | None, edit: Edit, plan: dict[str, Any] | None) -> None:
    if item is None and plan is None and edit.revision == 0:
        raise CenoteError("This item is already gone.")
    _check_key(edit.key, plan)
    if item is not None and plan is not None and item.kind != plan["kind"]:
        raise CenoteError(f"'{edit.key}' is a {item.kind} and cannot become a {plan['kind']}.")
    if plan is None and edit.key in SINGLES:
        raise CenoteError("A site always has ground, light and weather; they cannot be deleted.")


def _check_key(key: str, plan: dict[str, Any] | None) -> None:
    """Keys of what a site has one of belong to it, and it lies under no other."""
    if plan is None:
        return
    single = KINDS[plan["kind"]].single
    if single and key != single:
        raise CenoteError(f"A site has one {plan['kind']}, under the key '{single}'. Change that one.")
    if key in SINGLES and key != single:
        raise CenoteError(f"'{key}' is the site's own {key}. Give this {plan['kind']} another key.")


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
        assert plan is not None
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


def step_back(site_id: Any, user: AbstractBaseUser, number: int | None = None) -> tuple[Site, list[Item], str]:
    """Undo the newest change of a person that stands; or, named by its number, one of somebody else.

    Returns the site, the items as they are now and the change's label. Raises Others where somebody else has changed the
    same items since: what they did is not taken back unasked.
    """
    return _step(site_id, user, _UNDO, number)


def step_forward(site_id: Any, user: AbstractBaseUser) -> tuple[Site, list[Item], str]:
    """Redo the oldest change of a person that was undone. Raises Others as `step_back` does."""
    return _step(site_id, user, _REDO, None)


@dataclass(frozen=True)
class _Way:
    """Undoing or redoing: which changes, in which order, what they become, and to which plans."""

    state: str
    order: str
    becomes: str
    arrives: str


_UNDO = _Way(Change.DONE, "-number", Change.UNDONE, "before")
_REDO = _Way(Change.UNDONE, "number", Change.DONE, "after")


def _step(site_id: Any, user: AbstractBaseUser, way: _Way, number: int | None) -> tuple[Site, list[Item], str]:
    with transaction.atomic():
        site = _held(site_id)
        there = Change.objects.filter(site=site, state=way.state)
        there = there.filter(user=user) if number is None else there.filter(number=number)
        change = there.order_by(way.order).first()
        if change is None:
            return site, [], ""
        found = {i.key: i for i in Item.objects.filter(site=site, key__in=[e["key"] for e in change.entries])}
        _check_others(site, user, change)
        # A step of long ago wrote its plans under the schema of its day.
        items = [_write(site, found.get(e["key"]), e["key"], _today(e[way.arrives])) for e in change.entries]
        site.revision += 1
        site.save()
        change.state, change.stepped = way.becomes, site.revision
        change.save()
    return site, items, change.label


def _check_others(site: Site, user: AbstractBaseUser, change: Change) -> None:
    """Raises Others where somebody else has done something to one of its items since, even if to the same value.

    Who set what was set already meant it to stay.
    """
    keys = {e["key"] for e in change.entries}
    since = max(change.number, change.stepped)
    later = Change.objects.filter(site=site, state=Change.DONE, number__gt=since).exclude(user=user)
    # The plans of all that was done since may be many megabytes: the database looks at their keys.
    touched = Func(
        F("entries"), template="jsonb_path_query_array(%(expressions)s, '$[*].key')", output_field=JSONField()
    )
    same = later.alias(touched=touched).filter(touched__has_any_keys=sorted(keys))
    theirs = same.defer("entries").order_by("-number").first()
    if theirs is not None:
        raise Others(theirs)


def _today(stored: dict[str, Any] | None) -> dict[str, Any] | None:
    return None if stored is None else written(read(stored))


def history_state(site: Site, user: AbstractBaseUser) -> tuple[str, str]:
    """Labels of what a person's undo and redo would do next; empty if nothing."""
    own = Change.objects.filter(site=site, user=user)
    back = own.filter(state=Change.DONE).order_by("-number").first()
    forward = own.filter(state=Change.UNDONE).order_by("number").first()
    return back.label if back else "", forward.label if forward else ""
