"""Make slots, list those that reach a piece, and fill them."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path

from attrs import evolve, frozen

from spiralis.core.editing.exchanging import Size, of_kind, size_of, with_content_sized
from spiralis.core.editing.flattening import read_one_source
from spiralis.core.editing.wording import with_words
from spiralis.core.errors import ModelError, UnknownName
from spiralis.core.geometry import Box
from spiralis.core.media.sources import check_taken, kinds_taken
from spiralis.core.model import Composition, Kind, Layer, Parameter, Project, Source, Track, Value, layer_kind
from spiralis.core.model.slots import Slot, Variant, may_be_slot
from spiralis.core.render.layers import Evaluated


@frozen
class Place:
    """Where a slot is: the composition, the layer and the property."""

    piece: str
    layer: str
    slot: Slot


@frozen
class OpenSlot:
    """Slots of one name that reach a piece, its own and those of what is nested in it; the first one's limits hold."""

    name: str
    places: tuple[Place, ...]

    @property
    def slot(self) -> Slot:
        """The first one."""
        return self.places[0].slot

    def parameter(self, project: Project) -> Parameter:
        """Return the property that it fills first."""
        first = self.places[0]
        return project.composition(first.piece).layer(first.layer).parameter(first.slot.property)

    def kind(self, project: Project) -> Kind:
        """Return what sort of value it takes: a file, where it is all that a layer shows."""
        parameter = self.parameter(project)
        return Kind.SOURCE if parameter.all_shown else parameter.kind

    def shows_own(self, project: Project) -> bool:
        """Whether the first layer still shows outlines or a composition of its own, where a file can be filled in."""
        return self.kind(project) is not self.parameter(project).kind

    def value(self, project: Project) -> Value:
        """Return what it holds now: no file ("") while a layer shows its own outlines or another composition."""
        first = self.places[0]
        if self.shows_own(project):
            return ""
        return project.composition(first.piece).layer(first.layer).track(first.slot.property).value


def open_slots(project: Project, piece: Composition) -> tuple[OpenSlot, ...]:
    """Return the slots that reach a piece, in the order of its layers from front to back, then of what it nests."""
    found: dict[str, list[Place]] = {}
    seen: set[str] = set()
    waiting = [piece]
    while waiting:
        at = waiting.pop(0)
        if at.id in seen:
            continue
        seen.add(at.id)
        for layer in at.layers:
            for slot in layer.slots:
                if layer.has(slot.property):
                    found.setdefault(slot.name, []).append(Place(at.id, layer.id, slot))
        waiting += [inner for one in at.nested if (inner := project.find(one)) is not None]
    return tuple(OpenSlot(name, tuple(places)) for name, places in found.items())


def room_of(project: Project, piece: Composition, layer: Layer) -> tuple[float, float]:
    """Return width and height of a layer's content with its own scale, in px."""
    box = _box(project, piece, layer)
    across, down = _scale(layer)
    return abs((box[2] - box[0]) * across), abs((box[3] - box[1]) * down)


def _box(project: Project, piece: Composition, layer: Layer) -> Box:
    """Return a layer's content box where it begins to be seen."""
    at = Evaluated(project, piece.with_layer(layer), max(layer.first, 0))
    return at.box(layer)


def _scale(layer: Layer) -> tuple[float, float]:
    """Return the scale that sizes are told beside, 1 for 100 %: the largest where there are keys, as a layer may come
    up from nothing."""
    track = layer.track("scale")
    values = [key.value for key in track.keys] or [track.value]
    across, down = max(values, key=lambda value: abs(value[0] * value[1]))
    return across / 100, down / 100


def with_slot(project: Project, piece: Composition, layer_id: str, slot: Slot) -> Project:
    """Return the project where a property is a slot, its room measured as it is now.

    Where it had another name, what tables hold for it is found under the new one.

    Raises:
        ModelError: it is of no sort that can be filled, or changes over time.
    """
    layer = piece.layer(layer_id)
    parameter = layer.parameter(slot.property)
    if not may_be_slot(parameter):
        can = "words, pictures, outlines, colours, fonts and numbers can"
        raise ModelError(f"{parameter.label} cannot be a slot; {can}.")
    if layer.track(slot.property).moving:
        raise ModelError(f"{parameter.label} of “{layer.name}” changes over time, so that no one value can fill it.")
    old = layer.slot(slot.property)
    if old is not None and old.room != (0.0, 0.0):
        made = evolve(slot, room=old.room, base=old.base, scale=old.scale, type=old.type)
    else:
        sized = layer.has("size") and parameter.kind is Kind.TEXT
        made = evolve(slot, room=room_of(project, piece, layer), base=_type_of(layer) if sized else 0.0)
        made = _noted(layer, made)
    done = project.with_composition(piece.with_layer(layer.with_slot(made)))
    return done if old is None or old.name == slot.name else _cells_renamed(project, done, piece.id, old, slot.name)


