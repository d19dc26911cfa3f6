"""What the car would show in a situation under each suspect, solved together."""

from collections.abc import Iterable
from dataclasses import dataclass, replace
from threading import Lock

import numpy as np

from circuitry.bench.faults import Fault
from circuitry.design.model import Build, Terminal
from circuitry.devices.electronics import on
from circuitry.diagnosis.altered import RUNS_AT_V, Altered, altered
from circuitry.errors import UnusableInput
from circuitry.network.equations import Matrix, Numbers, Vector
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
ROUNDS = 3


@dataclass(frozen=True)
class Predicted:
    """What a situation shows: in the sound car, and under each of the ``asked`` faults that makes a
    difference there: where it stands by its number, volts by node, amps by element, light by load
    in the order of the network, and the fuses and channels that have opened. One that does not
    settle shows what the sound car does."""

    sound: Settled
    asked: frozenset[int]
    of: dict[int, int]
    node_v: Matrix
    element_a: Matrix
    percent: Matrix
    parted: list[frozenset[str]]

    def volts(self, node: int, numbers: Numbers) -> Vector:
        """Volts of a node under these suspects; NaN where it floats."""
        return self._each(self.sound.operating.node_v[node], self.node_v[:, node], numbers)

    def amps(self, row: int, numbers: Numbers) -> Vector:
        """Current in an element under these suspects."""
        return self._each(self.sound.operating.element_a[row], self.element_a[:, row], numbers)

    def _each(self, sound: float, column: Vector, numbers: Numbers) -> Vector:
        values = np.full(len(numbers), float(sound))
        rows = self.rows(numbers)
        felt = rows >= 0
        values[felt] = column[rows[felt]]
        return values

    def rows(self, numbers: Numbers) -> Numbers:
        """Where each suspect stands among those that make a difference; -1 where it does not."""
        return np.array([self.of.get(int(number), -1) for number in numbers], dtype=int)


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
        self.altered: list[Altered] = []
        self._number: dict[Fault, int] = {}
        self._kept: dict[Situation, Predicted] = {}
        self._guard_rows, self._guard_a, self._guards = self._guarded()

    def numbers(self, faults: Iterable[Fault]) -> Numbers:
        """The numbers by which these faults are known; those that show the same share one."""
        found = []
        for fault in faults:
            same = replace(fault, kind=SAME_AS.get(fault.kind, fault.kind), blind=False)
            if same not in self._number:
                self._number[same] = len(self.altered)
                self.altered.append(altered(self.network, same))
            found.append(self._number[same])
        return np.array(found, dtype=int)

    def _guarded(self) -> tuple[Numbers, Vector, list[str]]:
        """The elements that open by themselves, at how many amps, and whose they are."""
        rows: list[int] = []
        limits: list[float] = []
        owners: list[str] = []
        ratings = {p.id: p.number("rating_a", 0) for p in self.build.parts_of_kind("fuse")}
        channels = {
            (part.id, on(way.name)): way.limit_a
            for part in self.build.parts_of_kind("module")
            for way in part.ways
            if way.limit_a
        }
        for row, element in enumerate(self.network.elements):
            channel = channels.get((element.owner, element.position or ""))
            limit = ratings.get(element.owner) if element.kind == "fuse" else channel
            if limit:
                rows.append(row)
                limits.append(BLOWS_AT * limit if element.kind == "fuse" else limit)
                owners.append(element.owner)
        return np.array(rows, dtype=int), np.array(limits), owners

    def predict(self, situation: Situation, numbers: Iterable[int] = ()) -> Predicted:
        """What a situation shows under these faults, beside those that were asked for before."""
        kept = self._kept.get(situation)
        if kept is None:
            (sound,) = self.sound.settled([situation])
            if isinstance(sound, UnusableInput):
                raise sound
            nothing = np.zeros((0, len(sound.operating.node_v)))
            none = np.zeros((0, len(sound.operating.element_a)))
            percent = self._percent(nothing, none)
            kept = Predicted(sound, frozenset(), {}, nothing, none, percent, [])
            self._kept[situation] = kept
        new = {int(number) for number in numbers} - kept.asked
        if new:
            kept = self._kept[situation] = self._more(situation, kept, sorted(new))
        return kept

    def is_felt(self, situation: Situation, number: int) -> bool:
        """Whether a fault makes any difference in a situation."""
        return self.altered[number].is_felt(self.predict(situation).sound, self.network)

    def _more(self, situation: Situation, kept: Predicted, new: list[int]) -> Predicted:
        """With faults that were not asked for before."""
        sound = kept.sound
        felt = [number for number in new if self.altered[number].is_felt(sound, self.network)]
        base = self.sound.change(situation)
        state = situation.state(situation.supply or self.sound.supply)
        states = [self.altered[number].state(state, self.build) for number in felt]
        changes = [_both(base, self.altered[number].change) for number in felt]
        parted: list[set[str]] = [set() for _ in felt]
        found: list[Settled | UnusableInput] = [sound] * len(felt)
        waiting = list(range(len(felt)))
        for _ in range(ROUNDS):
            solved = self.network.try_many(
                [states[at] for at in waiting],
                near=[sound] * len(waiting),
                changes=[changes[at] for at in waiting],
                going_on=True,
            )
            again = []
            for at, row in zip(waiting, solved, strict=True):
                found[at] = row
                if isinstance(row, Settled) and self._blows(row, changes[at], parted[at]):
                    again.append(at)
            waiting = again
            if not waiting:
                break
        rows = [row.operating if isinstance(row, Settled) else sound.operating for row in found]
        shape = (0, kept.node_v.shape[1]), (0, kept.element_a.shape[1])
        node_v = np.array([row.node_v for row in rows]) if rows else np.zeros(shape[0])
        element_a = np.array([row.element_a for row in rows]) if rows else np.zeros(shape[1])
        at = len(kept.of)
        percent = self._percent(node_v, element_a)
        for place, number in enumerate(felt):
            for load, light in self.altered[number].light.items():
                percent[place, self.load_at[load]] = self._of_other_lamp(load, node_v[place], light)
        return Predicted(
            sound,
            kept.asked | set(new),
            kept.of | {number: at + row for row, number in enumerate(felt)},
            np.concatenate([kept.node_v, node_v]),
            np.concatenate([kept.element_a, element_a]),
            np.concatenate([kept.percent, percent]),
            [*kept.parted, *(frozenset(row) for row in parted)],
        )

    def _blows(self, row: Settled, change: Change, parted: set[str]) -> bool:
        """Open what opens by itself: of all that would, what is furthest beyond its limit."""
        if not len(self._guard_rows):
            return False
        beyond = np.abs(row.operating.element_a[self._guard_rows]) / self._guard_a
        worst = int(beyond.argmax())
        if beyond[worst] <= 1:
            return False
        change.opens.add(int(self._guard_rows[worst]))
        parted.add(self._guards[worst])
        return True

    def _of_other_lamp(self, load: str, node_v: Vector, light: float) -> float:
        """What another lamp in a holder gives, in % of the right one: as its volts and amps are."""
        ends = (self.network.node[Terminal(load, name)] for name in ("+", "-"))
        plus_v, minus_v = (float(np.nan_to_num(node_v[node])) for node in ends)
        return 100 * light * min(max((plus_v - minus_v) / RUNS_AT_V, 0.0), 1.2)

    def _percent(self, node_v: Matrix, element_a: Matrix) -> Matrix:
        """Light, speed or power of each load in % of rated, by suspect; against the way that it
        runs where it is negative."""
        network = self.network
        rows = network.layout.load_rows
        ends = network.equations.node_a[rows], network.equations.node_b[rows]
        across = np.nan_to_num(node_v[:, ends[0]]) - np.nan_to_num(node_v[:, ends[1]])
        shares = np.array([network.layout.load_laws.output_percent(row) for row in across])
        if not len(shares):
            return np.zeros((0, len(rows)))
        found: Matrix = shares * (np.abs(element_a[:, rows]) > 1e-5) * np.sign(across)
        return found

    def sound_percent(self, predicted: Predicted) -> Vector:
        """The same in the sound car."""
        operating = predicted.sound.operating
        percent: Vector = self._percent(operating.node_v[None, :], operating.element_a[None, :])[0]
        return percent


def _both(one: Change, other: Change) -> Change:
    return Change(
        set(one.opens | other.opens),
        {**one.ohms, **other.ohms},
        {**one.sticks, **other.sticks},
        [*one.joins, *other.joins],
    )
