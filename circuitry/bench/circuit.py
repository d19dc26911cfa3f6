"""A sized build at any moment of the bench: what it is wired as, what conducts, and the solved
volts and amps."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any

import numpy as np

from circuitry.bench.asking import LiveAsked
from circuitry.bench.faults import KINDS, Effects, Fault, effects_of, miswired
from circuitry.bench.meters import Meter
from circuitry.bench.moment import Moment
from circuitry.bench.readings import (
    OHMS_OHM,
    OHMS_V,
    joins_of,
    nodes_of,
)
from circuitry.bench.rig import Rig, WireHeats, wire_heats
from circuitry.bench.sound import Expected
from circuitry.bench.standins import Engine
from circuitry.design.state import State, Supply
from circuitry.devices.battery import battery_supply, open_circuit_v
from circuitry.devices.electronics import on
from circuitry.devices.given import SHARES
from circuitry.devices.load import rated_current_a
from circuitry.network.elements import copper_factor
from circuitry.network.equations import Flags, Join, NotConverged, Operating, Vector
from circuitry.network.law_table import LawTable
from circuitry.network.live import Answers, Instant
from circuitry.reach.gauges import Dial, dials
from circuitry.sizing.channels import modules
from circuitry.sizing.result import Sizing


@dataclass(frozen=True, eq=False)
class Point:
    """A moment solved: volts and amps, how fast what settles does and how that goes with itself;
    None for the operating point where the network did not settle."""

    operating: Operating
    rates: Vector
    slopes: Vector
    answers: Answers
    settled: bool = True


class Circuit:
    """A sized build, and what faults, hands and time make of it. Everything is asked of a moment;
    what was worked out last is kept."""

    def __init__(self, sizing: Sizing) -> None:
        self.sizing = sizing
        self.build = sizing.build
        self._by_hand: tuple[tuple[Any, ...], State, Any] | None = None
        self._conducting: tuple[Any, bytes, Flags] | None = None
        self._asked: tuple[Moment, LiveAsked] | None = None
        self._shares: tuple[tuple[float, ...], dict[str, float]] | None = None
        self._effects: tuple[tuple[Any, ...], Effects] | None = None
        self._wanted: tuple[Moment, Point, Any] | None = None
        self._expected: tuple[tuple[Any, ...], dict[str, Expected]] | None = None
        self._rigs: dict[tuple[Fault, ...], Rig] = {}
        self.rig = self._rig_for({})

    @cached_property
    def heats(self) -> WireHeats:
        """How the wires warm."""
        return wire_heats(self.sizing, self.rig.network)

    def _rig_for(self, faults: Mapping[str, Fault]) -> Rig:
        """The network of the build as faults have it wired."""
        wiring = tuple(fault for fault in faults.values() if changes_wiring(fault))
        if wiring not in self._rigs:
            while len(self._rigs) > 8:
                self._rigs.pop(next(iter(self._rigs)))
            self._rigs[wiring] = Rig(miswired(self.build, wiring))
        return self._rigs[wiring]

    @cached_property
    def dials(self) -> list[tuple[int, Dial]]:
        """The gauges that read what a sender tells, after their places among the loads; as their
        faces are marked, whatever they are wired to by a fault."""
        loads = {part.id: row for row, part in enumerate(self.build.parts_of_kind("load"))}
        return [(loads[dial.gauge.id], dial) for dial in dials(self.build)]

    def wire_amps(self, point: Point, moment: Moment) -> Vector:
        """Current of each wire, in the order of the build; the larger of both ends where one
        touches something in its middle."""
        amps: Vector = point.operating.element_a[: len(self.build.wires)].copy()
        effects = self.effects(moment)
        volts = moment.near_v
        for row, (first, last) in effects.taps.items():
            here, there = (
                join.siemens * (volts[join.node_a] - volts[join.node_b])
                for join in (effects.joins[first], effects.joins[last])
            )
            amps[row] = max(amps[row] + here, amps[row] - there, key=abs)
        return amps

    def values_of(self, moment: Moment) -> dict[str, float]:
        """What sensors tell: by hand, else by the engine."""
        told = {"engine_rpm": moment.engine.rpm, "coolant_c": moment.engine.coolant_c}
        return {**told, **moment.values}

    def senders_ohm(self, moment: Moment) -> dict[str, float]:
        """What senders tell in Ω where the build does not say it: by hand, or by the engine."""
        return {**self.rig.around.senders(self._engine(moment)), **moment.senders}

    def positions_of(self, moment: Moment) -> dict[str, str]:
        """The positions of all switches and sensors: by hand, else by the car."""
        car = self.rig.around.positions(self._engine(moment), self.cams_shown(moment))
        for part in self.rig.around.thermostats:
            car[part.id] = "hot" if part.id in moment.hot else "cold"
        return {**car, **moment.switches, **self.effects(moment).switches}

    def _engine(self, moment: Moment) -> Engine:
        """The engine, at the speed and as warm as is set by hand where it is."""
        told, engine = moment.values, moment.engine
        if not told:
            return engine
        rpm, coolant_c = told.get("engine_rpm", engine.rpm), told.get("coolant_c", engine.coolant_c)
        return replace(engine, rpm=rpm, coolant_c=coolant_c)

    def cams_shown(self, moment: Moment) -> dict[str, float]:
        """Where the contact of each wiper thinks that its cam is: half a turn off where the motor
        was fitted out of step."""
        off = {fault.of for fault in moment.faults.values() if fault.kind == "out of step"}
        return {cam: (at + 0.5 * (cam in off)) % 1 for cam, at in moment.cams.items()}

    def asked(self, moment: Moment) -> LiveAsked:
        """The state that a moment puts the build in, as what moves by itself asks after it."""
        lost = frozenset(moment.lost | self.effects(moment).lost)
        positions = self.positions_of(moment)
        key = (self.rig, moment.key, positions, lost)
        known = self._by_hand
        state = known[1] if known and known[0] == key else State(moment.key, positions, lost=lost)
        asked = LiveAsked(state, moment, self.values_of(moment))
        if known and state is known[1]:
            asked.by_hand = known[2]
        else:
            self.rig.network.conducts(asked, moment.moved[:, None])
            self._by_hand = (key, state, asked.by_hand)
        return asked

    def _conducts(self, moment: Moment) -> Flags:
        """What conducts by hand and by what has moved, before any fault."""
        asked = self.asked(moment)
        self._asked = (moment, asked)
        by_hand, moved = asked.by_hand, moment.moved.tobytes()
        kept = self._conducting
        if kept is None or kept[0] is not by_hand or kept[1] != moved:
            found = self.rig.network.conducts(asked, moment.moved[:, None])[:, 0]
            kept = self._conducting = (by_hand, moved, found)
        return kept[2]

    def effects(self, moment: Moment) -> Effects:
        """What faults, parted fuses and pulled parts do to the network at a moment."""
        out = frozenset(moment.pulled | moment.parted)
        key = (self.rig, tuple(moment.faults.values()), frozenset(moment.touching), out)
        if self._effects is None or self._effects[0] != key:
            faults = moment.faults.values()
            touching = frozenset(moment.touching)
            self._effects = (key, effects_of(self.rig.network, faults, touching, out))
        return self._effects[1]

    def wanted(self, moment: Moment, point: Point) -> Any:
        """The positions that everything which moves by itself wants at a moment."""
        if self._wanted is not None and self._wanted[:2] == (moment, point):
            return self._wanted[2]
        if not point.settled:
            return moment.moved
        volts = moment.near_v[:, None]
        kept = self._asked
        asked = kept[1] if kept is not None and kept[0] is moment else self.asked(moment)
        wanted = self.rig.network.movers.wants(volts, asked, moment.moved[:, None])
        wanted = wanted[:, 0]
        for number, moved in self.effects(moment).sticks.items():
            wanted[number] = moved
        self._wanted = (moment, point, wanted)
        return wanted

    def _solved(self, moment: Moment, before: Point | None = None) -> Point:
        """The moment solved, from that before; where it does not settle, it stays as that was."""
        rig = self.rig
        live, network = rig.live, rig.network
        instant = self.instant(moment)
        answers = before.answers if before is not None and before.settled else None
        found, answers = live.solve(instant, self._laws(moment), moment.near_v, answers)
        settled = isinstance(found, Operating)
        if isinstance(found, NotConverged):
            nothing = np.zeros(len(rig.live.elements))
            dead = Operating(np.zeros(network.node_count), nothing, nothing, nothing, 0.0, 0)
            found = before.operating if before is not None else dead
        moment.near_v = np.where(np.isnan(found.node_v), 0.0, found.node_v)
        rates, slopes = live.lags.rates(
            moment.at, found.element_v * instant.conducts, found.element_a
        )
        for number in self._blocked(moment, rates):
            rates[number] = slopes[number] = 0.0
        return Point(found, rates, slopes, answers, settled)

    def _blocked(self, moment: Moment, rates: Vector) -> Iterator[int]:
        """The states of motors that cannot turn, or not further."""
        for load in self.effects(moment).stalled:
            yield self.rig.lag_of[load, ""]
        for load, position in moment.travels.items():
            number = self.rig.lag_of[load, ""]
            outward = rates[number] > 0 if position >= 1 else rates[number] < 0
            if outward and not 0 < position < 1 and moment.at[number] == 0:
                yield number

    def _laws(self, moment: Moment) -> LawTable:
        values = self.values_of(moment)
        told = tuple(values.get(name, 0.0) for name in SHARES)
        if self._shares is None or self._shares[0] != told:
            each = zip(SHARES.items(), told, strict=True)
            self._shares = told, {name: float(share(value)) for (name, share), value in each}
        return self.rig.live.laws_at(moment.charge.tolist(), self._shares[1])

    def instant(self, moment: Moment) -> Instant:
        """What a moment gives the elements."""
        rig, heats = self.rig, self.heats
        network, live = rig.network, rig.live
        effects = self.effects(moment)
        siemens, emf_v = network.siemens.copy(), network.emf_v.copy()
        wires = len(heats.conductor_ohm)
        warm_ohm = heats.conductor_ohm * copper_factor(moment.wire_c)
        siemens[:wires] = 1 / (warm_ohm + heats.joints_ohm)
        siemens[live.lags.held_rows], emf_v[live.lags.held_rows] = live.lags.held(moment.at)
        siemens[live.plain_rows] = live.plain_s
        siemens[network.layout.source] = emf_v[network.layout.source] = 0.0
        for part, ohm in self.senders_ohm(moment).items():
            siemens[rig.row_of["sender", part]] = 1 / ohm
        conducts = self._conducts(moment).copy()
        for number, moved in effects.sticks.items():
            rows = network.layout.rows.get(network.positions[number], [])
            conducts[rows] = moved
        for owner, position in moment.tripped:
            conducts[rig.rows_of(owner, position)] = False
        for row, ohm in effects.ohms.items():
            siemens[row] = 1 / (1 / siemens[row] + ohm)
        if effects.opens:
            conducts[list(effects.opens)] = False
        for pair, since_s in moment.ramps.items():
            ramp = rig.ramps[pair]
            share = min(max((moment.t_s - since_s) / ramp.seconds, 0.02), 1.0)
            feed_v = moment.near_v[ramp.supply] - moment.near_v[ramp.ground]
            emf_v[ramp.row] = (1 - share) * feed_v
        siemens[~conducts] = 0.0
        joins = (*effects.joins, *joins_of(rig, moment))
        return Instant(siemens, emf_v * conducts, conducts, {}, joins)

    def lead_amps(self, moment: Moment, point: Point) -> float:
        """Current in the jumper, probe or supply that is on the car; zero where it has opened."""
        if "lead" not in moment.meters or "lead" in moment.parted:
            return 0.0
        join = joins_of(self.rig, moment)[-1]
        volts = np.nan_to_num(point.operating.node_v)
        return float(join.siemens * (volts[join.node_a] - volts[join.node_b] - join.emf_v))

    def ohms_between(self, moment: Moment, meter: Meter) -> float | None:
        """What an ohmmeter finds between its probes, by a milliamp at most; None where nothing
        joins them."""
        red, black = nodes_of(self.rig, meter)
        instant = self.instant(moment)
        probing = Join(red, black, 1 / OHMS_OHM, OHMS_V)
        probed = replace(instant, joins=(*instant.joins, probing))
        volts: list[float] = []
        for row in (instant, probed):
            found, _ = self.rig.live.solve(row, self._laws(moment), moment.near_v)
            if isinstance(found, NotConverged):
                return None
            node_v = np.nan_to_num(found.node_v)
            volts.append(float(node_v[red] - node_v[black]))
        at_rest, put_on = volts
        amps = (OHMS_V - put_on) / OHMS_OHM
        return None if amps < 1e-8 else (put_on - at_rest) / amps

    @cached_property
    def flashed_a(self) -> dict[tuple[str, str], float]:
        """What the lamps of each channel that flashes take, by part and position."""
        takes_a = {load.name: rated_current_a(load) for load in self.build.parts_of_kind("load")}
        return {
            (line.id, on(row.name)): sum(takes_a[load] for load in row.loads)
            for line in (modules(self.sizing).modules if self.rig.flashing else ())
            for row in line.channels
        }

    def _supply(self, moment: Moment) -> Supply:
        inner_ohm = battery_supply(self.rig.network.battery).resistance_ohm
        return Supply(open_circuit_v(round(float(moment.charge[0]), 2)), inner_ohm)


def changes_wiring(fault: Fault) -> bool:
    """Whether a fault makes another build of it."""
    return KINDS[fault.kind].miswires is not None
