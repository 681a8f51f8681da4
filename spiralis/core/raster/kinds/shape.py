"""Shape: vector outlines with fills and strokes, drawn with the layer's final matrix so that they stay crisp."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from functools import lru_cache

from attrs import evolve

from spiralis.core.cache import Beside, CacheSection
from spiralis.core.colour import Shade
from spiralis.core.geometry import IDENTITY, Affine, Box, Projection, box_of, intersect, rounded_out
from spiralis.core.model.adding import AddEntry, Grip, Grips
from spiralis.core.model.art import CAPS, EMPTY_ART, JOINS, Bundle, Contour, Figure, Item, Paint, Ramp, Stroke
from spiralis.core.model.forms import ellipse, polygon, rectangle, regular
from spiralis.core.model.kinds import LayerKind, register_kind
from spiralis.core.model.parameter import Kind, Parameter, Value
from spiralis.core.raster.blurring import blurred, reduction_for
from spiralis.core.raster.dashes import is_dashed, with_dashes_moved
from spiralis.core.raster.layer_image import LayerImage, Scene
from spiralis.core.raster.raster import Raster, clear_rim
from spiralis.core.raster.silhouettes import THICKNESS
from spiralis.core.raster.stamps import Prospect, Recording, Stamp, around, clear, play, rasterised, recorded, stamped
from spiralis.core.raster.vectors import Part, art_box, draw_item, grown

FORMS = ("drawing", "rectangle", "ellipse", "polygon", "star", "line")
PAINTS = ("flat", "linear", "radial")
_PLAIN = ("form", FORMS[1:])
#: Below this covariance, in square pixels, soft edges lie along the output's axes for all that can be seen.
_SLANT = 0.25
#: A blur by less than this, in px, shows that a picture was sampled once more.
_SHARP = 4.0
#: What comes nearer to the camera than this share of how far it reaches is not drawn straight into perspective.
_NEAREST = 1 / 50
#: The most pixels that are drawn straight into perspective.
_MOST_AT_ONCE = 5_000_000
_STOPS = ((0.0, 0.96, 0.70, 0.24, 1.0), (1.0, 0.89, 0.31, 0.42, 1.0))

PARAMETERS = (
    Parameter("form", "Form", Kind.CHOICE, "drawing", "A plain form, or a drawing of any outlines", choices=FORMS),
    Parameter("art", "Shapes", Kind.ART, EMPTY_ART, "The outlines that are drawn", needs=("form", ("drawing",)),
              all_shown=True),
    Parameter("size", "Size", Kind.PAIR, (300.0, 300.0), "Width and height", "px", 0, 20_000, needs=_PLAIN),
    Parameter("corners", "Corners", Kind.NUMBER, 0.0, "Radius of the corners", "px", 0, 10_000,
              needs=("form", ("rectangle",))),
    Parameter("sides", "Sides", Kind.NUMBER, 5.0, "How many corners or points", "", 3, 60,
              needs=("form", ("polygon", "star"))),
    Parameter("inner", "Inner", Kind.NUMBER, 45.0, "How far out the inner corners of a star lie", "%", 0, 100,
              needs=("form", ("star",))),
    Parameter("paint", "Painted", Kind.CHOICE, "flat", "One colour inside, or a ramp of colours", choices=PAINTS,
              needs=("form", FORMS[1:5]), worn=True),
    Parameter("fill", "Fill", Kind.COLOUR, (0.933, 0.376, 0.298, 1.0), "Colour inside", needs=("paint", ("flat",))),
    Parameter("stops", "Gradient", Kind.STOPS, _STOPS, "The colours of the ramp and where they stand",
              needs=("paint", PAINTS[1:])),
    Parameter("angle", "Angle", Kind.NUMBER, 90.0, "Direction of the ramp: 0 points right, 90 down", "°",
              needs=("paint", ("linear",)), period=360.0, worn=True),
    Parameter("stroke", "Stroke", Kind.NUMBER, 0.0, "Width of the line", "px", 0, 2000, needs=_PLAIN, worn=True),
    Parameter("stroke_colour", "Stroke colour", Kind.COLOUR, (0.988, 0.957, 0.894, 1.0), "Colour of the line",
              needs=_PLAIN),
    Parameter("cap", "Cap", Kind.CHOICE, "round", "Ends of an open line", choices=CAPS, needs=_PLAIN, worn=True),
    Parameter("join", "Join", Kind.CHOICE, "round", "Corners of the line", choices=JOINS, needs=_PLAIN, worn=True),
    Parameter("dash", "Dashes", Kind.PAIR, (0.0, 0.0), "Length of a dash and of the gap after it; 0 is a whole line",
              "px", 0, 5000, needs=_PLAIN, worn=True),
    Parameter("dash_shift", "Dashes move", Kind.NUMBER, 0.0, "Moves dashes along: 100 % is one of them and its gap",
              "%", period=100.0),
    Parameter("drawn_from", "Drawn from", Kind.NUMBER, 0.0, "Where the drawn part of a stroke starts", "%", 0, 100),
    Parameter("drawn_to", "Drawn to", Kind.NUMBER, 100.0, "Where the drawn part of a stroke ends", "%", 0, 100),
    Parameter("drawn_offset", "Offset", Kind.NUMBER, 0.0, "Moves the drawn part along the stroke", "%", period=100.0),
    Parameter("grow", "Grow", Kind.NUMBER, 0.0, "Moves the edges out, or in below 0", "px", -2000, 2000),
    Parameter("feather", "Feather", Kind.PAIR, (0.0, 0.0),
              "Softens the edges across and down: the sigmas of a Gaussian", "px", 0, 500),
    *THICKNESS,
)  # fmt: skip

Contours = tuple[Contour, ...]

_rasters: CacheSection[Raster] = CacheSection(lambda p: p.data.nbytes)


def form_contours(values: Mapping[str, Value]) -> Contours:
    """Return the outline of a plain form in a box that begins at 0, 0."""
    width, height = values["size"]
    form, sides = values["form"], max(3, round(values["sides"]))
    if form == "line":
        return (polygon([(0.0, 0.0), (width, height)], closed=False),)
    if width <= 0 or height <= 0:
        return ()
    if form == "rectangle":
        return (rectangle(0.0, 0.0, width, height, values["corners"], values["corners"]),)
    if form == "ellipse":
        return (ellipse(width / 2, height / 2, width / 2, height / 2),)
    return (regular(sides, width, height, values["inner"] / 100 if form == "star" else None),)


def art_of(values: Mapping[str, Value]) -> Bundle:
    """Return what a shape layer draws, as outlines: its drawing, or its plain form."""
    if values["form"] == "drawing":
        art: Bundle = values["art"]
        return art
    return _plain(tuple(values[name] for name in _OF_PLAIN))


def _shown(values: Mapping[str, Value]) -> Bundle:
    """Return what a shape layer draws now."""
    share = values["dash_shift"] / 100
    return with_dashes_moved(art_of(values), share) if share else art_of(values)


#: What a plain form is drawn by.
_OF_PLAIN = ("form", "size", "sides", "corners", "inner", "paint", "fill", "stops", "angle", "stroke", "stroke_colour",
             "cap", "join", "dash")  # fmt: skip


@lru_cache(maxsize=8192)
def _plain(given: tuple[Value, ...]) -> Bundle:
    """Return a plain form's outlines: the very same for the same values, so that what is kept by them is found fast."""
    values = dict(zip(_OF_PLAIN, given, strict=True))
    dash = values["dash"] if values["dash"][0] > 0 and values["dash"][1] > 0 else ()
    pen = Stroke(values["stroke_colour"], values["stroke"], values["cap"], values["join"], dash=dash)
    fill = _fill(values) if values["form"] != "line" else None
    return Bundle((Figure(form_contours(values), fill, stroke=pen if values["stroke"] > 0 else None),))


