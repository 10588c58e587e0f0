"""Rows of what was brought in, reached through their site's membership."""

from typing import Any

from django.db.models import F
from django.http import Http404, HttpRequest

from sites.access import site_for
from sites.models import Member, Site

from .models import ImportedAsset, ImportedPicture


def import_row(request: HttpRequest, import_id: str, role: str = Member.VIEWER) -> ImportedAsset:
    row = ImportedAsset.objects.filter(pk=import_id, deleted=None).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


def picture_row(request: HttpRequest, picture_id: str, role: str = Member.VIEWER) -> ImportedPicture:
    """An image of a site the person belongs to, or 404."""
    row = ImportedPicture.objects.filter(pk=picture_id, deleted=None).first()
    if row is None:
        raise Http404
    site_for(request, str(row.site_id), role)
    return row


def kit_changed(site_id: Any) -> None:
    """What was brought in for a site is another now: answers that hang on it are made anew."""
    Site.objects.filter(pk=site_id).update(kit=F("kit") + 1)
