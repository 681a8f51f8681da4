"""Compositions, sources and the project that holds them: frozen values with structural sharing."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve, field, frozen

from spiralis.core.colour import Colour
from spiralis.core.errors import ModelError, UnknownName
from spiralis.core.model.layer import Layer, new_id

LARGEST_SIZE = 20_000
LONGEST = 200_000
FASTEST = 240


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
class Composition:
    """A layered piece of ``length`` frames at ``rate`` frames per second; ``layers`` run front to back."""

    name: str
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
    layers: tuple[Layer, ...] = ()

    def __attrs_post_init__(self) -> None:
        check_format(self.width, self.height, self.rate, self.length)
        if self.play_span is not None and not 0 <= self.play_span[0] < self.play_span[1] <= self.length:
            raise ModelError(f"The play span {self.play_span} leaves the {self.length} frames of “{self.name}”.")
        if not (0 <= self.shutter_angle <= 720 and -720 <= self.shutter_phase <= 720):
            raise ModelError("A shutter angle is 0 to 720 degrees and its phase -720 to 720.")
        ids = [layer.id for layer in self.layers]
        if len(set(ids)) != len(ids):
            raise ModelError(f"Two layers of “{self.name}” share one id.")
        self._check_parents()

    def _check_parents(self) -> None:
        by_id = {layer.id: layer for layer in self.layers}
        settled: set[str] = set()
        for start in self.layers:
            chain: list[Layer] = []
            layer: Layer | None = start
            while layer is not None and layer.id not in settled:
                if layer in chain:
                    names = " → ".join(link.name for link in [*chain[chain.index(layer) :], layer])
                    raise ModelError(f"Layers cannot be each other's parents: {names}.")
                chain.append(layer)
                layer = by_id.get(layer.parent) if layer.parent else None
            settled.update(link.id for link in chain)

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
        for layer in self.layers:
            if layer.id == layer_id:
                return layer
        raise UnknownName(f"“{self.name}” has no layer with the id {layer_id}.")

    def find(self, layer_id: str | None) -> Layer | None:
        """Return the layer of that id, or None."""
        return next((layer for layer in self.layers if layer.id == layer_id), None)

    def with_layer(self, layer: Layer) -> Composition:
        """Return the composition with the layer of the same id replaced."""
        return evolve(self, layers=tuple(layer if old.id == layer.id else old for old in self.layers))


@frozen
class Source:
    """A file that layers show. Its bytes travel in the project under ``media/<digest><suffix>``.

    ``data`` is None where the file is missing; then layers that show it draw nothing.
    """

    name: str
    digest: str
    suffix: str
    width: int
    height: int
    kind: str = "picture"
    id: str = field(factory=new_id)
    data: bytes | None = field(default=None, repr=False, eq=False)

    @property
    def path(self) -> str:
        """Its place inside the project file."""
        return f"media/{self.digest}{self.suffix}"

    @property
    def missing(self) -> bool:
        """Whether the bytes are not there."""
        return self.data is None


@frozen
class Project:
    """Everything one file holds."""

    name: str = "Untitled"
    compositions: tuple[Composition, ...] = ()
    sources: tuple[Source, ...] = ()

    def composition(self, id_or_name: str) -> Composition:
        """Return a composition by id or by name; raises UnknownName listing the names."""
        for composition in self.compositions:
            if id_or_name in (composition.id, composition.name):
                return composition
        names = ", ".join(f"“{c.name}”" for c in self.compositions) or "none"
        raise UnknownName(f"There is no composition “{id_or_name}” in “{self.name}”; it has {names}.")

    def source(self, source_id: str) -> Source | None:
        """Return the source of that id, or None."""
        return next((source for source in self.sources if source.id == source_id), None)

    def with_composition(self, composition: Composition) -> Project:
        """Return the project with the composition replaced, or added where it is new."""
        if any(old.id == composition.id for old in self.compositions):
            kept = tuple(composition if c.id == composition.id else c for c in self.compositions)
            return evolve(self, compositions=kept)
        return evolve(self, compositions=(*self.compositions, composition))

    def with_source(self, source: Source) -> tuple[Project, Source]:
        """Return the project with the source, and the source to use (one with the same bytes is shared)."""
        for old in self.sources:
            if old.digest == source.digest and not old.missing:
                return self, old
        return evolve(self, sources=(*self.sources, source)), source
