"""Loads: lamps, motors, heaters and electronics, each with the law of its kind."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import (
    BLADE,
    HEAVY_STUD,
    LARGE_BLADE,
    Around,
    Branch,
    Device,
    Figure,
)
from circuitry.devices.laws import (
    ConstantCurrent,
    ConstantPower,
    DragMotor,
    FanMotor,
    Filament,
    GaugeWinding,
    Lag,
    LedString,
    OutputLaw,
    Resistor,
    SelfHeater,
    SteadyMotor,
)
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, column, nodes
from circuitry.errors import UnusableInput

DUTIES = ("for ever", "minutes", "flashing", "seconds")
BOLTED_A, LARGE_BLADE_A = 40.0, 20.0
"""Currents from which a load's terminals are screwed, or are the large blade; typical."""
LEAST_SETTLES_S = 1e-3
PULLED = "pulled"
TWO_STAGE = "two-stage solenoid"
PULLS_AT_V = 7.0
"""Typical least voltage at which a solenoid for 12 V pulls its plunger all the way."""
LAMP = "M2 5 a8 8 0 0 1 16 0 a8 8 0 0 1 -16 0 M4.4 -0.6 l11.2 11.2 m0 -11.2 l-11.2 11.2"
MOTOR = "M2 5 a8 8 0 0 1 16 0 a8 8 0 0 1 -16 0 M6.5 8.5 v-7 l3.5 4.5 l3.5 -4.5 v7"
BOX = "M-1 -0.5 h22 v11 h-22 z"


MOST_V, MOST_AT_12_V = 60.0, 20.0
"""Above the first, d.c. can kill (ISO 6469-3, voltage class B); nothing for 12 V is rated above the
second."""


class Load(Device):
    """What the car is wired for. Its figures are asked for in the stock list."""

    kind = "load"
    figures = (
        Figure("rated_w", "rating", "W"),
        Figure("rated_a", "rating", "A"),
        Figure("test_v", "test voltage", "V"),
        Figure("inrush_x", "inrush", "times"),
        Figure("inrush_s", "inrush lasts", "s"),
        Figure("stall_a", "stall", "A"),
    )
    texts = frozenset({"duty", "source"})
    drawn_as = "load"
    has_usual = False

    def rows(self) -> Mapping[str, object] | None:
        return catalogue().loads

    def figure_sets(self) -> Mapping[str, tuple[Figure, ...]]:
        return {}

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "+", "-"

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        duty = part.figures.get("duty")
        if duty is not None and duty not in DUTIES:
            yield UnusableInput(
                "bad-figure", part.id, f"{who}: duty is “{duty}”, but must be {', '.join(DUTIES)}."
            )
        if part.figures.get("test_v") == 0:
            yield UnusableInput(
                "bad-figure", part.id, f"{who}: test_v is 0, but must be a number above 0."
            )

        volts = part.number("test_v", 0.0)
        if volts > MOST_V:
            yield UnusableInput(
                "too-many-volts",
                part.id,
                f"{who} is rated at {volts:g} V. Above {MOST_V:g} V d.c. is for qualified people "
                "with the right tools; Oilstone plans the 12 V side alone.",
            )
        elif volts > MOST_AT_12_V:
            yield UnusableInput(
                "not-for-12-v",
                part.id,
                f"{who} is rated at {volts:g} V and cannot be fed from a 12 V battery. Choose one "
                "for 12 V, or list the converter that feeds it as the load.",
            )

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        yield Branch("load", "+", "-", law=law_of_load(part, around.load_current))
        if catalogue().loads[part.catalogue or ""].kind == TWO_STAGE:
            more = rated_current_a(part) * (_starting_x(part, rated_current_a(part)) - 1)
            siemens = more * around.load_current / test_volts(part)
            yield Branch("pull-in winding", "+", "-", siemens, position="rest")

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        two_stage = [
            part for part in parts if catalogue().loads[part.catalogue or ""].kind == TWO_STAGE
        ]
        if two_stage:
            yield _Plungers(two_stage, node)

    def lags(self, part: Part) -> Mapping[str, Lag]:
        law = law_of_load(part)
        return {"load": law} if isinstance(law, Lag) else {}

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[load_terminal(rated_current_a(part))]

    def sign(self, part: Part) -> str:
        row = catalogue().loads[part.catalogue or ""]
        if row.group == "lighting":
            return LAMP
        return MOTOR if row.kind in ("motor", "starter") else BOX

    def detail(self, part: Part) -> str:
        return part.catalogue or ""


