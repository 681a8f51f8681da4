"""Has what attrs writes for the model's classes, and for those of modules loaded later, compiled only once."""

from spiralis.core import generated_code

generated_code.install("attr._make")
