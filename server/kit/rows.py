"""Rows of what was brought in, reached through their site's membership."""

from typing import Any

from django.db.models import F
from django.http import Http404, HttpRequest

from sites.access import site_for
from sites.models import Member, Site

from .models import ImportedAsset, ImportedPicture


def import_row(
    request: HttpRequest, import_id: str, role: str = Member.VIEWER, with_deleted: bool = False
) -> ImportedAsset:
    """A model of a site the person belongs to, or 404."""
    rows = ImportedAsset.objects if with_deleted else ImportedAsset.objects.filter(deleted=None)
    row = rows.filter(pk=import_id).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


def picture_row(
    request: HttpRequest, picture_id: str, role: str = Member.VIEWER, with_deleted: bool = False
) -> ImportedPicture:
    """An image of a site the person belongs to, or 404."""
    rows = ImportedPicture.objects if with_deleted else ImportedPicture.objects.filter(deleted=None)
    row = rows.filter(pk=picture_id).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


def kit_changed(site_id: Any) -> None:
    """What was brought in for a site is another now: answers that hang on it are made anew."""
    Site.objects.filter(pk=site_id).update(kit=F("kit") + 1)
