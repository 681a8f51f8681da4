"""Compositions, sources and the project that holds them: frozen values with structural sharing."""

from __future__ import annotations

import math
from collections.abc import Mapping
from fractions import Fraction
from functools import cached_property

from attrs import evolve, field, frozen

from spiralis.core.colour import Colour
from spiralis.core.errors import ModelError, UnknownName, legible
from spiralis.core.model.layer import Layer, new_id
from spiralis.core.model.poses import PoseStrip
from spiralis.core.model.references import What, check_circles
from spiralis.core.model.reframing import Reframing
from spiralis.core.model.slots import MOST_VARIANTS, Variant
from spiralis.core.model.source import Source
from spiralis.core.model.track import Track

LARGEST_SIZE = 20_000
LONGEST = 200_000
FASTEST = 240
DEEPEST_NEST = 48
MOST_SWATCHES = 256


def check_format(width: int, height: int, rate: Fraction, length: int) -> None:
    """Raise ModelError with one sentence unless a composition can have this format."""
    for name, size in (("width", width), ("height", height)):
        if not 1 <= size <= LARGEST_SIZE:
            raise ModelError(f"A composition's {name} is 1 to {LARGEST_SIZE} px, and {size} is not.")
    if not 0 < rate <= FASTEST:
        raise ModelError(f"A frame rate is above 0 and at most {FASTEST}, and {rate} is not.")
    if not 1 <= length <= LONGEST:
        raise ModelError(f"A composition is 1 to {LONGEST} frames long, and {length} is not.")


@frozen
class Artwork:
    """The layered file that a composition was laid out from, and which of its groups (empty for the whole).

    ``size`` is that of the file, or of the group, when it was last read, (0, 0) where nobody noted it. What lies at
    (x, y) in it came to lie at (x, y) times ``scale``, plus ``corner``, in the composition.
    """

    file: str
    digest: str
    group: str = ""
    nested: bool = True
    size: tuple[int, int] = (0, 0)
    scale: float = 1.0
    corner: tuple[float, float] = (0.0, 0.0)

    def __attrs_post_init__(self) -> None:
        numbers = (*self.size, self.scale, *self.corner)
        if not all(math.isfinite(number) and abs(number) <= 1e7 for number in numbers) or self.scale <= 0:
            raise ModelError("Where artwork lies in a composition is told by ordinary numbers.")

    @property
    def as_read(self) -> bool:
        """Whether the composition shows it in its own size."""
        return self.scale == 1.0 and self.corner == (0.0, 0.0)

    def moved(self, by: float, shift: tuple[float, float]) -> Artwork:
        """Return the same where all that lies at a place of the composition lies at ``by`` times it plus a shift."""
        x, y = self.corner
        return evolve(self, scale=self.scale * by, corner=(x * by + shift[0], y * by + shift[1]))


@frozen
class Marker:
    """A named frame."""

    frame: int
    name: str = ""


#: What motion blur is of: a layer's picture moved as the layer moves, or all that changes while the shutter is open.
BLURS = ("movement", "everything")
#: In which light layers mix: as their colours are encoded, or in proportion to the light itself.
LIGHTS = ("encoded", "linear")


