"""The whole build as a network: solve it for a key and switch state, with its relays settled.

This is the only place where a current or a voltage is computed.
"""

from collections.abc import Collection, Iterable, Iterator, Mapping, Sequence
from copy import copy
from dataclasses import dataclass, field, replace
from functools import cached_property

import numpy as np
import numpy.typing as npt

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State, position_of
from circuitry.devices import switches_of
from circuitry.devices.battery import battery_supply
from circuitry.devices.electronics import low, on
from circuitry.devices.flasher import flasher_works
from circuitry.devices.given import SHARES
from circuitry.devices.load import output_word
from circuitry.devices.moving import LIT, Asked, Closed
from circuitry.devices.relay import PULLED_IN
from circuitry.document.checks import check_state
from circuitry.errors import UnusableInput
from circuitry.network.elements import EXACT, Elements, Tolerance, nodes_of
from circuitry.network.equations import (
    PATIENT,
    QUICK,
    Drive,
    Element,
    Equations,
    Flags,
    Join,
    Matrix,
    NotConverged,
    Operating,
    Tries,
    Vector,
    extra_of,
)
from circuitry.network.law_table import LawTable
from circuitry.network.movers import movers
from circuitry.progress import told

METER_OHM = 10e6
OFF_PERCENT = 2.0
"""Of rated light, speed or power: what nobody sees."""
CARRIES = ("wire", "fuse", "contact", "output")
MOST_MOVES, MOST_GOING_ON = 60, 8
TOGETHER = 128
"""States that are solved at once: enough to save time, few enough to stay in the cache."""

THROUGH_PARTS = (
    *("diode", "resistor", "ammeter"),
    *("alternator", "converter", "second source", "solar"),
)
"""Elements of parts of which a solution says what flows through them, by part."""


@dataclass(frozen=True)
class LoadReading:
    """Voltage across a load, its current, its light, speed or power in % of rated, and whether that
    is enough to be seen: what does less is off."""

    volts: float
    amps: float
    output_percent: float

    @property
    def is_on(self) -> bool:
        """Whether it is seen to do something."""
        return self.output_percent >= OFF_PERCENT


@dataclass(frozen=True)
class RelayReading:
    """Whether a relay has pulled in, and the voltage across its coil."""

    pulled_in: bool
    coil_volts: float


@dataclass(frozen=True)
class FlasherReading:
    """The current that a flasher feeds while lit, and what it does: its word for the tape."""

    amps: float
    works: str


@dataclass(frozen=True)
class Solution:
    """Volts and amps of the build in one state.

    ``terminal_v`` is against battery negative, None where a terminal floats; ``wire_a`` runs from
    ``from_terminal`` to ``to_terminal``; ``fuse_a`` from in to out; ``contact_a`` is the largest
    current in any contact of a switch or relay; ``output_a`` that of each output of a box and each
    channel of a module; ``part_a`` that of diodes, resistors, meters and sources. ``closed`` are
    the contacts that moved by themselves. ``residual_a`` is the worst node of Kirchhoff's law,
    ``power_mismatch`` the share of source power not found again in the elements.
    """

    state: State
    terminal_v: Mapping[Terminal, float | None]
    wire_a: Mapping[str, float]
    fuse_a: Mapping[str, float]
    contact_a: Mapping[str, float]
    output_a: Mapping[Terminal, float]
    part_a: Mapping[str, float]
    loads: Mapping[str, LoadReading]
    relays: Mapping[str, RelayReading]
    flashers: Mapping[str, FlasherReading]
    meters_v: tuple[float | None, ...]
    battery_v: float
    battery_a: float
    closed: Closed
    residual_a: float
    power_mismatch: float
    iterations: int


@dataclass
class Change:
    """What is otherwise in one state than in the build, by number of the elements: which are open,
    which have more Ω, contacts that do not move by number of the position, and what is joined.
    """

    opens: set[int] = field(default_factory=set)
    ohms: dict[int, float] = field(default_factory=dict)
    sticks: dict[int, bool] = field(default_factory=dict)
    joins: list[Join] = field(default_factory=list)


