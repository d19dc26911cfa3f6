"""Everything of a build that moves by itself, asked together; the network solves again until none
wants to move."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from circuitry.design.model import Build
from circuitry.devices import DEVICES
from circuitry.devices.moving import Asked, Flags, Mover, Nodes, Volts


@dataclass(frozen=True)
class Movers:
    """What moves by itself, by kind of part."""

    each: Sequence[Mover]

    @property
    def positions(self) -> list[tuple[str, str]]:
        """The position of each row."""
        return [position for mover in self.each for position in mover.positions]

    def wants(self, volts: Volts, asked: Asked, closed: Flags) -> Flags:
        """The positions that each thing wants, by row and state."""
        wanted = np.empty(closed.shape, dtype=bool)
        first = 0
        for mover in self.each:
            rows = slice(first, first + len(mover.positions))
            wanted[rows] = mover.wants(volts, asked, closed[rows])
            first = rows.stop
        return wanted


def movers(build: Build, node: Nodes) -> Movers:
    """Everything of a build that moves by itself; ``node`` numbers its terminals."""
    each: list[Mover] = []
    for kind, device in DEVICES.items():
        parts = build.parts_of_kind(kind)
        if parts:
            each += device.movers(parts, node, build)
    return Movers(each)
