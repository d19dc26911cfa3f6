"""The whole build as a network: solve it for a key and switch state, with its relays settled.

This is the only place where a current or a voltage is computed.
"""

from collections.abc import Iterable, Iterator, Mapping
from copy import copy
from dataclasses import dataclass, replace
from functools import cached_property
from types import MappingProxyType

import numpy as np
import numpy.typing as npt

from circuitry.build.kinds import SWITCH_KINDS
from circuitry.build.model import Build, Terminal
from circuitry.catalogue import catalogue
from circuitry.errors import UnusableInput
from circuitry.network.elements import (
    EXACT,
    Elements,
    Tolerance,
    nodes_of,
    on,
)
from circuitry.network.equations import (
    Drive,
    Element,
    Equations,
    NotConverged,
    Operating,
    Vector,
)
from circuitry.network.laws import Generator, LawTable
from circuitry.network.moving import (
    LIT,
    PULLED_IN,
    Closed,
    alternator_share,
    movers,
)
from circuitry.network.state import (
    State,
    battery_supply,
    check_state,
    position_of,
)

METER_OHM = 10e6
CARRIES = ("wire", "fuse", "contact", "output")
FLASHER_TEST_V = 13.5
LEAST_FLASHED_W = 0.5
MOST_MOVES = 60


@dataclass(frozen=True)
class LoadReading:
    """Voltage across a load, its current, and its light, speed or power in % of rated."""

    volts: float
    amps: float
    output_percent: float


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
    channel of a module; ``part_a`` that of diodes, resistors and alternators. ``closed`` are the
    contacts that moved by themselves. ``residual_a`` is the worst node of Kirchhoff's law,
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


