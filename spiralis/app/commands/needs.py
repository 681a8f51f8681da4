"""What commands need before they can do anything, and the sentence that says so."""

from __future__ import annotations

from collections.abc import Callable

from spiralis.app.commands.context import Context
from spiralis.app.commands.heard import heard_layer
from spiralis.core.model import Layer

#: By the name that a command gives: whether it is there, and what to do where it is not.
NEEDS: dict[str, tuple[Callable[[Context], bool], str]] = {
    "layer": (lambda c: bool(c.session.layers), "Choose a layer first."),
    "layers": (lambda c: len(c.session.layers) > 1, "Choose two layers or more first."),
    "three layers": (lambda c: len(c.session.layers) > 2, "Choose three layers or more first."),
    "keys": (lambda c: bool(c.session.keys), "Choose keys in the timeline first."),
    "animated": (lambda c: _any(c, lambda layer: bool(layer.animated())), "Choose a layer that has keys first."),
    "group": (lambda c: _any(c, lambda layer: layer.gathers), "Choose a group first."),
    "nest": (lambda c: _any(c, lambda layer: layer.has("composition")), "Choose a nested composition first."),
    "words": (lambda c: _any(c, lambda layer: layer.has("text")), "Choose a text layer first."),
    "shape": (lambda c: _any(c, lambda layer: layer.has("form")), "Choose a shape first."),
    "inside": (lambda c: bool(c.session.trail), "Go into a nested composition first; there is nothing above this one."),
    "artwork": (
        lambda c: c.session.composition.artwork is not None, "This piece was not laid out from a layered file.",
    ),
    "heard": (lambda c: heard_layer(c.session) is not None, "Choose a sound, or a clip that has one, first."),
    "markers": (lambda c: bool(c.session.composition.markers), "Set a marker first."),
    "depth": (lambda c: c.session.composition.has_depth, "Switch In depth on for a layer first."),
    "guides": (lambda c: bool(c.session.composition.guides), "There are no guides; drag one out of a ruler."),
}  # fmt: skip


def _any(context: Context, fits: Callable[[Layer], bool]) -> bool:
    return any(fits(layer) for layer in context.session.layers)


def missing(needs: str, context: Context) -> str:
    """Return the sentence that says what is missing, or nothing where all is there."""
    if not needs:
        return ""
    there, sentence = NEEDS[needs]
    return "" if there(context) else sentence
