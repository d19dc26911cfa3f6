"""What a car is in at a step of its proof, and what sound ones of its kind would read there.

Every figure is the solver's, on the sized build in a cold garage. A band spans what a sound car may
read: its battery as measured today or from half charged to just charged, loads within a tenth of
their rating, joints and contacts from new to worn, and what the meter itself is out by.
"""

import math
from collections import deque
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import Literal

from circuitry.bench.sound import with_battery
from circuitry.design.logic import VALUES
from circuitry.design.model import Build, Terminal
from circuitry.design.state import State, Supply
from circuitry.devices.battery import battery_supply
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.network.elements import EXACT, Tolerance
from circuitry.network.equations import Join
from circuitry.network.network import Change, Settled

HALF_CHARGED_V, JUST_CHARGED_V = 12.4, 12.9
SINCE_MEASURED_V = 0.05
"""What a battery at rest may have lost or gained since it was measured today."""
LOAD_SPREAD, WORN_JOINTS = 0.1, 4.0
COLD_SPREAD = 0.4
"""What loads may differ by when they are measured cold, by a meter's milliamp."""
METER_V, METER_A, METER_OHM = 0.02, 0.05, 0.2
"""The last digit of an ordinary meter, and the resistance of its leads; typical."""
CLAMP_SHARE = 0.02
OHMS_V, OHMS_OHM, LEAK_S = 1.0, 1000.0, 1e-9
OPEN_OHM = 10e3
"""Above this a meter's bleep and most builders say that it is open."""
RESOLUTION = {
    "volts": METER_V,
    "lamp": METER_V,
    "amps": METER_A,
    "draw": METER_A,
    "supply": 0.01,
    "leak": 0.002,
}
SOURCES = ("battery", "second battery")

Kind = Literal["volts", "amps", "draw", "supply", "leak", "ohms", "wire", "lamp"]


@dataclass(frozen=True)
class Situation:
    """Key, switches and values; what feeds the car where its battery does not; the parts and wires
    that are out; and pairs of terminals that are joined by this many Ω."""

    key: str = "off"
    at: frozenset[tuple[str, str]] = frozenset()
    supply: Supply | None = None
    out: frozenset[str] = frozenset()
    joined: tuple[tuple[Terminal, Terminal, float], ...] = ()

    def state(self, supply: Supply) -> State:
        """As the network has it."""
        values = {name: float(at) for name, at in self.at if name in VALUES}
        switches = {name: at for name, at in self.at if name not in VALUES}
        return State(self.key, switches, supply, values=values)


@dataclass(frozen=True)
class Probe:
    """What is measured: volts between two terminals, amps in a wire by a clamp either way round,
    what the battery gives (``draw``; ``leak`` by a meter in its lead), what a bench supply gives in
    place of it, ohms between two terminals with every battery off, or of a loose wire from end to
    end, or volts across the lamp in the battery's negative lead."""

    kind: Kind
    red: Terminal | None = None
    black: Terminal | None = None
    wire: str | None = None

    @property
    def unit(self) -> str:
        """V, A or Ω."""
        return {"volts": "V", "lamp": "V", "ohms": "Ω", "wire": "Ω"}.get(self.kind, "A")


@dataclass(frozen=True)
class Band:
    """A reading to expect and the limits between which it is sound; ``expected`` None is open, and
    ``high`` None has no limit."""

    expected: float | None
    low: float
    high: float | None

    def verdict(self, reading: float | None) -> str:
        """``in band``, ``too low`` or ``too high``; None reads open."""
        if reading is None:
            return "in band" if self.high is None else "too high"
        if reading < self.low:
            opposite = -reading >= self.low > 0 and (self.high is None or -reading <= self.high)
            return "the wrong way round" if opposite else "too low"
        return "too high" if self.high is not None and reading > self.high else "in band"


