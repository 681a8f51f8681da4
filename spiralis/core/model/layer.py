"""A layer: one drawn thing, its span of frames, its place in the hierarchy, its properties."""

from __future__ import annotations

import math
import secrets
from collections.abc import Iterable, Mapping
from functools import cached_property, lru_cache
from types import MappingProxyType

from attrs import evolve, field, frozen

from spiralis.core.errors import ModelError, UnknownName, legible
from spiralis.core.model.blocks import MOST_BLOCKS, Block, block_parameters, effect_kind
from spiralis.core.model.drivers import DialJoin
from spiralis.core.model.edge_pins import EdgePin
from spiralis.core.model.kinds import layer_kind, told_of
from spiralis.core.model.moves import MoveUse
from spiralis.core.model.parameter import Parameter, Value
from spiralis.core.model.references import Reference, found_in
from spiralis.core.model.slots import Slot
from spiralis.core.model.track import Track


def new_id() -> str:
    """Return a short id that is unique for all practical purposes (48 random bits)."""
    return secrets.token_hex(6)


def join_place(values: dict[str, Value]) -> None:
    """Let the position of what keeps x and y apart be both of them."""
    if values["separate"]:
        values["position"] = (values["position_x"], values["position_y"])


def _frozen_mapping(mapping: Mapping[str, Track]) -> Mapping[str, Track]:
    return MappingProxyType(dict(mapping))


@frozen
class Origin:
    """Which part of a layered file a layer shows: its key there, and where it stood when it was last read."""

    key: str
    x: float = 0.0
    y: float = 0.0

    def __attrs_post_init__(self) -> None:
        if not (math.isfinite(self.x) and math.isfinite(self.y)):
            raise ModelError("A part of a layered file stands at two numbers.")


MATTE_BY = ("shape", "brightness")
MATTE_MODES = ("intersect", "add", "subtract")


@frozen
class Matte:
    """Another layer that decides where this one shows: by its shape (alpha) or its brightness.

    Several are taken in order: each one is intersected with, added to or subtracted from those before it. The other
    layer hides itself unless it is ``shown``.
    """

    layer: str
    by: str = "shape"
    inverted: bool = False
    mode: str = "intersect"
    shown: bool = False

    def __attrs_post_init__(self) -> None:
        if self.by not in MATTE_BY or self.mode not in MATTE_MODES:
            raise ModelError(f"A matte works by {' or '.join(MATTE_BY)} and is to {', '.join(MATTE_MODES)}.")


@frozen(eq=False)
class _Declared:
    """The parameters of a kind with some blocks, by name, with their defaults."""

    parameters: tuple[Parameter, ...]
    by_name: Mapping[str, Parameter]
    defaults: Mapping[str, Value]
    tracks: Mapping[str, Track]
    order: Mapping[str, int]


@lru_cache(maxsize=4096)
def _declared(kind: str, blocks: tuple[Block, ...]) -> _Declared:
    own = tuple(parameter for block in blocks for parameter in block_parameters(block))
    parameters = layer_kind(kind).parameters + own
    return _Declared(
        parameters, {p.name: p for p in parameters}, {p.name: p.default for p in parameters},
        {p.name: Track(p.default) for p in parameters}, {p.name: i for i, p in enumerate(parameters)},
    )  # fmt: skip


TINTS = ("rose", "amber", "moss", "teal", "sky", "iris", "slate")


