"""Read still pictures safely: PNG, JPEG, WebP, TIFF, GIF, AVIF and BMP, with alpha, orientation and colour profile."""

from __future__ import annotations

import hashlib
import io
import warnings
from pathlib import Path

import av
import numpy as np
from PIL import Image, UnidentifiedImageError

from spiralis.core.errors import PictureError
from spiralis.core.model.source import Source

FORMATS = {"PNG": ".png", "JPEG": ".jpg", "WEBP": ".webp", "TIFF": ".tif", "GIF": ".gif", "AVIF": ".avif",
           "BMP": ".bmp"}  # fmt: skip
PICTURE_SUFFIXES = (".png", ".jpg", ".jpeg", ".webp", ".tif", ".tiff", ".gif", ".avif", ".bmp")
LARGEST_SIDE = 20_000
MOST_PIXELS = 160_000_000

Image.MAX_IMAGE_PIXELS = None  # checked here, before anything is decoded, with a sentence of our own


def decode_sound(data: bytes, name: str) -> np.ndarray:
    """Decode a picture that was accepted before; arguments, result and errors as ``decode_picture``.

    Plain PNG files with alpha go through FFmpeg, which takes a third of the time.
    """
    if _is_plain_png(data):
        try:
            context = av.CodecContext.create("png", "r")
            frames = context.decode(av.Packet(data))
            if frames and frames[0].format.name == "rgba":
                return np.ascontiguousarray(frames[0].to_ndarray())
        except (av.FFmpegError, ValueError, MemoryError):
            pass  # Pillow finds the words for what is wrong.
    return decode_picture(data, name)


def _is_plain_png(data: bytes) -> bool:
    """Whether bytes are a PNG of 8-bit RGBA without a colour profile, tags or frames before its pixels."""
    if data[:8] != b"\x89PNG\r\n\x1a\n" or data[24:26] != b"\x08\x06":
        return False
    place = 8
    while place + 8 <= len(data):
        length, kind = int.from_bytes(data[place : place + 4], "big"), data[place + 4 : place + 8]
        if kind == b"IDAT":
            return True
        if kind in (b"iCCP", b"eXIf", b"acTL"):
            return False
        place += 12 + length
    return False


def _open(data: bytes, name: str) -> Image.Image:
    if not data:
        raise PictureError(f"“{name}” is empty; choose another copy of it.")
    try:
        image = Image.open(io.BytesIO(data), formats=list(FORMATS))
    except (UnidentifiedImageError, OSError, ValueError, SyntaxError) as error:
        raise PictureError(
            f"“{name}” is not a PNG, JPEG, WebP, TIFF, GIF, AVIF or BMP picture; convert it to one."
        ) from error
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
    from PIL import ImageOps

    image = _open(data, name)
    try:
        with warnings.catch_warnings():
            warnings.simplefilter("ignore")
            image.load()
            profile = image.info.get("icc_profile")
            upright = ImageOps.exif_transpose(image)
            pixels = _to_rgba(_in_srgb(upright, profile))
    except MemoryError as error:
        raise PictureError(f"“{name}” needs more memory than there is; make it smaller.") from error
    except Exception as error:  # decoders raise all kinds of errors on broken bytes
        raise PictureError(f"“{name}” is cut short or broken; export or download it again.") from error
    return pixels


def is_animated(path: Path) -> bool:
    """Whether a picture file holds more than one frame (GIF, APNG, WebP); of one of a single frame only the head is
    read."""
    try:
        with Image.open(path, formats=["PNG", "GIF", "WEBP"]) as image:
            return int(getattr(image, "n_frames", 1)) > 1
    except Exception:  # whatever is wrong with it is said when it is read
        return False


def source_of_bytes(data: bytes, name: str, size: tuple[int, int]) -> Source:
    """Return the source of a picture that was read before and is known to be sound."""
    kind = _open(data, name).format or "PNG"
    return Source(name, hashlib.sha256(data).hexdigest(), FORMATS[kind], size[0], size[1], data=data)


def picture_size(data: bytes, name: str) -> tuple[int, int]:
    """Return (width, height) as the picture is shown, from its head alone; raises PictureError."""
    image = _open(data, name)
    # Asking a PNG for tags that it does not have in its head would decode all of it.
    tagged = image.format in ("JPEG", "TIFF", "WEBP", "AVIF") or "exif" in image.info
    turned = tagged and image.getexif().get(0x0112, 1) in (5, 6, 7, 8)
    return (image.height, image.width) if turned else image.size


def _to_rgba(image: Image.Image) -> np.ndarray:
    if image.mode in ("I;16", "I;16B", "I;16L", "I", "F"):
        values = np.asarray(image, dtype=np.float64)
        top = 65535.0 if image.mode != "F" else 1.0
        grey = np.clip(values / top * 255 + 0.5, 0, 255).astype(np.uint8)
        return np.dstack([grey, grey, grey, np.full_like(grey, 255)])
    return np.array(image.convert("RGBA"))


def _in_srgb(image: Image.Image, profile: bytes | None) -> Image.Image:
    """Return the picture in sRGB where it carries another profile (ICC.1, by LittleCMS); else as it is."""
    if not profile or image.mode not in ("RGB", "RGBA", "CMYK", "L", "LA", "P"):
        return image
    # Loaded for the few pictures that bring a profile: no start pays for it.
    from PIL import ImageCms

    if image.mode in ("P", "LA"):
        image = image.convert("RGBA")
    try:
        source = ImageCms.ImageCmsProfile(io.BytesIO(profile))
        if "srgb" in ImageCms.getProfileDescription(source).lower():
            return image
        alpha = image.getchannel("A") if image.mode == "RGBA" else None
        flat = image.convert("RGB") if alpha is not None else image
        turned = ImageCms.profileToProfile(flat, source, ImageCms.createProfile("sRGB"), outputMode="RGB")
        if alpha is not None and turned is not None:
            turned.putalpha(alpha)
        return turned if turned is not None else image
    except (ImageCms.PyCMSError, OSError, ValueError, TypeError):
        # A profile that cannot be used, for another number of channels for instance, counts as sRGB.
        return image


def picture_source(data: bytes, name: str) -> Source:
    """Return the source for a picture's bytes; everything is decoded once, so a broken file is refused here.

    Raises:
        PictureError: as ``decode_picture``.
    """
    pixels = decode_picture(data, name)
    kind = _open(data, name).format or "PNG"
    digest = hashlib.sha256(data).hexdigest()
    return Source(name, digest, FORMATS[kind], pixels.shape[1], pixels.shape[0], data=data)
