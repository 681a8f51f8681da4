"""Take layers out of a project with all that they show, and put them into another or the same one."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve

from spiralis.core.editing.artwork import unused
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.nesting import with_fresh_ids
from spiralis.core.editing.sources import sources_of
from spiralis.core.model import Composition, Layer, Project, Track, Value, new_id
from spiralis.core.model.project import nested_ids


def taken_out(project: Project, composition_id: str, ids: Sequence[str]) -> Project:
    """Return a project with one composition of just these layers, the compositions they nest, and their files.

    Ties to layers that stay behind are cut.
    """
    piece = project.composition(composition_id)
    kept = {layer.id for layer in piece.layers if layer.id in set(ids)}
    layers = tuple(_untied(layer, kept) for layer in piece.layers if layer.id in kept)
    first = evolve(piece, layers=layers)
    pieces = {first.id: first}
    wave = [first]
    while wave:
        found = [project.find(i) for shown in wave for i in nested_ids(shown) if i not in pieces]
        wave = [inner for inner in found if inner is not None]
        pieces.update((inner.id, inner) for inner in wave)
    used = {source for shown in pieces.values() for layer in shown.layers for source in sources_of(layer)}
    fonts = {source.id for source in project.sources if source.kind == "font"}
    sources = tuple(source for source in project.sources if source.id in used | fonts)
    return Project("Taken out", tuple(pieces.values()), sources)


def _untied(layer: Layer, kept: set[str]) -> Layer:
    mattes = tuple(matte for matte in layer.mattes if matte.layer in kept)
    return evolve(layer, parent=layer.parent if layer.parent in kept else None, mattes=mattes)


def put_in(project: Project, composition_id: str, held: Project, index: int) -> tuple[Project, tuple[str, ...]]:
    """Return the project with the layers of ``held``'s first composition before a place, and their new ids.

    Files with the same bytes, and compositions that are there unchanged, are shared; others are added.

    Raises:
        ModelError: a composition would come to show itself.
    """
    sources: dict[str, str] = {}
    for source in held.sources:
        fresh = source if project.source(source.id) is None else evolve(source, id=new_id())
        project, used = project.with_source(source if project.source(source.id) == source else fresh)
        sources[source.id] = used.id
    pieces: dict[str, str] = {}
    for inner in reversed(held.compositions[1:]):
        project = _with_piece(project, inner, sources, pieces)
    layers = with_fresh_ids(evolve(held.compositions[0], layers=held.compositions[0].layers)).layers
    target = project.composition(composition_id)
    taken = {layer.name for layer in target.layers}
    made = []
    for layer in layers:
        name = unused_name(layer.name, taken)
        taken.add(name)
        made.append(evolve(_pointing(layer, sources, pieces), name=name))
    changed = evolve(target, layers=(*target.layers[:index], *made, *target.layers[index:]))
    return project.with_composition(changed), tuple(layer.id for layer in made)


def _with_piece(project: Project, inner: Composition, sources: dict[str, str], pieces: dict[str, str]) -> Project:
    if project.find(inner.id) == inner:
        return project
    layers = tuple(_pointing(layer, sources, pieces) for layer in inner.layers)
    name = unused(inner.name, {c.name for c in project.compositions})
    copy = evolve(inner, layers=layers, name=name)
    if project.find(inner.id) is not None:
        copy = evolve(copy, id=new_id())
        pieces[inner.id] = copy.id
    return project.with_composition(copy)


def _pointing(layer: Layer, sources: dict[str, str], pieces: dict[str, str]) -> Layer:
    """Return the layer with its files and compositions by the ids that they have in the other project."""
    changes: dict[str, Track] = {}
    for name, ids in (("source", sources), ("composition", pieces), ("drawings", sources)):
        track = layer.properties.get(name)
        if track is not None:
            keys = tuple(evolve(key, value=_swapped(key.value, ids)) for key in track.keys)
            changes[name] = evolve(track, value=_swapped(track.value, ids), keys=keys)
    return evolve(layer, properties={**layer.properties, **changes}) if changes else layer


def _swapped(value: Value, ids: dict[str, str]) -> Value:
    if isinstance(value, str):
        return ids.get(value, value)
    return tuple((ids.get(source, source), stay) for source, stay in value)
