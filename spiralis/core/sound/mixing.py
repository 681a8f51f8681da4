"""What a composition sounds like: its layers' sounds at their times, as loud as their threads say, added up."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from spiralis.core.animation.drivers import values_over
from spiralis.core.model import Composition, Layer, Project, layer_kind
from spiralis.core.model.alone import shown_alone
from spiralis.core.model.heard import Heard
from spiralis.core.sound.reading import CHANNELS, RATE, has_sound, samples_of

#: What begins or ends at once fades over so many samples (3 ms), so that it does not click.
_EDGE = 144
#: Moments that are so near to a frame, in frames, are on it.
_NEAR = 1e-6
#: What runs at less than this part of its speed rests.
_RESTS = 0.02


def heard_of(project: Project, piece: Composition, layer: Layer) -> Heard | None:
    """Return what is heard of a layer, or None where it is hidden, or has no sound."""
    hears, shown = layer_kind(layer.kind).hears, layer.track("visible")
    if hears is None or not (shown.value or shown.moving):
        return None
    heard: Heard | None = hears(layer, piece, project)
    return heard if heard is not None and _sounding(project, heard) else None


def sounds(project: Project, piece: Composition) -> bool:
    """Whether anything is heard of a composition; that may be nothing but silence."""
    return any(heard_of(project, piece, layer) is not None for layer in piece.layers)


def _sounding(project: Project, heard: Heard) -> bool:
    """Whether there is any sound in what a layer lets be heard."""
    if heard.composition:
        inner = project.find(heard.composition)
        return inner is not None and sounds(project, inner)
    source = project.source(heard.source)
    return source is not None and not source.missing and has_sound(source)


def mixed(project: Project, piece: Composition, first: float, last: float) -> np.ndarray:
    """Return what a composition sounds like from one of its frames to another, float32 (n, 2).

    Where loud layers meet, samples go beyond 1.
    """
    whole = np.zeros((round((last - first) / float(piece.rate) * RATE), CHANNELS), dtype=np.float32)
    shown = shown_alone(piece)
    for layer in piece.layers:
        if shown is not None and layer.id not in shown:
            continue
        alone = alone_of(project, piece, layer, first, len(whole))
        if alone is not None:
            whole += alone
    return whole


def alone_of(project: Project, piece: Composition, layer: Layer, first: float, count: int) -> np.ndarray | None:
    """Return ``count`` samples of what a layer alone sounds like, from a frame on, float32 (n, 2); None for silence."""
    heard = heard_of(project, piece, layer)
    if heard is None:
        return None
    moments = first + np.arange(count) * (float(piece.rate) / RATE)
    loud = loudness(piece, layer, moments).astype(np.float32)
    if not loud.any():
        return None
    samples = _own_samples(project, heard)
    places, inside = places_in(heard, len(samples), RATE, gone_of(piece, layer, heard, moments))
    if heard.keyed:
        # Where it rests on a frame one place goes on and on, which is no sound.
        loud *= _softly(np.abs(np.gradient(places)) > _RESTS).astype(np.float32)
    return _taken(samples, places, inside) * loud[:, None]


def _own_samples(project: Project, heard: Heard) -> np.ndarray:
    """Return all samples of what a layer sounds like, as it is by itself."""
    if heard.composition:
        inner = project.composition(heard.composition)
        return mixed(project, inner, 0, inner.length)
    source = project.source(heard.source)
    assert source is not None
    return samples_of(source)


def loudness(piece: Composition, layer: Layer, moments: np.ndarray) -> np.ndarray:
    """Return by what a layer is multiplied at ascending moments, in frames, float64: its volume and its fades, and
    nothing where it, or a group around it, is not shown or has not begun."""
    first = np.floor(moments[0])
    frames = np.arange(first, np.floor(moments[-1]) + 2)
    loud = np.interp(moments, frames, values_over(piece, layer, "volume", frames)[:, 0] / 100)
    whole = np.clip(np.floor(moments + _NEAR) - first, 0, len(frames) - 1).astype(np.intp)
    there = np.ones(len(moments), dtype=bool)
    for each in (layer, *map(piece.layer, piece.groups_around(layer.id))):
        there &= (moments >= each.first - _NEAR) & (moments < each.last - _NEAR)
        there &= values_over(piece, each, "visible", frames)[whole, 0] > 0.5
    if layer.has("fades"):
        since, until = moments - layer.first, layer.last - moments
        fades = zip(layer.track("fades").value, layer.track("beyond").value, (since, until), strict=True)
        for seconds, beyond, away in fades:
            if seconds > 0:
                loud = loud * np.clip(away / float(piece.rate) + beyond, 0, seconds) / seconds
    return loud * _softly(there) if len(there) > _EDGE else loud * there


def _softly(there: np.ndarray) -> np.ndarray:
    """Return 0 and 1 with short ramps across their borders, so that what goes on in another layer from there adds up to
    what it was; the ends of the whole stay as they are, for a loop flows on."""
    if there.all() or not there.any():
        return there.astype(np.float64)
    padded = np.pad(there.astype(np.float64), (_EDGE // 2, _EDGE - _EDGE // 2), mode="edge")
    sums = np.cumsum(np.concatenate(([0.0], padded)))
    return (sums[_EDGE:] - sums[:-_EDGE])[: len(there)] / _EDGE


def gone_of(piece: Composition, layer: Layer, heard: Heard, moments: np.ndarray) -> np.ndarray:
    """Return how many seconds of its own sound lie behind a layer at moments, in frames of its composition."""
    rate = float(piece.rate)
    if not heard.keyed:
        return (moments - heard.start) / rate * heard.speed
    frames = np.arange(np.floor(moments[0]), np.floor(moments[-1]) + 2)
    return np.interp(moments, frames, values_over(piece, layer, "own_frame", frames)[:, 0]) / heard.keyed


def places_in(heard: Heard, length: int, per_second: int, gone: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """Return where in a file of ``length`` pieces, so many a second, one is once so many seconds of it lie behind, and
    which of these places lie in what is heard of it."""
    begin = min(max(round(heard.begin * per_second), 0), length)
    end = length if heard.end is None else min(max(round(heard.end * per_second), begin), length)
    if end <= begin or heard.speed <= 0:
        return np.zeros(len(gone)), np.zeros(len(gone), dtype=bool)
    gone = gone * per_second
    if not heard.keyed and _is_even(gone):
        # All are as far between two pieces as the first: so none comes twice and none is left out.
        gone = np.arange(len(gone)) + np.round(gone[0])
    places = _FOLDS[heard.ends](gone, end - begin)
    inside = (places >= 0) & (places < end - begin)
    return (end - 1 - places if heard.backwards else begin + places), inside


def _taken(samples: np.ndarray, places: np.ndarray, inside: np.ndarray) -> np.ndarray:
    """Return the samples at places, between two of them what lies between; silence where they are not inside."""
    taken = np.zeros((len(places), CHANNELS), dtype=np.float32)
    places = np.clip(places[inside], 0, max(len(samples) - 1, 0))
    lower = np.floor(places).astype(np.intp)
    share = (places - lower).astype(np.float32)[:, None]
    taken[inside] = samples[lower]
    if share.any():
        taken[inside] += (samples[np.minimum(lower + 1, len(samples) - 1)] - samples[lower]) * share
    return taken


def _is_even(places: np.ndarray) -> bool:
    """Whether places at even steps are one apart."""
    return len(places) < 2 or abs(float(places[-1] - places[0]) - (len(places) - 1)) < 1e-3


def _there_and_back(place: np.ndarray, length: int) -> np.ndarray:
    return length - 0.5 - np.abs((place + 0.5) % (2 * length) - length)


#: Where in a sound of so many samples one is after so many, by what comes after its end.
_FOLDS: dict[str, Callable[[np.ndarray, int], np.ndarray]] = {
    "once": lambda place, length: place,
    "loop": lambda place, length: place % length,
    "ping-pong": _there_and_back,
}
