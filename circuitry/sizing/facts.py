"""What a build says of each wire whatever its size: computed once, asked in every round."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from circuitry.build.kinds import MODULE_TERMINALS, relay_row
from circuitry.build.model import Build, Pin, Terminal, Way, Wire
from circuitry.build.routes import length_m, places_passed, way_of
from circuitry.catalogue import Insulation, catalogue
from circuitry.network.elements import conductor_ohm
from circuitry.network.laws import rated_current_a
from circuitry.network.paths import paths_of
from circuitry.recipes.protection import fuse_output
from circuitry.sizing.ampacity import cover_factor, free_air_ampacity_a

LEAST_MM2 = 0.5
LEAST_ENGINE_BAY_MM2 = 0.75
TAP_LIMIT_M = 0.3
BOLTED_KINDS = ("battery", "stud", "bus bar", "ground point", "isolator", "alternator")
BOLTED_RELAY_A = 70.0
BOLTED_LOAD_A = 40.0
"""Kinds and currents from which terminals are screwed; typical."""


@dataclass(frozen=True)
class WireFacts:
    """One wire: its way, its surroundings, and per size of the build's system what it would be.

    ``alone_a`` is the ampacity as the only loaded wire of its runs, ``ohm_20c`` the conductor's
    resistance; both by the index of the size. ``most`` is the index of the largest size that is
    fitted only to lose less: a blade or a pin takes no thicker wire.
    """

    length_m: float
    runs: tuple[str, ...]
    hottest_c: float
    limit_c: float
    least_mm2: float
    most: int
    alone_a: tuple[float, ...]
    ohm_20c: tuple[float, ...]


@dataclass(frozen=True)
class Channel:
    """An electronic output that protects the wires behind it, by name, with its limit in A."""

    name: str
    limit_a: float


@dataclass(frozen=True)
class FactsTable:
    """Facts as arrays: ``alone_a`` and ``ohm_20c`` by wire and size, the others by wire, the areas
    of the sizes by size."""

    alone_a: Any
    ohm_20c: Any
    hottest_c: Any
    limit_c: Any
    least_mm2: Any
    area_mm2: Any


class Facts:
    """The facts of all wires of a build, and where its protection stands."""

    def __init__(self, build: Build) -> None:
        self.build = build
        self.sizes = catalogue().conductors[build.policy.conductors]
        self.index = {size.name: number for number, size in enumerate(self.sizes)}
        self._alone: dict[tuple[Insulation, float, float], tuple[float, ...]] = {}
        self.wires = {wire.id: self._facts(wire) for wire in build.wires.values()}
        self.paths = paths_of(build)
        self.wires_in_run: dict[str, list[str]] = {}
        for wire_id, facts in self.wires.items():
            for run in facts.runs:
                self.wires_in_run.setdefault(run, []).append(wire_id)

    def alone_a(self, wire: str, size: str) -> float:
        """Ampacity of a wire in any size of the catalogue, its neighbours left aside."""
        if size in self.index:
            return self.wires[wire].alone_a[self.index[size]]
        row, hottest_c = self.build.wires[wire], self.wires[wire].hottest_c
        alone_a = free_air_ampacity_a(catalogue().conductor[size], self._insulation(row), hottest_c)
        return alone_a * cover_factor(self.build, row)

    def ohm_20c(self, wire: str, size: str) -> float:
        """Conductor resistance of a wire at 20 °C in any size of the catalogue."""
        if size in self.index:
            return self.wires[wire].ohm_20c[self.index[size]]
        return conductor_ohm(self.build, self.build.wires[wire], 20.0, size)

    @cached_property
    def table(self) -> "FactsTable":
        """The facts of all wires as arrays, in the order of ``wires``."""
        rows = list(self.wires.values())
        return FactsTable(
            np.array([row.alone_a for row in rows]),
            np.array([row.ohm_20c for row in rows]),
            np.array([row.hottest_c for row in rows]),
            np.array([row.limit_c for row in rows]),
            np.array([row.least_mm2 for row in rows]),
            np.array([size.copper_area_mm2 for size in self.sizes]),
        )

    @cached_property
    def wires_behind(self) -> Mapping[str, tuple[str, ...]]:
        """For each fuse the wires that current can take from it, up to the next fuse."""
        return {
            fuse.id: tuple(
                {s.owner: None for s in self.paths.behind(fuse_output(fuse)) if s.kind == "wire"}
            )
            for fuse in self.build.parts_of_kind("fuse")
        }

    @cached_property
    def channel_of_wire(self) -> Mapping[str, Channel]:
        """For each wire behind an output with a limit, that output."""
        channels = {}
        for part in self.build.parts_of_kind("module", "box"):
            rows: list[Way | Pin] = [*part.ways, *part.pins]
            for row in rows:
                if row.limit_a is None or getattr(row, "function", "high side") != "high side":
                    continue
                channel = Channel(f"{row.name} of {part.name}", row.limit_a)
                for step in self.paths.behind(Terminal(part.id, row.name)):
                    if step.kind == "wire":
                        channels[step.owner] = channel
        return channels

    @cached_property
    def unprotected(self) -> frozenset[str]:
        """Wires that stand before any fuse."""
        return frozenset(
            step.owner for step in self.paths.behind(self.paths.plus) if step.kind == "wire"
        )

    @cached_property
    def taps(self) -> Mapping[str, tuple[str, ...]]:
        """Short wires that lead to fuses only, with those fuses.

        What can go wrong behind them is cleared there, so they need not carry what the larger
        fuse before them lets pass.
        """
        taps = {}
        for wire in self.build.wires.values():
            if self.wires[wire.id].length_m > TAP_LIMIT_M + 1e-9:
                continue
            for end in (wire.from_terminal, wire.to_terminal):
                onward = [edge.step for edge in self.paths.edges[end] if edge.step.owner != wire.id]
                if onward and all(step.kind == "fuse" for step in onward):
                    taps[wire.id] = tuple(step.owner for step in onward)
        return taps

    def _facts(self, wire: Wire) -> WireFacts:
        places = places_passed(self.build, wire)
        hottest_c = max(place.ambient_c for place in places)
        insulation, cover = self._insulation(wire), cover_factor(self.build, wire)
        metres = length_m(self.build, wire)
        return WireFacts(
            metres,
            tuple(run.id for run in way_of(self.build, wire)),
            hottest_c,
            insulation.continuous_limit_c,
            least_area_mm2(self.build, wire),
            self._most(wire),
            self._alone_a(insulation, hottest_c, cover),
            tuple(size.r20_mohm_per_m / 1000 * metres for size in self.sizes),
        )

    def _most(self, wire: Wire) -> int:
        if all(self._is_bolted(end) for end in (wire.from_terminal, wire.to_terminal)):
            return len(self.sizes) - 1
        most_mm2 = max(
            row.wire_max_mm2 for row in catalogue().connectors if row.contact.startswith("blade")
        )
        areas = [size.copper_area_mm2 for size in self.sizes]
        return max(sum(area <= most_mm2 * 1.01 for area in areas) - 1, 0)

    def _is_bolted(self, terminal: Terminal) -> bool:
        """Whether a wire ends here in a ring under a screw, and not on a blade or pin."""
        part = self.build.parts[terminal.part]
        match part.kind:
            case "fuse":
                return (part.catalogue or "").startswith("bolt-down")
            case "relay":
                heavy = relay_row(part).no_continuous_a_23c >= BOLTED_RELAY_A
                return heavy and terminal.name in ("30", "87")
            case "panel":
                return terminal.name in {way.bus for way in part.ways}
            case "module":
                return terminal.name in MODULE_TERMINALS
            case "load":
                return rated_current_a(part) >= BOLTED_LOAD_A
            case "box":
                return part.id in self._heavy_units and terminal.name in ("30", "31")
        return part.kind in BOLTED_KINDS

    @cached_property
    def _heavy_units(self) -> set[str]:
        """Units that hold a load of many amps, such as a starter."""
        loads = (part for part in self.build.parts_of_kind("load") if part.housed)
        heavy = (load for load in loads if rated_current_a(load) >= BOLTED_LOAD_A)
        return {load.housed.unit for load in heavy if load.housed}

    def _alone_a(self, insulation: Insulation, hottest_c: float, cover: float) -> tuple[float, ...]:
        key = (insulation, hottest_c, cover)
        if key not in self._alone:
            self._alone[key] = tuple(
                cover * free_air_ampacity_a(size, insulation, hottest_c) for size in self.sizes
            )
        return self._alone[key]

    def _insulation(self, wire: Wire) -> Insulation:
        return catalogue().insulation[wire.insulation or self.build.policy.insulation]


def least_area_mm2(build: Build, wire: Wire) -> float:
    """0.5 mm² generally; 0.75 in the engine bay, at doors and over moving hinges."""
    hard = any(
        place.zone.startswith("engine bay") or place.zone == "door"
        for place in places_passed(build, wire)
    ) or any("moving hinge" in run.passes for run in way_of(build, wire))
    return LEAST_ENGINE_BAY_MM2 if hard else LEAST_MM2
