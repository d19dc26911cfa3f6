"""A build as two-terminal elements between numbered nodes: what the equations are made of."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

import numpy as np

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.design.routes import length_m
from circuitry.devices import DEVICES, terminals_of
from circuitry.devices.device import Around, Branch
from circuitry.devices.fuse import fuse_siemens
from circuitry.devices.terminals import is_screwed
from circuitry.errors import UnusableInput
from circuitry.network.equations import Element, Vector

COPPER_PER_K = 0.00393
BODY_MOHM = 1.0
GARAGE_C = 20.0


@dataclass(frozen=True)
class Tolerance:
    """Factors on load current and on the resistance of joints and contacts."""

    load_current: float = 1.0
    joint_resistance: float = 1.0


EXACT = Tolerance()


def nodes_of(build: Build) -> dict[Terminal, int]:
    """A node for each terminal; terminals of fitted and housed parts share those they land on."""
    node: dict[Terminal, int] = {}
    inside: list[Terminal] = []
    for part in build.parts.values():
        for name in terminals_of(part):
            terminal = Terminal(part.id, name)
            if build.lands(terminal) == terminal:
                node[terminal] = len(node)
            else:
                inside.append(terminal)
    for terminal in inside:
        node[terminal] = node[build.lands(terminal)]
    return node


class Elements:
    """The elements of one build: those that sizes change, and those that they do not."""

    def __init__(self, build: Build, node: Mapping[Terminal, int], tolerance: Tolerance) -> None:
        self.build = build
        self.node = node
        self.tolerance = tolerance
        self.body_node = len(set(node.values()))
        self.fuses = build.parts_of_kind("fuse")
        joints = [joints_ohm(build, wire) for wire in build.wires.values()]
        self.joints_ohm = tolerance.joint_resistance * np.array(joints)

    def sized(self) -> list[Element]:
        """Wires and fuses; their conductances come with each set of sizes."""
        wires = self.build.wires.values()
        ends = ((self.node[wire.from_terminal], self.node[wire.to_terminal]) for wire in wires)
        return [
            *(Element("wire", wire.id, *pair) for wire, pair in zip(wires, ends, strict=True)),
            *(row for part in self.fuses for row in self._branches(part)),
        ]

    def siemens(self, conductor_ohm: Vector, ratings_a: Iterable[float | None]) -> Vector:
        """Conductances of wires and fuses, from each wire's conductor and each fuse's rating."""
        fuses = zip(self.fuses, ratings_a, strict=True)
        return np.concatenate(
            [
                1 / (conductor_ohm + self.joints_ohm),
                [
                    fuse_siemens(part, rating_a, self.tolerance.joint_resistance)
                    for part, rating_a in fuses
                ],
            ]
        )

    def conductor_ohm(self, conductor_c: Mapping[str, float]) -> Vector:
        """Resistance of each wire's conductor in the size it has; 20 °C where nothing is said."""
        build = self.build
        return np.array(
            [
                conductor_ohm(build, wire, conductor_c.get(wire.id, GARAGE_C))
                for wire in build.wires.values()
            ]
        )

    def fixed(self) -> list[Element]:
        """Everything else, by kind of part; what the battery gives comes with each state."""
        parts = [part for device in DEVICES for part in self.build.parts_of_kind(device)]
        branches = (self._branches(part) for part in parts if part.kind != "fuse")
        return [*(row for rows in branches for row in rows), *self._body()]

    def _branches(self, part: Part) -> Iterator[Element]:
        around = Around(
            self.build.places[part.place].ambient_c,
            self.tolerance.load_current,
            self.tolerance.joint_resistance,
        )
        for branch in DEVICES[part.kind].branches(part, around):
            yield self._element(part, branch)

    def _element(self, part: Part, branch: Branch) -> Element:
        first, last = (self.node[Terminal(part.id, name)] for name in (branch.first, branch.last))
        return Element(
            branch.kind,
            part.id,
            first,
            last,
            branch.siemens,
            branch.emf_v,
            branch.law,
            branch.position,
        )

    def _body(self) -> Iterator[Element]:
        if not self.build.body_conducts:
            return
        for part in self.build.parts.values():
            if DEVICES[part.kind].in_body:
                (terminal,) = terminals_of(part)
                node = self.node[Terminal(part.id, terminal)]
                yield Element("body", part.id, node, self.body_node, 1000 / BODY_MOHM)


def conductor_ohm(build: Build, wire: Wire, conductor_c: float, size: str | None = None) -> float:
    """``R = r20 · L`` times the factor of copper's temperature, in this or another size."""
    return ohm_per_m(wire, size) * length_m(build, wire) * float(copper_factor(conductor_c))


def ohm_per_m(wire: Wire, size: str | None = None) -> float:
    """Resistance of a metre of a wire at 20 °C, in this or another size."""
    name = size or wire.size
    if name is None:
        raise UnusableInput(
            "unsized-wire", wire.label, f"Wire {wire.label} has no size yet. Size it first."
        )
    return catalogue().conductor[name].r20_mohm_per_m / 1000


def copper_factor(conductor_c: Any) -> Any:
    """Resistance of copper against that at 20 °C: ``1 + 0.00393 (T − 20)`` (IEC 60028).

    A float, or an array of them.
    """
    return 1 + COPPER_PER_K * (conductor_c - 20)


def joints_ohm(build: Build, wire: Wire) -> float:
    """Resistance of the joints at both ends of a wire: a ring where it ends on a stud."""
    ends = ((wire.joint_from, wire.from_terminal), (wire.joint_to, wire.to_terminal))
    rows = catalogue().joints
    return sum(rows[own or usual_joint(build, end)].resistance_mohm for own, end in ends) / 1000


def usual_joint(build: Build, terminal: Terminal) -> str:
    """How a wire is joined where nothing is said: a ring on a stud, else as the policy has it."""
    return "ring" if is_screwed(build, terminal) else build.policy.joint
