"""The registry of layer kinds and the properties that every layer has.

A kind is one file in ``spiralis/core/raster/kinds`` that calls :func:`register_kind`; the model knows
only its name and parameters, the renderer its two drawing functions.
"""

from __future__ import annotations

from collections.abc import Callable, Hashable
from fractions import Fraction
from functools import cached_property
from typing import Any

from attrs import define

from spiralis.core.errors import UnknownName
from spiralis.core.model.adding import AddEntry, Grips
from spiralis.core.model.parameter import Kind, Parameter
from spiralis.core.registry import Registry

#: So many names are told in a sentence.
_TOLD = 12
BLEND_MODES: tuple[str, ...] = (
    "normal", "multiply", "screen", "overlay", "darken", "lighten", "color-dodge", "color-burn",
    "hard-light", "soft-light", "difference", "exclusion", "hue", "saturation", "color", "luminosity",
    "plus-lighter", "cut-through", "cling", "keep-within", "slip-under",
)  # fmt: skip
#: Modes that CSS, and so SVG, knows by the same words (W3C, *Compositing and Blending Level 2*).
CSS_MODES = frozenset(BLEND_MODES[:17])
#: Modes that change what lies beneath where the layer itself shows nothing, too: all over the frame or the group.
REACHING_MODES = frozenset({"keep-within", "slip-under"})
#: The modes of pictures that effects add, which change nothing outside of themselves.
LOCAL_MODES = tuple(mode for mode in BLEND_MODES if mode not in REACHING_MODES)

PLACE: tuple[Parameter, ...] = (
    Parameter("position", "Position", Kind.PAIR, (0.0, 0.0), "Where the pivot stands", "px",
              group="Place", family="place", is_path=True, needs=("separate", (False,))),
    Parameter("position_x", "Position x", Kind.NUMBER, 0.0, "How far to the right the pivot stands", "px",
              group="Place", family="place", needs=("separate", (True,))),
    Parameter("position_y", "Position y", Kind.NUMBER, 0.0, "How far down the pivot stands", "px",
              group="Place", family="place", needs=("separate", (True,))),
    Parameter("scale", "Scale", Kind.PAIR, (100.0, 100.0), "Size beside its natural one; below zero mirrors",
              "%", -100_000, 100_000, group="Place", family="size"),
    Parameter("rotation", "Rotation", Kind.NUMBER, 0.0, "Turn about the pivot, clockwise", "°",
              group="Place", family="turn", period=360.0),
    Parameter("skew", "Skew", Kind.PAIR, (0.0, 0.0), "Slant of the uprights and of the levels", "°",
              -89, 89, group="Place", family="turn"),
    Parameter("separate", "Separate x, y", Kind.SWITCH, False,
              "Whether x and y are threads of their own, or position is one path", group="Place", family="place",
              steady=True),
    Parameter("along_path", "Turn along", Kind.SWITCH, False, "Whether the layer turns the way that it moves",
              group="Place", family="turn", steady=True),
    Parameter("pivot", "Pivot", Kind.PAIR, (50.0, 50.0), "Centre of turn and scale, in parts of the layer's box",
              "%", -10_000, 10_000, group="Place", family="place"),
    Parameter("depth", "In depth", Kind.SWITCH, False,
              "Whether the layer stands in space, with all that hangs on it, and is seen through the camera",
              group="Place", family="place", steady=True),
    Parameter("position_z", "Position z", Kind.NUMBER, 0.0, "How far behind the frame's plane the pivot stands", "px",
              group="Place", family="place", needs=("depth", (True,)), measures="depth"),
    Parameter("turn_x", "Turn x", Kind.NUMBER, 0.0, "Tips about the level: above zero the top comes nearer", "°",
              group="Place", family="turn", period=360.0, needs=("depth", (True,))),
    Parameter("turn_y", "Turn y", Kind.NUMBER, 0.0, "Turns about the upright: above zero the right side comes nearer",
              "°", group="Place", family="turn", period=360.0, needs=("depth", (True,))),
    Parameter("crosses", "Cut crossings", Kind.SWITCH, False,
              "Whether it and others in depth that go through each other are cut where they cross",
              group="Place", family="place", needs=("depth", (True,)), steady=True),
    Parameter("lit", "Lit", Kind.SWITCH, True, "Whether the composition's light falls on the layer", group="Place",
              family="look", needs=("depth", (True,)), steady=True),
    Parameter("casts", "Throws shadow", Kind.SWITCH, True, "Whether the layer's shadow lies on the light's ground",
              group="Place", family="look", needs=("depth", (True,)), steady=True),
)  # fmt: skip

