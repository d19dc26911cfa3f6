"""What boxes and modules share: pins with functions, and outputs that conditions switch."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

import numpy as np

from circuitry.design.logic import VALUES, holds, spoken, ways_to_hold
from circuitry.design.model import Part, Terminal
from circuitry.devices.device import Around, Branch, Condition, Crossing, Device, Need
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, awake, column

AWAKE = "awake"
HIGH_SIDE_MOHM = 20.0
LOW_SIDE_MOHM = 30.0
CHANNEL_MOHM = 5.0
INPUT_OHM = 10_000.0
PULL_UP_OHM = 1_000.0
SENSOR_SUPPLY_V = 5.0
SENSOR_SUPPLY_OHM = 1.0
SENSOR_GROUND_S = 100.0
"""Typical figures of electronics: what an output loses, what an input draws."""
INPUT_SHARE = 0.5
"""Of its supply: above it an input counts as fed."""
LEFT_FUNCTIONS = {"supply", "input", "input to ground", "low side", "sensor ground"}


class Electronics(Device):
    """Channels and outputs, each on while its condition holds and the thing is fed."""

    is_shared = True

    def supply(self, part: Part) -> tuple[str, str] | None:
        """The terminals between which it is fed; None when it has not got both."""
        raise NotImplementedError

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        ends = self.supply(part)
        if ends is None:
            return
        supply, ground = ends
        for way in part.ways:
            yield _output(part, supply, way.name, way.name, CHANNEL_MOHM, way.when)
        for pin in part.pins:
            name = pin.name
            match pin.function:
                case "high side":
                    yield _output(part, supply, name, name, HIGH_SIDE_MOHM, pin.when)
                case "low side":
                    yield _output(part, name, ground, name, LOW_SIDE_MOHM, pin.when)
                case "input":
                    yield Branch("electronics", name, ground, 1 / INPUT_OHM)
                case "input to ground":
                    yield Branch("electronics", supply, name, 1 / PULL_UP_OHM)
                case "sensor supply":
                    yield Branch(
                        "regulator",
                        name,
                        ground,
                        1 / SENSOR_SUPPLY_OHM,
                        emf_v=SENSOR_SUPPLY_V,
                        position=AWAKE,
                    )
                case "sensor ground":
                    yield Branch("joint", name, ground, SENSOR_GROUND_S, crossing=Crossing())

    def needs(
        self, part: Part, switches: Mapping[str, Part]
    ) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        if self.supply(part):
            for name, condition in outputs_of(part):
                moved = output_owner(part, name), on(name)
                yield moved, tuple(self._needs(part, condition, switches))

    def _needs(self, part: Part, condition: str, switches: Mapping[str, Part]) -> Iterator[Need]:
        """One need for each set of literals that makes the condition true; it must be fed too."""
        supply, ground = self.supply(part) or ("", "")
        pins = {spoken(pin.name): pin for pin in part.pins}
        for literals in ways_to_hold(condition):
            plus, minus = [supply], [ground]
            positions: dict[str, str] = {}
            for name, wanted in literals:
                if name in VALUES:
                    positions[name] = f"{wanted:g}"
                elif name in pins and wanted:
                    (plus if pins[name].function == "input" else minus).append(pins[name].name)
                elif name in switches and (table := switches[name].contacts):
                    positions[switches[name].id] = table.positions[-1 if wanted else 0].name
            yield Need(tuple(plus), tuple(minus), positions)

    def movers(
        self, parts: Sequence[Part], node: Nodes, switches: Sequence[Part]
    ) -> Iterable[Mover]:
        for part in parts:
            ends = self.supply(part)
            if ends is not None:
                yield _Outputs(part, ends, node, switches)

    def is_left(self, part: Part, name: str) -> bool:
        functions = {pin.name: pin.function for pin in part.pins}
        return name == "feed" or functions.get(name) in LEFT_FUNCTIONS


def _output(part: Part, first: str, last: str, name: str, mohm: float, when: str) -> Branch:
    crossing = Crossing(needs=(output_owner(part, name), on(name))) if when else None
    return Branch("output", first, last, 1000 / mohm, position=on(name), crossing=crossing)


class _Outputs:
    """Outputs are on while their condition holds and the part is fed."""

    def __init__(
        self, part: Part, ends: tuple[str, str], node: Nodes, switches: Sequence[Part]
    ) -> None:
        self._supply, self._ground = (node[Terminal(part.id, name)] for name in ends)
        self._conditions = [condition for _, condition in outputs_of(part)]
        self.positions = [(part.id, AWAKE), *((part.id, on(name)) for name, _ in outputs_of(part))]
        inputs = [pin for pin in part.pins if pin.function.startswith("input")]
        self._names = [spoken(pin.name) for pin in inputs]
        self._inputs = np.array([node[Terminal(part.id, pin.name)] for pin in inputs], dtype=int)
        self._high = column(pin.function == "input" for pin in inputs) > 0
        self._switches = switches

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        supply_v = volts[self._supply] - volts[self._ground]
        wanted = np.zeros((len(self.positions), volts.shape[1]), dtype=bool)
        wanted[0] = awake(supply_v, closed[0])
        high = volts[self._inputs] - volts[self._ground] >= INPUT_SHARE * supply_v
        active = (high == self._high).T.tolist()
        if self._conditions:
            for state in np.flatnonzero(wanted[0]).tolist():
                inputs = zip(self._names, active[state], strict=True)
                known = {**asked.known(state, self._switches), **dict(inputs)}
                wanted[1:, state] = [holds(condition, known) for condition in self._conditions]
        return wanted


def on(output: str) -> str:
    """The position of a box or module in which this output of it is on."""
    return f"{output} on"


def output_owner(part: Part, name: str) -> str:
    """What the condition of an output is known by; several outputs of a box can be on at once."""
    return f"{part.id}.{name}"


def outputs_of(part: Part) -> list[tuple[str, str]]:
    """Name and condition of each channel of a module and each output of a box that has one."""
    channels = [(way.name, way.when) for way in part.ways if way.when]
    return channels + [(pin.name, pin.when) for pin in part.pins if pin.when]
