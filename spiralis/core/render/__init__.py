"""From a project to frames: plan one, draw it, keep many ready, hand a sequence to an encoder."""