@frozen
class Layer:
    """One layer of a composition, shown on frames ``first <= frame < last``.

    A ``reference`` is seen while working and never written out. While any layer is ``solo``, only such are seen and
    heard, until the piece is written out. ``folded`` hides threads, and layers that hang on this one, in the timeline;
    ``tint`` is a colour mark of TINTS. A nested composition's ``dial_values`` set dials of the composition it shows, by
    their ids, for this layer alone. ``moves`` remembers which ready-made moves wrote some of the keys, ``edge_pins``
    keep edges of its box at others: one across and one down at most. ``blocks`` are its effects and finishes in order;
    their numbers are properties as well. ``slots`` say which of its properties are filled in anew from version to
    version.
    ``properties`` holds only what departs from the defaults that the layer kind and the blocks declare.
    """

    name: str = field(converter=legible)
    kind: str
    first: int
    last: int
    id: str = field(factory=new_id)
    locked: bool = False
    parent: str | None = None
    linked_scale: bool = True
    origin: Origin | None = None
    mattes: tuple[Matte, ...] = ()
    reference: bool = False
    solo: bool = False
    folded: bool = False
    tint: str = ""
    dial_values: tuple[tuple[str, float], ...] = ()
    moves: tuple[MoveUse, ...] = ()
    edge_pins: tuple[EdgePin, ...] = ()
    blocks: tuple[Block, ...] = ()
    slots: tuple[Slot, ...] = ()
    properties: Mapping[str, Track] = field(factory=dict, converter=_frozen_mapping, hash=False)

    def __attrs_post_init__(self) -> None:
        layer_kind(self.kind)
        if len({block.id for block in self.blocks}) < len(self.blocks) or len(self.blocks) > MOST_BLOCKS:
            raise ModelError(f"“{self.name}” carries up to {MOST_BLOCKS} effects and finishes, each with its own id.")
        if len({slot.property for slot in self.slots}) < len(self.slots):
            raise ModelError(f"“{self.name}” has one slot for each property at most.")
        if self.tint and self.tint not in TINTS:
            raise ModelError(f"A colour mark is one of {', '.join(TINTS)}, and “{self.tint}” is none.")
        if len({pin.axis for pin in self.edge_pins}) < len(self.edge_pins):
            raise ModelError(f"“{self.name}” pins one edge across and one down at most.")
        if self.last <= self.first:
            raise ModelError(f"The layer “{self.name}” ends at frame {self.last}, before it begins.")
        for name, track in self.properties.items():
            parameter = self.parameter(name)
            parameter.check(track.value)
            if isinstance(track.driver, DialJoin):
                for _, value in track.driver.stops:
                    parameter.check(value)
            if (track.driver is not None or track.wobble is not None) and not parameter.numeric:
                raise ModelError(f"{parameter.label} is no number or colour, so nothing can drive it.")
            for key in track.keys:
                parameter.check(key.value)

    def parameter(self, name: str) -> Parameter:
        """Return the declaration of a property; raises UnknownName listing the known ones."""
        found = self._declared.by_name.get(name)
        if found is None:
            known = told_of(list(self._declared.by_name), name)
            label = layer_kind(self.kind).label
            raise UnknownName(f"A {label} layer like “{self.name}” has no property “{name}”; it has {known}.")
        return found

    @property
    def parameters(self) -> tuple[Parameter, ...]:
        """All declarations: the kind's, then those of the blocks."""
        return self._declared.parameters

    @property
    def defaults(self) -> Mapping[str, Value]:
        """The value of every property that nobody set."""
        return self._declared.defaults

    @cached_property
    def _declared(self) -> _Declared:
        return _declared(self.kind, self.blocks)

    @cached_property
    def resting(self) -> Mapping[str, Value] | None:
        """Every property by name where none of them changes over time; None where one does."""
        values = dict(self.defaults)
        for name, track in self.properties.items():
            if track.moving:
                return None
            values[name] = track.value
        join_place(values)
        return None if values["along_path"] else MappingProxyType(values)

    @cached_property
    def ties(self) -> tuple[Reference, ...]:
        """Everything that the layer is tied to."""
        return found_in(self)

    @property
    def gathers(self) -> bool:
        """Whether it shows, as one picture, the layers that hang on it."""
        return layer_kind(self.kind).gathers

    @property
    def placeless(self) -> bool:
        """Whether it stands nowhere."""
        return layer_kind(self.kind).placeless

    @property
    def control(self) -> str:
        """The name of the number that properties can join, as with a dial; empty for other layers."""
        return layer_kind(self.kind).control

    def with_block(self, block: Block, index: int | None = None) -> Layer:
        """Return the layer with one more effect or finish, last or at an index."""
        place = len(self.blocks) if index is None else index
        return evolve(self, blocks=(*self.blocks[:place], block, *self.blocks[place:]))

    def without_block(self, block_id: str) -> Layer:
        """Return the layer without an effect or finish and its numbers."""
        kept = {name: track for name, track in self.properties.items() if not name.startswith(f"{block_id}.")}
        return evolve(self, blocks=tuple(b for b in self.blocks if b.id != block_id), properties=kept)

    def with_blocks_ordered(self, ids: Iterable[str]) -> Layer:
        """Return the layer with its blocks in the order of these ids."""
        order = {block_id: place for place, block_id in enumerate(ids)}
        return evolve(self, blocks=tuple(sorted(self.blocks, key=lambda block: order[block.id])))

    def slot(self, name: str) -> Slot | None:
        """Return the slot of a property, or None."""
        return next((slot for slot in self.slots if slot.property == name), None)

    def with_slot(self, slot: Slot) -> Layer:
        """Return the layer with the slot of a property, a new one or another in its place."""
        known = slot.property in {old.property for old in self.slots}
        slots = tuple(slot if old.property == slot.property else old for old in self.slots)
        return evolve(self, slots=slots if known else (*slots, slot))

    def without_slot(self, name: str) -> Layer:
        """Return the layer where a property is no slot."""
        return evolve(self, slots=tuple(old for old in self.slots if old.property != name))

    def blocks_of(self, role: str) -> tuple[Block, ...]:
        """Return the effects, or the finishes, in order."""
        return tuple(block for block in self.blocks if effect_kind(block.kind).role == role)

    def has(self, name: str) -> bool:
        """Whether the layer has a property of that name."""
        return name in self._declared.by_name

    def track(self, name: str) -> Track:
        """Return the property's track, the default one where nothing was set."""
        track = self.properties.get(name)
        return track if track is not None else self._declared.tracks[self.parameter(name).name]

    def with_track(self, name: str, track: Track) -> Layer:
        """Return the layer with this property's track."""
        return evolve(self, properties={**self.properties, name: track})

    def with_values(self, **values: Value) -> Layer:
        """Return the layer with resting values set; animated properties keep their keys."""
        properties = dict(self.properties)
        for name, value in values.items():
            properties[name] = evolve(self.track(name), value=self.parameter(name).check(value))
        return evolve(self, properties=properties)

    def animated(self) -> list[str]:
        """Return the names of the properties that carry keys, in the order they are declared."""
        return [name for name in self._moving if self.properties[name].keys]

    def shown_tracks(self) -> list[str]:
        """Return the names of the properties that change over time by keys, drivers or wobbles, as declared."""
        return list(self._moving)

    @cached_property
    def _moving(self) -> tuple[str, ...]:
        """The names of the properties that change over time, as declared."""
        moving = [name for name, track in self.properties.items() if track.moving]
        if len(moving) > 1:
            order = self._declared.order
            moving.sort(key=lambda name: order[name])
        return tuple(moving)

    def shown_at(self, frame: float) -> bool:
        """Whether the frame lies in the layer's span."""
        return self.first <= frame < self.last
