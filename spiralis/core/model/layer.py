"""A layer: one drawn thing, its span of frames, its place in the hierarchy, its properties."""

from __future__ import annotations

import math
import secrets
from collections.abc import Mapping
from types import MappingProxyType

from attrs import evolve, field, frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.drivers import DialJoin
from spiralis.core.model.holds import Hold
from spiralis.core.model.kinds import layer_kind
from spiralis.core.model.moves import MoveUse
from spiralis.core.model.parameter import Parameter, Value
from spiralis.core.model.track import Track


def new_id() -> str:
    """Return a short id that is unique for all practical purposes (48 random bits)."""
    return secrets.token_hex(6)


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


TINTS = ("rose", "amber", "moss", "teal", "sky", "iris", "slate")


@frozen
class Layer:
    """One layer of a composition, shown on frames ``first <= frame < last``.

    A ``reference`` is seen while working and never written out. While any layer is ``solo``, only such are seen, until
    the piece is written out. ``folded`` hides threads, and layers that hang on this one, in the timeline; ``tint`` is a
    colour mark of TINTS. A nested composition's ``dial_values`` set dials of the composition it shows, by their ids,
    for this layer alone. ``moves`` remembers which ready-made moves wrote some of the keys,
    ``holds`` keep edges of its box at others: one across and one down at most.
    ``properties`` holds only what departs from the defaults that the layer kind declares.
    """

    name: str
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
    holds: tuple[Hold, ...] = ()
    properties: Mapping[str, Track] = field(factory=dict, converter=_frozen_mapping, hash=False)

    def __attrs_post_init__(self) -> None:
        kind = layer_kind(self.kind)
        if self.tint and self.tint not in TINTS:
            raise ModelError(f"A colour mark is one of {', '.join(TINTS)}, and “{self.tint}” is none.")
        if len({hold.axis for hold in self.holds}) < len(self.holds):
            raise ModelError(f"“{self.name}” holds one edge across and one down at most.")
        if self.last <= self.first:
            raise ModelError(f"The layer “{self.name}” ends at frame {self.last}, before it begins.")
        for name, track in self.properties.items():
            parameter = kind.parameter(name)
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
        return layer_kind(self.kind).parameter(name)

    def has(self, name: str) -> bool:
        """Whether the layer has a property of that name."""
        return layer_kind(self.kind).has(name)

    def track(self, name: str) -> Track:
        """Return the property's track, the default one where nothing was set."""
        track = self.properties.get(name)
        return track if track is not None else layer_kind(self.kind).default_track(name)

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
        return [
            p.name
            for p in layer_kind(self.kind).parameters
            if p.name in self.properties and self.properties[p.name].keys
        ]

    def threads(self) -> list[str]:
        """Return the names of the properties that change over time by keys, drivers or wobbles, as declared."""
        names = (parameter.name for parameter in layer_kind(self.kind).parameters)
        return [name for name in names if name in self.properties and self.properties[name].moving]

    def shown_at(self, frame: float) -> bool:
        """Whether the frame lies in the layer's span."""
        return self.first <= frame < self.last
