"""Let chosen layers rest at a frame: their motion stops there, waits, and goes on as it was."""

from __future__ import annotations

from collections.abc import Iterable

from attrs import evolve

from spiralis.core.animation.easing import LINEAR
from spiralis.core.editing.cutting import with_key_kept
from spiralis.core.editing.keys import KeyRef
from spiralis.core.editing.locking import locked_in
from spiralis.core.model import Composition, Parameter, Track


def frozen_at(composition: Composition, ids: Iterable[str], frame: int, hold: int) -> tuple[Composition, set[KeyRef]]:
    """Return the composition where the threads of layers rest from a frame on, and the keys that hold them there.

    Args:
        composition: where the layers are; locked ones stay as they are.
        ids: the layers.
        frame: where they stop.
        hold: for how many frames, 1 or more; what comes after is that much later.
    """
    chosen, landed = set(ids) - locked_in(composition), set[KeyRef]()
    for layer in [y for y in composition.layers if y.id in chosen]:
        changed = layer
        for name in layer.animated():
            track = layer.track(name)
            if track.keys[-1].frame <= frame:
                continue
            rested = _rested(track, layer.parameter(name), frame, hold)
            landed |= {KeyRef(layer.id, name, f) for f in (frame, frame + hold) if rested.index_at(f) is not None}
            changed = changed.with_track(name, rested)
        if changed is not layer:
            composition = composition.with_layer(changed)
    return composition, landed


def _rested(track: Track, parameter: Parameter, frame: int, hold: int) -> Track:
    if track.keys[0].frame <= frame:
        track = with_key_kept(track, parameter, frame)
        index = track.index_at(frame)
        assert index is not None
        here = track.keys[index]
        rest = evolve(here, easing=LINEAR, handle_out=None)
        onward = evolve(here, frame=frame + hold, handle_in=None)
        later = [evolve(key, frame=key.frame + hold) for key in track.keys[index + 1 :]]
        return evolve(track, keys=(*track.keys[:index], rest, onward, *later))
    return evolve(track, keys=tuple(evolve(key, frame=key.frame + hold) for key in track.keys))
