"""MP4: H.264, 4:2:0, BT.709, the index at the front so that a feed or a page can start it at once."""

from __future__ import annotations

import os
from collections.abc import Iterable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from spiralis.core.errors import ExportError
from spiralis.core.media.exporters.base import Exporter, ExportJob, expect, register_exporter
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import Planes, render_frame, render_yuv420

QUALITY = {"small": "27", "good": "21", "best": "16"}
SETTINGS = (
    Parameter("quality", "Quality", Kind.CHOICE, "good", "Small files, good ones, or the best picture",
              choices=tuple(QUALITY)),
)  # fmt: skip
#: Without the encoder's tree of what later frames use: it depends on memory that was never written, and files of one
#: piece would come to differ by some bytes. Full trellis and less keeping of grain, which drawn pictures have none of,
#: win most of the size back.
_PARAMETERS = "mbtree=0:trellis=2:psy-rd=0.4,0"
_BT709 = 1
_LIMITED = 1


def even(size: tuple[int, int]) -> tuple[int, int]:
    """Return the size with odd numbers made even by one more."""
    return size[0] + size[0] % 2, size[1] + size[1] % 2


def encode(path: Path, size: tuple[int, int], rate: Fraction, quality: str, frames: Iterable[Planes]) -> None:
    """Write frames of one even size, as planes Y, Cb and Cr, with one of QUALITY, to a file."""
    container = av.open(str(path), "w", format="mp4", options={"movflags": "+faststart"})
    with container:
        stream = container.add_stream("libx264", rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, "yuv420p"
        # The thread count is a matter of the machine, not of the workers: one or two workers, one file.
        threads = max(1, min(os.cpu_count() or 1, 8))
        stream.options = {
            "preset": "medium", "crf": QUALITY[quality], "threads": str(threads), "profile": "high",
            "x264-params": _PARAMETERS,
        }  # fmt: skip
        context = stream.codec_context
        context.color_primaries = context.color_trc = context.colorspace = _BT709
        context.color_range = _LIMITED
        for index, frame in enumerate(frames):
            picture = _video_frame(frame)
            picture.pts, picture.time_base = index, 1 / rate
            container.mux(stream.encode(picture))
        container.mux(stream.encode())


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    planes = job.frames(lambda frame: render_yuv420(job.project, job.composition_id, frame, job.scale))
    encode(path, even(job.size), job.composition.rate, job.setting(MP4, "quality"), planes)
    return _notes(job)


def _video_frame(planes: Planes) -> av.VideoFrame:
    height, width = planes[0].shape
    frame = av.VideoFrame(width, height, "yuv420p")
    for plane, values in zip(frame.planes, planes, strict=True):
        target = np.frombuffer(memoryview(plane), dtype=np.uint8).reshape(-1, plane.line_size)
        target[: values.shape[0], : values.shape[1]] = values
    return frame


def _notes(job: ExportJob) -> tuple[str, ...]:
    notes = []
    size = job.size
    if even(size) != size:
        notes.append(
            f"MP4 needs even sizes, so {size[0]} × {size[1]} became {even(size)[0]} × {even(size)[1]}: "
            "its last row or column appears twice."
        )
    middle = render_frame(job.project, job.composition_id, (job.first + job.last) // 2, 0.1)
    if float(middle[..., 3].min()) < 0.999:
        notes.append("MP4 keeps no transparency, so see-through parts are black.")
    return tuple(notes)


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    try:
        with av.open(str(path)) as container:
            stream = container.streams.video[0]
            packets = sum(1 for packet in container.demux(stream) if packet.size)
            seconds = float(packets / (stream.average_rate or 1))
            found = (packets, seconds, stream.width, stream.height)
            container.seek(0)
            next(container.decode(stream))
    except (av.FFmpegError, IndexError, StopIteration) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    count = job.last - job.first
    expect(job, path, found, (count, count / job.composition.rate, *even(job.size)))
    return found


def _read(path: Path, index: int) -> np.ndarray | None:
    with av.open(str(path)) as container:
        for number, frame in enumerate(container.decode(video=0)):
            if number == index:
                rgb = frame.to_ndarray(format="rgb24")
                return np.dstack([rgb, np.full(rgb.shape[:2], 255, np.uint8)])
    return None


def _remark(width: int, height: int) -> str:
    odd = height % 2 or width % 2
    return "MP4 needs even sizes: one row or column more is written." if odd else ""


MP4 = Exporter("mp4", "MP4", ".mp4", "H.264: feeds, everywhere", SETTINGS, _write, _check,
               read=_read, remark=_remark, order=100)  # fmt: skip
register_exporter(MP4)
