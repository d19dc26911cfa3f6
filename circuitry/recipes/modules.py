"""Functions written on channels of power modules, in place of fuses and relays.

Each channel has a condition; what the condition asks for is led to an input of the module, or told
over a data bus. What safety hangs on is led to the very module that feeds its lamps, so that no bus
can take it along.
"""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import pairwise

from circuitry.design.logic import spoken
from circuitry.design.model import Circuit, Part, Pin, Position, Terminal, Way
from circuitry.design.routes import distance_m
from circuitry.devices.hearing import BUTTON, buses_of, joined
from circuitry.devices.load import rated_current_a
from circuitry.devices.module import (
    FEED,
    GROUND,
    channel_bears_a,
    inputs_of,
    inrush_borne,
    is_bridge,
    limit_for,
    soft_start_for,
    starts_on,
)
from circuitry.errors import UnusableInput
from circuitry.finding import Mend
from circuitry.reach.paths import paths_of
from circuitry.recipes.channels import larger
from circuitry.recipes.job import Job
from circuitry.recipes.protection import fuse_output
from circuitry.recipes.supply import key_switch

BY_FUSES, BY_MODULES = "fuses and relays", "module channels"
HARD_WIRED = ("safety", "critical")
"""What these ask for is led to the module itself, not told over a bus."""
KEY_PINS = {"run": "ignition", "accessory": "accessory"}
MOST_IN_NAME = 24


@dataclass(frozen=True)
class Channel:
    """A channel of a module."""

    module: str
    way: str


