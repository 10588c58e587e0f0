"""Height and mask images of a site."""

import io
from typing import Any
from uuid import UUID

import numpy as np
from django.conf import settings
from django.http import HttpRequest, HttpResponse
from ninja import File, Router, Schema, UploadedFile
from ninja.errors import HttpError
from PIL import Image

from cenote_core.graph.cancellation import computing
from kit.assets import SiteKit
from kit.models import ImportedPicture
from kit.reading import read_apart
from sites.access import site_for
from sites.computing import cache
from sites.models import Member

from .keeping import refuse_full
from .rows import kit_changed, picture_row, put_back, take_out

router = Router(tags=["kit"])


class PictureOut(Schema):
    id: str
    title: str
    filename: str
    width: int
    height: int


@router.get("/pictures", response=list[PictureOut])
def pictures(request: HttpRequest, site: UUID) -> Any:
    """The images of a site."""
    return ImportedPicture.objects.filter(site=site_for(request, str(site)), deleted=None).order_by("created")


@router.post("/pictures", response=PictureOut)
def bring_in(request: HttpRequest, site: UUID, file: UploadedFile = File(...)) -> Any:  # noqa: B008
    """Read an image (PNG, TIFF, EXR) and keep it for the site's ground and rules."""
    found = site_for(request, str(site), Member.EDITOR)
    if file.size > settings.UPLOAD_LIMIT:
        raise HttpError(
            413, f"The image has {file.size / 1e6:.0f} MB; at most {settings.UPLOAD_LIMIT / 1e6:.0f} MB are taken."
        )
    refuse_full(found, file.size)
    name = (file.name or "image")[-200:]
    with computing():
        plane = read_apart("picture", file, name)
    row = ImportedPicture(
        id=ImportedPicture.new_id(),
        site=found,
        user=request.user,
        title=(name.rsplit("/", 1)[-1].rsplit(".", 1)[0] or "image")[:80],
        filename=name,
        width=plane.shape[1],
        height=plane.shape[0],
    )
    file.seek(0)
    try:
        row.original.save(row.id, file, save=False)
    except OSError:
        row.original.storage.delete(row.original.field.generate_filename(row, row.id))
        raise
    row.save()
    kit_changed(found.pk)
    return row


@router.get("/pictures/{picture_id}/small.png", include_in_schema=False)
def small(request: HttpRequest, picture_id: str) -> HttpResponse:
    """The image, small."""
    row = picture_row(request, picture_id)
    plane = SiteKit(row.site, cache()).picture(row.id)
    image = Image.fromarray((np.clip(plane, 0, 1) * 255).astype(np.uint8))
    image.thumbnail((128, 128))
    out = io.BytesIO()
    image.save(out, "PNG")
    answer = HttpResponse(out.getvalue(), content_type="image/png")
    answer["Cache-Control"] = "private, max-age=31536000, immutable"
    return answer


@router.delete("/pictures/{picture_id}", response={204: None})
def remove(request: HttpRequest, picture_id: str) -> Any:
    """Take an image away. What uses it says that it is missing."""
    take_out(picture_row(request, picture_id, Member.EDITOR))
    return 204, None


@router.post("/pictures/{picture_id}/restore", response={204: None})
def restore(request: HttpRequest, picture_id: str) -> Any:
    """Put an image back that was taken away."""
    put_back(picture_row(request, picture_id, Member.EDITOR, with_deleted=True))
    return 204, None
