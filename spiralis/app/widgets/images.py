"""Pixel arrays as Qt images."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QIcon, QImage, QPixmap


def true_icon(picture: QPixmap) -> QIcon:
    """Return a picture as an icon that is not tinted where its row is chosen."""
    icon = QIcon(picture)
    icon.addPixmap(picture, QIcon.Mode.Selected)
    return icon


def as_image(pixels: np.ndarray, premultiplied: bool = False) -> QImage:
    """Return uint8 (h, w, 4) pixels as an image. It shares their memory, so keep the array as long as the image.

    Pixels that are all solid give an image without an alpha channel, which paints faster.
    """
    height, width = pixels.shape[:2]
    kinds = QImage.Format
    kind = kinds.Format_RGBA8888_Premultiplied if premultiplied else kinds.Format_RGBA8888
    pixels = np.ascontiguousarray(pixels)
    # Alpha is the highest byte of four, so the least of all pixels as whole numbers says enough, and says it fast.
    if pixels.size and int(pixels.view("<u4").min()) >= 0xFF000000:
        kind = kinds.Format_RGBX8888
    data: bytes = pixels.data  # type: ignore[assignment]
    return QImage(data, width, height, 4 * width, kind)
