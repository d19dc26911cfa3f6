"""What faults may make of a situation, foreseen to first order: most make nothing of what is looked
at there, or put it out, and need not be solved for it.

What is foreseen steps on as the solver would: the network's answer to the fault, then with what
blows open, with what moves moved, and with loads open that let nothing through backwards, until it
stays so. What is not clear at a step is left to be solved.
"""

from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np

from circuitry.devices.moving import Asked
from circuitry.diagnosis.altered import Altered
from circuitry.network.equations import Flags, Matrix, Numbers, Vector
from circuitry.network.network import OFF_PERCENT, Change, Network, Settled
from circuitry.network.response import LIT_V, Changes, Response, changes_of

UNCHANGED_V, DEAD_V = 0.15, 0.1
"""Nobody sees what a load makes of a smaller change, or gives with less."""
WORKS_FROM = 0.75
"""The share of its light from which people call a load as it should be."""
AT_FEED_V = 0.3
"""So near the battery's volts a node is joined to it, as one without any is to ground, for sure."""
BEND_A = 0.02
"""What is not a load turns a corner where it takes so much more or less than is foreseen."""
NARROWLY, WIDER, WIDELY = (0.85, 1.2), (0.8, 1.3), 1.6
"""What is foreseen may be out by as much: what moves, what loads give, what is said to stay."""
HOLDS_SHARE = 0.3
"""Of its current: what keeps as much may be electronics, which take more as their volts fall."""
BACKWARDS_A = 1e-3
SURELY = 1.15
"""How much further beyond its limit, and beyond all others, what is taken to blow has to be."""
MOST_STEPS = 12
TOGETHER = 512
UNKNOWN, CALM, RESTLESS = 0, 1, 2
OUT, LIT, TO_SOLVE = 0, 1, -1
"""What is foreseen of a load: that it gives nothing, or what it should, or would if it were on."""


class Faults:
    """Faults by number, as arrays; more come as they are asked for. ``blows`` is of which fuses and
    channels open by themselves."""

    def __init__(self, network: Network) -> None:
        self.network = network
        self.altered: list[Altered] = []
        self.blows: Flags = np.zeros(0, dtype=bool)
        self._changes = changes_of(network, [])

    def changes(self) -> Changes:
        """What each of them makes of the network."""
        new = self.altered[len(self.blows) :]
        if new:
            more = changes_of(self.network, [row.change for row in new])
            more.foreseen[[_is_of_state(row) for row in new]] = False
            self._changes = Changes.of([self._changes, more])
            self.blows = np.concatenate([self.blows, [row.blows for row in new]])
        return self._changes


def _is_of_state(altered: Altered) -> bool:
    """Whether a fault changes more than elements of the network."""
    return bool(altered.switches or altered.turned or altered.lost or altered.supply)


class Guards(NamedTuple):
    """The elements that open by themselves: from how many amps, from how many times as much at
    once, and whose they are."""

    rows: Numbers
    from_a: Vector
    at_once: Vector
    owners: list[str]


