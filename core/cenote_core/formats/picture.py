"""Height and mask images in: PNG, TIFF and EXR, of 8 to 32 bits, as one plane of 0..1."""

from __future__ import annotations

import io
import tempfile
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image, UnidentifiedImageError

from ..errors import FormatError

MOST_PIXELS = 8192 * 8192
_ENDINGS = (".png", ".tif", ".tiff", ".exr")


def read_picture(data: bytes, name: str) -> np.ndarray:
    """(H, W) float32, 0..1: integers by their range, floating-point pictures from their least to their greatest value.

    Raises
    ------
    FormatError
        With a sentence that says what to do.
    """
    ending = Path(name).suffix.lower()
    if ending not in _ENDINGS:
        raise FormatError(f"'{name}' is none of PNG, TIFF or EXR. Save it as one of them first.")
    if len(data) == 0:
        raise FormatError("The file is empty.")
    plane = _exr(data) if ending == ".exr" else _image(data, name)
    if plane.ndim != 2 or min(plane.shape) < 2:
        raise FormatError("The image needs at least two pixels each way.")
    if not np.isfinite(plane).all():
        raise FormatError("The image holds values that are not numbers. Fill its gaps and bring it in again.")
    return np.ascontiguousarray(plane, np.float32)


def _image(data: bytes, name: str) -> np.ndarray:
    try:
        with Image.open(io.BytesIO(data)) as image:
            if image.format not in ("PNG", "TIFF"):
                raise FormatError(f"'{name}' is in truth a {image.format} file. Save it as PNG, TIFF or EXR.")
            if image.width * image.height > MOST_PIXELS:
                raise FormatError(
                    f"The image has {image.width} × {image.height} pixels; at most 8192 × 8192 are taken."
                )
            image.load()
            mode = image.mode
            plane = np.asarray(image if mode in ("I;16", "I", "F", "L", "I;16B") else image.convert("L"))
    except FormatError:
        raise
    except (UnidentifiedImageError, Image.DecompressionBombError, OSError, ValueError, SyntaxError) as error:
        raise FormatError("The image cannot be read; it may be cut short. Export it again.") from error
    if plane.dtype == np.uint8:
        return plane.astype(np.float32) / 255
    if plane.dtype.kind in "ui":
        return plane.astype(np.float64) / 65535
    return _stretched(plane.astype(np.float64))


def _exr(data: bytes) -> np.ndarray:
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        file.write(data)
        file.flush()
        try:
            with OpenEXR.File(file.name, separate_channels=True, header_only=True) as picture:
                low, high = (np.asarray(corner, np.int64) for corner in picture.header()["dataWindow"])
        except Exception as error:
            raise FormatError("The EXR cannot be read; it may be cut short. Export it again.") from error
        # By its header, before a pixel of it is unpacked: a small file may say that it is enormous.
        width, height = (int(side) for side in high - low + 1)
        if width < 1 or height < 1 or width * height > MOST_PIXELS:
            raise FormatError(
                f"The image has {width} × {height} pixels; at most 8192 × 8192 are taken. Reduce it first."
            )
        try:
            with OpenEXR.File(file.name, separate_channels=True) as picture:
                channels = picture.channels()
                wanted = next((c for c in ("Y", "Z", "R", "H") if c in channels), next(iter(channels)))
                plane = np.array(channels[wanted].pixels)
        except Exception as error:
            raise FormatError("The EXR cannot be read; it may be cut short. Export it again.") from error
    return _stretched(plane.astype(np.float64))


def _stretched(plane: np.ndarray) -> np.ndarray:
    if not np.isfinite(plane).all():
        return plane
    low, high = float(plane.min()), float(plane.max())
    return (plane - low) / (high - low) if high > low else np.zeros_like(plane)
