"""Photos of meters, nameplates and connections: made small, stripped of what a phone writes into them, checked."""

from __future__ import annotations

import hashlib
import io
import warnings
from dataclasses import dataclass

from PIL import Image, ImageOps

from muster.core.errors import MusterError

MOST_PX = 2000
"""The longer side of a photo that is kept: a meter's digits are read from it, and it is under a megabyte."""
THUMB_PX = 240
MOST_BYTES = 40_000_000
"""Bytes of a photo as a phone sends it."""
MOST_PIXELS = 120_000_000
"""Pixels of a photo as a phone sends it: more would take half a gigabyte unpacked."""
KINDS = ("JPEG", "PNG", "WEBP")
QUALITY = 85
WANTED = "a photo as JPEG, PNG or WebP"


@dataclass(frozen=True)
class Photo:
    """A photo as it is kept: a JPEG without anything but its picture, and its size [px]."""

    data: bytes
    width: int
    height: int

    @property
    def sha256(self) -> str:
        """The digest of its bytes, which names its file."""
        return hashlib.sha256(self.data).hexdigest()


def cleaned_photo(data: bytes) -> Photo:
    """A photo upright, at most ``MOST_PX`` long, with neither place nor camera nor time in it.

    Parameters
    ----------
    data : bytes
        A JPEG, PNG or WebP file.

    Returns
    -------
    Photo
        Always a JPEG.

    Raises
    ------
    MusterError
        If it is no photo, or larger than any phone's.
    """
    image = ImageOps.exif_transpose(_opened(data)).convert("RGB")
    image.thumbnail((MOST_PX, MOST_PX), Image.Resampling.LANCZOS)
    image.info = {}
    return Photo(_jpeg(image), image.width, image.height)


def kept_photo(data: bytes) -> Photo:
    """A photo that Muster kept, read again: its bytes stay as they are.

    Raises
    ------
    MusterError
        If it is not as Muster keeps them.
    """
    image = _opened(data)
    if image.format != "JPEG" or max(image.size) > MOST_PX or image.getexif():
        raise MusterError("is not a photo as Muster keeps them", where="photo", want="the file as Muster wrote it")
    return Photo(data, image.width, image.height)


def thumbnail(photo: Photo) -> bytes:
    """A photo small enough to stand beside its entry."""
    image = _opened(photo.data).convert("RGB")
    image.thumbnail((THUMB_PX, THUMB_PX), Image.Resampling.LANCZOS)
    return _jpeg(image)


def _opened(data: bytes) -> Image.Image:
    if len(data) > MOST_BYTES:
        raise MusterError("larger than a photo can be", where="photo", want=f"at most {MOST_BYTES // 1_000_000} MB")
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore", Image.DecompressionBombWarning)  # its bound is below, and said
            image = Image.open(io.BytesIO(data), formats=KINDS)
            if image.width * image.height > MOST_PIXELS:
                raise MusterError(f"{image.width} × {image.height} pixels", where="photo", want="a smaller photo")
            image.load()
    except MusterError:
        raise
    except (OSError, ValueError, SyntaxError, Image.DecompressionBombError):
        raise MusterError("is no photo that can be read", where="photo", want=WANTED) from None
    return image


def _jpeg(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "JPEG", quality=QUALITY, optimize=True)
    return out.getvalue()
