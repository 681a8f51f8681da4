"""Take layers out of a project with all that they show, and put them into another or the same one."""

from __future__ import annotations

from collections.abc import Sequence

from attrs import evolve, frozen

from spiralis.core.editing.artwork import unused
from spiralis.core.editing.duplicating import with_their_own
from spiralis.core.editing.edits import unused_name
from spiralis.core.editing.keys import fewer_keys_note
from spiralis.core.editing.reformat import retimed
from spiralis.core.editing.removing import out_of_sight, removed
from spiralis.core.model import Composition, Layer, Project, Track, new_id
from spiralis.core.model.references import Repointing, What, Why, repointed, with_all_needed

#: The composition that travels beside the layers: them, and all that they are tied to, as it was.
_BESIDE = "beside"


@frozen
class Pasted:
    """The project with layers put in, their new ids, and a sentence for each thing that is not as it was."""

    project: Project
    layers: tuple[str, ...]
    notes: tuple[str, ...] = ()


def taken_out(project: Project, composition_id: str, ids: Sequence[str]) -> Project:
    """Return a project with one composition of just these layers, the compositions they nest, and their files.

    Masks that hang on the layers and all in groups among them come along. Beside it stands a composition of everything
    that the layers are tied to, so that whoever puts them in elsewhere can keep what is seen.
    """
    piece = project.composition(composition_id)
    kept = with_their_own(piece, ids)
    needed = with_all_needed(piece, kept)
    first = evolve(piece, layers=tuple(layer for layer in piece.layers if layer.id in kept))
    pieces = {first.id: first}
    wave = [first]
    if needed > kept:
        beside = evolve(piece, id=_BESIDE, layers=tuple(layer for layer in piece.layers if layer.id in needed))
        pieces[_BESIDE] = beside
        wave.append(beside)
    while wave:
        found = [project.find(i) for shown in wave for i in shown.nested if i not in pieces]
        wave = [inner for inner in found if inner is not None]
        pieces.update((inner.id, inner) for inner in wave)
    ties = (tie for shown in pieces.values() for layer in shown.layers for tie in layer.ties)
    used = {tie.target for tie in ties if tie.what is What.SOURCE}
    sources = tuple(source for source in project.sources if source.id in used or source.sort.sets_words)
    return Project("Taken out", tuple(pieces.values()), sources)


def put_in(project: Project, composition_id: str, held: Project, index: int) -> Pasted:
    """Return the project with the layers of ``held``'s first composition before a place.

    Files with the same bytes, and compositions that are there unchanged, are shared; others are added. Ties among the
    layers lead to the new ones. Ties to layers that the target has as well stay; where it has not, what is seen is
    kept as far as it can be, and a note says what was cut. In a piece of another rate everything keeps its seconds.

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
        if inner.id != _BESIDE:
            project = _with_piece(project, inner, sources, pieces)
    target = project.composition(composition_id)
    first, notes = _parted(held, target)
    if first.rate != target.rate:
        before, first = first, retimed(first, target.rate)
        fewer = fewer_keys_note(before, first)
        rates = f"{float(held.compositions[0].rate):g} and {float(target.rate):g} frames a second"
        notes.append(f"The keys keep their seconds, as the pieces run at {rates}{fewer and '; ' + fewer}.")
    ids = {layer.id: new_id() for layer in first.layers}
    to = Repointing(layers=ids, sources=sources, compositions=pieces, known=set(target.by_id))
    taken = {layer.name for layer in target.layers}
    made: list[Layer] = []
    for layer in first.layers:
        name = unused_name(layer.name, taken)
        taken.add(name)
        made.append(evolve(repointed(layer, to), name=name))
    changed = evolve(target, layers=(*target.layers[:index], *made, *target.layers[index:]))
    return Pasted(project.with_composition(changed), tuple(layer.id for layer in made), tuple(notes))


def _parted(held: Project, target: Composition) -> tuple[Composition, list[str]]:
    """Return the first composition with its layers parted from those that do not come along, looks kept."""
    first, beside = held.compositions[0], held.find(_BESIDE)
    if beside is None:
        return first, []
    # Mattes, sources of copies and what effects read are part of the picture: they come along.
    drawn = with_all_needed(beside, first.by_id, Why.PICTURE)
    kept = {i for i in drawn if i in first.by_id or target.find(i) is None}
    lost = [layer.id for layer in beside.layers if layer.id not in kept and target.find(layer.id) is None]
    # The frame of the copy is not known; the first that all of them show is as good as any.
    frame = max((layer.first for layer in first.layers), default=0)
    removal = removed(held, beside, lost, frame, with_members=False)
    left = evolve(first, layers=tuple(layer for layer in removal.piece.layers if layer.id in kept))
    left, hidden = _unseen(left, kept - set(first.by_id))
    return left, [*removal.notes, *hidden]


def _unseen(piece: Composition, came: set[str]) -> tuple[Composition, list[str]]:
    """Keep from sight what only came along because others need it: nobody asked to see it here."""
    notes = []
    for owner in piece.layers:
        for tie in owner.ties:
            target = piece.find(tie.target) if tie.what is What.LAYER and tie.why is Why.PICTURE else None
            if target is None or target.id not in came or target.id in piece.kept_from_sight:
                continue
            if target.track("visible") != Track(False):
                piece = out_of_sight(piece, tie)
                notes.append(f"“{target.name}” came along, out of sight, for “{owner.name}”.")
    return piece, notes


def _with_piece(project: Project, inner: Composition, sources: dict[str, str], pieces: dict[str, str]) -> Project:
    if project.find(inner.id) == inner:
        return project
    to = Repointing(sources=sources, compositions=pieces)
    layers = tuple(repointed(layer, to) for layer in inner.layers)
    name = unused(inner.name, {c.name for c in project.compositions})
    copy = evolve(inner, layers=layers, name=name)
    if project.find(inner.id) is not None:
        copy = evolve(copy, id=new_id())
        pieces[inner.id] = copy.id
    return project.with_composition(copy)
