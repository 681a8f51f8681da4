"""The computation: model, animation, pixels, files. Imports no Qt."""

from spiralis.core import later

later.install()
