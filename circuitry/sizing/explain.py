"""Why this one: the candidates for each fuse and wire, and what each failed on."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.build.model import Build, Part, Terminal, Wire
from circuitry.catalogue import catalogue
from circuitry.finding import Finding
from circuitry.network.network import Solution
from circuitry.sizing.choose import (
    DROP_MARGIN_V,
    Ampacities,
    LoadDrop,
    Peak,
    WireChooser,
    drop_limit_percent,
    fuse_carries_a,
)
from circuitry.sizing.result import (
    Candidate,
    CircuitSizing,
    FuseSizing,
    LoadSizing,
    Sizing,
    WireSizing,
)
from circuitry.sizing.states import DesignState, Words

ROWS_BEYOND = 1


class Said:
    """The states in words, for each wire or fuse with only the switches that matter to it."""

    def __init__(self, build: Build, states: list[DesignState]) -> None:
        self.states = states
        self._words = [Words(build, state.state) for state in states]
        self._mattering: dict[int, Mapping[str, set[str]]] = {}

    def of(self, owner: str, solution: int) -> str:
        """Key and switches of the loads whose path crosses this wire or fuse."""
        if not self.states:
            return ""
        if solution not in self._mattering:
            self._mattering[solution] = _mattering(self.states[solution])
        return self._words[solution].said(self._mattering[solution].get(owner, set()))

    def whole(self, solution: int) -> str:
        """Key and all switches of a state."""
        return self._words[solution].said()


def _mattering(state: DesignState) -> Mapping[str, set[str]]:
    """For each wire, fuse and contact the switches that the loads on it need."""
    mattering: dict[str, set[str]] = {}
    for path in state.paths.values():
        for step in path.steps:
            mattering.setdefault(step.owner, set()).update(path.positions)
    return mattering


@dataclass(frozen=True)
class Weighed:
    """A wire with what it must carry, the fuse before it, and by name what protects it."""

    wire: Wire
    peak: Peak
    must_carry_a: float
    fuse: str | None
    behind: str | None
    pinned: bool


def wire_sizing(
    weighed: Weighed,
    build: Build,
    ampacities: Ampacities,
    chooser: WireChooser,
    said: Said,
) -> WireSizing:
    """The size of a wire with every smaller candidate and the next larger one."""
    wire, size = weighed.wire, weighed.wire.size or ""
    facts = ampacities.facts.wires[wire.id]
    candidates = []
    passed = beyond = 0
    for index in range(len(ampacities.facts.sizes)):
        candidate = _wire_candidate(weighed, build, ampacities, chooser, index, passed == 0)
        candidates.append(candidate)
        passed += candidate.passes
        reached_size = any(shown.name == size for shown in candidates)
        if passed and reached_size:
            beyond += 1
        if beyond > ROWS_BEYOND:
            break
    return WireSizing(
        wire.id,
        size,
        weighed.pinned,
        weighed.peak.current_a,
        weighed.peak.lasting_a,
        said.of(wire.id, weighed.peak.solution),
        ampacities.carries_a(wire.id, size),
        weighed.must_carry_a,
        facts.length_m,
        facts.runs,
        weighed.fuse,
        weighed.behind,
        tuple(candidates),
    )


def _wire_candidate(
    weighed: Weighed,
    build: Build,
    ampacities: Ampacities,
    chooser: WireChooser,
    index: int,
    first: bool,
) -> Candidate:
    wire, name = weighed.wire, ampacities.facts.sizes[index].name
    carries_a = ampacities.carries_a(wire.id, name)
    worst = _worst_drop(wire, chooser, index)
    percent = None if worst is None else 100 * worst[1] / worst[0].source_v
    least_mm2 = ampacities.facts.wires[wire.id].least_mm2
    refusal = _refusal(weighed, build, least_mm2, carries_a, name, worst)
    reason = refusal or ("smallest that passes all" if first else "passes, more copper")
    return Candidate(name, carries_a, percent, refusal is None, reason)


def _worst_drop(wire: Wire, chooser: WireChooser, index: int) -> tuple[LoadDrop, float] | None:
    """The load on this wire nearest to or furthest beyond its limit, and its drop in V."""
    drops = chooser.loads_of_wire.get(wire.id, [])
    weighed = [(drop, chooser.drop_with(drop, wire.id, index)) for drop in drops]
    return max(weighed, key=lambda pair: pair[1] / pair[0].limit_v, default=None)


def _refusal(
    weighed: Weighed,
    build: Build,
    least_mm2: float,
    carries_a: float,
    name: str,
    worst: tuple[LoadDrop, float] | None,
) -> str | None:
    area_mm2 = catalogue().conductor[name].copper_area_mm2
    if area_mm2 < least_mm2 * 0.99:
        return f"below {least_mm2:g} mm², the least by hand here"
    lasting_a = weighed.peak.lasting_a
    if carries_a < lasting_a:
        return f"carries {carries_a:.1f} A, current {lasting_a:.1f} A"
    if carries_a < weighed.must_carry_a and weighed.behind is not None:
        return f"carries {carries_a:.1f} A, {weighed.behind} lets {weighed.must_carry_a:g} A pass"
    return _drop_refusal(weighed, build, name, worst)


def _drop_refusal(
    weighed: Weighed, build: Build, name: str, worst: tuple[LoadDrop, float] | None
) -> str | None:
    """Sizes are chosen a millivolt inside the limit; what is fitted may use that millivolt."""
    if worst is None:
        return None
    drop, drop_v = worst
    margin_v = DROP_MARGIN_V if name == weighed.wire.size else 0.0
    if drop_v <= drop.limit_v + margin_v:
        return None
    limit_v = drop.limit_v + DROP_MARGIN_V
    digits = 2 if f"{drop_v:.2f}" != f"{limit_v:.2f}" else 4
    load = build.parts[drop.load].name
    return f"drop {drop_v:.{digits}f} V at {load}, limit {limit_v:.{digits}f} V"


def fuse_sizing(build: Build, part: Part, peak: Peak, pinned: bool, said: Said) -> FuseSizing:
    """The rating of a fuse with the candidates up to one beyond it."""
    candidates: list[Candidate] = []
    rating_a = part.number("rating_a", 0)
    for row in catalogue().fuses[part.catalogue or ""]:
        carries_a = fuse_carries_a(build, part, row)
        passes = carries_a >= peak.current_a
        first = passes and not any(candidate.passes for candidate in candidates)
        reason = (
            f"may carry {carries_a:.1f} A for ever, current {peak.current_a:.1f} A"
            if not passes
            else "smallest with headroom"
            if first
            else "has headroom, protects thicker wire only"
        )
        candidates.append(Candidate(f"{row.rating_a:g} A", carries_a, None, passes, reason))
        if row.rating_a > rating_a and passes:
            break
    when = said.of(part.id, peak.solution)
    return FuseSizing(part.id, rating_a, pinned, peak.current_a, when, tuple(candidates))


def load_sizing(drop: LoadDrop, state: DesignState, solution: Solution, when: str) -> LoadSizing:
    """The worst state of a load as the ledger and the fall line show it."""
    reading = solution.loads[drop.load]
    return LoadSizing(
        drop.load,
        reading.volts,
        reading.amps,
        drop.drop_v,
        100 * drop.drop_v / drop.source_v,
        drop.limit_percent,
        when,
        state.paths[drop.load],
        solution,
    )


def circuit_sizings(
    sizing: Sizing, solutions: list[Solution], found: list[Finding]
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
