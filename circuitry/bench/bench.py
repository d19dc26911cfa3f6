"""A sized build under power through time.

What the bench is in follows from the build and the script alone: time passes in steps that the
build chooses, short after something has moved and long while nothing does, and ends a step early
only where something is done. Looking (``peek``) changes nothing, so that it does not matter how
often anybody looks.

What settles with time follows its own law over a step, by the exponential rule of second order
(Hochbruck and Ostermann, “Exponential integrators”, Acta Numerica 2010, 2.5 and 3.1): exact where a
rate is linear in its state, and stable for whatever length of step; what of it was not linear is
taken from the step before, and is the measure of the error.
"""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from circuitry.bench.circuit import Circuit, Point
from circuitry.bench.happening import Happening
from circuitry.bench.meters import LEAD_FUSE, LISTENS, PROBE_BREAKER_A
from circuitry.bench.moment import Moment, moment_from
from circuitry.bench.readings import Frame, frame_of, reading_of
from circuitry.bench.rig import Rig
from circuitry.bench.script import Action
from circuitry.bench.sound import Expected, expected
from circuitry.bench.standins import WORKS_PERCENT, to_next_edge
from circuitry.bench.tape import Event
from circuitry.bench.working import Doing
from circuitry.design.state import State
from circuitry.devices.fuse import Melting
from circuitry.devices.laws import formula
from circuitry.errors import UnusableInput
from circuitry.network.equations import Element, Vector
from circuitry.network.network import Change, Settled, Solution
from circuitry.sizing.result import Sizing

FIRST_STEP_S, LONGEST_STEP_S, SHORTEST_STEP_S = 1e-3, 60.0, 1e-5
LOCATES_S = 0.004
"""How exactly the moment is found at which a slow change makes something move."""
TOLERANCE = 0.01
"""Of rated speed, warmth or melting: what one step may be wrong by."""
WARMS_BY_K = 400.0
"""A step in which a wire warms by a hundredth of this is as long as it may be."""
RAMP_STEPS = 20
ENGINE_STEP_S, TRAVEL_STEP_S = 0.1, 0.5
MOST_AT_ONCE = 200
"""Moves at one instant, after which what still moves is left for the next."""


@dataclass(frozen=True)
class _Trial:
    """Where a step would lead, and how far it would be wrong against what is allowed."""

    moment: Moment
    point: Point
    error: float


