"""Encode frames as video: codecs with their qualities, planes of 8 and 10 bits with and without alpha, repeats."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from attrs import frozen

from spiralis.core.errors import ExportError
from spiralis.core.machine import cores

# The AV1 encoder would write how it is set up to standard error, once a file.
os.environ.setdefault("SVT_LOG", "1")

#: ITU-R BT.709: luma weights of red and blue, limited range; as the tags of a stream say it.
_KR, _KB = 0.2126, 0.0722
_BT709, _LIMITED = 1, 1
#: Words for qualities, from the smallest files to the best pictures; a number of one's own; how large the file may get.
BY_NUMBER, BY_SIZE = "by number", "by size"
WORDS = ("small", "good", "best", BY_NUMBER, BY_SIZE)
Planes = Sequence[np.ndarray]


class RefusedByEncoder(ExportError):
    """The encoder takes no frames of that size, or not at the bit rate that is asked for."""


@frozen
class Codec:
    """One encoder: its name, what it is called, its pixel formats by (bits, alpha), and how it takes a quality.

    ``words`` are the quantiser settings of the first three words; ``worst`` and ``best`` those of numbers 0 and 100;
    the ``coarsest`` makes the smallest files there are.
    ``options(setting)`` returns the encoder's options. Lower settings are better pictures. A codec of ``two_passes``
    returns by ``rated(stats, number)`` those for a bit rate: for the first or the second pass, which hands on what the
    first one saw by a file, or, number 0, for a single one.
    """

    encoder: str
    label: str
    formats: Mapping[tuple[int, bool], str]
    words: tuple[int, int, int]
    worst: int
    best: int
    options: Callable[[str], dict[str, str]]
    tag: str = ""
    rated: Callable[[Path, int], dict[str, str]] = lambda stats, number: {}
    two_passes: bool = False
    coarsest: int = 51

    def setting(self, word: str, number: float) -> str:
        """Return the quantiser setting of a word, or of a number 0 to 100 where it goes by that."""
        if word != BY_NUMBER:
            return str(self.words[WORDS.index(word)])
        return f"{self.worst + (self.best - self.worst) * min(max(number, 0.0), 100.0) / 100:.1f}"


def threads() -> str:
    """Return how many threads an encoder has: a matter of the machine, not of the workers, so that files are alike."""
    return str(max(1, min(cores(), 8)))


def even(size: tuple[int, int]) -> tuple[int, int]:
    """Return the size with odd numbers made even by one more."""
    return size[0] + size[0] % 2, size[1] + size[1] % 2


def planes_of(pixels: np.ndarray, bits: int, halved: bool, alpha: bool) -> Planes:
    """Return the planes Y, Cb, Cr (and alpha) of a frame in BT.709, limited range; alpha is in full range.

    Args:
        pixels: float32 (h, w, 4), premultiplied, sRGB-encoded, 0 to 1.
        bits: 8 or 10 a sample; planes are uint8 or uint16.
        halved: whether chroma has half the width and height (4:2:0); frames are extended to even sizes then.
        alpha: whether colours are straight and alpha comes as a fourth plane; else the frame lies over black.
    """
    if halved:
        pixels = np.pad(pixels, ((0, pixels.shape[0] % 2), (0, pixels.shape[1] % 2), (0, 0)), mode="edge")
    rgb = np.clip(pixels[..., :3], 0.0, 1.0)
    cover = np.clip(pixels[..., 3], 0.0, 1.0)
    if alpha:
        rgb = np.clip(rgb / np.maximum(cover, 1e-6)[..., None], 0.0, 1.0)
    luma = _KR * rgb[..., 0] + (1 - _KR - _KB) * rgb[..., 1] + _KB * rgb[..., 2]
    chroma = [(rgb[..., 2] - luma) / (2 - 2 * _KB), (rgb[..., 0] - luma) / (2 - 2 * _KR)]
    if halved:
        chroma = [(c[::2, ::2] + c[1::2, ::2] + c[::2, 1::2] + c[1::2, 1::2]) / 4 for c in chroma]
    scale, kind = 1 << (bits - 8), np.uint8 if bits == 8 else np.uint16
    made = [16 * scale + 219 * scale * luma, *(128 * scale + 224 * scale * c for c in chroma)]
    if alpha:
        made.append(cover * ((1 << bits) - 1))
    return [np.floor(plane + 0.5).astype(kind) for plane in made]


def video_frame(planes: Planes, pixel_format: str) -> av.VideoFrame:
    """Return a frame that holds these planes."""
    height, width = planes[0].shape
    frame = av.VideoFrame(width, height, pixel_format)
    for plane, values in zip(frame.planes, planes, strict=True):
        row = plane.line_size // values.itemsize
        target = np.frombuffer(memoryview(plane), dtype=values.dtype).reshape(-1, row)
        target[: values.shape[0], : values.shape[1]] = values
    return frame


def encode(
    path: Path, container: str, codec: Codec, pixel_format: str, tuned: Mapping[str, str], size: tuple[int, int],
    rate: Fraction, frames: Iterable[Planes], options: Mapping[str, str] | None = None,
) -> None:  # fmt: skip
    """Write frames of one size to a file, tagged as BT.709 in limited range.

    ``tuned`` holds the encoder's options (see ``Codec``), ``options`` those of the container.

    Raises:
        RefusedByEncoder: it takes no frames of this size; OSError: the file cannot be written.
    """
    with av.open(str(path), "w", format=container, options=dict(options or {})) as output:
        stream: Any = output.add_stream(codec.encoder, rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, pixel_format
        stream.options = dict(tuned)
        context = stream.codec_context
        if codec.tag:
            context.codec_tag = codec.tag
        context.color_primaries = context.color_trc = context.colorspace = _BT709
        context.color_range = _LIMITED
        written = _NONE_YET
        for index, planes in enumerate(frames):
            picture = video_frame(planes, pixel_format)
            picture.pts, picture.time_base = index, 1 / rate
            written = _written(output, _packed(stream, picture, codec), written)
        _written(output, _packed(stream, None, codec), written)


def _packed(stream: Any, picture: av.VideoFrame | None, codec: Codec) -> Sequence[Any]:
    """Return the packets that come of a frame, or those that are still to come."""
    with refusals(codec.label, (stream.width, stream.height), av.FFmpegError, "codec or size"):
        packets: Sequence[Any] = stream.encode(picture)
    return packets


@contextmanager
def refusals(
    label: str, size: tuple[int, int], errors: type[Exception] | tuple[type[Exception], ...], another: str
) -> Iterator[None]:
    """Say what an encoder means where it gives up with one of its errors, and what to choose another of.

    Raises:
        RefusedByEncoder: one sentence.
    """
    try:
        yield
    except errors as error:
        raise RefusedByEncoder(
            f"{label} takes no frames of {size[0]} × {size[1]} px, or memory is too small for them; "
            f"choose another {another}."
        ) from error


#: No encoder asks for a frame to be decoded so many frames before or after its turn.
_NEVER = 64
#: How many packets were written, and when the last one is decoded.
_NONE_YET = (0, -(1 << 40))


def _written(output: Any, packets: Sequence[Any], before: tuple[int, int]) -> tuple[int, int]:
    """Write packets, in decoding order, and return how many there are by now and when the last one is decoded.

    Of one or two frames the H.265 encoder leaves the moments of decoding as they happen to be in memory: whatever no
    file may hold, one that is not after the last or that is after the frame is shown, makes way for one it may.
    """
    count, last = before
    for packet in packets:
        moment = packet.dts
        if moment is None or abs(moment - count) > _NEVER or not last < moment <= packet.pts:
            moment = packet.dts = max(packet.pts, last + 1)
        # Writing it counts it in the file's own units.
        output.mux(packet)
        count, last = count + 1, moment
    return count, last


def joined(sources: Sequence[Path], path: Path, container: str, options: Mapping[str, str] | None = None) -> None:
    """Write a file that plays others of one kind one after another, without decoding or encoding anything again.

    Frames are evenly spaced, whatever durations a container keeps. So are the moments at which they are decoded, by as
    many frames ahead as the part needs that needs most: else a player would see a gap where it needs fewer.
    """
    ahead = max(_ahead(source) for source in dict.fromkeys(sources))
    with av.open(str(path), "w", format=container, options=dict(options or {})) as output:
        stream, shift = None, 0
        for source in sources:
            with av.open(str(source)) as held:
                own = held.streams.video[0]
                stream = output.add_stream_from_template(own, opaque=True) if stream is None else stream
                packets = [packet for packet in held.demux(own) if packet.size]
                starts = [packet.pts or 0 for packet in packets]
                step = Fraction(max(starts) - min(starts), max(len(packets) - 1, 1))
                if len(packets) == 1 and own.average_rate:
                    step = 1 / (Fraction(own.average_rate) * Fraction(own.time_base or 1))
                for place, packet in enumerate(packets):
                    packet.pts = (packet.pts or 0) + shift
                    packet.dts = round((place - ahead) * step) + shift if ahead else packet.pts
                    packet.stream = stream
                    output.mux(packet)
                shift += round(step * len(packets))


def _ahead(source: Path) -> int:
    """Return how many frames before it is shown a file's frame has to be decoded, at most."""
    with av.open(str(source)) as held:
        starts = [packet.pts or 0 for packet in held.demux(held.streams.video[0]) if packet.size]
    shown = {start: place for place, start in enumerate(sorted(starts))}
    return max(place - shown[start] for place, start in enumerate(starts))
