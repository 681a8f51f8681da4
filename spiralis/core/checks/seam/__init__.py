"""Does the end meet the beginning? What breaks a loop, by layer and property, and what mends it.

``finders/`` holds one file a sort of cause, which registers itself; ``checks/mends`` what mends them.
"""

from spiralis.core.checks.findings import NOTE, Cause, Mend, ignored, mended, mends_of, not_ignored
from spiralis.core.checks.seam.case import DOUBLED, GAP, JUMP, KINK, Case, frame_changes
from spiralis.core.checks.seam.mending import mended_all
from spiralis.core.checks.seam.verdict import Verdict, check

__all__ = [
    "DOUBLED", "GAP", "JUMP", "KINK", "NOTE", "Case", "Cause", "Mend", "Verdict", "check", "frame_changes", "ignored",
    "mended", "mended_all", "mends_of", "not_ignored",
]  # fmt: skip
