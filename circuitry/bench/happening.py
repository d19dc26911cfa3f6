"""What happens at an instant: relays move, flashers beat, fuses part, channels trip."""

import math
import random
from collections.abc import Iterator
from typing import TYPE_CHECKING

import numpy as np

from circuitry.bench.faults import Fault
from circuitry.bench.meters import LISTENS, SUPPLY_V
from circuitry.bench.moment import Clock, Trip
from circuitry.bench.standins import COLD_AT_C, HOT_AT_C
from circuitry.bench.tape import Event
from circuitry.design.logic import FLASHES_PER_MIN
from circuitry.design.model import Part
from circuitry.devices.alternator import CHARGING
from circuitry.devices.electronics import AWAKE
from circuitry.devices.flasher import TEST_V, beat_s
from circuitry.devices.module import trips
from circuitry.devices.relay import PULLED_IN

if TYPE_CHECKING:
    from circuitry.bench.bench import Bench

SOON_S = 1e-9
COPPER_MELTS_C = 1083.0
BREAKER_RESETS_S = 12.0
"""How long an automatic breaker takes to cool and close again; typical."""
AUTO_RESET = "breaker auto-reset"
FLASHES_ABOVE_A = 0.04
COMES_S = 0.02
"""What a flasher's contact has at most to close."""
WARM_S = 0.14
"""After which a flasher's lamps have settled enough to tell its beat by."""
LAMP_MISSING = 0.7
"""A module that feeds less than this share of what its lamps take beats twice as fast."""
TOUCHES_S, LEAVES_S = (0.05, 0.4), (0.4, 3.0)
CHATTERS = 6
"""Moves of a relay within a second, from which they are told as one thing."""
SHORTS = ("short to ground", "short to wire", "chafe")


