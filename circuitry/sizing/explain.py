"""Why this one: the candidates for each fuse and wire, and what each failed on."""

from collections.abc import Collection, Mapping, Sequence
from functools import cached_property

import numpy as np
import numpy.typing as npt

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Wire
from circuitry.devices.terminals import fits, terminal_range
from circuitry.finding import Finding
from circuitry.network.network import Solution
from circuitry.sizing.ampacity import enough
from circuitry.sizing.bearing import Ampacities
from circuitry.sizing.charging import OUTPUTS
from circuitry.sizing.choose import LoadDrop, WireChooser
from circuitry.sizing.duty import Peaks
from circuitry.sizing.facts import Channel, Facts, Numbers
from circuitry.sizing.fuses import (
    SELECTIVE,
    FuseChooser,
    fuse_bears_a,
    fuse_carries_a,
    fuse_ratings,
)
from circuitry.sizing.result import (
    Candidate,
    Charging,
    CircuitSizing,
    FuseSizing,
    Healing,
    LoadSizing,
    Sizing,
    WireSizing,
)
from circuitry.sizing.starting import survives
from circuitry.sizing.states import DesignState, Words
from circuitry.sizing.worst import WorstPositions

ROWS_BEYOND = 1
SAME_V = 1e-4


def volts(lost_v: float) -> str:
    """A drop as a builder reads it off a meter."""
    return f"{lost_v:.2f} V"


class Said:
    """The states in words, for each wire or fuse with only the switches that matter to it."""

    def __init__(self, build: Build, states: Sequence[DesignState], worst: WorstPositions) -> None:
        self.states, self._worst = states, worst
        self._words = [Words(build, state.state) for state in states]
        self._whole = [words.said() for words in self._words]
        self._mattering: dict[int, Mapping[str, frozenset[str]]] = {}
        self._said: dict[tuple[int, frozenset[str]], str] = {}

    def of(self, kind: str, owner: str, solution: int) -> str:
        """Key and switches of the loads whose path crosses this wire or fuse; ``kind`` is which."""
        if self.states[solution].heats:
            mattering = self._worst.mattering.get((kind, owner))
            return self._words[solution].said(mattering or None)
        if solution not in self._mattering:
            self._mattering[solution] = _mattering(self.states[solution])
        key = solution, self._mattering[solution].get(owner, frozenset())
        if key not in self._said:
            self._said[key] = self._words[solution].said(key[1])
        return self._said[key]

    def whole(self, solution: int) -> str:
        """Key and all switches of a state."""
        return self._whole[solution]


def _mattering(state: DesignState) -> Mapping[str, frozenset[str]]:
    """For each wire, fuse and contact the switches that the loads on it need."""
    mattering: dict[str, frozenset[str]] = {}
    for path in state.paths.values():
        needs = frozenset(path.positions)
        for step in path.steps:
            known = mattering.get(step.owner)
            mattering[step.owner] = needs if known is None else known | needs
    return mattering


Healed = dict[frozenset[str], Mapping[str, str]]
"""By loads, the sizes of wires with which they lose no more than they may."""


