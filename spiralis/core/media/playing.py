"""All frames of a file that was written, decoded from its own bytes, small enough to be played."""

from __future__ import annotations

from bisect import bisect_right
from fractions import Fraction
from pathlib import Path

import av
import cv2
import numpy as np
from attrs import frozen
from PIL import Image

from spiralis.core.errors import FileError
from spiralis.core.sound.reading import CHANNELS, RATE, read_sound

#: Frames that are held at most.
MOST = 1500
_VIDEO = (".mp4", ".webm", ".mov")


@frozen(eq=False)
class FileFrames:
    """``pictures`` are straight uint8 (h, w, 4); ``starts`` are when each begins, in s; all take ``seconds``.

    ``sound`` is float32 (n, 2) and as long as the pictures, or None where there is none.
    """

    pictures: tuple[np.ndarray, ...]
    starts: tuple[Fraction, ...]
    seconds: Fraction
    sound: np.ndarray | None = None

    def at(self, moment: Fraction) -> int:
        """Return the index of the picture that shows at a moment, 0 to ``seconds``."""
        return max(bisect_right(self.starts, moment) - 1, 0)


def frames_of(path: Path, width: int) -> FileFrames:
    """Return the frames of a video or animated picture, no wider than ``width``.

    Raises:
        FileError: the file cannot be read.
    """
    try:
        return _of_video(path, width) if path.suffix.lower() in _VIDEO else _of_picture(path, width)
    except (OSError, ValueError, EOFError, av.FFmpegError) as error:
        raise FileError(f"“{path.name}” cannot be played; it was moved or changed since it was written.") from error


def _small(pixels: np.ndarray, width: int) -> np.ndarray:
    height, own = pixels.shape[:2]
    if own <= width:
        return pixels
    size = (width, max(round(height * width / own), 1))
    return np.asarray(cv2.resize(pixels, size, interpolation=cv2.INTER_AREA))


def _of_video(path: Path, width: int) -> FileFrames:
    pictures = []
    with av.open(str(path)) as held:
        stream = held.streams.video[0]
        rate = Fraction(stream.average_rate or stream.guessed_rate or 25)
        for frame in held.decode(stream):
            pictures.append(_small(frame.to_ndarray(format="rgba"), width))
            if len(pictures) >= MOST:
                break
        heard = bool(held.streams.audio)
    seconds = len(pictures) / rate
    sound = _fitted(read_sound(path, path.name), seconds) if heard else None
    return FileFrames(tuple(pictures), tuple(i / rate for i in range(len(pictures))), seconds, sound)


def _fitted(samples: np.ndarray, seconds: Fraction) -> np.ndarray:
    """Return a sound as long as what is seen, so that both begin anew together."""
    fitted = np.zeros((round(seconds * RATE), CHANNELS), dtype=np.float32)
    length = min(len(samples), len(fitted))
    fitted[:length] = samples[:length]
    return fitted


def _of_picture(path: Path, width: int) -> FileFrames:
    pictures, starts, time = [], [], Fraction(0)
    with Image.open(path) as image:
        for index in range(min(getattr(image, "n_frames", 1), MOST)):
            image.seek(index)
            pictures.append(_small(np.array(image.convert("RGBA")), width))
            starts.append(time)
            time += Fraction(str(image.info.get("duration", 0) or 100)) / 1000
    return FileFrames(tuple(pictures), tuple(starts), time)
