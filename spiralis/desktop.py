"""At home on the desktop: an entry in its menu, the icon, the kind of file, small pictures of project files.

Everything goes into the person's own data folder, by the specifications of freedesktop.org: desktop entries, icon
themes, shared MIME-info database, and thumbnailers.
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

from spiralis.core.errors import FileError
from spiralis.core.media.files import write_whole

MIME = "application/vnd.spiralis+zip"
_ICON = Path(__file__).parent / "app" / "icons" / "spiralis.svg"


def data_folder() -> Path:
    """Return the person's data folder (XDG base directories)."""
    return Path(os.environ.get("XDG_DATA_HOME") or Path.home() / ".local" / "share")


def command() -> str:
    """Return how the desktop starts Spiralis: by what it was started with, or by this very Python."""
    given = os.environ.get("SPIRALIS_COMMAND") or shutil.which("spiralis")
    return shlex.quote(given) if given else f"{shlex.quote(sys.executable)} -m spiralis"


def files() -> dict[Path, str]:
    """Return what is installed: each file beneath the data folder with its text."""
    return {
        Path("applications/spiralis.desktop"): (
            "[Desktop Entry]\nType=Application\nName=Spiralis\nGenericName=Motion Design\n"
            "Comment=Layered looping motion for square and upright screens\n"
            f"Exec={command()} open %f\nIcon=spiralis\nTerminal=false\n"
            "Categories=Graphics;2DGraphics;AudioVideo;Video;\n"
            f"MimeType={MIME};\nStartupWMClass=spiralis\nStartupNotify=true\n"
            "Keywords=animation;motion;loop;video;gif;\n"
        ),
        Path("mime/packages/spiralis.xml"): (
            '<?xml version="1.0" encoding="UTF-8"?>\n'
            '<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">\n'
            f'  <mime-type type="{MIME}">\n    <comment>Spiralis project</comment>\n'
            '    <sub-class-of type="application/zip"/>\n    <icon name="spiralis"/>\n'
            '    <glob pattern="*.spiralis"/>\n  </mime-type>\n</mime-info>\n'
        ),
        Path("thumbnailers/spiralis.thumbnailer"): (
            f"[Thumbnailer Entry]\nTryExec={shlex.split(command())[0]}\nExec={command()} thumbnail %i %o --size %s\n"
            f"MimeType={MIME};\n"
        ),
        Path("icons/hicolor/scalable/apps/spiralis.svg"): _ICON.read_text(encoding="utf-8"),
    }


def install() -> list[Path]:
    """Write everything and return where; raises FileError with one sentence."""
    written = []
    for place, text in files().items():
        path = data_folder() / place
        write_whole(path, text)
        written.append(path)
    _tell_desktop()
    return written


def uninstall() -> list[Path]:
    """Take everything away again and return what was there; raises FileError."""
    removed = []
    for place in files():
        path = data_folder() / place
        try:
            path.unlink()
        except FileNotFoundError:
            continue
        except OSError as error:
            raise FileError(f"“{path}” cannot be removed; check its permissions.") from error
        removed.append(path)
    _tell_desktop()
    return removed


def _tell_desktop() -> None:
    """Let the desktop read its lists anew; where it has no such command it looks by itself, later."""
    for name, folder in (("update-mime-database", "mime"), ("update-desktop-database", "applications")):
        if shutil.which(name) and (data_folder() / folder).is_dir():
            subprocess.run([name, str(data_folder() / folder)], check=False, capture_output=True)
