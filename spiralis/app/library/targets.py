"""Targets that a person keeps: a kind of file with its settings, size, rate and rounds; shared as files."""

from __future__ import annotations

from collections.abc import Mapping
from fractions import Fraction
from typing import Any

from attrs import field, frozen

from spiralis.app.library.own_list import LONGEST, kept_as_rows
from spiralis.core.media.exporters import ExportJob, exporter
from spiralis.core.media.framing import HOWS, Framing, framed

SUFFIX = ".targets.json"


@frozen
class Target:
    """One target. ``width`` and ``height`` 0 take the piece's own size, ``rate`` 0 its own rate."""

    name: str
    kind: str
    settings: Mapping[str, Any] = field(factory=dict, hash=False)
    width: int = 0
    height: int = 0
    how: int = 0
    rate: float = 0.0
    repeat: int = 1

    def asked(self, job: ExportJob) -> ExportJob:
        """Return a job in this target's size, rate and rounds; raises ExportError where the size is not possible."""
        piece = job.composition
        size = (self.width or piece.width, self.height or piece.height)
        project, shown, scale = framed(job.project, piece, Framing(*size, HOWS[self.how]))
        rate = Fraction(self.rate).limit_denominator(100_000) if self.rate else None
        rounds = self.repeat if exporter(self.kind).plays_once else 1
        return ExportJob(
            project, shown.id, job.path, job.first, job.last, scale, dict(self.settings), rate=rate, repeat=rounds
        )


def _target(row: Mapping[str, Any]) -> Target:
    """Read a target; settings that its kind of file does not have any more are left out."""
    kind = exporter(str(row["kind"]))
    known = {parameter.name: parameter for parameter in kind.settings}
    held = dict(row.get("settings", {}))
    settings = {name: known[name].check(value) for name, value in held.items() if name in known}
    width, height, repeat = (int(row.get(name, least)) for name, least in (("width", 0), ("height", 0), ("repeat", 1)))
    if not (0 <= width <= 20_000 and 0 <= height <= 20_000 and 1 <= repeat <= 1000):
        raise ValueError("out of range")
    how, rate = int(row.get("how", 0)), float(row.get("rate", 0.0))
    if how not in (0, 1, 2) or not 0 <= rate <= 240:
        raise ValueError("out of range")
    return Target(str(row["name"])[:LONGEST], kind.name, settings, width, height, how, rate, repeat)


def _row(t: Target) -> dict[str, Any]:
    return {"name": t.name, "kind": t.kind, "settings": dict(t.settings), "width": t.width, "height": t.height,
            "how": t.how, "rate": t.rate, "repeat": t.repeat}  # fmt: skip


#: A person's targets.
OWN_TARGETS = kept_as_rows(
    "Targets", "spiralis-targets", "targets", SUFFIX, _row, _target, lambda target: target.name,
    "The ⋮ beside My targets in Export adds the present settings.",
)  # fmt: skip
