"""Sound: files of it read, layers mixed, and the outline that shows where it is loud; stereo, 48 000 samples a second.
"""