def _cells_renamed(before: Project, after: Project, piece_id: str, old: Slot, name: str) -> Project:
    """Return ``after`` with the rows of all tables that fill a slot of a piece holding it under its new name, and under
    the old one where others still have that."""

    def renamed(row: Variant, stays: bool) -> Variant:
        text = row.cell(old.name)
        if text is None or row.cell(name) is not None:
            return row
        if stays:
            return row.with_cell(name, text)
        return Variant(tuple((name if slot == old.name else slot, held) for slot, held in row.cells))

    for piece in after.compositions:
        was = next((slot for slot in open_slots(before, before.composition(piece.id)) if slot.name == old.name), None)
        if piece.variants and was is not None and piece_id in {place.piece for place in was.places}:
            stays = any(slot.name == old.name for slot in open_slots(after, piece))
            rows = tuple(renamed(row, stays) for row in piece.variants)
            after = after.with_composition(evolve(piece, variants=rows))
    return after


def _type_of(layer: Layer) -> float:
    return float(layer.track("size").value)


def _noted(layer: Layer, slot: Slot) -> Slot:
    """Return a slot that knows how large its layer is set now."""
    across, down = _scale(layer)
    return evolve(slot, scale=(abs(across), abs(down)), type=_type_of(layer) if slot.base > 0 else 0.0)


def _as_set(layer: Layer, slot: Slot) -> Slot:
    """Return a slot with the room that it has now that its layer may be set larger or smaller."""
    shares = [abs(now) / was if now and was > 0 else 1.0 for now, was in zip(_scale(layer), slot.scale, strict=True)]
    by = _type_of(layer) / slot.type if slot.type > 0 else 1.0
    room = (slot.room[0] * shares[0] * by, slot.room[1] * shares[1] * by)
    return _noted(layer, evolve(slot, room=room, base=slot.base * by))


def filled(project: Project, piece_id: str, values: Mapping[str, Value | Source]) -> Project:
    """Return the project with slots of a piece filled, by their names; a Source is for pictures and footage.

    Raises:
        UnknownName: there is no slot of that name.
        ModelError: a value is none that the property takes.
    """
    slots = {slot.name: slot for slot in open_slots(project, project.composition(piece_id))}
    for name, value in values.items():
        if name not in slots:
            known = ", ".join(f"“{one}”" for one in slots) or "none"
            raise UnknownName(f"There is no slot “{name}” in “{project.composition(piece_id).name}”; it has {known}.")
        for place in slots[name].places:
            project = _filled_at(project, place, value)
    return project


def _filled_at(project: Project, place: Place, value: Value | Source) -> Project:
    piece = project.composition(place.piece)
    layer = piece.layer(place.layer)
    slot = _as_set(layer, place.slot)
    if isinstance(value, Source):
        parameter = layer.parameter(slot.property)
        project, value = project.with_source(check_taken(value, parameter))
        if parameter.all_shown:
            return project.with_composition(_pictured(project, piece, layer, slot, value))
        value = value.id
    track = layer.track(slot.property)
    value = layer.parameter(slot.property).check(value)
    if slot.property == "text":
        layer = with_words(layer, value)
    made = layer.with_track(slot.property, Track(value) if track.moving else evolve(track, value=value))
    if layer.parameter(slot.property).kind is Kind.TEXT and slot.fit != "as set":
        made = _fitted(project, piece, made, slot)
        made = made.with_slot(_noted(made, slot))
    return project.with_composition(piece.with_layer(made))


def _pictured(project: Project, piece: Composition, layer: Layer, slot: Slot, source: Source) -> Composition:
    """Return the piece with another picture that takes the room of what a layer showed first; what is too much is
    cropped."""
    corner, old = _shown(project, piece, layer, slot)
    own, fills = size_of(source), slot.fit != "as set" and min(*slot.room, *size_of(source)) > 0
    layer, slot = _showing(layer, slot, source)
    by = (1.0, 1.0)
    if fills:
        shares = (slot.room[0] / own[0], slot.room[1] / own[1])
        share = {"contain": min(shares), "cover": max(shares), "width": shares[0]}[slot.fit]
        layer = _cropped_to(layer, tuple(slot.room[i] / (own[i] * share) for i in (0, 1)))
        by = tuple(share / abs(part) if part else 1.0 for part in _scale(layer))  # type: ignore[assignment]
    elif corner is None:
        return piece.with_layer(layer)
    piece = with_content_sized(piece, layer, old if min(old) > 0 else own, own, by, corner or (0.0, 0.0))
    made = piece.layer(layer.id)
    return piece.with_layer(made.with_slot(_noted(made, slot)))


