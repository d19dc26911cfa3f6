"""The finder: ranks suspects by what was seen and measured, and says which test tells most for the
minutes that it takes."""

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from circuitry.diagnosis.predicted import Predictor
from circuitry.diagnosis.seen import WORKS, Observation, Seen
from circuitry.diagnosis.suspects import Suspect, called, concerned, concerns, suspects
from circuitry.diagnosis.tests import (
    Outcome,
    Test,
    alone_test,
    gain,
    likelihood_of_reading,
    likelihood_of_word,
    look_tests,
    reading_bins,
    reading_tests,
    refit_test,
    rings_shown,
    shows,
)
from circuitry.errors import UnusableInput
from circuitry.network.equations import Numbers, Vector
from circuitry.proving.situation import Situation

Evidence = Callable[[Numbers], Vector]
"""How likely something that was observed is, under suspects by number."""
KEPT_SHARE = 1e-3
"""Of the likeliest: suspects below it no longer count."""
MOST_WEIGHED = 300
MOST_SITUATIONS = 12
"""In which loads are looked at that are amiss, and as many in which they work."""
LEAST_FELT = 0.02
ELSEWHERE = 0.05
"""How likely a load is amiss by a fault that is nowhere near it."""
ALONE_FROM = 8
"""Fewer groups than this are worth taking one by itself."""
SURE, NEARLY_ALL, WORTH_A_THOUGHT = 0.8, 0.98, 0.01
LEAST_BITS = 0.02
THINKS_MIN = 2.0
"""What each test costs besides its own minutes: to read it, to go there, to write it down."""


@dataclass(frozen=True)
class Ranked:
    """A part or wire and what may be wrong with it, its share of what is likely, and the likeliest
    fault there."""

    of: str
    words: str
    share: float
    suspect: Suspect


