"""Blocks that a layer carries, effects and finishes: what they are, and their parameters among the layer's.

A kind of block is one file in ``spiralis/core/effects`` that calls :func:`register_effect`. Its numbers live in the
layer's properties under ``"<block id>.<name>"``, so that everything that works with properties works with them.
"""

from __future__ import annotations

import secrets
from collections.abc import Callable
from functools import cached_property, lru_cache
from typing import Any

from attrs import define, evolve, field, frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.registry import Registry

#: How the chooser sorts effects.
PURPOSES = ("Soften", "Bend", "Colour", "Break up", "Reveal", "Repeat", "Finish")
EFFECT, FINISH = "effect", "finish"
#: From where effects take their pixels, see :class:`EffectKind`.
NEAR, BOX, ALL = "near", "box", "all"
MOST_BLOCKS = 64

ON = Parameter("on", "On", Kind.SWITCH, True, "Whether it is applied at all", family="effects")


@define(slots=False)
class EffectKind:
    """What the program must know of a kind of effect or finish.

    ``grows(values, scale)`` tells by how many output pixels at left, top, right and bottom its picture may be larger
    than its source; ``reads(values, scale)`` how far around a pixel it looks, in the same order; ``scale`` is output
    pixels a unit, across and down. ``run(job)`` gives the picture (see ``effects/job.py``). Where each pixel depends
    on itself alone, ``pointwise(values)`` may give the colour step instead (see ``effects/colour_steps.py``).
    A finish gives what lies behind and in front of its content instead of changing it. ``neutral(values)`` tells
    whether it changes nothing. Where its picture depends on time also without keys, ``varies`` is true; where it
    depends on where the layer lies in the grid, as with a centre or a pattern, ``placed`` is. ``takes`` says whence it
    has its pixels: from NEAR each of them, from anywhere in the layer's BOX, or from ALL that is shown there and
    beyond. ``fills(values, source, box)`` may tell better than ``grows`` what its result fills of what a source does:
    boxes in the layer's units, like the layer's own. One that ``holds`` reads nothing beyond
    the layer's box where its ``edge`` is not clear. ``moments(values)`` tells by how many frames ago it reads the layer
    itself, by the inputs of :func:`earlier_name`. Where its switch ``turns`` is off, its ``angle`` is one of the frame.
    """

    name: str
    label: str
    help: str
    purpose: str
    role: str
    own_parameters: tuple[Parameter, ...]
    run: Callable[..., Any]
    grows: Callable[..., tuple[float, float, float, float]]
    reads: Callable[..., tuple[float, float, float, float]]
    neutral: Callable[..., bool]
    pointwise: Callable[..., Any] | None = None
    varies: bool = False
    placed: bool = False
    takes: str = NEAR
    fills: Callable[..., tuple[float, float, float, float]] | None = None
    holds: bool = False
    moments: Callable[..., tuple[float, ...]] | None = None

    @cached_property
    def parameters(self) -> tuple[Parameter, ...]:
        """The switch, then its own."""
        return (ON, *self.own_parameters)

    @cached_property
    def inputs(self) -> tuple[str, ...]:
        """The names of its parameters that are other layers."""
        return tuple(parameter.name for parameter in self.own_parameters if parameter.kind is Kind.LAYER)

    @cached_property
    def files(self) -> tuple[str, ...]:
        """The names of its parameters that are sources of the project."""
        return tuple(parameter.name for parameter in self.own_parameters if parameter.kind is Kind.SOURCE)


def earlier_name(ago: float) -> str:
    """Return the name of the input that is the layer as it was so many frames ago."""
    return f"{ago:g} frames ago"


_KINDS: Registry[EffectKind] = Registry("effect", "spiralis.core.effects")


def register_effect(kind: EffectKind) -> None:
    """Make a kind of effect known; raises ValueError where the name is taken or it has no known purpose or role."""
    if kind.purpose not in PURPOSES or kind.role not in (EFFECT, FINISH):
        raise ValueError(f"{kind.name!r} has a purpose of {', '.join(PURPOSES)} and is an effect or a finish")
    if any("." in parameter.name for parameter in kind.parameters):
        raise ValueError(f"a parameter of {kind.name!r} has a dot in its name")
    _KINDS.register(kind.name, kind)


effect_kind = _KINDS.get
effect_kinds = _KINDS.all


def _short_id() -> str:
    return secrets.token_hex(4)


@frozen
class Block:
    """One effect or finish of a layer; an own ``name`` stands in for its kind's label."""

    kind: str
    id: str = field(factory=_short_id)
    name: str = ""

    def __attrs_post_init__(self) -> None:
        effect_kind(self.kind)
        if not self.id or "." in self.id or len(self.id) > 64:
            raise ModelError("An effect's id is a short text without a dot.")

    @property
    def label(self) -> str:
        """What it is called."""
        return self.name or effect_kind(self.kind).label

    def named(self, name: str) -> str:
        """Return the layer's property for one of the block's parameters."""
        return f"{self.id}.{name}"


@lru_cache(maxsize=4096)
def block_parameters(block: Block) -> tuple[Parameter, ...]:
    """Return a block's parameters as its layer has them: with full names, in the Effects or Finishes group."""
    kind = effect_kind(block.kind)
    group = "Effects" if kind.role == EFFECT else "Finishes"
    return tuple(
        evolve(
            parameter, name=block.named(parameter.name), group=group, family="effects", block=block.label,
            needs=(block.named(parameter.needs[0]), parameter.needs[1]) if parameter.needs else None,
        )
        for parameter in kind.parameters
    )  # fmt: skip
