"""Which segments Pace works on, and the edits it makes. Qt-free but for the session."""

from __future__ import annotations

from attrs import evolve, frozen

from spiralis.app.session import Session
from spiralis.core.animation.easing import HOLD, Easing
from spiralis.core.editing.keys import KeyRef, by_track
from spiralis.core.editing.shaping import with_easing
from spiralis.core.model import Composition, Extend, Key, Layer, Parameter, Rule, Track


@frozen
class Segment:
    """The segment that is drawn: from ``left`` to ``right``, two neighbouring keys of a thread."""

    layer: Layer
    parameter: Parameter
    track: Track
    left: Key
    right: Key

    @property
    def title(self) -> str:
        """Layer, property and frames."""
        return f"{self.layer.name} · {self.parameter.full_label} · {self.left.frame} → {self.right.frame}"


def main_thread(session: Session) -> tuple[Layer, str] | None:
    """Return the thread that Pace shows: that of the chosen keys, else the chosen layer's first one; rather one whose
    values run from key to key than one that holds them."""
    refs = sorted(session.keys, key=lambda r: (r.frame, r.name))
    chosen = [(layer, ref.name) for ref in refs if (layer := session.composition.find(ref.layer)) is not None]
    return _first(chosen) or _first([(layer, name) for layer in session.layers for name in layer.animated()])


def _first(threads: list[tuple[Layer, str]]) -> tuple[Layer, str] | None:
    """Return the first thread of two keys or more whose values run, or else the first that holds them."""
    keyed = [(layer, name) for layer, name in threads if len(layer.track(name).keys) > 1]
    runs = (thread for thread in keyed if thread[0].parameter(thread[1]).numeric)
    return next(runs, keyed[0] if keyed else None)


def chosen_tracks(session: Session) -> list[tuple[Layer, str]]:
    """Return the threads of the chosen keys, or all threads of the chosen layers, that have two keys or more."""
    if session.keys:
        names = {(ref.layer, ref.name) for ref in session.keys}
    else:
        names = {(layer.id, name) for layer in session.layers for name in layer.animated()}
    found = [(y, name) for y in session.composition.layers for name in y.animated() if (y.id, name) in names]
    return [(layer, name) for layer, name in found if len(layer.track(name).keys) > 1]


def shown_segment(session: Session) -> Segment | None:
    """Return the segment to draw: the one after the first chosen key, else the one under the playhead.

    What cannot run from one value to the other, such as words or a switch, holds, whatever its key says.
    """
    thread = main_thread(session)
    if thread is None:
        return None
    layer, name = thread
    track = layer.track(name)
    chosen = sorted(ref.frame for ref in session.keys if (ref.layer, ref.name) == (layer.id, name))
    at = chosen[0] if chosen else session.frame
    index = max((i for i, key in enumerate(track.keys) if key.frame <= at), default=0)
    index = min(index, len(track.keys) - 2)
    parameter, left = layer.parameter(name), track.keys[index]
    left = left if parameter.numeric else evolve(left, easing=HOLD)
    return Segment(layer, parameter, track, left, track.keys[index + 1])


def chosen_starts(session: Session) -> set[KeyRef]:
    """Return the keys whose segments an ease goes to: the chosen ones that have a next key, or the shown one."""
    starts = set()
    for (layer_id, name), frames in by_track(session.keys).items():
        layer = session.composition.find(layer_id)
        if layer is None:
            continue
        keys = layer.track(name).keys if layer.parameter(name).numeric else ()
        inner = [key.frame for key in keys[:-1] if key.frame in frames]
        if not inner and len(keys) > 1 and keys[-1].frame in frames:
            inner = [keys[-2].frame]
        starts |= {KeyRef(layer_id, name, frame) for frame in inner}
    segment = shown_segment(session)
    if not starts and segment is not None and segment.parameter.numeric:
        starts.add(KeyRef(segment.layer.id, segment.parameter.name, segment.left.frame))
    return starts


def set_easing(session: Session, easing: Easing, label: str, merge: str | None = None) -> None:
    """Ease all chosen segments like this."""
    starts = chosen_starts(session)
    if not starts:
        return

    def change(composition: Composition) -> Composition:
        for (layer_id, name), frames in by_track(starts).items():
            layer = composition.layer(layer_id)
            if not layer.locked:
                composition = composition.with_layer(
                    layer.with_track(name, with_easing(layer.track(name), frames, easing))
                )
        return composition

    session.edit(f"Ease: {label}", change, merge)


def set_extend(session: Session, rule: Rule, before: bool, count: int = 0, merge: str | None = None) -> None:
    """Set what the threads of the chosen keys, or the shown one, do before or after their keys, and how many times
    (0: for ever)."""
    shown = main_thread(session)
    if shown is None:
        return
    threads = {(layer.id, name) for layer, name in (chosen_tracks(session) if session.keys else [shown])}
    side = "before" if before else "after"

    def change(old: Layer) -> Layer:
        for owner, name in threads:
            if owner == old.id:
                old = old.with_track(name, evolve(old.track(name), **{side: Extend(rule, count)}))
        return old

    session.edit_layers(f"{side.capitalize()}: {rule.value}", change, {owner for owner, _ in threads}, merge)