class Finder:
    """One search for one fault."""

    def __init__(
        self,
        predictor: Predictor,
        situations: Mapping[Situation, str],
        touched: Collection[str] = (),
    ) -> None:
        """``situations`` are those in which tests may be made, in words; ``touched`` are parts and
        wires that were worked on since the car was last right."""
        self.predictor, self.build = predictor, predictor.build
        self._situations, self._touched = dict(situations), touched
        self._missing = predictor.sound.today.missing
        self.suspects: list[Suspect] = []
        self.weights: Vector = np.zeros(0)
        self._ids: Numbers = np.zeros(0, dtype=int)
        self._weighed: Numbers = np.zeros(0, dtype=int)
        self._evidence: list[Evidence] = []
        self._take(suspects(self.build, touched, self._missing))
        self.observed: list[Observation] = []
        self._elsewhere: dict[str, Vector] = {}
        self._done: set[str] = set()
        self._blown: set[str] = set()
        self._looks = list(look_tests(self.build))

    def _take(self, rows: Sequence[Suspect]) -> None:
        """More suspects, to be weighed by all that has been observed."""
        self.suspects += rows
        self._ids = np.concatenate([self._ids, self.predictor.numbers(s.fault for s in rows)])
        self.weights = np.concatenate([self.weights, [s.weight for s in rows]])
        self._weighed = np.concatenate([self._weighed, np.zeros(len(rows), dtype=int)])

    @property
    def numbers(self) -> Numbers:
        """The suspects that still count, the likeliest first."""
        order: Numbers = np.argsort(-self.weights, kind="stable")[:MOST_WEIGHED]
        some: Numbers = order[self.weights[order] > KEPT_SHARE * self.weights[order[0]]]
        return some

    def observe(self, *observations: Observation) -> None:
        """Take in what was seen and measured: what is amiss first, for it leaves fewest suspects;
        what does not settle says nothing."""
        amiss = self._concerned(observations)
        near = set.intersection(*amiss.values()) if amiss else set()
        known = {suspect.fault for suspect in self.suspects}
        more = suspects(self.build, self._touched, self._missing, near) if near else []
        self._take([suspect for suspect in more if suspect.fault not in known])
        order = self._telling(observations)
        self.observed += order
        for load, things in amiss.items():
            self._elsewhere[load] = self._touching(things)
            self.weights *= self._elsewhere[load]
        self._evidence += [self._by(row) for row in order]
        self._weigh()

    def _telling(self, observations: Sequence[Observation]) -> list[Observation]:
        """What is amiss first; and of a load that does the same in many situations once, in as few
        situations as show everything."""
        readings = [row for row in observations if not isinstance(row, Seen)]
        seen = [row for row in observations if isinstance(row, Seen)]
        known = {(row.load, row.word) for row in self.observed if isinstance(row, Seen)}
        by_situation: dict[Situation, list[Seen]] = {}
        for row in seen:
            by_situation.setdefault(row.situation, []).append(row)
        found: list[Observation] = []
        for amiss in (True, False):
            new = {(r.load, r.word) for r in seen if (r.word != WORKS) is amiss} - known
            for _ in range(MOST_SITUATIONS):
                if not new:
                    break
                best = max(
                    by_situation,
                    key=lambda at: sum((r.load, r.word) in new for r in by_situation[at]),
                )
                rows = [r for r in by_situation[best] if (r.load, r.word) in new]
                found += rows
                new -= {(r.load, r.word) for r in rows}
        return [*readings, *found]

    def _by(self, row: Observation) -> Evidence:
        guessed = None
        if isinstance(row, Seen) and row.word != WORKS:
            guessed = self._elsewhere.pop(row.load, None)

        def likelihood(numbers: Numbers) -> Vector:
            try:
                if self._tells_nothing(row, numbers):
                    return np.ones(len(numbers))
                found = row.likelihood(self.predictor, self._ids[numbers])
            except UnusableInput:
                return np.ones(len(numbers))
            if guessed is not None:  # now it is known, and takes the place of what was guessed
                before = numbers < len(guessed)
                found[before] /= guessed[numbers[before]]
            return found

        return likelihood

    def _tells_nothing(self, row: Observation, numbers: Numbers) -> bool:
        """Whether a load works where next to none of these suspects makes any difference."""
        if not isinstance(row, Seen) or row.word != WORKS:
            return False
        weights = self.weights[numbers]
        felt = [self.predictor.is_felt(row.situation, n) for n in self._ids[numbers].tolist()]
        return float(weights[felt].sum()) < LEAST_FELT * float(self.weights.max())

    def _weigh(self) -> None:
        """Weigh the suspects that may still be the likeliest by all evidence. What has not been
        weighed by some of it can only become less likely, so the rest can wait (branch and bound:
        Land and Doig, Econometrica 28, 1960)."""
        while True:
            numbers = self.numbers
            waiting = numbers[self._weighed[numbers] < len(self._evidence)]
            if not len(waiting):
                break
            first = int(self._weighed[waiting].min())
            some = waiting[self._weighed[waiting] == first]
            self.weights[some] *= self._evidence[first](some)
            self._weighed[some] += 1

    def _concerned(self, observations: Sequence[Observation]) -> dict[str, set[str]]:
        """What can make each load that was seen amiss go wrong."""
        amiss = {r.load for r in observations if isinstance(r, Seen) and r.word != WORKS}
        return {load: concerned(self.build, self.build.parts[load]) for load in sorted(amiss)}

    def _touching(self, things: set[str]) -> Vector:
        """How likely a load is amiss under each suspect, by what can make it so at all: cheap, and
        so weighed for all."""
        each = (concerns(suspect.fault, things) for suspect in self.suspects)
        return np.array([1.0 if one else ELSEWHERE for one in each])

    def ranked(self, most: int = 12) -> list[Ranked]:
        """Parts and wires by how likely the fault is at each."""
        numbers = self.numbers
        shares: dict[str, float] = {}
        best: dict[str, int] = {}
        for number in numbers.tolist():
            of = self.suspects[number].of
            shares[of] = shares.get(of, 0.0) + float(self.weights[number])
            best.setdefault(of, number)
        total = sum(shares.values()) or 1.0
        order = sorted(shares, key=lambda of: -shares[of])[:most]
        return [
            Ranked(
                of,
                called(self.build, self.suspects[best[of]]),
                shares[of] / total,
                self.suspects[best[of]],
            )
            for of in order
        ]

    def left(self) -> int:
        """How many parts and wires are worth a thought: the likeliest that make up nearly all."""
        shares = np.array([rank.share for rank in self.ranked(MOST_WEIGHED)])
        return int(np.searchsorted(np.cumsum(shares), NEARLY_ALL)) + 1

    def is_sure(self) -> bool:
        """Whether one part or wire stands out."""
        first = self.ranked(1)
        return bool(first) and first[0].share >= SURE

    # tests

    def in_play(self) -> list[tuple[Situation, str]]:
        """The situations in which something was seen amiss; all where nothing was."""
        amiss = [
            row.situation for row in self.observed if not isinstance(row, Seen) or row.word != WORKS
        ]
        chosen = [row for row in dict.fromkeys(amiss) if row in self._situations]
        rows = chosen or list(self._situations)
        return [(row, self._situations[row]) for row in rows[:6]]

    def best(self, most: int = 4) -> list[tuple[Test, float]]:
        """The tests that tell most for the minutes they take, and the bits that each tells."""
        numbers = self.numbers
        weights = self.weights[numbers] / self.weights[numbers].sum()
        names = list(dict.fromkeys(self.suspects[n].of for n in numbers.tolist()))
        at = {name: number for number, name in enumerate(names)}
        groups = np.array([at[self.suspects[n].of] for n in numbers.tolist()])
        found: list[tuple[float, float, Test]] = []
        for test in self._candidates(names):
            if test.id in self._done:
                continue
            bits = gain(self._bins(test, numbers), groups, weights)
            if bits > LEAST_BITS:
                found.append((bits / (test.minutes + THINKS_MIN), bits, test))
        found.sort(key=lambda row: (-row[0], row[2].id))
        return [(test, bits) for _, bits, test in found[:most]]

    def test(self, name: str) -> Test:
        """The test of this id; raises UnusableInput."""
        names = list(dict.fromkeys(suspect.of for suspect in self.suspects))
        kind, _, thing = name.partition("/")
        if kind == "alone" and thing in names:
            return alone_test(self.build, thing)
        found = next((test for test in self._candidates([]) if test.id == name), None)
        if found is None:
            raise UnusableInput(
                "no-such-test",
                name,
                "This test cannot be made any more: the build has changed. Take it out of the list "
                "and go on.",
            )
        return found

    def _candidates(self, names: Sequence[str]) -> list[Test]:
        in_play = self.in_play()
        shorts = sorted(self._blown)
        rows = [*self._looks, *reading_tests(self.build, in_play, shorts)]
        rows += [refit_test(self.build, fuse) for fuse in shorts]
        rows += [alone_test(self.build, name) for name in names[:ALONE_FROM]]
        return rows

    def _bins(self, test: Test, numbers: Numbers) -> Numbers:
        if test.probe is not None:
            try:
                return reading_bins(self.predictor, test, self._ids[numbers])[1]
            except UnusableInput:
                return np.zeros(len(numbers), dtype=int)
        words = self._shown(test, numbers)
        known = {word: number for number, word in enumerate(dict.fromkeys(words))}
        return np.array([known[word] for word in words])

    def _shown(self, test: Test, numbers: Numbers) -> list[str]:
        return [self.shown(test, int(number)) for number in numbers]

    def shown(self, test: Test, number: int) -> str:
        """What a look, a thing by itself or a new fuse shows under a suspect."""
        fault = self.suspects[number].fault
        return rings_shown(test, self.build, fault) or shows(test, fault, self.parted(number))

    def parted(self, number: int) -> frozenset[str]:
        """The fuses that a suspect has blown in what has been tried so far."""
        found: set[str] = set()
        for situation in {row.situation for row in self.observed}:
            identity = int(self._ids[number])
            predicted = self.predictor.predict(situation, [identity])
            at = predicted.of.get(identity)
            if at is not None:
                found |= predicted.parted[at]
        return frozenset(found)

    def outcomes(self, test: Test) -> list[Outcome]:
        """The ways that a test can come out, the likeliest first, and what each would mean."""
        numbers = self.numbers
        weights = self.weights[numbers] / self.weights[numbers].sum()
        values: Vector | None = None
        if test.probe is not None:
            values, bins = reading_bins(self.predictor, test, self._ids[numbers])
            words = [""] * len(numbers)
        else:
            words = self._shown(test, numbers)
            bins = self._bins(test, numbers)
        found = []
        for number in np.unique(bins).tolist():
            rows = np.flatnonzero(bins == number)
            least = WORTH_A_THOUGHT * float(weights[rows].sum())
            likely = [int(numbers[row]) for row in rows if weights[row] >= least]
            named = dict.fromkeys(self.suspects[number].of for number in likely)
            top = [called(self.build, self.suspects[int(numbers[row])]) for row in rows[:3]]
            low = high = None
            if values is not None and not np.isnan(values[rows]).all():
                low, high = float(np.nanmin(values[rows])), float(np.nanmax(values[rows]))
            found.append(
                Outcome(
                    words[int(rows[0])] or ("floats" if low is None else ""),
                    low,
                    high,
                    float(weights[rows].sum()),
                    len(named),
                    tuple(dict.fromkeys(top)),
                )
            )
        return sorted(found, key=lambda row: -row.share)

    def read(self, test: Test, value: float | None) -> None:
        """A test came out with this reading."""
        self._evidence.append(
            lambda numbers: likelihood_of_reading(self.predictor, test, value, self._ids[numbers])
        )
        self._weigh()
        self._done.add(test.id)

    def looked(self, test: Test, word: str) -> None:
        """A look, a thing by itself or a new fuse showed this."""
        self._evidence.append(lambda numbers: likelihood_of_word(self._shown(test, numbers), word))
        self._weigh()
        self._done.add(test.id)
        if word.endswith(" blown") and test.id.startswith("look/fuses/"):
            self._blown.add(word.removesuffix(" blown"))

    def skip(self, test: Test) -> None:
        """A test cannot be made now: another one, then."""
        self._done.add(test.id)

    def ruled_out(self, of: str) -> None:
        """It was not that part or wire after all."""
        self._evidence.append(
            lambda numbers: np.array(
                [1e-6 if self.suspects[n].of == of else 1.0 for n in numbers.tolist()]
            )
        )
        self._weigh()
