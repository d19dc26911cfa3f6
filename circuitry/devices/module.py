"""A power module: channels that switch and guard loads without a relay or a fuse."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from circuitry.catalogue import Module as ModuleRow
from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part, Pin, Way
from circuitry.devices.device import BLADE, PIN, SMALL_STUD, Around, Branch, Figure
from circuitry.devices.electronics import Electronics, on
from circuitry.devices.laws import Figure as Share
from circuitry.devices.laws import Lag
from circuitry.devices.starting import starting
from circuitry.errors import UnusableInput

FEED, GROUND = "feed", "ground"
USUAL_CHANNEL_A, USUAL_TOTAL_A = 20.0, 100.0
USUAL_INRUSH_X, USUAL_INRUSH_S = 6.0, 0.1
USUAL_INPUTS = 16
USUAL_RETRIES, USUAL_RETRY_S, USUAL_OPEN_A = 3.0, 0.5, 0.5
USUAL_SLEEP_MA, RATED_V = 1.0, 12.5
BUS_NAMES = ("bus", "bus-2")
SOFT_STARTS_S = (0.1, 0.2, 0.3, 0.5)
"""Ramps that a channel can be set to; typical."""
JOINED_SHARE = 0.9
"""Of what joined channels bear together: they never share quite evenly; typical."""
LIMITS_A = (1.0, 2.0, 3.0, 5.0, 7.5, 10.0, 15.0, 20.0, 25.0, 30.0, 40.0)
"""The limits that channels are set to; typical."""
COOLS_S, SHORT_S = 1.0, 1e-3
"""How fast a channel forgets an inrush, and how soon it opens into a short circuit; typical."""
HEADROOM = 0.8
"""The share of its limit that a channel carries for ever; typical."""


class Module(Electronics):
    """A feed stud, a ground, channels, and pins beside them.

    ``channel_a`` is what a channel of it bears for ever where its catalogue row says nothing, and
    ``inrush_x`` times that for ``inrush_s`` seconds before it trips.
    """

    kind = "module"
    points = "channels"
    drawn_by_use = True
    row_changes = True
    figures = (
        Figure("total_a", "all channels together", "A", USUAL_TOTAL_A),
        Figure("channel_a", "each channel at most", "A", USUAL_CHANNEL_A),
        Figure("inrush_x", "inrush borne, times that", "", USUAL_INRUSH_X),
        Figure("inrush_s", "inrush borne for", "s", USUAL_INRUSH_S),
        Figure("soft_s", "starts softly over at most", "s", 0.0),
        Figure("retries", "comes on again after a trip, times", "", USUAL_RETRIES),
        Figure("retry_s", "each time after", "s", USUAL_RETRY_S),
        Figure("open_below_a", "tells of an open load below", "A", USUAL_OPEN_A),
        Figure("sleep_ma", "takes while asleep", "mA", USUAL_SLEEP_MA),
    )

    def choices(self) -> list[str]:
        return list(catalogue().modules)

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        if row is None:
            return {"ways": tuple(Way(f"C{number + 1}", FEED) for number in range(count))}
        return module_fields(row)

    def supply(self, part: Part) -> tuple[str, str] | None:
        return FEED, GROUND

    def logic(self, part: Part) -> tuple[str, str] | None:
        return logic_pin(part) or FEED, GROUND

    def bridges(self, part: Part) -> frozenset[str]:
        return frozenset(way.name for way in part.ways if is_bridge(part, way.name))

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        rows = {way.name: way for way in part.ways}
        for way in part.ways:
            other = rows.get(way.joined) if way.joined else None
            if way.joined and (other is None or other.joined or other is way or way.when):
                yield UnusableInput(
                    "bad-joint",
                    part.id,
                    f"{who}: {way.name} is joined to {way.joined}. It may be joined to a channel "
                    "that is joined to none, and has no condition of its own.",
                )

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield from super().branches(part, around)
        row = module_row(part)
        sleep_a = part.number("sleep_ma", row.sleep_ma if row else USUAL_SLEEP_MA) / 1000
        yield Branch("electronics", logic_pin(part) or FEED, GROUND, sleep_a / RATED_V)

    def lags(self, part: Part) -> Mapping[str, Lag]:
        found = {}
        for way in part.ways:
            if not way.joined:
                bears_a = channel_bears_a(part, way.name)
                borne_a, borne_s = inrush_borne(part, way.name)
                limit_a = min(way.limit_a or bears_a, bears_a)
                found[on(way.name)] = Tripping(limit_a, max(borne_a, limit_a), borne_s)
        return found

    def terminals(self, part: Part) -> tuple[str, ...]:
        channels = (way.name for way in part.ways if not way.joined)
        return (FEED, GROUND, *channels, *(pin.name for pin in part.pins))

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        if name in (FEED, GROUND):
            return catalogue().terminals[SMALL_STUD]
        channel = name in {way.name for way in part.ways}
        return catalogue().terminals[BLADE if channel else PIN]


@dataclass(frozen=True)
class Tripping(Lag):
    """How near a channel is to opening by itself: it trips at 1.

    It bears its limit for ever, and beside that the heat ``I_most² t`` of an inrush; above the most
    that it bears it trips within a millisecond.
    """

    limit_a: Share
    most_a: Share
    borne_s: Share
    drives = "current"
    cools_s = COOLS_S

    def bears(self) -> Share:
        return self.limit_a

    def steady(self, drive: Share) -> Share:
        return np.where(np.abs(drive) > self.limit_a, 1.0, 0.0)

    def rate(self, drive: Share, at: Share) -> Share:
        amps = np.abs(drive)
        heat = (amps**2 - self.limit_a**2) / (self.most_a**2 * self.borne_s)
        heat = np.where(heat < 0, -np.asarray(at) / COOLS_S, heat)
        return np.where(amps > self.most_a, 1 / SHORT_S, heat)


def logic_pin(part: Part) -> str | None:
    """The pin that feeds the logic of a module, and so wakes it; None where its feed does."""
    return next((pin.name for pin in part.pins if pin.function == "supply"), None)


def module_row(part: Part) -> ModuleRow | None:
    """The catalogue row of a module; None where the builder has made it up."""
    return catalogue().modules.get(part.catalogue or "")


def module_fields(row: str) -> dict[str, Any]:
    """Channels and bus pins of a module of the catalogue, the channels that bear most first."""
    module = catalogue().modules[row]
    return {
        "catalogue": row,
        "ways": tuple(Way(name, FEED) for name in module.channel_a),
        "pins": tuple(
            Pin(f"{bus}-{side}", "bus")
            for bus in BUS_NAMES[: module.buses]
            for side in ("high", "low")
        ),
    }


def is_bridge(part: Part, channel: str) -> bool:
    """Whether a channel can lie at ground too, to turn a motor both ways."""
    row = module_row(part)
    return row is not None and channel in row.bridge_names


def channel_bears_a(part: Part, channel: str) -> float:
    """What a channel bears for ever, in A: as its sheet says, or its catalogue row, or usual; with
    those that are joined to it."""
    joined = [way.name for way in part.ways if way.joined == channel]
    if joined:
        return JOINED_SHARE * sum(_bears_a(part, name) for name in (channel, *joined))
    return _bears_a(part, channel)


def _bears_a(part: Part, channel: str) -> float:
    row = module_row(part)
    listed = row.channel_a.get(channel) if row else None
    return part.number("channel_a", listed or USUAL_CHANNEL_A)


def module_bears_a(part: Part) -> float:
    """What the channels of a module bear together, in A."""
    row = module_row(part)
    return part.number("total_a", row.total_a if row else USUAL_TOTAL_A)


def inrush_borne(part: Part, channel: str) -> tuple[float, float]:
    """The current that a channel bears while a load starts, in A, and for how long, in s."""
    row = module_row(part)
    times = part.number("inrush_x", row.inrush_x if row else USUAL_INRUSH_X)
    seconds = part.number("inrush_s", row.inrush_s if row else USUAL_INRUSH_S)
    return times * channel_bears_a(part, channel), seconds


def starts_on(part: Part, channel: str, loads: Iterable[Part]) -> tuple[float, bool]:
    """What loads take together as they start, in A, and whether a channel bears that.

    A current that falls to rated in a straight line heats as a third of its first, so long. One of
    a soft start is worked out from the law of the load.
    """
    soft_s = next((way.soft_s for way in part.ways if way.name == channel), 0.0)
    return starts_over(part, channel, loads, soft_s)


def starts_over(
    part: Part, channel: str, loads: Iterable[Part], soft_s: float
) -> tuple[float, bool]:
    """The same where the channel raises its volts over ``soft_s`` seconds."""
    first_a = heat = 0.0
    for load in loads:
        starts_a, its_heat = starting(load, soft_s)
        first_a += starts_a
        heat = (heat**0.5 + its_heat**0.5) ** 2
    borne_a, borne_s = inrush_borne(part, channel)
    return first_a, first_a <= borne_a and heat <= borne_a**2 * borne_s


def soft_start_for(part: Part, channel: str, loads: Sequence[Part]) -> float | None:
    """The shortest soft start with which a channel bears that loads start, 0 where it bears it
    without; None where it does with none."""
    softest = softest_s(part)
    starts = (soft_s for soft_s in (0.0, *SOFT_STARTS_S) if soft_s <= softest)
    return next((soft_s for soft_s in starts if starts_over(part, channel, loads, soft_s)[1]), None)


def softest_s(part: Part) -> float:
    """How long a channel may take to come on, in s; 0 where it comes on at once."""
    row = module_row(part)
    return part.number("soft_s", row.soft_s if row else 0.0)


def trips(part: Part) -> tuple[int, float, float]:
    """How often a channel that has tripped comes on again and after how many seconds, and below
    how many A it tells that its load is open."""
    row = module_row(part)
    retries, retry_s, open_a = (
        (row.retries, row.retry_s, row.open_below_a)
        if row
        else (USUAL_RETRIES, USUAL_RETRY_S, USUAL_OPEN_A)
    )
    return (
        int(part.number("retries", retries)),
        part.number("retry_s", retry_s),
        part.number("open_below_a", open_a),
    )


def inputs_of(part: Part) -> int:
    """How many inputs a module has."""
    row = module_row(part)
    return row.inputs if row else USUAL_INPUTS


def limit_for(amps: float, bears_a: float) -> float | None:
    """The least limit that carries a current for ever and that a channel bears; None where there
    is none."""
    return next(
        (limit for limit in LIMITS_A if amps <= HEADROOM * limit and limit <= bears_a), None
    )
