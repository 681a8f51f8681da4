"""The demo project from a copy in the cache folder, so that a start does not draw all the artwork again."""

from __future__ import annotations

import hashlib
from functools import cache
from pathlib import Path

from platformdirs import user_cache_path

from spiralis.core.errors import SpiralisError
from spiralis.core.model import Project
from spiralis.core.storage import load, save
from spiralis.core.storage.project_file import SUFFIX
from spiralis.demo.places import artwork_folder


@cache
def _digest() -> str:
    """Return what changes with the demo's code."""
    digest = hashlib.sha256()
    for path in sorted(Path(__file__).parent.rglob("*.py")):
        digest.update(path.read_bytes())
    return digest.hexdigest()[:16]


def stored_path() -> Path:
    """Return where the copy is kept; its name changes with the demo's code."""
    return user_cache_path("spiralis") / f"demo-{_digest()}{SUFFIX}"


def stored_demo() -> Project:
    """Return the demo project; it is drawn anew where its code has changed or the copy is gone."""
    path = stored_path()
    project = _stored(path)
    if project is None:
        from spiralis.demo.project import demo_project

        project = demo_project()
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            save(project, path)
        except (SpiralisError, OSError):
            pass  # Without a cache folder the demo still opens, only more slowly.
    _write_artwork()
    return project


def _stored(path: Path) -> Project | None:
    if not path.exists():
        return None
    try:
        return load(path)
    except SpiralisError:
        return None  # A damaged copy is drawn again.


def _write_artwork() -> None:
    """Put the layered files where the demo's compositions remember them."""
    if artwork_folder().is_dir() and any(artwork_folder().iterdir()):
        return
    # All that draws the demo comes along with it.
    from spiralis.demo.studies import write_artwork

    try:
        write_artwork(artwork_folder())
    except OSError:
        pass  # Without them the demo is whole all the same; only refreshing finds no file.
