"""Every object is reached through its site's membership; a stranger finds nothing there."""

from django.http import Http404, HttpRequest
from ninja.errors import HttpError

from .models import Member, Site

_RANK = {Member.VIEWER: 0, Member.EDITOR: 1, Member.OWNER: 2}


def site_for(request: HttpRequest, site_id: str, role: str = Member.VIEWER, with_deleted: bool = False) -> Site:
    """The site if the person belongs to it, with at least that part in it."""
    part = Member.objects.select_related("site").filter(site_id=site_id, user=request.user).first()
    if part is None or (part.site.deleted and not with_deleted):
        raise Http404
    if _RANK[part.role] < _RANK[role]:
        raise HttpError(403, f"You may look at this site; to change it you need to be its {role}.")
    return part.site
