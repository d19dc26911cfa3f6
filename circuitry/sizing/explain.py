"""Why this one: the candidates for each fuse and wire, and what each failed on."""

from collections.abc import Mapping, Sequence

import numpy as np

from circuitry.build.model import Build, Part, Terminal, Wire
from circuitry.catalogue import catalogue
from circuitry.finding import Finding
from circuitry.network.network import Solution
from circuitry.sizing.choose import (
    DROP_MARGIN_V,
    Ampacities,
    LoadDrop,
    Peaks,
    WireChooser,
    drop_limit_percent,
    fuse_carries_a,
    fuse_ratings,
)
from circuitry.sizing.facts import Facts
from circuitry.sizing.result import (
    Candidate,
    CircuitSizing,
    FuseSizing,
    LoadSizing,
    Sizing,
    WireSizing,
)
from circuitry.sizing.states import DesignState, Words
from circuitry.sizing.worst import WorstPositions

ROWS_BEYOND = 1


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
            worst = self._worst.of.get((kind, owner))
            moved = self._worst.states[worst[0]].switches if worst else {}
            return self._words[solution].said(frozenset(moved) or None)
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
    ) -> None:
        """``sized`` has every size filled in; ``chooser`` holds them, and for a pinned wire what it
        should be."""
        self.sized, self.facts, self.states = sized, facts, states
        self._parts = {part.id: at for at, part in enumerate(sized.parts_of_kind("fuse"))}
        ratings_a = np.array([sized.parts[fuse].number("rating_a", 0) for fuse in self._parts])
        self._fuse_a, self._fuse_in = fuses.current_a.tolist(), fuses.solution.tolist()
        self._lasting_a, self._wire_in = wires.lasting_a.tolist(), wires.solution.tolist()
        self._wire_a = wires.current_a.tolist()
        self._must_a = facts.must_carry_a(wires.lasting_a, ratings_a).tolist()
        self._carries_a = ampacities.carries_a.tolist()
        self._chooser = chooser
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
            facts.around.runs,
            self._fuse_before.get(wire.id),
            self._behind(wire.id),
        )

    def _behind(self, wire: str) -> str | None:
        """The name of the fuse or channel that a wire stands behind."""
        channel = self.facts.channel_of_wire.get(wire)
        if channel is not None:
            return channel.name
        fuse = self._fuse_before.get(wire)
        return self.sized.parts[fuse].name if fuse else None

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
            fuse_carries_a(self.sized, original, row),
            self._said.of("fuse", original.id, self._fuse_in[at]),
        )

    def loads(self, solutions: Sequence[Solution]) -> dict[str, LoadSizing]:
        """The worst state of every load that is fed in one, as ledger and fall line show it."""
        return {
            drop.load: self._load(drop, solutions[drop.solution]) for drop in self._chooser.drops
        }

    def _load(self, drop: LoadDrop, solution: Solution) -> LoadSizing:
        reading = solution.loads[drop.load]
        return LoadSizing(
            drop.load,
            reading.volts,
            reading.amps,
            drop.drop_v,
            100 * drop.drop_v / drop.source_v,
            drop.limit_percent,
            self._said.whole(drop.solution),
            self.states[drop.solution].paths[drop.load],
            solution,
        )

    def candidates(self, owner: str) -> tuple[Candidate, ...]:
        """The sizes weighed for a wire or fuse, up to one beyond what is fitted; or KeyError."""
        if owner in self._parts:
            return self._ratings(self.sized.parts[owner], self._fuse_a[self._parts[owner]])
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

    def _size(self, wire: Wire, size: int, first: bool) -> Candidate:
        at = self.facts.at[wire.id]
        drops = [
            (self._chooser.drops[load], drop_v)
            for load, drop_v in self._chooser.drops_with(at, size)
        ]
        worst = max(drops, key=lambda pair: pair[1] / pair[0].limit_v, default=None)
        percent = None if worst is None else 100 * worst[1] / worst[0].source_v
        refusal = self._too_small(wire.id, size) or self._drops_too_much(wire, size, worst)
        reason = refusal or ("smallest that passes all" if first else "passes, more copper")
        name, carries_a = self.facts.sizes[size].name, self._carries_a[at][size]
        return Candidate(name, carries_a, percent, refusal is None, reason)

    def _too_small(self, wire: str, size: int) -> str | None:
        """Why a size carries too little for a wire, or is thinner than is worked with by hand."""
        at = self.facts.at[wire]
        least_mm2 = self.facts.table.least_mm2[at]
        if self.facts.sizes[size].copper_area_mm2 < least_mm2 * 0.99:
            return f"below {least_mm2:g} mm², the least by hand here"
        carries_a, lasting_a = self._carries_a[at][size], self._lasting_a[at]
        if carries_a < lasting_a:
            return f"carries {carries_a:.1f} A, current {lasting_a:.1f} A"
        must_a = self._must_a[at]
        behind = self._behind(wire)
        if carries_a < must_a and behind is not None:
            return f"carries {carries_a:.1f} A, {behind} lets {must_a:g} A pass"
        return None

    def _drops_too_much(
        self, wire: Wire, size: int, worst: tuple[LoadDrop, float] | None
    ) -> str | None:
        """Sizes are chosen a millivolt inside the limit; what is fitted may use that millivolt."""
        if worst is None:
            return None
        drop, drop_v = worst
        margin_v = DROP_MARGIN_V if self.facts.sizes[size].name == wire.size else 0.0
        if drop_v <= drop.limit_v + margin_v:
            return None
        limit_v = drop.limit_v + DROP_MARGIN_V
        digits = 2 if f"{drop_v:.2f}" != f"{limit_v:.2f}" else 4
        load = self.sized.parts[drop.load].name
        return f"drop {drop_v:.{digits}f} V at {load}, limit {limit_v:.{digits}f} V"

    def _ratings(self, part: Part, current_a: float) -> tuple[Candidate, ...]:
        rows: list[Candidate] = []
        for row in fuse_ratings(part):
            carries_a = fuse_carries_a(self.sized, part, row)
            passes = carries_a >= current_a
            reason = (
                f"may carry {carries_a:.1f} A for ever, current {current_a:.1f} A"
                if not passes
                else "smallest with headroom"
                if not any(candidate.passes for candidate in rows)
                else "has headroom, protects thicker wire only"
            )
            rows.append(Candidate(f"{row.rating_a:g} A", carries_a, None, passes, reason))
            if row.rating_a > part.number("rating_a", 0) and passes:
                break
        return tuple(rows)