def _fill(values: Mapping[str, Value]) -> Paint:
    """Return what a plain form is filled with: a ramp spans its box."""
    if values["paint"] == "flat":
        fill: Paint = values["fill"]
        return fill
    width, height = values["size"]
    cx, cy = width / 2, height / 2
    stops = tuple(sorted(values["stops"]))
    if values["paint"] == "radial":
        return Ramp(True, (cx, cy, max(math.hypot(cx, cy), 1e-6), cx, cy, 0.0), stops)
    angle = math.radians(values["angle"])
    half = (abs(width * math.cos(angle)) + abs(height * math.sin(angle))) / 2
    dx, dy = half * math.cos(angle), half * math.sin(angle)
    return Ramp(False, (cx - dx, cy - dy, cx + dx, cy + dy), stops)


def _applies(name: str, values: Mapping[str, Value], project: object) -> bool:
    """Whether a property matters: what is painted to plain forms that are filled, what moves dashes to dashed lines."""
    if name == "dash_shift":
        return is_dashed(art_of(values))
    return name not in ("fill", "stops", "angle") or values["form"] in FORMS[1:5]


def _box(values: Mapping[str, Value], scene: Scene) -> Box:
    if values["form"] != "drawing":
        # Without the stroke, so that its width does not move what hangs on the box.
        return 0.0, 0.0, max(values["size"][0], 1e-3), max(values["size"][1], 1e-3)
    return values.get("art_box") or art_box(values["art"]) or (0.0, 0.0, 1.0, 1.0)


