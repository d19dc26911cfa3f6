"""The alternator: a regulated source, once its field is excited and the engine turns."""

from collections.abc import Iterable, Iterator, Sequence
from typing import Any

import numpy as np

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, Part
from circuitry.devices.device import BLADE, STUD, Around, Branch, Crossing, Device, Figure
from circuitry.devices.laws import Generator
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts, nodes

CHARGING = "charging"
FIELD_OHM = 12.0
FIELD_DIODES_S = 10.0
USUAL_A = 65.0
REGULATED_V = 14.3
REGULATED_V_PER_K = -0.01
REGULATED_AT_C = 25.0
EXCITED_V = 0.1
CUT_IN_RPM = 600.0
CURVE = ((600.0, 0.0), (900.0, 0.5), (1500.0, 0.75), (2500.0, 0.92), (4000.0, 1.0))
"""Engine speed in rpm against the share of the rated current; typical, warm, pulleys 2.5 to 1."""


class Alternator(Device):
    """The generator, and D+: the field to be excited, or the output of the field diodes.

    Terminals as in DIN 72552.
    """

    kind = "alternator"
    goes_with = "engine_rpm"
    figures = (
        Figure("rated_a", "rating", "A", USUAL_A),
        Figure("regulated_v", "regulated to", "V", REGULATED_V),
    )

    def terminals(self, part: Part) -> tuple[str, ...]:
        return "B+", "D+", "-"

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        regulated_v = part.number("regulated_v", REGULATED_V)
        regulated_v += REGULATED_V_PER_K * (around.ambient_c - REGULATED_AT_C)
        law = Generator(regulated_v, part.number("rated_a", USUAL_A))
        yield Branch("alternator", "B+", "-", law=law, position=CHARGING)
        yield Branch("field", "D+", "-", 1 / FIELD_OHM, position="rest", crossing=Crossing())
        yield Branch("field", "B+", "D+", FIELD_DIODES_S, position=CHARGING)

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        yield _Alternators(parts, node)

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        return catalogue().terminals[BLADE if name == "D+" else STUD]

    def is_left(self, part: Part, name: str) -> bool:
        return False


class _Alternators(Mover):
    """Charge above their cut-in speed once the field has been excited, through the warning lamp."""

    closes_s, opens_s = 0.1, 0.02
    """How fast a field builds up, and is gone; typical."""

    def __init__(self, parts: Sequence[Part], node: Nodes) -> None:
        self.positions = [(part.id, CHARGING) for part in parts]
        self._field, self._case = nodes(parts, "D+", node), nodes(parts, "-", node)

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        excited = closed | (volts[self._field] - volts[self._case] >= EXCITED_V)
        return excited & (asked.value("engine_rpm") > CUT_IN_RPM)


def alternator_share(engine_rpm: Any) -> Any:
    """Share of its rated current that an alternator gives at an engine speed, by straight lines;
    a figure, or an array of them."""
    speeds, shares = zip(*CURVE, strict=True)
    return np.interp(engine_rpm, speeds, shares)
