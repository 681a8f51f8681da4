"""Let the end of a layer fade over into its beginning: a copy of it, a loop later, comes over its last frames."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.findings import Cause, Mend, register_mend
from spiralis.core.checks.seam.covering import uncovered
from spiralis.core.checks.seam.timing import own_length
from spiralis.core.editing.duplicating import duplicated
from spiralis.core.editing.edits import moved_in_time
from spiralis.core.errors import ModelError
from spiralis.core.model import Composition, Key, Layer, Project, Track
from spiralis.core.render.layers import Evaluated

#: How many frames it takes at most, and which part of the loop.
_FRAMES, _SHARE = 12, 4


def _apply(project: Project, cause: Cause) -> Project:
    piece = project.composition(cause.piece)
    begin, end = piece.span
    count = max(min(_FRAMES, (end - begin) // _SHARE), 1)
    layer = piece.layer(cause.layer)
    fades = next((name for name in ("opacity", "content_opacity") if not layer.track(name).moving), None)
    if fades is None or layer.gathers:
        raise ModelError(f"“{layer.name}” is a group or has keys on its opacity; nest it, then it can cross-fade.")
    if layer.has("ends") and own_length(project, piece, layer) is not None:
        piece = piece.with_layer(_with_lead(project, piece, layer, count))
    piece, (copy_id,) = duplicated(piece, [cause.layer])
    copy = moved_in_time(piece.layer(copy_id), end - begin)
    full = copy.track(fades).value
    track = Track(full, (Key(end - count, 0.0), Key(end, full)))
    copy = evolve(copy, first=end - count, last=end).with_track(fades, track)
    base = piece.layer(cause.layer)
    if uncovered(Evaluated(project, piece, end - 1), base) > 0.5:
        # Beside what does not fill the frame one would see where it was.
        base = base.with_track(fades, Track(full, (Key(end - count, full), Key(end, 0.0))))
    return project.with_composition(piece.with_layer(base).with_layer(copy))


def _with_lead(project: Project, piece: Composition, layer: Layer, count: int) -> Layer:
    """Return a clip that begins ``count`` frames before the loop, as long as the loop and the fade together.

    So the copy, a loop later, has pictures of its own to fade in, and comes to what the loop begins with.
    """
    begin, end = piece.span
    length = own_length(project, piece, layer)
    assert length is not None
    speed = 100.0 * float(length) / (end - begin + count)
    return layer.with_values(start=float(begin - count), speed=speed, ends="hold", fit=False)


register_mend(Mend("cross-fade", "Cross-fade", "The last frames fade over into what the loop begins with", _apply))