#: Art as Skia plays it back, by the part of its strokes, beside the art.
_stamps: Beside[dict[Part, Recording]] = Beside(dict)


def _stamp_of(art: Bundle, part: Part) -> Recording | None:
    """Return art as it is drawn under any map; None where it draws nothing."""
    known, box = _stamps.of(art), art_box(art)
    if box is None:
        return None
    if part not in known:
        # Of a stroke that is being drawn only the newest part.
        known.clear()
        known[part] = Recording(box, recorded(lambda canvas: draw_item(canvas, art, part)))
    return known[part]


def _part_of(values: Mapping[str, Value]) -> Part:
    return values["drawn_from"] / 100, values["drawn_to"] / 100, values["drawn_offset"] / 100


def _stamp(values: Mapping[str, Value], scene: Scene) -> Stamp | None:
    """Return what a shape looks like under any map; None for soft ones, and for nothing."""
    if max(values["feather"]) > 0:
        return None
    return _stamp_of(grown(_shown(values), values["grow"]), _part_of(values))


def _draw(values: Mapping[str, Value], scene: Scene, matrix: Affine, clip: Box) -> LayerImage | None:
    art, part, feather = grown(_shown(values), values["grow"]), _part_of(values), values["feather"]
    stamp = _stamp_of(art, part)
    if stamp is None:
        return None
    if max(feather) <= 0:
        return stamped(stamp, (art, part), matrix, clip)
    across, down = (3.5 * part for part in feather)
    left, top, right, bottom = stamp.box
    inverse, whole = matrix.inverse(), around((left - across, top - down, right + across, bottom + down), matrix)
    seen = intersect(whole, clip)
    if inverse is None or seen is None:
        return None
    # How the soft edges across and down hang together in the output: where they do, no blur along its axes makes them.
    slant = feather[0] ** 2 * matrix.a * matrix.b + feather[1] ** 2 * matrix.c * matrix.d
    if abs(slant) > _SLANT:
        return _upright(art, part, feather, matrix, inverse, seen)
    sigmas = (
        math.hypot(feather[0] * matrix.a, feather[1] * matrix.c),
        math.hypot(feather[0] * matrix.b, feather[1] * matrix.d),
    )
    if max(reduction_for(sigma) for sigma in sigmas) or seen != whole:
        key = (art, part, feather, matrix, seen)
        return _rasters.get(key, lambda: _made(stamp, sigmas, matrix, inverse, seen))
    # Whole and unreduced: one picture serves wherever the same outlines stand alike between the pixels.
    x, y = math.floor(matrix.e), math.floor(matrix.f)
    home, near = matrix.moved(-x, -y), (seen[0] - x, seen[1] - y, seen[2] - x, seen[3] - y)
    drawn = _rasters.get((art, part, feather, home), lambda: _made(stamp, sigmas, home, IDENTITY, near))
    return Raster(drawn.data, inverse, (drawn.corner[0] + x, drawn.corner[1] + y))


