"""Cut out a subject and fill what is behind it: a window over one picture, with brushes."""
