"""What each layer kind draws: premultiplied pixels or a gradient, in the layer's own units."""
