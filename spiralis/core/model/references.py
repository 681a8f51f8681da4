"""Every tie of a layer to another layer, a source or a composition, declared once.

Edits that copy, move or delete layers ask here and follow nothing by themselves.
"""

from __future__ import annotations

from collections.abc import Container, Iterable, Iterator, Mapping
from enum import StrEnum
from typing import TYPE_CHECKING, Any

from attrs import evolve, frozen

from spiralis.core.errors import ModelError
from spiralis.core.model.drivers import DialJoin, Driver, Roll, source_of
from spiralis.core.model.parameter import Kind, Parameter, Value

if TYPE_CHECKING:
    from spiralis.core.model.layer import Layer
    from spiralis.core.model.poses import PoseStrip
    from spiralis.core.model.project import Composition


class What(StrEnum):
    """What sort of thing a reference leads to."""

    LAYER = "layer"
    SOURCE = "source"
    COMPOSITION = "composition"
    #: A dial inside the composition that a nested layer shows.
    INNER = "inner"


class Why(StrEnum):
    """What of the owner depends on the target."""

    PLACE = "place"
    VALUE = "value"
    PICTURE = "picture"
    CONTENT = "content"


@frozen
class Reference:
    """One tie: the layer it belongs to, the id it leads to, of what sort, and what depends on it.

    ``name`` is the property that holds it (for a value tie the driven one), else ``parent``, ``matte``, ``edge`` or
    ``dial``; ``whole`` tells that all which hangs on the target is meant too.
    """

    owner: str
    target: str
    what: What
    why: Why
    name: str
    whole: bool = False


_KINDS = {Kind.LAYER: What.LAYER, Kind.SOURCE: What.SOURCE, Kind.COMPOSITION: What.COMPOSITION,
          Kind.DRAWINGS: What.SOURCE}  # fmt: skip


def found_in(layer: Layer) -> tuple[Reference, ...]:
    """Return every tie of a layer; ``Layer.ties`` keeps them."""
    return tuple(_found(layer))


def _found(layer: Layer) -> Iterator[Reference]:
    own = layer.id
    if layer.parent is not None:
        yield Reference(own, layer.parent, What.LAYER, Why.PLACE, "parent")
    for matte in layer.mattes:
        yield Reference(own, matte.layer, What.LAYER, Why.PICTURE, "matte")
    for pin in layer.edge_pins:
        if pin.layer:
            yield Reference(own, pin.layer, What.LAYER, Why.PLACE, "edge")
    for dial, _ in layer.dial_values:
        yield Reference(own, dial, What.INNER, Why.VALUE, "dial")
    for name, track in layer.properties.items():
        if track.driver is not None:
            yield Reference(own, source_of(own, track.driver)[0], What.LAYER, Why.VALUE, name)
        parameter = layer.parameter(name)
        if parameter.kind in _KINDS:
            yield from _in_values(own, parameter, (track.value, *(key.value for key in track.keys)))


def _in_values(own: str, parameter: Parameter, values: Iterable[Value]) -> Iterator[Reference]:
    what = _KINDS[parameter.kind]
    why = Why.PICTURE if what is What.LAYER else Why.CONTENT
    targets: dict[str, None] = {}
    for value in values:
        targets.update(dict.fromkeys([value] if isinstance(value, str) else [drawing[0] for drawing in value]))
    for target in targets:
        if target:
            yield Reference(own, target, what, why, parameter.name, parameter.gathers)


def _mapped(value: Value, ids: Mapping[str, str], known: Container[str] | None) -> Value:
    if isinstance(value, str):
        return ids.get(value, value if known is None or value in known else "")
    return tuple((ids.get(target, target), *rest) for target, *rest in value)