def circuit_sizings(
    sizing: Sizing, solutions: Sequence[Solution], found: list[Finding]
) -> Mapping[str, CircuitSizing]:
    """One line for each circuit: its largest current, fuse, feed wire and worst drop."""
    build = sizing.build
    loads_of: dict[str | None, list[Part]] = {}
    for load in build.parts_of_kind("load"):
        loads_of.setdefault(load.circuit, []).append(load)
    feed_of = {
        build.lands(end): wire
        for wire in build.wires.values()
        for end in (wire.from_terminal, wire.to_terminal)
    }
    verdict_of: dict[str | None, str] = {}
    for finding in found:
        if finding.severity in ("stop", "look"):
            verdict_of.setdefault(finding.circuit, finding.severity)
    lines = {}
    for circuit in build.circuits.values():
        loads = loads_of.get(circuit.id, [])
        alive = [sizing.loads[load.id] for load in loads if load.id in sizing.loads]
        worst = max(alive, key=lambda row: row.drop_percent / row.limit_percent, default=None)
        feed = feed_of.get(build.lands(Terminal(worst.load, "+"))) if worst else None
        lines[circuit.id] = CircuitSizing(
            circuit.id,
            max((sum(s.loads[load.id].amps for load in loads) for s in solutions), default=0.0),
            sizing.wires[feed.id].fuse if feed else None,
            sizing.wires[feed.id].size if feed else None,
            worst.drop_percent if worst else None,
            worst.limit_percent if worst else _limit(build, loads),
            worst.load if worst else None,
            verdict_of.get(circuit.id, "fine"),
        )
    return lines


def _limit(build: Build, loads: list[Part]) -> float:
    if not loads:
        return build.policy.critical_drop_percent
    return min(drop_limit_percent(build, load) for load in loads)
