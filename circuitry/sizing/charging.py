"""What is lost between an alternator at full output and the battery, feed and return together.

What is lost there the battery does not get: it is charged late, or never quite.
"""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Terminal
from circuitry.design.state import State, Supply
from circuitry.finding import Finding, Mend
from circuitry.network.network import Network, Settled
from circuitry.reach.ways import TAKES_POWER, Path
from circuitry.sizing.causes import fit_thicker, let_size
from circuitry.sizing.choose import LoadDrop, tapers
from circuitry.sizing.drop import is_missed
from circuitry.sizing.facts import Facts
from circuitry.sizing.result import Charging, Sizing
from circuitry.sizing.states import CHARGING as ALL_GIVE
from circuitry.sizing.states import DesignState

ROAD = CHARGING = "charging"
LEAST_A = 1.0
OUTPUTS = {"alternator": "B+", "converter": "+"}
"""What charges the battery, and the terminal at which it does."""
MOST_VISITS = 20_000
LOW_BATTERY = Supply(12.0, 1e-4)
"""A battery that takes all that the alternator gives."""


@dataclass(frozen=True)
class _Loop:
    """An alternator, the nodes of its output and its case, and its way from the battery."""

    alternator: str
    output: int
    case: int
    way: Path


class ChargingLoops:
    """The ways between all alternators of a build and its battery."""

    def __init__(self, facts: Facts, node: Mapping[Terminal, int]) -> None:
        self._facts = facts
        self._loops = []
        for part in facts.build.parts_of_kind(*OUTPUTS):
            ends = Terminal(part.id, OUTPUTS[part.kind]), Terminal(part.id, "-")
            ways = [
                way
                for way in facts.paths.ways(*ends, MOST_VISITS).each
                if not any(step.kind in TAKES_POWER for step in way.steps)
            ]
            if ways:
                way = min(ways, key=lambda way: len(way.steps))
                self._loops.append(_Loop(part.id, node[ends[0]], node[ends[1]], way))

    def states(self) -> list[DesignState]:
        """The engine running fast, with nothing switched on but what must be."""
        if not self._loops:
            return []
        running = State("run", supply=LOW_BATTERY, values=ALL_GIVE)
        return [DesignState(running, {}, ROAD)]

    def drops(
        self, network: Network, designed: Sequence[DesignState], settled: Sequence[Settled]
    ) -> list[LoadDrop]:
        """What is lost for each alternator that charges, against what may be."""
        if self._facts.build.policy.drop_school == "by ampacity alone":
            return []
        limit_v = charging_limit_v(self._facts.build)
        drops = []
        for number, (state, row) in enumerate(zip(designed, settled, strict=True)):
            for loop in self._loops if state.road == ROAD else ():
                node_v, battery_v = row.operating.node_v, network.battery_v(row)
                lost_v = float(node_v[loop.output] - node_v[loop.case]) - battery_v
                wires = list(
                    dict.fromkeys(
                        self._facts.at[step.owner] for step in loop.way.steps if step.kind == "wire"
                    )
                )
                amps = abs(network.wire_a(row)[wires]).tolist()
                if lost_v > 0 and max(amps, default=0.0) > LEAST_A:
                    drops.append(
                        LoadDrop(
                            loop.alternator,
                            number,
                            lost_v,
                            battery_v,
                            limit_v,
                            wires,
                            amps,
                            tapers(self._facts, loop.way),
                            max(amps),
                            0.0,
                            frozenset(),
                        )
                    )
        return drops


def charging_limit_v(build: Build) -> float:
    """What may be lost at full output, by the builder or as usual."""
    usual_v = catalogue().drop_limits[CHARGING].loop_limit_v_at_12v
    return build.policy.drop_limits_v.get(CHARGING, usual_v)


def charging_findings(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """Alternators of which too much is lost on the way to the battery."""
    for alternator, row in sizing.charging.items():
        if not is_missed(row.drop_v, row.limit_v):
            continue
        part = original.parts[alternator]
        yield Finding(
            "charging-loses",
            "look",
            (alternator, *row.wires),
            part.circuit,
            f"Too much is lost between {part.name} and the battery",
            f"{row.drop_v:.2f} V at {row.amps:.0f} A",
            f"{row.limit_v:.2f} V",
            "The regulator sees its own terminal and not the battery's: the battery is charged "
            "late, and never quite. Shorter or thicker cable, there and back.",
            tuple(_mends(original, sizing, alternator, row)),
        )


def _mends(original: Build, sizing: Sizing, alternator: str, row: Charging) -> Iterator[Mend]:
    wires = [original.wires[wire] for wire in row.wires]
    yield from let_size([wire for wire in wires if wire.size is not None])
    yield from fit_thicker(original, sizing, sizing.healing((alternator,)).sizes)
