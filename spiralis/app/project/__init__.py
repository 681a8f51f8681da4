"""The project's life: start page, files, recovery, recent projects, artwork coming in, formats, preferences."""
