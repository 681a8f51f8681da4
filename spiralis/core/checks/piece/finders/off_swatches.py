"""Colours that are none of the project's swatches."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.piece.case import PieceCase, PieceFinder, register_piece_finder
from spiralis.core.colour import Colour, srgb_to_oklab, to_hex
from spiralis.core.model import Kind, Layer
from spiralis.core.model.kinds import layer_kind

#: Two colours are the same to the eye where they lie no farther apart in OKLab.
_SAME = 0.02


def nearest_swatch(colour: Colour, swatches: tuple[Colour, ...]) -> tuple[Colour, float]:
    """Return the swatch most like a colour, with the colour's own opacity, and how far it is away in OKLab."""
    lab = srgb_to_oklab(np.array([swatch[:3] for swatch in swatches])) - srgb_to_oklab(np.array(colour[:3]))
    away = np.linalg.norm(lab, axis=1)
    index = int(away.argmin())
    return (*swatches[index][:3], colour[3]), float(away[index])


def colours_of(layer: Layer) -> Iterator[tuple[str, Colour]]:
    """Yield the colours that a layer's own content is set to, by property: at rest, or at each key."""
    for parameter in layer_kind(layer.kind).own_parameters:
        track = layer.properties.get(parameter.name)
        if parameter.kind is not Kind.COLOUR or track is None:
            continue
        for value in [key.value for key in track.keys] or [track.value]:
            yield parameter.name, value


def _find(case: PieceCase) -> Iterator[Cause]:
    swatches = case.project.swatches
    for layer in case.seam.layers if swatches else ():
        for name, colour in colours_of(layer):
            swatch, away = nearest_swatch(colour, swatches)
            if away <= _SAME or colour[3] <= 0:
                continue
            yield Cause(
                "off-swatches", NOTE, case.piece.id, layer.id, name, away, "",
                f"{layer.name}: {layer.parameter(name).label.lower()} {to_hex(colour)} is no swatch of the project; "
                f"{to_hex(swatch)} is the nearest.", ("nearest-swatch",),
            )  # fmt: skip
            break


register_piece_finder(PieceFinder("off-swatches", "Colours outside the swatches", _find, order=700))
