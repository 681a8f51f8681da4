"""Values typed in Details, set on all chosen layers."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Iterator

from spiralis.app.session import Session
from spiralis.app.widgets.preferences import new_pace
from spiralis.core.editing.edits import toggle_key
from spiralis.core.editing.keys import KeyRef, keys_with_value
from spiralis.core.editing.linking import set_seen_value, settable
from spiralis.core.model import Composition, Kind, Layer, Parameter, Track, Value
from spiralis.core.render.layers import Evaluated

_NUMBERS = (Kind.NUMBER, Kind.PAIR)


def _several(values: Iterable[object]) -> bool:
    """Return whether not all of the values are the same."""
    values = iter(values)
    first = next(values, None)
    return any(value != first for value in values)


def _bare(track: Track) -> bool:
    """Return whether what it gives depends on the moment alone."""
    return track.driver is None and track.wobble is None


def _of_first(layer: Layer) -> str:
    return f"Not the same on all chosen layers; that of “{layer.name}” is shown"


class ChosenValues:
    """Takes what a row says for the chosen layers; what belongs to one gesture is one step to undo."""

    def __init__(self, session: Session) -> None:
        self.session = session
        self._gesture = 0
        #: The gesture that changes what each layer has of its own, the version and frame it has come to; what it found.
        self._found: tuple[tuple[str, int, int], Evaluated] | None = None

    def merge(self, what: str) -> str:
        """Return the name under which the edits of the present gesture join: of the same layers only."""
        return f"details-{what}-{self._gesture}-{'-'.join(self.session.selected)}"

    def finish(self) -> None:
        """End the gesture."""
        self._gesture += 1
        self.session.close_step()

    def toggle(self, parameter: Parameter) -> None:
        """Set a key on every chosen layer, or take it."""
        frame = self.session.frame
        name, pace = parameter.name, new_pace()
        self.session.edit_layers(f"Key for {parameter.label}", lambda y: toggle_key(y, name, frame, pace))

    def keys_of(self, parameter: Parameter) -> list[KeyRef]:
        """Return the chosen keys of a property, where there are several: what is typed then means all of them."""
        chosen = [ref for ref in self.session.keys if ref.name == parameter.name and ref.layer in self.session.selected]
        place = self.session.composition.place_of
        return sorted(chosen, key=lambda ref: (place[ref.layer], ref.frame)) if len(chosen) > 1 else []

    def shown(self, parameter: Parameter) -> Value:
        """Return what a row shows: the first chosen key's value where several are chosen, else that at the playhead."""
        keys, session = self.keys_of(parameter), self.session
        if keys:
            for value in self._held(session.composition, keys[:1]):
                return value
        return session.evaluated().values(session.layers[0])[parameter.name]

    def _held(self, piece: Composition, keys: list[KeyRef]) -> Iterator[Value]:
        """Give the keys' values."""
        for ref in keys:
            track = piece.layer(ref.layer).track(ref.name)
            index = track.index_at(ref.frame)
            if index is not None:
                yield track.keys[index].value

    def unlike(self, parameter: Parameter) -> str:
        """Return a sentence where the chosen layers, or keys, do not all have what the row shows, else nothing."""
        session, name = self.session, parameter.name
        if keys := self.keys_of(parameter):
            unlike = _several(self._held(session.composition, keys))
            return "Not the same on all chosen keys; that of the first is shown" if unlike else ""
        first, *others = session.layers
        values, own = session.evaluated().values, first.track(name)
        if any(
            not (_bare(own) and layer.track(name) == own) and values(layer)[name] != values(first)[name]
            for layer in others
        ):
            return _of_first(first)
        return ""

    def unlike_in(self, of: Callable[[Layer], object]) -> str:
        """Return the sentence where the chosen layers differ in what ``of`` gives of each, else nothing."""
        layers = self.session.layers
        return _of_first(layers[0]) if _several(map(of, layers)) else ""

    def take(self, parameter: Parameter, value: Value, relative: bool = False) -> None:
        """Set the value on all chosen layers, or change each by as much as the first where ``relative``.

        Pairs change by component, so that each layer keeps its other one.
        """
        layers = self.session.layers
        if not layers:
            return
        shown = self.shown(parameter)
        if keys := self.keys_of(parameter):
            self._take_on_keys(parameter, keys, value, shown, relative)
            return
        if relative and len(layers) > 1 and parameter.kind in _NUMBERS:
            self._take_difference(parameter, value, shown)
            return
        merge = self.merge(parameter.name)
        if len(layers) == 1 or parameter.kind is not Kind.PAIR:
            own_words = parameter.kind is Kind.TEXT and len(layers) > 1 and self.unlike(parameter)
            self.session.set_property(parameter.name, value, merge=merge)
            if own_words:
                self.session.said.emit(f"All {len(layers)} layers have these words now; undo brings back their own.")
            return
        at, frame = self.session.evaluated(), self.session.frame

        def change(layer: Layer) -> Layer:
            own = at.values(layer)[parameter.name]
            pair = tuple(new if new != old else mine for new, old, mine in zip(value, shown, own, strict=True))
            return set_seen_value(at.composition, layer, parameter.name, pair, frame)

        self.session.edit_layers(f"{parameter.label} of {len(layers)} layers", change, merge=merge)

    def take_same(self, parameter: Parameter, value: Value, part: int) -> None:
        """Give all chosen layers, or keys, what the first one has, or that component of it: it was typed."""

        def wanted(own: Value) -> Value:
            if part < 0:
                return value
            return tuple(value[place] if place == part else mine for place, mine in enumerate(own))

        self.take_each(parameter, wanted)

    def take_each(self, parameter: Parameter, change: Callable[[Value], Value], relative: bool = False) -> None:
        """Change what each chosen layer, or key, has of its own, as the present gesture found it.

        Where ``relative``, numbers change by as much as the first one's does.
        """
        session, keys = self.session, self.keys_of(parameter)
        found, now = session.evaluated(), (self.merge(parameter.name), session.version, session.frame)
        if self._found is not None and self._found[0] == now:
            found = self._found[1]
        if relative and parameter.kind in _NUMBERS:
            first = next(self._held(found.composition, keys[:1]), found.values(session.layers[0])[parameter.name])
            self.take(parameter, change(first), relative)
        elif keys:
            made = keys_with_value(found.composition, keys, lambda _, own: change(own))
            if made != session.composition:
                session.edit(f"{parameter.label} of {len(keys)} keys", lambda _: made, now[0])
        else:
            self._change_each(parameter, change, found)
        self._found = ((now[0], session.version, session.frame), found)

    def _change_each(self, parameter: Parameter, change: Callable[[Value], Value], found: Evaluated) -> None:
        """Change what each chosen layer had; what would be as it was is so, without a key of its own."""
        session, name = self.session, parameter.name
        layers = settable(session.composition, session.layers, name)
        target = layers[0].name if len(layers) == 1 else f"{len(layers)} layers"

        before = found.composition.by_id
        own = {layer.id: found.values(before[layer.id])[name] for layer in layers}
        wanted = {layer_id: change(value) for layer_id, value in own.items()}

        def changed(layer: Layer) -> Layer:
            if wanted[layer.id] == own[layer.id]:
                return layer.with_track(name, before[layer.id].track(name))
            return set_seen_value(found.composition, layer, name, wanted[layer.id], session.frame)

        if wanted != own or any(layer.track(name) != before[layer.id].track(name) for layer in layers):
            session.edit_layers(f"{parameter.full_label} of {target}", changed, list(own), self.merge(name))

    def _take_on_keys(
        self, parameter: Parameter, keys: list[KeyRef], value: Value, shown: Value, relative: bool
    ) -> None:
        """Give all chosen keys the value, of a pair what of it has changed; or change each by as much."""
        def change(layer: Layer, own: Value) -> Value:
            if relative and parameter.kind in _NUMBERS:
                by = parameter.to_array(value) - parameter.to_array(shown)
                return parameter.from_array(parameter.to_array(own) + by)
            if parameter.kind is Kind.PAIR:
                return tuple(new if new != old else mine for new, old, mine in zip(value, shown, own, strict=True))
            return value

        self.session.edit(
            f"{parameter.label} of {len(keys)} keys", lambda piece: keys_with_value(piece, keys, change),
            merge=self.merge(parameter.name),
        )  # fmt: skip

    def _take_difference(self, parameter: Parameter, value: Value, shown: Value) -> None:
        at, frame = self.session.evaluated(), self.session.frame
        by = parameter.to_array(value) - parameter.to_array(shown)

        def change(layer: Layer) -> Layer:
            own = parameter.to_array(at.values(layer)[parameter.name]) + by
            return set_seen_value(at.composition, layer, parameter.name, parameter.from_array(own), frame)

        count, merge = len(self.session.layers), self.merge(parameter.name)
        self.session.edit_layers(f"{parameter.label} of {count} layers", change, merge=merge)
