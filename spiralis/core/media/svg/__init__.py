"""Scalable Vector Graphics (W3C SVG 2) to and from our own shapes."""