def _shown(project: Project, piece: Composition, layer: Layer, slot: Slot) -> tuple[Size | None, Size]:
    """Return the corner and the size of what a layer shows, in its own units; no corner for files, which have theirs at
    zero."""
    value = layer.track(slot.property).value
    if layer.parameter(slot.property).kind is Kind.SOURCE:
        return None, size_of(project.source(value))
    left, top, right, bottom = _box(project, piece, layer)
    return (left, top), (right - left, bottom - top)


def _showing(layer: Layer, slot: Slot, source: Source) -> tuple[Layer, Slot]:
    """Return a layer that shows a source and nothing else, and its slot."""
    made = of_kind(layer, source.sort.layer)
    name = next(parameter.name for parameter in layer_kind(made.kind).parameters if parameter.all_shown)
    renamed = evolve(slot, property=name)
    slots = tuple(renamed if each.property == slot.property else each for each in made.slots)
    return evolve(made, slots=slots).with_track(name, Track(source.id)), renamed


def _cropped_to(layer: Layer, shares: tuple[float, ...]) -> Layer:
    """Crop a layer to so much of it, across and down, about its pivot; what is animated stays as it is."""
    pivot = layer.track("pivot").value
    for name, share, at in zip(("crop_across", "crop_down"), shares, pivot, strict=True):
        if layer.track(name).moving:
            continue
        over = 100 * max(1 - share, 0.0)
        part = min(max(at / 100, 0.0), 1.0)
        layer = layer.with_track(name, Track((round(over * part, 4), round(over * (1 - part), 4))))
    return layer


def _fitted(project: Project, piece: Composition, layer: Layer, slot: Slot) -> Layer:
    """Return words that fit the room of those before: smaller where they are wider, or in several lines."""
    if not (layer.has("flow") and layer.has("size")) or layer.track("size").moving or layer.track("flow").moving:
        return layer
    scale = _scale(layer)
    room = tuple(side / abs(part) if part else side for side, part in zip(slot.room, scale, strict=True))
    if slot.fit == "wrap":
        return layer.with_values(flow="box", frame=(max(room[0], 1.0), max(room[1], 1.0)))
    if layer.track("flow").value != "lines" or slot.base <= 0:
        return layer  # It fits its frame by itself.
    layer = layer.with_values(size=slot.base)
    box = _box(project, piece, layer)
    wide, tall = box[2] - box[0], box[3] - box[1]
    by = min(1.0, room[0] / wide if wide > 0 else 1.0, room[1] / tall if tall > 0 else 1.0)
    return layer.with_values(size=max(round(slot.base * by, 3), 1.0)) if by < 1 else layer


def overflow(project: Project, place: Place) -> float:
    """Return how much wider or taller words are than their room, as a share: 0 where they fit."""
    piece = project.composition(place.piece)
    layer = piece.layer(place.layer)
    own, given = room_of(project, piece, layer), _as_set(layer, place.slot).room
    over = [side / room - 1 for side, room in zip(own, given, strict=True) if room > 0]
    return max([0.0, *over])


def source_in(project: Project, path: Path, slot: OpenSlot) -> Source:
    """Read a file for a slot; outlines are drawn as large as its room needs them.

    Raises:
        SpiralisError: the file cannot be read, or is none that the slot takes.
    """
    parameter, room = slot.parameter(project), slot.slot.room
    keeps = parameter.all_shown and slot.slot.fit == "as set"
    return check_taken(read_one_source(path, project, (0.0, 0.0) if keeps else room), parameter)


def source_for(project: Project, slot: OpenSlot, name: str, folder: Path | None) -> Source:
    """Return the file of a name for a slot: one of the project's, or one in a folder.

    Raises:
        UnknownName: there is none; FileError: it cannot be read, or shows nothing.
    """
    wanted, kinds = name.strip(), kinds_taken(slot.parameter(project))
    for source in project.sources:
        if source.sort in kinds and wanted in (source.name, source.id, Path(source.name).stem) and not source.missing:
            return source
    if folder is not None:
        path = folder / wanted
        # A table may not lead out of its folder.
        if path.resolve().is_relative_to(folder.resolve()) and path.is_file():
            return source_in(project, path, slot)
    where = f"“{folder}”" if folder is not None else "the project; choose the folder of the pictures"
    what = kinds[0].name if len(kinds) == 1 else "picture"
    raise UnknownName(f"There is no {what} “{wanted}” in {where}.")
