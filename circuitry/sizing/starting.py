"""What loads take while they start or stand still, and whether a fuse survives it or parts on it.

A lamp is cold and a motor stands still for a moment: the current begins at a multiple of that which
runs, and falls to it. A fuse must survive that with twice the margin in its melting integral, and a
motor at its end stop for as long as a hand needs to let go of the switch. A motor for ever that
sticks must part it.
"""

import math
from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.fuse_times import longest_time_s, middle_time_s
from circuitry.devices.load import rated_current_a
from circuitry.devices.relay import relay_row
from circuitry.finding import Finding, Mend
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Path
from circuitry.sizing.causes import rechoose
from circuitry.sizing.result import Sizing

MARGIN = 2.0
SETTLED_AFTER = 3.0
"""Times its time constant after which what falls by an exponential is nearly there: e⁻³ is 5 %."""
NOMINAL_V = 12.0
MOST_VISITS = 20_000
AT_THE_STOP_S = 2.0
"""How long a window or lock is held at its end stop; typical."""
TRIPS_WITHIN_S = 600.0
SLOW_FAMILY = "cartridge"
CYCLING_FAMILY = "breaker auto-reset"


@dataclass(frozen=True)
class Starting:
    """What a load takes while it starts, for how long, and after."""

    load: str
    name: str
    inrush_a: float
    inrush_s: float
    running_a: float
    stops: bool
    """Whether it is a motor that is driven to an end stop."""


@dataclass(frozen=True)
class Pulse:
    """A current that begins at ``peak_a`` and falls, and how long that would last if it stayed so
    with the same ``I²t``."""

    peak_a: float
    seconds: float


Behind = Mapping[str, tuple[tuple[Starting, ...], ...]]


def starting(build: Build, load: Part) -> Starting:
    """What a load takes while it starts, by its own figures or those of its kind."""
    row = catalogue().loads[load.catalogue or ""]
    running_a = rated_current_a(load)
    times = load.number("inrush_x", row.inrush_x)
    inrush_a = load.number("stall_a", running_a * times)
    stops = row.kind == "motor" and load.figures.get("duty", row.duty) == "seconds"
    turns = stops and row.name not in ("Horn", "Washer pump")
    seconds = load.number("inrush_s", row.inrush_s)
    return Starting(load.id, load.name, inrush_a, seconds, running_a, turns)


def behind_each_fuse(build: Build, easiest: Mapping[str, Path | None]) -> Behind:
    """For each fuse the loads whose last protection it is, those of one kind in a circuit together,
    for they start together; and each solenoid with a winding to pull in. ``easiest`` is the way to
    each load."""
    groups: dict[str, dict[object, list[Starting]]] = {}
    for load_id, way in easiest.items():
        for fuse in _last_fuses([way] if way else []):
            load = build.parts[load_id]
            alike = load.circuit or load.id, load.catalogue
            groups.setdefault(fuse, {}).setdefault(alike, []).append(starting(build, load))
    for relay in build.parts_of_kind("relay"):
        row = relay_row(relay)
        if row.pull_in_a and row.pull_in_s:
            held_a = NOMINAL_V / row.coil_ohm_12v
            solenoid = Starting(
                relay.id, relay.name, row.pull_in_a, row.pull_in_s, held_a, stops=False
            )
            ends = Terminal(relay.id, "86"), Terminal(relay.id, "85")
            for fuse in _last_fuses(paths_of(build).ways(*ends, MOST_VISITS).each):
                groups.setdefault(fuse, {})[relay.id] = [solenoid]
    return {
        fuse: tuple(tuple(rows) for rows in circuits.values()) for fuse, circuits in groups.items()
    }


def _last_fuses(ways: Iterable[Path]) -> set[str]:
    """The fuses that are the last protection on some way."""
    last = ([step for step in way.feed if step.kind in ("fuse", "output")][-1:] for way in ways)
    return {steps[0].owner for steps in last if steps and steps[0].kind == "fuse"}


def pulse(rows: Sequence[Starting], beside_a: float) -> Pulse:
    """What flows while some loads start together beside what runs already.

    ``i(t) = I + Σ A_k e^(−t/τ_k)`` with ``τ_k`` a third of the time in which the load settles; the
    melting integral ``∫ i² dt`` is taken until the slowest has settled.

    >>> lamp = Starting("lamp", "Lamp", 41.0, 0.06, 4.1, False)
    >>> row = pulse([lamp], 0.0)
    >>> round(row.peak_a), round(1000 * row.seconds)
    (41, 12)
    """
    steady_a = beside_a + sum(row.running_a for row in rows)
    falling = [
        (row.inrush_a - row.running_a, row.inrush_s / SETTLED_AFTER)
        for row in rows
        if row.inrush_s > 0 and row.inrush_a > row.running_a
    ]
    peak_a = steady_a + sum(amps for amps, _ in falling)
    until_s = SETTLED_AFTER * max((tau_s for _, tau_s in falling), default=0.0)
    if until_s == 0.0:
        return Pulse(peak_a, 0.0)
    melting = steady_a**2 * until_s
    for amps, tau_s in falling:
        melting += 2 * steady_a * amps * tau_s * (1 - math.exp(-until_s / tau_s))
        for other_a, other_s in falling:
            both_s = 1 / (1 / tau_s + 1 / other_s)
            melting += amps * other_a * both_s * (1 - math.exp(-until_s / both_s))
    return Pulse(peak_a, melting / peak_a**2)


@dataclass(frozen=True)
class Start:
    """The start, or the stop at the end, that comes nearest to parting a fuse: of which loads,
    what flows, how long it lasts as if it stayed so, and how long a usual fuse bears that."""

    loads: tuple[Starting, ...]
    amps: float
    seconds: float
    bears_s: float
    at_the_stop: bool

    @property
    def margin(self) -> float:
        """How many times longer the fuse bears it than it lasts."""
        return self.bears_s / max(self.seconds, 1e-9)


