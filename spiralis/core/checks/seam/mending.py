"""Mend everything that breaks a loop."""

from __future__ import annotations

from spiralis.core.checks.findings import Cause, mended
from spiralis.core.checks.seam.verdict import check
from spiralis.core.errors import SpiralisError
from spiralis.core.model import Project

#: Rounds of looking again that mending everything takes at most.
_ROUNDS = 40


def mended_all(project: Project, piece_id: str) -> tuple[Project, list[Cause], list[str]]:
    """Return the project with every cause mended in its usual way, what was mended, and sentences on what could not be.

    After each mend the piece is looked at again: one mend often takes several causes away, or opens another.
    """
    done: list[Cause] = []
    tried: set[tuple[str, ...]] = set()
    problems: list[str] = []
    for _ in range(_ROUNDS):
        causes = check(project, project.composition(piece_id), full=True).causes
        every = [(cause, name) for cause in causes for name in cause.mends]
        ways = [(cause, name) for cause, name in every if (cause.piece, *cause.key, name) not in tried]
        if not ways:
            problems += [cause.sentence for cause in causes if not any(cause.sentence in p for p in problems)]
            break
        cause, name = ways[0]
        tried.add((cause.piece, *cause.key, name))
        try:
            project = mended(project, cause, name)
        except SpiralisError as error:
            problems.append(str(error))
        else:
            done.append(cause)
    return project, done, problems
