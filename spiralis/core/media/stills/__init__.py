"""Write a composition at one frame: as a picture, as layers, as vectors. One file a kind; each registers itself."""

from importlib import import_module
from pkgutil import iter_modules

from spiralis.core.media.stills.base import Still, still_suffixes, stills, write_still

for _module in sorted(info.name for info in iter_modules(__path__)):
    import_module(f"{__name__}.{_module}")

__all__ = ["Still", "still_suffixes", "stills", "write_still"]
