"""The finder: ranks suspects by what was seen and measured, and says which test tells most for the
minutes that it takes."""

from collections.abc import Callable, Collection, Iterator, Mapping, Sequence
from dataclasses import dataclass
from itertools import product

import numpy as np

from circuitry.bench.faults import Fault
from circuitry.devices.load import output_word
from circuitry.diagnosis.predicted import Predictor
from circuitry.diagnosis.seen import DEAD, DIM, WORKS, Observation, Seen, told_apart
from circuitry.diagnosis.suspects import Suspect, called, concerns, suspects
from circuitry.diagnosis.tests import (
    THE_SAME,
    Outcome,
    Test,
    alone_test,
    gain,
    jump_tests,
    likelihood_of_reading,
    likelihood_of_word,
    look_tests,
    move_tests,
    reading_bins,
    reading_tests,
    refit_test,
    see_tests,
    shown_of,
    swap_test,
    turns_tests,
)
from circuitry.diagnosis.ways import Standing, Ways, by_light, by_reading, by_words, untold
from circuitry.errors import UnusableInput
from circuitry.network.equations import Flags, Numbers, Vector
from circuitry.network.network import OFF_PERCENT
from circuitry.progress import report
from circuitry.proving.facts import short
from circuitry.proving.situation import Situation

KEPT_SHARE = 1e-3
"""Of the likeliest: suspects below it no longer count."""
MOST_WEIGHED, MOST_FORESEEN = 150, 2000
"""Suspects that are told apart at a time, and that are weighed by what is foreseen."""
MOST_SITUATIONS = 8
"""In which loads are looked at that are amiss, and as many in which they work."""
ELSEWHERE = 0.05
"""How likely a load is amiss by a fault that is nowhere near it."""
ALONE_FROM = 8
"""Fewer groups than this are worth taking one by itself."""
LIKELY_BLOWN = 0.5
"""The share of what is likely from which a fuse is taken for blown before anybody has looked."""
SURE, NEARLY_ALL, WORTH_A_THOUGHT = 0.8, 0.98, 0.01
LEAST_BITS, TOLD_NOTHING = 0.02, 0.03
THINKS_MIN, GLANCES_MIN = 2.0, 1.5
"""What each test costs besides its own minutes: to read it, to go there, to write it down; without
a meter less."""
STEP_STATES = 400
"""How many states are solved together before suspects are weighed anew."""
NOTICED = ("light", "speed", "sound")
"""What a load gives that anybody notices."""
PAIRED, SECOND = 6, 0.5
"""How many of the likeliest are paired with how many, and how likely a second fault is beside one:
a car that is being built has often more than one; typical."""
POOR = 0.3
"""Below this it is asked whether a suspect had blown a fuse by then, or had not yet."""
RESTLESS = 0.3
"""How likely anything is of a situation that never settles under a suspect; typical."""


