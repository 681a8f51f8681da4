"""Twenty varied SVG drawings of the tests' own making, by name."""

# ruff: noqa: E501 – markup reads better unbroken
from __future__ import annotations

import base64

import numpy as np

from tests.core.samples import png_bytes

_HEAD = '<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" '


def svg(body: str, size: str = 'width="200" height="160"') -> bytes:
    """Return a document with this body."""
    return f"{_HEAD}{size}>{body}</svg>".encode()


def _picture() -> str:
    y, x = np.mgrid[0:24, 0:32]
    pixels = np.dstack([x * 8, y * 10, 255 - x * 8, np.full_like(x, 255)]).astype(np.uint8)
    return base64.b64encode(png_bytes(pixels)).decode()


_STOPS = '<stop offset="0" stop-color="#f80"/><stop offset=".6" stop-color="#08c"/><stop offset="1" stop-color="#113"/>'

DRAWINGS: dict[str, bytes] = {
    "basic shapes": svg(
        '<rect x="10" y="10" width="60" height="40" rx="9" fill="#e55"/><circle cx="120" cy="40" r="28" fill="teal"/>'
        '<ellipse cx="60" cy="110" rx="44" ry="22" fill="rgb(90,60,200)"/><polygon points="130,90 190,100 150,150" fill="gold"/>'
        '<polyline points="10,150 40,120 70,150" fill="none" stroke="#000" stroke-width="4"/>'
    ),
    "path commands": svg(
        '<path d="M20 80 q20 -60 40 0 t40 0 t40 0 c10 30 30 30 40 0 s-10 -40 0 -60" fill="none" stroke="#236" stroke-width="6"/>'
        '<path d="M30 140a25 15 30 1 1 50 -5z m60 0h30v-20h-30z" fill="#c3a"/>'
    ),
    "joins and caps": svg(
        "".join(
            f'<path d="M{20 + 60 * i} 130 l25 -90 l25 90" fill="none" stroke="#345" stroke-width="14" '
            f'stroke-linejoin="{join}" stroke-linecap="{cap}" stroke-miterlimit="8"/>'
            for i, (join, cap) in enumerate((("miter", "butt"), ("round", "round"), ("bevel", "square")))
        )
    ),
    "dashes": svg(
        '<rect x="20" y="20" width="160" height="60" fill="none" stroke="#a22" stroke-width="6" stroke-dasharray="18 8 4"/>'
        '<circle cx="100" cy="120" r="28" fill="none" stroke="#26a" stroke-width="8" stroke-linecap="round" '
        'stroke-dasharray="1 14" stroke-dashoffset="5"/>'
    ),
    "linear gradients": svg(
        f'<defs><linearGradient id="a">{_STOPS}</linearGradient><linearGradient id="b" href="#a" x2="0" y2="1"/>'
        '<linearGradient id="c" href="#a" gradientUnits="userSpaceOnUse" x1="20" y1="0" x2="60" y2="20" '
        'spreadMethod="reflect"/></defs>'
        '<rect x="10" y="10" width="80" height="60" fill="url(#a)"/><rect x="110" y="10" width="80" height="60" fill="url(#b)"/>'
        '<rect x="10" y="90" width="180" height="60" fill="url(#c)"/>'
    ),
    "radial gradients": svg(
        f'<defs><radialGradient id="a">{_STOPS}</radialGradient><radialGradient id="b" xlink:href="#a" fx=".25" fy=".3"/>'
        '<radialGradient id="c" xlink:href="#a" r=".2" spreadMethod="repeat" gradientTransform="rotate(20) scale(1 .6)"/></defs>'
        '<circle cx="50" cy="60" r="45" fill="url(#a)"/><circle cx="145" cy="60" r="45" fill="url(#b)"/>'
        '<rect x="20" y="115" width="160" height="40" fill="url(#c)"/>'
    ),
    "gradient strokes": svg(
        f'<defs><linearGradient id="a">{_STOPS}</linearGradient></defs>'
        '<circle cx="100" cy="80" r="52" fill="none" stroke="url(#a)" stroke-width="20"/>'
    ),
    "transforms": svg(
        '<g transform="translate(60 20) rotate(25)"><rect width="60" height="30" fill="#283"/>'
        '<g transform="scale(1.5 .5) skewX(20)"><rect x="10" y="80" width="50" height="60" fill="none" stroke="#825" '
        'stroke-width="8"/></g></g><rect width="30" height="30" fill="#c60" transform="matrix(.8 .3 -.4 1.1 140 90)"/>'
    ),
    "clip paths": svg(
        '<defs><clipPath id="a"><circle cx="70" cy="80" r="50"/><rect x="110" y="40" width="70" height="30"/></clipPath>'
        '<clipPath id="b" clipPathUnits="objectBoundingBox"><rect x=".2" y=".2" width=".6" height=".5"/></clipPath></defs>'
        '<g clip-path="url(#a)"><rect width="200" height="160" fill="#fb3"/><circle cx="90" cy="60" r="30" fill="#36c"/></g>'
        '<rect x="120" y="90" width="70" height="60" fill="#2a7" clip-path="url(#b)"/>'
    ),
    "masks": svg(
        '<defs><linearGradient id="g"><stop offset="0" stop-color="#000"/><stop offset="1" stop-color="#fff"/></linearGradient>'
        '<mask id="m"><rect width="200" height="160" fill="url(#g)"/></mask><mask id="n" maskUnits="userSpaceOnUse" '
        'x="0" y="0" width="200" height="160"><circle cx="100" cy="120" r="30" fill="#fff" fill-opacity=".7"/></mask></defs>'
        '<rect x="10" y="10" width="180" height="60" fill="#c04" mask="url(#m)"/>'
        '<g mask="url(#n)"><rect x="60" y="90" width="40" height="60" fill="#00a"/>'
        '<rect x="100" y="90" width="40" height="60" fill="#0a0"/></g>'
    ),
    "opacity of groups": svg(
        '<g opacity=".5"><circle cx="70" cy="80" r="45" fill="#d33"/><circle cx="115" cy="80" r="45" fill="#33d"/></g>'
        '<rect x="150" y="20" width="40" height="120" fill="#060" opacity=".3"/>'
    ),
    "symbols and use": svg(
        '<defs><symbol id="s" viewBox="0 0 20 20"><path d="M10 0l10 20H0z"/><rect x="15" y="0" width="30" height="6"/></symbol>'
        '<g id="pair"><circle r="8"/><circle cx="18" r="8" fill="#fa0"/></g></defs>'
        '<use href="#s" x="10" y="10" width="60" height="60" fill="#937"/><use xlink:href="#pair" x="120" y="40" fill="#179"/>'
        '<use href="#pair" transform="translate(60 120) scale(1.6)" opacity=".6"/>'
    ),
    "style sheets": svg(
        "<style>rect { fill: #383 } .hot, #it { fill: #e40; stroke: #000; stroke-width: 3px } g > .in { opacity: .5 }"
        " rect.hot { fill: #fc0 !important }</style>"
        '<rect x="10" y="10" width="50" height="50"/><rect class="hot" style="fill:#00f" x="75" y="10" width="50" height="50"/>'
        '<circle id="it" cx="165" cy="35" r="24"/><g fill="#449"><rect class="in" x="10" y="80" width="180" height="60"/></g>'
    ),
    "fill rules": svg(
        '<path d="M100 10L130 150 10 60H190L70 150Z" fill="#556" fill-rule="evenodd"/>'
        '<path d="M10 100h40v40h-40z M20 110h20v20h-20z" fill="#a50"/>'
    ),
    "embedded picture": svg(
        f'<image x="20" y="20" width="120" height="90" href="data:image/png;base64,{_picture()}"/>'
        '<rect x="100" y="80" width="60" height="50" fill="#fff8"/>'
    ),
    "view box": svg(
        '<rect width="50" height="100" fill="#a3c"/><circle cx="25" cy="50" r="20" fill="#fff"/>',
        'width="200" height="160" viewBox="-10 0 70 100" preserveAspectRatio="xMinYMax"',
    ),
    "nested documents": svg(
        '<svg x="20" y="20" width="80" height="60" viewBox="0 0 40 40"><circle cx="20" cy="20" r="30" fill="#16a"/></svg>'
        '<svg x="120" y="60" width="60" height="80"><rect width="100%" height="50%" fill="#c72"/></svg>'
    ),
    "mixing": svg(
        '<rect width="200" height="160" fill="#ddd"/><circle cx="70" cy="80" r="50" fill="#0cc"/>'
        '<circle cx="125" cy="80" r="50" fill="#f0c" style="mix-blend-mode:multiply"/>'
    ),
    "words": svg(
        '<text x="100" y="60" text-anchor="middle" font-family="League Spartan" font-size="38" font-weight="700" '
        'fill="#123">Kites<tspan fill="#e33">fly</tspan></text>'
        '<text x="12" y="120" font-family="Karla" font-size="24">at <tspan font-weight="700">noon</tspan></text>'
    ),
    "words with lines": svg(
        '<text x="8" y="50" font-family="Inter" font-size="34" text-decoration="underline">sale '
        '<tspan fill="#e33">today</tspan></text>'
        '<text x="100" y="120" text-anchor="middle" font-family="Vollkorn" font-size="44" fill="#27a">'
        '<tspan style="text-decoration: line-through">38.00</tspan> now</text>'
    ),
    "things without a counterpart": svg(
        '<defs><filter id="f"><feGaussianBlur stdDeviation="5"/></filter><pattern id="p" width="12" height="12" '
        'patternUnits="userSpaceOnUse"><circle cx="6" cy="6" r="4" fill="#e07"/></pattern></defs>'
        '<rect x="20" y="20" width="70" height="50" fill="#27a" filter="url(#f)"/>'
        '<rect x="110" y="20" width="70" height="120" fill="url(#p)"/>'
    ),
}
