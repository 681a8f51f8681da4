"""Values over time: easing, tracks, extend rules, motion paths, spacing."""
