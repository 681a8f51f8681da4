"""Look book: one card with a kite and its maker's name, under every effect and finish there is; each comes on and goes
off again in turn, so that a wave of changes runs over the page."""

from __future__ import annotations

from fractions import Fraction

from attrs import evolve

from spiralis.core.colour import parse_hex
from spiralis.core.model import Composition, Layer, Matte
from spiralis.core.model.blocks import EffectKind
from spiralis.demo.artwork import pictures
from spiralis.demo.building import backdrop, effect, keys, layer, rounded, stops
from spiralis.demo.effect_values import in_order, values_for

#: Every card keeps its look for half of the loop.
N = 96
_COLUMNS, _CARD, _STEP = 7, (200, 160), (148.0, 163.0)


def _card() -> Composition:
    """Return what all cards show: a kite that sways over a word, as one group, over an evening.

    It sways in steps, as drawings do that stay for six frames each.
    """
    piece = Composition("Look book card", *_CARD, Fraction(12), N, id="look-book-card", loop=True)
    source, steps = pictures()["kite-swift.png"], "steps(8, jump-none)"
    size = 0.62 * _CARD[1] / max(source.height, 1) * 100
    group = layer("group", "Kite and word", N, size=(200.0, 160.0), position=(100.0, 80.0))
    kite = layer("picture", "Card kite", N, source=source.id, scale=(size, size),
                 position=keys((3, (64.0, 78.0), steps), (N // 2 + 3, (84.0, 66.0), steps), (N + 3, (64.0, 78.0))),
                 rotation=keys((3, -8.0, steps), (N // 2 + 3, 10.0, steps), (N + 3, -8.0)))  # fmt: skip
    word = layer("text", "Card word", N, text="Tolvane", size=34.0, position=(118.0, 126.0), weight=800.0,
                 fill=parse_hex("#ffdb8c"))  # fmt: skip
    inside = tuple(evolve(each, parent=group.id) for each in (word, kite))
    sky = backdrop(piece, "Card sky", style="linear", angle=60.0, stops=stops((0.0, "#21335c"), (1.0, "#5c4d80")))
    return evolve(piece, layers=(group, *inside, sky))


def _cell(index: int, kind: EffectKind) -> tuple[Layer, ...]:
    """Return a card under an effect, its name below, and a frame for what would fill the page."""
    x, y = 96.0 + _STEP[0] * (index % _COLUMNS), 76.0 + _STEP[1] * (index // _COLUMNS)
    first = 2 + round(index * 40 / len(in_order()))
    card = layer("nested", f"Card {kind.label}", N, composition="look-book-card", position=(x, y), scale=(66.0, 66.0))
    card = effect(card, kind.name, **values_for(kind),
                  on=keys((0, False, "hold"), (first, True, "hold"), (first + N // 2, False, "hold")))  # fmt: skip
    name = layer("text", f"Name {kind.label}", N, text=kind.label, size=17.0, font="Karla", position=(x, y + 66.0),
                 alignment="centre", fill=parse_hex("#ece6f0"))  # fmt: skip
    if kind.purpose != "Repeat":
        return card, name
    frame = rounded(f"Frame {kind.label}", N, (140.0, 112.0), 6.0, "#ffffff", position=(x, y))
    return evolve(card, mattes=(Matte(frame.id),)), name, frame


def compositions() -> tuple[Composition, ...]:
    """Return the card and the piece."""
    piece = Composition("Look book", 1080, 1350, Fraction(12), N, id="look-book", loop=True)
    cells = [part for index, kind in enumerate(in_order()) for part in _cell(index, kind)]
    clouds = layer("clouds", "Clouds", N, position=(540.0, 675.0), scale_px=(60.0, 60.0))
    page = backdrop(piece, "Page", style="flat", colour=parse_hex("#5b5468"))
    return _card(), evolve(piece, layers=(*cells, page, evolve(clouds, reference=True)))
