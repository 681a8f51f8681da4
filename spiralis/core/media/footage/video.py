"""Clips that FFmpeg decodes: MP4, MOV, WebM, Matroska, animated GIF and APNG."""

from __future__ import annotations

import io
import threading
from bisect import bisect_right
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from spiralis.core.animation.source_time import Clock
from spiralis.core.cache import CacheSection
from spiralis.core.errors import PictureError
from spiralis.core.media.footage.base import Facts, even_rate

MOST_FRAMES = 1_000_000
LARGEST_SIDE = 16_384
#: Formats whose frames build on one another from the very first, whatever their packets claim.
_CHAINED = {"gif", "apng"}
_FAILS = (RuntimeError, OSError, ValueError, EOFError, MemoryError, IndexError, OverflowError)

_local = threading.local()
#: Decoded frames of all clips, as the decoder gave them, so that going backwards finds its group again.
_decoded: CacheSection[Any] = CacheSection(lambda frame: sum(plane.buffer_size for plane in frame.planes) + 256)


class VideoClip:
    """One stream of one file, indexed by its packets; decodes on from where it is, or from the key frame before."""

    def __init__(self, data: bytes | Path, digest: str, name: str) -> None:
        self._data = data
        self._digest = digest
        self._name = name
        self._lock = threading.Lock()
        self._container: Any = None
        self._frames: Iterator[Any] = iter(())
        self._next = -1
        try:
            self._index()
        except (av.FFmpegError, *_FAILS) as error:
            raise PictureError(f"“{name}” is not footage that can be read, or it was cut short; convert it.") from error

    def _index(self) -> None:
        with self._open() as container:
            if not container.streams.video:
                raise PictureError(f"“{self._name}” holds no moving picture; choose another file.")
            stream = container.streams.video[0]
            if stream.codec_context is None or not stream.time_base:
                raise PictureError(f"“{self._name}” is packed in a way that cannot be decoded here; convert it.")
            base = stream.time_base
            times, keys, end = _packet_times(container, stream)
            if not times or len(times) > MOST_FRAMES:
                raise PictureError(f"“{self._name}” holds no frames, or too many; convert it.")
            chained = container.format.name.split(",")[0] in _CHAINED
            self._times = times
            self._place = {pts: index for index, pts in enumerate(times)}
            self._keys = [times[0]] if chained else (sorted(keys) or [times[0]])
            hint = stream.guessed_rate or stream.average_rate
            self._seeks = not chained
        first = self._decode_first()
        width, height, turn = first.width, first.height, int(getattr(first, "rotation", 0) or 0) % 360
        if not (0 < width <= LARGEST_SIDE and 0 < height <= LARGEST_SIDE):
            raise PictureError(f"“{self._name}” is {width} × {height} px, which is too large; make it smaller.")
        aspect = pixel_aspect(self._stretch)
        self._turns = round(turn / 90) % 4
        size = (max(1, round(width * aspect)), height)
        shown = size[::-1] if self._turns % 2 else size
        ticks, tick, rate = even_rate((*(t - times[0] for t in times), end - times[0]), base, hint)
        alpha = any(part.is_alpha for part in first.format.components)
        self.facts = Facts(*shown, Clock(ticks, tick), Fraction(rate), alpha)

    def _open(self) -> Any:
        source = io.BytesIO(self._data) if isinstance(self._data, bytes) else str(self._data)
        return av.open(source, mode="r", options={"ignore_editlist": "0"})

    def _start(self, pts: int | None) -> None:
        """Begin to decode at the key frame of a time, or at the beginning."""
        if self._container is None:
            self._container = self._open()
        stream = self._container.streams.video[0]
        self._stretch = stream.sample_aspect_ratio
        if pts is not None and self._seeks and pts != self._times[0]:
            self._container.seek(pts, stream=stream, backward=True, any_frame=False)
        elif self._next != -1:
            self._container.close()
            self._container = self._open()
            stream = self._container.streams.video[0]
        self._frames = _decode(self._container, stream)

    def _decode_first(self) -> Any:
        self._start(None)
        self._next = 0
        frame = next(self._frames, None)
        if frame is None:
            raise PictureError(f"“{self._name}” holds no frame that can be decoded; convert it.")
        self._keep(frame, 0)
        return frame

    def _keep(self, frame: Any, index: int) -> None:
        _decoded.get((self._digest, index), lambda: frame)
        self._next = index + 1

    def _raw(self, index: int) -> Any:
        """Return the decoder's frame; where the clip ends early, the last one that could be decoded."""
        with self._lock:
            key = (self._digest, index)
            held = _decoded.peek(key)
            if held is not None:
                return held
            first = max(bisect_right(self._keys, self._times[index]) - 1, 0)
            begins_at = self._place.get(self._keys[first], 0)
            if self._container is not None and begins_at <= self._next <= index:
                found = self._decode_to(index)
                if found is not None:
                    return found
            for begin in reversed(self._keys[: first + 1]):
                self._start(begin)
                found = self._decode_to(index)
                if found is not None:
                    return found
            raise PictureError(f"“{self._name}” cannot be decoded at frame {index}; convert it.")

    def _decode_to(self, index: int) -> Any:
        """Decode on until a frame; where the clip ends early return the last one, None where there is none."""
        last = None
        for frame in self._frames:
            at = self._place.get(frame.pts) if frame.pts is not None else self._next
            if at is None:
                continue
            self._keep(frame, at)
            last = frame
            if at >= index:
                return frame
        self._next = len(self._times) + 1
        return last

    def frame(self, index: int) -> np.ndarray:
        """Return a frame as straight uint8 (height, width, 4)."""
        index = min(max(index, 0), len(self._times) - 1)
        try:
            raw = self._raw(index)
            width, height = (self.facts.width, self.facts.height)
            if self._turns % 2:
                width, height = height, width
            pixels = _to_rgba(raw, width, height)
        except (av.FFmpegError, *_FAILS) as error:
            raise PictureError(f"“{self._name}” cannot be decoded at frame {index}; convert it.") from error
        return np.ascontiguousarray(np.rot90(pixels, self._turns)) if self._turns else pixels

    def close(self) -> None:
        """Let go of the file."""
        with self._lock:
            if self._container is not None:
                self._container.close()
                self._container = None
                self._next = len(self._times) + 1


