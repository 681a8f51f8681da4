"""MOV: ProRes 4444 with alpha, 10 bits, for further work in other programs."""

from __future__ import annotations

from pathlib import Path

from spiralis.core.media.encoding import Codec
from spiralis.core.media.exporters.base import Exporter, ExportJob, register_exporter
from spiralis.core.media.exporters.video import SOUND, check_video, prepared_video, read_video, write_video


def _prores(setting: str) -> dict[str, str]:
    return {"profile": "4444", "alpha_bits": "16"}


PRORES = Codec("prores_ks", "ProRes 4444", {(10, True): "yuva444p10le"}, (0, 0, 0), 0, 0, _prores)


def _write(job: ExportJob, path: Path) -> tuple[str, ...]:
    values = {"bits": 10, "alpha": True, "sound": job.setting(MOV, "sound")}
    return write_video(job, path, "mov", PRORES, values, {"movflags": "+faststart"})


def _check(job: ExportJob, path: Path) -> tuple[int, float, int, int]:
    return check_video(job, path, False)


MOV = Exporter("mov", "MOV", ".mov", "ProRes 4444: for further work, with alpha", (SOUND,), _write, _check,
               read=read_video, prepare=lambda job: prepared_video(job, "mov", (SOUND,)), plays_once=True, sound=True,
               order=140)  # fmt: skip
register_exporter(MOV)
