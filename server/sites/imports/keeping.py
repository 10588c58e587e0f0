"""What was brought in keeps its file: as long as it may be put back, and no longer."""

from datetime import timedelta
from pathlib import Path

from django.conf import settings
from django.db.models import Q
from django.utils import timezone
from ninja.errors import HttpError

from cenote.orphans import orphans
from kit.models import ImportedAsset, ImportedPicture
from sites.models import Site

UNSETTLED = timedelta(days=2)
"""A model whose size nobody has settled for so long was not wanted."""
_MEGABYTE = 1e6


def refuse_full(site: Site, more: int) -> None:
    """Raises HttpError where a site would hold more than it may with so many further bytes."""
    rows = [*site.imported.all(), *site.pictures.all()]
    # A row without its file is one whose file was lost.
    held = sum(_size(Path(row.original.path)) for row in rows if row.original)
    if held + more > settings.SITE_IMPORT_BYTES:
        raise HttpError(
            507,
            f"What was brought in for this site takes {held / _MEGABYTE:.0f} MB already; with this it would be more than "
            f"{settings.SITE_IMPORT_BYTES / _MEGABYTE:.0f} MB. Take out what is not used; it goes for good after "
            f"{settings.PUT_AWAY_DAYS} days.",
        )


def _size(path: Path) -> int:
    return path.stat().st_size if path.exists() else 0


def sweep() -> None:
    """Take away what was taken out long ago or never settled, and files that belong to nothing."""
    now = timezone.now()
    gone = Q(deleted__lt=now - timedelta(days=settings.PUT_AWAY_DAYS))
    ImportedAsset.objects.filter(gone | Q(settled=False, created__lt=now - UNSETTLED)).delete()
    ImportedPicture.objects.filter(gone).delete()
    for kind in (ImportedAsset, ImportedPicture):
        known = {Path(name).name for name in kind.objects.values_list("original", flat=True)}
        for path in orphans(Path(settings.MEDIA_ROOT) / kind.original.field.upload_to, known):
            path.unlink(missing_ok=True)
