"""What the user has set: the key, the switches, the supply and the meters."""

from collections.abc import Mapping
from dataclasses import dataclass, field

from circuitry.design.model import Part, Terminal


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
    what else sensors tell, by the names of ``design.logic.VALUES``; others are as usual. ``lost``
    are ids of data buses, modules, keypads and boxes that do nothing any more. ``alternator_share``
    is the share of its most that an alternator can give at its speed: less in heat, none on a torn
    belt.
    """

    key: str = "off"
    switches: Mapping[str, str] = field(default_factory=dict)
    supply: Supply | None = None
    meters: tuple[tuple[Terminal, Terminal], ...] = ()
    phase: str = "lit"
    values: Mapping[str, float] = field(default_factory=dict)
    lost: frozenset[str] = frozenset()
    alternator_share: float = 1.0


def position_of(part: Part, state: State) -> str:
    """The position a switch is in: as set, or at rest; the key switch follows the key."""
    if part.contacts is None:
        return ""
    if part.kind == "key switch":
        return state.key
    return state.switches.get(part.id, part.contacts.positions[0].name)
