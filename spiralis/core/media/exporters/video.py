"""What all kinds of video files share: their settings, writing, reading back."""

from __future__ import annotations

import time
from collections.abc import Callable, Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import Any

import av
import numpy as np
from attrs import evolve

from spiralis.core.errors import ExportError
from spiralis.core.media.encoding import BY_NUMBER, BY_SIZE, WORDS, Codec, Planes, encode, even, joined, planes_of
from spiralis.core.media.exporters.base import ExportJob, Part, Step, expect
from spiralis.core.media.exporters.limited import rated, write_under
from spiralis.core.media.placing import hidden_beside, put_file, remove
from spiralis.core.model import Kind, Parameter
from spiralis.core.render.frame import render_frame, render_yuv420
from spiralis.core.sound.mixing import mixed, sounds
from spiralis.core.sound.reading import RATE
from spiralis.core.sound.writing import SoundTrack

#: Frames of a run from which on it is packed in parts, and of a part: what an interruption costs at most.
LONG, PART = 500, 250


#: What is louder than this is heard to be cut off.
_LOUDEST = 1.02
_TOO_LOUD = "Its sound is louder in places than a file can hold, and cut off there; turn down the volume of its layers."
#: Whether what is heard is written along.
SOUND = Parameter("sound", "Sound", Kind.SWITCH, True, "Writes what is heard of the piece along with its pictures")


def quality_settings() -> tuple[Parameter, ...]:
    """Return the settings for how good the picture is."""
    return (
        Parameter("quality", "Quality", Kind.CHOICE, "good",
                  "Small files, good ones, the best picture, by a number, or by how large the file may get",
                  choices=WORDS),
        Parameter("number", "Number", Kind.NUMBER, 60.0, "0 is the smallest file, 100 the best picture", "", 0, 100,
                  needs=("quality", (BY_NUMBER,))),
        Parameter("megabytes", "File under", Kind.NUMBER, 2.0,
                  "How large the file may get; it is packed twice to spend that where it is needed", "MB", 0.01, 10_000,
                  0.1, needs=("quality", (BY_SIZE,))),
    )  # fmt: skip


def quality_ladder() -> tuple[Step, ...]:
    """Return ways to write a video, by quality and then by size as well."""
    steps = [Step(f"quality {n}", {"quality": BY_NUMBER, "number": float(n)}) for n in range(95, 24, -10)]
    for scale, numbers in ((0.75, (45, 30)), (0.5, (45, 25, 10)), (0.35, (25, 5))):
        words = f"{scale:.0%} of the size".replace("%", " %")
        steps += [
            Step(f"quality {n}, {words}", {"quality": BY_NUMBER, "number": float(n)}, scale) for n in numbers
        ]
    return tuple(steps)


def codec_setting(codecs: Mapping[str, Codec]) -> Parameter:
    """Return the setting that chooses among codecs, the first of them usual."""
    return Parameter("codec", "Codec", Kind.CHOICE, next(iter(codecs)), "How frames are packed", choices=tuple(codecs))


def write_video(
    job: ExportJob, path: Path, container: str, codec: Codec, values: Mapping[str, object],
    options: Mapping[str, str] | None = None,
) -> tuple[str, ...]:  # fmt: skip
    """Encode a job's frames, and what is heard with them; return sentences on what differs from it."""
    track = track_of(job, container, values, options)
    if track is not None and values.get("quality") == BY_SIZE:
        values = {**values, "megabytes": float(str(values["megabytes"])) - track.bytes / 1e6}
    _write_pictures(job, path, container, codec, values, options)
    if track is None:
        return ()
    track.put_beside(path)
    return (_TOO_LOUD,) if float(np.abs(track.samples).max(initial=0.0)) > _LOUDEST else ()


def track_of(
    job: ExportJob, container: str, values: Mapping[str, object], options: Mapping[str, str] | None = None
) -> SoundTrack | None:
    """Return what is heard of a job, or None for nothing; samples of a file are looked at without it."""
    if not values.get("sound", True) or "following" in job.given or not sounds(job.project, job.composition):
        return None
    count = round(len(job.times) / job.out_rate * RATE)
    samples = mixed(job.project, job.composition, job.first, job.last)[:count]
    return SoundTrack(np.pad(samples, ((0, count - len(samples)), (0, 0))), job.repeat, container, dict(options or {}))


def prepared_video(job: ExportJob, container: str, settings: Sequence[Parameter]) -> ExportJob:
    """Return a job that knows what few frames of it cannot tell: how many bytes its sound takes, and by which bit rate
    it stays as small as it is to be."""
    values = {parameter.name: job.settings.get(parameter.name, parameter.default) for parameter in settings}
    track = track_of(job, container, values)
    if track is not None:
        job = evolve(job, given={**job.given, "beside": track.bytes})
    return rated(job, values)