def survives(
    family: str, rating_a: float, groups: Sequence[Sequence[Starting]], most_a: float
) -> bool:
    """Whether a fuse survives each group of loads starting beside the others, and each motor at its
    end stop; ``most_a`` is the largest current through it when all run."""
    hardest = hardest_start(family, rating_a, groups, most_a)
    return hardest is None or hardest.margin >= MARGIN


def hardest_start(
    family: str, rating_a: float, groups: Sequence[Sequence[Starting]], most_a: float
) -> Start | None:
    """The start with the least margin; None where nothing takes more as it starts."""
    found = []
    for rows in groups:
        beside_a = max(most_a - sum(row.running_a for row in rows), 0.0)
        asked = [(pulse(rows, beside_a), tuple(rows), False)]
        stopped = tuple(row for row in rows if row.stops)
        if stopped:
            held_a = beside_a + sum(row.inrush_a if row.stops else row.running_a for row in rows)
            asked.append((Pulse(held_a, AT_THE_STOP_S), stopped, True))
        found += [
            Start(
                loads,
                what.peak_a,
                what.seconds,
                float(middle_time_s(family, rating_a, what.peak_a)),
                end,
            )
            for what, loads, end in asked
            if what.seconds > 0
        ]
    return min(found, key=lambda start: start.margin, default=None)


def starting_findings(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """Fuses that a start may part, and those that a stuck motor does not."""
    for fuse_id, groups in behind_each_fuse(original, sizing.easiest).items():
        fuse, row = original.parts[fuse_id], sizing.fuses[fuse_id]
        family = fuse.catalogue or ""
        hardest = hardest_start(family, row.rating_a, groups, row.current_a)
        if hardest is not None and hardest.margin < MARGIN:
            yield _parts_on_start(original, fuse, hardest)
        lamps = [row for rows in groups for row in rows if _is_lamp(original.parts[row.load])]
        if family == CYCLING_FAMILY and lamps:
            yield _cycling(original, fuse, lamps)
        stuck = [
            motor
            for motors in groups
            for motor in motors
            if _lasts(original.parts[motor.load])
            and longest_time_s(family, row.rating_a, motor.inrush_a) > TRIPS_WITHIN_S
        ]
        if stuck:
            weakest = min(stuck, key=lambda motor: motor.inrush_a)
            yield _stuck(original, fuse, row.rating_a, weakest)


def _is_lamp(load: Part) -> bool:
    return load.kind == "load" and catalogue().loads[load.catalogue or ""].group == "lighting"


def _cycling(build: Build, fuse: Part, lamps: Sequence[Starting]) -> Finding:
    return Finding(
        "breaker-cycles",
        "look",
        (fuse.id, *(lamp.load for lamp in lamps)),
        build.parts[lamps[0].load].circuit,
        f"{fuse.name} would make {lamps[0].name} flash into a short",
        "a breaker that closes again by itself",
        "a fuse, or a breaker that is reset by hand",
        "In traffic a lamp that comes and goes misleads whoever sees it, and the short goes on "
        "heating the wire.",
    )


def _lasts(load: Part) -> bool:
    if load.kind != "load":
        return False
    row = catalogue().loads[load.catalogue or ""]
    return row.kind == "motor" and load.figures.get("duty", row.duty) != "seconds"


def _parts_on_start(build: Build, fuse: Part, start: Start) -> Finding:
    rows = start.loads
    names = ", ".join(row.name for row in rows[:3]) + (" and more" if len(rows) > 3 else "")
    one = len(rows) == 1
    does = "starts" if one else "start"
    if start.at_the_stop:
        does = "stands at its end" if one else "stand at their ends"
    return Finding(
        "start-parts-fuse",
        "look",
        (fuse.id, *(row.load for row in rows)),
        build.parts[rows[0].load].circuit,
        f"{fuse.name} may part when {names} {does}",
        f"{start.amps:.0f} A, as if for {_seconds(start.seconds)}",
        f"{_seconds(start.bears_s / MARGIN)}, half of what such a fuse bears",
        "Each start ages it, and one day it parts for nothing. A slow family is made for motors; "
        "or share the loads out.",
        (*_larger(fuse), *_slow(fuse)),
    )


def _slow(fuse: Part) -> tuple[Mend, ...]:
    """A line fuse can be of another family; one in a panel takes what the panel takes."""
    if fuse.fitted is not None or fuse.catalogue == SLOW_FAMILY:
        return ()
    return (rechoose(fuse, f"Fit a slow {SLOW_FAMILY} fuse", catalogue=SLOW_FAMILY),)


def _larger(fuse: Part) -> tuple[Mend, ...]:
    if "rating_a" not in fuse.figures:
        return ()
    return (rechoose(fuse, "Let Oilstone choose its rating"),)


def _stuck(build: Build, fuse: Part, rating_a: float, motor: Starting) -> Finding:
    return Finding(
        "stall-not-cleared",
        "note",
        (fuse.id, motor.load),
        build.parts[motor.load].circuit,
        f"{fuse.name} does not part when {motor.name} sticks",
        f"{motor.inrush_a:.0f} A for ever",
        f"{rating_a:g} A that part within {TRIPS_WITHIN_S / 60:.0f} min",
        "A stuck motor takes its starting current until it burns. Give it a fuse of its own, as "
        "small as its start allows.",
        _larger(fuse),
    )


def _seconds(seconds: float) -> str:
    return f"{1000 * seconds:.0f} ms" if seconds < 1 else f"{seconds:.1f} s"