AS_BUILT = Change()


@dataclass(frozen=True)
class Settled:
    """A state in which nothing wants to move any more, its figures still by element.

    ``moved`` has one flag a position that something of the build may move to by itself.
    """

    state: State
    moved: Flags
    operating: Operating


class TerminalVolts(Mapping[Terminal, float | None]):
    """Volts of every terminal against battery negative; None where it floats."""

    def __init__(self, node: Mapping[Terminal, int], node_v: Vector) -> None:
        self.node = node
        self.node_v = node_v

    def __getitem__(self, terminal: Terminal) -> float | None:
        volts = float(self.node_v[self.node[terminal]])
        return None if volts != volts else volts

    def __iter__(self) -> Iterator[Terminal]:
        return iter(self.node)

    def __len__(self) -> int:
        return len(self.node)


class Network:
    """The equations of one build.

    To be solved, every wire must have a size and every fuse a rating, or be given them by
    ``resized``.
    """

    def __init__(
        self,
        build: Build,
        conductor_c: Mapping[str, float] | None = None,
        tolerance: Tolerance = EXACT,
    ) -> None:
        """``conductor_c`` gives conductor temperatures by wire id; the others are at 20 °C."""
        self.build = build
        self.node = nodes_of(build)
        self.battery = build.parts_of_kind("battery")[0]
        self.reference = self.node[Terminal(self.battery.id, "-")]
        self.make = Elements(build, self.node, tolerance)
        self.node_count = self.make.body_node + 1
        self.elements = [*self.make.sized(), *self.make.fixed()]
        self.emf_v = np.array([row.emf_v for row in self.elements])
        self.movers = movers(build, self.node)
        self.positions = self.movers.positions
        self._moves_of: dict[str, list[int]] = {}
        for number, (owner, _) in enumerate(self.positions):
            self._moves_of.setdefault(owner, []).append(number)
        self._switches = switches_of(build)
        self._unsized_siemens = np.array([row.conductance_s for row in self.elements])
        self._conductor_c = conductor_c or {}
        self.layout = _Layout(self.elements, self._moves_of)
        closing = [
            (row, number)
            for number, pair in enumerate(self.positions)
            for row in self.layout.rows.get(pair, ())
        ]
        self._closing = np.array(closing, dtype=int).reshape(-1, 2).T
        self._at_rest: dict[str, Flags] = {}
        self.equations = Equations(self.elements, self.node_count, self.reference)

    @cached_property
    def rows_of(self) -> Mapping[str, list[int]]:
        """The numbers of the elements of each part and wire."""
        rows: dict[str, list[int]] = {}
        for row, element in enumerate(self.elements):
            rows.setdefault(element.owner, []).append(row)
        return rows

    def resized(self, conductor_ohm: Vector, ratings_a: Iterable[float]) -> "Network":
        """The same network with other conductors of its wires, in Ω, and other fuses, in A."""
        other = copy(self)
        other.siemens = self._in_sizes(conductor_ohm, ratings_a)
        return other

    @cached_property
    def siemens(self) -> Vector:
        """The conductance of each element, in the sizes that the build has."""
        ratings_a = [
            part.number("rating_a", 0) if "rating_a" in part.figures else None
            for part in self.build.parts_of_kind("fuse")
        ]
        return self._in_sizes(self.make.conductor_ohm(self._conductor_c), ratings_a)

    def _in_sizes(self, conductor_ohm: Vector, ratings_a: Iterable[float | None]) -> Vector:
        sized = self.make.siemens(conductor_ohm, ratings_a)
        return np.concatenate([sized, self._unsized_siemens[len(sized) :]])

    def solve(self, state: State) -> Solution:
        """The steady state; raises UnusableInput when relays chase each other or nothing settles.

        Everything that moves by itself starts at rest, and all move together until none wants to
        move: a relay at rest pulls in at its pull-in voltage, one that is pulled in drops out at
        its drop-out voltage, an output of a box is on while its condition holds.
        """
        return self.solve_many([state])[0]

    def solve_many(self, states: Sequence[State], doing: str = "Solving") -> list[Solution]:
        """The steady state of each of many states, solved together; raises like ``solve``."""
        for state in states:
            check_state(self.build, state)
        return [self.solution(row) for row in self.settle_many(states, doing=doing)]

    def settle(self, state: State) -> Settled:
        """The steady state of a state that is known to fit the build, by element."""
        return self.settle_many([state])[0]

    def settle_many(
        self,
        states: Sequence[State],
        near: Sequence[Settled | None] | None = None,
        doing: str = "Solving",
        going_on: bool = False,
    ) -> list[Settled]:
        """Each of many states by element; raises UnusableInput where one does not settle.

        ``near`` are states whose voltages may be close: in other sizes, or from another supply.
        What had moved there is taken for granted as long as it would move so from rest, and nothing
        else would, so that the answers are the same. ``going_on`` is that of ``try_many``.
        """
        rows = []
        for row in self.try_many(states, near, doing, going_on=going_on):
            if isinstance(row, UnusableInput):
                raise row
            rows.append(row)
        return rows

    def try_many(
        self,
        states: Sequence[State],
        near: Sequence[Settled | None] | None = None,
        doing: str = "Solving",
        changes: Sequence[Change] = (),
        going_on: bool = False,
    ) -> list[Settled | UnusableInput]:
        """Like ``settle_many``, with the reason in place of each state that does not settle.

        ``changes`` says of each state what is otherwise than in the build. ``going_on`` takes what
        had moved in ``near`` as where it comes from: a relay that holds there need not pull in.
        """
        every = Asked(states)
        every.changes = changes
        found: dict[int, Settled | UnusableInput] = {}
        joined = {
            column
            for column, state in enumerate(states)
            if state.meters or (changes and changes[column].joins)
        }
        known = [column for column, row in enumerate(near or ()) if row is not None]
        for columns in told(doing, list(_some(known, joined))):
            found |= (self._going_on if going_on else self._from_near)(every, columns, near or ())
        waiting = [column for column in range(len(states)) if column not in found]
        for columns in told(doing, list(_some(waiting, joined))):
            rested = self._from_rest(every.take(columns))
            found |= dict(zip(columns, rested, strict=True))
        return [found[column] for column in range(len(states))]

    def _from_near(
        self, every: Asked, columns: Sequence[int], near: Sequence[Settled | None]
    ) -> dict[int, Settled | UnusableInput]:
        """The states of these columns from others that may be close, where the same has moved in
        them as would from rest."""
        asked = every.take(columns)
        rows = [row for column in columns if (row := near[column]) is not None]
        moved = np.array([row.moved for row in rows]).T
        near_v = np.array([row.operating.node_v for row in rows]).T
        solved = self._solve_with(asked, moved, near_v, QUICK)
        same = (self._wanted(solved, asked, np.zeros_like(moved)) == moved).all(axis=0)
        return {
            column: Settled(every.states[column], moved[:, number].copy(), point)
            for number, column in enumerate(columns)
            if same[number] and isinstance(point := solved[number], Operating)
        }

    def _going_on(
        self, every: Asked, columns: Sequence[int], near: Sequence[Settled | None]
    ) -> dict[int, Settled | UnusableInput]:
        """The states of these columns as they come of others: what had moved there moves on until
        nothing wants to; those that do not come to an end are left out."""
        rows = [row for column in columns if (row := near[column]) is not None]
        moved = np.array([row.moved for row in rows]).T
        near_v = np.array([row.operating.node_v for row in rows]).T
        asked, waiting = every.take(columns), list(columns)
        found: dict[int, Settled | UnusableInput] = {}
        for _ in range(MOST_GOING_ON):
            solved = self._solve_with(asked, moved, near_v, QUICK)
            wanted = self._wanted(solved, asked, moved)
            again = []
            for number, column in enumerate(waiting):
                point = solved[number]
                if isinstance(point, Operating) and (wanted[:, number] == moved[:, number]).all():
                    found[column] = Settled(every.states[column], moved[:, number].copy(), point)
                elif isinstance(point, Operating):
                    again.append(number)
            if not again:
                break
            waiting = [waiting[number] for number in again]
            asked, moved = asked.take(again), wanted[:, again]
            left = [solved[number] for number in again]
            near_v = np.array([row.node_v for row in left if isinstance(row, Operating)]).T
        return found

    def _from_rest(self, asked: Asked) -> list[Settled | UnusableInput]:
        """Everything at rest, and moved together in each state until none wants to move."""
        found: dict[int, Settled | UnusableInput] = {}
        states = asked.states
        waiting = list(range(len(states)))
        moved = np.zeros((len(self.positions), len(states)), dtype=bool)
        near_v: Matrix | None = None
        seen = {column: [moved[:, column].tobytes()] for column in waiting}
        while waiting:
            solved = self._solve_with(asked, moved, near_v)
            wanted = self._wanted(solved, asked, moved)
            going_on = []
            for number, column in enumerate(waiting):
                row, here = solved[number], wanted[:, number]
                before = seen[column]
                if isinstance(row, NotConverged):
                    found[column] = self._unsettled(row)
                elif (here == moved[:, number]).all():
                    found[column] = Settled(states[column], here.copy(), row)
                elif here.tobytes() in before or len(before) > MOST_MOVES + 2 * len(moved):
                    again = here.tobytes() in before
                    start = before.index(here.tobytes()) if again else len(before) // 2
                    found[column] = self._chase(before[start:])
                else:
                    before.append(here.tobytes())
                    going_on.append(number)
            waiting = [waiting[number] for number in going_on]
            asked, moved = asked.take(going_on), wanted[:, going_on]
            left = [solved[number] for number in going_on]
            near_v = np.array([row.node_v for row in left if isinstance(row, Operating)]).T
        return [found[column] for column in range(len(states))]

    def holds(self, settled: Sequence[Settled], changes: Sequence[Change]) -> Flags:
        """Where each position stays in settled states that it would not come to from rest, by
        position and state."""
        asked = Asked([row.state for row in settled])
        asked.changes = changes
        moved = np.array([row.moved for row in settled]).T
        points = [row.operating for row in settled]
        found: Flags = self._wanted(points, asked, np.zeros_like(moved)) != moved
        return found

    def wire_a(self, settled: Settled) -> Vector:
        """Current of each wire in the order of the build, along it."""
        return settled.operating.element_a[: len(self.build.wires)]

    def fuse_a(self, settled: Settled) -> Vector:
        """Current of each fuse in the order of the build."""
        first = len(self.build.wires)
        return settled.operating.element_a[first : first + len(self.layout.kind("fuse")[0])]

    def carried_a(self, settled: Settled) -> Vector:
        """Current of everything that carries: wires, fuses, contacts and outputs."""
        carried_a: Vector = settled.operating.element_a[self.layout.carrying]
        return carried_a

    def loads_a(self, settled: Settled) -> Vector:
        """Current of each load in the order of the build."""
        load_a: Vector = settled.operating.element_a[self.layout.load_rows]
        return load_a

    def scaled_a(self, settled: Sequence[Settled], share: Vector) -> Matrix:
        """Current of every element in each state if each load drew only its share, by load in the
        order of the build: what heats where loads are on for part of the time."""
        of_element = np.ones(len(self.elements))
        of_element[self.layout.load_rows] = share
        drive = self._drive(
            Asked([row.state for row in settled]), np.array([row.moved for row in settled]).T
        )
        volts, amps = (
            np.array(each).T
            for each in zip(
                *((row.operating.element_v, row.operating.element_a) for row in settled),
                strict=True,
            )
        )
        return self.equations.scaled_a(drive, volts, amps, of_element).T

    def drive_of(self, settled: Settled, change: Change = AS_BUILT) -> Drive:
        """What a settled state with a change in it gives the elements, without what that joins."""
        asked = Asked([settled.state])
        asked.changes = [change]
        return self._drive(asked, settled.moved[:, None])

    def turns(self) -> Flags:
        """Whether each load, in the order of the build, turns, and so the other way round where it
        is fed so."""
        loads = (self.build.parts[load] for load in self.layout.loads)
        return np.array([output_word(load) == "speed" for load in loads], dtype=bool)

    def load_v(self, settled: Settled) -> Vector:
        """Voltage across each load in the order of the build."""
        return settled.operating.element_v[self.layout.load_rows]

    def loads_on(self, settled: Settled) -> frozenset[str]:
        """The loads that are seen to do something."""
        percent = self.layout.load_laws.output_percent(self.load_v(settled))
        rows = zip(self.layout.loads, percent.tolist(), strict=True)
        return frozenset(load for load, share in rows if share >= OFF_PERCENT)

    def battery_a(self, settled: Settled) -> float:
        """Current out of the battery, or into it."""
        return abs(float(settled.operating.element_a[self.layout.source]))

    def battery_v(self, settled: Settled) -> float:
        """Voltage between the terminals of the battery."""
        return float(settled.operating.element_v[self.layout.source])

    def conducting(self, solution: Solution) -> list[Element]:
        """The elements that conduct in a solved state."""
        moved = np.array([[position in solution.closed] for position in self.positions])
        drive = self._drive(Asked([solution.state]), moved.reshape(-1, 1))
        rows = zip(self.elements, self.siemens.tolist(), drive.conducts[:, 0], strict=True)
        return [replace(row, conductance_s=siemens) for row, siemens, closed in rows if closed]

    def _solve_with(
        self, asked: Asked, moved: Flags, near_v: Matrix | None, tries: Tries = PATIENT
    ) -> list[Operating | NotConverged]:
        drive = self._drive(asked, moved)
        joins = [list(self._meters(state)) for state in asked.states]
        for row, change in zip(joins, asked.changes or [AS_BUILT] * len(joins), strict=True):
            row += change.joins
        return self.equations.solve(replace(drive, extra=extra_of(joins)), near_v, tries)

    def _meters(self, state: State) -> Iterator[Join]:
        for red, black in state.meters:
            yield Join(self.node[red], self.node[black], 1 / METER_OHM)

    def _unsettled(self, problem: NotConverged) -> UnusableInput:
        at = next((str(t) for t, node in self.node.items() if node == problem.node), "body")
        return UnusableInput(
            "not-converged",
            at,
            f"The voltages do not settle: at {at}, {problem.residual_a:.3g} A remain. A load "
            "there may ask for more than its feed can give. Check its rating and its wires.",
        )

    def _drive(self, asked: Asked, moved: Flags) -> Drive:
        """Close the contacts that the states close and those that moved, and set the sources."""
        layout, states = self.layout, asked.states
        conducts = self.conducts(asked, moved)
        supplies = [state.supply or battery_supply(self.battery) for state in states]
        siemens, emf_v = self.siemens[:, None] * conducts, self.emf_v[:, None] * conducts
        siemens[layout.source] = [1 / supply.resistance_ohm for supply in supplies]
        emf_v[layout.source] = [supply.emf_v for supply in supplies]
        generated = {name: share(asked.value(name)) for name, share in SHARES.items()}
        generated["engine_rpm"] = generated["engine_rpm"] * asked.alternator_share
        for column, change in enumerate(asked.changes):
            opens = list(change.opens)
            siemens[opens, column] = emf_v[opens, column] = conducts[opens, column] = 0
            for row, ohm in change.ohms.items():
                if siemens[row, column] > 0:
                    siemens[row, column] = 1 / (1 / siemens[row, column] + ohm)
        return Drive(siemens, emf_v, conducts, generated)

    def conducts(self, asked: Asked, moved: Flags) -> Flags:
        """Which elements conduct in states, by element and state, with what has moved in each."""
        if asked.by_hand is None:
            asked.by_hand = np.array([self._at(state) for state in asked.states]).T
        conducts = asked.by_hand.copy()
        rows, closed_by = self._closing
        conducts[rows] |= moved[closed_by]
        for owner in self.layout.resting:
            rest = ~moved[self._moves_of[owner]].any(axis=0)
            conducts[self.layout.rows[owner, "rest"]] |= rest
        return conducts

    def _at(self, state: State) -> Flags:
        """Which elements conduct by the key and the switches, before anything moves by itself."""
        conducts = self._resting_at(state.key).copy()
        for part_id, position in state.switches.items():
            part = self.build.parts[part_id]
            if part.kind != "key switch":
                conducts[self.layout.rows.get((part_id, _rest(part)), [])] = False
                conducts[self.layout.rows.get((part_id, position), [])] = True
        return conducts

    def _resting_at(self, key: str) -> Flags:
        if key not in self._at_rest:
            conducts = self.layout.always.copy()
            for part in self._switches:
                at = position_of(part, State(key))
                conducts[self.layout.rows.get((part.id, at), [])] = True
            self._at_rest[key] = conducts
        return self._at_rest[key]

    def _wanted(
        self, solved: Sequence[Operating | NotConverged], asked: Asked, moved: Flags
    ) -> Flags:
        nowhere = np.zeros(self.node_count)
        each = [nowhere if isinstance(row, NotConverged) else row.node_v for row in solved]
        node_v = np.array(each).T
        wanted = self.movers.wants(np.where(np.isnan(node_v), 0.0, node_v), asked, moved)
        for column, change in enumerate(asked.changes):
            for number, at in change.sticks.items():
                wanted[number, column] = at
        return wanted

    def _chase(self, cycle: list[bytes]) -> UnusableInput:
        moved = np.array([np.frombuffer(row, dtype=bool) for row in cycle])
        to_and_fro = np.flatnonzero(moved.any(axis=0) & ~moved.all(axis=0))
        moving = {self.positions[number][0] for number in to_and_fro}
        kinds = {self.build.parts[part].kind for part in moving}
        names = " and ".join(f"“{self.build.parts[part].name}”" for part in sorted(moving))
        what, own = ("Relay", "coil's feed") if kinds == {"relay"} else ("The loop of", "feed")
        way_out = (
            "Feed the coil from a point that its own contacts do not switch."
            if kinds == {"relay"}
            else "Look for a thin wire, a poor joint or a missing ground in its feed, or feed it "
            "from a point that it does not switch."
        )
        return UnusableInput(
            "relays-never-settle",
            ", ".join(sorted(moving)),
            f"{what} {names} never settles: each time it moves it takes away or gives back its own "
            f"{own}. {way_out}",
        )

    def solution(self, settled: Settled) -> Solution:
        """The figures of a settled state by terminal, wire and part."""
        layout = self.layout
        state, operating = settled.state, settled.operating
        closed = frozenset(
            position for position, at in zip(self.positions, settled.moved, strict=True) if at
        )
        amps, volts = operating.element_a, operating.element_v
        terminal_v = TerminalVolts(self.node, operating.node_v)
        source_v, source_a = float(volts[layout.source]), float(amps[layout.source])
        output_a: dict[Terminal, float] = {}
        for output, amp in zip(
            layout.outputs, np.abs(amps[layout.output_rows]).tolist(), strict=True
        ):
            output_a[output] = max(amp, output_a.get(output, 0.0))
        return Solution(
            state=state,
            terminal_v=terminal_v,
            wire_a=layout.by_owner("wire", amps),
            fuse_a=layout.by_owner("fuse", amps),
            contact_a=layout.largest("contact", amps),
            output_a=output_a,
            part_a={
                owner: amp
                for kind in THROUGH_PARTS
                for owner, amp in layout.by_owner(kind, amps).items()
            },
            loads=self._readings(state, volts, amps),
            relays={
                owner: RelayReading((owner, PULLED_IN) in closed, coil_v)
                for owner, coil_v in layout.by_owner("coil", volts).items()
            },
            flashers=self._flashers(closed, volts, amps),
            meters_v=tuple(
                None if red_v is None or black_v is None else red_v - black_v
                for red_v, black_v in (
                    (terminal_v[red], terminal_v[black]) for red, black in state.meters
                )
            ),
            battery_v=source_v,
            battery_a=0.0 - source_a,
            closed=closed,
            residual_a=operating.residual_a,
            power_mismatch=_power_mismatch(operating),
            iterations=operating.iterations,
        )

    def _readings(self, state: State, volts: Vector, amps: Vector) -> dict[str, LoadReading]:
        layout = self.layout
        load_v, load_a = volts[layout.load_rows], amps[layout.load_rows]
        percent = layout.load_laws.output_percent(load_v)
        columns = (load_v.tolist(), load_a.tolist(), percent.tolist())
        return {
            owner: LoadReading(*figures)
            for owner, *figures in zip(layout.loads, *columns, strict=True)
        }

    def _flashers(self, closed: Closed, volts: Vector, amps: Vector) -> dict[str, FlasherReading]:
        """What each flasher does with the load behind it."""
        return {
            owner: FlasherReading(
                abs(amp), flasher_works(self.build.parts[owner], amp, (owner, LIT) in closed)
            )
            for owner, amp in self.layout.by_owner("flasher", amps).items()
        }