@frozen
class Composition:
    """A layered piece of ``length`` frames at ``rate`` frames per second; ``layers`` run front to back.

    ``guides`` are (0 for an upright one at x, 1 for a level one at y, place in px); a ``grid`` of 0 px is none;
    motion blur takes a moment for each pixel moved, ``blur_samples`` at most, and is of one of BLURS; layers
    mix in the ``light`` of one of LIGHTS; the ``safe_area`` is how much stays free at the sides and at top and bottom,
    in %; a ``folder`` is the name it is listed under in Sources; ``left_alone`` names what checks are
    not to count: finder, layer, property, reason; ``variants`` are the rows of its table of slots,
    ``variants_folder`` is where their pictures were. One that ``follows`` another has its motion in another format.
    """

    name: str = field(converter=legible)
    width: int
    height: int
    rate: Fraction
    length: int
    id: str = field(factory=new_id)
    background: Colour | None = None
    play_span: tuple[int, int] | None = None
    loop: bool = True
    shutter_angle: float = 180.0
    shutter_phase: float = -90.0
    blur_samples: int = 128
    blur_of: str = "movement"
    light: str = "encoded"
    artwork: Artwork | None = None
    guides: tuple[tuple[int, float], ...] = ()
    grid: float = 0.0
    safe_area: tuple[float, float] = (5.0, 5.0)
    markers: tuple[Marker, ...] = ()
    poses: PoseStrip = field(factory=PoseStrip)
    folder: str = ""
    left_alone: tuple[tuple[str, str, str, str], ...] = ()
    variants: tuple[Variant, ...] = ()
    variants_folder: str = ""
    follows: Reframing | None = None
    layers: tuple[Layer, ...] = ()

    def __attrs_post_init__(self) -> None:
        check_format(self.width, self.height, self.rate, self.length)
        if self.play_span is not None and not 0 <= self.play_span[0] < self.play_span[1] <= self.length:
            raise ModelError(f"The play span {self.play_span} leaves the {self.length} frames of “{self.name}”.")
        if not (0 <= self.shutter_angle <= 720 and -720 <= self.shutter_phase <= 720):
            raise ModelError("A shutter angle is 0 to 720 degrees and its phase -720 to 720.")
        if not 4 <= self.blur_samples <= 512:
            raise ModelError("Motion blur is made of 4 to 512 moments at most.")
        if self.blur_of not in BLURS:
            raise ModelError(f"Motion blur is of one of {', '.join(BLURS)}, and “{self.blur_of}” is not.")
        if self.light not in LIGHTS:
            raise ModelError(f"Layers mix in one of {', '.join(LIGHTS)} light, and “{self.light}” is not.")
        if not all(axis in (0, 1) and math.isfinite(place) for axis, place in self.guides):
            raise ModelError("A guide is upright (0) or level (1), at a place in pixels.")
        if not (0 <= self.grid <= LARGEST_SIZE and all(0 <= part < 50 for part in self.safe_area)):
            raise ModelError("A grid is 0 px or wider, and a safe area leaves less than half of the frame free a side.")
        if len(self.variants) > MOST_VARIANTS:
            raise ModelError(f"A piece has up to {MOST_VARIANTS} variants, and {len(self.variants)} are more.")
        ids = [layer.id for layer in self.layers]
        if len(set(ids)) != len(ids):
            raise ModelError(f"Two layers of “{self.name}” share one id.")
        check_circles(self)

    @property
    def mixing(self) -> tuple[object, ...]:
        """How its layers are drawn together: shutter and light."""
        return self.shutter_angle, self.shutter_phase, self.blur_samples, self.blur_of, self.light

    def mixed_as(self, other: Composition) -> Composition:
        """Return the composition with another one's shutter and light."""
        return evolve(
            self, shutter_angle=other.shutter_angle, shutter_phase=other.shutter_phase,
            blur_samples=other.blur_samples, blur_of=other.blur_of, light=other.light,
        )  # fmt: skip

    @property
    def linear(self) -> bool:
        """Whether layers mix in linear light."""
        return self.light == "linear"

    @cached_property
    def nested(self) -> tuple[str, ...]:
        """The ids of the compositions that layers of this one show, each once."""
        ties = (tie for layer in self.layers for tie in layer.ties)
        return tuple(dict.fromkeys(tie.target for tie in ties if tie.what is What.COMPOSITION))

    @cached_property
    def by_id(self) -> Mapping[str, Layer]:
        """The layers by their ids."""
        return {layer.id: layer for layer in self.layers}

    @cached_property
    def has_depth(self) -> bool:
        """Whether any layer may stand in space."""
        return any("depth" in layer.properties for layer in self.layers)

    @cached_property
    def place_of(self) -> Mapping[str, int]:
        """The layers' places in the order from front to back, by their ids."""
        return {layer.id: place for place, layer in enumerate(self.layers)}

    @cached_property
    def _below(self) -> Mapping[str, tuple[Layer, ...]]:
        """The layers that hang directly on each layer, front to back."""
        found: dict[str, list[Layer]] = {}
        for layer in self.layers:
            if layer.parent is not None:
                found.setdefault(layer.parent, []).append(layer)
        return {parent: tuple(layers) for parent, layers in found.items()}

    @cached_property
    def kept_from_sight(self) -> frozenset[str]:
        """The ids of layers that only serve as mattes, or are only shown as copies."""
        below = {y.id for root in self._lent for y in self.descendants(root)}
        return frozenset(self._only_mattes | self._lent | below)

    @cached_property
    def _only_mattes(self) -> frozenset[str]:
        return frozenset(m.layer for layer in self.layers for m in layer.mattes if not m.shown)

    @cached_property
    def _lent(self) -> frozenset[str]:
        """The ids of layers that, with all that hangs on them, others show in their place."""
        lenders = (y for y in self.layers if y.has("show_source") and not y.track("show_source").value)
        return frozenset(tie.target for layer in lenders for tie in layer.ties if tie.whole)

    def is_kept_within(self, layer_id: str, around: str) -> bool:
        """Whether a layer that hangs on another one is kept from sight also where that one is shown: it only serves as
        a matte, or is only shown as copies of something between them."""
        at: str | None = layer_id
        while at is not None and at != around and at in self.by_id:
            if at in self._lent:
                return True
            at = self.by_id[at].parent
        return layer_id in self._only_mattes

    def shown_on(self, layer_id: str) -> list[Layer]:
        """Return the layers that hang on a layer and are seen where it is shown, front to back."""
        return [below for below in self.descendants(layer_id) if not self.is_kept_within(below.id, layer_id)]

    def descendants(self, layer_id: str) -> list[Layer]:
        """Return the layers that hang on a layer, however far down, front to back."""
        found: set[str] = set()
        wave = [layer_id]
        while wave:
            more = [layer.id for layer in self._below.get(wave.pop(), ()) if layer.id not in found]
            found.update(more)
            wave += more
        if not found:
            return []
        return [layer for layer in self.layers if layer.id in found and layer.id != layer_id]

    @cached_property
    def group_of(self) -> Mapping[str, str]:
        """The id of the group that each layer in one belongs to: the nearest above it that it hangs on."""
        groups = {layer.id for layer in self.layers if layer.gathers}
        found: dict[str, str] = {}
        for layer in self.layers if groups else ():
            chain, at = [layer.id], layer.parent
            while at is not None and at not in groups and at not in found and at in self.by_id:
                chain.append(at)
                at = self.by_id[at].parent
            group = at if at in groups else found.get(at or "")
            if group is not None:
                found.update(dict.fromkeys(chain, group))
        return found

    def groups_around(self, layer_id: str) -> list[str]:
        """Return the groups that a layer is in, the nearest first."""
        found: list[str] = []
        at = self.group_of.get(layer_id)
        while at is not None:
            found.append(at)
            at = self.group_of.get(at)
        return found

    def members(self, group: str | None) -> list[Layer]:
        """Return the layers directly in a group, or (None) those in no group, front to back."""
        return [layer for layer in self.layers if self.group_of.get(layer.id) == group]

    @property
    def span(self) -> tuple[int, int]:
        """The frames that play and export, half open."""
        return self.play_span or (0, self.length)

    @property
    def seconds(self) -> Fraction:
        """Exact duration."""
        return self.length / self.rate

    def layer(self, layer_id: str) -> Layer:
        """Return the layer of that id; raises UnknownName."""
        layer = self.by_id.get(layer_id)
        if layer is None:
            raise UnknownName(f"“{self.name}” has no layer with the id {layer_id}.")
        return layer

    def find(self, layer_id: str | None) -> Layer | None:
        """Return the layer of that id, or None."""
        return self.by_id.get(layer_id) if layer_id is not None else None

    def with_layer(self, layer: Layer) -> Composition:
        """Return the composition with the layer of the same id replaced."""
        return evolve(self, layers=tuple(layer if old.id == layer.id else old for old in self.layers))


