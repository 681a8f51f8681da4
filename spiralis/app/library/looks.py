"""Look sets that a person keeps."""

from __future__ import annotations

from spiralis.app.library.own_list import OwnList
from spiralis.core.editing.look_sets import LookSet
from spiralis.core.storage.look_file import SUFFIX, read_looks, write_looks

#: A person's look sets.
OWN: OwnList[LookSet] = OwnList(
    "Look sets", SUFFIX, read_looks, write_looks, lambda look: look.name,
    "Layer > Effects and finishes…, there Look sets, adds a layer's effects.",
)  # fmt: skip