def _upright(
    art: Bundle, part: Part, feather: tuple[float, float], matrix: Affine, inverse: Affine, seen: Box
) -> Raster:
    """Draw art whose edges are unlike soft in its own directions, which the output sees turned."""
    across, down = (max(size, 1e-6) for size in matrix.stretch())
    if min(feather[0] * across, feather[1] * down) < _SHARP:
        # Being sampled once more must not make the sharper edge softer.
        across, down = 2 * across, 2 * down
    upright, back = Affine.scaling(across, down), Affine.scaling(1 / across, 1 / down)
    sigmas = (feather[0] * across, feather[1] * down)
    near = box_of(rounded_out((upright @ inverse).box(seen), 1.0))
    key = (art, part, feather, upright, near)
    stamp = _stamp_of(art, part)
    assert stamp is not None
    return _rasters.get(key, lambda: _made(stamp, sigmas, upright, back, near))


def _made(stamp: Stamp, sigmas: tuple[float, float], matrix: Affine, inverse: Affine, seen: Box) -> Raster:
    """Draw the part of a soft shape that lies in a box of output pixels; smaller, each way that a feather hides it."""
    wide, high = (float(2 ** reduction_for(sigma)) for sigma in sigmas)
    small = Affine.scaling(1 / wide, 1 / high)
    across, down = sigmas[0] / wide, sigmas[1] / high
    left, top, right, bottom = small.box(seen)
    area = rounded_out((left - 3.5 * across, top - 3.5 * down, right + 3.5 * across, bottom + 3.5 * down), 2.0)
    soft = blurred(rasterised(stamp, small @ matrix, area), across, down, enlarged=(wide > 1, high > 1))
    clear_rim(soft)
    return Raster(soft, inverse @ Affine.scaling(wide, high) if max(wide, high) > 1 else inverse, area[:2])


def _in_perspective(
    values: Mapping[str, Value], scene: Scene, map_: Projection, shade: Shade | None = None
) -> Prospect | None:
    """Return a shape's outlines straight where a camera sees them; soft ones are drawn upright and sampled."""
    art = grown(_shown(values), values["grow"])
    if shade is not None:
        shaded = _shaded(art, shade)
        if shaded is None:
            return None
        art = shaded
    box = art_box(art)
    if box is None or max(values["feather"]) > 0:
        return None
    nearest, farthest = map_.depths(box)
    if nearest < _NEAREST * abs(farthest):
        return None
    # Whole, however little of it is asked for: edges that are cut first would be smoothed otherwise.
    area = rounded_out(map_.box(box), 2.0)
    if (area[2] - area[0]) * (area[3] - area[1]) > _MOST_AT_ONCE:
        return None
    part = _part_of(values)
    stamp = _stamp_of(art, part)
    assert stamp is not None

    def made() -> Raster:
        data = clear(area)
        play(data, stamp.picture, Affine.shift(-area[0], -area[1]) @ map_)
        return Raster(data, corner=area[:2])

    def drawn() -> Raster:
        return _rasters.get((art, part, map_), made)

    if nearest <= 0 or any(values[name] != value for name, value in _BARE.items()):
        return Prospect(area, drawn)
    (width, height), item = values["size"], art.items[0]
    corners = tuple(map_.apply(x, y) for x, y in ((0, 0), (width, 0), (width, height), (0, height)))
    assert isinstance(item, Figure) and isinstance(item.fill, tuple)
    return Prospect(area, drawn, corners, item.fill)


#: How a form is set that is nothing but four corners in one colour.
_BARE = {"form": "rectangle", "corners": 0.0, "paint": "flat", "stroke": 0.0, "grow": 0.0}