@dataclass(frozen=True)
class Today:
    """What is known of the car as it stands: volts of its battery at rest where they were measured,
    parts that are not there yet, and positions in which a jumper stands in for a switch."""

    battery_v: float | None = None
    missing: frozenset[str] = frozenset()
    jumpered: frozenset[tuple[str, str]] = field(default_factory=frozenset)


class Sound:
    """Sound cars of one build, at the corners of what may differ among them."""

    def __init__(self, build: Build, today: Today) -> None:
        self.build = build
        self.today = today
        self.supply = battery_supply(build.parts_of_kind("battery")[0])
        if today.battery_v is not None:
            self.supply = Supply(today.battery_v, self.supply.resistance_ohm)
        self._wire_number = {wire: number for number, wire in enumerate(build.wires)}

    @cached_property
    def network(self) -> Network:
        """The build as designed."""
        return _networks(self.build)[0]

    def bands(self, asked: Sequence[tuple[Situation, Probe]]) -> list[Band | UnusableInput]:
        """The band of each probe in its situation, or why the situation does not settle."""
        kinds: list[dict[tuple[Situation, Probe | None], list[Settled | UnusableInput]]] = []
        for by_ohms in (False, True):
            rows = [
                (situation, probe if by_ohms else None)
                for situation, probe in asked
                if (probe.kind == "ohms") is by_ohms and probe.kind != "wire"
            ]
            unique = list(dict.fromkeys(rows))
            kinds.append(dict(zip(unique, self._settled(unique), strict=True)))
        found: list[Band | UnusableInput] = []
        for situation, probe in asked:
            if probe.kind == "wire":
                found.append(self._loose(probe.wire or ""))
                continue
            by_ohms = probe.kind == "ohms"
            corners = kinds[by_ohms][situation, probe if by_ohms else None]
            refused = next((row for row in corners if isinstance(row, UnusableInput)), None)
            found.append(refused or self._band(probe, situation, corners))
        return found

    def _loose(self, wire: str) -> Band:
        """Ohms of a wire with both ends off: what the networks have it as."""
        row = self._wire_number[wire]
        return _ohms_band([1 / float(network.siemens[row]) for network in _networks(self.build)])

    def settled(self, situations: Sequence[Situation]) -> list[Settled | UnusableInput]:
        """Each situation as designed."""
        states = [row.state(row.supply or self.supply) for row in situations]
        changes = [self.change(row) for row in situations]
        return self.network.try_many(states, changes=changes)

    def charging_v(self, situation: Situation, charge: float) -> float | None:
        """Volts at the battery while it is charged, at this charge; None where that does not
        settle."""
        state, change = situation.state(self.supply), self.change(situation)
        try:
            return with_battery(self.network, state, charge, change).battery_v
        except UnusableInput:
            return None

    def _settled(
        self, rows: Sequence[tuple[Situation, Probe | None]]
    ) -> list[list[Settled | UnusableInput]]:
        """As designed first, then at each corner, by row."""
        changes = [self.change(*row) for row in rows]
        corners: list[list[Settled | UnusableInput]] = []
        near: list[Settled | None] | None = None
        for network, emf_v in zip(_networks(self.build), self._emfs_v(), strict=True):
            battery = Supply(emf_v, self.supply.resistance_ohm)
            states = [situation.state(situation.supply or battery) for situation, _ in rows]
            corners.append(network.try_many(states, near, changes=changes))
            near = [row if isinstance(row, Settled) else None for row in corners[0]]
        return [list(row) for row in zip(*corners, strict=True)]

    def _emfs_v(self) -> tuple[float, ...]:
        low_v, high_v = HALF_CHARGED_V, JUST_CHARGED_V
        if self.today.battery_v is not None:
            low_v = self.today.battery_v - SINCE_MEASURED_V
            high_v = self.today.battery_v + SINCE_MEASURED_V
        return self.supply.emf_v, low_v, low_v, high_v, high_v

    def change(self, situation: Situation, ohms: Probe | None = None) -> Change:
        """What a situation has otherwise than the build; for an ohmmeter, every battery off."""
        change = Change()
        out = set(situation.out | self.today.missing)
        node = self.network.node
        if ohms is not None and ohms.red is not None and ohms.black is not None:
            out |= {part.id for part in self.build.parts_of_kind(*SOURCES)}
            red, black = node[ohms.red], node[ohms.black]
            change.joins.append(Join(red, black, 1 / OHMS_OHM, OHMS_V))
            change.joins.append(Join(black, self.network.reference, LEAK_S))
        for owner in out:
            change.opens |= set(self.network.rows_of.get(owner, ()))
        for first, last, ohm in situation.joined:
            change.joins.append(Join(node[first], node[last], 1 / ohm))
        return change

    def _band(
        self, probe: Probe, situation: Situation, corners: Sequence[Settled | UnusableInput]
    ) -> Band:
        readings = [self.reads(probe, row) for row in corners if isinstance(row, Settled)]
        if probe.kind == "ohms":
            return _ohms_band(readings)
        figures = [reading or 0.0 for reading in readings]
        low, high = min(figures), max(figures)
        resolution = RESOLUTION[probe.kind]
        if probe.unit == "A":
            resolution += CLAMP_SHARE * max(abs(low), abs(high))
        least = -math.inf if probe.kind == "volts" and low < -resolution else 0.0
        return _short(figures[0], max(low - resolution, least), high + resolution)

    def reads(self, probe: Probe, row: Settled) -> float | None:
        """What is read; None where it floats or is open."""
        operating, network = row.operating, self.network
        if probe.kind == "amps":
            return abs(float(operating.element_a[self._wire_number[probe.wire or ""]]))
        source = network.layout.source
        if probe.kind in ("draw", "supply", "leak"):
            return 0.0 - float(operating.element_a[source])
        if probe.kind == "lamp":
            return float(operating.emf_v[source] - operating.element_v[source])
        assert probe.red is not None
        assert probe.black is not None
        ends = (network.node[end] for end in (probe.red, probe.black))
        red_v, black_v = (float(operating.node_v[node]) for node in ends)
        if red_v != red_v or black_v != black_v:
            return None
        if probe.kind == "volts":
            return red_v - black_v
        amps = (OHMS_V - (red_v - black_v)) / OHMS_OHM
        return None if amps < OHMS_V / 20e6 else (red_v - black_v) / amps