def _check_nesting(compositions: tuple[Composition, ...]) -> None:
    by_id = {composition.id: composition for composition in compositions}
    #: How deep what each of them shows is nested.
    depths: dict[str, int] = {}

    def depth(composition: Composition, chain: tuple[str, ...]) -> int:
        if composition.id in chain:
            names = " → ".join(f"“{by_id[i].name}”" for i in (*chain[chain.index(composition.id) :], composition.id))
            raise ModelError(f"Compositions cannot show each other in a circle: {names}.")
        if composition.id not in depths:
            around = (*chain, composition.id)
            shown = [by_id[inner] for inner in composition.nested if inner in by_id]
            too_deep = len(around) > DEEPEST_NEST and bool(shown)
            deepest = 0 if too_deep else max((1 + depth(inner, around) for inner in shown), default=0)
            if too_deep or deepest > DEEPEST_NEST:
                name = by_id[around[0]].name
                raise ModelError(f"Compositions are nested over {DEEPEST_NEST} deep in “{name}”.")
            depths[composition.id] = deepest
        return depths[composition.id]

    for composition in compositions:
        if composition.nested:
            depth(composition, ())


def _is_colour(value: object) -> bool:
    return isinstance(value, tuple) and len(value) == 4 and all(0 <= part <= 1 for part in value)