@dataclass(frozen=True)
class Evidence:
    """Something that was observed: how likely it is under suspects by number, the situation in
    which it was, and the loads that were looked at, None where it is not of loads. ``amiss`` is
    that the sound car would show something else, ``tested`` that a test was made for it: what had
    blown by then stays so."""

    likelihood: Callable[[Numbers], Vector]
    situation: Situation | None = None
    loads: tuple[str, ...] | None = None
    amiss: bool = False
    tested: bool = False


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
        alone: bool = True,
    ) -> None:
        """``situations`` are those in which tests may be made, in words; ``touched`` are parts and
        wires that were worked on since the car was last right. Pairs of faults are thought of
        where no single one explains what is amiss, if it is to find all of it ``alone``."""
        self._alone = alone
        self.predictor, self.build = predictor, predictor.build
        self._situations, self._touched = dict(situations), touched
        self._missing = predictor.sound.today.missing
        self.suspects: list[Suspect] = []
        self.weights: Vector = np.zeros(0)
        self._ids: Numbers = np.zeros(0, dtype=int)
        self._weighed: Flags = np.zeros((0, 0), dtype=bool)
        self._foreseen: Flags = np.zeros((0, 0), dtype=bool)
        self._evidence: list[Evidence] = []
        self._take(suspects(self.build, touched, self._missing))
        self.observed: list[Observation] = []
        self._been: dict[Situation, None] = {}
        self._said: set[tuple[Situation, str]] = set()
        self._elsewhere: dict[str, Vector] = {}
        self._done: set[str] = set()
        self._apart: list[dict[int, int]] = []
        """Of each test that told nothing, though it should have: its outcome by suspect."""
        self._blown: set[str] = set()
        self._blown_in: dict[int, frozenset[str]] = {}
        self._slow: set[int] = set()
        self._looks = list(look_tests(self.build))

    def _take(self, rows: Sequence[Suspect]) -> None:
        """More suspects, to be weighed by all that has been observed."""
        self.suspects += rows
        self._ids = np.concatenate([self._ids, self._numbers_of(rows)])
        self.weights = np.concatenate([self.weights, [s.weight for s in rows]])
        fresh = np.zeros((len(rows), len(self._evidence)), dtype=bool)
        self._weighed = np.concatenate([self._weighed, fresh])
        self._foreseen = np.concatenate([self._foreseen, fresh])

    def _numbers_of(self, rows: Sequence[Suspect]) -> Numbers:
        """The numbers of the faults of suspects, of two together where one has two."""
        ids = self.predictor.numbers(row.fault for row in rows)
        for at, row in enumerate(rows):
            if row.beside is not None:
                (other,) = self.predictor.numbers([row.beside]).tolist()
                ids[at] = self.predictor.together(int(ids[at]), other)
        return ids

    @property
    def numbers(self) -> Numbers:
        """The suspects that still count, the likeliest first."""
        return self._heaviest(MOST_WEIGHED)

    def _heaviest(self, most: int) -> Numbers:
        order: Numbers = np.argsort(-self.weights, kind="stable")[:most]
        some: Numbers = order[self.weights[order] > KEPT_SHARE * self.weights[order[0]]]
        return some

    def observe(self, *observations: Observation) -> None:
        """Take in what was seen and measured: what is amiss first, for it leaves fewest
        suspects."""
        amiss = self._concerned(observations)
        near = frozenset.intersection(*amiss.values()) if amiss else frozenset()
        known = {suspect.fault for suspect in self.suspects}
        more = suspects(self.build, self._touched, self._missing, near) if near else []
        self._take([suspect for suspect in more if suspect.fault not in known])
        self._said |= {(row.situation, row.load) for row in observations if isinstance(row, Seen)}
        order = self._telling(observations)
        self.observed += order
        self._been |= dict.fromkeys(row.situation for row in observations)
        self._blown_in.clear()
        self._slow.clear()
        for load, things in amiss.items():
            self._elsewhere[load] = self._touching(things)
            self.weights *= self._elsewhere[load]
        together: dict[tuple[Situation, bool], list[Observation]] = {}
        for row in order:
            together.setdefault((row.situation, isinstance(row, Seen)), []).append(row)
        self._take_in(*(self._by(rows) for rows in together.values()))
        if self._alone:
            self._put_together()

    def _put_together(self) -> None:
        """Where no single fault explains all that was observed, take in pairs: what is likeliest
        where only a part of it is amiss, with what is where only the rest is."""
        amiss = [row for row in self.observed if not isinstance(row, Seen) or row.word != WORKS]
        works = [row for row in self.observed if row not in amiss]
        splits: dict[frozenset[Observation], None] = {}
        for first in self._first_of_each(self.numbers):
            left = frozenset(row for row in amiss if not self._explains(first, row))
            if not left and all(self._explains(first, row) for row in works):
                return
            splits.setdefault(left)
        for load in dict.fromkeys(row.load for row in amiss if isinstance(row, Seen)):
            if len(splits) < PAIRED:
                rows = (row for row in amiss if isinstance(row, Seen) and row.load == load)
                splits.setdefault(frozenset(rows))
        likely: dict[frozenset[Observation], list[Suspect]] = {}
        pairs: dict[frozenset[Fault], Suspect] = {}
        for split in splits:
            parts = split, frozenset(amiss) - split
            if not all(parts):
                continue
            for part in parts:
                if part not in likely:
                    likely[part] = self._where_amiss([row for row in amiss if row in part], works)
            for one, other in product(*(likely[part] for part in parts)):
                both = frozenset({one.fault, other.fault})
                weight = one.weight * other.weight * SECOND
                if one.of != other.of:
                    pairs.setdefault(both, Suspect(one.fault, weight, other.fault))
        self._take(list(pairs.values()))
        self._weigh()

    def _where_amiss(
        self, amiss: Sequence[Observation], works: Sequence[Observation]
    ) -> list[Suspect]:
        """The likeliest where only this is amiss."""
        search = Finder(self.predictor, self._situations, self._touched, alone=False)
        search.observe(*amiss, *works)
        return [search.suspects[n] for n in search._first_of_each(search.numbers)]

    def _first_of_each(self, numbers: Numbers) -> list[int]:
        """The likeliest suspect of each part or wire, of the first few."""
        first: dict[str, int] = {}
        for number in numbers.tolist():
            first.setdefault(self.suspects[number].of, number)
        return list(first.values())[:PAIRED]

    def _explains(self, suspect: int, row: Observation) -> bool:
        """Whether something is likely under a suspect, also with what it may have blown before."""
        number = int(self._ids[suspect])
        opened = self.predictor.opened(number, self._blown_by(np.array([suspect]))[number])
        try:
            likely = row.likelihood(self.predictor, np.array([number, opened]))
        except UnusableInput:  # what does not settle says nothing
            return True
        restless = number in self.predictor.predict(row.situation).unsettled
        return restless or bool(likely.max() > POOR)

    def _telling(self, observations: Sequence[Observation]) -> list[Observation]:
        """What is amiss first, and what works beside it; and of a load that does the same in many
        situations, in as few situations as show everything."""
        readings = [row for row in observations if not isinstance(row, Seen)]
        known = {(row.load, row.word) for row in self.observed if isinstance(row, Seen)}
        by_situation: dict[Situation, list[Seen]] = {}
        for row in observations:
            if isinstance(row, Seen):
                by_situation.setdefault(row.situation, []).append(row)
        found: list[Observation] = []
        for amiss in (True, False):
            each = [row for rows in by_situation.values() for row in rows]
            new = {(r.load, r.word) for r in each if (r.word != WORKS) is amiss} - known
            for _ in range(MOST_SITUATIONS):
                if not new:
                    break
                best = max(
                    by_situation,
                    key=lambda at: sum((r.load, r.word) in new for r in by_situation[at]),
                )
                rows = by_situation.pop(best)
                found += rows
                known |= {(row.load, row.word) for row in rows}
                new -= known
        return [*readings, *found]

    def _by(self, rows: Sequence[Observation], tested: bool = False) -> Evidence:
        """What was observed in one situation, together: a fuse had blown for all of it, or for
        none."""
        situation = rows[0].situation
        amiss = {row.load for row in rows if isinstance(row, Seen) and row.word != WORKS}
        guesses = [self._elsewhere.pop(load) for load in amiss if load in self._elsewhere]
        guessed = np.prod(guesses, axis=0) if guesses else None
        seen = [row.load for row in rows if isinstance(row, Seen)]
        loads = tuple(seen) if len(seen) == len(rows) else None

        def under(ids: Numbers) -> Vector:
            each = [row.likelihood(self.predictor, ids) for row in rows]
            apart = told_apart(self.predictor, [row for row in rows if isinstance(row, Seen)], ids)
            found: Vector = np.prod(each, axis=0) * apart
            return found

        def likelihood(numbers: Numbers) -> Vector:
            found = self._likeliest(evidence, numbers, under)
            if guessed is not None:  # now it is known, and takes the place of what was guessed
                before = numbers < len(guessed)
                found[before] /= guessed[numbers[before]]
            return found

        evidence = Evidence(likelihood, situation, loads, bool(amiss), tested)
        return evidence

    def _likeliest(
        self, evidence: Evidence, numbers: Numbers, under: Callable[[Numbers], Vector]
    ) -> Vector:
        """How likely something is under suspects; with the fuses whole that take their time to
        blow, where that explains it better, and unless it was a test, blown already in another
        situation."""
        situation = evidence.situation
        assert situation is not None
        own = self._ids[numbers]
        ids = self._now(numbers) if evidence.tested else own
        try:
            self.predictor.predict(situation, self._to_solve(evidence, ids))
        except UnusableInput:  # what does not settle says nothing
            return np.ones(len(numbers))
        found = under(ids)
        restless = np.isin(ids, list(self.predictor.predict(situation).unsettled))
        found[restless] = np.maximum(found[restless], RESTLESS)
        poor = np.flatnonzero(found < POOR)
        blown = self._blown_by(numbers[poor])
        others: list[tuple[int, int]] = []
        for at, number in zip(poor.tolist(), own[poor].tolist(), strict=True):
            if number in self._slow or self.predictor.is_slow(situation, int(ids[at])):
                others.append((at, self.predictor.held(number)))
            if blown[number] and not evidence.tested:
                others.append((at, self.predictor.opened(number, blown[number])))
        instead = np.array([other for _, other in others], dtype=int)
        to_solve = self._to_solve(evidence, instead)
        unsettled = self.predictor.predict(situation, to_solve).unsettled
        others = [row for row in others if row[1] not in unsettled]
        if others:
            instead = under(np.array([other for _, other in others]))
            np.maximum.at(found, [at for at, _ in others], instead)
        return found

    def _to_solve(self, evidence: Evidence, ids: Numbers) -> list[int]:
        """The faults that have to be solved for some evidence."""
        if evidence.loads is not None and evidence.situation is not None:
            ids = ids[self.predictor.to_solve(evidence.situation, ids, evidence.loads)]
        found: list[int] = ids.tolist()
        return found

    def _blown_by(self, numbers: Numbers) -> Mapping[int, frozenset[str]]:
        """The fuses that each suspect blows in the situations in which the car has been."""
        if new := set(self._ids[numbers].tolist()) - self._blown_in.keys():
            may = [number for number in new if self.predictor.may_blow(number)]
            situations, ids = self._may_blow_in(), np.array(may, dtype=int)
            unsure = {at: ids[self.predictor.may_surprise(at, ids)] for at in situations}
            self.predictor.ask({at: some.tolist() for at, some in unsure.items()})
            self._blown_in |= dict.fromkeys(new, frozenset())
            self._blown_in |= {n: self.predictor.blown(n, situations) for n in may}
            slow = self.predictor.is_slow
            self._slow |= {n for n in may if any(slow(at, n) for at in situations)}
        return self._blown_in

    def _weigh(self) -> None:
        """Weigh the suspects that may still be the likeliest by all evidence. What has not been
        weighed by some of it can only become less likely, so the rest can wait (branch and bound:
        Land and Doig, Econometrica 28, 1960)."""
        order = self._by_use()
        while True:
            while self._pass_over(order):
                pass
            numbers = self.numbers
            undone = ~self._weighed[numbers][:, order]
            waiting = undone.any(axis=1)
            if not waiting.any():
                break
            self._told()
            numbers, undone = numbers[waiting], undone[waiting]
            fresh = undone.all(axis=1).any()  # the first evidence leaves few
            steps = 1 if fresh else 1 + STEP_STATES // len(numbers)
            next_ones = undone & (np.cumsum(undone, axis=1) <= steps)
            each = [(order[at], numbers[next_ones[:, at]]) for at in range(len(order))]
            self._weigh_by([(at, some) for at, some in each if len(some)])

    def _pass_over(self, order: Sequence[int]) -> bool:
        """Weigh suspects by evidence of which it is foreseen what they make, for which nothing has
        to be solved. Whether there was anything to try."""
        numbers = self._heaviest(MOST_FORESEEN)
        undone = ~(self._weighed | self._foreseen)[numbers][:, order]
        first = undone & (np.cumsum(undone, axis=1) == 1)
        for column, at in enumerate(order):
            some, evidence = numbers[first[:, column]], self._evidence[at]
            self._foreseen[some, at] = True
            if not len(some) or evidence.loads is None or evidence.situation is None:
                continue
            ids = self._ids[some]
            waits = self.predictor.to_solve(evidence.situation, ids, evidence.loads)
            if evidence.amiss or evidence.tested:
                waits |= self._may_have_blown(ids)
            passed = some[~waits]
            self.weights[passed] *= evidence.likelihood(passed)
            self._weighed[passed, at] = True
            self._told()
        return bool(undone.any())

    def _told(self) -> None:
        weighed = np.count_nonzero(self._weighed.any(axis=1))
        report("Trying every suspect against what is known", weighed / len(self.suspects))

    def _may_blow_in(self) -> list[Situation]:
        """The situations in which something was amiss, and one in which most is live of each other
        position of the key in which the car has been."""
        found = [situation for situation, _ in self.in_play()]
        for key in sorted({at.key for at in self._been} - {at.key for at in found}):
            each = [situation for situation in self._been if situation.key == key]
            found.append(max(each, key=self.predictor.live))
        return found

    def _may_have_blown(self, ids: Numbers) -> Flags:
        """Whether suspects may have blown anything where the car has been."""
        each = [self.predictor.may_surprise(at, ids) for at in self._may_blow_in()]
        found: Flags = np.any(each, axis=0)
        return found

    def _by_use(self) -> list[int]:
        """Evidence by number, what leaves fewest suspects first: tests, the last one before all
        others, and then what is amiss."""
        tests = [at for at, evidence in enumerate(self._evidence) if evidence.tested]
        seen = [at for at, evidence in enumerate(self._evidence) if not evidence.tested]
        return [*tests[::-1], *seen]

    def _weigh_by(self, each: Sequence[tuple[int, Numbers]]) -> None:
        """Weigh suspects by evidence, each by its number; all that has to be solved for it is
        solved together."""
        wanted: dict[Situation, list[int]] = {}
        for at, some in each:
            evidence = self._evidence[at]
            if evidence.situation is not None:
                ids = self._to_solve(
                    evidence, self._now(some) if evidence.tested else self._ids[some]
                )
                wanted.setdefault(evidence.situation, []).extend(ids)
        self.predictor.ask(wanted)
        for at, some in each:
            self.weights[some] *= self._evidence[at].likelihood(some)
            self._weighed[some, at] = True

    def _concerned(self, observations: Sequence[Observation]) -> dict[str, frozenset[str]]:
        """What can make each load that was seen amiss go wrong."""
        found: dict[str, frozenset[str]] = {}
        for row in observations:
            if isinstance(row, Seen) and row.word != WORKS:
                things = self.predictor.concerned(row.load, row.situation)
                found[row.load] = found.get(row.load, frozenset()) | things
        return found

    def _touching(self, things: Collection[str]) -> Vector:
        """How likely a load is amiss under each suspect, by what can make it so at all: cheap, and
        so weighed for all."""
        each = (any(concerns(f, things) for f in row.faults) for row in self.suspects)
        return np.array([1.0 if one else ELSEWHERE for one in each])

    def ranked(self, most: int = 12) -> list[Ranked]:
        """Parts and wires by how likely there is a fault at each; where two go together, at both of
        them."""
        numbers = self.numbers
        shares: dict[str, float] = {}
        best: dict[str, int] = {}
        for number in numbers.tolist():
            for of in dict.fromkeys(fault.of for fault in self.suspects[number].faults):
                shares[of] = shares.get(of, 0.0) + float(self.weights[number])
                best.setdefault(of, number)
        total = float(self.weights[numbers].sum()) or 1.0
        order = sorted(shares, key=lambda of: -shares[of])[:most]
        return [
            Ranked(
                of,
                called(self.build, self.suspects[best[of]], of),
                shares[of] / total,
                self.suspects[best[of]],
            )
            for of in order
        ]

    def left(self) -> int:
        """How many parts and wires are worth a thought: the likeliest that make up nearly all."""
        shares = np.cumsum([rank.share for rank in self.ranked(2 * MOST_WEIGHED)])
        return int(np.searchsorted(shares / shares[-1], NEARLY_ALL)) + 1

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

    def best(self, most: int = 4, without: Collection[str] = ()) -> list[tuple[Test, float]]:
        """The tests that tell most for the minutes they take, and the bits that each tells;
        ``without`` tools that are not at hand."""
        numbers = self.numbers
        places = [frozenset(f.of for f in self.suspects[n].faults) for n in numbers.tolist()]
        groups = _numbered(places)
        names = [rank.of for rank in self.ranked(ALONE_FROM)]
        standing = self._standing(numbers)
        found: list[tuple[float, float, Test]] = []
        candidates = [
            test
            for test in self._candidates(names)
            if test.id not in self._done and not {*test.tools} & {*without}
        ]
        self.predictor.ask({t.situation: standing.ids.tolist() for t in candidates if t.situation})
        splits: dict[str, bytes] = {}
        for test in candidates:
            ways = self._ways(test, numbers, standing)
            bits = gain(ways.outcomes, groups[ways.rows], ways.shares, ways.left)
            if bits > LEAST_BITS and not self._is_told(test, numbers, ways):
                minutes = test.minutes + (THINKS_MIN if test.tools else GLANCES_MIN)
                found.append((bits / minutes, bits, test))
                splits[test.id] = _numbered(ways.outcomes.tolist()).tobytes()
        found.sort(key=lambda row: (-row[0], row[2].id))
        first: dict[bytes, tuple[Test, float]] = {}  # those that tell the same are one
        for _, bits, test in found:
            first.setdefault(splits[test.id], (test, bits))
        return list(first.values())[:most]

    def _is_told(self, test: Test, numbers: Numbers, ways: Ways) -> bool:
        """Whether a test tells apart no more than one before it, which told nothing."""
        if test.situation is None or test.kind == "move":
            return False
        own = ways.likeliest(len(numbers)).tolist()
        for told in self._apart:
            before = [told.get(number, -1) for number in numbers.tolist()]
            if len({*zip(before, own, strict=True)}) == len(set(before)):
                return True
        return False

    def test(self, name: str) -> Test:
        """The test of this id; raises UnusableInput."""
        thing, known = (*name.split("/"), "")[1], name.rpartition("/")[2]
        situations = [row for row in self._situations.items() if short(row[0]) == known]
        names = [thing] if thing in {suspect.of for suspect in self.suspects} else []
        part = self.build.parts.get(thing)
        shorts = [thing] if part is not None and part.kind == "fuse" else []
        tests = self._tests(names, situations, shorts)
        found = next((test for test in tests if test.id == name), None)
        if found is None:
            raise UnusableInput(
                "no-such-test",
                name,
                "This test cannot be made any more: the build has changed. Take it out of the list "
                "and go on.",
            )
        return found

    def _candidates(self, names: Sequence[str]) -> list[Test]:
        shorts = sorted(self._blown | self._surely_blown())
        tests = self._tests(names, self.in_play(), shorts)
        return [
            test
            for test in tests
            if test.kind != "see" or (test.situation, test.things[0]) not in self._said
        ]

    def _tests(
        self,
        names: Sequence[str],
        situations: Sequence[tuple[Situation, str]],
        shorts: Sequence[str],
    ) -> Iterator[Test]:
        """Everything that may be tried: of these suspects, in these situations, with a lamp in
        place of these fuses."""
        yield from self._looks
        yield from see_tests(self.build, ((at, said, self._noticed(at)) for at, said in situations))
        yield from move_tests(self.build, [row for row in situations if self._noticed(row[0])])
        yield from reading_tests(self.build, situations, shorts)
        for at, said in situations:
            for load in self._dark(at):
                near = self.predictor.concerned(load, at).intersection(names)
                yield from jump_tests(self.build, at, said, load, sorted(near))
        for fuse in shorts:
            yield refit_test(self.build, fuse)
            yield from turns_tests(self.build, fuse)
        for name in names:
            yield alone_test(self.build, name)
            swap = swap_test(self.build, name)
            if swap is not None:
                yield swap

    def _dark(self, situation: Situation) -> list[str]:
        """The loads that were seen not to come on as they should in a situation."""
        rows = [row for row in self.observed if isinstance(row, Seen) and row.word in (DEAD, DIM)]
        return list(dict.fromkeys(row.load for row in rows if row.situation == situation))

    def _noticed(self, situation: Situation) -> list[str]:
        """The loads that should be on in a situation, as anybody can see or hear."""
        try:
            predicted = self.predictor.predict(situation)
        except UnusableInput:
            return []
        sound = self.predictor.sound_percent(predicted)
        return [
            load
            for load, at in self.predictor.load_at.items()
            if sound[at] >= OFF_PERCENT
            and load not in self._missing
            and output_word(self.build.parts[load]) in NOTICED
        ]

    def _surely_blown(self) -> set[str]:
        """The fuses that nearly every suspect has blown."""
        numbers = self.numbers
        blown = self._blown_by(numbers)
        shares: dict[str, float] = {}
        for number in numbers.tolist():
            for fuse in blown[int(self._ids[number])]:
                shares[fuse] = shares.get(fuse, 0.0) + float(self.weights[number])
        total = float(self.weights[numbers].sum())
        return {fuse for fuse, share in shares.items() if share > LIKELY_BLOWN * total}

    def _standing(self, numbers: Numbers) -> Standing:
        """Suspects as they are now; what takes its time to blow may have blown, or not yet."""
        weights = self.weights[numbers] / self.weights[numbers].sum()
        slow = [at for at, n in enumerate(self._ids[numbers].tolist()) if n in self._slow]
        held = [self.predictor.held(n) for n in self._ids[numbers[slow]].tolist()]
        rows = np.concatenate([np.arange(len(numbers)), np.array(slow, dtype=int)])
        ids = np.concatenate([self._now(numbers), np.array(held, dtype=int)])
        shares = weights.copy()
        shares[slow] /= 2
        return Standing(rows, ids, shares[rows], weights[rows])

    def _ways(self, test: Test, numbers: Numbers, standing: Standing) -> Ways:
        """The ways that a test comes out."""
        weights = self.weights[numbers] / self.weights[numbers].sum()
        try:
            if test.probe is not None:
                values, bins = reading_bins(self.predictor, test, standing.ids)
                return by_reading(standing, values, bins)
            if test.kind == "see" and test.situation is not None:
                load = test.things[0]
                sound, percent = self.predictor.percent(test.situation, load, standing.ids)
                if abs(sound) >= OFF_PERCENT:
                    return by_light(standing, percent, sound)
                return untold(weights)
        except UnusableInput:  # what does not settle tells nothing
            return untold(weights)
        return by_words(self._shown(test, numbers), weights, test.tells)

    def _now(self, numbers: Numbers) -> Numbers:
        """Suspects as they are now: with the fuses out that they have blown."""
        blown = self._blown_by(numbers)
        each = (self.predictor.opened(n, blown[n]) for n in self._ids[numbers].tolist())
        return np.array(list(each), dtype=int)

    def _shown(self, test: Test, numbers: Numbers) -> list[str]:
        """What a look, a thing by itself or a new fuse shows under suspects."""
        fused = test.kind in ("refit", "turns", "move") or any(
            self.build.parts[name].kind == "fuse"
            for name in test.things
            if name in self.build.parts
        )
        blown = self._blown_by(numbers) if fused else {}
        found = []
        for number in numbers.tolist():
            parted = blown.get(int(self._ids[number]), frozenset())
            if test.kind == "move" and not self._is_felt(test, number):
                found.append(THE_SAME)
                continue
            found.append(shown_of(test, self.build, self.suspects[number].faults, parted))
        return found

    def _is_felt(self, test: Test, number: int) -> bool:
        """Whether a suspect makes any difference where a test is made."""
        assert test.situation is not None
        return self.predictor.is_felt(test.situation, int(self._ids[number]))

    def outcomes(self, test: Test) -> list[Outcome]:
        """The ways that a test can come out, the likeliest first, and what each would mean."""
        numbers = self.numbers
        ways = self._ways(test, numbers, self._standing(numbers))
        found = []
        for outcome in np.unique(ways.outcomes).tolist():
            rows = np.flatnonzero(ways.outcomes == outcome)
            rows = rows[np.argsort(-ways.shares[rows], kind="stable")]
            least = WORTH_A_THOUGHT * float(ways.shares[rows].sum())
            likely = numbers[ways.rows[rows[ways.shares[rows] >= least]]].tolist()
            top = [called(self.build, self.suspects[n]) for n in numbers[ways.rows[rows[:3]]]]
            low = high = None
            if ways.values is not None and not np.isnan(ways.values[rows]).all():
                values = ways.values[rows]
                low, high = float(np.nanmin(values)), float(np.nanmax(values))
            found.append(
                Outcome(
                    ways.words[outcome] if ways.words else ("floats" if low is None else ""),
                    low,
                    high,
                    float(ways.shares[rows].sum()),
                    len({fault.of for n in likely for fault in self.suspects[n].faults}),
                    tuple(dict.fromkeys(top)),
                )
            )
        return sorted(found, key=lambda row: -row.share)

    def read(self, test: Test, value: float | None) -> None:
        """A test came out with this reading."""
        situation = test.situation
        assert situation is not None

        def under(ids: Numbers) -> Vector:
            return likelihood_of_reading(self.predictor, test, value, ids)

        def likelihood(some: Numbers) -> Vector:
            return self._likeliest(evidence, some, under)

        evidence = Evidence(likelihood, situation, tested=True)
        self._learn(test, evidence)
        self._done.add(test.id)

    def looked(self, test: Test, word: str) -> None:
        """A look, a thing by itself or a new fuse showed this."""
        self._done.add(test.id)
        if test.kind == "see" and test.situation is not None:
            self._see(test, Seen(test.situation, test.things[0], word))
            return

        def likelihood(some: Numbers) -> Vector:
            return likelihood_of_word(self._shown(test, some), word, test.tells)

        self._take_in(Evidence(likelihood, tested=True))
        if word.endswith(" blown") and test.id.startswith("look/fuses/"):
            self._blown.add(word.removesuffix(" blown"))

    def _see(self, test: Test, seen: Seen) -> None:
        self.observed.append(seen)
        self._said.add((seen.situation, seen.load))
        self._blown_in.clear()
        self._slow.clear()
        self._learn(test, self._by([seen], tested=True))

    def skip(self, test: Test) -> None:
        """A test cannot be made now: another one, then."""
        self._done.add(test.id)

    def ruled_out(self, of: str) -> None:
        """It was not that part or wire after all."""

        def likelihood(numbers: Numbers) -> Vector:
            each = (self.suspects[number].faults for number in numbers.tolist())
            return np.array([1e-6 if of in {f.of for f in faults} else 1.0 for faults in each])

        self._take_in(Evidence(likelihood, tested=True))

    def _learn(self, test: Test, evidence: Evidence) -> None:
        """Take in how a test came out, and keep it where it should have told something and has
        not."""
        numbers = self.numbers
        ways = self._ways(test, numbers, self._standing(numbers))
        before = self.weights[numbers] / self.weights[numbers].sum()
        self._take_in(evidence)
        after = self.weights[numbers] / self.weights[numbers].sum()
        if np.abs(after - before).max() < TOLD_NOTHING:
            each = zip(numbers.tolist(), ways.likeliest(len(numbers)).tolist(), strict=True)
            self._apart.append(dict(each))

    def _take_in(self, *evidence: Evidence) -> None:
        self._evidence += evidence
        fresh = np.zeros((len(self.suspects), len(evidence)), dtype=bool)
        self._weighed = np.concatenate([self._weighed, fresh], axis=1)
        self._foreseen = np.concatenate([self._foreseen, fresh], axis=1)
        self._weigh()


def _numbered(words: Sequence[object]) -> Numbers:
    """Numbers that are the same where these are, in the order in which they come first."""
    known = {word: number for number, word in enumerate(dict.fromkeys(words))}
    return np.array([known[word] for word in words])
