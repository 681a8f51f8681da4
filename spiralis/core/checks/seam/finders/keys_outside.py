"""Keys that lie outside the play span, where nobody sees them."""

from __future__ import annotations

from collections.abc import Iterator

from spiralis.core.checks.findings import NOTE, Cause
from spiralis.core.checks.seam.case import Case, Finder, register_finder
from spiralis.core.model import Rule


def _find(case: Case) -> Iterator[Cause]:
    for layer in case.piece.layers:
        for name in layer.animated():
            track = layer.track(name)
            if track.before.rule is not Rule.ONCE or track.after.rule is not Rule.ONCE:
                continue  # All of them come again within the span.
            frames = [key.frame for key in track.keys]
            # Keys next beyond the ends shape what happens within.
            beyond = [f for f in frames if f > case.end][1:] + [f for f in frames if f < case.begin][:-1]
            if len([f for f in frames if f <= case.end]) > 1 and any(f == case.end for f in frames):
                beyond = [f for f in frames if f > case.end] + beyond
            count = len(set(beyond))
            if count:
                label = layer.parameter(name).full_label
                lie = "1 key lies" if count == 1 else f"{count} keys lie"
                sentence = f"{layer.name}: {lie} outside the play span on {label}, and is never played."
                sentence = sentence if count == 1 else sentence.replace("and is", "and are")
                yield Cause(
                    "keys-outside", NOTE, case.piece.id, layer.id, name, float(count), "keys", sentence,
                    ("delete-keys", "lengthen"),
                )  # fmt: skip


register_finder(Finder("keys-outside", "Keys outside the span", _find, order=810))
