"""Mending everything that can be mended without making anything worse."""

from collections.abc import Callable, Collection, Iterable
from dataclasses import dataclass
from typing import Any

from circuitry.design.model import Build
from circuitry.edits.operations import apply_operations
from circuitry.errors import UnusableInput
from circuitry.finding import Finding
from circuitry.progress import report
from circuitry.sizing.result import Sizing


@dataclass(frozen=True)
class Mended:
    """The operations that mend all that is safe, in order, and what each of them mends; ``left``
    are findings whose mend would have made something worse."""

    operations: tuple[dict[str, Any], ...]
    mends: tuple[str, ...]
    left: tuple[str, ...]


def mend_all(build: Build, sized: Callable[[Build], Sizing]) -> Mended:
    """Try the first mend of every finding in turn, each in the build as the ones before left it.

    One is kept where with it no more findings stop, and no more stop or are to be looked at.
    ``sized`` gives the sizing of a build.
    """
    operations: list[dict[str, Any]] = []
    mends: list[str] = []
    tried: set[str] = set()
    sizing = sized(build)
    while finding := _next(sizing.findings, tried):
        tried.add(finding.id)
        many = len(tried) + sum(1 for _ in _mendable(sizing.findings, tried))
        report(f"Trying: {finding.mends[0].label}", len(tried) / (many + 1))
        steps = [dict(step) for step in finding.mends[0].operations]
        try:
            after = apply_operations(build, steps)
            weighed = sized(after)
        except UnusableInput:
            continue
        if any(a > b for a, b in zip(_weight(weighed), _weight(sizing), strict=True)):
            continue
        build, sizing = after, weighed
        operations += steps
        mends.append(finding.mends[0].label)
    left = tuple(row.title for row in _mendable(sizing.findings, ()))
    return Mended(tuple(operations), tuple(mends), left)


def _mendable(findings: Iterable[Finding], tried: Collection[str]) -> Iterable[Finding]:
    return (row for row in findings if row.mends and not row.accepted and row.id not in tried)


def _next(findings: Iterable[Finding], tried: set[str]) -> Finding | None:
    return next(iter(_mendable(findings, tried)), None)


def _weight(sizing: Sizing) -> tuple[int, int]:
    """How many findings stop, and how many stop or are to be looked at."""
    open_now = [row.severity for row in sizing.findings if not row.accepted]
    stops = open_now.count("stop")
    return stops, stops + open_now.count("look")
