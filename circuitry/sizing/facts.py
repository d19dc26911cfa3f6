"""What a build says of each wire whatever its size: computed once, asked in every round."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import numpy.typing as npt

from circuitry.catalogue import USUAL_SHELF, Conductor, Insulation, catalogue
from circuitry.design.model import Build, Pin, Place, Policy, Run, Terminal, Way, Wire
from circuitry.design.routes import ends_of, insulation_of, length_m, places_passed, way_of
from circuitry.devices import electronics_of
from circuitry.devices.terminals import fits, terminal_range
from circuitry.network.equations import Vector
from circuitry.reach.paths import paths_of
from circuitry.reach.ways import Step
from circuitry.recipes.protection import fuse_output
from circuitry.sizing.ampacity import (
    COVER_FACTOR,
    COVERS_THAT_HOLD_HEAT,
    chart_a,
    free_air_ampacity_a,
)
from circuitry.sizing.states import starts
from circuitry.sizing.transient import Wires

Matrix = npt.NDArray[np.float64]
Numbers = npt.NDArray[np.int_]
Pairs = tuple[Numbers, Numbers]
LEAST_MM2 = 0.5
LEAST_ENGINE_BAY_MM2 = 0.75
LEAST_LINK_MM2 = 8.0
"""A link between bars, studs, ground points and the battery, on which others come to lean: 10 mm²
or 8 AWG."""
LEAST_STARTER_MM2 = 33.0
"""A starter's cable, there or back: 35 mm² or 2 AWG."""
LINKED = frozenset({"stud", "bus bar", "ground point", "battery"})
TAP_LIMIT_M = 0.3
MOST_VISITS = 20_000
"""Terminals that the search for the way between two batteries may visit."""


@dataclass(frozen=True)
class Surroundings:
    """What wires of one way have in common: the ids of its runs, its hottest place, the factor of
    its cover, and the least size that is worked with there."""

    runs: tuple[str, ...]
    hottest_c: float
    cover: float
    least_mm2: float


@dataclass(frozen=True)
class WireFacts:
    """One wire: its way and its surroundings, and the least size for what it is."""

    length_m: float
    insulation: Insulation
    around: Surroundings
    least_mm2: float


@dataclass(frozen=True)
class Channel:
    """An electronic output that protects the wires behind it, and its limit in A."""

    output: Terminal
    limit_a: float


@dataclass(frozen=True)
class FactsTable:
    """Facts as arrays. By wire and size: ``alone_a``, the ampacity as the only loaded wire of its
    runs, and ``ohm_20c``, the conductor's resistance; ``area_mm2`` by size, and ``chart_a``, what
    that size is trusted with; ``wires`` is what heats and bears, by both; the others by wire."""

    alone_a: Matrix
    ohm_20c: Matrix
    hottest_c: Vector
    limit_c: Vector
    length_m: Vector
    area_mm2: Vector
    chart_a: Vector
    wires: Wires


