"""Make the colour of words lighter or darker until they stand out enough; its hue stays."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.piece.case import PieceCase
from spiralis.core.checks.piece.clearness import clearness
from spiralis.core.colour import contrast_of, from_oklch, luminance, to_oklch
from spiralis.core.errors import ModelError
from spiralis.core.model import Project

#: A little more than enough: pictures are rounded.
_MORE = 1.06
_STEPS = 64


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    layer = piece.layer(cause.layer)
    case = PieceCase(project, piece)
    reader = next(r for r in case.readers if r.layer.id == layer.id and not r.way)
    frame = cause.frames[0] if cause.frames else piece.span[0]
    found = clearness(project, piece, reader, next(seen for seen in reader.seen if seen.frame == frame))
    if found is None:
        raise ModelError(f"“{layer.name}” is covered at frame {frame}, so its contrast cannot be measured there.")
    colour = layer.track("fill").value
    lightness, chroma, hue = to_oklch(colour)
    tried = sorted((step / _STEPS for step in range(_STEPS + 1)), key=lambda light: abs(light - lightness))
    for light in tried:
        new = from_oklch(light, chroma, hue, colour[3])
        if contrast_of(luminance(new), found.around) >= found.enough * _MORE:
            return project.with_composition(piece.with_layer(layer.with_values(fill=new)))
    raise ModelError(f"No lightness of its colour makes “{layer.name}” clear on this ground; change what is behind it.")


register_mend(Mend("clearer-fill", "Lighter or darker", "Its fill keeps its hue and stands out enough", _apply))