class Reasons:
    """What the last round says of every wire, fuse and load; candidates when they are asked for."""

    def __init__(
        self,
        sized: Build,
        facts: Facts,
        states: Sequence[DesignState],
        fuses: Peaks,
        wires: Peaks,
        ampacities: Ampacities,
        chooser: WireChooser,
        worst: WorstPositions,
        pinned: npt.NDArray[np.bool_],
        fuse_chooser: FuseChooser,
        healed: Healed,
    ) -> None:
        """``sized`` has every size filled in; ``pinned`` are the wires whose size was given, and
        ``healed`` keeps what heals which loads, for it takes long to find."""
        self._healed = healed
        self._starting, self._below = fuse_chooser.behind, fuse_chooser.below
        self._ampacities = ampacities
        self.sized, self.facts, self.states = sized, facts, states
        self._parts = {part.id: at for at, part in enumerate(sized.parts_of_kind("fuse"))}
        ratings_a = np.array([sized.parts[fuse].number("rating_a", 0) for fuse in self._parts])
        self._fuse_lasting_a = _told_a(fuses)
        self._fuse_a, self._fuse_in = fuses.current_a.tolist(), fuses.solution.tolist()
        self._lasting_a, self._wire_in = _told_a(wires), wires.solution.tolist()
        self._wire_a = wires.current_a.tolist()
        self._must_a = facts.must_carry_a(wires.lasting_a, ratings_a).tolist()
        self._carries_a = ampacities.carries_a.tolist()
        self._chooser = chooser
        self._sizes = np.array(
            [facts.index[wire.size or ""] for wire in sized.wires.values()], dtype=int
        )
        self._lost_v = chooser.lost_v(self._sizes)
        self._pinned = pinned
        self._said = Said(sized, states, worst)
        self._fuse_before = facts.fuse_before(ratings_a)

    def wires(self, original: Build) -> dict[str, WireSizing]:
        """The size of every wire; one that has a size in the original build is pinned."""
        return {wire.id: self._wire(at, wire, original) for wire, at in self._numbered()}

    def _numbered(self) -> list[tuple[Wire, int]]:
        return [(wire, at) for at, wire in enumerate(self.sized.wires.values())]

    def _wire(self, at: int, wire: Wire, original: Build) -> WireSizing:
        facts, size = self.facts.wires[wire.id], wire.size or ""
        return WireSizing(
            wire.id,
            size,
            original.wires[wire.id].size is not None,
            self._wire_a[at],
            self._lasting_a[at],
            self._said.of("wire", wire.id, self._wire_in[at]),
            self._carries_a[at][self.facts.index[size]],
            self._must_a[at],
            facts.length_m,
            facts.around.hottest_c,
            facts.insulation.name,
            facts.around.runs,
            self._fuse_before.get(wire.id),
            self._behind(wire.id),
        )

    def _behind(self, wire: str) -> str | None:
        """The name of the fuse or channel that a wire stands behind."""
        channel = self.facts.channel_of_wire.get(wire)
        if channel is not None:
            return self._named(channel)
        fuse = self.sized.parts[fuse_id] if (fuse_id := self._fuse_before.get(wire)) else None
        returned = self.facts.channel_of_return.get(wire)
        if returned and (fuse is None or fuse.number("rating_a", 0) < returned.limit_a):
            return self._named(returned)
        return fuse.name if fuse else None

    def fuses(self, original: Build) -> dict[str, FuseSizing]:
        """The rating of every fuse; one that has a rating in the original build is pinned."""
        return {fuse: self._fuse(at, original.parts[fuse]) for fuse, at in self._parts.items()}

    def _fuse(self, at: int, original: Part) -> FuseSizing:
        rating_a = self.sized.parts[original.id].number("rating_a", 0)
        row = catalogue().fuse(original.catalogue or "", rating_a)
        return FuseSizing(
            original.id,
            rating_a,
            "rating_a" in original.figures,
            self._fuse_a[at],
            self._fuse_lasting_a[at],
            fuse_carries_a(self.sized, original, row),
            fuse_bears_a(self.sized, original, row),
            self._said.of("fuse", original.id, self._fuse_in[at]),
        )

    def loads(self, solutions: Sequence[Solution]) -> dict[str, LoadSizing]:
        """The worst state of every load that is fed in one, as ledger and fall line show it."""
        return {
            drop.load: self._load(drop, solutions[drop.solution])
            for drop in self._chooser.drops
            if self.sized.parts[drop.load].kind == "load"
        }

    def charging(self) -> dict[str, Charging]:
        """What is lost for every alternator that charges."""
        wires = list(self.sized.wires)
        return {
            drop.load: Charging(
                drop.drop_v, drop.limit_v, drop.load_a, tuple(wires[at] for at in drop.wires)
            )
            for drop in self._chooser.drops
            if self.sized.parts[drop.load].kind in OUTPUTS
        }

    def _load(self, drop: LoadDrop, solution: Solution) -> LoadSizing:
        reading = solution.loads[drop.load]
        return LoadSizing(
            drop.load,
            reading.volts,
            reading.amps,
            drop.drop_v,
            100 * drop.drop_v / drop.source_v,
            drop.limit_v,
            100 * drop.limit_v / drop.source_v,
            self.states[drop.solution].road,
            self._said.whole(drop.solution),
            self.states[drop.solution].paths[drop.load],
            solution,
        )

    def candidates(self, owner: str) -> tuple[Candidate, ...]:
        """The sizes weighed for a wire or fuse, up to one beyond what is fitted; or KeyError."""
        if owner in self._parts:
            at = self._parts[owner]
            part = self.sized.parts[owner]
            return self._ratings(part, self._fuse_a[at], self._fuse_lasting_a[at])
        wire = self.sized.wires[owner]
        rows: list[Candidate] = []
        beyond = 0
        for size in range(self.facts.choosable):
            rows.append(self._size(wire, size, not any(row.passes for row in rows)))
            fitted = any(row.name == wire.size for row in rows)
            beyond += fitted and any(row.passes for row in rows)
            if beyond > ROWS_BEYOND:
                break
        return tuple(rows)

    def grouping(self, wire: str) -> Mapping[str, float]:
        """The grouping factor of a wire in each run that it goes along."""
        return self._ampacities.grouping(self.facts.at[wire])

    def healing(self, loads: Collection[str]) -> Healing:
        """Those of these loads that thicker wire cures, and the sizes, by wire, with which they
        lose no more than they may. Pinned wires stay as they are; wires that are thicker than they
        need be by themselves are named too, so that they stay so."""
        asked = frozenset(loads) - self._hopeless
        if asked not in self._healed:
            self._healed[asked] = self._healing(asked) if asked else {}
        return Healing(asked, self._healed[asked])

    @cached_property
    def _hopeless(self) -> frozenset[str]:
        """The loads that lose too much with any wire that fits its terminals."""
        return self._chooser.to_heal().hopeless(self._most)

    @cached_property
    def _most(self) -> Numbers:
        return np.where(self._pinned, self._sizes, np.maximum(self.facts.most, self._sizes))

    def _healing(self, loads: frozenset[str]) -> Mapping[str, str]:
        wanted = self._chooser.to_heal(loads)
        fit = wanted.choose_at_any_price(self._sizes, self._most)
        if fit is None:
            return {}
        wires = list(self.sized.wires)
        on_the_way = sorted({wire for drop in wanted.drops for wire in drop.wires})
        return {
            wires[at]: self.facts.sizes[fit[at]].name
            for at in on_the_way
            if fit[at] != self._sizes[at] or (fit[at] > wanted.floor[at] and not self._pinned[at])
        }

    def _named(self, channel: Channel) -> str:
        return f"{channel.output.name} of {self.sized.parts[channel.output.part].name}"

    def _size(self, wire: Wire, size: int, first: bool) -> Candidate:
        at = self.facts.at[wire.id]
        lost = self._chooser.lost_with(at, size, self._sizes)
        drops = self._chooser.drops
        worst = max(lost, key=lambda pair: pair[1] / drops[pair[0]].limit_v, default=None)
        percent = None if worst is None else 100 * worst[1] / drops[worst[0]].source_v
        refusal = (
            self._does_not_fit(wire, size)
            or self._too_small(wire.id, size)
            or self._drops_too_much(lost)
        )
        reason = refusal or self._passing(wire, size, first)
        name, carries_a = self.facts.sizes[size].name, self._carries_a[at][size]
        return Candidate(name, carries_a, percent, refusal is None, reason)

    def _too_small(self, wire: str, size: int) -> str | None:
        """Why a size carries too little for a wire, or is thinner than is worked with by hand."""
        at = self.facts.at[wire]
        least_mm2 = self.facts.wires[wire].least_mm2
        if self.facts.sizes[size].copper_area_mm2 < least_mm2 * 0.99:
            return f"below {least_mm2:g} mm², the least by hand here"
        carries_a, lasting_a = self._carries_a[at][size], self._lasting_a[at]
        if not enough(carries_a, lasting_a):
            return f"carries {carries_a:.1f} A, current {lasting_a:.1f} A"
        must_a = self._must_a[at]
        behind = self._behind(wire)
        if not enough(carries_a, must_a) and behind is not None:
            return f"carries {carries_a:.1f} A, {behind} lets {must_a:g} A pass"
        chart_a = self.facts.table.chart_a
        goes_in = enough(chart_a[self.facts.most[at]], must_a)
        if goes_in and not enough(chart_a[size], must_a):
            asked = f"{must_a:.1f} A last"
            if behind is not None and lasting_a < must_a:
                asked = f"{behind} lets {must_a:g} A pass"
            return f"{chart_a[size]:.0f} A by the usual charts, {asked}"
        return None

    def _does_not_fit(self, wire: Wire, size: int) -> str | None:
        """Why a size does not go into what the wire ends on; what is fitted need not be told."""
        area_mm2 = self.facts.sizes[size].copper_area_mm2
        for end in (wire.from_terminal, wire.to_terminal):
            row = terminal_range(self.sized, end)
            if row is not None and not fits(row, area_mm2):
                part = self.sized.parts[end.part].name
                span = f"{row.least_mm2:g} to {row.most_mm2:g} mm²"
                return f"{part} {end.name} takes {span} ({row.terminal})"
        return None

    def _drops_too_much(self, lost: Sequence[tuple[int, float]]) -> str | None:
        """Which load would lose more than it may and more than it does with what is fitted."""
        over = [
            (lost_v / self._chooser.drops[load].limit_v, load, lost_v)
            for load, lost_v in lost
            if lost_v > max(self._chooser.drops[load].limit_v, self._lost_v[load] + SAME_V)
        ]
        if not over:
            return None
        _, load, lost_v = max(over)
        drop = self._chooser.drops[load]
        return (
            f"{self.sized.parts[drop.load].name} would lose {volts(lost_v)}, "
            f"limit {volts(drop.limit_v)}"
        )

    def _passing(self, wire: Wire, size: int, first: bool) -> str:
        at = self.facts.at[wire.id]
        if size != self._sizes[at]:
            thinner = size < self._sizes[at]
            return "passes alone, but not with the others" if thinner else "passes, more copper"
        if first:
            return "smallest that passes all"
        leg = next((leg for leg in self._chooser.legs if at in leg), set())
        if any(self._sizes[row] == size for row in leg - {at}):
            return "passes; there and back, left and right are of one size"
        return "passes, and saves a reel or copper elsewhere"

    def _ratings(self, part: Part, current_a: float, lasting_a: float) -> tuple[Candidate, ...]:
        rows: list[Candidate] = []
        behind = self._starting.get(part.id, ())
        below = (
            self.sized.parts[row].number("rating_a", 0) for row in self._below.get(part.id, ())
        )
        least_a = SELECTIVE * max(below, default=0.0)
        for row in fuse_ratings(part):
            carries_a = fuse_carries_a(self.sized, part, row)
            bears_a = fuse_bears_a(self.sized, part, row)
            bears = carries_a >= lasting_a and bears_a >= current_a
            starts = survives(part.catalogue or "", row.rating_a, behind, current_a)
            selective = row.rating_a >= least_a
            passes = bears and starts and selective
            reason = (
                f"may carry {carries_a:.1f} A for ever, {lasting_a:.1f} A last"
                if carries_a < lasting_a
                else f"bears {bears_a:.1f} A for seconds, {current_a:.1f} A flow"
                if not bears
                else "might part while its loads start"
                if not starts
                else f"may part before what is behind it, which asks for {least_a:g} A"
                if not selective
                else "smallest with headroom"
                if not any(candidate.passes for candidate in rows)
                else "has headroom, protects thicker wire only"
            )
            rows.append(Candidate(f"{row.rating_a:g} A", carries_a, None, passes, reason))
            if row.rating_a > part.number("rating_a", 0) and passes:
                break
        return tuple(rows)


