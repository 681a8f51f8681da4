"""Where finished parts of long exports are kept, in the XDG cache folder, named after all that makes their bytes."""

from __future__ import annotations

import hashlib
import json
import time
from pathlib import Path

from platformdirs import user_cache_path

from spiralis import __version__
from spiralis.core.media.exporters import Exporter, ExportJob
from spiralis.core.media.placing import remove
from spiralis.core.storage.conversion import to_json
from spiralis.core.storage.excerpt import excerpt

#: Parts that nobody came back for are dropped after three days.
_OLD = 3 * 24 * 3600


def parts_root() -> Path:
    """Return the folder that holds a folder of parts for each export that was interrupted."""
    return user_cache_path("spiralis") / "exports"


def parts_for(kind: Exporter, job: ExportJob) -> Path:
    """Return the folder for a job's parts: the same for jobs whose files have the same bytes, whenever they run, and
    whatever else the project holds."""
    told = [
        __version__, kind.name, excerpt(to_json(job.project), job.composition_id), job.composition_id, job.first,
        job.last, job.scale, str(job.out_rate), {p.name: job.setting(kind, p.name) for p in kind.settings},
    ]  # fmt: skip
    text = json.dumps(told, sort_keys=True, separators=(",", ":"), default=str)
    return parts_root() / hashlib.sha256(text.encode()).hexdigest()[:32]


def sweep_parts() -> None:
    """Drop parts that are older than three days."""
    try:
        folders = [path for path in parts_root().iterdir() if time.time() - path.stat().st_mtime > _OLD]
    except OSError:
        return
    for folder in folders:
        remove(folder)
