"""Read still pictures safely: PNG, JPEG, WebP and TIFF, with alpha and orientation."""

from __future__ import annotations

import hashlib
import io
import warnings

import numpy as np
from PIL import Image, ImageOps, UnidentifiedImageError

from spiralis.core.errors import PictureError
from spiralis.core.model.project import Source

FORMATS = {"PNG": ".png", "JPEG": ".jpg", "WEBP": ".webp", "TIFF": ".tif"}
PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff")
LARGEST_SIDE = 20_000
MOST_PIXELS = 160_000_000

Image.MAX_IMAGE_PIXELS = None  # checked here, before anything is decoded, with a sentence of our own


def _open(data: bytes, name: str) -> Image.Image:
    if not data:
        raise PictureError(f"“{name}” is empty; choose another copy of it.")
    try:
        image = Image.open(io.BytesIO(data), formats=list(FORMATS))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise PictureError(f"“{name}” is not a PNG, JPEG, WebP or TIFF picture; convert it to one.") from error
    width, height = image.size
    if width > LARGEST_SIDE or height > LARGEST_SIDE or width * height > MOST_PIXELS:
        raise PictureError(
            f"“{name}” is {width} × {height} px, and pictures go up to {LARGEST_SIDE} px a side and "
            f"{MOST_PIXELS // 1_000_000} million in all; make it smaller."
        )
    return image


def decode_picture(data: bytes, name: str) -> np.ndarray:
    """Decode to straight sRGB-encoded uint8 (height, width, 4), turned as its orientation tag says.

    Raises:
        PictureError: empty, of another kind, too large, cut short or broken.
    """
    image = _open(data, name)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image.load()
            upright = ImageOps.exif_transpose(image)
            pixels = _to_rgba(upright)
    except MemoryError as error:
        raise PictureError(f"“{name}” needs more memory than there is; make it smaller.") from error
    except Exception as error:  # decoders raise all kinds of errors on broken bytes
        raise PictureError(f"“{name}” is cut short or broken; export or download it again.") from error
    return pixels


def _to_rgba(image: Image.Image) -> np.ndarray:
    if image.mode in ("I;16", "I;16B", "I;16L", "I", "F"):
        values = np.asarray(image, dtype=np.float64)
        top = 65535.0 if image.mode != "F" else 1.0
        grey = np.clip(values / top * 255 + 0.5, 0, 255).astype(np.uint8)
        return np.dstack([grey, grey, grey, np.full_like(grey, 255)])
    return np.array(image.convert("RGBA"))


def picture_source(data: bytes, name: str) -> Source:
    """Return the source for a picture's bytes; everything is decoded once, so a broken file is refused here.

    Raises:
        PictureError: as ``decode_picture``.
    """
    pixels = decode_picture(data, name)
    kind = _open(data, name).format or "PNG"
    digest = hashlib.sha256(data).hexdigest()
    return Source(name, digest, FORMATS[kind], pixels.shape[1], pixels.shape[0], data=data)
