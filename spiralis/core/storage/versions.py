"""Earlier states of a project: whole project files in the XDG state folder, the last ten of each project."""

from __future__ import annotations

import hashlib
import json
import os
import shutil
import time
from pathlib import Path

from attrs import frozen
from platformdirs import user_state_path

from spiralis.core.model import Project
from spiralis.core.storage.project_file import SUFFIX, load, save

MOST = 10
#: After so many days a version goes, whatever else there is, in s.
_OLDEST = 90 * 86_400
#: All versions of one project together take no more than this, but for the newest one, in bytes.
_ROOM = 1 << 30
#: A version without its note goes when it is so old, in s.
_UNFINISHED = 3600


@frozen
class Version:
    """One kept state: its file, when it was kept (seconds since 1970), and why in a few words."""

    path: Path
    when: float
    why: str

    def load(self) -> Project:
        """Read it; raises ProjectFileError."""
        return load(self.path)


def folder_for(project_file: Path | None, project: Project) -> Path:
    """Return where the versions of a project lie: by its file, or by its pieces while it has none."""
    if project_file is not None:
        name = os.path.realpath(project_file)
    else:
        # A project without a file is told by its first piece, whose id is drawn at random when it is begun.
        name = f"unsaved {project.compositions[0].id if project.compositions else ''}"
    return versions_root() / hashlib.sha256(name.encode("utf-8", "surrogatepass")).hexdigest()[:24]


def versions_root() -> Path:
    """Return the folder that holds a folder of versions for each project."""
    return user_state_path("spiralis") / "versions"


def keep_version(project_file: Path | None, project: Project, why: str, seen: bytes | None) -> Version:
    """Keep a state of a project and drop what is too much; ``seen`` is a small PNG of it.

    Raises:
        ProjectFileError: it could not be written.
        OSError: the folder could not be made.
    """
    folder = folder_for(project_file, project)
    folder.mkdir(parents=True, exist_ok=True)
    if project_file is not None:
        _take_unsaved(folder_for(None, project), folder)
    now = time.time()
    path = folder / f"{time.time_ns():020d}{SUFFIX}"
    save(project, path, seen)
    path.with_suffix(".json").write_text(json.dumps({"when": now, "why": why}), encoding="utf-8")
    _prune(folder)
    return Version(path, now, why)


def _take_unsaved(unsaved: Path, folder: Path) -> None:
    """Bring along what was kept before the project had a file."""
    if unsaved.is_dir():
        for part in unsaved.iterdir():
            os.replace(part, folder / part.name)
        shutil.rmtree(unsaved, ignore_errors=True)


def versions(project_file: Path | None, project: Project) -> list[Version]:
    """Return what is kept of a project, the newest first."""
    return _versions_in(folder_for(project_file, project))


def _versions_in(folder: Path) -> list[Version]:
    found = []
    for path in sorted(folder.glob(f"*{SUFFIX}"), reverse=True):
        try:
            note = json.loads(path.with_suffix(".json").read_text(encoding="utf-8"))
            found.append(Version(path, float(note["when"]), str(note["why"])))
        except (OSError, ValueError, KeyError, TypeError):
            continue
    return found


def _prune(folder: Path) -> None:
    taken, now = 0, time.time()
    for place, version in enumerate(_versions_in(folder)):
        taken += version.path.stat().st_size
        if place and (place >= MOST or taken > _ROOM or now - version.when > _OLDEST):
            version.path.unlink(missing_ok=True)
            version.path.with_suffix(".json").unlink(missing_ok=True)
    for path in folder.glob(f"*{SUFFIX}"):
        # Whatever ended while it kept a version left one that nobody is shown.
        if not path.with_suffix(".json").exists() and now - path.stat().st_mtime > _UNFINISHED:
            path.unlink(missing_ok=True)

