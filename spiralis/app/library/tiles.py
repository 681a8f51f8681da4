"""Eases that a person keeps."""

from __future__ import annotations

from spiralis.app.library.own_list import kept_as_rows
from spiralis.core.animation.ease_tiles import EaseTile
from spiralis.core.animation.easing import Easing

SUFFIX = ".eases.json"


def own_tile(name: str, easing: Easing) -> EaseTile:
    """Return an ease as a person's own tile."""
    return EaseTile(f"own-{name}", name[:24], easing, f"Your own: {easing.css()}")


#: A person's tiles.
OWN_TILES = kept_as_rows(
    "Eases", "spiralis-eases", "eases", SUFFIX,
    lambda tile: {"name": tile.label, "css": tile.easing.css()},
    lambda row: own_tile(str(row["name"]), Easing.from_css(str(row["css"]))),
    lambda tile: tile.label, "The ⋮ above the tiles in Pace adds the present ease.",
)  # fmt: skip
