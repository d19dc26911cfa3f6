"""What sizing answers: sizes with their reasons, circuits with their figures, and findings."""

from collections.abc import Callable, Collection, Mapping
from dataclasses import dataclass, field

from circuitry.design.model import Build
from circuitry.design.state import State
from circuitry.finding import Finding
from circuitry.network.network import Network, Solution
from circuitry.reach.ways import Path
from circuitry.sizing.states import DesignState


@dataclass(frozen=True)
class Candidate:
    """One size that was weighed: what it carries in A, the drop it would give in % and in V
    where it was looked at, and why it was refused or taken."""

    name: str
    carries_a: float
    drop_percent: float | None
    passes: bool
    reason: str


@dataclass(frozen=True)
class WireSizing:
    """The size of one wire: chosen or pinned, for which current, in which state, behind what.

    ``lasting_a`` is what the current counts for, by how long its loads are on. ``behind`` names
    the fuse or channel that protects it. ``ambient_c`` is the hottest place
    that it passes. ``runs`` are the ids of the runs it goes along.
    """

    wire: str
    size: str
    pinned: bool
    current_a: float
    lasting_a: float
    when: str
    carries_a: float
    must_carry_a: float
    length_m: float
    ambient_c: float
    insulation: str
    runs: tuple[str, ...]
    fuse: str | None
    behind: str | None


@dataclass(frozen=True)
class FuseSizing:
    """The rating of one fuse: chosen or pinned, for which current and in which state.

    ``lasting_a`` is what that current counts for, by how long its loads are on; ``carries_a`` is
    what the fuse may carry for ever at its place, ``bears_a`` what it bears for seconds.
    """

    fuse: str
    rating_a: float
    pinned: bool
    current_a: float
    lasting_a: float
    carries_a: float
    bears_a: float
    when: str


@dataclass(frozen=True)
class Charging:
    """What is lost between an alternator at full output and the battery: volts, against what may
    be, at these amps, in these wires."""

    drop_v: float
    limit_v: float
    amps: float
    wires: tuple[str, ...]


@dataclass(frozen=True)
class LoadSizing:
    """The worst road state of one load: its volts, amps and the drop on feed and return."""

    load: str
    volts: float
    amps: float
    drop_v: float
    drop_percent: float
    limit_v: float
    limit_percent: float
    road: str
    when: str
    path: Path
    solution: Solution

    @property
    def wire(self) -> str | None:
        """The wire that feeds it, nearest to it."""
        wires = (step.owner for step in self.path.feed[::-1] if step.kind == "wire")
        return next(wires, None)

    @property
    def fuse(self) -> str | None:
        """The fuse that it is behind; None where an electronic output guards it, or nothing."""
        guards = (step for step in self.path.feed[::-1] if step.kind in ("fuse", "output"))
        guard = next(guards, None)
        return guard.owner if guard and guard.kind == "fuse" else None


@dataclass(frozen=True)
class CircuitSizing:
    """One line of the ledger; ``fuse`` and ``size`` are those of its largest load, one of so many
    ``fuses``; the drop is that of the load which loses most of its limit. ``verdict`` is stop,
    look, note or fine; figures are None where nothing flows."""

    circuit: str
    current_a: float
    fuse: str | None
    fuses: int
    size: str | None
    drop_v: float | None
    drop_percent: float | None
    limit_v: float | None
    limit_percent: float | None
    worst_load: str | None
    verdict: str


@dataclass(frozen=True)
class Healing:
    """The loads that thicker wire cures, and the sizes, by wire, with which they lose no more than
    they may."""

    loads: frozenset[str]
    sizes: Mapping[str, str]


@dataclass(frozen=True)
class Sizing:
    """The answer: ``build`` with every size filled in, and why each is what it is.

    ``solutions`` belong to ``states``; ``unprotected`` are the wires before any fuse;
    ``charging`` is by alternator; ``fullest`` are the states of each key position with most on.
    ``unsearched`` are loads for which a search for a way gave up. ``candidates`` gives the sizes
    that were weighed for a wire or fuse, by its id; raises KeyError. ``healing`` says which of
    these loads thicker wire cures, at any price, and with which sizes. ``grouping`` gives the
    grouping factor of a wire in each of its runs. ``worded`` gives the same sizes for a build that
    differs in names alone. ``laid_out`` gives the network, the same each time; it is not kept with
    the build, which it holds: in a ring both would stay until somebody looks for garbage.
    """

    build: Build
    states: tuple[DesignState, ...]
    wires: Mapping[str, WireSizing]
    fuses: Mapping[str, FuseSizing]
    loads: Mapping[str, LoadSizing]
    charging: Mapping[str, Charging]
    circuits: Mapping[str, CircuitSizing]
    easiest: Mapping[str, Path | None]
    solutions: tuple[Solution, ...]
    unprotected: frozenset[str]
    fullest: tuple[State, ...]
    unsearched: frozenset[str]
    candidates: Callable[[str], tuple[Candidate, ...]] = field(compare=False)
    healing: Callable[[Collection[str]], Healing] = field(compare=False)
    grouping: Callable[[str], Mapping[str, float]] = field(compare=False)
    worded: Callable[[Build], "Sizing"] = field(compare=False)
    laid_out: Callable[[], Network] = field(compare=False)
    findings: tuple[Finding, ...] = field(default=())

    @property
    def network(self) -> Network:
        """The sized build in a cold garage, laid out when somebody first asks."""
        return self.laid_out()