@frozen
class Project:
    """Everything one file holds. A ``template`` opens to be filled in, not to be changed."""

    name: str = field(default="Untitled", converter=legible)
    compositions: tuple[Composition, ...] = ()
    sources: tuple[Source, ...] = ()
    swatches: tuple[Colour, ...] = ()
    template: bool = False

    def __attrs_post_init__(self) -> None:
        if len(self.swatches) > MOST_SWATCHES or not all(_is_colour(swatch) for swatch in self.swatches):
            raise ModelError(f"A project has up to {MOST_SWATCHES} swatches, each four numbers from 0 to 1.")
        _check_nesting(self.compositions)

    @cached_property
    def by_id(self) -> Mapping[str, Composition]:
        """The compositions by their ids."""
        return {composition.id: composition for composition in reversed(self.compositions)}

    @cached_property
    def _sources(self) -> Mapping[str, Source]:
        return {source.id: source for source in reversed(self.sources)}

    @cached_property
    def fonts(self) -> tuple[Source, ...]:
        """The files by whose names words are set, in their order."""
        return tuple(source for source in self.sources if source.sort.sets_words)

    def composition(self, id_or_name: str) -> Composition:
        """Return the composition of that id, or else the first of that name; raises UnknownName listing the names."""
        found = self.by_id.get(id_or_name) or next((c for c in self.compositions if c.name == id_or_name), None)
        if found is not None:
            return found
        names = ", ".join(f"“{c.name}”" for c in self.compositions) or "none"
        raise UnknownName(f"There is no composition “{id_or_name}” in “{self.name}”; it has {names}.")

    def source(self, source_id: str) -> Source | None:
        """Return the source of that id, or None."""
        return self._sources.get(source_id)

    def find(self, composition_id: str) -> Composition | None:
        """Return the composition of that id, or None."""
        return self.by_id.get(composition_id)

    def with_composition(self, composition: Composition) -> Project:
        """Return the project with the composition replaced, or added where it is new."""
        if composition.id in self.by_id:
            kept = tuple(composition if c.id == composition.id else c for c in self.compositions)
            return evolve(self, compositions=kept)
        return evolve(self, compositions=(*self.compositions, composition))

    def without_references(self) -> Project:
        """Return the project as it is written out: no references, and nothing hidden because others are shown alone."""
        if not any(y.reference or y.solo for composition in self.compositions for y in composition.layers):
            return self
        pieces = []
        for composition in self.compositions:
            layers = tuple(
                y.with_track("visible", Track(False)) if y.reference else evolve(y, solo=False) if y.solo else y
                for y in composition.layers
            )
            pieces.append(evolve(composition, layers=layers))
        return evolve(self, compositions=tuple(pieces))

    def with_changed(self, source: Source) -> Project:
        """Return the project with the source of the same id replaced."""
        return evolve(self, sources=tuple(source if old.id == source.id else old for old in self.sources))

    def with_source(self, source: Source) -> tuple[Project, Source]:
        """Return the project with the source, and the source to use (one with the same bytes is shared)."""
        for old in self.sources:
            if old.digest == source.digest and not old.missing:
                return self, old
        return evolve(self, sources=(*self.sources, source)), source
