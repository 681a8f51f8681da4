"""WebM: VP9 with or without alpha, or AV1, 4:2:0, BT.709."""

from __future__ import annotations

from pathlib import Path

import numpy as np

from spiralis.core.media.encoding import Codec, threads
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.mp4 import CODECS as MP4_CODECS
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


def _vp9(setting: str) -> dict[str, str]:
    # Frames that are never shown cannot carry alpha, and the tiles of rows keep several threads busy.
    return {"crf": str(round(float(setting))), "b": "0", "deadline": "good", "cpu-used": "3", "row-mt": "1",
            "auto-alt-ref": "0", "threads": threads()}  # fmt: skip


CODECS = {
    "VP9": Codec("libvpx-vp9", "VP9", {(8, False): "yuv420p", (8, True): "yuva420p"}, (40, 30, 20), 56, 12, _vp9,
                 coarsest=63),
    "AV1": MP4_CODECS["AV1"],
}
SETTINGS = (
    codec_setting(CODECS),
    *quality_settings(),
    Parameter("alpha", "Transparency", Kind.SWITCH, True, "Keeps see-through parts, where the piece has some",
              needs=("codec", ("VP9",))),
    SOUND,
)  # fmt: skip


#: Without numbers drawn at random, which files of this kind carry otherwise.
_SAME = {"fflags": "+bitexact"}


def _values(job: ExportJob) -> dict[str, object]:
    values = {p.name: job.setting(WEBM, p.name) for p in SETTINGS}
    values["alpha"] = bool(values["alpha"]) and values["codec"] == "VP9" and job.see_through
    return values


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    values = _values(job)
    notes = write_video(job, path, "webm", CODECS[str(values["codec"])], values, _SAME)
    return (*notes, *notes_of(job, "WebM", True, bool(values["alpha"])))


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_video(job, path, True)


def _read(path: Path, index: int) -> np.ndarray | None:
    return read_video(path, index, {"vp9": "libvpx-vp9"})


WEBM = Exporter("webm", "WebM", ".webm", "VP9, AV1: pages, with alpha", SETTINGS, _write, _check, read=_read,
                remark=lambda width, height: even_remark("WebM", width, height), plays_once=True, sound=True,
                ladder=quality_ladder(), order=120,
                prepare=lambda job: prepared_video(job, "webm", SETTINGS))  # fmt: skip
register_exporter(WEBM)
