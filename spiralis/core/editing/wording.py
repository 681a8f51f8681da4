"""Edits of words: along a path, other fonts, installed fonts taken into the project."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from pathlib import Path
from unicodedata import category

from attrs import evolve

from spiralis.core.editing.text_runs import for_words
from spiralis.core.errors import ModelError
from spiralis.core.geometry import Affine
from spiralis.core.media.sources import read_source
from spiralis.core.model import Layer, Project, Track
from spiralis.core.model.art import EMPTY_ART, Bundle, Figure
from spiralis.core.render.layers import Evaluated, content_box, layer_values
from spiralis.core.render.live_paths import first_outline

#: What text layers are called while they have no words, and of how many letters else at most.
_UNNAMED, _NAME = "Text", 32


def plain_words(text: str) -> str:
    """Return text from elsewhere as words can hold it: without control signs, cells of a table parted by a space."""
    lines = text.replace("\t", " ").splitlines()
    ended = [""] if text.endswith(("\n", "\r")) else []
    return "\n".join("".join(sign for sign in line if category(sign) != "Cc") for line in [*lines, *ended])


def named_by_words(words: str) -> str:
    """Return what a text layer that nobody has named is called."""
    return " ".join(words.split())[:_NAME].strip() or _UNNAMED


def is_named_by_words(layer: Layer) -> bool:
    """Whether nobody has named a text layer otherwise than its words do, or than a copy of it is named."""
    names = (_UNNAMED, named_by_words(layer.track("text").value))
    return layer.name in names or re.sub(r" \d+$", "", layer.name) in names


def with_words(layer: Layer, words: str) -> Layer:
    """Return the text layer with other words all along: letters with a look of their own look so still, and what
    nobody has named otherwise is called by them."""
    old = layer.track("text")
    made = layer.with_track("text", evolve(old, value=words))
    if layer.track("runs").value:
        made = made.with_values(runs=for_words(layer.track("runs").value, old.value, words))
    return evolve(made, name=named_by_words(words)) if is_named_by_words(layer) and words != old.value else made


def along_layer(at: Evaluated, words: Layer, shape: Layer) -> Layer:
    """Return the text layer with its words running along a shape's first outline, wherever that is from now on.

    Raises:
        ModelError: the shape has no outline to run along.
    """
    if first_outline(at, shape) is None:
        raise ModelError(f"“{shape.name}” has no outline that words could run along.")
    middle = (at.scene.width / 2, at.scene.height / 2)
    plain = {"scale": (100.0, 100.0), "rotation": 0.0, "skew": (0.0, 0.0), "pivot": (50.0, 50.0), "path": EMPTY_ART}
    return words.with_values(path_layer=shape.id, flow="lines", arc=0.0, **plain).with_track("position", Track(middle))


def along_path(at: Evaluated, words: Layer, shape: Layer) -> Layer:
    """Return the text layer with its words running along a shape's first outline as it is seen now.

    Raises:
        ModelError: the shape has no outline to run along.
    """
    contour = first_outline(at, shape)
    if contour is None:
        raise ModelError(f"“{shape.name}” has no outline that words could run along.")
    inverse = at.parent_matrix(words).inverse() or Affine()
    path = Bundle((Figure((contour.mapped(inverse).rounded(),)),))
    plain = {"scale": (100.0, 100.0), "rotation": 0.0, "skew": (0.0, 0.0), "pivot": (50.0, 50.0)}
    placed = words.with_values(path=path, path_layer="", flow="lines", arc=0.0, **plain)
    box = content_box(placed, layer_values(placed, at.frame), at.scene)
    track = Track(((box[0] + box[2]) / 2, (box[1] + box[3]) / 2))
    return placed.with_track("position", track)


def off_path(words: Layer) -> Layer:
    """Return the text layer with its words on straight lines again."""
    return words.with_values(path=EMPTY_ART, path_layer="")


def _fonts_mapped(project: Project, rename: Callable[[str], str]) -> Project:
    def track_of(name: str, track: Track) -> Track:
        def change(value: object) -> object:
            if isinstance(value, str):
                return rename(value)
            return tuple((*run[:2], rename(run[2]) if run[2] else "", *run[3:]) for run in value)  # type: ignore[attr-defined]

        return evolve(
            track, value=change(track.value), keys=tuple(evolve(k, value=change(k.value)) for k in track.keys)
        )

    for composition in project.compositions:
        layers = []
        for layer in composition.layers:
            names = [name for name in ("font", "runs") if name in layer.properties]
            changed = {name: track_of(name, layer.properties[name]) for name in names}
            same = all(changed[name] == layer.properties[name] for name in names)
            layers.append(layer if same else evolve(layer, properties={**layer.properties, **changed}))
        if any(new is not old for new, old in zip(layers, composition.layers, strict=True)):
            project = project.with_composition(evolve(composition, layers=tuple(layers)))
    return project


def with_font_replaced(project: Project, old: str, new: str) -> Project:
    """Return the project where words set in one family are set in another."""
    return _fonts_mapped(project, lambda family: new if family == old else family)


def with_font_files(project: Project, paths: Sequence[Path]) -> Project:
    """Return the project with font files taken along; those that it has already are not doubled.

    Raises:
        FileError, FontError: a file cannot be read, or is no font.
    """
    for path in paths:
        project, _ = project.with_source(read_source(path))
    return project
