"""The editor put together: its panels, the windows it opens, what is dropped on it."""
