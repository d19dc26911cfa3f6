"""The wires of a loom as they are made: cut, ended, labelled, laid."""

import math
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.colours import letters_of, stage_colour
from circuitry.design.model import Build, Terminal, Wire
from circuitry.design.routes import extra_m, insulation_of, length_m, way_of
from circuitry.devices.terminals import is_screwed, is_sealed, joined_behind, terminal_range
from circuitry.layout.twist import twist_m
from circuitry.proving.words import end_said

SMALL_M = 1e-9
LOOSE_STRIP_MM = 8.0
"""Of an end that goes into a splice, or onto what the catalogue does not know; typical."""
WAYS_OF_JOINING = {
    "crimp": "crimp",
    "ring": "crimp",
    "solder": "solder; glued shrink sleeve, and hold it so that it cannot flex beside the joint",
    "crimp then solder": "crimp, then solder sparingly; shrink sleeve; hold it beside the joint",
}
SPLICE = "splice"
_Behind = Mapping[Terminal, tuple[Wire, ...]]


@dataclass(frozen=True)
class End:
    """An end of a wire: where it goes in words, what it ends in, how much is stripped, and how it
    is joined. ``sealed`` ends take a seal before they are crimped; ``joined_with`` are the labels
    of the wires with which it is joined behind a contact that takes fewer."""

    part: str
    place: str
    says: str
    ends_in: str
    strip_mm: float
    joint: str
    sealed: bool
    joined_with: tuple[str, ...] = ()


@dataclass(frozen=True)
class Leg:
    """A run that a wire takes, and its length."""

    run: str
    says: str
    length_m: float


@dataclass(frozen=True)
class WireLine:
    """A wire as it is made; lengths in m.

    ``length_m`` is made up of its legs (or ``given_m`` where it has a length of its own) and
    ``ends_m`` for the two ends, and ``twist_m`` where bundles are twisted; ``cut_m`` is that
    rounded up. ``labels`` is how many it takes.
    """

    id: str
    label: str
    circuit: str | None
    circuit_name: str
    stage: int
    tape: str
    size: str
    area_mm2: float
    colour: str
    letters: str
    insulation: str
    start: End
    end: End
    legs: tuple[Leg, ...]
    given_m: float | None
    ends_m: float
    twist_m: float
    length_m: float
    cut_m: float
    labels: int


def schedule(build: Build) -> tuple[WireLine, ...]:
    """The wires of a sized build in the order in which they are made: by stage, by circuit."""
    longer = twist_m(build)
    behind = joined_behind(build)
    lines = [_line(build, wire, longer.get(wire.id, 0.0), behind) for wire in build.wires.values()]
    order = {circuit: number for number, circuit in enumerate(build.circuits)}
    return tuple(sorted(lines, key=lambda row: (row.stage, order.get(row.circuit or "", -1))))


def _line(build: Build, wire: Wire, twisted_m: float, behind: _Behind) -> WireLine:
    circuit = build.circuits.get(wire.circuit or "")
    stage = circuit.stage if circuit else 1
    metres = length_m(build, wire) + twisted_m
    return WireLine(
        wire.id,
        wire.label,
        wire.circuit,
        circuit.name if circuit else "",
        stage,
        stage_colour(build, stage),
        wire.size or "",
        catalogue().conductor[wire.size or ""].copper_area_mm2,
        wire.colour,
        letters_of(wire.colour),
        insulation_of(build, wire),
        _end(build, wire, wire.from_terminal, wire.joint_from, behind),
        _end(build, wire, wire.to_terminal, wire.joint_to, behind),
        tuple(_legs(build, wire)),
        wire.length_m,
        extra_m(build, wire),
        twisted_m,
        metres,
        rounded_up(metres, build.policy.cut_to_m),
        2 + math.floor(max(metres - SMALL_M, 0.0) / build.policy.label_every_m),
    )


def rounded_up(metres: float, to_m: float) -> float:
    """A length as it is cut."""
    return round(math.ceil(metres / to_m - 1e-6) * to_m, 4)


def _legs(build: Build, wire: Wire) -> Iterator[Leg]:
    """The runs of a wire from its start, each in words in the direction that it takes."""
    here = build.parts[wire.from_terminal.part].place
    for run in way_of(build, wire):
        there = run.to_place if run.from_place == here else run.from_place
        names = build.places[here].name, build.places[there].name
        yield Leg(run.id, " to ".join(names), run.length_m)
        here = there


def _end(build: Build, wire: Wire, terminal: Terminal, joint: str | None, behind: _Behind) -> End:
    landed = build.lands(terminal)
    part = build.parts[landed.part]
    joined = behind.get(landed, ())
    row = terminal_range(build, terminal) if not joined else None
    if row is None:
        spliced = joined or part.kind == SPLICE
        ends_in, strip_mm = (SPLICE if spliced else "bare end"), LOOSE_STRIP_MM
    else:
        ends_in, strip_mm = row.ends_in, row.strip_mm
    how = joint or build.policy.joint
    screwed = is_screwed(build, terminal)
    by = WAYS_OF_JOINING.get(how, how)
    return End(
        part.id,
        build.places[part.place].name,
        end_said(build, terminal),
        ends_in,
        strip_mm,
        f"{by}; paint off under the ring" if screwed and _is_ground(part.kind) else by,
        is_sealed(row),
        tuple(other.label for other in joined if other is not wire),
    )


def _is_ground(kind: str) -> bool:
    return kind in ("ground point", "body")


@dataclass(frozen=True)
class Done:
    """A step of making a wire that was done, and how the wire was then."""

    wire: str
    step: str
    length_m: float
    size: str
    colour: str
    label: str


STEPS = ("cut", "ended", "labelled", "laid")
"""What is done to a wire, in order."""


@dataclass(frozen=True)
class Changed:
    """A wire that was cut and is wanted otherwise now, in words; and the wires, by label, for which
    what was cut can be used instead."""

    wire: str
    says: str
    use_for: tuple[str, ...]


def changed(lines: Mapping[str, WireLine], done: list[Done]) -> Iterator[Changed]:
    """What was cut and does no longer do."""
    cut = {row.wire: row for row in done if row.step == STEPS[0]}
    waiting = [line for line in lines.values() if line.id not in cut]
    for row in cut.values():
        line = lines.get(row.wire)
        if line is None:
            says = (
                f"{row.label} is cut, {row.length_m:.2f} m of {row.size} {row.colour}; it is gone"
            )
        else:
            differs = list(_differs(row, line))
            if not differs:
                continue
            says = f"{row.label} is cut: {', '.join(differs)}"
        fits = [
            other
            for other in waiting
            if (other.size, other.colour) == (row.size, row.colour)
            and other.length_m <= row.length_m + SMALL_M
        ]
        best = sorted(fits, key=lambda other: -other.length_m)[:3]
        yield Changed(row.wire, f"{says}.", tuple(other.label for other in best))


def _differs(row: Done, line: WireLine) -> Iterator[str]:
    if line.length_m > row.length_m + SMALL_M:
        yield f"{row.length_m:.2f} m, now {line.length_m:.2f} m"
    if line.size != row.size:
        yield f"{row.size}, now {line.size}"
    if line.colour != row.colour:
        yield f"{row.colour}, now {line.colour}"
    if line.label != row.label:
        yield f"labelled {row.label}, now {line.label}"
