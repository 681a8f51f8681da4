"""What the effects chooser offers: effects, finishes and look sets, in sections."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from attrs import frozen

from spiralis.app.library.looks import OWN
from spiralis.app.widgets.preferences import store, stored
from spiralis.core.editing.effecting import with_effect
from spiralis.core.editing.look_sets import LookSet, with_look
from spiralis.core.looks import shipped_looks
from spiralis.core.model import Layer
from spiralis.core.model.blocks import EFFECT, FINISH, PURPOSES, effect_kind, effect_kinds

LOOKS, OWN_LOOKS, FAVOURITES, FINISHES = "Look sets", "Your look sets", "Favourites", "Finishes"
_PREFERENCE = "favourite-effects"


@frozen
class Offer:
    """One tile: ``key`` tells it apart, ``change`` gives a layer with it, ``words`` are what a search looks in."""

    key: str
    label: str
    help: str
    words: str
    change: Callable[[Layer], Layer]
    #: Whether it is a look set of the person's own.
    own: bool = False


Section = tuple[str, tuple[Offer, ...]]


def sections(role: str, effects_only: bool) -> list[Section]:
    """Return the sections in their order: favourites, then by purpose, then look sets.

    Args:
        role: finishes come first where it is that role.
        effects_only: whether only what an effect layer can have is offered.
    """
    purposes = [p for p in PURPOSES if p != "Finish"]
    found = [(FINISHES if p == "Finish" else p, _of_purpose(p, effects_only)) for p in
             (["Finish", *purposes] if role == FINISH else [*purposes, "Finish"])]  # fmt: skip
    for title, looks in ((OWN_LOOKS, OWN.all()), (LOOKS, shipped_looks())):
        found.append((title, tuple(_of_look(look, title) for look in looks if look.only_effects or not effects_only)))
    every = {offer.key: offer for _, offers in found for offer in offers}
    chosen = tuple(every[key] for key in favourites() if key in every)
    return [(title, offers) for title, offers in [(FAVOURITES, chosen), *found] if offers]


def _of_purpose(purpose: str, effects_only: bool) -> tuple[Offer, ...]:
    return tuple(
        Offer(kind.name, kind.label, kind.help, f"{kind.label} {kind.help} {purpose} {kind.role}".lower(),
              lambda layer, name=kind.name: with_effect(layer, name))
        for kind in effect_kinds()
        if kind.purpose == purpose and (kind.role == EFFECT or not effects_only)
    )  # fmt: skip


def _of_look(look: LookSet, section: str) -> Offer:
    parts = ", ".join(block.name or effect_kind(block.kind).label for block in look.carrier.blocks)
    help = f"{look.help}: {parts}" if look.help else parts
    own = section == OWN_LOOKS
    return Offer(f"{'own look' if own else 'look'}: {look.name}", look.name, help,
                 f"{look.name} {help} {section}".lower(), lambda layer: with_look(layer, look), own)  # fmt: skip


def favourites() -> tuple[str, ...]:
    """Return the keys of a person's favourites, in the order in which they became such."""
    found = stored().get(_PREFERENCE)
    return tuple(key for key in found if isinstance(key, str)) if isinstance(found, list) else ()


def set_favourite(key: str, on: bool) -> Sequence[str]:
    """Make something a favourite or not; return all. Raises OSError."""
    kept = [other for other in favourites() if other != key] + ([key] if on else [])
    store(**{_PREFERENCE: kept})
    return kept
