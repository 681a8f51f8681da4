"""Help inside the window: the guide, and the first steps."""
