"""Apply mends to causes, one by one or all of them, and remember what is to be left alone."""

from __future__ import annotations

from attrs import evolve

from spiralis.core.checks.seam.case import Cause, Mend, mend
from spiralis.core.checks.seam.verdict import check
from spiralis.core.errors import ModelError, SpiralisError
from spiralis.core.model import Composition, Project

#: Rounds of looking again that mending everything takes at most.
_ROUNDS = 40
LONGEST_REASON = 200


def mends_of(cause: Cause) -> tuple[Mend, ...]:
    """Return what can mend a cause, the usual way first."""
    return tuple(mend(name) for name in cause.mends)


def mended(project: Project, cause: Cause, name: str) -> Project:
    """Return the project with a cause mended in one of its ways.

    Raises:
        SpiralisError: one sentence, where that way is not open: the layer is locked, its opacity is animated …
    """
    if cause.layer and project.composition(cause.piece).layer(cause.layer).locked:
        raise ModelError(f"“{project.composition(cause.piece).layer(cause.layer).name}” is locked, and stays as it is.")
    return mend(name).apply(project, cause)


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


def ignored(piece: Composition, cause: Cause, reason: str) -> Composition:
    """Return the composition that remembers to leave a cause alone, and why."""
    rest = tuple(held for held in piece.seam_ignored if held[:3] != cause.key)
    return evolve(piece, seam_ignored=(*rest, (*cause.key, reason.strip()[:LONGEST_REASON])))


def not_ignored(piece: Composition, cause: Cause) -> Composition:
    """Return the composition that looks at a cause again."""
    return evolve(piece, seam_ignored=tuple(held for held in piece.seam_ignored if held[:3] != cause.key))
