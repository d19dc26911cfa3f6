"""The fall line: voltage along the way from battery to load and back, element by element."""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from itertools import groupby

from circuitry.design.model import Build, Part, Terminal
from circuitry.design.routes import length_m
from circuitry.devices import device_of
from circuitry.network.elements import GARAGE_C, conductor_ohm, joints_ohm
from circuitry.network.network import Solution
from circuitry.reach.ways import TAKES_POWER, Path, Step

LEAST_A = 1e-3


@dataclass(frozen=True)
class FallPoint:
    """A point of the line: distance along the way and voltage against battery negative."""

    distance_m: float
    volts: float


@dataclass(frozen=True)
class FallStep:
    """One element of the way: what it is, what it loses, and the points that draw it."""

    kind: str
    owner: str
    name: str
    detail: str
    side: str
    from_terminal: Terminal
    to_terminal: Terminal
    length_m: float
    amps: float
    loss_v: float
    points: tuple[FallPoint, ...]

    @property
    def is_lost(self) -> bool:
        """Whether what it takes is lost on the way, and does no work as a load or field does."""
        return self.kind not in ("load", *TAKES_POWER)


@dataclass(frozen=True)
class FallLine:
    """The line of one load: its steps, the load's own voltage, and feed and return losses."""

    load: str
    steps: tuple[FallStep, ...]
    battery_v: float
    load_v: float
    feed_loss_v: float
    return_loss_v: float

    @property
    def drop_v(self) -> float:
        """Voltage lost on feed and return together."""
        return self.feed_loss_v + self.return_loss_v

    @property
    def worst(self) -> int:
        """The number of the step in which most is lost on the way."""
        lost = [step.loss_v if step.is_lost else -1.0 for step in self.steps]
        return lost.index(max(lost))


def fall_line(build: Build, solution: Solution, load: Part, path: Path) -> FallLine:
    """The fall line of a load along a path in a solved state."""
    steps: list[FallStep] = []
    distance_m = 0.0
    for side, ways in (("feed", path.feed), ("return", path.back)):
        for way in _through_the_body_at_once(ways):
            steps.append(_step(build, solution, side, way, distance_m))
            distance_m = steps[-1].points[-1].distance_m
        if side == "feed":
            steps.append(_load_step(solution, load, distance_m))
    losses = {
        side: sum(step.loss_v for step in steps if step.side == side) for side in ("feed", "return")
    }
    return FallLine(
        load.id,
        tuple(steps),
        solution.battery_v,
        solution.loads[load.id].volts,
        losses["feed"],
        losses["return"],
    )


def way_ohm(solution: Solution, path: Path) -> float:
    """The resistance of a path to a load and back as it was solved: the volts lost in each piece
    over the current in it. What carries none has none."""
    ohm = 0.0
    for step in (*path.feed, *path.back):
        if step.kind != "body":
            amps = solution.wire_a[step.owner] if step.kind == "wire" else _amps(solution, step)
            volts = solution.terminal_v
            lost_v = (volts[step.from_terminal] or 0.0) - (volts[step.to_terminal] or 0.0)
            ohm += abs(lost_v / amps) if abs(amps) > LEAST_A else 0.0
    return ohm


def _through_the_body_at_once(ways: Iterable[Step]) -> Iterator[Step]:
    """The steps with those that follow each other in the body as one, from where the current
    enters it to where it leaves."""
    for in_body, steps in groupby(ways, lambda step: step.kind == "body"):
        rows = list(steps)
        if in_body:
            yield replace(rows[0], to_terminal=rows[-1].to_terminal)
        else:
            yield from rows


def _step(build: Build, solution: Solution, side: str, way: Step, start_m: float) -> FallStep:
    first_v = solution.terminal_v[way.from_terminal] or 0.0
    last_v = solution.terminal_v[way.to_terminal] or 0.0
    name, detail, metres, joint_share, amps = _described(build, solution, way)
    joint_v = (first_v - last_v) * joint_share / 2
    points = [
        FallPoint(start_m, first_v),
        FallPoint(start_m, first_v - joint_v),
        FallPoint(start_m + metres, last_v + joint_v),
        FallPoint(start_m + metres, last_v),
    ]
    return FallStep(
        way.kind,
        way.owner,
        name,
        detail,
        side,
        way.from_terminal,
        way.to_terminal,
        metres,
        amps,
        first_v - last_v,
        tuple(points if way.kind == "wire" else (points[0], points[-1])),
    )


def _described(build: Build, solution: Solution, way: Step) -> tuple[str, str, float, float, float]:
    """Name, detail, length in m, share of the joints in the resistance, and current in A."""
    if way.kind == "wire":
        wire = build.wires[way.owner]
        joints = joints_ohm(build, wire)
        share = joints / (joints + conductor_ohm(build, wire, GARAGE_C))
        amps = solution.wire_a[wire.id]
        if way.from_terminal != wire.from_terminal:
            amps = 0.0 - amps
        return wire.label, wire.size or "", length_m(build, wire), share, amps
    if way.kind == "body":
        return "body", "metal body", 0.0, 0.0, 0.0
    part = build.parts[way.owner]
    return part.name, device_of(part).says(part, way.kind), 0.0, 0.0, _amps(solution, way)


def _amps(solution: Solution, way: Step) -> float:
    """Current in what a part joins; a plug's is that of its wires."""
    match way.kind:
        case "fuse":
            return abs(solution.fuse_a[way.owner])
        case "contact":
            return solution.contact_a.get(way.owner, 0.0)
        case "output":
            ends = (way.from_terminal, way.to_terminal)
            return next((solution.output_a[end] for end in ends if end in solution.output_a), 0.0)
        case "flasher":
            return solution.flashers[way.owner].amps
        case _:
            return abs(solution.part_a.get(way.owner, 0.0))


def _load_step(solution: Solution, load: Part, distance_m: float) -> FallStep:
    plus, minus = Terminal(load.id, "+"), Terminal(load.id, "-")
    reading = solution.loads[load.id]
    first_v = solution.terminal_v[plus] or 0.0
    last_v = solution.terminal_v[minus] or 0.0
    return FallStep(
        "load",
        load.id,
        load.name,
        load.catalogue or "",
        "load",
        plus,
        minus,
        0.0,
        reading.amps,
        reading.volts,
        (FallPoint(distance_m, first_v), FallPoint(distance_m, last_v)),
    )