class OnModules:
    """One circuit being written on modules: on the one that is given or chosen, or the nearest."""

    def __init__(self, job: Job, module: str | None = None) -> None:
        self.job, self.draft = job, job.draft
        self._taken: set[Channel] = set()
        chosen = job.part("on_module") if job.answers.get("on_module") else None
        self._chosen = chosen.id if chosen else module
        self._joins = "joined" in job.questions and job.flag("joined")
        if not self._modules():
            raise UnusableInput(
                "no-module", "module", "The build has no module. List one in Take stock first."
            )

    def channel(self, *loads: Part | None, bridge: bool = False) -> Channel:
        """A free channel that bears these loads together: the least of the module nearest to the
        first that has or could have one; raises UnusableInput."""
        taken = [load for load in loads if load is not None]
        nearest = sorted(self._near(), key=lambda row: self._far_m(row, taken[0].place))
        # softly, or on two that are joined, only what no channel bears else
        for bearing in (self._bears, self._bears_softly):
            for module in nearest:
                bears = {
                    way.name: channel_bears_a(module, way.name)
                    for way in module.ways
                    if is_bridge(module, way.name) == bridge and bearing(module, way.name, taken)
                }
                free = [way for way in self._free(module) if way.name in bears]
                if free:
                    least = min(free, key=lambda way: bears[way.name])
                    return self._take(module, least, taken)
                if bears and larger(module):
                    raise self._refused(taken, nearest, bridge)
        pairs = (pair for module in nearest for pair in self._pairs(module) if not bridge)
        for module, way in pairs if self._joins else ():
            if self._bears_softly(module, way.name, taken):
                self.draft.parts[module.id] = module
                return self._take(module, way, taken)
        raise self._refused(taken, nearest, bridge)

    def _pairs(self, module: Part) -> Iterator[tuple[Part, Way]]:
        """The module with two free channels of the same kind joined, the least first."""
        plain = [way for way in self._free(module) if not is_bridge(module, way.name)]
        free = sorted(plain, key=lambda way: channel_bears_a(module, way.name))
        for first, second in pairwise(free):
            if channel_bears_a(module, first.name) == channel_bears_a(module, second.name):
                joined = replace(second, joined=first.name)
                ways = tuple(joined if way is second else way for way in module.ways)
                yield replace(module, ways=ways), first

    def _take(self, module: Part, way: Way, loads: Sequence[Part]) -> Channel:
        feed_module(self.job, module)
        limit_a = limit_for(_sum_a(loads), channel_bears_a(module, way.name))
        soft_s = soft_start_for(module, way.name, loads) or 0.0
        self._set(module.id, replace(way, limit_a=limit_a, soft_s=soft_s))
        channel = Channel(module.id, way.name)
        self._taken.add(channel)
        return channel

    def bears(self, loads: Sequence[Part]) -> bool:
        """Whether there is a channel that bears these loads together."""
        return any(self._bears(row, way.name, loads) for row in self._near() for way in row.ways)

    def on(
        self, channel: Channel, when: str, *loads: Part | None, limit_a: float | None = None
    ) -> None:
        """Feed loads from a channel while a condition holds, and ground them; ``limit_a`` where it
        is not to be the usual."""
        module = self.draft.parts[channel.module]
        way = next(row for row in module.ways if row.name == channel.way)
        asked_a = min(limit_a or math.inf, channel_bears_a(module, way.name))
        self._set(module.id, replace(way, when=when, limit_a=asked_a if limit_a else way.limit_a))
        self.job.loads_on(module, channel.way, *loads)

    def grounded(self, switch: Part) -> None:
        """Give a switch that has no feed yet its ground, which is what its inputs look for."""
        if switch.contacts and not self.draft.wires_on(Terminal(switch.id, switch.contacts.common)):
            self.job.ground(switch, switch.contacts.common)

    def beside(self, first: Part, other: Part, terminal: str) -> None:
        """Lead a terminal to what the common terminal of another switch has: feed or ground."""
        if self.draft.wires_on(Terminal(other.id, terminal)) or first.contacts is None:
            return
        if self._is_live(Terminal(first.id, first.contacts.common)):
            self.job.feed(first, first.contacts.common, other, terminal)
        else:
            self.job.ground(other, terminal)

    def told(
        self, channel: Channel, part: Part, terminal: str, common: str = "", called: str = ""
    ) -> str:
        """The name under which a channel's module knows that a switch feeds this terminal of its,
        or an output of a box does; it is led there unless it is already.

        ``common`` is the terminal that the switch takes its feed from where it is not the usual;
        ``called`` is what the input is called where the switch's name would say too much.
        """
        part = self.draft.parts[part.id]
        if part.kind == BUTTON:
            return spoken(part.id)
        common = common or (part.contacts.common if part.contacts else "")
        if common and not self.draft.wires_on(Terminal(part.id, common)):
            self.job.ground(part, common)
        name = self._led(channel, self.job.terminal(part, terminal))
        if name:
            return name
        outputs = [row for row in part.contacts.terminals if row != common] if part.contacts else []
        module = self._hearing(channel.module, part)
        live = common and self._is_live(Terminal(part.id, common))
        words = [word for word in spoken(part.name).split("_") if word != "switch"]
        usual = "-".join(dict.fromkeys(words + ([terminal] if len(outputs) != 1 else [])))
        pin = self._pin(module, called or usual, "input" if live else "input to ground")
        if live:
            self.job.feed(part, terminal, self.draft.parts[module], pin.name)
        else:
            self.job.feed(self.draft.parts[module], pin.name, part, terminal)
        return self._name_of(channel.module, module, pin.name)

    def told_surely(self, channel: Channel, part: Part, terminal: str) -> str:
        """The same by two inputs where the switch has a contact that opens as this one closes: with
        either wire broken, it still holds while it should."""
        told = self.told(channel, part, terminal)
        resting = resting_contact(part, terminal)
        return f"({told} or not {self.told(channel, part, resting)})" if resting else told

    def with_key(self, channel: Channel, key: str, when: str) -> str:
        """A condition that holds only from a key position on."""
        if key == "always":
            return when
        name = self._key(channel, key)
        return f"{name} and {_bracketed(when)}" if when else name

    # inside

    def _is_live(self, terminal: Terminal) -> bool:
        """Whether something feeds a terminal in some position."""
        return paths_of(self.draft.build).key_needed(terminal) is not None

    def _modules(self) -> list[Part]:
        return [part for part in self.draft.parts.values() if part.kind == "module"]

    def _near(self) -> list[Part]:
        """The modules that may be taken: all, or the one that was chosen."""
        return self._modules() if self._chosen is None else [self.draft.parts[self._chosen]]

    def _far_m(self, module: Part, place: str) -> float:
        return distance_m(self.draft.before, module.place, place)

    def _free(self, module: Part) -> list[Way]:
        return [
            way
            for way in module.ways
            if not way.when
            and not way.joined
            and Channel(module.id, way.name) not in self._taken
            and not self.draft.wires_on(Terminal(module.id, way.name))
        ]

    def _bears(self, module: Part, channel: str, loads: Sequence[Part]) -> bool:
        """Whether a channel bears loads, for ever and as they start."""
        lasting = limit_for(_sum_a(loads), channel_bears_a(module, channel))
        return lasting is not None and starts_on(module, channel, loads)[1]

    def _bears_softly(self, module: Part, channel: str, loads: Sequence[Part]) -> bool:
        """The same where it starts them over some time."""
        lasting = limit_for(_sum_a(loads), channel_bears_a(module, channel))
        return lasting is not None and soft_start_for(module, channel, loads) is not None

    def _set(self, module_id: str, way: Way) -> None:
        module = self.draft.parts[module_id]
        ways = tuple(way if row.name == way.name else row for row in module.ways)
        self.draft.parts[module_id] = replace(module, ways=ways)

    def _refused(
        self, loads: Sequence[Part], modules: Sequence[Part], bridge: bool
    ) -> UnusableInput:
        what = "half-bridge" if bridge else "channel"
        named = " and ".join(load.name for load in loads)
        names = ", ".join(module.name for module in modules)
        channels = [
            (module, way.name)
            for module in modules
            for way in module.ways
            if is_bridge(module, way.name) == bridge
        ]
        if not channels and bridge:
            return UnusableInput(
                "no-half-bridge",
                loads[0].id,
                f"{names} cannot turn {named} both ways: no half-bridges. Fit a module that has "
                "them, or leave it on relays.",
            )
        most = max(channels, key=lambda row: channel_bears_a(*row), default=None)
        if most and not self._bears_softly(*most, loads):
            first_a, _ = starts_on(*most, loads)
            return UnusableInput(
                "too-heavy",
                loads[0].id,
                f"{named}: {_sum_a(loads):.1f} A and {first_a:.0f} A at first. No {what} bears "
                f"more than {channel_bears_a(*most):g} A, with a fifth to spare, and "
                f"{inrush_borne(*most)[0]:.0f} A at first. Leave it on a fuse and a relay.",
            )
        return UnusableInput(
            "no-free-channel",
            loads[0].id,
            f"No {what} of {names} is free that bears {named}. Fit a larger module, another one, "
            "or leave it on a fuse and a relay.",
            self._larger(modules),
        )

    def _larger(self, modules: Sequence[Part]) -> tuple[Mend, ...]:
        return tuple(
            Mend(
                f"Make {module.name} a {row[0].lower()}{row[1:]}",
                ({"op": "enlarge_module", "module": module.id},),
            )
            for module in modules
            if (row := larger(module))
        )

    def _led(self, channel: Channel, terminal: Terminal) -> str:
        """The name of an input that this terminal is led to already, and that the module hears."""
        build = self.draft.build
        point = joined(build)
        at = point.get(build.lands(terminal))
        if at is None:
            return ""
        for module in self._ears(channel.module):
            for pin in module.pins:
                if "input" in pin.function and point.get(Terminal(module.id, pin.name)) == at:
                    return self._name_of(channel.module, module.id, pin.name)
        return ""

    def _ears(self, module_id: str) -> list[Part]:
        """The module, and those that tell it over a bus where it may hang on one."""
        mates = []
        if self.job.circuit.criticality not in HARD_WIRED:
            for bus in buses_of(self.draft.build):
                if module_id in bus.members:
                    mates += [row for row in bus.members if row != module_id]
        parts = (self.draft.parts[row] for row in (module_id, *dict.fromkeys(mates)))
        return [part for part in parts if part.kind == "module"]

    def _hearing(self, module_id: str, part: Part) -> str:
        """The module to lead a switch to: the nearest that can tell this one."""
        with_room = [
            row
            for row in self._ears(module_id)
            if sum("input" in pin.function for pin in row.pins) < inputs_of(row)
        ]
        if not with_room:
            module = self.draft.parts[module_id]
            raise UnusableInput(
                "no-free-input",
                module_id,
                f"{module.name} has no input left for {part.name}: it has {inputs_of(module)}. "
                "Fit a larger module, or put the switch on a keypad.",
                self._larger([module]),
            )
        return min(with_room, key=lambda row: self._far_m(row, part.place)).id

    def _pin(self, module_id: str, called: str, function: str) -> Pin:
        module = self.draft.parts[module_id]
        taken = {pin.name for pin in module.pins}
        stem = called[:MOST_IN_NAME].strip("-")
        names = (stem, *(f"{stem[: MOST_IN_NAME - 3]}-{number}" for number in range(2, 99)))
        pin = Pin(next(name for name in names if name not in taken), function)
        self.draft.parts[module_id] = replace(module, pins=(*module.pins, pin))
        return pin

    def _name_of(self, module_id: str, owner: str, pin: str) -> str:
        """What conditions of a module call an input: by its pin, and by its module too where
        another would be meant."""
        name = spoken(pin)
        others = {
            spoken(row.name)
            for part in self._ears(module_id)
            if part.id != owner
            for row in part.pins
        }
        return name if owner == module_id or name not in others else f"{spoken(owner)}_{name}"

    def _key(self, channel: Channel, key: str) -> str:
        called = KEY_PINS[key]
        for module in self._ears(channel.module):
            if any(pin.name == called for pin in module.pins):
                return self._name_of(channel.module, module.id, called)
        module = self.draft.parts[channel.module]
        source = self._key_fuse(called) or fuse_output(self.job.fuse(key, f"Modules, {called}", ""))
        pin = self._pin(module.id, called, "input")
        self.job.feed(source, "", self.draft.parts[module.id], pin.name)
        return spoken(pin.name)

    def cranking(self, channel: Channel) -> str:
        """The name under which a channel's module knows that the starter is asked for: the key's
        terminal for it is led to an input."""
        key = key_switch(self.job)
        return self._led(channel, Terminal(key.id, "50")) or self._fed_from(channel, key)

    def _fed_from(self, channel: Channel, key: Part) -> str:
        pin = self._pin(channel.module, "cranking", "input")
        self.job.feed(key, "50", self.draft.parts[channel.module], pin.name)
        return spoken(pin.name)

    def _key_fuse(self, called: str) -> Terminal | None:
        """What feeds the same input of another module."""
        build = self.draft.build
        point = joined(build)
        fed = {
            point.get(Terminal(part.id, called))
            for part in self._modules()
            if any(pin.name == called for pin in part.pins)
        } - {None}
        outputs = (fuse_output(part) for part in build.parts_of_kind("fuse"))
        return next((row for row in outputs if point.get(row) in fed), None)