def _told_a(rows: Peaks) -> list[float]:
    """What lasts, as it is told: no mean is larger than the most that flows, though the sum that
    sizes are chosen for, which leaves out what brief loads lose for the others, may be a little."""
    lasting_a: list[float] = np.minimum(rows.lasting_a, rows.current_a).tolist()
    return lasting_a


def circuit_sizings(
    sizing: Sizing, solutions: Sequence[Solution], found: list[Finding]
) -> Mapping[str, CircuitSizing]:
    """One line for each circuit: its largest current, fuse, feed wire and worst drop."""
    build = sizing.build
    loads_of: dict[str | None, list[Part]] = {}
    for load in build.parts_of_kind("load"):
        loads_of.setdefault(load.circuit, []).append(load)
    verdict_of: dict[str | None, str] = {}
    for finding in found:
        if not finding.accepted:
            for concerned in _circuits_of(build, finding):
                verdict_of.setdefault(concerned, finding.severity)
    lines = {}
    for circuit in build.circuits.values():
        loads = loads_of.get(circuit.id, [])
        alive = [sizing.loads[load.id] for load in loads if load.id in sizing.loads]
        worst = max(alive, key=lambda row: row.drop_percent / row.limit_percent, default=None)
        largest = max(alive, key=lambda row: row.amps, default=None)
        wire = largest.wire if largest else None
        lines[circuit.id] = CircuitSizing(
            circuit.id,
            max((sum(s.loads[load.id].amps for load in loads) for s in solutions), default=0.0),
            largest.fuse if largest else None,
            len({row.fuse for row in alive if row.fuse}),
            sizing.wires[wire].size if wire else None,
            worst.drop_v if worst else None,
            worst.drop_percent if worst else None,
            worst.limit_v if worst else None,
            worst.limit_percent if worst else None,
            worst.load if worst else None,
            verdict_of.get(circuit.id, "fine"),
        )
    return lines


def _circuits_of(build: Build, finding: Finding) -> set[str | None]:
    """The circuit of a finding, and those whose loads it concerns."""
    loads = {load.id: load.circuit for load in build.parts_of_kind("load")}
    return {finding.circuit, *(loads[part] for part in finding.parts if part in loads)}
