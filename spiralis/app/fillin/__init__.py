"""Fill-in view: the piece going round beside a form of its slots, its table of variants, and its formats."""