@lru_cache(maxsize=4096)
def _shaded(art: Bundle, shade: Shade) -> Bundle | None:
    """Return art with its colours multiplied; None where some would be brighter than bytes hold, or are mixed."""

    def colour(held: tuple[float, ...]) -> tuple[float, ...]:
        return (*(part * by for part, by in zip(held, shade, strict=False)), *held[3:])

    def paint(held: Paint) -> Paint:
        if isinstance(held, Ramp):
            stops = [(stop[0], *colour(stop[1:])) for stop in held.stops]
            return evolve(held, stops=tuple(stops))  # type: ignore[arg-type]
        return colour(held)  # type: ignore[return-value]

    def bright(held: Paint | None) -> float:
        rows = () if held is None else [stop[1:4] for stop in held.stops] if isinstance(held, Ramp) else [held[:3]]
        return max((part for row in rows for part in row), default=0.0)

    made: list[Item] = []
    if art.blend != "normal" or art.mask is not None:
        return None
    for item in art.items:
        if isinstance(item, Bundle):
            inner = _shaded(item, shade)
            if inner is None:
                return None
            made.append(inner)
            continue
        fill = paint(item.fill) if item.fill is not None else None
        stroke = evolve(item.stroke, paint=paint(item.stroke.paint)) if item.stroke is not None else None
        if max(bright(fill), bright(stroke.paint if stroke is not None else None)) > 1:
            return None
        made.append(evolve(item, fill=fill, stroke=stroke))
    return evolve(art, items=tuple(made))


def _solid(values: Mapping[str, Value]) -> Box | None:
    """Return the box of a plain rectangle that nothing is seen through, its line counted."""
    line = values["stroke"] / 2
    dashed = values["dash"][0] > 0 and values["dash"][1] > 0
    ends_square = line <= 0 or (values["join"] == "miter" and values["stroke_colour"][3] >= 1 and not dashed)
    whole = values["drawn_to"] - values["drawn_from"] >= 100 and max(values["feather"]) <= 0 and values["grow"] == 0
    plain = values["form"] == "rectangle" and values["corners"] <= 0 and values["paint"] == "flat"
    if not (plain and whole and ends_square and values["fill"][3] >= 1 and min(values["size"]) > 0):
        return None
    width, height = values["size"]
    return -line, -line, width + line, height + line


def _corner_grips(values: Mapping[str, Value], width: float, height: float) -> list[Grip]:
    """Return the grip of a rectangle's corners: as far along its top as they are round, a little inside of it."""
    if values["form"] != "rectangle":
        return []
    radius, inside = _round(values)
    return [Grip("radius", 0, (radius + inside, inside))]


def _corners_moved(
    values: Mapping[str, Value], width: float, height: float, grip: Grip, here: tuple[float, float], even: bool
) -> Mapping[str, Value]:
    _, inside = _round(values)
    radius = min(max(here[0] - inside, 0.0), min(values["size"]) / 2)
    return {"corners": round(radius) * 1.0 if not even else round(radius / 5) * 5.0}


def _round(values: Mapping[str, Value]) -> tuple[float, float]:
    """Return the radius as it shows, and how far inside the grip lies: clear of the handle at the very corner."""
    least = min(values["size"])
    return min(values["corners"], least / 2), max(0.1 * least, 1.0)


def _added(form: str) -> Callable[[int, int], Mapping[str, Value]]:
    """Return what a form that is added anew has in a frame of some size."""

    def values(width: int, height: int) -> Mapping[str, Value]:
        side = float(round(min(width, height) / 3))
        if form == "line":
            return {"form": form, "size": (side, 0.0), "stroke": max(4.0, round(side / 30))}
        return {"form": form, "size": (side, side)}

    return values


register_kind(
    LayerKind("shape", "Shape", "Vector outlines with fills and strokes", PARAMETERS, _box, _draw, applies=_applies,
              vector=True, stamp=_stamp, outlines=lambda values, scene: _shown(values), in_perspective=_in_perspective,
              solid=_solid,
              resizes=lambda values: "" if values["form"] == "drawing" else "size",
              grips=Grips(_corner_grips, _corners_moved, "Corners"),
              adds=tuple(AddEntry(form.capitalize(), 100 + n, values=_added(form)) for n, form in enumerate(FORMS[1:])))
)
