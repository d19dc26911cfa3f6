"""How warm a wire gets: along its way at what it carries, and in time under an overload."""

import math
from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from circuitry.catalogue import Insulation, catalogue
from circuitry.design.model import Run, Terminal, Wire
from circuitry.design.routes import ends_of, extra_m, length_m, way_of
from circuitry.devices.fuse_times import NEVER_S, longest_time_s, shortest_time_s
from circuitry.errors import UnusableInput
from circuitry.sizing.ampacity import COVER_FACTOR, COVERS_THAT_HOLD_HEAT, free_air_ampacity_a
from circuitry.sizing.result import Sizing, WireSizing
from circuitry.sizing.transient import bears_s, warm_c, wire_of

POINTS = 60
FIRST_S, LAST_S = 0.01, 7200.0
USUAL_OVERLOAD = 1.5
MOST_OVERLOAD = 10.0
LEAST_OVERLOAD_A = 1.0


@dataclass(frozen=True)
class Spot:
    """A point of a wire: how far along it, where that is, the grouping factor there, the air and
    the conductor."""

    at_m: float
    where: str
    grouping: float
    ambient_c: float
    conductor_c: float


@dataclass(frozen=True)
class Overload:
    """The hottest spot of a wire under a current that goes on: temperatures in °C at times in s.

    ``limit_s`` and ``damage_s`` are when it is at the limit of its insulation for ever and for
    short times, None where it never is; ``parts_s`` the least and the most that its protection
    takes, None where that is not known. ``safe`` tells whether it parts before any damage.
    """

    amps: float
    seconds: tuple[float, ...]
    celsius: tuple[float, ...]
    limit_s: float | None
    damage_s: float | None
    parts_s: tuple[float | None, float | None]
    safe: bool


@dataclass(frozen=True)
class WireHeat:
    """How warm a wire gets: ``spots`` along it, and the overload that was asked for.

    ``limit_c`` is the limit of its insulation for ever, ``damage_c`` that for short times;
    ``most_a`` the largest overload that can be asked for.
    """

    wire: str
    label: str
    size: str
    behind: str | None
    current_a: float
    lasting_a: float
    limit_c: float
    damage_c: float
    most_a: float
    spots: tuple[Spot, ...]
    overload: Overload


def wire_heat(sizing: Sizing, wire_id: str, overload_a: float | None = None) -> WireHeat:
    """How warm a wire gets; raises UnusableInput where there is none of that id, or the overload is
    no current that can be asked for."""
    row = sizing.wires.get(wire_id)
    if row is None:
        raise UnusableInput("unknown-wire", wire_id, f"The build has no wire “{wire_id}”.")
    most_a = MOST_OVERLOAD * max(row.must_carry_a, LEAST_OVERLOAD_A)
    usual_a = max(USUAL_OVERLOAD * row.must_carry_a, LEAST_OVERLOAD_A)
    amps = usual_a if overload_a is None else overload_a
    if not 0 < amps <= most_a:
        raise UnusableInput(
            "bad-overload",
            "amps",
            f"{amps:g} A cannot be asked for: more than 0 and at most {most_a:.0f} A.",
        )
    wire = sizing.build.wires[wire_id]
    insulation = catalogue().insulation[row.insulation]
    return WireHeat(
        wire_id,
        wire.label,
        row.size,
        row.behind,
        row.current_a,
        row.lasting_a,
        insulation.continuous_limit_c,
        insulation.short_circuit_limit_c,
        most_a,
        tuple(_spots(sizing, wire, row, insulation)),
        _overload(sizing, row, insulation, amps),
    )


