"""Sites and their items."""

from datetime import datetime
from typing import Any
from uuid import UUID

from django.contrib.auth.models import AbstractBaseUser
from django.db import transaction
from django.http import Http404, HttpRequest, HttpResponse
from django.utils import timezone
from ninja import Router, Schema
from pydantic import Field

from accounts.once import once
from cenote_core.plan import ItemPlan
from cenote_core.plan.stored import upgraded

from .access import site_for
from .changes import Edit, Others, Stale, apply_edits, history_state, step_back, step_forward
from .models import Item, Member, Site, SitePicture
from .pictures import keep_picture
from .starting import starting_items

router = Router(tags=["sites"])


class SiteCard(Schema):
    id: UUID
    name: str
    note: str
    updated: datetime
    role: str
    people: list[str]
    pieces: int
    drifts: int
    patinas: int
    size: str
    proof: str | None
    plate: str | None = Field(description="The plate's last picture.")


class ItemOut(Schema):
    key: str
    revision: int
    deleted: bool = False
    plan: ItemPlan


class SiteOut(Schema):
    id: UUID
    name: str
    note: str
    role: str
    revision: int
    items: list[ItemOut]
    undo: str
    redo: str
    saved: datetime


class NewSite(Schema):
    name: str = Field(min_length=1, max_length=80)
    note: str = Field(default="", max_length=2000)


class EditIn(Schema):
    key: str = Field(min_length=1, max_length=64, pattern=r"^[A-Za-z0-9_-]+(\.[A-Za-z0-9_-]+)*$")
    revision: int = Field(ge=0, description="The revision this edit is based on; 0 for a new item.")
    plan: ItemPlan | None = Field(description="The whole plan of the item, or nothing to delete it.")


class ChangeIn(Schema):
    label: str = Field(min_length=1, max_length=120)
    edits: list[EditIn] = Field(min_length=1, max_length=500)


class ChangeOut(Schema):
    revision: int
    items: list[ItemOut]
    label: str
    undo: str
    redo: str
    saved: datetime


class Conflict(Schema):
    detail: str
    theirs: list[ItemOut]
    kept: int


def _items(items: list[Item]) -> list[dict[str, Any]]:
    return [{"key": i.key, "revision": i.revision, "deleted": i.deleted, "plan": upgraded(i.plan)} for i in items]


def _changed(user: AbstractBaseUser, site: Site, items: list[Item], label: str) -> dict[str, Any]:
    undo, redo = history_state(site, user)
    return {
        "revision": site.revision,
        "items": _items(items),
        "label": label,
        "undo": undo,
        "redo": redo,
        "saved": site.updated,
    }


@router.get("", response=list[SiteCard])
def sites(request: HttpRequest) -> Any:
    """The sites the person belongs to, newest work first."""
    parts = (
        Member.objects.filter(user=request.user, site__deleted=None).select_related("site").order_by("-site__updated")
    )
    return [_card(part) for part in parts]


@router.get("/put-away", response=list[SiteCard])
def put_away(request: HttpRequest) -> Any:
    """One's own sites that were put away, the last one first; each can be brought back."""
    parts = Member.objects.filter(user=request.user, role=Member.OWNER).exclude(site__deleted=None)
    return [_card(part) for part in parts.select_related("site").order_by("-site__deleted")]


def _card(part: Member) -> dict[str, Any]:
    site = part.site
    kinds = list(Item.objects.filter(site=site, deleted=False).values_list("kind", flat=True))
    ground = Item.objects.filter(site=site, key="ground").first()
    proof = site.jobs.filter(kind="proof", state="done").order_by("-finished").first()
    people = Member.objects.filter(site=site).select_related("user")
    size = f"{ground.plan['width']:g} × {ground.plan['depth']:g} m" if ground else ""
    return {
        "id": site.id,
        "name": site.name,
        "note": site.note,
        "updated": site.updated,
        "role": part.role,
        "size": size,
        "people": [m.user.get_full_name() or m.user.get_username() for m in people],
        "pieces": kinds.count("piece"),
        "drifts": kinds.count("drift"),
        "patinas": kinds.count("patina"),
        "proof": f"/api/work/{proof.id}/files/picture.png?made={proof.made}" if proof else None,
        "plate": _picture_address(site),
    }


def _picture_address(site: Site) -> str | None:
    at = SitePicture.objects.filter(site=site).values_list("at", flat=True).first()
    return f"/api/sites/{site.pk}/picture?at={int(at.timestamp() * 1000)}" if at else None


