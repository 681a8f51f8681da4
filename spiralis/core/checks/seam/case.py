"""What finders look at, and the registry of them."""

from __future__ import annotations

from collections.abc import Callable, Iterable
from functools import cached_property

import numpy as np
from attrs import evolve, field, frozen

from spiralis.core.checks.findings import Cause
from spiralis.core.errors import Cancelled
from spiralis.core.geometry import intersect
from spiralis.core.model import Composition, Kind, Layer, Project, layer_kind, new_id
from spiralis.core.registry import Registry
from spiralis.core.render.frame import render_frame
from spiralis.core.render.layers import Evaluated
from spiralis.core.render.solids import planes_of
from spiralis.core.render.space import seen

#: What is wrong with a loop, the gravest first.
JUMP, GAP, DOUBLED, KINK = "jump", "gap", "doubled", "kink"
#: The longer side of the small pictures that are compared, in px, and how far their values may lie apart.
SMALL, SAME = 200, 3 / 255


@frozen(eq=False, slots=False)
class Case:
    """A piece to be looked at: its play span from ``begin`` to ``end``, half open."""

    project: Project
    piece: Composition
    #: How many nests around it are looked into already.
    depth: int = 0
    #: Whether every frame's picture may be drawn, small, to see how the seam compares with the rest.
    full: bool = False
    #: Asked before each picture that is drawn and each finder; where it says True the work ends.
    stops: Callable[[], bool] = lambda: False
    begin: int = field(init=False)
    end: int = field(init=False)

    @begin.default
    def _begin(self) -> int:
        return self.piece.span[0]

    @end.default
    def _end(self) -> int:
        return self.piece.span[1]

    @property
    def length(self) -> int:
        """Frames of the loop."""
        return self.end - self.begin

    @cached_property
    def first(self) -> Evaluated:
        """Everything at the first frame."""
        return Evaluated(self.project, self.piece, self.begin)

    @cached_property
    def after(self) -> Evaluated:
        """Everything at the frame after the last one, which is to be the first again."""
        return Evaluated(self.project, self.piece, self.end)

    @cached_property
    def frames(self) -> tuple[int, ...]:
        """Frames of the span that are looked at where all of them would take too long."""
        count = min(self.length, 48)
        return tuple(int(f) for f in np.unique(np.linspace(self.begin, self.end - 1, count).round()))

    @cached_property
    def moments(self) -> tuple[Evaluated, ...]:
        """Everything at those frames."""
        return tuple(Evaluated(self.project, self.piece, frame) for frame in self.frames)

    @cached_property
    def layers(self) -> tuple[Layer, ...]:
        """The layers that may be seen: no references, nothing that shows only by way of others."""
        lent = {tie.target for layer in self.piece.layers for tie in layer.ties if tie.why.value == "picture"}
        return tuple(
            y for y in self.piece.layers
            if not y.reference and y.id not in lent and not layer_kind(y.kind).unseen and not y.control
        )  # fmt: skip

    @cached_property
    def meets(self) -> bool:
        """Whether the picture after the last frame is that of the first one: small, and then in full where it is."""
        if not _alike(self.picture(self.begin), self.picture(self.end)):
            return False
        scale = min(1080 / max(self.piece.width, self.piece.height), 1.0)
        return _alike(self.picture(self.begin, scale), self.picture(self.end, scale))

    def picture(self, frame: int, scale: float | None = None) -> np.ndarray:
        """Return a frame at its very moment, float32 (h, w, 4), premultiplied; the one after the last shows what the
        last layers would."""
        self.heed()
        scale = scale or min(SMALL / max(self.piece.width, self.piece.height), 1.0)
        shown = self._longer if frame == self.end else self._still
        return render_frame(shown, shown.compositions[-1].id, frame, scale)

    def heed(self) -> None:
        """Raise Cancelled where the work is to end."""
        if self.stops():
            raise Cancelled("Looking at the loop was stopped.")

    @cached_property
    def changes(self) -> np.ndarray:
        """The mean change from each frame to the next, float64 (frames,), 0 to 1; the last is that at the seam."""

        def goes_on(done: int, count: int) -> bool:
            self.heed()
            return True

        return frame_changes(self.project, self.piece, goes_on)

    @cached_property
    def _still(self) -> Project:
        """The project with the piece drawn at moments: blur would show what is around the seam."""
        still = evolve(self.piece, shutter_angle=0.0, id=new_id())
        return evolve(self.project, compositions=(*self.project.compositions, still))

    @cached_property
    def _longer(self) -> Project:
        """The project with such a piece that has a frame after the last, without coming round."""
        end = self.end
        layers = tuple(evolve(y, last=y.last + 1) if y.last == end else y for y in self.piece.layers)
        length = max(self.piece.length, end + 1)
        longer = evolve(
            self.piece, length=length, layers=layers, loop=False, shutter_angle=0.0, id=new_id(), play_span=None
        )
        return evolve(self.project, compositions=(*self.project.compositions, longer))