class Foreseen:
    """One situation, and what each fault may make of it."""

    def __init__(
        self, faults: Faults, sound: Settled, base: Change, guards: Guards, percent: Vector
    ) -> None:
        """``base`` is what the situation has otherwise than the build, ``percent`` what each load
        gives in it."""
        self._faults, self._sound, self._guards, self._base = faults, sound, guards, base
        self._network = network = faults.network
        # what is joined besides is not in the response: all of it is solved then
        self._response = None if base.joins else Response(network, sound, base)
        asked = Asked([sound.state])
        self._conducting = network.conducts(asked, sound.moved[:, None])
        self._by_hand = np.asarray(asked.by_hand)
        self._corners = ~np.isin(network.equations.law_rows, network.layout.load_rows)
        self._held = network.holds([sound], [base])
        self._look_at_loads(percent)
        self.slow: set[int] = set()
        """Faults under which something surely takes its time to blow."""
        self._blown: dict[int, Mapping[str, int]] = {}
        self._blocked: dict[int, set[int]] = {}
        self._at, self._quiet = np.zeros(0, dtype=np.int8), np.zeros(0, dtype=bool)
        self._does = np.zeros((0, len(percent)), dtype=np.int8)

    def _look_at_loads(self, percent: Vector) -> None:
        rows, laws = self._network.layout.load_rows, self._network.layout.load_laws
        self._percent, self._lit = percent, np.abs(percent) >= OFF_PERCENT
        self._loads, self._load_at = rows, {row: at for at, row in enumerate(rows.tolist())}
        self._fitted = ~np.isin(rows, list(self._base.opens))
        self._turns = self._network.turns()
        self._load_v = self._sound.operating.element_v[rows][:, None]
        one_way = laws.current_and_slope(np.full(len(rows), -LIT_V))[0] > -BACKWARDS_A
        siemens = self._response.siemens[rows] if self._response else np.zeros(len(rows))
        self._one_way_s = (siemens * one_way)[:, None]

    def loads(self, numbers: Numbers, loads: Sequence[int]) -> Numbers:
        """What each of these loads, by number, does under each fault, by fault and load: ``OUT``,
        ``LIT`` or ``TO_SOLVE``."""
        self._foresee(numbers)
        found: Numbers = self._does[numbers][:, loads]
        return found

    def percent(self, numbers: Numbers, load: int) -> Vector:
        """About how much a load gives under each fault, in %; NaN where that has to be solved."""
        lit = self._percent[load] if self._lit[load] else 100.0
        known = {OUT: 0.0, LIT: lit, TO_SOLVE: np.nan}
        return np.array([known[at] for at in self.loads(numbers, [load])[:, 0].tolist()])

    def may_blow(self, numbers: Numbers) -> Flags:
        """Whether each fault may blow something that is not foreseen."""
        self._foresee(numbers)
        known = np.array([number in self._blown for number in numbers.tolist()], dtype=bool)
        found: Flags = (self._at[numbers] == RESTLESS) & ~known & ~self._quiet[numbers]
        return found

    def blown(self, number: int) -> Mapping[str, int]:
        """What a fault surely blows, and the number of its element."""
        return self._blown.get(number, {})

    def _foresee(self, numbers: Numbers) -> None:
        changes = self._faults.changes()
        more = len(changes.foreseen) - len(self._at)
        if more:
            self._at = np.concatenate([self._at, np.zeros(more, dtype=np.int8)])
            self._quiet = np.concatenate([self._quiet, np.zeros(more, dtype=bool)])
            fresh = np.full((more, len(self._loads)), TO_SOLVE, dtype=np.int8)
            self._does = np.concatenate([self._does, fresh])
        new = np.unique(numbers[self._at[numbers] == UNKNOWN])
        self._at[new] = RESTLESS
        if self._response is not None:
            new = new[changes.foreseen[new]]
            for first in range(0, len(new), TOGETHER):
                some = new[first : first + TOGETHER]
                self._step_on(some, changes.take(some), self._response)

    def _step_on(self, some: Numbers, faults: Changes, response: Response) -> None:
        """Open what blows, of all the furthest beyond its limit, and move what moves, until nothing
        does; what is not clear stays ``RESTLESS``."""
        moved = np.repeat(self._sound.moved[:, None], len(some), axis=1)
        changes = faults
        for _ in range(MOST_STEPS):
            if not len(some):
                break
            node_v = response.to(changes)
            element_v = self._network.equations.across(node_v)
            guard, blows, calm = self._blowing(some, changes, element_v, response)
            self._quiet[some] = calm
            wanted, surely = self._wanted(node_v, moved)
            bends = self._bends(element_v, response)
            blocks = self._block(some, changes, element_v) & ~bends
            moves = (wanted != moved).any(axis=0)
            clear = ~bends & ~blocks
            stays = clear & calm & surely & ~moves
            self._settle(some[stays], element_v[:, stays])
            blows &= clear
            for at in np.flatnonzero(blows).tolist():
                self._blow(int(some[at]), int(guard[at]))
            again = np.flatnonzero(blocks | blows | (clear & calm & surely & moves))
            moved = np.where((blows | blocks)[again], moved[:, again], wanted[:, again])
            some, faults = some[again], faults.take(again)
            changes = self._changed(some, faults, moved)
            kept = np.flatnonzero(changes.foreseen)
            some, faults, changes = some[kept], faults.take(kept), changes.take(kept)
            moved = moved[:, kept]

    def _blow(self, number: int, guard: int) -> None:
        blown = {self._guards.owners[guard]: int(self._guards.rows[guard])}
        self._blown[number] = {**self.blown(number), **blown}

    def _changed(self, some: Numbers, faults: Changes, moved: Flags) -> Changes:
        """Faults with what they have blown and blocked, and with what has moved."""
        asked = Asked([self._sound.state] * moved.shape[1])
        asked.by_hand = np.repeat(self._by_hand, moved.shape[1], axis=1)
        conducts = self._network.conducts(asked, moved)
        opens = [
            [*self.blown(number).values(), *self._blocked.get(number, ())]
            for number in some.tolist()
        ]
        closes: list[list[int]] = [[] for _ in opens]
        for row, at in np.argwhere(conducts != self._conducting).tolist():
            if row not in self._base.opens:
                (closes if conducts[row, at] else opens)[at].append(row)
        return faults.beside(self._network, opens, closes)

    def _blowing(
        self, some: Numbers, changes: Changes, element_v: Matrix, response: Response
    ) -> tuple[Numbers, Flags, Flags]:
        """The guard furthest beyond its limit, by its place, whether it surely blows, and whether
        surely none does, by fault."""
        if not len(self._guards.rows):
            return np.zeros(len(some), dtype=int), some < 0, some >= 0
        beyond, at_most = self._beyond(changes, element_v, response)
        count, may = np.arange(len(some)), self._faults.blows[some]
        worst = beyond.argmax(axis=0)
        most = beyond[worst, count]
        beyond[worst, count] = 0.0
        at_once = self._guards.at_once[worst]
        knows_when = (most > SURELY * at_once) | (SURELY * most < at_once)
        blows = may & (most > SURELY) & knows_when & (most > SURELY * beyond.max(axis=0))
        self.slow |= set(some[blows & (most < at_once)].tolist())
        return worst, blows, ~may | (at_most <= 1).all(axis=0)

    def _beyond(
        self, changes: Changes, element_v: Matrix, response: Response
    ) -> tuple[Matrix, Matrix]:
        """How many times what it opens at each guard carries, as foreseen and at most, by guard and
        fault: more of a change, or the power held where volts fall by twice as much."""
        rows, count = self._guards.rows, element_v.shape[1]
        amps = self._sound.operating.element_a[rows][:, None]
        more_a = response.siemens[rows][:, None] * element_v[rows]
        open_ = np.zeros((len(self._network.elements) + 1, count), dtype=bool)
        open_[np.where(changes.opens, changes.row, -1), np.arange(count)[:, None]] = True
        limits = np.where(open_[rows], np.inf, self._guards.from_a[:, None])
        found_a, beyond_a = np.abs(amps + more_a), np.abs(amps + NARROWLY[1] * more_a)
        holds = found_a > HOLDS_SHARE * np.abs(amps)
        fallen_a = np.maximum(np.abs(amps + 2 * more_a), np.abs(amps) / 2 + 1e-9)
        risen_a = holds * amps**2 / fallen_a
        return found_a / limits, np.max([found_a, beyond_a, risen_a], axis=0) / limits

    def _bends(self, element_v: Matrix, response: Response) -> Flags:
        """Whether the law of anything but a load turns a corner that is not foreseen."""
        each = (response.bends(share * element_v)[self._corners] for share in (1.0, WIDELY))
        found: Flags = np.any([(bend_a > BEND_A).any(axis=0) for bend_a in each], axis=0)
        return found

    def _block(self, some: Numbers, changes: Changes, element_v: Matrix) -> Flags:
        """Whether a load that lets nothing through backwards would have to, by fault; it is open,
        then."""
        backwards_a = self._one_way_s * (self._load_v + element_v[self._loads])
        found = np.zeros(len(some), dtype=bool)
        for load, at in np.argwhere(backwards_a < -BACKWARDS_A).tolist():
            row = int(self._loads[load])
            if row not in changes.row[at][changes.opens[at]]:
                self._blocked.setdefault(int(some[at]), set()).add(row)
                found[at] = True
        return found

    def _wanted(self, node_v: Matrix, moved: Flags) -> tuple[Flags, Flags]:
        """Where everything wants to be, and whether it surely does, by fault."""
        sound_v = np.nan_to_num(self._sound.operating.node_v)[:, None]
        asked = Asked([self._sound.state] * node_v.shape[1])
        found_v, live_v = sound_v + node_v, float(sound_v.max())
        at_rail = (np.abs(found_v) < DEAD_V) | (np.abs(found_v - live_v) < AT_FEED_V)

        def wanted(share: float) -> Flags:
            volts = np.where(at_rail, found_v, sound_v + share * node_v)
            return self._network.movers.wants(volts, asked, moved)

        found = wanted(1.0)
        surely = np.all([(wanted(share) == found).all(axis=0) for share in NARROWLY], axis=0)
        moves = (found != moved).any(axis=0)
        rested = np.zeros_like(moved)
        from_rest = self._network.movers.wants(found_v, asked, rested)
        holds = ((from_rest != found) & ~self._held).any(axis=0)
        stays = (wanted(WIDELY) == found).all(axis=0) & ~holds
        return found, surely & (moves | stays)

    def _settle(self, some: Numbers, element_v: Matrix) -> None:
        """Faults that blow and move nothing more: what each load does."""
        self._at[some] = CALM
        self._does[some] = self._gives(element_v[self._loads])
        for number in some.tolist():
            row = self._faults.altered[number]
            own = [self._load_at[at] for at in row.change.opens if at in self._load_at]
            self._does[number, own] = OUT
            other = [self._network.layout.loads.index(load) for load in row.light]
            self._does[number, other] = TO_SOLVE

    def _gives(self, changed_v: Matrix) -> Numbers:
        """What each load does with its volts changed, by fault and load."""
        found = np.where(self._lit, LIT, OUT) + np.zeros(changed_v.T.shape, dtype=int)
        lit, out = np.ones((2, *found.shape), dtype=bool)
        for share in (1.0, *WIDER):
            across_v = (self._load_v + share * changed_v).T
            percent = self._network.layout.load_laws.output_percent(across_v) * self._fitted
            way = np.where(self._turns, np.sign(across_v), 1.0)
            of_sound = percent * way / np.where(self._lit, self._percent, 1.0)
            lit &= np.where(self._lit, of_sound >= WORKS_FROM, percent >= OFF_PERCENT)
            out &= ~self._lit & (percent < OFF_PERCENT)
        out |= np.abs(self._load_v + changed_v).T < DEAD_V
        changes = np.abs(changed_v.T) > UNCHANGED_V
        found[changes] = np.where(out, OUT, np.where(lit, LIT, TO_SOLVE))[changes]
        return found
