"""What boxes and modules share: pins with functions, and outputs that conditions switch."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from typing import Any

import numpy as np

from circuitry.design.logic import (
    BUS_LOST,
    LIT,
    At,
    Beyond,
    Literal,
    holds,
    names_in,
    positions_in,
    spoken,
    ways_to_hold,
)
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.device import Around, Branch, Condition, Crossing, Device, Need
from circuitry.devices.hearing import (
    ANALOGUE,
    BUTTON,
    INPUT,
    PULL_UP_OHM,
    PULLED_UP_V,
    SWITCH,
    VALUE,
    Source,
    buses_of,
    heard_by,
    is_analogue,
    joined,
    rotary_volts,
)
from circuitry.devices.moving import ASLEEP_V, Asked, Closed, Flags, Mover, Nodes, Volts, awake

AWAKE = "awake"
HIGH_SIDE_MOHM = 20.0
LOW_SIDE_MOHM = 30.0
CHANNEL_MOHM = 5.0
INPUT_OHM = 10_000.0
BUS_OHM = 30_000.0
SENSOR_SUPPLY_V = 5.0
SENSOR_SUPPLY_OHM = 1.0
SENSOR_GROUND_S = 100.0
"""Typical figures of electronics: what an output loses, what an input draws."""
INPUT_SHARE = 0.5
"""Of its supply: above it an input counts as fed."""
BOOTS_S, SWITCHES_S = 0.25, 0.002
"""How long electronics take to begin to work once they are fed, and to switch an output; typical.
"""
LEFT_FUNCTIONS = {"supply", "input", "input to ground", ANALOGUE, "low side", "sensor ground"}


class Electronics(Device):
    """Channels and outputs, each on while its condition holds and the thing is fed."""

    is_shared = True

    def supply(self, part: Part) -> tuple[str, str] | None:
        """The terminals between which it is fed; None when it has not got both."""
        raise NotImplementedError

    def logic(self, part: Part) -> tuple[str, str] | None:
        """The terminals between which its logic is fed, where that is not what it switches."""
        return self.supply(part)

    def bridges(self, part: Part) -> frozenset[str]:
        """The outputs that lie at ground while they are not on: half-bridges."""
        return frozenset()

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        ends, logic = self.supply(part), self.logic(part)
        if ends is None or logic is None:
            return
        supply, ground = ends
        bridges = self.bridges(part)
        for way in part.ways:
            if way.joined:
                continue
            mohm = CHANNEL_MOHM / (1 + sum(row.joined == way.name for row in part.ways))
            yield _output(part, supply, way.name, way.name, mohm, way.when)
            if way.when and way.name in bridges:
                at_rest = Crossing(needs=(output_owner(part, way.name), low(way.name)))
                siemens = 1000 / CHANNEL_MOHM
                yield Branch("output", way.name, ground, siemens, None, 0.0, low(way.name), at_rest)
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
                    yield Branch("electronics", logic[0], name, 1 / PULL_UP_OHM)
                case "analogue input":
                    siemens = 1 / PULL_UP_OHM
                    yield Branch("regulator", name, ground, siemens, None, PULLED_UP_V, AWAKE)
                case "bus":
                    yield Branch("electronics", name, ground, 1 / BUS_OHM)
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

    def needs(self, part: Part, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        if self.supply(part):
            bridges = self.bridges(part)
            for name, condition in outputs_of(part):
                owner = output_owner(part, name)
                yield (owner, on(name)), tuple(self._needs(part, condition, build))
                if name in bridges:
                    yield (owner, low(name)), tuple(self._needs(part, f"not ({condition})", build))

    def _needs(self, part: Part, condition: str, build: Build) -> Iterator[Need]:
        """One need for each set of literals that makes the condition true; it must be fed too."""
        supply, ground = self.supply(part) or ("", "")
        logic, _ = self.logic(part) or ("", "")
        heard = heard_by(build, part)
        for literals in ways_to_hold(condition):
            plus = [Terminal(part.id, name) for name in dict.fromkeys((supply, logic))]
            minus = [Terminal(part.id, ground)]
            positions: dict[str, str] = {}
            for literal in literals:
                if not _ask(build, literal, literals, heard, plus, minus, positions):
                    break
            else:
                yield Need(tuple(plus), tuple(minus), positions)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        for part in parts:
            if self.supply(part) is not None:
                yield _Outputs(self, part, node, build)

    def is_left(self, part: Part, name: str) -> bool:
        functions = {pin.name: pin.function for pin in part.pins}
        return name == "feed" or functions.get(name) in LEFT_FUNCTIONS


def _ask(
    build: Build,
    literal: Literal,
    literals: Sequence[Literal],
    heard: Mapping[str, Source],
    plus: list[Terminal],
    minus: list[Terminal],
    positions: dict[str, str],
) -> bool:
    """Add what one of some literals asks for to the terminals to lead and the positions; False
    where it can never be, or not with what is asked already."""
    name, wanted = literal
    source = heard.get(name)
    if source is None or not source.told:
        return wanted is False or (isinstance(wanted, At) and not wanted.wanted)
    teller = teller_of(build, source) if source.via else None
    ends = logic_of(teller) if teller is not None else None
    if teller is not None and ends is not None and wanted:
        plus.append(Terminal(teller.id, ends[0]))
        minus.append(Terminal(teller.id, ends[1]))
    if source.kind == INPUT and is_analogue(build, source):
        wanting = [row for asked, row in literals if asked == name and isinstance(row, Beyond)]
        return _turned_to(build, source, wanting, positions)
    if source.kind == INPUT:
        if wanted:
            pins = {pin.name: pin.function for pin in build.parts[source.part].pins}
            (plus if pins[source.pin] == "input" else minus).append(
                Terminal(source.part, source.pin)
            )
            return True
        return _let_go(build, Terminal(source.part, source.pin), positions)
    if source.kind == VALUE:
        return positions.setdefault(name, f"{wanted:g}") == f"{wanted:g}"
    if source.kind == SWITCH:
        names = [row.name for row in build.parts[source.part].contacts.positions]  # type: ignore[union-attr]
        if isinstance(wanted, At):
            fits = [at for at in names if (spoken(at) == wanted.position) == wanted.wanted]
        else:
            fits = names[1:][::-1] if wanted else names[:1]
        before = positions.get(source.part)
        if before is not None:
            return before in fits
        positions.update(dict.fromkeys([source.part] if fits else [], fits[0] if fits else ""))
        return bool(fits)
    return wanted is False


def _turned_to(
    build: Build, source: Source, wanting: Sequence[Beyond], positions: dict[str, str]
) -> bool:
    """Ask for a position of a rotary in which an analogue input has such volts; False where none
    has, or another is asked for already."""
    for switch, volts in rotary_volts(build, Terminal(source.part, source.pin)).items():
        fits = [at for at, here in volts.items() if all(row.holds(here) for row in wanting)]
        return bool(fits) and positions.setdefault(switch, fits[0]) in fits
    return True


def _let_go(build: Build, pin: Terminal, positions: dict[str, str]) -> bool:
    """Ask for positions in which no switch that is led to an input closes on it; False where what
    is asked already closes one."""
    point = joined(build)
    for switch in build.parts.values() if pin in point else ():
        table = switch.contacts
        if table is None:
            continue
        here = {n for n in table.terminals if point.get(Terminal(switch.id, n)) == point[pin]}
        here -= {table.common}
        closes = {
            row.name: any(table.common in group and here & set(group) for group in row.joins)
            for row in table.positions
        }
        at = positions.get(switch.id, table.positions[0].name)
        if not closes[at]:
            continue
        opens = next((name for name, closed in closes.items() if not closed), None)
        if switch.id in positions or opens is None:
            return False
        positions[switch.id] = opens
    return True


def _output(part: Part, first: str, last: str, name: str, mohm: float, when: str) -> Branch:
    crossing = Crossing(needs=(output_owner(part, name), on(name))) if when else None
    return Branch("output", first, last, 1000 / mohm, position=on(name), crossing=crossing)


class _Outputs(Mover):
    """Outputs are on while their condition holds and the part is fed; a half-bridge that is not on
    lies at ground."""

    def __init__(self, device: Electronics, part: Part, node: Nodes, build: Build) -> None:
        self._part, self._build, self._node = part, build, node
        self._ends = {part.id: self._nodes_of(part)}
        rows = outputs_of(part)
        bridges = device.bridges(part)
        self._conditions = [condition for _, condition in rows]
        self._bridges = [number for number, (name, _) in enumerate(rows) if name in bridges]
        self.positions = [
            (part.id, AWAKE),
            *((part.id, on(name)) for name, _ in rows),
            *((part.id, low(rows[number][0])) for number in self._bridges),
        ]
        asked = {name for condition in self._conditions for name in names_in(condition)}
        heard = heard_by(build, part)
        self._sources = {name: heard[name] for name in sorted(asked) if name in heard}
        self._at = {pair for condition in self._conditions for pair in positions_in(condition)}
        self._buses = [bus.id for bus in buses_of(build) if part.id in bus.members]
        self._speaks = {row.id: self._speaker(row) for row in self._tellers()}

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        supply, ground = self._ends[self._part.id]
        working = awake(volts[supply] - volts[ground], closed[0]) & ~asked.lost(self._part.id)
        wanted = np.zeros((len(self.positions), volts.shape[1]), dtype=bool)
        wanted[0] = working
        if not self._conditions:
            return wanted
        known: dict[str, Any] = {LIT: asked.lit_of(self._part.id)}
        for name, source in self._sources.items():
            known |= self._known(name, source, volts, asked)
        for row, condition in enumerate(self._conditions, 1):
            wanted[row] = working & holds(condition, known, asked.memory, self._part.id)
        for row, number in enumerate(self._bridges, 1 + len(self._conditions)):
            wanted[row] = working & ~wanted[1 + number]
        return wanted

    def delays_s(self) -> tuple[Sequence[float], Sequence[float]]:
        more = len(self.positions) - 1
        return [BOOTS_S, *[SWITCHES_S] * more], [SWITCHES_S] * (more + 1)

    def _known(self, name: str, source: Source, volts: Volts, asked: Asked) -> dict[str, Any]:
        """What is known of a name in each state."""
        if name == BUS_LOST:
            lost = [asked.lost(bus) for bus in self._buses]
            none = np.ones(volts.shape[1], dtype=bool)
            return {name: np.logical_or.reduce(lost) if lost else none}
        hears = self._hears(source, volts, asked)
        if source.kind == VALUE:
            return {name: np.where(hears, asked.value(name), np.nan)}
        if source.kind == INPUT and source.part not in self._ends:
            return {name: hears & False}
        if source.kind == INPUT:
            supply, ground = self._ends[source.part]
            pin = self._node[Terminal(source.part, source.pin)]
            functions = {row.name: row.function for row in self._build.parts[source.part].pins}
            supply_v = volts[supply] - volts[ground]
            high = volts[pin] - volts[ground] >= INPUT_SHARE * supply_v
            if functions[source.pin] == ANALOGUE:
                return {name: np.where(hears, volts[pin] - volts[ground], np.nan)}
            active = high if functions[source.pin] == "input" else ~high
            return {name: active & hears}
        switch = self._build.parts[source.part]
        found = {name: ~asked.at(switch, 0) & hears}
        for of, position in self._at:
            names = [spoken(row.name) for row in switch.contacts.positions]  # type: ignore[union-attr]
            if of == name and position in names:
                at = names.index(position)
                found[f"{name} is {position}"] = asked.at(switch, at) & hears
        return found

    def _hears(self, source: Source, volts: Volts, asked: Asked) -> Flags:
        """Whether what tells is there: fed, and neither it nor the bus lost."""
        hears = np.full(volts.shape[1], source.told)
        if source.via:
            hears &= ~asked.lost(source.via)
        teller = teller_of(self._build, source)
        if teller is not None and teller.id != self._part.id:
            hears &= ~asked.lost(teller.id)
            ends = self._speaks.get(teller.id)
            if ends is None:
                hears[:] = False
            else:
                hears &= volts[ends[0]] - volts[ends[1]] >= ASLEEP_V
        return hears

    def _tellers(self) -> list[Part]:
        found = (teller_of(self._build, source) for source in self._sources.values())
        return [part for part in found if part is not None]

    def _speaker(self, part: Part) -> tuple[int, int] | None:
        if supply_of(part) is None:
            return None
        self._ends.setdefault(part.id, self._nodes_of(part))
        return self._ends[part.id]

    def _nodes_of(self, part: Part) -> tuple[int, int]:
        supply, ground = logic_of(part) or ("", "")
        return self._node[Terminal(part.id, supply)], self._node[Terminal(part.id, ground)]


def lit_buttons(build: Build, closed: Closed) -> dict[str, str]:
    """The buttons of keypads whose lamp is lit, and its colour: something that the button asks for
    is on, and the keypad is awake to show it."""
    lit: dict[str, str] = {}
    for part in build.parts.values():
        for name, condition in outputs_of(part) if (part.id, AWAKE) in closed else ():
            if (part.id, on(name)) not in closed:
                continue
            heard = heard_by(build, part)
            for asked in names_in(condition):
                button = build.parts.get(heard[asked].part) if asked in heard else None
                if button is not None and button.kind == BUTTON and button.housed:
                    colour = str(button.figures.get("lamp", "none"))
                    if colour != "none" and (button.housed.unit, AWAKE) in closed:
                        lit[button.id] = colour
    return lit


def teller_of(build: Build, source: Source) -> Part | None:
    """The part that tells a source: of a button its keypad, of a switch nobody."""
    part = build.parts.get(source.part)
    if part is not None and source.kind == SWITCH:
        return build.parts[part.housed.unit] if part.housed and source.via else None
    return part


def supply_of(part: Part) -> tuple[str, str] | None:
    """The terminals between which a box or module is fed; None where it has not got both, or is
    neither."""
    from circuitry.devices.registry import device_of  # which knows this module

    device = device_of(part)
    return device.supply(part) if isinstance(device, Electronics) else None


def logic_of(part: Part) -> tuple[str, str] | None:
    """The terminals between which the logic of a box or module is fed."""
    from circuitry.devices.registry import device_of  # which knows this module

    device = device_of(part)
    return device.logic(part) if isinstance(device, Electronics) else None


def on(output: str) -> str:
    """The position of a box or module in which this output of it is on."""
    return f"{output} on"


def low(output: str) -> str:
    """The position in which a half-bridge lies at ground."""
    return f"{output} low"


def output_owner(part: Part, name: str) -> str:
    """What the condition of an output is known by; several outputs of a box can be on at once."""
    return f"{part.id}.{name}"


def outputs_of(part: Part) -> list[tuple[str, str]]:
    """Name and condition of each channel of a module and each output of a box that has one."""
    channels = [(way.name, way.when) for way in part.ways if way.when]
    return channels + [(pin.name, pin.when) for pin in part.pins if pin.when]