@dataclass(frozen=True)
class Settled:
    """A state in which nothing wants to move any more, its figures still by element."""

    state: State
    closed: Closed
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
        self._make = Elements(build, self.node, tolerance)
        self.node_count = self._make.body_node + 1
        self.elements = [*self._make.sized(), *self._make.fixed()]
        self._emf_v = np.array([row.emf_v for row in self.elements])
        self.movers = movers(build)
        self._switches = build.parts_of_kind(*SWITCH_KINDS)
        self._unsized_siemens = np.array([row.conductance_s for row in self.elements])
        self._conductor_c = conductor_c or {}
        self._layout = _Layout(self.elements, (mover.part.id for mover in self.movers))
        self.equations = Equations(self.elements, self.node_count, self.reference)
        self._tables: dict[float, LawTable] = {}

    def resized(self, conductor_ohm: Vector, ratings_a: Iterable[float]) -> "Network":
        """The same network with other conductors of its wires, in Ω, and other fuses, in A."""
        other = copy(self)
        other._siemens = self._in_sizes(conductor_ohm, ratings_a)
        return other

    @cached_property
    def _siemens(self) -> Vector:
        """The conductance of each element, in the sizes that the build has."""
        ratings_a = [
            part.number("rating_a", 0) if "rating_a" in part.figures else None
            for part in self.build.parts_of_kind("fuse")
        ]
        return self._in_sizes(self._make.conductor_ohm(self._conductor_c), ratings_a)

    def _in_sizes(self, conductor_ohm: Vector, ratings_a: Iterable[float | None]) -> Vector:
        sized = self._make.siemens(conductor_ohm, ratings_a)
        return np.concatenate([sized, self._unsized_siemens[len(sized) :]])

    def solve(self, state: State) -> Solution:
        """The steady state; raises UnusableInput when relays chase each other or nothing settles.

        Everything that moves by itself starts at rest, and all move together until none wants to
        move: a relay at rest pulls in at its pull-in voltage, one that is pulled in drops out at
        its drop-out voltage, an output of a box is on while its condition holds.
        """
        check_state(self.build, state)
        return self.solution(self.settle(state))

    def settle(
        self,
        state: State,
        near: Settled | None = None,
        expected: Mapping[str, str] = MappingProxyType({}),
    ) -> Settled:
        """The steady state of a state that is known to fit the build, by element.

        ``near`` is one whose voltages may be close: in other sizes, from another supply, or with
        little else switched. What had moved there, and relays that are expected to be pulled in by
        the positions of a way, are taken for granted as long as they would move so from rest, and
        nothing else would, so that the answer is the same.
        """
        if near is not None:
            pulled_in = {(part, PULLED_IN) for part, at in expected.items() if at == PULLED_IN}
            closed = near.closed | pulled_in
            operating = self._solve_with(state, closed, near.operating.node_v)
            if self._wanted(operating, state, frozenset()) == closed:
                return Settled(state, closed, operating)
        return self._settle_from_rest(state)

    def wire_a(self, settled: Settled) -> Vector:
        """Current of each wire in the order of the build, along it."""
        return settled.operating.element_a[: len(self.build.wires)]

    def fuse_a(self, settled: Settled) -> Vector:
        """Current of each fuse in the order of the build."""
        first = len(self.build.wires)
        return settled.operating.element_a[first : first + len(self._layout.kind("fuse")[0])]

    def carried_a(self, settled: Settled) -> Vector:
        """Current of everything that carries: wires, fuses, contacts and outputs."""
        carried_a: Vector = settled.operating.element_a[self._layout.carrying]
        return carried_a

    def loads_a(self, settled: Settled) -> Vector:
        """Current of each load in the order of the build."""
        load_a: Vector = settled.operating.element_a[self._layout.load_rows]
        return load_a

    def scaled_a(self, settled: Settled, share: Vector) -> Vector:
        """Current of every element if each load drew only its share, by load in the order of the
        build: what heats where loads are on for part of the time."""
        of_element = np.ones(len(self.elements))
        of_element[self._layout.load_rows] = share
        drive = self._drive(settled.state, settled.closed)
        return self.equations.scaled_a(drive, settled.operating, of_element)

    def load_v(self, settled: Settled) -> Vector:
        """Voltage across each load in the order of the build."""
        return settled.operating.element_v[self._layout.load_rows]

    def battery_a(self, settled: Settled) -> float:
        """Current out of the battery, or into it."""
        return abs(float(settled.operating.element_a[self._layout.source]))

    def battery_v(self, settled: Settled) -> float:
        """Voltage between the terminals of the battery."""
        return float(settled.operating.element_v[self._layout.source])

    def _settle_from_rest(self, state: State) -> Settled:
        closed: Closed = frozenset()
        seen = [closed]
        node_v: Vector | None = None
        while True:
            operating = self._solve_with(state, closed, node_v)
            wanted = self._wanted(operating, state, closed)
            if wanted == closed:
                return Settled(state, closed, operating)
            if wanted in seen or len(seen) > MOST_MOVES + 2 * len(self.movers):
                start = seen.index(wanted) if wanted in seen else len(seen) // 2
                raise self._chase(seen[start:])
            seen.append(wanted)
            closed, node_v = wanted, operating.node_v

    def conducting(self, solution: Solution) -> list[Element]:
        """The elements that conduct in a solved state."""
        drive = self._drive(solution.state, solution.closed)
        rows = zip(self.elements, self._siemens.tolist(), drive.conducts, strict=True)
        return [replace(row, conductance_s=siemens) for row, siemens, closed in rows if closed]

    def _solve_with(self, state: State, closed: Closed, near_v: Vector | None) -> Operating:
        drive, equations = self._drive(state, closed), self.equations
        if state.meters:
            drive, equations = self._with_meters(state, drive)
        try:
            return equations.solve(drive, near_v)
        except NotConverged as problem:
            at = next((str(t) for t, node in self.node.items() if node == problem.node), "body")
            raise UnusableInput(
                "not-converged",
                at,
                f"The voltages do not settle: at {at}, {problem.residual_a:.3g} A remain. A load "
                "there may ask for more than its feed can give. Check its rating and its wires.",
            ) from None

    def _with_meters(self, state: State, drive: Drive) -> tuple[Drive, Equations]:
        """The same with a voltmeter between each pair of probes."""
        meters = [
            Element("meter", "meter", self.node[red], self.node[black], 1 / METER_OHM)
            for red, black in state.meters
        ]
        equations = Equations([*self.elements, *meters], self.node_count, self.reference)
        count = len(meters)
        return Drive(
            np.append(drive.conductance_s, [1 / METER_OHM] * count),
            np.append(drive.emf_v, [0.0] * count),
            np.append(drive.conducts, [True] * count),
            drive.laws,
        ), equations

    def _drive(self, state: State, closed: Closed) -> Drive:
        """Close the contacts that the state closes and those that moved, and set the source."""
        layout = self._layout
        conducts = layout.always.copy()
        for part in self._switches:
            for row in layout.rows.get((part.id, position_of(part, state)), ()):
                conducts[row] = True
        resting = layout.resting - {owner for owner, _ in closed}
        for pair in (*closed, *((owner, "rest") for owner in resting)):
            for row in layout.rows.get(pair, ()):
                conducts[row] = True
        supply = state.supply or battery_supply(self.battery)
        siemens, emf_v = self._siemens * conducts, self._emf_v * conducts
        siemens[-1], emf_v[-1] = 1 / supply.resistance_ohm, supply.emf_v
        rpm = state.values.get("engine_rpm", 0.0) if layout.generators else 0.0
        return Drive(siemens, emf_v, conducts, self._laws(rpm))

    def _laws(self, engine_rpm: float) -> LawTable:
        """The laws of all elements that have one, alternators at this engine speed."""
        table = self._tables.get(engine_rpm)
        if table is None:
            share = alternator_share(engine_rpm)
            laws = [row.law for row in self.elements if row.law]
            for at, law in enumerate(laws):
                if isinstance(law, Generator):
                    laws[at] = replace(law, most_a=law.most_a * share)
            table = self._tables[engine_rpm] = LawTable(laws)
        return table

    def _wanted(self, operating: Operating, state: State, closed: Closed) -> Closed:
        node_v = np.nan_to_num(operating.node_v).tolist()
        node = self.node

        def volts(terminal: Terminal) -> float:
            return float(node_v[node[terminal]])

        return frozenset(
            (mover.part.id, position)
            for mover in self.movers
            for position in mover.wants(volts, state, closed)
        )

    def _chase(self, cycle: list[Closed]) -> UnusableInput:
        moving = {part for part, _ in frozenset().union(*cycle) - frozenset.intersection(*cycle)}
        kinds = {self.build.parts[part].kind for part in moving}
        names = " and ".join(f"“{self.build.parts[part].name}”" for part in sorted(moving))
        what = "Relay" if kinds == {"relay"} else "The loop of"
        return UnusableInput(
            "relays-never-settle",
            ", ".join(sorted(moving)),
            f"{what} {names} never settles: each time it moves it takes away or gives back its own "
            "coil's feed. Feed the coil from a point that its own contacts do not switch.",
        )

    def solution(self, settled: Settled) -> Solution:
        """The figures of a settled state by terminal, wire and part."""
        layout = self._layout
        state, closed, operating = settled.state, settled.closed, settled.operating
        amps, volts = operating.element_a, operating.element_v
        terminal_v = TerminalVolts(self.node, operating.node_v)
        probed = [terminal_v[red] is not None for red, _ in state.meters]
        meters_v = volts[len(self.elements) :].tolist()
        source_v, source_a = float(volts[layout.source]), float(amps[layout.source])
        output_a = dict(zip(layout.outputs, np.abs(amps[layout.output_rows]).tolist(), strict=True))
        return Solution(
            state=state,
            terminal_v=terminal_v,
            wire_a=layout.by_owner("wire", amps),
            fuse_a=layout.by_owner("fuse", amps),
            contact_a=layout.largest("contact", amps),
            output_a=output_a,
            part_a={
                owner: amp
                for kind in ("diode", "resistor", "alternator")
                for owner, amp in layout.by_owner(kind, amps).items()
            },
            loads=self._readings(state, volts, amps),
            relays={
                owner: RelayReading((owner, PULLED_IN) in closed, coil_v)
                for owner, coil_v in layout.by_owner("coil", volts).items()
            },
            flashers=self._flashers(closed, volts, amps),
            meters_v=tuple(v if known else None for v, known in zip(meters_v, probed, strict=True)),
            battery_v=source_v,
            battery_a=0.0 - source_a,
            closed=closed,
            residual_a=operating.residual_a,
            power_mismatch=_power_mismatch(operating),
            iterations=operating.iterations,
        )

    def _readings(self, state: State, volts: Vector, amps: Vector) -> dict[str, LoadReading]:
        layout = self._layout
        load_v, load_a = volts[layout.load_rows], amps[layout.load_rows]
        percent = layout.load_laws.output_percent(load_v)
        columns = (load_v.tolist(), load_a.tolist(), percent.tolist())
        return {
            owner: LoadReading(*figures)
            for owner, *figures in zip(layout.loads, *columns, strict=True)
        }

    def _flashers(self, closed: Closed, volts: Vector, amps: Vector) -> dict[str, FlasherReading]:
        """What each flasher does with the load behind it."""
        readings = {}
        for owner, amp in self._layout.by_owner("flasher", amps).items():
            kind = catalogue().flashers[self.build.parts[owner].catalogue or ""]
            load_w = abs(amp) * FLASHER_TEST_V
            works = "flashing"
            if (owner, LIT) not in closed or load_w < LEAST_FLASHED_W:
                works = "at rest"
            elif load_w < kind.least_w:
                works = "flashing fast" if kind.is_electronic else "stays lit"
            readings[owner] = FlasherReading(abs(amp), works)
        return readings


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
        self.generators = "alternator" in by_kind
        self.source = len(elements) - 1
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


def _output(element: Element) -> Terminal:
    return Terminal(element.owner, (element.position or "").removesuffix(on("")))


def _power_mismatch(operating: Operating) -> float:
    """Share of the source's power that is not found again in the other elements and in itself."""
    delivered_w = -float(operating.emf_v @ operating.element_a)
    dissipated_w = float((operating.element_v - operating.emf_v) @ operating.element_a)
    return abs(delivered_w - dissipated_w) / max(abs(delivered_w), 1e-3)