class Happening:
    """What happens at the moment of a bench."""

    def __init__(self, bench: "Bench") -> None:
        self._bench = bench
        self._moment = bench.moment
        self._rig = bench.rig

    def scheduled(self) -> Iterator[float]:
        """When something will happen by the clock."""
        moment = self._moment
        for owner, clock in moment.clocks.items():
            if not clock.idle:
                yield clock.since_s + self._beat(owner)[0 if clock.lit else 1]
        yield from (trip.again_s for trip in moment.tripped.values())
        yield from moment.reset_s.values()
        yield from (next_s for next_s, _ in moment.chafes.values())
        now_s = moment.t_s
        yield from (until for until in moment.memory.until_s.values() if until > now_s)

    def now(self) -> bool:
        """Let the first thing happen that is due; False when nothing was."""
        return (
            self._flip()
            or self._beats()
            or self._melt()
            or self._trip()
            or self._chafe()
            or self._lead()
            or self._car()
        )

    def tell(self, kind: str, what: str, *of: str, why: str = "") -> None:
        """Put something on the tape."""
        self._bench.tape.append(Event(self._moment.t_s, kind, what, why, of))

    def _name(self, part: str) -> str:
        return self._bench.build.parts[part].name

    # contacts that move by themselves

    def _flip(self) -> bool:
        moment, rig = self._moment, self._rig
        wanted = self._bench.wanted(moment, self._bench.point)
        differ = set(np.flatnonzero(wanted != moment.moved).tolist())
        for number in [number for number in moment.due if number not in differ]:
            del moment.due[number]
        for number in differ:
            if number not in moment.due:
                delays = rig.closes_s if wanted[number] else rig.opens_s
                delay_s = 0.0 if number in self._bench.effects(moment).sticks else delays[number]
                moment.due[number] = moment.t_s + float(delay_s), bool(wanted[number])
        due = [n for n, (due_s, _) in moment.due.items() if due_s <= moment.t_s + SOON_S]
        for number in due:
            _, to = moment.due.pop(number)
            moment.moved[number] = to
            owner, position = rig.network.positions[number]
            self._ramp(owner, position, to)
            self._told_move(owner, position, to)
        return bool(due)

    def _ramp(self, owner: str, position: str, to: bool) -> None:
        pair = owner, position
        if pair in self._rig.ramps:
            if to:
                self._moment.ramps[pair] = self._moment.t_s
            else:
                self._moment.ramps.pop(pair, None)
        if not to and pair in self._moment.tripped:
            del self._moment.tripped[pair]  # switched off and on again, it tries again

    def _told_move(self, owner: str, position: str, to: bool) -> None:
        name = self._name(owner)
        if position == PULLED_IN:
            latest = [e for e in self._bench.tape[-40:] if e.of == (owner,) and e.kind == "relay"]
            recent = [e for e in latest if e.t_s > self._moment.t_s - 1.0]
            if len(recent) == CHATTERS:
                self.tell("relay", f"{name} chatters", owner)
            elif len(recent) < CHATTERS:
                self.tell("relay", f"{name} {'pulls in' if to else 'drops out'}", owner)
        elif position == CHARGING:
            self.tell("charge", f"{name} {'charges' if to else 'no longer charges'}", owner)
        elif position == AWAKE:
            why = "" if to else "too few volts between its supply and its ground"
            self.tell("box", f"{name} {'wakes' if to else 'drops out'}", owner, why=why)

    # flashers

    def _beats(self) -> bool:
        moment = self._moment
        happened = False
        for owner in (*self._rig.flashers, *self._rig.flashing):
            clock = moment.clocks.get(owner, Clock())
            lit_s, dark_s = self._beat(owner)
            after = self._next(owner, clock, lit_s, dark_s)
            if after is not None:
                moment.clocks[owner] = after
                happened |= after.lit != clock.lit
        return happened

    def _next(self, owner: str, clock: Clock, lit_s: float, dark_s: float) -> Clock | None:
        """The clock of a flasher where it changes."""
        now_s = self._moment.t_s
        if not clock.lit:
            return Clock(True, now_s, False) if now_s + SOON_S >= clock.since_s + dark_s else None
        if not clock.idle and now_s < clock.since_s + COMES_S:
            return None  # its contact is on its way
        if not self._feeds(owner):
            self._moment.peaks.pop(f"beat {owner}", None)
            self._moment.peaks.pop(f"told {owner}", None)
            return None if clock.idle else Clock()
        if clock.idle:
            return Clock(True, now_s, False)
        self._told_beat(owner, clock, lit_s, dark_s)
        return Clock(False, now_s, False) if now_s + SOON_S >= clock.since_s + lit_s else None

    def _told_beat(self, owner: str, clock: Clock, lit_s: float, dark_s: float) -> None:
        """Tell how a flasher beats once its lamps are warm, and again when that changes."""
        if self._moment.t_s < clock.since_s + WARM_S:
            return
        a_minute = round(60 / (lit_s + dark_s))
        if self._moment.peaks.get(f"told {owner}") != a_minute:
            self._moment.peaks[f"told {owner}"] = a_minute
            words = f"flashes {a_minute} a minute" if a_minute else "stays lit"
            self.tell("flasher", f"{self._name(owner)} {words}", owner)

    def _feeds(self, owner: str) -> bool:
        if owner in self._rig.flashing:
            numbers = self._rig.position_number
            return any(self._moment.moved[numbers[owner, at]] for at in self._rig.flashing[owner])
        return self._flasher_a(owner) > FLASHES_ABOVE_A

    def _flasher_a(self, owner: str) -> float:
        row = self._rig.row_of["flasher", owner]
        return abs(float(self._bench.point.operating.element_a[row]))

    def _beat(self, owner: str) -> tuple[float, float]:
        """How long a flasher is lit and dark with what it feeds."""
        part = self._bench.build.parts[owner]
        if part.kind == "flasher":
            clock = self._moment.clocks.get(owner, Clock())
            if clock.lit and not clock.idle:
                self._moment.peaks[f"beat {owner}"] = self._flasher_a(owner) * TEST_V
            return beat_s(part, self._moment.peaks.get(f"beat {owner}", math.inf))
        half_s = 30.0 / FLASHES_PER_MIN
        clock = self._moment.clocks.get(owner, Clock())
        if clock.lit and not clock.idle:
            self._moment.peaks[f"beat {owner}"] = float(self._misses_a_lamp(part))
        return (half_s / 2,) * 2 if self._moment.peaks.get(f"beat {owner}") else (half_s,) * 2

    def _misses_a_lamp(self, part: Part) -> bool:
        """Whether a channel that flashes feeds much less than its lamps take."""
        for at in self._rig.flashing[part.id]:
            expected_a = self._bench.flashed_a.get((part.id, at), 0.0)
            rows = self._rig.rows_of(part.id, at)
            if not rows or not self._moment.moved[self._rig.position_number[part.id, at]]:
                continue
            if abs(self._bench.point.operating.element_a[rows[0]]) < LAMP_MISSING * expected_a:
                return True
        return False

    # what gets too hot

    def _melt(self) -> bool:
        moment, rig = self._moment, self._rig
        happened = False
        melts = (self._bench.point.rates[rig.fuse_lags] > 0).nonzero()[0]
        melting = [rig.fuse_ids[number] for number in melts.tolist()]
        for owner in melting:
            moment.since_s.setdefault(owner, moment.t_s)
        for owner in [o for o in moment.since_s if o in rig.build.parts and o not in melting]:
            del moment.since_s[owner]
        for number in (moment.at[rig.fuse_lags] >= 1 - 1e-6).nonzero()[0].tolist():
            if rig.fuse_ids[number] not in moment.parted:
                self._part(rig.fuse_ids[number])
                happened = True
        for owner, due_s in list(moment.reset_s.items()):
            if due_s <= moment.t_s + SOON_S:
                del moment.reset_s[owner]
                moment.parted.discard(owner)
                moment.at[rig.lag_of[owner, ""]] = 0.0
                self.tell("fuse", f"{self._name(owner)} closes again", owner)
                happened = True
        return self._wires() | happened

    def _part(self, owner: str) -> None:
        moment, part = self._moment, self._bench.build.parts[owner]
        row = self._rig.row_of["fuse", owner]
        amps = abs(float(self._bench.point.operating.element_a[row]))
        took_s = moment.t_s - moment.since_s.pop(owner, moment.t_s)
        rating = self._rig.build.parts[owner].number("rating_a", 0)
        moment.parted.add(owner)
        breaker = (part.catalogue or "").startswith("breaker")
        if part.catalogue == AUTO_RESET:
            moment.reset_s[owner] = moment.t_s + BREAKER_RESETS_S
        verb = "trips" if breaker else "parts"
        what = f"{part.name} {rating:g} A {verb} after {_time(took_s)} at {amps:.0f} A"
        self.tell("fuse", what, owner, why=self._why())

    def _why(self) -> str:
        """What overloads, as far as that may be told."""
        for fault in self._moment.faults.values():
            if not fault.blind and fault.kind in SHORTS:
                return f"short at {self._wire_name(fault)}"
            if not fault.blind and fault.kind == "stalled motor":
                return f"{self._name(fault.of)} cannot turn"
        return ""

    def _wire_name(self, fault: Fault) -> str:
        return self._bench.build.wires[fault.of].label

    def _wires(self) -> bool:
        """Insulation that softens, and copper that melts."""
        moment, bench = self._moment, self._bench
        heats = bench.heats
        happened = False
        for number in np.flatnonzero(moment.wire_c > heats.limit_c).tolist():
            wire = list(bench.build.wires.values())[number]
            at_c = float(moment.wire_c[number])
            for limit_c, words in (
                (float(heats.limit_c[number]), "softens"),
                (float(heats.damage_c[number]), "melts"),
            ):
                mark = f"{wire.id} {words}"
                if at_c > limit_c and mark not in moment.since_s:
                    moment.since_s[mark] = moment.t_s
                    what = f"Insulation of {wire.label} {words} at {at_c:.0f} °C"
                    self.tell("wire", what, wire.id, why=self._why())
            if at_c > COPPER_MELTS_C and wire.id not in moment.parted:
                moment.parted.add(wire.id)
                self.tell("wire", f"{wire.label} burns through", wire.id, why=self._why())
                happened = True
        return happened

    def _trip(self) -> bool:
        moment, rig = self._moment, self._rig
        happened = False
        for number, pair in rig.channels:
            if moment.at[number] >= 1 - 1e-6 and pair not in moment.tripped:
                happened = True
                self._trip_channel(pair)
                moment.at[number] = 0.0
        for pair, trip in list(moment.tripped.items()):
            if trip.again_s <= moment.t_s + SOON_S:
                del moment.tripped[pair]
                moment.peaks[f"tries {pair}"] = trip.tries
                if pair in rig.ramps:
                    moment.ramps[pair] = moment.t_s
                happened = True
        return happened

    def _trip_channel(self, pair: tuple[str, str]) -> None:
        moment, (owner, position) = self._moment, pair
        retries, retry_s, _ = trips(self._bench.build.parts[owner])
        tries = int(moment.peaks.get(f"tries {pair}", 0)) + 1
        gives_up = tries > retries
        again_s = 1e12 if gives_up else moment.t_s + retry_s
        moment.tripped[pair] = Trip(again_s, tries)
        if gives_up:
            moment.peaks.pop(f"tries {pair}", None)
        rows = self._rig.rows_of(owner, position)
        amps = abs(float(self._bench.point.operating.element_a[rows[0]])) if rows else 0.0
        channel = position.removesuffix(" on")
        then = "stays off" if gives_up else f"tries again in {retry_s:g} s"
        what = f"{self._name(owner)} {channel} trips at {amps:.0f} A and {then}"
        self.tell("channel", what, owner, why=self._why())

    # what comes and goes

    def _chafe(self) -> bool:
        moment = self._moment
        ids = {fault.id for fault in moment.faults.values() if fault.kind == "chafe"}
        for gone in set(moment.chafes) - ids:
            del moment.chafes[gone]
            moment.touching.discard(gone)
        happened = False
        for fault in sorted(ids):
            next_s, count = moment.chafes.get(fault, (moment.t_s, 0))
            if next_s > moment.t_s + SOON_S:
                continue
            draw = random.Random(f"{fault} {count}")
            touches = fault not in moment.touching
            (moment.touching.add if touches else moment.touching.discard)(fault)
            moment.chafes[fault] = (
                moment.t_s + draw.uniform(*(TOUCHES_S if touches else LEAVES_S)),
                count + 1,
            )
            happened = True
        return happened

    def _lead(self) -> bool:
        """A jumper's fuse, a probe's breaker, and the current limit of a bench supply."""
        moment, bench = self._moment, self._bench
        meter = moment.meters.get("lead")
        if meter is None or meter.kind == LISTENS or "lead" in moment.parted:
            return False
        amps = bench.lead_amps(moment, bench.point)
        if meter.kind == "bench supply":
            return self._limit(abs(amps), meter.limit_a)
        if moment.lead_at < 1 - 1e-6:
            return False
        moment.parted.add("lead")
        fuse = "fuse of the jumper blows" if meter.kind == "fused jumper" else "probe trips"
        self.tell("meter", f"The {fuse} at {abs(amps):.0f} A")
        return True

    def _limit(self, amps: float, limit_a: float) -> bool:
        moment = self._moment
        if amps > 1.01 * limit_a:
            moment.supply_v *= limit_a / amps
            return moment.supply_v > 1e-3
        if amps < 0.95 * limit_a and moment.supply_v < SUPPLY_V - 1e-6:
            moment.supply_v = min(
                SUPPLY_V, moment.supply_v * min(limit_a / max(amps, 1e-6), 1.5) + 0.01
            )
            return True
        return False

    def _car(self) -> bool:
        """Thermostats, the engine, end stops."""
        moment, bench = self._moment, self._bench
        coolant_c = bench.values_of(moment)["coolant_c"]
        for part in self._rig.around.thermostats:
            if coolant_c >= HOT_AT_C:
                moment.hot.add(part.id)
            elif coolant_c <= COLD_AT_C:
                moment.hot.discard(part.id)
        running = "engine runs" in moment.since_s
        if moment.engine.runs != running:
            if moment.engine.runs:
                moment.since_s["engine runs"] = moment.t_s
            else:
                del moment.since_s["engine runs"]
            self.tell("engine", "Engine starts" if moment.engine.runs else "Engine stops")
        self._stops()
        return bench.positions_changed(moment)

    def _stops(self) -> None:
        for load, position in self._moment.travels.items():
            mark = f"{load} at its stop"
            at_stop = position <= 0 or position >= 1
            if at_stop and mark not in self._moment.since_s:
                self._moment.since_s[mark] = self._moment.t_s
                self.tell("motor", f"{self._name(load)} is at its end stop", load)
            elif not at_stop:
                self._moment.since_s.pop(mark, None)


def _time(seconds: float) -> str:
    return f"{seconds:.2f} s" if seconds >= 0.01 else f"{1000 * seconds:.1f} ms"
