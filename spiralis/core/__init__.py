"""The computation: model, animation, pixels, files. Imports no Qt."""
