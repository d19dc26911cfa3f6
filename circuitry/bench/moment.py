"""Everything that a bench is in at an instant: with the build, all that it does next."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, fields
from typing import Any

import numpy as np

from circuitry.bench.faults import Fault, fault_from
from circuitry.bench.meters import SUPPLY_V, Meter, meter_from
from circuitry.bench.standins import Engine
from circuitry.design.logic import Memory
from circuitry.design.model import Build
from circuitry.network.equations import Flags, Vector

NEVER_S = 1e12


@dataclass(frozen=True)
class Clock:
    """The phase of a flasher: lit or dark, and since when; ``idle`` while nothing flashes."""

    lit: bool = True
    since_s: float = 0.0
    idle: bool = True
    fast: bool = False


@dataclass(frozen=True)
class Trip:
    """A channel that has tripped: when it comes on again, and how often it has tried."""

    again_s: float
    tries: int


@dataclass(eq=False)
class Moment:
    """An instant. Positions and values are those set by hand; states are in the order of the
    network's lags; wires, batteries and positions that move by themselves in that of the build."""

    t_s: float
    step_s: float
    moved: Flags
    at: Vector
    curve: Vector
    wire_c: Vector
    charge: Vector
    near_v: Vector
    engine: Engine = field(default_factory=Engine)
    key: str = "off"
    switches: dict[str, str] = field(default_factory=dict)
    values: dict[str, float] = field(default_factory=dict)
    senders: dict[str, float] = field(default_factory=dict)
    lost: set[str] = field(default_factory=set)
    pulled: set[str] = field(default_factory=set)
    parted: set[str] = field(default_factory=set)
    touching: set[str] = field(default_factory=set)
    hot: set[str] = field(default_factory=set)
    faults: dict[str, Fault] = field(default_factory=dict)
    meters: dict[str, Meter] = field(default_factory=dict)
    due: dict[int, tuple[float, bool]] = field(default_factory=dict)
    tripped: dict[tuple[str, str], Trip] = field(default_factory=dict)
    ramps: dict[tuple[str, str], float] = field(default_factory=dict)
    clocks: dict[str, Clock] = field(default_factory=dict)
    cams: dict[str, float] = field(default_factory=dict)
    travels: dict[str, float] = field(default_factory=dict)
    reset_s: dict[str, float] = field(default_factory=dict)
    since_s: dict[str, float] = field(default_factory=dict)
    chafes: dict[str, tuple[float, int]] = field(default_factory=dict)
    supply_v: float = SUPPLY_V
    lead_at: float = 0.0
    peaks: dict[str, float] = field(default_factory=dict)
    memory: Memory = field(default_factory=Memory)

    def copy(self) -> "Moment":
        """Another that goes on from here by itself."""
        return self._with_own(_OWN)

    def ahead(self, seconds: float) -> "Moment":
        """The same some time later, for a step: what is by hand and what a step works out anew is
        not its own."""
        other = self._with_own(_MOVES)
        other.t_s = other.memory.now_s = self.t_s + seconds
        return other

    def _with_own(self, names: Sequence[str]) -> "Moment":
        other = Moment.__new__(Moment)
        vars(other).update(vars(self))
        for name in names:
            setattr(other, name, getattr(self, name).copy())
        return other

    def as_document(self) -> dict[str, Any]:
        """As plain JSON values, from which ``moment_from`` makes the same again."""
        found: dict[str, Any] = {}
        for row in fields(self):
            found[row.name] = _plain(getattr(self, row.name))
        return found


_PLAIN = ("t_s", "step_s", "engine", "key", "supply_v", "lead_at")
_OWN = tuple(row.name for row in fields(Moment) if row.name not in _PLAIN)
_MOVES = (
    *("moved", "due", "tripped", "ramps", "clocks", "cams", "travels", "reset_s", "since_s"),
    *("chafes", "peaks", "memory", "parted", "touching", "hot"),
)
"""What of a moment may change in place; and what of that by itself."""


def _plain(value: Any) -> Any:
    if isinstance(value, np.ndarray):
        return value.tolist()
    if isinstance(value, Fault | Meter):
        return value.as_row()
    if isinstance(value, Memory):
        return [value.now_s, value.latched, value.until_s]
    if isinstance(value, Engine | Clock | Trip):
        return [getattr(value, row.name) for row in fields(value)]
    if isinstance(value, set):
        return sorted(value)
    if isinstance(value, dict):
        return [[_plain(name), _plain(item)] for name, item in value.items()]
    return list(value) if isinstance(value, tuple) else value


def moment_from(document: Mapping[str, Any], build: Build) -> Moment:
    """The moment that was kept as this document."""
    rows = dict(document)
    for name in ("at", "curve", "wire_c", "charge", "near_v"):
        rows[name] = np.array(rows[name], dtype=float)
    rows["moved"] = np.array(rows["moved"], dtype=bool)
    rows["engine"] = Engine(*rows["engine"])
    for name in ("lost", "pulled", "parted", "touching", "hot"):
        rows[name] = set(rows[name])
    plain = ("switches", "values", "senders", "cams", "travels", "reset_s", "since_s", "peaks")
    for name in plain:
        rows[name] = dict(rows[name])
    rows["faults"] = {name: fault_from(row, "snapshot") for name, row in rows["faults"]}
    rows["meters"] = {name: _meter(row, build) for name, row in rows["meters"]}
    rows["due"] = {int(number): (due_s, to) for number, (due_s, to) in rows["due"]}
    rows["tripped"] = {tuple(pair): Trip(*row) for pair, row in rows["tripped"]}
    rows["ramps"] = {tuple(pair): since for pair, since in rows["ramps"]}
    rows["chafes"] = {name: (next_s, count) for name, (next_s, count) in rows["chafes"]}
    rows["clocks"] = {name: Clock(*row) for name, row in rows["clocks"]}
    memory = Memory()
    now_s, latched, until_s = rows["memory"]
    memory.now_s, memory.latched, memory.until_s = now_s, dict(latched), dict(until_s)
    rows["memory"] = memory
    return Moment(**rows)


def _meter(row: Mapping[str, Any], build: Build) -> Meter:
    meter = meter_from(row, build, "snapshot")
    assert meter is not None
    return meter