def frame_changes(
    project: Project, piece: Composition, progress: Callable[[int, int], bool] = lambda done, count: True
) -> np.ndarray:
    """Return the mean absolute change from each frame of the play span to the next, float64 (n,), 0 to 1.

    The last number is the change from the last frame to the first. ``progress(done, count)`` is asked after each frame
    and stops the rest where it says False; what is missing then is NaN.
    """
    begin, end = piece.span
    scale = min(SMALL / max(piece.width, piece.height), 1.0)
    made = np.full(end - begin, np.nan)
    first = before = render_frame(project.with_composition(piece), piece.id, begin, scale)
    for place in range(1, end - begin):
        now = render_frame(project.with_composition(piece), piece.id, begin + place, scale)
        made[place - 1] = np.abs(now - before).mean()
        before = now
        if not progress(place + 1, end - begin):
            return made
    made[-1] = np.abs(first - before).mean()
    return made


def _alike(a: np.ndarray, b: np.ndarray) -> bool:
    return float(np.abs(a - b).max()) < SAME


def visible(at: Evaluated, layer: Layer) -> bool:
    """Whether something of a layer could be seen at a moment, whatever its span: not clear, not outside the frame."""
    values = at.values(layer)
    if values["opacity"] <= 0 or not values["visible"]:
        return False
    for group_id in at.composition.groups_around(layer.id):
        group = at.values(at.composition.layer(group_id))
        if group["opacity"] <= 0 or not group["visible"]:
            return False
    if layer.blocks:
        return True  # A glow or a tile reaches farther than the layer's own box.
    frame = (0.0, 0.0, float(at.scene.width), float(at.scene.height))
    planes = planes_of(at, layer) or [layer]
    return any(intersect(seen(at, plane).box(at.box(plane)), frame) is not None for plane in planes)


def shows(at: Evaluated, layer: Layer) -> bool:
    """Whether something of a layer is seen at a moment within its span."""
    return layer.shown_at(at.frame) and visible(at, layer)


def seen_at_seam(case: Case, layer: Layer) -> bool:
    """Whether a layer is there on both sides of the seam, and seen on one."""
    there = layer.shown_at(case.begin) and layer.shown_at(case.end - 1)
    return there and (visible(case.first, layer) or visible(case.after, layer))


def amount(layer: Layer, name: str, gap: float) -> tuple[float, str]:
    """Return a difference of a property's values as a number and its unit: colours in levels of 255."""
    parameter = layer.parameter(name)
    if parameter.kind in (Kind.COLOUR, Kind.STOPS):
        return gap * 255, "levels"
    return gap, parameter.unit


def said(size: float, unit: str) -> str:
    """Return a size in words: “34 px”, “0.4 °”."""
    digits = 0 if abs(size) >= 20 else 1 if abs(size) >= 1 else 2
    return f"{size:.{digits}f}{'' if unit == '°' else ' '}{unit}".strip()


@frozen
class Finder:
    """One sort of cause. ``find(case)`` yields what it finds; lower ``order`` comes first."""

    name: str
    label: str
    find: Callable[[Case], Iterable[Cause]]
    order: int = 500


_FINDERS: Registry[Finder] = Registry("seam finder", "spiralis.core.checks.seam.finders")


def register_finder(finder: Finder) -> None:
    """Make a finder known; raises ValueError where the name is taken."""
    _FINDERS.register(finder.name, finder)


def finders() -> tuple[Finder, ...]:
    """Return all finders in their order."""
    return tuple(sorted(_FINDERS.all(), key=lambda finder: finder.order))


finder = _FINDERS.get
