"""Sounds of files: whether there is any, and its samples."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import av
import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.errors import FileError
from spiralis.core.model.source import Source

#: Samples a second that everything is mixed in, and how many places they come from.
RATE, CHANNELS = 48_000, 2
#: The longest sound that is taken, in seconds: an hour would weigh more than all pictures may.
LONGEST = 1200
_FAILS = (RuntimeError, OSError, ValueError, EOFError, MemoryError, IndexError, OverflowError)

_samples: CacheSection[np.ndarray] = CacheSection(lambda samples: samples.nbytes + 64, stays=True)
_sounding: CacheSection[bool] = CacheSection(lambda sounds: 64, stays=True)


def read_sound(data: bytes | Path, name: str) -> np.ndarray:
    """Return the samples of a file as float32 (n, 2), -1 to 1, from its beginning on.

    Raises:
        FileError: it holds no sound that can be decoded, or one of more than twenty minutes.
    """
    try:
        with _opened(data) as container:
            if not container.streams.audio:
                raise FileError(f"“{name}” holds no sound; choose another file.")
            return _decoded(container, name)
    except FileError:
        raise
    except (av.FFmpegError, *_FAILS) as error:
        raise FileError(f"“{name}” is no sound that can be read, or it was cut short; convert it.") from error


def has_sound(source: Source) -> bool:
    """Whether something is heard of a file. It is opened once."""
    return _sounding.get(source.digest, lambda: _sounds(source))


def samples_of(source: Source) -> np.ndarray:
    """Return the samples of a source as float32 (n, 2); none where it is missing, or silent."""

    def make() -> np.ndarray:
        held = _held(source)
        try:
            return read_sound(held, source.name) if held is not None else _NOTHING
        except FileError:
            # It could be read when it came in; the file may have been changed outside since.
            return _NOTHING

    return _samples.get(source.digest, make)


#: Kinds of files that hold nothing but pictures.
_SILENT = frozenset({".gif", ".apng", ".png", ".webp", ".frames"})
_NOTHING = np.zeros((0, CHANNELS), dtype=np.float32)


def _held(source: Source) -> bytes | Path | None:
    return source.data if source.data is not None else source.place


def _sounds(source: Source) -> bool:
    held = _held(source)
    if held is None or source.suffix in _SILENT:
        return False
    try:
        with _opened(held) as container:
            return bool(container.streams.audio)
    except (av.FFmpegError, *_FAILS):
        return False


def _opened(data: bytes | Path) -> Any:
    return av.open(io.BytesIO(data) if isinstance(data, bytes) else str(data), mode="r")


def _decoded(container: Any, name: str) -> np.ndarray:
    """Return the first stream of sound; what begins after the file does stays as late as it is."""
    stream = container.streams.audio[0]
    # One channel is heard from both sides as it is; the resampler would make it quieter.
    alone = stream.codec_context.layout.nb_channels == 1
    resampler = av.AudioResampler(format="flt", layout="mono" if alone else "stereo", rate=RATE)
    parts: list[np.ndarray] = []
    count, lead = 0, None
    for packet in container.demux(stream):
        try:
            frames = packet.decode()
        except av.FFmpegError:
            # Broken packets are passed over, as those of pictures are.
            continue
        for frame in frames:
            if lead is None:
                lead = round(float(frame.time or 0.0) * RATE)
            for part in resampler.resample(frame):
                parts.append(_columns(part, alone))
                count += len(parts[-1])
        if count > LONGEST * RATE:
            raise FileError(f"“{name}” is longer than {LONGEST // 60} minutes; cut out what is needed of it.")
    parts += [_columns(part, alone) for part in resampler.resample(None)]
    if not parts:
        raise FileError(f"“{name}” holds no sound that can be decoded; convert it.")
    whole = np.concatenate(parts).astype(np.float32, copy=False)
    lead = lead or 0
    return whole[-lead:] if lead < 0 else np.pad(whole, ((lead, 0), (0, 0)))


def _columns(part: Any, alone: bool) -> np.ndarray:
    """Return samples of the decoder as (n, 2)."""
    samples: np.ndarray = part.to_ndarray().reshape(-1, 1 if alone else CHANNELS)
    return np.repeat(samples, CHANNELS, axis=1) if alone else samples
