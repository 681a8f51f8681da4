"""The demo project's compositions."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.editing.reframing import add_format
from spiralis.core.model import Composition, Layer, Project, Rule, Track
from spiralis.demo.artwork import pictures
from spiralis.demo.building import backdrop, effect, keys, layer
from spiralis.demo.pieces_deep import deep_kite_day
from spiralis.demo.studies import with_studies

CREAM = parse_hex("#fcf4e4")
INK = parse_hex("#281e34")
_LEFT_ALONE = (("contrast", "headline", "", "Large, with a dark rim of its own"),)


def demo_project() -> Project:
    """Return the Tolvane Kites project: the same value every time."""
    sources = tuple(pictures().values())
    pieces = (kite_day(), button_pulse(), workshop_week(), deep_kite_day(kite_day()))
    return _with_formats(with_studies(Project("Tolvane Kites", pieces, sources)))


def _with_formats(project: Project) -> Project:
    """Return the project with two more formats of Kite day."""
    for name, width, height in (("square", 1080, 1080), ("upright", 1080, 1920)):
        project, made = add_format(project, "kite-day", width, height, f"Kite day, {name}")
        form = evolve(project.composition(made), id=f"kite-day-{name}", left_alone=_LEFT_ALONE)
        named = tuple(form if c.id == made else c for c in project.compositions)
        project = evolve(project, compositions=named)
    return project


def _stops(*marks: tuple[float, str]) -> tuple[tuple[float, ...], ...]:
    return tuple((place, *parse_hex(colour)) for place, colour in marks)


def _picture(file: str) -> str:
    return pictures()[file].id


def kite_day() -> Composition:
    """The sale post: a kite on a curved path over an evening sky, a headline, a price tag; loops."""
    piece = Composition("Kite day", 1080, 1350, Fraction(25), 150, id="kite-day")
    n = piece.length
    sky = _stops((0.0, "#16405e"), (0.46, "#2c7f8c"), (0.74, "#dca07c"), (1.0, "#f2a56c"))
    dusk = _stops((0.0, "#241f4e"), (0.46, "#58508c"), (0.74, "#d8806c"), (1.0, "#f0a052"))
    layers = (
        _tag(n),
        layer("picture", "Logo", n, source=_picture("tolvane-logo.png"), position=(70.0, 76.0), pivot=(0.0, 0.0),
              scale=(52.0, 52.0), opacity=keys((0, 0.0), (14, 100.0), (136, 100.0), (150, 0.0))),
        *_headline(n),
        _kite(n),
        layer("picture", "Far kite", n, source=_picture("kite-delta.png"), scale=(17.0, 17.0), opacity=84.0,
              position=keys((0, (250.0, 520.0)), (75, (330.0, 455.0)), (150, (250.0, 520.0))),
              rotation=keys((0, -9.0), (75, 6.0), (150, -9.0))),
        backdrop(piece, "Sun glow", style="radial", blend="screen", centre=(64.0, 36.0),
                 stops=_stops((0.0, "#ffd890b0"), (0.45, "#ff9a5a40"), (1.0, "#00000000")),
                 reach=keys((0, 52.0), (75, 74.0), (150, 52.0))),
        backdrop(piece, "Evening sky", style="linear", angle=101.0,
                 stops=keys((0, sky), (75, dusk), (150, sky))),
    )  # fmt: skip
    return evolve(piece, layers=layers, left_alone=_LEFT_ALONE)


def _tag(n: int) -> Layer:
    grown = (66.0, 66.0)
    return layer(
        "picture", "Price tag", n, source=_picture("price-tag.png"), position=(884.0, 1068.0),
        scale=keys((34, (0.0, 0.0), "overshoot"), (50, grown, "hold"), (134, grown, "anticipate"), (146, (0.0, 0.0))),
        rotation=keys((50, -8.0), (70, 8.0), (90, -8.0), after=Rule.REPEAT),
    )  # fmt: skip


def _headline(n: int) -> tuple[Layer, ...]:
    words = {"pivot": (0.0, 50.0), "alignment": "left"}
    headline = layer(
        "text", "Headline", n, text="KITE\nDAY", font="League Spartan", weight=900.0, size=214.0, leading=84.0,
        tracking=-14.0, motion_blur=True, fill=CREAM, **words,
        position=keys((8, (-760.0, 1010.0), "snap"), (28, (72.0, 1010.0), "hold"), (130, (72.0, 1010.0), "anticipate"),
                      (146, (-760.0, 1010.0))),
        opacity=keys((8, 0.0), (16, 100.0, "hold"), (138, 100.0), (146, 0.0)),
    )  # fmt: skip
    # Cream alone would not stand out from the low sun.
    headline = effect(headline, "drop-shadow", colour=parse_hex("#281e34c8"), distance=0.0, size=12.0, spread=7.0)
    line = layer(
        "text", "Place and time", n, text="Saturday on the long sands", font="Karla", weight=700.0, size=52.0,
        fill=INK, **words,
        position=keys((16, (76.0, 1270.0), "soft-stop"), (36, (76.0, 1222.0), "hold"),
                      (132, (76.0, 1222.0), "soft-start"), (144, (76.0, 1254.0))),
        opacity=keys((16, 0.0), (34, 100.0, "hold"), (132, 100.0), (144, 0.0)),
    )  # fmt: skip
    return headline, line


def _kite(n: int) -> Layer:
    start, high = (372.0, 470.0), (742.0, 380.0)
    return layer(
        "picture", "Kite", n, source=_picture("kite-swift.png"), scale=(50.0, 50.0), pivot=(50.0, 30.0),
        motion_blur=True,
        position=keys((0, start, "soft-both", (-80.0, 150.0), (80.0, -150.0)),
                      (70, high, "soft-both", (-170.0, -130.0), (170.0, 130.0)),
                      (150, start, "soft-both", (-80.0, 150.0), (80.0, -150.0))),
        rotation=keys((0, -16.0), (42, 22.0), (80, 12.0), (112, -24.0), (150, -16.0)),
    )  # fmt: skip


def button_pulse() -> Composition:
    """A button that brightens, gains outline and halo as its words do, and falls back; made for a GIF."""
    piece = Composition("Button pulse", 1080, 1080, Fraction(25), 50, id="button-pulse")
    n, centre = piece.length, (540.0, 540.0)

    def pulse(rest: Any, full: Any) -> Track:
        return keys((0, rest, "soft-both"), (16, full), (24, full, "soft-both"), (50, rest))

    words = layer("text", "Words", n, text="Book a flight", font="League Spartan", weight=700.0, size=82.0,
                  position=(332.0, 118.0), fill=INK, pivot=(50.0, 50.0))  # fmt: skip
    words = effect(words, "halo", colour=parse_hex("#fff6dc"), size=10.0, spread=3.0, strength=pulse(0.0, 90.0))
    words = effect(words, "outline", colour=pulse(parse_hex("#fff3cc00"), parse_hex("#fff3ccff")), width=4.0)
    button = layer("picture", "Button", n, source=_picture("button.png"), position=centre,
                   scale=keys((0, (100.0, 100.0), "soft-both"), (16, (105.0, 105.0), "soft-both"),
                              (50, (100.0, 100.0))))  # fmt: skip
    button = effect(button, "grade", brightness=keys((0, 100.0, "soft-both"), (16, 116.0, "soft-both"), (50, 100.0)))
    button = effect(button, "outline", colour=pulse(parse_hex("#fcf4e400"), parse_hex("#fcf4e4ff")), width=7.0,
                    gap=pulse(6.0, 26.0))  # fmt: skip
    button = effect(button, "halo", colour=parse_hex("#ffc25c"), size=44.0, spread=16.0, strength=pulse(0.0, 95.0))
    night = backdrop(piece, "Night", style="radial", stops=_stops((0.0, "#4a2f62"), (1.0, "#231a33")))
    return evolve(piece, layers=(evolve(words, parent="button"), button, night))


def workshop_week() -> Composition:
    """The second poster, upright: two kites that take turns, and the week's programme."""
    piece = Composition("Workshop week", 1080, 1920, Fraction(30), 120, id="workshop-week")
    n = piece.length
    words = {"pivot": (50.0, 50.0), "fill": CREAM}
    layers = (
        layer("text", "Title", n, text="Workshop\nweek", font="Lobster Two", weight=700.0, size=210.0, leading=92.0,
              **words, position=(540.0, 330.0),
              rotation=keys((0, -2.0), (60, 2.0), (120, -2.0))),
        layer("text", "Programme", n, text="Mon  sewing\nTue  spars\nWed  tails\nThu  first flight",
              font="Yanone Kaffeesatz", weight=700.0, size=104.0, leading=104.0, alignment="left", fill=CREAM,
              pivot=(0.0, 0.0), position=(110.0, 1380.0)),
        layer("picture", "Box kite", n, source=_picture("kite-box.png"), scale=(58.0, 58.0), motion_blur=True,
              position=keys((0, (540.0, 900.0), "hold"), (50, (540.0, 900.0), "anticipate"),
                            (66, (1500.0, 820.0), "hold"), (106, (-420.0, 980.0), "overshoot"), (120, (540.0, 900.0))),
              rotation=keys((0, -3.0), (30, 3.0), (60, -3.0), after=Rule.REPEAT)),
        layer("picture", "Ray kite", n, source=_picture("kite-ray.png"), scale=(56.0, 56.0), motion_blur=True,
              position=keys((48, (-420.0, 980.0), "overshoot"), (66, (540.0, 940.0), "hold"),
                            (106, (540.0, 940.0), "anticipate"), (119, (1500.0, 860.0))),
              rotation=keys((0, 3.0), (30, -3.0), (60, 3.0), after=Rule.REPEAT)),
        backdrop(piece, "Sea", style="linear", angle=80.0,
                 stops=_stops((0.0, "#0f3d4c"), (0.55, "#1f7a78"), (1.0, "#123f5a"))),
    )  # fmt: skip
    return evolve(piece, layers=layers)
