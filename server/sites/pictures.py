"""The plate's last picture of a site: what its card shows until there is a proof."""

import io

from PIL import Image, UnidentifiedImageError

from cenote_core.errors import FormatError

from .models import Site, SitePicture

SIZE = (640, 400)
MOST_BYTES = 600_000
_MOST_SIDE = 4096
_QUALITY = 80


def keep_picture(site: Site, data: bytes) -> SitePicture:
    """Keep a picture (PNG, JPEG or WebP) in the size of a card. Raises FormatError with a sentence."""
    if len(data) > MOST_BYTES:
        raise FormatError(f"The picture has {len(data) / 1e3:.0f} kB; at most {MOST_BYTES / 1e3:.0f} kB are taken.")
    try:
        with Image.open(io.BytesIO(data), formats=("PNG", "JPEG", "WEBP")) as image:
            if max(image.size) > _MOST_SIDE:
                raise FormatError(f"The picture has {image.width} × {image.height} pixels; that is too large.")
            small = image.convert("RGB").resize(SIZE)
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise FormatError("The picture cannot be read.") from error
    out = io.BytesIO()
    small.save(out, "WEBP", quality=_QUALITY)
    picture, _ = SitePicture.objects.update_or_create(site=site, defaults={"content": out.getvalue()})
    return picture