def _some(columns: Sequence[int], joined: Collection[int]) -> Iterator[Sequence[int]]:
    """These columns, as many at a time as are solved together; those in which something is joined
    apart, for it costs all that are solved with it."""
    for whether in (False, True):
        alike = [column for column in columns if (column in joined) is whether]
        for first in range(0, len(alike), TOGETHER):
            yield alike[first : first + TOGETHER]


class _Layout:
    """Where each kind of element stands among the elements, and which rows each contact closes."""

    def __init__(self, elements: list[Element], moving: Iterable[str]) -> None:
        self.always = np.array([row.position is None for row in elements])
        self.rows: dict[tuple[str, str], list[int]] = {}
        self.kinds: dict[str, tuple[list[str], npt.NDArray[np.int_]]] = {}
        by_kind: dict[str, list[int]] = {}
        for at, row in enumerate(elements):
            by_kind.setdefault(row.kind, []).append(at)
            if row.position is not None:
                self.rows.setdefault((row.owner, row.position), []).append(at)
        for kind, rows in by_kind.items():
            self.kinds[kind] = [elements[at].owner for at in rows], np.array(rows)
        self.resting = {owner for owner in moving if (owner, "rest") in self.rows}
        self.loads, self.load_rows = self.kind("load")
        self.load_laws = LawTable([elements[at].law for at in self.load_rows])
        self.outputs = [_output(elements[at]) for at in by_kind.get("output", ())]
        self.output_rows = np.array(by_kind.get("output", ()), dtype=int)
        self.source = int(self.kind("source")[1][0])
        carrying = [rows for kind, (_, rows) in self.kinds.items() if kind in CARRIES]
        self.carrying = np.concatenate([np.array([], dtype=int), *carrying])

    def kind(self, kind: str) -> tuple[list[str], npt.NDArray[np.int_]]:
        """Owners and rows of the elements of a kind, in the order of the build."""
        return self.kinds.get(kind, ([], np.array([], dtype=int)))

    def by_owner(self, kind: str, figures: Vector) -> dict[str, float]:
        """The figures of the elements of a kind, by their part or wire."""
        owners, rows = self.kind(kind)
        return dict(zip(owners, figures[rows].tolist(), strict=True))

    def largest(self, kind: str, figures: Vector) -> dict[str, float]:
        """The largest figure, without sign, of the elements of a kind by their part."""
        owners, rows = self.kind(kind)
        most: dict[str, float] = {}
        for owner, figure in zip(owners, np.abs(figures[rows]).tolist(), strict=True):
            most[owner] = max(most.get(owner, 0.0), figure)
        return most


def _rest(part: Part) -> str:
    return part.contacts.positions[0].name if part.contacts else ""


def _output(element: Element) -> Terminal:
    name = (element.position or "").removesuffix(on("")).removesuffix(low(""))
    return Terminal(element.owner, name)


def _power_mismatch(operating: Operating) -> float:
    """Share of the source's power that is not found again in the other elements and in itself."""
    delivered_w = -float(operating.emf_v @ operating.element_a)
    dissipated_w = float((operating.element_v - operating.emf_v) @ operating.element_a)
    return abs(delivered_w - dissipated_w) / max(abs(delivered_w), 1e-3)
