"""Damage files at random and read them: ``python -m tests.fuzz TARGET N [SEED]``.

Every reader has to answer with something it read or with one sentence, within limits of time and memory, and never by
anything else. Each run is made in a process of its own; the same seed gives the same files.
"""

from __future__ import annotations

import io
import random
import re
import resource
import signal
import subprocess
import sys
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path

from attrs import frozen

#: Seconds for one file, and bytes of address space beyond what the process takes by itself.
SECONDS, ROOM = 20, 3 << 30
#: What no sentence for people may hold: Python's own words, and control characters.
_OWN_WORDS = re.compile(
    r"NoneType|object is not|Traceback|Error\(|<class|unhashable|out of range|[\x00-\x08\x0b-\x1f\x7f]"
)
_NUMBERS = (
    b"\x00" * 4, b"\xff" * 4, b"\x7f\xff\xff\xff", b"-1", b"1e308", b"NaN", b"99999999999", b"null", b"\x80", b'"'
)  # fmt: skip


@frozen
class Target:
    """A reader: whole files to begin with, and what is done with the bytes of one, given a folder to use."""

    seeds: Callable[[], list[bytes]]
    read: Callable[[bytes, Path], object]


def damaged(data: bytes, chance: random.Random) -> bytes:
    """Return some bytes with a few faults; of a ZIP archive more often in what it holds than in the archive itself."""
    if data[:2] == b"PK" and chance.random() < 0.75:
        return _inside(data, chance)
    made = bytearray(data)
    for _ in range(chance.choice((1, 1, 2, 4, 12))):
        if not made:
            break
        at = chance.randrange(len(made))
        length = min(chance.choice((1, 1, 2, 8, 64, 512)), len(made) - at)
        match chance.randrange(7):
            case 0:
                made[at] ^= 1 << chance.randrange(8)
            case 1:
                del made[at : at + length]
            case 2:
                made[at:at] = made[at : at + length] * chance.choice((1, 3))
            case 3:
                made[at : at + length] = chance.randbytes(length)
            case 4:
                number = chance.choice(_NUMBERS)
                made[at : at + len(number)] = number
            case 5:
                other = chance.randrange(len(made))
                made[at : at + length] = made[other : other + length]
            case _:
                del made[at : at + (len(made) if chance.random() < 0.3 else length)]
    return bytes(made)


def _inside(data: bytes, chance: random.Random) -> bytes:
    try:
        with zipfile.ZipFile(io.BytesIO(data)) as archive:
            entries = [(info.filename, archive.read(info)) for info in archive.infolist()]
    except (zipfile.BadZipFile, NotImplementedError, OSError):
        return data
    name, held = chance.choice(entries)
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w") as archive:
        for entry, text in entries:
            archive.writestr(entry, damaged(text, chance) if entry == name else text)
    del held
    return out.getvalue()


def _projects() -> list[bytes]:
    from spiralis.core.model import Key, Layer, Track
    from spiralis.core.storage import save
    from tests.core.samples import backdrop, project, square_source

    source = square_source()
    layers = (
        Layer("Words", "text", 0, 20, id="w").with_values(text="kite", position=(20.0, 20.0)),
        Layer("Picture", "picture", 0, 20, id="p").with_values(source=source.id).with_track(
            "rotation", Track(0.0, (Key(0, 0.0), Key(9, 90.0)))
        ),
        Layer("Cloud", "particles", 0, 20, id="c").with_values(shape="layer", of="w"),
        Layer("Camera", "camera", 0, 20, id="e").with_values(depth=True, position_z=-300.0),
        backdrop(64, 48, (0.2, 0.3, 0.4, 1.0)),
    )
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "a.spiralis"
        save(project(*layers, sources=(source,)), path)
        return [path.read_bytes()]


def _read_project(data: bytes, folder: Path) -> object:
    from spiralis.core.render.frame import render_rgba8
    from spiralis.core.storage import load

    path = folder / "a.spiralis"
    path.write_bytes(data)
    project = load(path)
    piece = project.compositions[0]
    if piece.width * piece.height < 4_000_000:
        render_rgba8(project, piece.id, 3, min(1.0, 128 / max(piece.width, piece.height)))
    return project


def _layered() -> list[bytes]:
    from spiralis.demo.badge import badge_svg
    from tests.core.drawings import DRAWINGS

    return [badge_svg(), *DRAWINGS.values()]


def _rasters() -> list[bytes]:
    import numpy as np
    from PIL import Image

    pixels = np.random.default_rng(1).integers(0, 255, (40, 50, 4)).astype(np.uint8)
    made = []
    for kind in ("PNG", "TIFF", "WEBP", "GIF", "JPEG", "BMP", "AVIF"):
        buffer = io.BytesIO()
        Image.fromarray(pixels).convert("RGB" if kind in ("JPEG", "BMP", "GIF") else "RGBA").save(buffer, kind)
        made.append(buffer.getvalue())
    return made


