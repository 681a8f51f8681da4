"""Take layers out of a composition; what depended on them keeps its look, and people are told."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve, frozen

from spiralis.core.editing.edge_pinning import let_go_of
from spiralis.core.editing.linking import baked
from spiralis.core.editing.reparenting import poses_rehung, rehung
from spiralis.core.editing.wording import along_path
from spiralis.core.model import Composition, Layer, Project, Track
from spiralis.core.model.references import Reference, Repointing, Why, dependents, repointed, repointed_poses
from spiralis.core.render.layers import Evaluated, parents_of
from spiralis.core.render.live_paths import LIVE, first_outline


@frozen
class Removal:
    """A composition without some layers, and one sentence for each thing that depended on them."""

    piece: Composition
    gone: frozenset[str]
    notes: tuple[str, ...] = ()


def removed(
    project: Project, piece: Composition, ids: Iterable[str], frame: int = 0, with_members: bool = True
) -> Removal:
    """Return the composition without layers and (``with_members``) all in the groups among them.

    Masks and mattes that nobody else uses go along. What is shown as copies, or cuts others while it is seen itself,
    stays out of sight; values that followed become keys; what hung on a layer stays where it is and moves as before.
    """
    gone = with_all_in(piece, ids) if with_members else set(ids)
    notes: list[str] = []
    piece, gone = _kept_hidden(piece, gone, notes)
    gone = _with_own_mattes(piece, gone)
    piece = _untied_pictures(Evaluated(project, piece, float(frame)), piece, gone, notes)
    loose, held = let_go_of(Evaluated(project, piece, float(frame)), gone)
    piece = loose
    if held:
        notes.append(f"What held to it stays where it is: {_names(held)}.")
    followed = []
    for tie in dependents(piece, gone):
        if tie.why is Why.VALUE:
            followed.append(f"{piece.layer(tie.owner).name}: {piece.layer(tie.owner).parameter(tie.name).full_label}")
            piece = baked(piece, tie.owner, tie.name)
    if followed:
        notes.append(f"What depended on it keeps its look as keys: {_names(followed)}.")
    piece, written = _children_kept(project, piece, gone, frame)
    if written:
        notes.append(f"What moved with it goes on moving, by a key a frame: {_names(written)}.")
    left = tuple(layer for layer in piece.layers if layer.id not in gone)
    known = {layer.id for layer in left}
    result = evolve(piece, layers=left, poses=repointed_poses(piece.poses, Repointing(known=known)))
    for layer_id in sorted(piece.kept_from_sight - result.kept_from_sight - gone):
        notes.append(f"“{piece.layer(layer_id).name}” shows itself again.")
    return Removal(result, frozenset(gone), tuple(notes))


def _names(names: list[str]) -> str:
    unique = list(dict.fromkeys(names))
    return ", ".join(unique[:5]) + (" and more" if len(unique) > 5 else "")


def with_all_in(piece: Composition, ids: Iterable[str]) -> set[str]:
    """Return the ids with those of all layers in the groups among them."""
    found = set(ids)
    for layer_id in tuple(found):
        layer = piece.find(layer_id)
        if layer is not None and layer.gathers:
            found.update(below.id for below in piece.descendants(layer_id))
    return found


def out_of_sight(piece: Composition, tie: Reference) -> Composition:
    """Return the piece where a layer serves another one's picture without being seen itself."""
    owner, target = piece.layer(tie.owner), piece.layer(tie.target)
    if tie.whole:
        return piece.with_layer(owner.with_values(show_source=False))
    if tie.name == "matte":
        mattes = tuple(evolve(m, shown=m.shown and m.layer != target.id) for m in owner.mattes)
        return piece.with_layer(evolve(owner, mattes=mattes))
    return piece.with_layer(target.with_track("visible", Track(False)))


def _kept_hidden(piece: Composition, gone: set[str], notes: list[str]) -> tuple[Composition, set[str]]:
    """Let layers stay that others show as copies, or that cut others and are seen themselves, but out of sight."""
    kept: set[str] = set()
    for tie in dependents(piece, gone):
        owner, target = piece.layer(tie.owner), piece.layer(tie.target)
        if tie.whole:
            piece = out_of_sight(piece, tie)
            kept |= {target.id, *(below.id for below in piece.descendants(target.id))} & gone
            notes.append(f"“{target.name}” stays, out of sight, because “{owner.name}” shows copies of it.")
        elif tie.name == "matte" and any(m.layer == target.id and m.shown for m in owner.mattes):
            piece = out_of_sight(piece, tie)
            kept.add(target.id)
            notes.append(f"“{target.name}” stays, out of sight, because it cuts “{owner.name}”.")
    return piece, gone - kept


def _with_own_mattes(piece: Composition, gone: set[str]) -> set[str]:
    """Return the ids with those of mattes, never seen themselves, that only cut layers among them."""
    found = set(gone)
    wave = set(gone)
    while wave:
        mattes = (m for i in wave for m in piece.layer(i).mattes if not m.shown)
        hidden = {m.layer for m in mattes if piece.find(m.layer) is not None}
        used = {i for i in hidden if any(tie.owner not in found for tie in dependents(piece, [i]))}
        hanging = {y.parent for y in piece.layers if y.id not in found}
        wave = hidden - found - used - hanging
        found |= wave
    return found


def _untied_pictures(at: Evaluated, piece: Composition, gone: set[str], notes: list[str]) -> Composition:
    """Take off mattes, effects' inputs and outlines of words that go, and say so."""
    for tie in dependents(piece, gone):
        if tie.why is not Why.PICTURE:
            continue
        owner, target = piece.layer(tie.owner), piece.layer(tie.target)
        known = set(piece.by_id) - {tie.target}
        if tie.name == LIVE and first_outline(at, target) is not None:
            notes.append(f"“{owner.name}” keeps its path as it is on this frame.")
            piece = piece.with_layer(along_path(at, owner, target))
        elif tie.name == "matte":
            notes.append(f"“{owner.name}” is no longer cut by “{target.name}”.")
            piece = piece.with_layer(evolve(owner, mattes=tuple(m for m in owner.mattes if m.layer != tie.target)))
        else:
            notes.append(f"{owner.parameter(tie.name).full_label} of “{owner.name}” is empty now.")
            cut = repointed(owner, Repointing(known=known))
            piece = piece.with_layer(owner.with_track(tie.name, cut.track(tie.name)))
    return piece


def _children_kept(
    project: Project, piece: Composition, gone: set[str], frame: int
) -> tuple[Composition, list[str]]:
    """Hang what hung on layers that go on the next one above that stays, where it is and moving as before."""
    written: list[str] = []
    changed: dict[str, Layer] = {}
    poses = piece.poses
    for layer in piece.layers:
        if layer.id in gone or layer.parent not in gone:
            continue
        above = next((parent.id for parent in parents_of(piece, layer) if parent.id not in gone), None)
        changed[layer.id], by_keys = rehung(project, piece, layer, above, frame)
        poses = poses_rehung(project, evolve(piece, poses=poses), layer.id, above, frame)
        if by_keys:
            written.append(layer.name)
    if changed:
        layers = tuple(changed.get(layer.id, layer) for layer in piece.layers)
        piece = evolve(piece, layers=layers, poses=poses)
    return piece, written