def _ohms_band(readings: Sequence[float | None]) -> Band:
    """Open, or from what is least to what is most with loads cold; a small figure has no least, for
    a meter cannot tell it from its own leads."""
    known = [reading for reading in readings if reading is not None]
    if len(known) < len(readings) or min(known) > OPEN_OHM:
        return Band(None, OPEN_OHM, None)
    low, high = min(known) * (1 - COLD_SPREAD) - METER_OHM, max(known) * (1 + COLD_SPREAD)
    return _short(known[0], max(low, 0.0), math.ceil(10 * (high + METER_OHM)) / 10)


def _short(expected: float, low: float, high: float) -> Band:
    """A band to a tenth of a millivolt, or of a milliamp: no meter shows more."""
    return Band(round(expected, 4) + 0.0, round(low, 4) + 0.0, round(high, 4))


_laid_out: deque[tuple[Build, tuple[Network, ...]]] = deque(maxlen=2)
"""The last builds of which something was asked, the newest last."""


def _networks(build: Build) -> tuple[Network, ...]:
    """The build as designed; then with loads that take less and more, in worn joints and in new
    ones. Laid out once for all that is asked of a build; not kept with it, which they hold, or both
    would stay until somebody looks for garbage."""
    for known, networks in tuple(_laid_out):
        if known is build:
            return networks
    networks = tuple(Network(build, tolerance=tolerance) for tolerance in _tolerances())
    _laid_out.append((build, networks))
    return networks


def _tolerances() -> Iterator[Tolerance]:
    yield EXACT
    for joints in (WORN_JOINTS, 1.0):
        for current in (1 - LOAD_SPREAD, 1 + LOAD_SPREAD):
            yield Tolerance(current, joints)