def resting_contact(switch: Part, terminal: str) -> str:
    """The terminal that a switch feeds at rest, and lets go of in each position in which it feeds
    another one; empty where it has none."""
    table = switch.contacts
    if table is None:
        return ""

    def fed(at: Position) -> set[str]:
        return {name for names in at.joins if table.common in names for name in names}

    rest, *others = table.positions
    closing = [at for at in others if terminal in fed(at)]
    resting = fed(rest) - {table.common, terminal}
    return next(
        (name for name in sorted(resting) if all(name not in fed(at) for at in closing)), ""
    )


def _sum_a(loads: Sequence[Part]) -> float:
    return sum(rated_current_a(load) for load in loads)


def feed_module(job: Job, module: Part) -> None:
    """Feed a module from the battery over a fuse of its own, and ground it, as a circuit by itself:
    it serves others too."""
    if job.draft.wires_on(Terminal(module.id, FEED)):
        return
    circuit = job.draft.add_circuit(f"{module.name} feed", "feed", "critical")
    feed_wires(job, module, circuit)


def feed_wires(job: Job, module: Part, circuit: Circuit) -> None:
    """Feed a module from the battery over a fuse of its own, and ground it."""
    draft, source = job.draft, job.source_near(module.place)
    place = draft.parts[source.part].place
    fuse = draft.add_part(
        "fuse", f"{module.name} fuse", place, catalogue="bolt-down M5", circuit=circuit.id
    )
    draft.feed(source, Terminal(fuse.id, "in"), circuit)
    draft.feed(Terminal(fuse.id, "out"), Terminal(module.id, FEED), circuit)
    if not draft.wires_on(Terminal(module.id, GROUND)):
        draft.ground(Terminal(module.id, GROUND), circuit, by_ring=True)


def any_of(*names: str) -> str:
    """A condition that holds while one of these does; empty ones count for nothing."""
    return " or ".join(dict.fromkeys(name for name in names if name))


def all_of(*names: str) -> str:
    """A condition that holds while all of these do; empty ones count for nothing."""
    return " and ".join(_bracketed(name) for name in dict.fromkeys(names) if name)


def _bracketed(when: str) -> str:
    outside = re.sub(r"\([^()]*\)", "", re.sub(r"\([^()]*\)", "", when))
    return f"({when})" if " or " in outside else when