def _write_pictures(
    job: ExportJob, path: Path, container: str, codec: Codec, values: Mapping[str, object],
    options: Mapping[str, str] | None,
) -> None:  # fmt: skip
    """Encode a job's frames; what plays several times is packed once and then repeated."""
    bits, alpha = int(str(values.get("bits", 8))), bool(values.get("alpha", False))
    pixel_format = codec.formats[bits, alpha]
    halved = "420" in pixel_format
    size = even(job.size) if halved else job.size
    render = partial(frame_planes, bits=bits, halved=halved, alpha=alpha)
    packs = partial(encode, container=container, codec=codec, pixel_format=pixel_format, size=size, rate=job.out_rate,
                    options=options)  # fmt: skip
    if values.get("quality") == BY_SIZE:
        write_under(job, path, codec, float(str(values["megabytes"])), render, packs,
                    lambda parts: joined(parts, path, container, options))  # fmt: skip
        return
    quality = codec.setting(str(values["quality"]), float(str(values["number"]))) if "quality" in values else ""
    packs = partial(packs, tuned=codec.options(quality))
    if len(job.times) <= LONG and job.repeat == 1:
        packs(path, frames=job.frames(render))
        return
    kept = job.parts() if len(job.times) > LONG else None
    folder = kept or path.with_name(f"{path.name}.parts")
    try:
        parts = _written_parts(job, folder, path.suffix, render, packs)
        joined(parts * job.repeat, path, container, options)
    except BaseException:
        # What can be gone on from stays; all else goes.
        if kept is None:
            remove(folder)
        raise
    remove(folder)


def _written_parts(
    job: ExportJob, folder: Path, suffix: str, render: Callable[[ExportJob, float], Planes], packs: Callable[..., None]
) -> list[Path]:
    """Pack a run in parts and return them; those that an interrupted run left in the folder are taken as they are."""
    folder.mkdir(parents=True, exist_ok=True)
    size = PART if len(job.times) > LONG else len(job.times)
    firsts = range(0, len(job.times), size)
    paths = [folder / f"{first:06d}{suffix}" for first in firsts]
    before = sum(min(size, len(job.times) - first) for first, path in zip(firsts, paths, strict=True) if path.exists())
    since = time.perf_counter()
    for first, path in zip(firsts, paths, strict=True):
        if not path.exists():
            unfinished = hidden_beside(path)
            part = Part(first, len(job.times), before, since)
            packs(unfinished, frames=job.frames(render, job.times[first : first + size], part))
            put_file(unfinished, path)
    return paths


def frame_planes(job: ExportJob, moment: float, bits: int, halved: bool, alpha: bool) -> Planes:
    """Return the planes of one of a job's frames."""
    if halved and bits == 8 and not alpha:
        return render_yuv420(job.project, job.composition_id, moment, job.scale)
    return planes_of(render_frame(job.project, job.composition_id, moment, job.scale), bits, halved, alpha)


def notes_of(job: ExportJob, label: str, halved: bool, alpha: bool) -> tuple[str, ...]:
    """Return sentences on what a video file changes: odd sizes, see-through parts."""
    notes = []
    size = job.size
    if halved and even(size) != size:
        notes.append(
            f"{label} needs even sizes, so {size[0]} × {size[1]} became {even(size)[0]} × {even(size)[1]}: "
            "its last row or column appears twice."
        )
    middle = render_frame(job.project, job.composition_id, (job.first + job.last) // 2, 0.1)
    if not alpha and float(middle[..., 3].min()) < 0.999:
        notes.append(f"{label} keeps no transparency, so see-through parts are black.")
    return tuple(notes)


def check_video(job: ExportJob, path: Path, halved: bool) -> tuple[int, float, int, int]:
    """Read a video file back; raises ExportError where it is not what was asked for."""
    try:
        with av.open(str(path)) as container:
            stream = container.streams.video[0]
            packets = sum(1 for packet in container.demux(stream) if packet.size)
            seconds = float(packets / (stream.average_rate or stream.guessed_rate or 1))
            found = (packets, seconds, stream.width, stream.height)
            container.seek(0)
            next(container.decode(stream))
    except (av.FFmpegError, IndexError, StopIteration) as error:
        raise ExportError(
            f"“{job.path.name}” was not written completely; check for free space on the disk and try again."
        ) from error
    size = even(job.size) if halved else job.size
    expect(job, path, found, (len(job.times) * job.repeat, job.seconds, *size))
    return found


def read_video(path: Path, index: int, decoders: Mapping[str, str] | None = None) -> np.ndarray | None:
    """Return a frame of a video file as straight uint8 (h, w, 4); ``decoders`` are those that know alpha, by codec."""
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        decoder = (decoders or {}).get(stream.codec_context.codec.canonical_name)
        if decoder is None:
            frames = container.decode(stream)
        else:
            context: Any = av.CodecContext.create(decoder, "r")
            context.extradata = stream.codec_context.extradata
            frames = (frame for packet in container.demux(stream) for frame in context.decode(packet))
        for number, frame in enumerate(frames):
            if number == index:
                return frame.to_ndarray(format="rgba")
    return None


def even_remark(label: str, width: int, height: int) -> str:
    """Return a sentence on odd sizes, or nothing."""
    return f"{label} needs even sizes: one row or column more is written." if height % 2 or width % 2 else ""
