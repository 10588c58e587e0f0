"""Rows of what was brought in, reached through their site's membership."""

from datetime import datetime
from typing import Any

from django.db.models import F
from django.http import Http404, HttpRequest
from django.utils import timezone

from kit.models import ImportedAsset, ImportedPicture
from sites.access import site_for
from sites.models import Member, Site


def import_row(
    request: HttpRequest, import_id: str, role: str = Member.VIEWER, with_deleted: bool = False
) -> ImportedAsset:
    """A model of a site the person belongs to, or 404."""
    return _row(ImportedAsset, request, import_id, role, with_deleted)


def picture_row(
    request: HttpRequest, picture_id: str, role: str = Member.VIEWER, with_deleted: bool = False
) -> ImportedPicture:
    """An image of a site the person belongs to, or 404."""
    return _row(ImportedPicture, request, picture_id, role, with_deleted)


def _row(kind: Any, request: HttpRequest, key: str, role: str, with_deleted: bool) -> Any:
    rows = kind.objects if with_deleted else kind.objects.filter(deleted=None)
    row = rows.filter(pk=key).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


def take_out(row: ImportedAsset | ImportedPicture) -> None:
    """What was brought in is no longer in the kit; it is kept, so that it can be put back."""
    _taken(row, timezone.now())


def put_back(row: ImportedAsset | ImportedPicture) -> None:
    """What was taken out is in the kit again."""
    _taken(row, None)


def _taken(row: ImportedAsset | ImportedPicture, when: datetime | None) -> None:
    row.deleted = when
    row.save()
    kit_changed(row.site_id)


def kit_changed(site_id: Any) -> None:
    """What was brought in for a site is another now: answers that hang on it are made anew."""
    Site.objects.filter(pk=site_id).update(kit=F("kit") + 1)
