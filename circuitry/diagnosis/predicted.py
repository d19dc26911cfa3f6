"""What the car would show in a situation under each suspect, solved together."""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from threading import Lock

import numpy as np

from circuitry.bench.faults import Fault
from circuitry.design.model import Build, Terminal
from circuitry.design.state import State
from circuitry.devices.electronics import on
from circuitry.diagnosis.altered import RUNS_AT_V, Altered, altered, both
from circuitry.diagnosis.foreseen import TO_SOLVE, Faults, Foreseen, Guards
from circuitry.diagnosis.suspects import concerned
from circuitry.errors import UnusableInput
from circuitry.network.equations import Flags, Matrix, Numbers, Vector
from circuitry.network.network import Change, Settled
from circuitry.proving.situation import Situation, Sound, Today

SAME_AS = {
    "chafe": "short to ground",
    "missing fuse": "blown fuse",
    "missing lamp": "blown lamp",
}
"""What differs to the eye alone, or only while it touches."""
BLOWS_AT = 1.5
"""Times its rating: what a fuse bears for no more than some seconds."""
FUSE_AT_ONCE, CHANNEL_AT_ONCE = 2.0, 6.0
"""Times what each begins to open at, from which it does so before anybody has looked."""
ROUNDS = 3
LIVE_V = 1.0


@dataclass(frozen=True)
class Predicted:
    """What a situation shows: in the sound car, and under each of the ``asked`` faults that makes a
    difference there: where it stands by its number, volts by node, amps by element, light by load
    in the order of the network, and the fuses and channels that have opened; ``slow`` are those
    under which something takes its time to open. One that does not settle shows what the sound car
    does, and is among the ``unsettled``."""

    sound: Settled
    asked: frozenset[int]
    of: dict[int, int]
    node_v: Matrix
    element_a: Matrix
    percent: Matrix
    parted: list[frozenset[str]]
    slow: frozenset[int]
    unsettled: frozenset[int]

    def volts(self, node: int, numbers: Numbers) -> Vector:
        """Volts of a node under these suspects; NaN where it floats."""
        return self.each(self.sound.operating.node_v[node], self.node_v[:, node], numbers)

    def amps(self, row: int, numbers: Numbers) -> Vector:
        """Current in an element under these suspects."""
        return self.each(self.sound.operating.element_a[row], self.element_a[:, row], numbers)

    def each(self, sound: float, column: Vector, numbers: Numbers) -> Vector:
        """A figure under these suspects, of a column of those that make a difference; the others
        show that of the sound car."""
        values = np.full(len(numbers), float(sound))
        rows = self.rows(numbers)
        felt = rows >= 0
        values[felt] = column[rows[felt]]
        return values

    def rows(self, numbers: Numbers) -> Numbers:
        """Where each suspect stands among those that make a difference; -1 where it does not."""
        return np.array([self.of.get(int(number), -1) for number in numbers], dtype=int)


@dataclass
class _Row:
    """A fault in a situation that is being solved: what it has found, and what has opened."""

    number: int
    sound: Settled
    state: State
    change: Change
    altered: Altered
    found: Settled | UnusableInput | None = None
    parted: set[str] = field(default_factory=set)
    slow: bool = False


