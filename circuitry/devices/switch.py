"""Switches, the key and battery isolators: contacts that somebody moves."""

from collections.abc import Iterator, Mapping, Sequence
from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import KEY_POSITIONS, Build, ContactTable, Part
from circuitry.devices.contact_tables import ISOLATOR, KEY, SWITCHES
from circuitry.devices.device import (
    BLADE,
    HEAVY_STUD,
    Around,
    Branch,
    Device,
    Figure,
    contact_branches,
)
from circuitry.errors import UnusableInput

CARRIED = Figure("contact_rating_a", "contacts carry", "A")
KEY_COST = {"off": 0, "accessory": 10, "run": 11, "crank": 40}


class Switch(Device):
    """Contacts by position, the first at rest."""

    kind = "switch"
    figures: tuple[Figure, ...] = (CARRIED,)
    is_switch = True
    is_shared = True
    put_into: tuple[str, str] | None = ("in", "out")
    tables: Mapping[str, ContactTable] = SWITCHES
    usual_table = "Switch, off and on"
    joint = "switch contact"
    cost: Mapping[str, int] = {}

    def choices(self) -> Sequence[str]:
        return list(self.tables) if len(self.tables) > 1 else []

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        table = row if row is not None and row in self.tables else self.usual_table
        return {"catalogue": table, "contacts": self.tables[table]}

    def terminals(self, part: Part) -> tuple[str, ...]:
        return part.contacts.terminals if part.contacts else ()

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        if part.contacts is None or not part.contacts.positions:
            yield UnusableInput(
                "no-contacts",
                part.id,
                f"{who} has no contact table. Give it positions and joins.",
            )
            return
        names = [position.name for position in part.contacts.positions]
        if len(set(names)) < len(names):
            yield UnusableInput("two-positions", part.id, f"{who} has two positions of one name.")

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        if part.contacts:
            mohm = catalogue().joints[self.joint].resistance_mohm
            yield from contact_branches(part, part.contacts, mohm, around, self.cost)

    def says(self, part: Part, kind: str) -> str:
        return self.kind


class KeySwitch(Switch):
    """The key: its position is that of the state."""

    kind = "key switch"
    added_by_hand = False
    is_shared = False
    put_into = None
    tables = {"Key switch": KEY}  # noqa: RUF012
    usual_table = "Key switch"
    cost = KEY_COST

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        yield from super().problems(build, part, who)
        if part.contacts is None or not part.contacts.positions:
            return
        names = tuple(position.name for position in part.contacts.positions)
        if names != KEY_POSITIONS:
            yield UnusableInput(
                "key-positions",
                part.id,
                f"{who} has positions {', '.join(names)}; a key switch has "
                f"{', '.join(KEY_POSITIONS)}.",
            )


class Isolator(Switch):
    """What cuts the battery off."""

    kind = "isolator"
    put_into = None
    tables = {"Battery isolator": ISOLATOR}  # noqa: RUF012
    usual_table = "Battery isolator"
    joint = "isolator contact"

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        main = name in ("in", "out", "alternator")
        return catalogue().terminals[HEAVY_STUD if main else BLADE]
