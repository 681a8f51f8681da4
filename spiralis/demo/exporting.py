"""Write every study of the demo in the format it is made for, each looked at by Seam check first."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from attrs import frozen

from spiralis.core.checks.seam import Verdict, check
from spiralis.core.media.exporters import ExportJob, ExportResult, export, exporter
from spiralis.core.model import Composition, Project
from spiralis.core.model.pieces import whole_pieces

#: Kinds of file, sizes and settings of those studies that are no plain MP4, by the names of their files.
FORMATS: dict[str, tuple[str, float, dict[str, object]]] = {
    "button-pulse": ("gif", 0.5, {"colours": 128.0}),
    "squeeze-pair": ("gif", 0.5, {"colours": 32.0}),
    "storm-flicker": ("gif", 0.5, {"colours": 32.0}),
    "bulb-chase": ("gif", 0.5, {"colours": 64.0}),
    "badge-loops": ("webm", 1.0, {}),
}


@frozen
class Written:
    """One study: its piece, what Seam check says, and the file."""

    piece: Composition
    verdict: Verdict
    result: ExportResult


def write_studies(project: Project, folder: Path) -> Iterator[Written]:
    """Yield each study as it is written into a folder, which is made where it is not there; raises ExportError."""
    folder.mkdir(parents=True, exist_ok=True)
    for piece in whole_pieces(project):
        stem = "-".join(piece.name.lower().split())
        name, scale, settings = FORMATS.get(stem, ("mp4", 1.0, {}))
        kind = exporter(name)
        path = folder / f"{stem}{kind.suffix}"
        verdict = check(project, piece, full=True)
        yield Written(piece, verdict, export(kind, ExportJob(project, piece.id, path, *piece.span, scale, settings)))