class Bench(Circuit):
    """A build at the bench. ``moment`` is where it stands, ``tape`` what has happened so far."""

    def __init__(self, sizing: Sizing) -> None:
        self.tape: list[Event] = []
        self._next: tuple[Point, float, float] | None = None
        """The step that was worked out last, with the point and the time that it is from."""
        self.alive_s: dict[str, float] = {}
        """When a switch last had volts, for whoever looks."""
        super().__init__(sizing)
        network = self.rig.network
        battery = network.battery.number("state_of_charge", 1.0)
        charges = [
            self.build.parts[name].number("state_of_charge", battery)
            for name in self.rig.live.batteries
        ]
        self.moment = Moment(
            t_s=0.0,
            step_s=FIRST_STEP_S,
            moved=np.zeros(len(network.positions), dtype=bool),
            at=self.rig.live.lags.rest(),
            curve=np.zeros(self.rig.live.lags.count),
            wire_c=self.heats.air_c.copy(),
            charge=np.array(charges),
            near_v=np.zeros(network.node_count),
            cams=dict.fromkeys(self.rig.around.cams, 0.0),
            travels=dict.fromkeys(self.rig.around.travels, 0.5),
        )
        self.point = self._solved(self.moment)
        self._happen()

    def run(self, to_s: float) -> None:
        """Let time pass, in whole steps of the build's own, as far as one ends by then."""
        while self.moment.t_s + (step_s := self.next_step_s()) <= to_s:
            self._advance(step_s)

    def run_to(self, to_s: float) -> None:
        """Let time pass until exactly then, as for something that is done then."""
        self.run(to_s)
        while to_s - self.moment.t_s > SHORTEST_STEP_S / 2:
            self._advance(min(self.next_step_s(), to_s - self.moment.t_s))
        self.moment.t_s = self.moment.memory.now_s = max(self.moment.t_s, to_s)

    def act(self, action: Action) -> None:
        """Do something when its time has come; raises UnusableInput where it cannot be done, and
        is then as if nobody had tried."""
        before = self.moment.copy(), self.point, len(self.tape)
        try:
            self.run_to(action.at_s)
            Doing(self, action).do()
        except UnusableInput:
            self.moment, self.point, told = before
            del self.tape[told:]
            raise
        self.rewire()
        self._begin_small()
        self.point = self._solved(self.moment)
        self._happen()

    def rewire(self) -> None:
        """Take over the wiring that the faults of the moment have, with all that has settled."""
        rig = self._rig_for(self.moment.faults)
        if rig is self.rig:
            return
        before, self.rig = self.rig, rig
        moment = self.moment
        at = rig.live.lags.rest()
        for pair, number in rig.lag_of.items():
            if pair in before.lag_of:
                at[number] = moment.at[before.lag_of[pair]]
        moved = np.zeros(len(rig.network.positions), dtype=bool)
        for pair, number in rig.position_number.items():
            if pair in before.position_number:
                moved[number] = moment.moved[before.position_number[pair]]
        moment.at, moment.moved, moment.due = at, moved, {}
        moment.curve = np.zeros(len(at))
        moment.near_v = np.zeros(rig.network.node_count)

    def peek(self, at_s: float) -> tuple[Moment, Point]:
        """What would be at a time if nothing were done until then, at most one step on."""
        ahead_s = at_s - self.moment.t_s
        if ahead_s <= SHORTEST_STEP_S:
            return self.moment, self.point
        trial = self._trial(min(ahead_s, self.next_step_s()))
        return trial.moment, trial.point

    def snapshot(self) -> dict[str, Any]:
        """The moment as plain JSON values."""
        return self.moment.as_document()

    def restore(self, document: Mapping[str, Any]) -> None:
        """Go on from a snapshot of the same build."""
        self.moment = moment_from(document, self.build)
        self.rig = self._rig_for(self.moment.faults)
        self.point = self._solved(self.moment)

    # steps

    def next_step_s(self) -> float:
        """The longest step from here that the build allows."""
        moment, known = self.moment, self._next
        if known is None or known[:2] != (self.point, moment.t_s):
            step_s = min(moment.step_s, LONGEST_STEP_S, *self._until_next())
            known = self._next = self.point, moment.t_s, max(step_s, SHORTEST_STEP_S)
        return known[2]

    def _until_next(self) -> Iterator[float]:
        """How long it is until something is due, or is about to part, trip, turn or stop."""
        moment, rig = self.moment, self.rig
        yield LONGEST_STEP_S
        for due_s, _ in moment.due.values():
            yield due_s - moment.t_s
        for event_s in Happening(self).scheduled():
            yield event_s - moment.t_s
        rates = self.point.rates
        for number in rig.parting_lags[rates[rig.parting_lags] > 0].tolist():
            yield max(float((1 - moment.at[number]) / rates[number]), SHORTEST_STEP_S)
        melts = self._lead_melts(moment, self.point)
        if melts > 0:
            yield max((1 - moment.lead_at) / melts, SHORTEST_STEP_S)
        for pair, since_s in moment.ramps.items():
            if moment.t_s < since_s + rig.ramps[pair].seconds:
                yield rig.ramps[pair].seconds / RAMP_STEPS
        for cam, angle in moment.cams.items():
            speed = self.cam_speed(cam)
            if speed > 0.02:
                yield max(to_next_edge(angle) / speed, 1e-3)
        for load, position in moment.travels.items():
            speed = self.travel_speed(load)
            left = (1 - position) if speed > 0 else position
            if abs(speed) > 0.01 and left > 0:
                yield max(left / abs(speed), 1e-3)
        if moment.engine.changes and "engine_rpm" not in moment.values:
            yield ENGINE_STEP_S

    def _advance(self, step_s: float) -> None:
        """One step that is exact enough, at most this long."""
        while True:
            trial = self._trial(step_s)
            moves = self._new_wants(trial) and step_s > LOCATES_S
            if step_s <= SHORTEST_STEP_S or (trial.error <= 1 and not moves):
                break
            shrunk = 0.9 / math.sqrt(trial.error) if trial.error > 1 else 0.25
            least_s = LOCATES_S if moves and trial.error <= 1 else SHORTEST_STEP_S
            step_s = max(step_s * min(max(shrunk, 0.1), 0.5), least_s)
        grown = 0.9 / math.sqrt(trial.error) if trial.error > 0 else 4.0
        self.moment, self.point = trial.moment, trial.point
        self.moment.step_s = min(step_s * min(max(grown, 0.3), 4.0), LONGEST_STEP_S)
        self._happen()

    def _new_wants(self, trial: _Trial) -> bool:
        """Whether something wants to move at the end of a step that did not at its start."""
        wanted = self.wanted(trial.moment, trial.point)
        moving = np.flatnonzero(wanted != trial.moment.moved)
        return any(number not in self.moment.due for number in moving.tolist())

    def _trial(self, step_s: float) -> _Trial:
        """Where a step of this length leads."""
        before, point = self.moment, self.point
        after = before.ahead(step_s)
        z = point.slopes * step_s
        phi1, phi2 = _phis(z)
        ahead = step_s * phi1 * point.rates + step_s**2 * phi2 * before.curve
        lags = self.rig.live.lags
        after.at = lags.stepped(before.at, before.at + ahead)
        self._hold_what_is_blocked(after)
        self._carry(after, point, step_s)
        solved = self._solved(after, point)
        bent = solved.rates - point.rates - point.slopes * (after.at - before.at)
        bent[(solved.rates == 0) & (solved.slopes == 0)] = 0.0  # what has come to a stop stays
        off = step_s * phi2 * (bent - step_s * before.curve)
        after.curve = bent / step_s
        error = float(np.abs(off).max(initial=0.0)) / TOLERANCE
        warmed_k = np.abs(after.wire_c - before.wire_c).max(initial=0.0)
        error = max(error, (warmed_k / WARMS_BY_K / TOLERANCE) ** 2)
        return _Trial(after, solved, error)

    def _carry(self, after: Moment, point: Point, step_s: float) -> None:
        """Warm the wires, drain the batteries, turn engine, cams and windows over a step."""
        heats, rig = self.heats, self.rig
        amps = self.wire_amps(point, after)
        end_c = heats.air_c + heats.rise_k_per_a2 * amps**2
        after.wire_c = end_c + (after.wire_c - end_c) * np.exp(-step_s / heats.tau_s)
        drawn_a = point.operating.element_a[rig.live.battery_rows]
        charge = after.charge + drawn_a * step_s / 3600 / rig.capacity_ah
        after.charge = np.minimum(np.maximum(charge, 0.0), 1.0)
        after.lead_at = max(after.lead_at + step_s * self._lead_melts(after, point), 0.0)
        around = rig.around
        starter = max((self.percent(load) for load in around.starters), default=0.0)
        fed = (after.engine.rpm > 0 or starter > 0) and (
            all(self.percent(load) >= WORKS_PERCENT for load in around.needs)
            if around.needs
            else after.key in ("run", "crank")
        )
        fan = max((self.percent(load) for load in around.fans), default=0.0)
        after.engine = after.engine.after(step_s, starter, fed, fan, around.air_c)
        for cam in after.cams:
            after.cams[cam] = (after.cams[cam] + self.cam_speed(cam) * step_s) % 1.0
        for load in after.travels:
            moved = after.travels[load] + self.travel_speed(load) * step_s
            after.travels[load] = min(max(moved, 0.0), 1.0)

    def _hold_what_is_blocked(self, after: Moment) -> None:
        """Stop motors that cannot turn, and those at their end stops on the way out."""
        effects = self.effects(after)
        for load in effects.stalled:
            after.at[self.rig.lag_of[load, ""]] = 0.0
        for load, position in after.travels.items():
            number = self.rig.lag_of[load, ""]
            outward = after.at[number] > 0 if position >= 1 else after.at[number] < 0
            if outward and not 0 < position < 1:
                after.at[number] = 0.0

    # what is read of a moment

    def percent(self, load: str) -> float:
        """Light, speed or power of a load in % of rated."""
        number = self.rig.lag_of.get((load, ""))
        law = self.rig.law_of[load]
        if number is not None:
            return float(law.output_at(self.moment.at[number]))  # type: ignore[attr-defined]
        row = self.rig.row_of["load", load]
        if abs(self.point.operating.element_a[row]) < 1e-5:
            return 0.0
        return float(law.output_percent(self.point.operating.element_v[row]))

    def cam_speed(self, cam: str) -> float:
        """How fast the cam of a wiper turns, in turns a second."""
        motors = self.rig.around.cams[cam]
        return sum(turns * abs(self._speed(load)) for load, turns in motors.items())

    def travel_speed(self, load: str) -> float:
        """How fast a window or a lock moves, in travels a second."""
        return self._speed(load) / self.rig.around.travels[load]

    def _speed(self, load: str) -> float:
        number = self.rig.lag_of.get((load, ""))
        return 0.0 if number is None else float(self.moment.at[number])

    # the network at a moment

    def _lead_melts(self, moment: Moment, point: Point) -> float:
        """How fast the fuse of a jumper or the breaker of a probe melts, per second."""
        meter = moment.meters.get("lead")
        if meter is None or meter.kind in ("bench supply", LISTENS):
            return 0.0
        law = Melting(LEAD_FUSE, meter.limit_a or PROBE_BREAKER_A)
        return float(law.rate(self.lead_amps(moment, point), moment.lead_at))

    def _hold_peaks(self) -> None:
        """Note the largest that each meter has shown since it was put on."""
        for name, meter in self.moment.meters.items():
            if meter.kind in ("clamp", "voltmeter"):
                value = reading_of(self, self.moment, self.point, name).value or 0.0
                held = self.moment.peaks.get(name, 0.0)
                self.moment.peaks[name] = max(held, value, key=abs)

    def solution(self) -> Solution:
        """The moment as a solution of the network, for fall lines."""
        moment = self.moment
        supply = self._supply(moment)
        state = State(moment.key, self.positions_of(moment), supply, values=self.values_of(moment))
        settled = Settled(state, moment.moved, self.point.operating)
        return self.rig.network.solution(settled)

    def expected(self, moment: Moment) -> dict[str, Expected]:
        """What each voltmeter and clamp would show on the sound car in this state."""
        meters = {
            name: meter
            for name, meter in moment.meters.items()
            if meter.kind in ("voltmeter", "clamp")
        }
        sound = self._rig_for({})
        car = sound.around.positions(self._engine(moment), moment.cams)
        car |= {p.id: "hot" if p.id in moment.hot else "cold" for p in sound.around.thermostats}
        values = {name: round(value, -1) for name, value in self.values_of(moment).items()}
        state = State(moment.key, {**car, **moment.switches}, values=values)
        charge = round(float(moment.charge[0]), 2)
        told_ohm = {row: float(f"{ohm:.2g}") for row, ohm in self.senders_ohm(moment).items()}
        key = (state, charge, meters, told_ohm)
        if self._expected is None or self._expected[0] != key:
            change = Change(ohms=dict(_more_ohm(sound, told_ohm)))
            found = expected(sound.network, meters, state, charge, change) if meters else {}
            self._expected = (key, found)
        return self._expected[1]

    def elements_now(self) -> list[Element]:
        """The elements that conduct at the moment, with their figures, and what is joined to them:
        for a netlist."""
        instant = self.instant(self.moment)
        held = self.rig.live.held_elements(instant.siemens, instant.emf_v, self._laws(self.moment))
        conducting = [row for row, on in zip(held, instant.conducts, strict=True) if on]
        joins = [
            Element("joined", "beside the build", row.node_a, row.node_b, row.siemens, row.emf_v)
            for row in instant.joins
        ]
        return [*conducting, *joins]

    def positions_changed(self, moment: Moment) -> bool:
        """Whether the car has moved a sensor since the moment was solved."""
        return self._by_hand is None or self._by_hand[0][2] != self.positions_of(moment)

    def frame(self, at_s: float) -> Frame:
        """What is to be shown of a time, at most one step on from where the bench stands."""
        self.run(at_s)
        return frame_of(self, *self.peek(at_s))

    def _begin_small(self) -> None:
        """After something has moved at once, begin with a short step and without a past."""
        self.moment.step_s = FIRST_STEP_S
        self.moment.curve = np.zeros(len(self.moment.curve))

    def _happen(self) -> None:
        """Let everything happen that is due now, until nothing more does."""
        self._hold_peaks()
        for _ in range(MOST_AT_ONCE):
            if not Happening(self).now():
                return
            self._begin_small()
            self.point = self._solved(self.moment, self.point)
            self._hold_peaks()


@formula(1, 2)
def _phis(z: Vector, phi1: Vector, phi2: Vector) -> None:
    """``(e^z − 1)/z`` and ``(e^z − 1 − z)/z²``."""
    if abs(z) < 1e-4:
        phi1[0], phi2[0] = 1 + z / 2 + z**2 / 6, 0.5 + z / 6
    else:
        grown = np.expm1(z)
        phi1[0], phi2[0] = grown / z, (grown - z) / z**2


def _more_ohm(rig: Rig, told_ohm: Mapping[str, float]) -> Iterator[tuple[int, float]]:
    """What the elements of senders have more than in the build, in Ω, by their rows."""
    for sender, ohm in told_ohm.items():
        row = rig.row_of["sender", sender]
        yield row, ohm - 1 / float(rig.network.siemens[row])