def _spots(sizing: Sizing, wire: Wire, row: WireSizing, insulation: Insulation) -> Iterator[Spot]:
    build, conductor = sizing.build, catalogue().conductor[row.size]

    def spot(at_m: float, where: str, ambient_c: float, covered: bool, factor: float) -> Spot:
        carries_a = free_air_ampacity_a(conductor, insulation, ambient_c) * factor
        carries_a *= COVER_FACTOR if covered else 1.0
        limit_c = max(insulation.continuous_limit_c, ambient_c)
        share = row.lasting_a / carries_a if carries_a > 0 else 1.0
        warm_c = ambient_c + (limit_c - ambient_c) * share**2
        return Spot(at_m, where, factor, ambient_c, warm_c)

    start, end = (build.places[place] for place in ends_of(build, wire))
    whole_m, way = length_m(build, wire), way_of(build, wire)
    if not way:
        yield spot(0.0, start.name, start.ambient_c, False, 1.0)
        yield spot(whole_m, end.name, end.ambient_c, False, 1.0)
        return
    factors = sizing.grouping(wire.id)
    at_m = extra_m(build, wire) / 2
    yield spot(0.0, start.name, start.ambient_c, False, 1.0)
    place = start.id
    for run in way:
        onward = run.to_place if run.from_place == place else run.from_place
        covered, factor = run.cover in COVERS_THAT_HOLD_HEAT, factors.get(run.id, 1.0)
        name = _name(sizing, run)
        for end_m, there in ((at_m, place), (at_m + run.length_m, onward)):
            yield spot(end_m, name, build.places[there].ambient_c, covered, factor)
        at_m, place = at_m + run.length_m, onward
    yield spot(whole_m, end.name, end.ambient_c, False, 1.0)


def _name(sizing: Sizing, run: Run) -> str:
    places = sizing.build.places
    return f"{places[run.from_place].name} – {places[run.to_place].name}"


def _overload(sizing: Sizing, row: WireSizing, insulation: Insulation, amps: float) -> Overload:
    wires = wire_of(catalogue().conductor[row.size], insulation)
    here = row.ambient_c, row.carries_a, min(row.lasting_a, amps), amps
    seconds = np.geomspace(FIRST_S, LAST_S, POINTS)
    celsius = [warm_c(wires, *here, at) for at in seconds.tolist()]
    damage_s = float(bears_s(wires, *here))
    limit_c = insulation.continuous_limit_c
    limit_s = next((at for at, c in zip(seconds, celsius, strict=True) if c >= limit_c), None)
    limit_s = 0.0 if limit_s == FIRST_S else limit_s
    parts_s = _parts_s(sizing, row, amps)
    latest_s = parts_s[1]
    return Overload(
        amps,
        tuple(seconds.tolist()),
        tuple(min(c, insulation.short_circuit_limit_c * 1.2) for c in celsius),
        None if limit_s is None else float(limit_s),
        None if math.isinf(damage_s) else damage_s,
        parts_s,
        math.isinf(damage_s) or (latest_s is not None and latest_s <= damage_s),
    )


def _parts_s(sizing: Sizing, row: WireSizing, amps: float) -> tuple[float | None, float | None]:
    """The least and the most that the fuse of a wire takes at a current; None where there is no
    fuse, or it never parts for sure."""
    fuse = _fuse_of(sizing, row)
    if fuse is None:
        return None, None
    family, rating_a = sizing.build.parts[fuse].catalogue or "", sizing.fuses[fuse].rating_a
    least_s = shortest_time_s(family, rating_a, amps)
    most_s = longest_time_s(family, rating_a, amps)
    return (None if least_s >= NEVER_S else least_s, None if most_s >= NEVER_S else most_s)


def _fuse_of(sizing: Sizing, row: WireSizing) -> str | None:
    """The fuse before a wire; of a tap, which is too short to go wrong itself, the largest that it
    leads to."""
    if row.fuse is None or sizing.fuses[row.fuse].rating_a <= row.must_carry_a:
        return row.fuse
    build, wire = sizing.build, sizing.build.wires[row.wire]
    ends = {build.lands(wire.from_terminal), build.lands(wire.to_terminal)}
    onward = [fuse for fuse in sizing.fuses if build.lands(Terminal(fuse, "in")) in ends]
    return max(onward, key=lambda fuse: sizing.fuses[fuse].rating_a, default=None)