def _clips() -> list[bytes]:
    from tests.core.clips import animated, encode

    kinds = (("libx264", "mp4", "yuv420p"), ("libx264", "mpegts", "yuv420p"), ("mjpeg", "avi", "yuvj420p"),
             ("libvpx-vp9", "webm", "yuv420p"))  # fmt: skip
    return [*(encode(*kind, count=6) for kind in kinds), animated("GIF", 4)]


def _read_clip(data: bytes, folder: Path) -> object:
    from spiralis.core.media.footage import open_clip

    heads = ((b"GIF", ".gif"), (b"RIFF", ".avi"), (b"\x1aE\xdf\xa3", ".webm"), (b"G", ".ts"))
    suffix = next((ending for head, ending in heads if data.startswith(head)), ".mp4")
    clip = open_clip(data, suffix, f"a{suffix}")
    try:
        return [clip.frame(index) for index in range(min(clip.facts.clock.count, 4))]
    finally:
        clip.close()


def _fonts() -> list[bytes]:
    from spiralis.core.raster.fonts import FONT_FOLDER

    smallest = sorted(FONT_FOLDER.glob("*.[to]tf"), key=lambda path: path.stat().st_size)
    return [path.read_bytes() for path in smallest[:2]]


def _targets() -> dict[str, Target]:
    from spiralis.core.media.layered_files import layers_of
    from spiralis.core.media.lookups import read_lookup
    from spiralis.core.media.pictures import decode_picture
    from spiralis.core.raster.fonts import read_face
    from spiralis.core.storage.look_file import read_looks
    from spiralis.demo.poster import poster_ora
    from tests.core.samples import cube

    def looks(data: bytes, folder: Path) -> object:
        path = folder / "a.looks.json"
        path.write_bytes(data)
        return read_looks(path)

    def own_looks() -> list[bytes]:
        from spiralis.core.looks import shipped_looks
        from spiralis.core.storage.look_file import write_looks

        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "a.looks.json"
            write_looks(path, shipped_looks()[:3])
            return [path.read_bytes()]

    return {
        "project": Target(_projects, _read_project),
        "svg": Target(_layered, lambda data, _: layers_of(data, "a.svg")),
        "openraster": Target(lambda: [poster_ora()], lambda data, _: layers_of(data, "a.ora")),
        "picture": Target(_rasters, lambda data, _: decode_picture(data, "a.png")),
        "footage": Target(_clips, _read_clip),
        "font": Target(_fonts, lambda data, _: read_face(data, "a.ttf")),
        "lookup": Target(lambda: [cube()], lambda data, _: read_lookup(data, "a.cube")),
        "looks": Target(own_looks, looks),
    }


TARGETS = ("project", "svg", "openraster", "picture", "footage", "font", "lookup", "looks")


def child(name: str, count: int, seed: int) -> int:
    """Read damaged files in this process; print each that was answered wrongly, and how far it is to standard error."""
    from spiralis.core.errors import SpiralisError

    target, bad = _targets()[name], 0
    seeds = target.seeds()
    used = int(Path("/proc/self/statm").read_text().split()[0]) * resource.getpagesize()
    resource.setrlimit(resource.RLIMIT_AS, (used + ROOM, used + ROOM))
    with tempfile.TemporaryDirectory() as folder:
        for number in range(count):
            print(number, file=sys.stderr, flush=True)
            chance = random.Random(f"{name} {seed} {number}")
            data = damaged(chance.choice(seeds), chance)
            signal.alarm(SECONDS)
            try:
                target.read(data, Path(folder))
            except SpiralisError as error:
                said = str(error)
                if not said.strip() or "\n" in said or len(said) > 600 or _OWN_WORDS.search(said):
                    bad += 1
                    print(f"{name} {seed} {number}: no sentence for people: {said!r}")
            except Exception as error:
                bad += 1
                print(f"{name} {seed} {number}: {type(error).__name__}: {error}")
            signal.alarm(0)
    return bad


def run(name: str, count: int, seed: int = 1, seconds: float = 600) -> list[str]:
    """Read so many damaged files in a process of their own; return what was answered wrongly."""
    command = [sys.executable, "-m", "tests.fuzz", "--child", name, str(count), str(seed)]
    done = subprocess.run(command, capture_output=True, text=True, timeout=seconds, check=False)
    lines = done.stdout.splitlines()
    if done.returncode not in (0, 1):
        last = [line for line in done.stderr.splitlines() if line.isdigit()][-1:]
        lines.append(f"{name} {seed} {''.join(last)}: the process ended with {done.returncode}: {done.stderr[-300:]}")
    return lines


def main(words: list[str]) -> int:
    """Run from the command line."""
    if words[:1] == ["--child"]:
        return 1 if child(words[1], int(words[2]), int(words[3])) else 0
    if len(words) not in (2, 3) or words[0] not in TARGETS:
        print(f"Use: python -m tests.fuzz {'|'.join(TARGETS)} N [SEED]", file=sys.stderr)
        return 2
    wrong = run(words[0], int(words[1]), int(words[2]) if len(words) == 3 else 1, 1e6)
    print("\n".join([*wrong, f"{len(wrong)} of {words[1]} damaged files answered wrongly"]))
    return 1 if wrong else 0


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
