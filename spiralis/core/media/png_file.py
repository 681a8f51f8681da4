"""Write PNG files of 8 or 16 bits a channel."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from spiralis.core.errors import ExportError

#: How FFmpeg packs: harder takes longer than drawing the frame did. Of the filters, which tell a pixel by those beside
#: it, the first packs smooth pictures smallest, and flat ones as well as any.
_PACKING = {"compression_level": "4", "pred": "sub"}
#: Names of pixel formats by bytes a channel and channels.
_FORMATS = {(1, 3): "rgb24", (1, 4): "rgba", (2, 3): "rgb48be", (2, 4): "rgba64be"}


def png_bytes(pixels: np.ndarray) -> bytes:
    """Return straight uint8 or uint16 (h, w, 4) pixels as a PNG file; opaque ones are stored without alpha.

    Raises:
        ExportError: they cannot be packed.
    """
    full = np.iinfo(pixels.dtype).max
    picture = np.ascontiguousarray(pixels[..., :3] if np.all(pixels[..., 3] == full) else pixels)
    height, width, channels = picture.shape
    try:
        packer = av.VideoCodecContext.create("png", "w")
        packer.width, packer.height, packer.time_base = width, height, Fraction(1, 25)
        packer.sample_aspect_ratio = Fraction(1)  # It is written, and unknown would read as 0.
        packer.pix_fmt, packer.options = _FORMATS[picture.itemsize, channels], _PACKING
        frame = av.VideoFrame.from_ndarray(picture, format=packer.pix_fmt)
        frame.pts = 0
        return b"".join(bytes(packet) for packet in (*packer.encode(frame), *packer.encode(None)))
    except (av.FFmpegError, ValueError, MemoryError) as error:
        raise ExportError(f"A picture of {width} × {height} px could not be packed as PNG; make it smaller.") from error


def write_png(path: Path, pixels: np.ndarray) -> None:
    """Write straight uint8 or uint16 (h, w, 4) pixels; opaque ones are stored without alpha."""
    path.write_bytes(png_bytes(pixels))
