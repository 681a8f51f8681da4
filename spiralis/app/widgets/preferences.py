"""What a person prefers, each preference declared once, and stored in the XDG configuration folder."""

from __future__ import annotations

import json
from collections.abc import Callable
from pathlib import Path
from typing import Any

from attrs import frozen
from platformdirs import user_config_path

from spiralis.core.animation.ease_tiles import EASE_TILES
from spiralis.core.animation.easing import LINEAR, Easing
from spiralis.core.cache import BUDGET, fair_share
from spiralis.core.media.placing import placed

_MB = 1 << 20
LEAST, MOST = 128, 65_536


@frozen
class Preference:
    """One preference: stored under ``name``; a switch, a whole number with its range and unit, or one of ``choices``.

    ``choices`` are pairs of what is stored and what is shown; ``words`` stand in place of some numbers.
    """

    name: str
    label: str
    help: str
    default: bool | int | str
    choices: tuple[tuple[str, str], ...] = ()
    minimum: int = 0
    maximum: int = 0
    unit: str = ""
    words: tuple[tuple[int, str], ...] = ()

    def checked(self, value: object) -> bool | int | str:
        """Return a stored value where it is one that this preference can have, else the default."""
        if type(value) is not type(self.default):
            return self.default
        if self.choices:
            return str(value) if value in [stored for stored, _ in self.choices] else self.default
        if isinstance(value, int) and not isinstance(value, bool):
            return value if self.minimum <= value <= self.maximum else self.default
        return value


_PACES = ("straight", "soft-both", "soft-start", "soft-stop")

PREFERENCES = {
    each.name: each
    for each in (
        Preference(
            "pace", "New keys move", "The pace of a thread's first key; later ones take over that of their neighbour",
            "straight", tuple((tile.name, tile.label) for tile in EASE_TILES if tile.name in _PACES),
        ),
        Preference(
            "format", "New pieces are", "The size that the start page offers first", "Portrait",
            (("Square", "Square, 1080 × 1080"), ("Portrait", "Portrait, 1080 × 1350"),
             ("Upright", "Upright, 1080 × 1920"), ("Wide", "Wide, 1920 × 1080")),
        ),
        Preference(
            "decimal", "Numbers show", "What stands before the decimals; both may always be typed", "point",
            (("point", "a point: 12.5"), ("comma", "a comma: 12,5")),
        ),
        Preference(
            "time", "Time counts in", "What ruler and ring count in when a project opens", "frames",
            (("frames", "frames"), ("seconds", "seconds"), ("timecode", "timecode")),
        ),
        Preference(
            "still", "Less motion",
            "Studies on the start page stand still; in the moves chooser only the tile under the pointer plays", False,
        ),
        Preference(
            "autosave", "Keep a version every", "While something changes; the last ten of each project are kept", 5,
            minimum=1, maximum=120, unit="min",
        ),
        Preference(
            "workers", "An export draws with", "Frames drawn side by side; 0 takes what this machine has", 0,
            minimum=0, maximum=64, unit="threads", words=((0, "as many as suits"),),
        ),
    )
}  # fmt: skip

_listeners: list[Callable[[], None]] = []
_known: dict[str, Any] | None = None


def preferences_path() -> Path:
    """Return the file of the preferences."""
    return user_config_path("spiralis") / "preferences.json"


def stored() -> dict[str, Any]:
    """Return what is stored; nothing where the file is missing or damaged."""
    try:
        found = json.loads(preferences_path().read_text(encoding="utf-8"))
    except (OSError, ValueError):
        return {}
    return found if isinstance(found, dict) else {}


def preferred(name: str) -> Any:
    """Return a preference as it is set, or its default."""
    global _known
    if _known is None:
        _known = stored()
    preference = PREFERENCES[name]
    return preference.checked(_known.get(name, preference.default))


def prefer(name: str, value: bool | int | str) -> None:
    """Set a preference, tell who listens, and store it; raises OSError where it cannot be stored, and it holds on."""
    global _known
    _known = {**(stored() if _known is None else _known), name: PREFERENCES[name].checked(value)}
    for listener in list(_listeners):
        listener()
    store(**{name: _known[name]})


def when_preferred(listener: Callable[[], None]) -> None:
    """Have something called after every change of a preference."""
    _listeners.append(listener)


def forget() -> None:
    """Read the file again at the next question: it was written by somebody else, or lies elsewhere now."""
    global _known
    _known = None


def new_pace() -> Easing:
    """Return the pace that a thread's first key gets."""
    return next((tile.easing for tile in EASE_TILES if tile.name == preferred("pace")), LINEAR)


def shown_decimal(number: str) -> str:
    """Return the text of a number with the decimal sign that is preferred."""
    return number.replace(".", ",") if preferred("decimal") == "comma" else number


def apply_stored() -> None:
    """Let the caches have the memory that was set, or their fair share."""
    megabytes = stored().get("memory")
    if isinstance(megabytes, int) and not isinstance(megabytes, bool) and LEAST <= megabytes <= MOST:
        BUDGET.set_limit(megabytes * _MB)
    else:
        BUDGET.set_limit(fair_share())


def store(**values: Any) -> None:
    """Store values beside those that are there; raises OSError."""
    path = preferences_path()
    path.parent.mkdir(parents=True, exist_ok=True)
    with placed(path) as temporary:
        temporary.write_text(json.dumps({**stored(), **values}, indent=1), encoding="utf-8")
