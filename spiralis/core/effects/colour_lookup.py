"""Colour lookup: colours by the table of a ``.cube`` file."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from spiralis.core.cache import CacheSection
from spiralis.core.compositing.kernels import curves
from spiralis.core.effects.job import EffectJob, nothing_around
from spiralis.core.effects.tables import mixed, through_curves
from spiralis.core.errors import FileError
from spiralis.core.media.lookups import Lookup, read_lookup
from spiralis.core.model.blocks import EFFECT, EffectKind, register_effect
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.model.source import Source
from spiralis.core.raster.raster import Raster

PARAMETERS = (
    Parameter("lookup", "Table", Kind.SOURCE, "", "The file with the table: bring a .cube file in to have it here",
              choices=("lookup",), steady=True),
    Parameter("amount", "Amount", Kind.NUMBER, 100.0, "How much of the own colours goes", "%", 0, 100),
)  # fmt: skip

#: Tables by the digest of their file; None where it cannot be read.
_LOOKUPS: CacheSection[Lookup | None] = CacheSection(lambda found: 128 + (found.table.nbytes if found else 0))


def lookup_of(source: Source | None) -> Lookup | None:
    """Return the table of a source, or None where it is missing or damaged."""
    if source is None or source.data is None:
        return None
    data, name = source.data, source.name

    def read() -> Lookup | None:
        try:
            return read_lookup(data, name)
        except FileError:
            return None

    return _LOOKUPS.get(source.digest, read)


def _run(job: EffectJob) -> Raster:
    found = lookup_of(job.files.get("lookup"))
    if found is None:
        return job.source
    share = job.values["amount"] / 100
    if found.table.ndim == 2:
        places = [np.linspace(low, high, len(found.table)) for low, high in zip(found.low, found.high, strict=True)]
        return mixed(job, through_curves(job, *(
            lambda colour, c=c: np.interp(colour, places[c], found.table[:, c]) for c in range(3)
        )), share)  # fmt: skip
    pixels = np.ascontiguousarray(job.source.as_float)
    out = np.empty_like(pixels)
    low, high = (np.array(ends, dtype=np.float32) for ends in (found.low, found.high))
    edge = len(found.table)
    curves.lookup_pixels(
        pixels.reshape(-1), found.table.reshape(-1), edge, low, np.float32(edge - 1) / (high - low), out.reshape(-1)
    )
    return mixed(job, Raster(out, job.source.space, job.source.corner), share)


def _neutral(values: Mapping[str, Value]) -> bool:
    return not values["lookup"] or values["amount"] == 0


register_effect(
    EffectKind(
        "colour-lookup", "Colour lookup", "Colours by the table of a .cube file", "Colour", EFFECT, PARAMETERS, _run,
        nothing_around, nothing_around, neutral=_neutral,
    )
)  # fmt: skip