def pixel_aspect(stretch: Any) -> float:
    """Return how much wider than high a pixel is shown."""
    ratio = float(stretch) if stretch else 1.0
    return ratio if 0.1 < ratio < 10 else 1.0


def _packet_times(container: Any, stream: Any) -> tuple[list[int], list[int], int]:
    """Return the times of the frames in order, those of key frames, and where the last one ends."""
    times: dict[int, int] = {}
    keys = []
    count = 0
    for packet in container.demux(stream):
        if packet.size == 0 or packet.is_discard:
            continue
        pts = packet.pts if packet.pts is not None else packet.dts
        if pts is None:
            pts = count
        count += 1
        if count > MOST_FRAMES:
            break
        times[pts] = max(int(packet.duration or 0), 0)
        if packet.is_keyframe:
            keys.append(pts)
    ordered = sorted(times)
    if not ordered:
        return [], [], 0
    mean = max(1, (ordered[-1] - ordered[0]) // max(len(ordered) - 1, 1))
    return ordered, keys, ordered[-1] + (times[ordered[-1]] or mean)


def _decode(container: Any, stream: Any) -> Iterator[Any]:
    """Yield decoded frames from where the container stands; broken packets are passed over."""
    context = stream.codec_context
    if stream.metadata.get("alpha_mode") == "1" or stream.metadata.get("ALPHA_MODE") == "1":
        # FFmpeg's own VP8 and VP9 decoders drop the alpha that libvpx reads.
        name = {"vp9": "libvpx-vp9", "vp8": "libvpx"}.get(context.name)
        if name is not None:
            context = av.CodecContext.create(name, "r")
    if not context.is_open:
        context.thread_count = 2
    for packet in container.demux(stream):
        try:
            frames = context.decode(packet if packet.size else None)
        except EOFError:
            return
        except av.FFmpegError:
            continue
        yield from frames


def _to_rgba(frame: Any, width: int, height: int) -> np.ndarray:
    """Return straight uint8 (height, width, 4); untagged pictures count as BT.709 from 720 lines on, else BT.601."""
    from av.video import reformatter

    options: dict[str, Any] = {}
    spaces, ranges = reformatter.Colorspace, reformatter.ColorRange
    if not frame.format.is_rgb and "pal" not in frame.format.name and "gray" not in frame.format.name:
        wide = frame.height >= 720 or frame.width >= 1280
        space = int(frame.colorspace)
        if space in (2, 0):
            options["src_colorspace"] = spaces.ITU709 if wide else spaces.ITU601
        if int(frame.color_range) == 0:
            options["src_color_range"] = ranges.JPEG if "yuvj" in frame.format.name else ranges.MPEG
        options["dst_color_range"] = ranges.JPEG
    # A frame's own converter must not be used by two threads at once, and frames are shared.
    if not hasattr(_local, "converter"):
        _local.converter = reformatter.VideoReformatter()
    converted = _local.converter.reformat(
        frame, width=width, height=height, format="rgba", interpolation="BICUBIC", threads=1, **options
    )
    return np.array(converted.to_ndarray())