class Facts:
    """The facts of all wires of a build, and where its protection stands.

    ``sizes`` are those of the build's shelf, of which there are ``choosable``, and after them any
    others that wires are pinned to. ``least`` and ``most`` are the numbers of the thinnest and
    thickest size that the terminals of each wire take and, of the thinnest, that is worked with by
    hand. Arrays are in the order of the build.
    """

    def __init__(self, build: Build) -> None:
        self.build = build
        shelf = shelf_of(build.policy)
        rows = {wire.size: None for wire in build.wires.values() if wire.size is not None}
        pinned = (catalogue().conductor[name] for name in rows)
        self.sizes = (*shelf, *(size for size in pinned if size not in shelf))
        self.choosable = len(shelf)
        self.index = {size.name: number for number, size in enumerate(self.sizes)}
        self._bare_a: dict[tuple[str, float], Vector] = {}
        self._around: dict[object, Surroundings] = {}
        self._spans: dict[tuple[Terminal, Terminal, float], tuple[int, int]] = {}
        self.paths = paths_of(build)
        self._least_on_ways = self._of_batteries() | self._of_starters()
        self.wires = {wire.id: self._facts(wire) for wire in build.wires.values()}
        self.at = {wire: number for number, wire in enumerate(self.wires)}
        self.circuit_of = {part.id: part.circuit for part in build.parts.values()}
        self.circuit_of |= {wire.id: wire.circuit for wire in build.wires.values()}
        self._returns: Mapping[str, frozenset[str]] = {}
        self.channel_of_return: Mapping[str, Channel] = {}

    def guard_returns(self, guards: Mapping[str, frozenset[Step]]) -> None:
        """From now on a return answers for the last protection on the way to each thing that it
        returns: what that lets pass comes back over it. Wires that a fuse feeds are none."""
        feeds = {wire for behind in self.wires_behind.values() for wire in behind}
        returns = {wire: steps for wire, steps in guards.items() if wire not in feeds}
        self._returns = {
            wire: frozenset(step.owner for step in steps if step.kind == "fuse")
            for wire, steps in returns.items()
        }
        self._returns |= {
            wire.id: self._fuses_beside(wire)
            for wire in self.build.wires.values()
            if wire.id not in feeds and wire.id not in self._returns and self._from_a_bar(wire)
        }
        limited = {
            wire: [
                channel
                for step in steps
                for end in (step.from_terminal, step.to_terminal)
                if (channel := self._channels.get(end))
            ]
            for wire, steps in returns.items()
        }
        self.channel_of_return = {
            wire: max(rows, key=lambda row: (row.limit_a, str(row.output)))
            for wire, rows in limited.items()
            if rows
        }
        self.__dict__.pop("answers_for", None)
        self.__dict__.pop("channel_a", None)

    def _from_a_bar(self, wire: Wire) -> bool:
        """Whether a wire grounds a bus bar: what lands on that later returns over it."""
        kinds = {self.build.parts[end.part].kind for end in (wire.from_terminal, wire.to_terminal)}
        grounded = self.build.lands(wire.from_terminal) in self.paths.grounded
        return grounded and "bus bar" in kinds and kinds <= {"bus bar", "ground point", "battery"}

    def _fuses_beside(self, wire: Wire) -> frozenset[str]:
        """The fuses that feed the panels where the bar is: what is put on it lies behind them."""
        build = self.build
        parts = [build.parts[end.part] for end in (wire.from_terminal, wire.to_terminal)]
        places = {part.place for part in parts if part.kind == "bus bar"}
        panels = {panel.id for panel in build.parts_of_kind("panel") if panel.place in places}
        return frozenset(
            fuse
            for fuse, behind in self.wires_behind.items()
            for fed in behind
            if build.wires[fed].to_terminal.part in panels and not build.parts[fuse].fitted
        )

    @cached_property
    def table(self) -> FactsTable:
        """The facts of all wires as arrays."""
        rows = list(self.wires.values())
        length_m = np.array([row.length_m for row in rows])
        ohm_per_m = np.array([size.r20_mohm_per_m / 1000 for size in self.sizes])
        return FactsTable(
            np.array([self._alone_a(row) for row in rows]).reshape(-1, len(self.sizes)),
            length_m[:, None] * ohm_per_m,
            np.array([row.around.hottest_c for row in rows]),
            np.array([row.insulation.continuous_limit_c for row in rows]),
            length_m,
            np.array([size.copper_area_mm2 for size in self.sizes]),
            np.array([chart_a(size) for size in self.sizes]),
            Wires(
                np.array([size.copper_area_mm2 for size in self.sizes]),
                np.array([size.outside_diameter_mm for size in self.sizes]),
                ohm_per_m,
                np.array([row.insulation.continuous_limit_c for row in rows])[:, None],
                np.array([row.insulation.short_circuit_limit_c for row in rows])[:, None],
            ),
        )

    def _alone_a(self, row: WireFacts) -> Vector:
        key = row.insulation.name, row.around.hottest_c
        if key not in self._bare_a:
            self._bare_a[key] = np.array(
                [free_air_ampacity_a(size, row.insulation, key[1]) for size in self.sizes]
            )
        return self._bare_a[key] * row.around.cover

    @cached_property
    def cables(self) -> list[str]:
        """The circuit of each wire, or the wire itself: what is bought and laid together."""
        return [wire.circuit or wire.id for wire in self.build.wires.values()]

    @cached_property
    def bundled(self) -> Pairs:
        """Pairs of a wire and a run that it goes along, both by number."""
        numbers = {run: number for number, run in enumerate(self.build.runs)}
        return _pairs(
            (wire, numbers[run])
            for wire, row in enumerate(self.wires.values())
            for run in row.around.runs
        )

    @cached_property
    def answers_for(self) -> Pairs:
        """Pairs of a wire and a fuse, by number, for which the wire must carry what that lets pass.

        They are the fuses next before it, and of a tap those that it leads to instead; none where
        the channel of a module limits the current. A return answers for those of its loads.
        """
        fuses = {fuse.id: number for number, fuse in enumerate(self.build.parts_of_kind("fuse"))}
        before = (
            (wire, fuse)
            for fuse, behind in self.wires_behind.items()
            for wire in behind
            if wire not in self.unprotected and wire not in self.taps
        )
        tapped = ((wire, fuse) for wire, onward in self.taps.items() for fuse in onward)
        returned = ((wire, fuse) for wire, behind in self._returns.items() for fuse in behind)
        return _pairs(
            (self.at[wire], fuses[fuse])
            for wire, fuse in (*before, *tapped, *returned)
            if wire not in self.channel_of_wire
        )

    def fuse_before(self, ratings_a: Vector) -> dict[str, str]:
        """For each wire the largest fuse that stands next before it, or before the loads that it
        returns; a wire may have none."""
        before: dict[str, str] = {}
        fuses = list(self.wires_behind)
        for number in np.argsort(ratings_a, kind="stable").tolist():
            for wire in self.wires_behind[fuses[number]]:
                if wire not in self.unprotected:
                    before[wire] = fuses[number]
            for wire, behind in self._returns.items():
                if fuses[number] in behind:
                    before[wire] = fuses[number]
        return before

    @cached_property
    def channel_a(self) -> Vector:
        """What the channel before each wire lets pass, zero where there is none."""
        limits_a = np.zeros(len(self.wires))
        for wire, channel in {**self.channel_of_return, **self.channel_of_wire}.items():
            limits_a[self.at[wire]] = channel.limit_a
        return limits_a

    def must_carry_a(self, lasting_a: Vector, ratings_a: Vector) -> Vector:
        """The design current of each wire, or what protects it lets pass where that is more."""
        must_a = np.maximum(lasting_a, self.channel_a)
        wires, fuses = self.answers_for
        np.maximum.at(must_a, wires, ratings_a[fuses])
        return must_a

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
        return {
            step.owner: channel
            for terminal, channel in self._channels.items()
            if terminal.name not in self._low_side(terminal.part)
            for step in self.paths.behind(terminal)
            if step.kind == "wire"
        }

    @cached_property
    def _channels(self) -> Mapping[Terminal, Channel]:
        """The outputs that have a limit, by terminal."""
        channels: dict[Terminal, Channel] = {}
        for part in electronics_of(self.build):
            rows: list[Way | Pin] = [*part.ways, *part.pins]
            for row in rows:
                if row.limit_a is not None:
                    output = Terminal(part.id, row.name)
                    channels[output] = Channel(output, row.limit_a)
        return channels

    def _low_side(self, part: str) -> set[str]:
        return {pin.name for pin in self.build.parts[part].pins if pin.function == "low side"}

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
                onward = [
                    edge.step
                    for edge in self.paths.edges.get(end, ())
                    if edge.step.owner != wire.id
                ]
                if onward and all(step.kind == "fuse" for step in onward):
                    taps[wire.id] = tuple(step.owner for step in onward)
        return taps

    def _facts(self, wire: Wire) -> WireFacts:
        key = ends_of(self.build, wire), wire.way, wire.length_m is None
        if key not in self._around:
            self._around[key] = self._surroundings(wire)
        around = self._around[key]
        return WireFacts(
            length_m(self.build, wire),
            catalogue().insulation[insulation_of(self.build, wire)],
            around,
            max(around.least_mm2, self._least_for_use_mm2(wire)),
        )

    def _of_starters(self) -> dict[str, float]:
        """The least size of what a starter turns by."""
        return {
            step.owner: LEAST_STARTER_MM2
            for load in self.build.parts_of_kind("load")
            if starts(load) and (way := self.paths.to_load(load))
            for step in way.steps
        }

    def _of_batteries(self) -> dict[str, float]:
        """The least size of what joins a second battery to the first, there and back."""
        least: dict[str, float] = {}
        for battery in self.build.parts_of_kind("second battery"):
            ends = Terminal(battery.id, "+"), Terminal(battery.id, "-")
            ways = self.paths.ways(*ends, MOST_VISITS).each
            for way in sorted(ways, key=lambda way: len(way.steps))[:1]:
                least |= {step.owner: LEAST_LINK_MM2 for step in way.steps}
        return least

    def _least_for_use_mm2(self, wire: Wire) -> float:
        if wire.id in self._least_on_ways:
            return self._least_on_ways[wire.id]
        kinds = {self.build.parts[end.part].kind for end in (wire.from_terminal, wire.to_terminal)}
        return LEAST_LINK_MM2 if kinds <= LINKED else LEAST_MM2

    def _surroundings(self, wire: Wire) -> Surroundings:
        way = way_of(self.build, wire)
        places = places_passed(self.build, wire)
        covered = any(run.cover in COVERS_THAT_HOLD_HEAT for run in way)
        return Surroundings(
            tuple(run.id for run in way),
            max(place.ambient_c for place in places),
            COVER_FACTOR if covered else 1.0,
            _least_area_mm2(places, way),
        )

    @cached_property
    def least(self) -> Numbers:
        """The thinnest size of each wire."""
        return np.array([self._span(wire)[0] for wire in self.build.wires.values()], dtype=int)

    @cached_property
    def most(self) -> Numbers:
        """The thickest size of each wire."""
        return np.array([self._span(wire)[1] for wire in self.build.wires.values()], dtype=int)

    def _span(self, wire: Wire) -> tuple[int, int]:
        """The sizes that fit both ends; where none does, the nearest to what is worked with."""
        key = wire.from_terminal, wire.to_terminal, self.wires[wire.id].least_mm2
        if key not in self._spans:
            rows = [terminal_range(self.build, end) for end in key[:2]]
            areas = [size.copper_area_mm2 for size in self.sizes[: self.choosable]]
            enough = (n for n, area in enumerate(areas) if area >= 0.99 * key[2])
            by_hand = next(enough, len(areas) - 1)
            good = [n for n, area in enumerate(areas) if all(fits(row, area) for row in rows)]
            good = [n for n in good if n >= by_hand]
            self._spans[key] = (good[0], good[-1]) if good else (by_hand, by_hand)
        return self._spans[key]


def shelf_of(policy: Policy) -> tuple[Conductor, ...]:
    """The sizes that are chosen from, thinnest first: the builder's or the usual ones."""
    names = policy.shelf or USUAL_SHELF[policy.conductors]
    rows = {catalogue().conductor[name] for name in names}
    return tuple(sorted(rows, key=lambda row: row.copper_area_mm2))


def _pairs(pairs: Iterable[tuple[int, int]]) -> Pairs:
    columns = np.array(list(pairs), dtype=int).reshape(-1, 2)
    return columns[:, 0], columns[:, 1]


def _least_area_mm2(places: list[Place], way: tuple[Run, ...]) -> float:
    """0.5 mm² generally; 0.75 in the engine bay, at doors and over moving hinges."""
    hard = any(place.zone.startswith("engine bay") or place.zone == "door" for place in places)
    hard = hard or any("moving hinge" in run.passes for run in way)
    return LEAST_ENGINE_BAY_MM2 if hard else LEAST_MM2
