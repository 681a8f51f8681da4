"""What archives of any kind may unpack to, told by their heads."""

import io
import tempfile
import unittest
import zipfile
from pathlib import Path
from unittest import mock

import numpy as np

from spiralis.core.errors import FileError, SpiralisError
from spiralis.core.media.archives import MOST_UNPACKED, unpacks_to_too_much
from spiralis.core.media.footage.sequence import SequenceClip
from spiralis.core.media.openraster import read_openraster
from spiralis.core.storage import load, save
from tests.core.samples import backdrop, png_bytes, project


def entry(unpacked: int, packed: int) -> zipfile.ZipInfo:
    made = zipfile.ZipInfo("a")
    made.file_size, made.compress_size = unpacked, packed
    return made


def with_zeros(data: bytes, count: int) -> bytes:
    """Return an archive with an entry more, of so many zeros."""
    buffer = io.BytesIO(data)
    with zipfile.ZipFile(buffer, "a", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("zz.png", bytes(count))
    return buffer.getvalue()


class ArchivesTest(unittest.TestCase):
    def test_what_is_hardly_packed_may_be_large_and_nothing_else(self) -> None:
        for unpacked, packed, refused in (
            (MOST_UNPACKED, 1, False), (MOST_UNPACKED + 1, 1, True), (MOST_UNPACKED + 1, MOST_UNPACKED // 2, True),
            (5 * MOST_UNPACKED, 5 * MOST_UNPACKED, False), (6 * MOST_UNPACKED, 5 * MOST_UNPACKED, True),
        ):  # fmt: skip
            self.assertEqual(unpacks_to_too_much([entry(unpacked, packed)]), refused, (unpacked, packed))
        self.assertTrue(unpacks_to_too_much([entry(MOST_UNPACKED // 4, 9)] * 5))

    def test_every_reader_of_archives_looks_before_it_reads(self) -> None:
        folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        save(project(backdrop(8, 8, (1, 1, 1, 1))), folder / "a.spiralis")
        layers, frames = io.BytesIO(), io.BytesIO()
        with zipfile.ZipFile(layers, "w") as archive:
            archive.writestr("stack.xml", "<image w='9' h='9'><stack/></image>")
        with zipfile.ZipFile(frames, "w") as archive:
            archive.writestr("000001.png", png_bytes(np.zeros((4, 4, 4), np.uint8)))

        def opened(data: bytes) -> object:
            (folder / "a.spiralis").write_bytes(data)
            return load(folder / "a.spiralis")

        for whole, read in (
            ((folder / "a.spiralis").read_bytes(), opened),
            (layers.getvalue(), lambda data: read_openraster(data, "a.ora")),
            (frames.getvalue(), lambda data: SequenceClip(data, "", "a.frames")),
        ):
            data = with_zeros(whole, 3_000_000)
            read(data)
            with (
                mock.patch("spiralis.core.media.archives.MOST_UNPACKED", 2_000_000),
                mock.patch.object(zipfile.ZipFile, "read", side_effect=AssertionError("was read")),
                self.assertRaises(FileError) as refused,
            ):
                read(data)
            self.assertIsInstance(refused.exception, SpiralisError)


if __name__ == "__main__":
    unittest.main()
