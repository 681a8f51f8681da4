"""The workshop's layered badge, written as SVG: rim, kite, stars, ribbon, each a named group."""

from __future__ import annotations

import math

SIZE = 1000
_CENTRE = SIZE / 2


def badge_svg() -> bytes:
    """Return the badge as an SVG document of 1000 by 1000 px."""
    parts = (_definitions(), _ground(), _rim(), _rays(), _kite(), _stars(), _ribbon())
    head = f'<svg xmlns="http://www.w3.org/2000/svg" width="{SIZE}" height="{SIZE}" viewBox="0 0 {SIZE} {SIZE}">'
    return f"{head}\n<title>Tolvane Kites badge</title>\n{''.join(parts)}</svg>\n".encode()


def _definitions() -> str:
    return """<style>
.line { fill: none; stroke: #281e34; stroke-width: 9; stroke-linecap: round; stroke-linejoin: round }
.cream { fill: #fcf4e4 }</style>
<defs>
<radialGradient id="dusk" cx=".5" cy=".38" r=".7">
<stop offset="0" stop-color="#58508c"/><stop offset=".7" stop-color="#2b2350"/><stop offset="1" stop-color="#1d1738"/>
</radialGradient>
<linearGradient id="sail" x1="0" x2="1" y1="0" y2="1">
<stop offset="0" stop-color="#ff8a6c"/><stop offset="1" stop-color="#d8483c"/></linearGradient>
<linearGradient id="gold" x1="0" x2="0" y1="0" y2="1">
<stop offset="0" stop-color="#ffd27a"/><stop offset="1" stop-color="#e89a2c"/></linearGradient>
<clipPath id="disc"><circle cx="500" cy="500" r="392"/></clipPath>
<path id="star" d="M0-30 8-9 29-9 12 5 18 27 0 14-18 27-12 5-29-9-8-9Z"/>
</defs>
"""


def _ground() -> str:
    return '<circle id="Ground" cx="500" cy="500" r="400" fill="url(#dusk)"/>\n'


def _rim() -> str:
    notches = []
    for index in range(48):
        angle = 2 * math.pi * index / 48
        x1, y1 = _CENTRE + 424 * math.cos(angle), _CENTRE + 424 * math.sin(angle)
        x2, y2 = _CENTRE + 446 * math.cos(angle), _CENTRE + 446 * math.sin(angle)
        notches.append(f"M{x1:.2f} {y1:.2f}L{x2:.2f} {y2:.2f}")
    return f"""<g id="Rim">
<circle id="Rope" cx="500" cy="500" r="460" fill="none" stroke="url(#gold)" stroke-width="18"/>
<path id="Notches" d="{"".join(notches)}" stroke="#f5b23d" stroke-width="6" stroke-linecap="round"/>
<circle id="Stitches" cx="500" cy="500" r="408" fill="none" stroke="#fcf4e4" stroke-width="5" stroke-dasharray="22 14"/>
</g>
"""


def _rays() -> str:
    wedges = []
    for index in range(12):
        low, high = math.radians(30 * index - 6), math.radians(30 * index + 6)
        points = [(_CENTRE + 520 * math.cos(a), _CENTRE + 520 * math.sin(a)) for a in (low, high)]
        wedges.append(f"M500 500L{points[0][0]:.1f} {points[0][1]:.1f} {points[1][0]:.1f} {points[1][1]:.1f}Z")
    return (
        f'<g id="Sky" clip-path="url(#disc)"><path id="Rays" d="{"".join(wedges)}" fill="#f5b23d" opacity=".16"/></g>\n'
    )


def _kite() -> str:
    tail = "M500 640C440 700 580 740 520 800"
    bows = "".join(
        f'<path d="M{x} {y}l-34-16v32l34-16 34-16v32z" fill="{fill}"/>'
        for x, y, fill in ((494, 690, "#60c4b0"), (536, 742, "#f8b842"), (520, 796, "#e25c84"))
    )
    return f"""<g id="Kite" transform="rotate(8 500 450)">
<path id="Tail" class="line" d="{tail}"/>
<g id="Bows">{bows}</g>
<g id="Sail">
<path id="Left sail" d="M500 190 300 430 500 640Z" fill="url(#sail)"/>
<path id="Right sail" d="M500 190 700 430 500 640Z" fill="#f8b842"/>
<path id="Window" d="M500 330 430 430 500 520 570 430Z" fill="#622e58"/>
</g>
<path id="Spars" class="line" d="M500 190V640M300 430H700"/>
</g>
"""


def _stars() -> str:
    uses = []
    for index, angle in enumerate((200, 232, 308, 340)):
        x = _CENTRE + 322 * math.cos(math.radians(angle))
        y = _CENTRE + 322 * math.sin(math.radians(angle))
        scale = (1.1, 0.8, 0.8, 1.1)[index]
        uses.append(
            f'<use id="Star {index + 1}" href="#star" class="cream" '
            f'transform="translate({x:.1f} {y:.1f}) scale({scale})"/>'
        )
    return f'<g id="Stars">{"".join(uses)}</g>\n'


def _ribbon() -> str:
    return """<g id="Ribbon">
<path id="Ends" d="M96 792 180 772 180 872 96 892 130 842ZM904 792 820 772 820 872 904 892 870 842Z" fill="#b23a34"/>
<path id="Band" d="M150 756Q500 836 850 756V856Q500 936 150 856Z" fill="#ee604c"/>
<text id="Name" x="500" y="872" text-anchor="middle" font-family="League Spartan" font-weight="800"
 font-size="74" letter-spacing="6" class="cream">TOLVANE KITES</text>
</g>
"""