class _Plungers(Mover):
    """The pull-in windings of two-stage solenoids are cut off once their plungers are home."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        self.positions = [(part.id, PULLED) for part in parts]
        self._plus, self._minus = nodes(parts, "+", node), nodes(parts, "-", node)
        self._pulls_at = column(PULLS_AT_V for _ in parts)
        rows = [catalogue().loads[part.catalogue or ""] for part in parts]
        self._travels_s = [
            part.number("inrush_s", row.inrush_s) for part, row in zip(parts, rows, strict=True)
        ]

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        across_v = abs(volts[self._plus] - volts[self._minus])
        wanted: Flags = (across_v >= self._pulls_at) | (closed & (across_v > self._pulls_at / 4))
        return wanted

    def delays_s(self) -> tuple[Sequence[float], Sequence[float]]:
        return self._travels_s, [0.02] * len(self.positions)


def load_terminal(rated_a: float) -> str:
    """The row of what wires of a load of this current end on."""
    if rated_a >= BOLTED_A:
        return HEAVY_STUD
    return LARGE_BLADE if rated_a >= LARGE_BLADE_A else BLADE


def rated_current_a(part: Part) -> float:
    """Current of a load at its test voltage: its own figure, or that of its catalogue row."""
    row = catalogue().loads[part.catalogue or ""]
    test_v = test_volts(part)
    if "rated_a" in part.figures:
        return part.number("rated_a", 0)
    if "rated_w" in part.figures or row.rated_a is None:
        return part.number("rated_w", row.rated_w or 0) / test_v
    return row.rated_a


def _starting_x(part: Part, rated_a: float) -> float:
    """Current at standstill against rated: from its own stall current, or its inrush."""
    if "stall_a" in part.figures:
        return part.number("stall_a", 0) / rated_a
    return part.number("inrush_x", catalogue().loads[part.catalogue or ""].inrush_x)


def test_volts(part: Part) -> float:
    """The volts at which a load is rated: its own figure, or that of its catalogue row."""
    return part.number("test_v", catalogue().loads[part.catalogue or ""].test_v)


def law_of_load(part: Part, current_factor: float = 1.0) -> OutputLaw:
    """The law of a load part; ``current_factor`` scales its rating, for tolerance."""
    row = catalogue().loads[part.catalogue or ""]
    test_v = test_volts(part)
    rated_a = max(rated_current_a(part) * current_factor, 1e-6)
    settles_s = max(part.number("inrush_s", row.inrush_s), LEAST_SETTLES_S)
    match row.kind:
        case "filament":
            return Filament(rated_a, test_v, settles_s)
        case "constant power":
            return ConstantPower(rated_a * test_v)
        case "constant current":
            return ConstantCurrent(rated_a)
        case "led string":
            return LedString(rated_a, test_v)
        case "motor":
            motor = FanMotor if row.name in catalogue().fan_loads else SteadyMotor
            return motor(rated_a, test_v, max(_starting_x(part, rated_a), 1.05), settles_s)
        case "gauge":
            return GaugeWinding(test_v / rated_a, test_v)
        case "starter":
            return DragMotor(rated_a, test_v, max(_starting_x(part, rated_a), 1.05), settles_s)
        case "ptc heater":
            return SelfHeater(rated_a, test_v, max(row.inrush_x, 1.05), settles_s)
        case _:
            return Resistor(test_v / rated_a, test_v)


def output_word(part: Part) -> str:
    """What ``output_percent`` of this load means: light, sound, speed, current or power."""
    row = catalogue().loads[part.catalogue or ""]
    if row.group == "lighting":
        return "light"
    if row.name == "Horn":
        return "sound"
    if row.kind == "gauge":
        return "current"
    return "speed" if row.kind in ("motor", "starter") else "power"
