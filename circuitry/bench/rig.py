"""A build as it is wired on the bench: its network, and what of it warms, melts and trips."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from circuitry.bench.standins import Around
from circuitry.catalogue import catalogue
from circuitry.design.logic import flashes
from circuitry.design.model import Build, Terminal
from circuitry.devices import electronics_of, switches_of, terminals_of
from circuitry.devices.battery import capacity_ah
from circuitry.devices.electronics import on, outputs_of, supply_of
from circuitry.devices.laws import OutputLaw
from circuitry.network import Network
from circuitry.network.equations import Numbers, Vector
from circuitry.network.live import LiveNetwork
from circuitry.sizing.result import Sizing
from circuitry.sizing.transient import Wires, warms_in_s

LEAST_CARRIED_A = 0.5


@dataclass(frozen=True)
class WireHeats:
    """How wires warm, as arrays in the order of the build: conductor at 20 °C and joints in Ω, what
    a squared amp warms for ever in K, time constants in s, the air, and the limits of insulation
    for ever and for short times in °C."""

    conductor_ohm: Vector
    joints_ohm: Vector
    rise_k_per_a2: Vector
    tau_s: Vector
    air_c: Vector
    limit_c: Vector
    damage_c: Vector

    @property
    def limit_k(self) -> Vector:
        """The rise that insulation bears for ever."""
        return self.limit_c - self.air_c


def wire_heats(sizing: Sizing, network: Network) -> WireHeats:
    """How the wires of a sized build warm, from its ampacities; a wire that may carry nothing where
    it lies is taken as one that carries half an amp."""
    rows = [sizing.wires[wire] for wire in sizing.build.wires]
    conductors = [catalogue().conductor[row.size] for row in rows]
    insulations = [catalogue().insulation[row.insulation] for row in rows]
    wires = Wires(
        np.array([conductor.copper_area_mm2 for conductor in conductors]),
        np.array([conductor.outside_diameter_mm for conductor in conductors]),
        np.array([conductor.r20_mohm_per_m / 1000 for conductor in conductors]),
        np.array([insulation.continuous_limit_c for insulation in insulations]),
        np.array([insulation.short_circuit_limit_c for insulation in insulations]),
    )
    air_c = np.minimum(np.array([row.ambient_c for row in rows]), wires.limit_c - 5)
    carries_a = np.maximum(np.array([row.carries_a for row in rows]), LEAST_CARRIED_A)
    return WireHeats(
        network.make.conductor_ohm({}),
        network.make.joints_ohm,
        (wires.limit_c - air_c) / carries_a**2,
        warms_in_s(wires, air_c, carries_a),
        air_c,
        wires.limit_c,
        wires.damage_c,
    )


@dataclass(frozen=True)
class Ramp:
    """A channel that comes on softly: the elements' row, the seconds, its supply and ground."""

    row: int
    seconds: float
    supply: int
    ground: int


class Rig:
    """A wired build and its network, laid out for stepping."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.network = Network(build)
        self.live = LiveNetwork(self.network)
        self.around = Around(build)
        delays = [mover.delays_s() for mover in self.network.movers.each]
        self.closes_s = np.concatenate([np.array([]), *(np.array(row) for row, _ in delays)])
        self.opens_s = np.concatenate([np.array([]), *(np.array(row) for _, row in delays)])
        self.lag_of = {
            (self.live.elements[row].owner, self.live.elements[row].position or ""): number
            for row, number in self.live.lags.of_row().items()
        }
        self.row_of = {
            (element.kind, element.owner): row for row, element in enumerate(self.live.elements)
        }
        kinds = {part.id: part.kind for part in build.parts.values()}
        fuses = self._lags(kinds, "fuse")
        self.channels = self._lags(kinds, "module")
        self.fuse_ids = [owner for _, (owner, _) in fuses]
        self.fuse_lags = np.array([number for number, _ in fuses], dtype=int)
        channel_lags = np.array([number for number, _ in self.channels], dtype=int)
        self.parting_lags = np.concatenate([self.fuse_lags, channel_lags])
        self.flashers = [part.id for part in build.parts_of_kind("flasher")]
        self.flashing = {
            part.id: [on(name) for name, when in outputs_of(part) if flashes(when)]
            for part in electronics_of(build)
            if any(flashes(when) for _, when in outputs_of(part))
        }
        self.wire_ends = np.array(
            [self.network.node[wire.to_terminal] for wire in build.wires.values()], dtype=int
        )
        self.switch_ends = {
            part.id: np.array(
                [self.network.node[Terminal(part.id, name)] for name in terminals_of(part)]
            )
            for part in switches_of(build)
            if terminals_of(part) and part.kind != "key switch"
        }
        self.position_number = {pair: n for n, pair in enumerate(self.network.positions)}

    def _lags(self, kinds: dict[str, str], kind: str) -> list[tuple[int, tuple[str, str]]]:
        return [
            (number, pair) for pair, number in self.lag_of.items() if kinds.get(pair[0]) == kind
        ]

    @cached_property
    def ramps(self) -> dict[tuple[str, str], Ramp]:
        """The channels that come on softly, by part and position."""
        found = {}
        for part in electronics_of(self.build):
            ends = supply_of(part)
            for way in part.ways:
                if way.soft_s > 0 and ends and (rows := self.rows_of(part.id, on(way.name))):
                    supply, ground = (self.network.node[Terminal(part.id, end)] for end in ends)
                    found[part.id, on(way.name)] = Ramp(rows[0], way.soft_s, supply, ground)
        return found

    def rows_of(self, owner: str, position: str) -> Sequence[int]:
        """The elements of a part that conduct in a position."""
        return self.network.layout.rows.get((owner, position), ())

    @cached_property
    def held_loads(self) -> tuple[Numbers, Numbers]:
        """Of the loads in the order of the build, those that settle with time, and the numbers of
        their states."""
        of_row = self.live.lags.of_row()
        rows = self.network.layout.load_rows.tolist()
        held = [(at, of_row[row]) for at, row in enumerate(rows) if row in of_row]
        at, numbers = zip(*held, strict=True) if held else ((), ())
        return np.array(at, dtype=int), np.array(numbers, dtype=int)

    @cached_property
    def law_of(self) -> dict[str, OutputLaw]:
        """The law of each load."""
        laws = {part: self.network.elements[row].law for part, row in self._load_rows()}
        return {part: law for part, law in laws.items() if isinstance(law, OutputLaw)}

    def _load_rows(self) -> Iterator[tuple[str, int]]:
        return ((owner, row) for (kind, owner), row in self.row_of.items() if kind == "load")

    @cached_property
    def capacity_ah(self) -> Vector:
        """What each battery holds, in the order of its charge."""
        batteries = self.live.batteries
        return np.array([capacity_ah(self.build.parts[name]) for name in batteries])
