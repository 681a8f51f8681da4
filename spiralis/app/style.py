"""Colours, fonts and the style sheet of the window."""

from __future__ import annotations

from functools import cache
from pathlib import Path

from PyQt6.QtCore import QByteArray, QRectF, Qt
from PyQt6.QtGui import QColor, QFont, QFontDatabase, QIcon, QPainter, QPalette, QPixmap
from PyQt6.QtSvg import QSvgRenderer
from PyQt6.QtWidgets import QApplication

HERE = Path(__file__).parent

GROUND, PANEL, RAISED, LINE = "#1e1b24", "#272330", "#312c3b", "#423b4e"
TEXT, QUIET = "#f1ecf4", "#b9b0c4"
#: What cannot be used now, and marks of what is not there: words need 4.5 to 1, marks 3 to 1 (WCAG 2.1, 1.4.3, 1.4.11).
FAINT, MARK = "#9a92a6", "#8a8196"
MARIGOLD, MINT, ALARM, SURROUND = "#f5b23d", "#7bd0c1", "#ff7a70", "#2b2b2b"
CHOSEN = "#4a3a1c"
#: Under small pictures, so that dark ones show as well as light ones.
TILE = "#5a5466"
FAMILY_COLOURS = {
    "place": "#6fb7e8", "size": "#f5b23d", "turn": "#ef7fa6", "look": "#a78bfa", "content": "#7bd0c1",
    "effects": "#d7c47a",
}  # fmt: skip


#: Colour marks of layers, by the names the model knows.
TINT_COLOURS = {
    "rose": "#e07a9b", "amber": "#d99a3c", "moss": "#93b25a", "teal": "#4fb3a6", "sky": "#6fa8dc", "iris": "#9a86d9",
    "slate": "#8d8798",
}  # fmt: skip


@cache
def colour(text: str, alpha: float = 1.0) -> QColor:
    """Return a colour by its hex text, with an opacity."""
    made = QColor(text)
    made.setAlphaF(alpha)
    return made


@cache
def ui_family() -> str:
    """Load the shipped typeface and return its family name."""
    families: list[str] = []
    for path in sorted((HERE.parent / "assets" / "ui-fonts").glob("*.otf")):
        families += QFontDatabase.applicationFontFamilies(QFontDatabase.addApplicationFont(str(path)))
    return "Inter" if "Inter" in families else "sans-serif"


@cache
def font(size: float = 13, weight: int = 400, tabular: bool = False) -> QFont:
    """Return the UI typeface at a size in pixels; ``tabular`` figures keep their places."""
    made = QFont(ui_family())
    made.setPixelSize(round(size))
    made.setWeight(QFont.Weight(weight))
    if tabular:
        made.setFeature(QFont.Tag("tnum"), 1)
    return made


@cache
def icon_pixmap(name: str, tint: str = TEXT, size: int = 16, ratio: float = 2.0) -> QPixmap:
    """Return one of our SVG icons in a colour."""
    source = (HERE / "icons" / f"{name}.svg").read_text(encoding="utf-8").replace("currentColor", tint)
    pixmap = QPixmap(round(size * ratio), round(size * ratio))
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    QSvgRenderer(QByteArray(source.encode())).render(painter, QRectF(0, 0, size * ratio, size * ratio))
    painter.end()
    pixmap.setDevicePixelRatio(ratio)
    return pixmap


@cache
def icon(name: str, tint: str = TEXT) -> QIcon:
    """Return one of our icons for a button; faded where the button is off."""
    made = QIcon(icon_pixmap(name, tint))
    made.addPixmap(icon_pixmap(name, LINE), QIcon.Mode.Disabled)
    return made


def apply_style(application: QApplication) -> None:
    """Dress the whole application."""
    application.setStyle("Fusion")
    application.setFont(font())
    palette = QPalette()
    roles = QPalette.ColorRole
    for role, value in (
        (roles.Window, PANEL), (roles.WindowText, TEXT), (roles.Base, GROUND), (roles.AlternateBase, PANEL),
        (roles.Text, TEXT), (roles.Button, RAISED), (roles.ButtonText, TEXT), (roles.Highlight, MARIGOLD),
        (roles.HighlightedText, GROUND), (roles.ToolTipBase, RAISED), (roles.ToolTipText, TEXT),
        (roles.PlaceholderText, QUIET), (roles.Link, MINT),
    ):  # fmt: skip
        palette.setColor(role, QColor(value))
    for role in (roles.Text, roles.ButtonText, roles.WindowText):
        palette.setColor(QPalette.ColorGroup.Disabled, role, QColor(FAINT))
    application.setPalette(palette)
    sheet = (HERE / "style.qss").read_text(encoding="utf-8")
    names = {"GROUND": GROUND, "PANEL": PANEL, "RAISED": RAISED, "LINE": LINE, "TEXT": TEXT, "QUIET": QUIET,
             "FAINT": FAINT, "MARIGOLD": MARIGOLD, "MINT": MINT, "ALARM": ALARM, "CHOSEN": CHOSEN,
             "ICONS": (HERE / "icons").as_posix()}  # fmt: skip
    for name, value in names.items():
        sheet = sheet.replace(f"@{name}@", value)
    application.setStyleSheet(sheet)
