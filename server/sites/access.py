"""Every object is reached through its site's membership; a stranger finds nothing there."""

from uuid import UUID

from django.http import Http404, HttpRequest
from ninja.errors import HttpError

from .models import Member, Site

_RANK = {Member.VIEWER: 0, Member.EDITOR: 1, Member.OWNER: 2}


def keep_sites(request: HttpRequest) -> None:
    """Let the parts of one request that only reads share the sites they find, and the scenes made of them."""
    request.sites_kept = {}


def site_for(request: HttpRequest, site_id: UUID | str, role: str = Member.VIEWER, with_deleted: bool = False) -> Site:
    """The site if the person belongs to it, with at least that part in it."""
    kept = getattr(request, "sites_kept", None)
    if kept is not None and (str(site_id), role, with_deleted) in kept:
        return kept[str(site_id), role, with_deleted]
    part = Member.objects.select_related("site").filter(site_id=site_id, user=request.user).first()
    if part is None or (part.site.deleted and not with_deleted):
        raise Http404
    if _RANK[part.role] < _RANK[role]:
        raise HttpError(403, f"You may look at this site; to change it you need to be its {role}.")
    if kept is not None:
        part.site.scene_kept = None
        kept[str(site_id), role, with_deleted] = part.site
    return part.site
