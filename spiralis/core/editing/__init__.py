"""Pure edits of layers and compositions that panels and commands share."""
