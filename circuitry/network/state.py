"""What the user has set: the key, the switches, the supply and the meters."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from itertools import pairwise

from circuitry.design.checks import terminal_problem
from circuitry.design.kinds import SWITCH_KINDS
from circuitry.design.logic import VALUES
from circuitry.design.model import KEY_POSITIONS, Build, Part, Terminal
from circuitry.errors import UnusableInput

OPEN_CIRCUIT_V = ((0.0, 11.8), (0.25, 12.1), (0.5, 12.4), (1.0, 12.65))
DEFAULT_BATTERY_MOHM = 7.0


@dataclass(frozen=True)
class Supply:
    """A source of voltage behind a resistance."""

    emf_v: float
    resistance_ohm: float


@dataclass(frozen=True)
class State:
    """Key position, switch positions by part id (others rest), supply, meters and values.

    ``supply`` None takes the battery as it is. ``meters`` are pairs of red and black terminal.
    ``phase`` is that of every flasher that is fed, lit or dark. ``values`` are engine speed and
    what else sensors tell, by the names of ``build.logic.VALUES``; others are as usual.
    """

    key: str = "off"
    switches: Mapping[str, str] = field(default_factory=dict)
    supply: Supply | None = None
    meters: tuple[tuple[Terminal, Terminal], ...] = ()
    phase: str = "lit"
    values: Mapping[str, float] = field(default_factory=dict)


def battery_supply(battery: Part) -> Supply:
    """Open-circuit voltage by state of charge, straight between the published points."""
    charge = battery.number("state_of_charge", 1.0)
    for (low, low_v), (high, high_v) in pairwise(OPEN_CIRCUIT_V):
        if charge <= high:
            emf_v = low_v + (high_v - low_v) * (charge - low) / (high - low)
            break
    return Supply(emf_v, max(battery.number("resistance_mohm", DEFAULT_BATTERY_MOHM), 0.1) / 1000)


def check_state(build: Build, state: State) -> None:
    """Raise UnusableInput when the state names what the build does not have."""
    if state.key not in KEY_POSITIONS:
        raise UnusableInput(
            "unknown-key", "key", f"The key has no “{state.key}”: {', '.join(KEY_POSITIONS)}."
        )
    for part_id, position in state.switches.items():
        part = build.parts.get(part_id)
        if part is None or part.kind not in SWITCH_KINDS or part.contacts is None:
            raise UnusableInput("unknown-switch", part_id, f"The build has no switch “{part_id}”.")
        if part.contacts.position(position) is None:
            names = ", ".join(row.name for row in part.contacts.positions)
            raise UnusableInput(
                "unknown-position",
                part_id,
                f"Switch “{part.name}” has no position “{position}”. It has {names}.",
            )
    for name in state.values:
        if name not in VALUES:
            raise UnusableInput(
                "unknown-value", name, f"No sensor tells “{name}”. Values: {', '.join(VALUES)}."
            )
    for terminal in (probe for meter in state.meters for probe in meter):
        problem = terminal_problem(build, terminal, "The voltmeter is on")
        if problem:
            raise UnusableInput("missing-terminal", str(terminal), problem)


def position_of(part: Part, state: State) -> str:
    """The position a switch is in: as set, or at rest; the key switch follows the key."""
    if part.contacts is None:
        return ""
    if part.kind == "key switch":
        return state.key
    return state.switches.get(part.id, part.contacts.positions[0].name)
