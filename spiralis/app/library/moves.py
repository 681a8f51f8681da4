"""Moves that a person keeps."""

from __future__ import annotations

from spiralis.app.library.own_list import kept_as_rows
from spiralis.core.editing.kept_moves import as_row, from_row

#: A person's moves.
OWN_MOVES = kept_as_rows(
    "Moves", "spiralis-moves", "moves", ".moves.json", as_row, from_row, lambda kept: kept.name,
    "Motion > Keep the motion as a move… adds a layer's keys.",
)  # fmt: skip
