"""MP4: H.264, H.265 or AV1, 4:2:0, BT.709, the index at the front so that a feed or a page can start it at once."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.media.encoding import Codec, threads
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.video import (
    SOUND,
    check_video,
    codec_setting,
    even_remark,
    notes_of,
    prepared_video,
    quality_ladder,
    quality_settings,
    read_video,
    write_video,
)
from spiralis.core.model import Kind, Parameter

_FORMATS = {(8, False): "yuv420p", (10, False): "yuv420p10le"}


# Without the encoder's tree of what later frames use: it depends on memory that was never written, and files of one
# piece would come to differ by some bytes. Full trellis and less keeping of grain, which drawn pictures have none of,
# win most of the size back.
_X264 = "mbtree=0:trellis=2:psy-rd=0.4,0"
# One frame at a time, so that files of one piece are alike whatever the machine does meanwhile.
_X265 = "log-level=error:frame-threads=1:cutree=0"


def _x264(setting: str) -> dict[str, str]:
    return {"preset": "medium", "crf": setting, "threads": threads(), "x264-params": _X264}


def _x264_rated(stats: Path, number: int) -> dict[str, str]:
    return {"preset": "medium", "threads": threads(), "x264-params": _X264 + _pass(stats, number)}


def _x265(setting: str) -> dict[str, str]:
    return {"preset": "medium", "crf": setting, "x265-params": _X265}


def _x265_rated(stats: Path, number: int) -> dict[str, str]:
    return {"preset": "medium", "x265-params": _X265 + _pass(stats, number)}


def _pass(stats: Path, number: int) -> str:
    return f":pass={number}:stats={stats}" if number else ""


def _av1(setting: str) -> dict[str, str]:
    return {"preset": "8", "crf": str(round(float(setting))), "svtav1-params": "lp=1"}


CODECS = {
    "H.264": Codec("libx264", "H.264", _FORMATS, (27, 21, 16), 38, 12, _x264, "", _x264_rated, two_passes=True),
    "H.265": Codec("libx265", "H.265", _FORMATS, (30, 24, 19), 40, 14, _x265, "hvc1", _x265_rated, two_passes=True),
    "AV1": Codec("libsvtav1", "AV1", _FORMATS, (42, 32, 24), 58, 18, _av1, coarsest=63),
}
SETTINGS = (
    codec_setting(CODECS),
    *quality_settings(),
    Parameter("bits", "Depth", Kind.CHOICE, "8", "Bits a sample: 10 keep soft gradients, and fewer programs play them",
              choices=("8", "10")),
    SOUND,
)  # fmt: skip
_INDEX_FIRST = {"movflags": "+faststart"}


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    values = {p.name: job.setting(MP4, p.name) for p in SETTINGS}
    notes = write_video(job, path, "mp4", CODECS[values["codec"]], values, _INDEX_FIRST)
    return (*notes, *notes_of(job, "MP4", True, False))


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_video(job, path, True)


MP4 = Exporter("mp4", "MP4", ".mp4", "H.264, H.265, AV1: feeds, everywhere", SETTINGS, _write, _check, read=read_video,
               remark=lambda width, height: even_remark("MP4", width, height), plays_once=True, sound=True,
               alpha=False, ladder=quality_ladder(), order=100,
               prepare=lambda job: prepared_video(job, "mp4", SETTINGS))  # fmt: skip
register_exporter(MP4)
