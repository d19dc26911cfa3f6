"""A flasher: a contact that closes and opens by itself while it is fed."""

from collections.abc import Iterable, Iterator, Mapping, Sequence

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.logic import FLASHES_PER_MIN
from circuitry.design.model import Build, Part
from circuitry.devices.device import Around, Branch, Crossing, Device
from circuitry.devices.moving import LIT, Asked, Flags, Mover, Nodes, Volts, awake, column, nodes

ELECTRONICS_OHM = 10_000.0
TEST_V = 13.5
LEAST_FLASHED_W = 0.5
STAYS_S = 1e9


class Flasher(Device):
    """A contact from 49 to 49a, and what feeds it between 49 and 31 (DIN 72552)."""

    kind = "flasher"
    row_changes = True

    @property
    def usual_row(self) -> str:  # type: ignore[override]
        return next(iter(catalogue().flashers))

    def rows(self) -> Mapping[str, object] | None:
        return catalogue().flashers

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "49", "49a", "31"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        mohm = catalogue().flashers[part.catalogue or ""].contact_mohm
        yield Branch("flasher", "49", "49a", 1000 / mohm, position=LIT, crossing=Crossing())
        yield Branch("electronics", "49", "31", 1 / ELECTRONICS_OHM)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield _Flashers(parts, node)

    def is_left(self, part: Part, name: str) -> bool:
        return name == "49"


class _Flashers(Mover):
    """Closed while lit; electronic ones must be fed and grounded."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        kinds = [catalogue().flashers[part.catalogue or ""] for part in parts]
        self.positions = [(part.id, LIT) for part in parts]
        self._plus, self._minus = nodes(parts, "49", node), nodes(parts, "31", node)
        self._by_heat = column(not kind.is_electronic for kind in kinds) > 0

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        fed = awake(volts[self._plus] - volts[self._minus], closed)
        phase = np.array([asked.lit_of(owner) for owner, _ in self.positions])
        lit: Flags = (fed | self._by_heat) & phase
        return lit


def beat_s(part: Part, load_w: float) -> tuple[float, float]:
    """How long a flasher with such a load is lit and dark, in s; one that senses its load beats
    twice as fast with too little if it is electronic, and stays lit if it goes by heat."""
    kind = catalogue().flashers[part.catalogue or ""]
    half_s = 30.0 / FLASHES_PER_MIN
    if load_w >= kind.least_w:
        return half_s, half_s
    return (half_s / 2, half_s / 2) if kind.is_electronic else (STAYS_S, half_s)


def flasher_works(part: Part, amps: float, is_lit: bool) -> str:
    """What a flasher does with the current that it feeds while lit: its word for the tape."""
    kind = catalogue().flashers[part.catalogue or ""]
    load_w = abs(amps) * TEST_V
    if not is_lit or load_w < LEAST_FLASHED_W:
        return "at rest"
    if load_w < kind.least_w:
        return "flashing fast" if kind.is_electronic else "stays lit"
    return "flashing"
