"""The process that draws SVG: reads requests, writes pictures. Run as a file by itself; it knows nothing of Spiralis.

A drawing can ask for any time and memory; a process can be given a limit of both, and be ended.
"""

import json
import resource
import struct
import sys

import resvg_py


def drawn(options: dict, text: str) -> bytes:
    """Return a PNG, or nothing where the drawing library gives up."""
    try:
        return bytes(resvg_py.svg_to_bytes(svg_string=text, width=None, skip_system_fonts=True, **options))
    except (KeyboardInterrupt, SystemExit):
        raise
    except BaseException:  # The library's own panics are no Exceptions.
        return b""


def main(memory: int) -> None:
    """Answer until nobody asks any more."""
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    requests, answers = sys.stdin.buffer, sys.stdout.buffer
    while len(head := requests.read(8)) == 8:
        sizes = struct.unpack("<II", head)
        options, text = (requests.read(size) for size in sizes)
        png = drawn(json.loads(options), text.decode("utf-8"))
        answers.write(struct.pack("<I", len(png)) + png)
        answers.flush()


if __name__ == "__main__":
    main(int(sys.argv[1]))