LOOK: tuple[Parameter, ...] = (
    Parameter("opacity", "Opacity", Kind.NUMBER, 100.0, "0 % is not there, 100 % is solid", "%", 0, 100,
              group="Look", family="look", worn=True),
    Parameter("content_opacity", "Content opacity", Kind.NUMBER, 100.0,
              "Opacity of what the layer shows, apart from its finishes", "%", 0, 100, group="Look", family="look",
              worn=True),
    Parameter("blend", "Blend", Kind.CHOICE, "normal", "How the layer mixes with what lies beneath",
              group="Look", family="look", choices=BLEND_MODES, worn=True),
    Parameter("visible", "Shown", Kind.SWITCH, True, "Whether the layer is drawn at all",
              group="Look", family="look"),
    Parameter("crop_across", "Crop across", Kind.PAIR, (0.0, 0.0), "How much is cut off at the left and at the right",
              "%", 0, 100, group="Look", family="look"),
    Parameter("crop_down", "Crop down", Kind.PAIR, (0.0, 0.0), "How much is cut off at the top and at the bottom", "%",
              0, 100, group="Look", family="look"),
    Parameter("crop_softness", "Crop softness", Kind.NUMBER, 0.0, "Softens the cut edges", "px", 0, 500,
              group="Look", family="look"),
    Parameter("motion_blur", "Motion blur", Kind.SWITCH, False,
              "Blurs what moves, over the composition's shutter angle", group="Look", family="look", worn=True),
)  # fmt: skip

#: How loud a layer is, for kinds that are heard.
VOLUME = Parameter("volume", "Volume", Kind.NUMBER, 100.0, "How loud it is: 0 % is silent, 100 % as it came", "%", 0,
                   1000, group="Sound", family="look")  # fmt: skip

_COMMON = frozenset(parameter.name for parameter in (*PLACE, *LOOK))


def is_common(name: str) -> bool:
    """Whether a layer of any kind has a property: of its place, of its look, or a number of one of its blocks."""
    return name in _COMMON or "." in name


def told_of(names: list[str], wanted: str) -> str:
    """Return names for a sentence: those that are most like the one that was wanted first, and how many more."""
    # Every start would load it for a sentence that is seldom said.
    from difflib import get_close_matches

    like = get_close_matches(wanted, names, 4, 0.4)
    first = (like + [name for name in names if name not in like])[:_TOLD]
    more = len(names) - len(first)
    return ", ".join(first) + (f" and {more} more" if more else "")