@frozen
class Repointing:
    """New ids for what layers are tied to. A layer that is neither mapped nor ``known`` is lost, and the tie cut."""

    layers: Mapping[str, str] = {}
    sources: Mapping[str, str] = {}
    compositions: Mapping[str, str] = {}
    #: Dials inside shown compositions, by their old ids.
    inner: Mapping[str, str] = {}
    known: Container[str] | None = None

    def layer(self, old: str | None) -> str | None:
        """Return the id that a layer has from now on, or None where it is lost."""
        if old is None:
            return None
        return self.layers.get(old, old if self.known is None or old in self.known else None)

    def driver(self, driver: Driver | None) -> Driver | None:
        """Return a driver with its source followed; None where that is lost."""
        if driver is None:
            return None
        if isinstance(driver, Roll) and not driver.layer:
            return driver
        new = self.layer(driver.dial if isinstance(driver, DialJoin) else driver.layer)
        if new is None:
            return None
        return evolve(driver, dial=new) if isinstance(driver, DialJoin) else evolve(driver, layer=new)

    def value(self, parameter: Parameter, value: Value) -> Value:
        """Return a property's value with the ids in it followed."""
        match _KINDS.get(parameter.kind):
            case What.LAYER:
                return _mapped(value, self.layers, self.known)
            case What.SOURCE:
                return _mapped(value, self.sources, None)
            case What.COMPOSITION:
                return _mapped(value, self.compositions, None)
        return value


def repointed(layer: Layer, to: Repointing) -> Layer:
    """Return a layer with all its ties followed at once; its own id is as ``to`` says.

    A wobble keeps its wander under another id: a copy moves as the original does.
    """
    properties = {}
    for name, track in layer.properties.items():
        changes: dict[str, Any] = {}
        if track.driver is not None:
            changes["driver"] = to.driver(track.driver)
        parameter = layer.parameter(name)
        if parameter.kind in _KINDS:
            changes["value"] = to.value(parameter, track.value)
            changes["keys"] = tuple(evolve(key, value=to.value(parameter, key.value)) for key in track.keys)
        if track.wobble is not None and not track.wobble.wander and layer.id in to.layers:
            changes["wobble"] = evolve(track.wobble, wander=layer.id)
        properties[name] = evolve(track, **changes) if changes else track
    mattes = tuple(evolve(m, layer=new) for m in layer.mattes if (new := to.layer(m.layer)) is not None)
    edge_pins = tuple(
        evolve(h, layer=new) if h.layer else h for h in layer.edge_pins
        if (new := to.layer(h.layer) if h.layer else "") is not None
    )  # fmt: skip
    dials = tuple((to.inner.get(dial, dial), value) for dial, value in layer.dial_values)
    return evolve(
        layer, id=to.layers.get(layer.id, layer.id), parent=to.layer(layer.parent), mattes=mattes, edge_pins=edge_pins,
        dial_values=dials, properties=properties,
    )  # fmt: skip


def repointed_poses(strip: PoseStrip, to: Repointing) -> PoseStrip:
    """Return a pose strip with the layers of its values followed; values of lost layers go."""
    poses = []
    for pose in strip.poses:
        rows = ((to.layer(layer), name, value) for layer, name, value in pose.values)
        poses.append(evolve(pose, values=tuple((new, name, value) for new, name, value in rows if new is not None)))
    return evolve(strip, poses=tuple(poses))


def dependents(piece: Composition, ids: Iterable[str]) -> tuple[Reference, ...]:
    """Return the ties of everything outside of ``ids`` to layers among them."""
    gone = set(ids)
    return tuple(
        tie for layer in piece.layers if layer.id not in gone
        for tie in layer.ties if tie.what is What.LAYER and tie.target in gone
    )  # fmt: skip


def with_all_needed(piece: Composition, ids: Iterable[str], why: Why | None = None) -> set[str]:
    """Return the ids with those of all layers that they depend on, however far; by ties of one sort where asked."""
    needed, wave = set(ids), list(ids)
    while wave:
        layer = piece.find(wave.pop())
        for tie in layer.ties if layer is not None else ():
            counts = tie.what is What.LAYER and why in (None, tie.why)
            if counts and piece.find(tie.target) is not None:
                more = {tie.target, *((y.id for y in piece.descendants(tie.target)) if tie.whole else ())} - needed
                needed |= more
                wave += more
    return needed


