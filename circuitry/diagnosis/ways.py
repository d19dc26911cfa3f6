"""The ways in which a test can come out, and what it tells by that."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from circuitry.diagnosis.seen import SAID_OF, chances_of
from circuitry.diagnosis.tests import THE_SAME
from circuitry.network.equations import Numbers, Vector


@dataclass(frozen=True)
class Standing:
    """Suspects as a test finds them: by row their place among those that count and the fault as it
    is now, and how likely that is; ``left`` is what it weighs once it is so. One that takes its
    time to blow something has two rows, neither of which speaks against it."""

    rows: Numbers
    ids: Numbers
    shares: Vector
    left: Vector


@dataclass(frozen=True)
class Ways:
    """The ways that a test comes out: by row a suspect by its place, the number of an outcome that
    it may have, how likely that is, and what the suspect weighs once it is there. Outcomes have
    ``words``; readings have their ``values`` instead, by row."""

    rows: Numbers
    outcomes: Numbers
    shares: Vector
    left: Vector
    words: Sequence[str] = ()
    values: Vector | None = None

    def likeliest(self, count: int) -> Numbers:
        """The likeliest outcome of each of so many suspects."""
        each = np.zeros((count, int(self.outcomes.max(initial=0)) + 1))
        np.add.at(each, (self.rows, self.outcomes), self.shares)
        found: Numbers = each.argmax(axis=1)
        return found


def by_words(shown: Sequence[str], weights: Vector, tells: float) -> Ways:
    """What is shown of each suspect in words; where what is wrong tells only so often, each that
    does may look just the same too."""
    telling = np.array([word != THE_SAME for word in shown]) & (tells < 1)
    hidden = np.flatnonzero(telling)
    rows = np.concatenate([np.arange(len(shown)), hidden])
    shares = np.concatenate(
        [np.where(telling, tells, 1.0) * weights, (1 - tells) * weights[hidden]]
    )
    words = list(dict.fromkeys([*shown, *[THE_SAME] * len(hidden)]))
    outcomes = [words.index(word) for word in (*shown, *[THE_SAME] * len(hidden))]
    return Ways(rows, np.array(outcomes, dtype=int), shares, shares, words)


def by_light(standing: Standing, percent: Vector, sound: float) -> Ways:
    """What a load is seen to do: people call the same light by more than one word."""
    chances = chances_of(percent, sound)
    count = chances.shape[1]
    return Ways(
        np.repeat(standing.rows, count),
        np.tile(np.arange(count), len(standing.rows)),
        (chances * standing.shares[:, None]).ravel(),
        (chances * standing.left[:, None]).ravel(),
        list(SAID_OF),
    )


def by_reading(standing: Standing, values: Vector, spans: Numbers) -> Ways:
    """What is read, in spans that a meter tells apart."""
    return Ways(standing.rows, spans, standing.shares, standing.left, values=values)


def untold(weights: Vector) -> Ways:
    """Of what does not settle nothing is told."""
    rows = np.arange(len(weights))
    return Ways(rows, np.zeros(len(weights), dtype=int), weights, weights, ("does not settle",))