class Predictor:
    """A build and what it would show under any fault; faults are known by number, and what was
    solved is kept for all that ask."""

    def __init__(self, build: Build, today: Today) -> None:
        self.build = build
        self.sound = Sound(build, today)
        self.network = self.sound.network
        self.load_at = {load: at for at, load in enumerate(self.network.layout.loads)}
        self.wire_at = {wire: row for row, wire in enumerate(build.wires)}
        self.lock = Lock()
        """Held by whoever asks, where several may."""
        self._faults = Faults(self.network)
        self.altered = self._faults.altered
        self._number: dict[Fault, int] = {}
        self._pairs: dict[tuple[int, int], int] = {}
        self._variants: dict[tuple[int, frozenset[str]], int] = {}
        self._kept: dict[Situation, Predicted | UnusableInput] = {}
        self._foreseen: dict[Situation, Foreseen] = {}
        self._concerned: dict[tuple[str, Situation], frozenset[str]] = {}
        self._guards = self._guarded()
        self._turns = self.network.turns()

    def numbers(self, faults: Iterable[Fault]) -> Numbers:
        """The numbers by which these faults are known; those that show the same share one."""
        found = []
        for fault in faults:
            same = fault
            if fault.kind in SAME_AS or fault.blind:
                same = replace(fault, kind=SAME_AS.get(fault.kind, fault.kind), blind=False)
            if same not in self._number:
                self._number[same] = len(self.altered)
                self.altered.append(altered(self.network, same))
            found.append(self._number[same])
        return np.array(found, dtype=int)

    def held(self, number: int) -> int:
        """The number of a fault while nothing has opened by itself yet."""
        return self._variant(number, frozenset())

    def opened(self, number: int, fuses: frozenset[str]) -> int:
        """The number of a fault that has blown these fuses before."""
        return self._variant(number, fuses) if fuses else number

    def together(self, one: int, other: int) -> int:
        """The number of two faults at once."""
        if (one, other) not in self._pairs:
            self._pairs[one, other] = len(self.altered)
            self.altered.append(self.altered[one].beside(self.altered[other]))
        return self._pairs[one, other]

    def may_blow(self, number: int) -> bool:
        """Whether a fault can make anything take more than it should."""
        row = self.altered[number]
        return row.blows and bool(row.change.joins or row.change.sticks or row.light)

    def blown(self, number: int, situations: Iterable[Situation]) -> frozenset[str]:
        """The fuses that a fault blows in situations in which it was asked for, or that are
        foreseen; a channel comes on again by itself."""
        found: set[str] = set()
        for situation in situations:
            kept = self._kept[situation]
            at = kept.of.get(number) if isinstance(kept, Predicted) else None
            if at is not None and isinstance(kept, Predicted):
                found |= kept.parted[at]
            elif situation in self._foreseen:
                found |= self._foreseen[situation].blown(number).keys()
        return frozenset(name for name in found if self.build.parts[name].kind == "fuse")

    def concerned(self, load: str, situation: Situation) -> frozenset[str]:
        """The parts and wires that can make a load go wrong in a situation."""
        if (load, situation) not in self._concerned:
            state = situation.state(self.sound.supply)
            found = concerned(self.build, self.build.parts[load], state)
            self._concerned[load, situation] = frozenset(found)
        return self._concerned[load, situation]

    def _variant(self, number: int, fuses: frozenset[str]) -> int:
        if (number, fuses) not in self._variants:
            self._variants[number, fuses] = len(self.altered)
            row = self.altered[number]
            rows = (self.network.rows_of[fuse] for fuse in sorted(fuses))
            opens = {at for some in rows for at in some}
            change = both(row.change, Change(opens, {}, {}, []))
            self.altered.append(replace(row, change=change, blows=bool(fuses)))
        return self._variants[number, fuses]

    def _guarded(self) -> Guards:
        found: list[tuple[int, float, float, str]] = []
        ratings = {p.id: p.number("rating_a", 0) for p in self.build.parts_of_kind("fuse")}
        channels = {
            (part.id, on(way.name)): way.limit_a
            for part in self.build.parts_of_kind("module")
            for way in part.ways
            if way.limit_a
        }
        for row, element in enumerate(self.network.elements):
            channel = channels.get((element.owner, element.position or ""))
            if element.kind == "fuse" and ratings.get(element.owner):
                limit_a = BLOWS_AT * ratings[element.owner]
                found.append((row, limit_a, FUSE_AT_ONCE, element.owner))
            elif channel:
                found.append((row, channel, CHANNEL_AT_ONCE, element.owner))
        rows = np.array([row for row, *_ in found], dtype=int)
        limits, at_once = (np.array([row[at] for row in found]) for at in (1, 2))
        return Guards(rows, limits, at_once, [owner for *_, owner in found])

    def to_solve(self, situation: Situation, numbers: Numbers, loads: Iterable[str]) -> Flags:
        """Under which faults what any of these loads does in a situation has to be solved; under
        the others it is foreseen. None where the sound car does not settle."""
        foreseen, places = self.foresee(situation), [self.load_at[load] for load in loads]
        if foreseen is None:
            return np.zeros(len(numbers), dtype=bool)
        found: Flags = (foreseen.loads(numbers, places) == TO_SOLVE).any(axis=1)
        return found

    def percent(self, situation: Situation, load: str, numbers: Numbers) -> tuple[float, Vector]:
        """Light, speed or power of a load in % of rated: in the sound car, and under each of these
        faults, foreseen or solved; raises UnusableInput where the sound car does not settle."""
        at, foreseen = self.load_at[load], self.foresee(situation)
        found = foreseen.percent(numbers, at) if foreseen else np.full(len(numbers), np.nan)
        unknown = np.flatnonzero(np.isnan(found))
        predicted = self.predict(situation, numbers[unknown].tolist())
        sound = float(self.sound_percent(predicted)[at])
        found[unknown] = predicted.each(sound, predicted.percent[:, at], numbers[unknown])
        return sound, found

    def live(self, situation: Situation) -> int:
        """How much of the sound car is live in a situation."""
        self.ask({situation: ()})
        kept = self._kept[situation]
        if isinstance(kept, UnusableInput):
            return 0
        return int((np.nan_to_num(kept.sound.operating.node_v) > LIVE_V).sum())

    def is_slow(self, situation: Situation, number: int) -> bool:
        """Whether something takes its time to blow under a fault that was asked for."""
        kept, foreseen = self._kept[situation], self._foreseen.get(situation)
        solved = isinstance(kept, Predicted) and number in kept.slow
        return solved or (foreseen is not None and number in foreseen.slow)

    def may_surprise(self, situation: Situation, numbers: Numbers) -> Flags:
        """Whether each fault may blow something in a situation that is not foreseen."""
        foreseen = self.foresee(situation)
        return foreseen.may_blow(numbers) if foreseen else np.zeros(len(numbers), dtype=bool)

    def foresee(self, situation: Situation) -> Foreseen | None:
        """What each fault may make of a situation; None where the sound car does not settle."""
        if situation not in self._kept:
            self._begin([situation])
        kept = self._kept[situation]
        if situation not in self._foreseen and isinstance(kept, Predicted):
            base = self.sound.change(situation)
            percent = self.sound_percent(kept)
            self._foreseen[situation] = Foreseen(
                self._faults, kept.sound, base, self._guards, percent
            )
        return self._foreseen.get(situation)

    def predict(self, situation: Situation, numbers: Iterable[int] = ()) -> Predicted:
        """What a situation shows under these faults, beside those that were asked for before;
        raises UnusableInput where the sound car does not settle in it."""
        self.ask({situation: numbers})
        kept = self._kept[situation]
        if isinstance(kept, UnusableInput):
            raise kept
        return kept

    def ask(self, wanted: Mapping[Situation, Iterable[int]]) -> None:
        """Solve what each of these situations shows under these faults, all together."""
        self._begin([situation for situation in wanted if situation not in self._kept])
        fresh: dict[Situation, set[int]] = {}
        for situation, numbers in wanted.items():
            kept = self._kept[situation]
            if isinstance(kept, Predicted) and (new := set(numbers) - kept.asked):
                fresh[situation] = new
        rows = {situation: list(self._rows(situation, new)) for situation, new in fresh.items()}
        self._solve([row for some in rows.values() for row in some])
        for situation, new in fresh.items():  # only now: whoever stops the work leaves no gap
            self._keep(situation, new, rows[situation])

    def _rows(self, situation: Situation, numbers: Iterable[int]) -> Iterator[_Row]:
        """The faults of these that make a difference in a situation, to be solved."""
        sound = self.predict(situation).sound
        base, foreseen = self.sound.change(situation), self.foresee(situation)
        state = situation.state(situation.supply or self.sound.supply)
        for number in sorted(numbers):
            altered = self.altered[number]
            if altered.is_felt(sound, self.network):
                change = both(base, altered.change)
                at = altered.state(state, self.build)
                opened = foreseen.blown(number) if foreseen else {}
                change.opens.update(opened.values())
                slow = foreseen is not None and number in foreseen.slow
                yield _Row(number, sound, at, change, altered, parted=set(opened), slow=slow)

    def _begin(self, fresh: Collection[Situation]) -> None:
        for situation, sound in zip(fresh, self.sound.settled(list(fresh)), strict=True):
            if isinstance(sound, UnusableInput):
                self._kept[situation] = sound
                continue
            node_v = np.zeros((0, len(sound.operating.node_v)))
            element_a = np.zeros((0, len(sound.operating.element_a)))
            percent = self._percent(node_v, element_a)
            self._kept[situation] = Predicted(
                sound, frozenset(), {}, node_v, element_a, percent, [], frozenset(), frozenset()
            )

    def is_felt(self, situation: Situation, number: int) -> bool:
        """Whether a fault makes any difference in a situation."""
        return self.altered[number].is_felt(self.predict(situation).sound, self.network)

    def _solve(self, rows: Sequence[_Row]) -> None:
        waiting = list(rows)
        for _ in range(ROUNDS):
            if not waiting:
                break
            solved = self.network.try_many(
                [row.state for row in waiting],
                near=[row.sound for row in waiting],
                changes=[row.change for row in waiting],
                going_on=True,
            )
            self._from_rest(waiting, solved)
            again = []
            for row, found in zip(waiting, solved, strict=True):
                row.found = found
                if isinstance(found, Settled) and row.altered.blows and self._blows(row, found):
                    again.append(row)
            waiting = again

    def _from_rest(self, rows: Sequence[_Row], solved: list[Settled | UnusableInput]) -> None:
        """Solve from rest, in place, what only holds because it was so in the sound car: with the
        fault in it the car is switched on from rest."""
        known = [at for at, found in enumerate(solved) if isinstance(found, Settled)]
        if not known:
            return
        changes = [rows[at].change for at in known]
        holds = self.network.holds([solved[at] for at in known], changes)  # type: ignore[misc]
        sound = [rows[at].sound for at in known]
        held = self.network.holds(sound, [Change()] * len(sound))
        again = [at for number, at in enumerate(known) if (holds & ~held)[:, number].any()]
        states, changes = [rows[at].state for at in again], [rows[at].change for at in again]
        for at, found in zip(again, self.network.try_many(states, changes=changes), strict=True):
            if isinstance(found, Settled):  # what never settles is taken as it held
                solved[at] = found

    def _keep(self, situation: Situation, asked: set[int], rows: Sequence[_Row]) -> None:
        kept = self._kept[situation]
        assert isinstance(kept, Predicted)
        if not rows:
            self._kept[situation] = replace(kept, asked=kept.asked | asked)
            return
        settled = [row.found if isinstance(row.found, Settled) else kept.sound for row in rows]
        node_v = np.array([row.operating.node_v for row in settled])
        element_a = np.array([row.operating.element_a for row in settled])
        percent = self._percent(node_v, element_a)
        for place, row in enumerate(rows):
            for load, light in row.altered.light.items():
                percent[place, self.load_at[load]] = self._of_other_lamp(load, node_v[place], light)
        at = len(kept.of)
        self._kept[situation] = replace(
            kept,
            asked=kept.asked | asked,
            of=kept.of | {row.number: at + place for place, row in enumerate(rows)},
            node_v=np.concatenate([kept.node_v, node_v]),
            element_a=np.concatenate([kept.element_a, element_a]),
            percent=np.concatenate([kept.percent, percent]),
            parted=[*kept.parted, *(frozenset(row.parted) for row in rows)],
            slow=kept.slow | {row.number for row in rows if row.slow},
            unsettled=kept.unsettled
            | {row.number for row in rows if not isinstance(row.found, Settled)},
        )

    def _blows(self, row: _Row, settled: Settled) -> bool:
        """Open what opens by itself: of all that would, what is furthest beyond its limit."""
        guards = self._guards
        if not len(guards.rows):
            return False
        beyond = np.abs(settled.operating.element_a[guards.rows]) / guards.from_a
        worst = int(beyond.argmax())
        if beyond[worst] <= 1:
            return False
        row.change.opens.add(int(guards.rows[worst]))
        row.parted.add(guards.owners[worst])
        row.slow |= bool(beyond[worst] < guards.at_once[worst])
        return True

    def _of_other_lamp(self, load: str, node_v: Vector, light: float) -> float:
        """What another lamp in a holder gives, in % of the right one: as its volts and amps are."""
        ends = (self.network.node[Terminal(load, name)] for name in ("+", "-"))
        plus_v, minus_v = (float(np.nan_to_num(node_v[node])) for node in ends)
        return 100 * light * min(max((plus_v - minus_v) / RUNS_AT_V, 0.0), 1.2)

    def _percent(self, node_v: Matrix, element_a: Matrix) -> Matrix:
        """Light, speed or power of each load in % of rated, by suspect; negative where it turns
        backwards."""
        network = self.network
        rows = network.layout.load_rows
        ends = network.equations.node_a[rows], network.equations.node_b[rows]
        across = np.nan_to_num(node_v[:, ends[0]]) - np.nan_to_num(node_v[:, ends[1]])
        shares = network.layout.load_laws.output_percent(across)
        way = np.where(self._turns, np.sign(across), 1.0)
        found: Matrix = shares * (np.abs(element_a[:, rows]) > 1e-5) * way
        return found

    def sound_percent(self, predicted: Predicted) -> Vector:
        """The same in the sound car."""
        operating = predicted.sound.operating
        percent: Vector = self._percent(operating.node_v[None, :], operating.element_a[None, :])[0]
        return percent
