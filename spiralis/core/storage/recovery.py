"""Copies of unsaved work in the XDG state folder, offered at the next start after a crash."""

from __future__ import annotations

import json
import os
import secrets
from contextlib import suppress
from pathlib import Path

from attrs import field, frozen
from platformdirs import user_state_path

from spiralis.core.errors import ProjectFileError
from spiralis.core.media.placing import alive
from spiralis.core.model import Project
from spiralis.core.storage.project_file import SUFFIX, load, save


def recovery_folder() -> Path:
    """Return the folder of the copies; it is made with the first of them."""
    return user_state_path("spiralis") / "recovery"


@frozen
class Journal:
    """One window's copy of its unsaved work."""

    path: Path = field(factory=lambda: recovery_folder() / f"{os.getpid()}-{secrets.token_hex(4)}{SUFFIX}")

    @property
    def note(self) -> Path:
        """The small file that says whose work the copy is."""
        return self.path.with_suffix(".json")

    def write(self, project: Project, original: Path | None) -> None:
        """Replace the copy.

        Raises:
            OSError, SpiralisError: it cannot be written.
        """
        self.path.parent.mkdir(parents=True, exist_ok=True)
        # Nobody looks at a copy before it is opened: it needs no picture.
        save(project, self.path, b"")
        process = os.getpid()
        note = {"process": process, "stamp": stamp_of(process), "original": str(original) if original else None,
                "name": project.name}  # fmt: skip
        # Whole or not at all: a copy without a readable note would not be offered.
        unfinished = self.note.with_suffix(".part")
        unfinished.write_text(json.dumps(note), encoding="utf-8")
        os.replace(unfinished, self.note)

    def discard(self) -> None:
        """Remove the copy, if there is one: the work is saved, or not wanted."""
        for path in (self.path, self.note):
            with suppress(OSError):  # Where none could be written there is none.
                path.unlink()


@frozen
class Recovered:
    """A copy that a dead process left."""

    journal: Journal
    name: str
    original: Path | None

    @property
    def written(self) -> float:
        """When it was written, in seconds since 1970; 0 where it is gone."""
        try:
            return self.journal.path.stat().st_mtime
        except OSError:
            return 0.0

    def load(self) -> Project:
        """Read the work; raises ProjectFileError."""
        return load(self.journal.path)


def left_behind() -> list[Recovered]:
    """Return the copies whose process is gone, newest first."""
    found = []
    for path in sorted(recovery_folder().glob(f"*{SUFFIX}"), key=lambda p: p.stat().st_mtime, reverse=True):
        journal = Journal(path)
        try:
            note = json.loads(journal.note.read_text(encoding="utf-8"))
            process, original, stamp = int(note["process"]), note["original"], str(note.get("stamp", ""))
        except (OSError, ValueError, KeyError, TypeError):
            continue
        if not _runs_yet(process, stamp):
            found.append(Recovered(journal, str(note.get("name", "Untitled")), Path(original) if original else None))
    return found


def _runs_yet(process: int, stamp: str) -> bool:
    """Return whether the very process that wrote a copy runs: its number may have been taken by another since."""
    return alive(process) and (not stamp or not stamp_of(process) or stamp == stamp_of(process))


def stamp_of(process: int) -> str:
    """Return what tells a process from all others that ever had its number; empty where the system does not say.

    It is this start of the machine and the moment in it at which the process began (proc(5), field 22 of ``stat``).
    """
    try:
        boot = Path("/proc/sys/kernel/random/boot_id").read_text(encoding="ascii").strip()
        # The name in brackets may hold anything, further brackets too.
        fields = Path(f"/proc/{process}/stat").read_text(encoding="utf-8", errors="replace").rpartition(")")[2].split()
        return f"{boot} {fields[19]}"
    except (OSError, IndexError, ValueError):
        return ""


__all__ = ["Journal", "ProjectFileError", "Recovered", "left_behind", "recovery_folder"]