# -- circles ---------------------------------------------------------------------------------------------

_Node = tuple[str, ...]
_WORDS = {"parent": "hangs on", "edge": "is pinned to", "matte": "is cut by"}


def check_circles(piece: Composition) -> None:
    """Refuse layers that depend on themselves by way of any ties, naming the chain.

    Places depend on places, pictures on pictures (a group's on all in it), values on values.
    """
    edges: dict[_Node, list[tuple[_Node, str]]] = {}
    for layer in piece.layers:
        for tie in layer.ties:
            if tie.what is What.LAYER:
                _add_edges(edges, piece, layer, tie)
        if layer.gathers:
            edges.setdefault(("picture", layer.id), []).extend(
                (("picture", below.id), "holds") for below in piece.descendants(layer.id)
            )
    _search(edges, piece)


def _add_edges(edges: dict[_Node, list[tuple[_Node, str]]], piece: Composition, layer: Layer, tie: Reference) -> None:
    if tie.why is Why.VALUE:
        driver = layer.properties[tie.name].driver
        if driver is not None:
            edges.setdefault((layer.id, tie.name), []).append((source_of(layer.id, driver), "follows"))
        return
    kind = "place" if tie.why is Why.PLACE else "picture"
    ways = edges.setdefault((kind, layer.id), [])
    word = _WORDS.get(tie.name, "shows" if tie.whole else "reads")
    ways.append(((kind, tie.target), word))
    if tie.whole:
        ways.extend(((kind, below.id), word) for below in piece.descendants(tie.target))


def _search(edges: dict[_Node, list[tuple[_Node, str]]], piece: Composition) -> None:
    done: set[_Node] = set()
    for start in edges:
        if start in done:
            continue
        path, on_path = [start], {start: 0}
        rest = [iter(edges[start])]
        words: list[str] = []
        while path:
            step = next((way for way in rest[-1] if way[0] not in done), None)
            if step is None:
                done.add(path[-1])
                del on_path[path.pop()]
                rest.pop()
                if words:
                    words.pop()
                continue
            node, word = step
            words.append(word)
            if node in on_path:
                first = on_path[node]
                raise ModelError(_sentence([*path[first:], node], words[first:], piece))
            on_path[node] = len(path)
            path.append(node)
            rest.append(iter(edges.get(node, ())))


def _sentence(chain: list[_Node], words: list[str], piece: Composition) -> str:
    def name(node: _Node) -> str:
        layer = piece.find(node[1] if node[0] in ("place", "picture") else node[0])
        if layer is None:
            return "?"
        label = f": {layer.parameter(node[1]).label}" if words[0] == "follows" and layer.has(node[1]) else ""
        return f"{layer.name}{label}"

    whole = " → ".join(name(node) for node in chain)
    first = name(chain[0])
    match set(words):
        case kinds if kinds == {"hangs on"}:
            return f"Layers cannot be each other's parents: {whole}."
        case kinds if kinds == {"is cut by"}:
            return f"“{first}” cannot be its own matte, not even by way of others: {whole}."
        case kinds if kinds == {"shows"}:
            return f"“{first}” cannot show copies of itself, not even by way of others: {whole}."
        case kinds if kinds <= {"hangs on", "is pinned to"}:
            return f"Layers cannot be pinned to each other in a circle: {whole}."
        case kinds if kinds == {"follows"}:
            return f"Properties cannot follow each other in a circle: {whole}."
    steps = f"“{first}” " + ", which ".join(f"{word} “{name(n)}”" for word, n in zip(words, chain[1:], strict=True))
    return f"Layers cannot depend on each other in a circle: {steps}."