@define(slots=False)
class LayerKind:
    """What the program must know of a layer kind.

    ``box(values, scene)`` returns the content box (left, top, right, bottom) in the layer's own units;
    ``draw(values, scene, matrix)`` returns a drawing (see ``raster/drawing.py``) or None for nothing.
    Where what it shows depends on the frame also without keys, ``moment(values, scene)`` tells which of its own
    frames or drawings that is; ``own_frame(values, scene)`` tells its number where keys can say it instead. Where it
    ``fills_frame`` it lies over the whole frame by itself.
    A kind that changes all that lies ``beneath`` it within its composition, instead of showing something, gives
    ``beneath(values)``: pairs of an effect's name and its values, to be done in order.
    A kind that shows another layer again and again tells where in ``placements(values)``; a ``swarm`` shows particles,
    which may be born from another layer's shape. One that ``gathers`` shows the layers that hang on it as one, one that
    ``nests`` another composition; an ``unseen`` kind shows nothing at all
    by itself; layers in depth are seen through one that ``sees``, and shaded by one that ``lights``, which shows the
    shadows that they throw. What is made of several faces in depth gives them by
    ``planes(layer, values, scene)`` as layers that hang on it, their fronts outwards; together they enclose a convex
    body. ``solid(values)`` is the box of its units that a layer hides wholly, None where it may be seen through. One
    that properties can join for what they are at its places names that number as its ``control``.
    ``vector`` kinds are drawn from outlines, crisp at any size; ``outlines(values, scene)`` gives them as art,
    ``stamp(values, scene)`` as what is drawn under any map (see ``raster/stamps.py``), None where it is not so; and
    ``in_perspective(values, scene, map, shade)`` how they are seen, shaded, under a projective map, or None.
    ``adds`` are its entries in the menu that adds layers, ``grips`` what of its content the canvas lets grab.
    A kind of words tells by ``reads(values, scene)`` what is read: the text, the height of its type, the letters' box.
    What is heard of a layer ``hears(layer, piece, project)`` tells (see ``model/heard.py``), None for nothing; such
    kinds have a ``volume``. What is only heard stands at no place.
    ``resizes(values)`` names the pair that holds its own width and height, where it has one as it is set.
    ``applies(name, values, project)`` tells whether a property matters as the layer is set, where ``Parameter.needs``
    cannot say it.
    """

    name: str
    label: str
    help: str
    own_parameters: tuple[Parameter, ...]
    box: Callable[..., tuple[float, float, float, float]]
    draw: Callable[..., Any]
    moment: Callable[..., Hashable] | None = None
    own_frame: Callable[..., Fraction | int | None] | None = None
    fills_frame: bool = False
    applies: Callable[..., bool] | None = None
    beneath: Callable[..., Any] | None = None
    placements: Callable[..., Any] | None = None
    swarm: bool = False
    gathers: bool = False
    unseen: bool = False
    sees: bool = False
    lights: bool = False
    planes: Callable[..., Any] | None = None
    solid: Callable[..., tuple[float, float, float, float] | None] | None = None
    control: str = ""
    nests: bool = False
    vector: bool = False
    stamp: Callable[..., Any] | None = None
    outlines: Callable[..., Any] | None = None
    in_perspective: Callable[..., Any] | None = None
    reads: Callable[..., tuple[str, float, tuple[float, float, float, float]]] | None = None
    adds: tuple[AddEntry, ...] = ()
    grips: Grips | None = None
    resizes: Callable[..., str] | None = None
    hears: Callable[..., Any] | None = None

    @property
    def pictured(self) -> bool:
        """Whether a layer of the kind shows something by itself, so that a picture says what it is."""
        return not (self.unseen or self.swarm or self.placements is not None or self.beneath is not None)

    @property
    def placeless(self) -> bool:
        """Whether a layer of the kind stands nowhere: a control, or what is only heard."""
        return bool(self.control) or (self.unseen and self.hears is not None)

    @property
    def scattered(self) -> bool:
        """Whether what a layer of the kind shows may lie far from its box."""
        return self.swarm or self.gathers or self.placements is not None or self.planes is not None

    @cached_property
    def parameters(self) -> tuple[Parameter, ...]:
        """Place, then the kind's own, then Look."""
        return PLACE + self.own_parameters + LOOK

    @cached_property
    def _by_name(self) -> dict[str, Parameter]:
        return {parameter.name: parameter for parameter in self.parameters}

    def matters(self, parameter: Parameter, values: Any, project: Any) -> bool:
        """Whether a property changes anything as the layer is set; what shows nothing has no look, a dial no place."""
        if self.placeless and parameter in PLACE:
            return False
        if self.unseen and parameter in LOOK and parameter.name != "visible":
            return False
        if parameter.needs is not None and values[parameter.needs[0]] not in parameter.needs[1]:
            return False
        return self.applies is None or self.applies(parameter.name, values, project)

    def parameter(self, name: str) -> Parameter:
        """Return the declaration of that name; raises UnknownName listing the known ones."""
        try:
            return self._by_name[name]
        except KeyError:
            known = told_of(list(self._by_name), name)
            raise UnknownName(f"A {self.label} layer has no property “{name}”; it has {known}.") from None


_KINDS: Registry[LayerKind] = Registry("layer kind", "spiralis.core.raster.kinds")


def register_kind(kind: LayerKind) -> None:
    """Make a layer kind known; raises ValueError where the name is taken."""
    _KINDS.register(kind.name, kind)


layer_kind = _KINDS.get
layer_kinds = _KINDS.all
