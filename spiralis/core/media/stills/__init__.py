"""Write a composition at one frame: as a picture, as layers, as vectors. One file a kind; each registers itself."""

from spiralis.core.media.stills.base import Still, still_suffixes, stills, write_still
from spiralis.core.registry import import_files

import_files(__name__)

__all__ = ["Still", "still_suffixes", "stills", "write_still"]
