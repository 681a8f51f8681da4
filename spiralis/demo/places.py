"""Where the demo keeps files."""

from __future__ import annotations

from pathlib import Path

from platformdirs import user_cache_path


def artwork_folder() -> Path:
    """Return where the demo's layered files are put, so that they can be changed and refreshed."""
    return user_cache_path("spiralis") / "demo-artwork"