@router.post("", response=SiteCard)
@once
def new_site(request: HttpRequest, payload: NewSite) -> Any:
    """A new site: flat-ish ground, daylight and one station."""
    with transaction.atomic():
        site = Site.objects.create(name=payload.name, note=payload.note)
        part = Member.objects.create(site=site, user=request.user, role=Member.OWNER)
        for key, plan in starting_items():
            Item.objects.create(site=site, key=key, kind=plan["kind"], plan=plan)
    return _card(part)


@router.get("/{uuid:site_id}", response=SiteOut)
def site(request: HttpRequest, site_id: UUID) -> Any:
    """A site with all its items."""
    found = site_for(request, site_id)
    undo, redo = history_state(found, request.user)
    role = Member.objects.get(site=found, user=request.user).role
    items = Item.objects.filter(site=found, deleted=False).order_by("id")
    return {
        "id": found.id,
        "name": found.name,
        "note": found.note,
        "role": role,
        "revision": found.revision,
        "items": _items(list(items)),
        "undo": undo,
        "redo": redo,
        "saved": found.updated,
    }


@router.put("/{uuid:site_id}/picture", response={204: None})
def put_picture(request: HttpRequest, site_id: UUID) -> Any:
    """Keep what the plate shows (PNG, JPEG or WebP as the body): the site's card shows it until there is a proof."""
    keep_picture(site_for(request, site_id, Member.EDITOR), request.body)
    return 204, None


@router.get("/{uuid:site_id}/picture", include_in_schema=False)
def picture(request: HttpRequest, site_id: UUID) -> Any:
    """The plate's last picture."""
    kept = SitePicture.objects.filter(site=site_for(request, site_id)).first()
    if kept is None:
        raise Http404
    answer = HttpResponse(bytes(kept.content), content_type="image/webp")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


@router.delete("/{uuid:site_id}", response={204: None})
def delete_site(request: HttpRequest, site_id: UUID) -> Any:
    """Put a site away. It can be brought back."""
    found = site_for(request, site_id, Member.OWNER)
    found.deleted = timezone.now()
    found.save()
    return 204, None


@router.post("/{uuid:site_id}/restore", response=SiteCard)
def restore_site(request: HttpRequest, site_id: UUID) -> Any:
    """Bring back a site that was put away."""
    found = site_for(request, site_id, Member.OWNER, with_deleted=True)
    found.deleted = None
    found.save()
    return _card(Member.objects.get(site=found, user=request.user))


@router.post("/{uuid:site_id}/changes", response={200: ChangeOut, 409: Conflict})
@once
def change(request: HttpRequest, site_id: UUID, payload: ChangeIn) -> Any:
    """Create, change or delete items in one undoable step."""
    found = site_for(request, site_id, Member.EDITOR)
    edits = [Edit(e.key, e.revision, None if e.plan is None else e.plan.model_dump(mode="json")) for e in payload.edits]
    try:
        after, items = apply_edits(found.pk, request.user, payload.label, edits)
    except Stale as stale:
        detail = "Somebody changed this in the meantime. Both versions are kept: take yours or theirs."
        return 409, {"detail": detail, "theirs": _items(stale.theirs), "kept": stale.kept}
    return 200, _changed(request.user, after, items, payload.label)


class OthersStep(Schema):
    """What somebody else did to the same items since, which would have to be taken back first."""

    detail: str
    whose: str
    label: str
    number: int


def _others(others: Others, way: str) -> tuple[int, dict[str, Any]]:
    theirs = others.theirs
    detail = (
        f"{others.whose} has changed the same since: “{theirs.label}”. Yours cannot be {way} without taking that back."
    )
    return 409, {"detail": detail, "whose": others.whose, "label": theirs.label, "number": theirs.number}


@router.post("/{uuid:site_id}/undo", response={200: ChangeOut, 409: OthersStep})
@once
def undo(request: HttpRequest, site_id: UUID, of: int | None = None) -> Any:
    """Take back one's own newest change; with `of`, the change of that number, whoever made it."""
    found = site_for(request, site_id, Member.EDITOR)
    try:
        return 200, _changed(request.user, *step_back(found.pk, request.user, of))
    except Others as others:
        return _others(others, "undone")


@router.post("/{uuid:site_id}/redo", response={200: ChangeOut, 409: OthersStep})
@once
def redo(request: HttpRequest, site_id: UUID) -> Any:
    """Do again what one took back last."""
    found = site_for(request, site_id, Member.EDITOR)
    try:
        return 200, _changed(request.user, *step_forward(found.pk, request.user))
    except Others as others:
        return _others(others, "done again")
