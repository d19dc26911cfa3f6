"""The proof of one circuit: the state to put the car in and the readings to expect there.

Every figure is the solver's, in exactly that state on the sized build in a cold garage. The band
spans what a sound circuit may read: battery from half charged to just charged, loads within a
tenth of their rating, joints and contacts from new to worn.
"""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, replace

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal
from circuitry.design.state import State, Supply
from circuitry.devices.battery import battery_supply
from circuitry.devices.load import output_word
from circuitry.errors import UnusableInput
from circuitry.network.elements import Tolerance
from circuitry.network.network import Network, Solution
from circuitry.reach.paths import paths_of, state_of
from circuitry.reach.ways import Path

HALF_CHARGED_V = 12.4
JUST_CHARGED_V = 12.9
LOAD_SPREAD = 0.1
WORN_JOINTS = 4.0
METER_V = 0.02
METER_A = 0.05


@dataclass(frozen=True)
class Band:
    """A reading to expect and the limits between which it is sound."""

    expected: float
    low: float
    high: float

    def verdict(self, reading: float) -> str:
        """``in band``, ``too low`` or ``too high``."""
        if reading < self.low:
            return "too low"
        return "too high" if reading > self.high else "in band"


@dataclass(frozen=True)
class Operation:
    """Put this switch, or the key, in this position; ``held`` while looking."""

    part: str
    name: str
    position: str
    held: bool


@dataclass(frozen=True)
class LoadProof:
    """What to see and measure at one load: its terminals for the probes, its wire for the clamp."""

    load: str
    name: str
    place: str
    see: str
    red: Terminal
    black: Terminal
    clamp: str | None
    volts: Band
    amps: Band


@dataclass(frozen=True)
class CircuitProof:
    """The steps of one circuit, in the order they are done."""

    circuit: str
    cautions: tuple[str, ...]
    operate: tuple[Operation, ...]
    state: State
    loads: tuple[LoadProof, ...]
    wrong: tuple[str, ...]


SAID_OF_VALUE = {
    "engine_rpm": "Engine speed, rpm",
    "coolant_c": "Coolant, °C",
    "speed_kmh": "Road speed, km/h",
}
SEEN = {"light": "lights", "sound": "sounds", "speed": "runs", "power": "works"}
WRONG_READINGS = (
    "No volts: the fuse, the switch or the relay on its way.",
    "Volts too low: a poor joint, a thin wire or a bad ground. Probe along the fall line.",
    "Volts but no amps: the load itself is open, or its plug is off.",
    "Amps too high: a wrong load, a motor that binds, or a chafed wire. Switch off first.",
)
BATTERY_CAUTION = "Rings and watches off. Battery negative goes on last and comes off first."
CAUTIONS_BY_KIND = {
    "filament": "The lamp and its holder get hot.",
    "resistor": "The element gets hot.",
    "motor": "The motor starts the moment it is fed. Hands, hair and tools clear.",
    "starter": "The engine turns at once. Out of gear, car held, hands clear.",
    "solenoid": "The mechanism moves at once. Fingers clear.",
}
FUEL_CAUTION = "Look for fuel leaks before and while it runs. No sparks, extinguisher at hand."


def prove_circuit(build: Build, circuit_id: str) -> CircuitProof:
    """The proof of a circuit of a sized build; raises UnusableInput when it cannot be energised."""
    proof = prove_circuits(build, [circuit_id])[circuit_id]
    if isinstance(proof, UnusableInput):
        raise proof
    return proof


def prove_circuits(
    build: Build, circuit_ids: Iterable[str]
) -> Mapping[str, CircuitProof | UnusableInput]:
    """The proofs of circuits of a sized build, solved together, by id; in place of one that cannot
    be energised the reason."""
    proofs: dict[str, CircuitProof | UnusableInput] = {}
    ways: dict[str, Path] = {}
    for circuit_id in circuit_ids:
        try:
            ways[circuit_id] = _way(build, circuit_id)
        except UnusableInput as problem:
            proofs[circuit_id] = problem
    states = {circuit: state_of(build, way.positions) for circuit, way in ways.items()}
    corners = zip(*_corners(build, list(states.values())), strict=True)
    for (circuit_id, state), rows in zip(states.items(), corners, strict=True):
        refused = next((row for row in rows if isinstance(row, UnusableInput)), None)
        if refused is not None:
            proofs[circuit_id] = refused
            continue
        readings = [row for row in rows if isinstance(row, Solution)]
        loads = build.loads_of(circuit_id)
        proofs[circuit_id] = CircuitProof(
            circuit_id,
            _cautions(loads),
            _operations(build, ways[circuit_id]),
            state,
            tuple(_load_proof(build, load, readings) for load in loads),
            WRONG_READINGS,
        )
    return proofs


def _way(build: Build, circuit_id: str) -> Path:
    circuit = build.circuits.get(circuit_id)
    loads = build.loads_of(circuit_id)
    if circuit is None or not loads:
        raise UnusableInput(
            "no-loads", circuit_id, f"Circuit “{circuit_id}” has no loads to prove."
        )
    paths = paths_of(build)
    path = paths.to_load(loads[0])
    if path is None and paths.gave_up(loads[0]):
        raise UnusableInput(
            "search-gave-up",
            loads[0].id,
            f"How {loads[0].name} comes on was not found: more positions than can be searched lie "
            "on its way. Set its switches on the bench, and read what to expect there.",
        )
    if path is None:
        raise UnusableInput(
            "load-dead",
            loads[0].id,
            f"{loads[0].name} cannot come on: a wire, switch or ground is missing on its way.",
        )
    return path


def outdated(proof: CircuitProof, recorded: Mapping[str, tuple[Band, Band]]) -> bool:
    """Whether other loads or other readings are to be expected now than when it was recorded.

    ``recorded`` has the bands of volts and amps by load.
    """
    now = {load.load: (load.volts, load.amps) for load in proof.loads}
    if set(now) != set(recorded):
        return True
    return any(
        abs(band.expected - before.expected) > resolution / 2
        for load, bands in now.items()
        for band, before, resolution in zip(bands, recorded[load], (METER_V, METER_A), strict=True)
    )


def _corners(build: Build, states: list[State]) -> Iterator[list[Solution | UnusableInput]]:
    """All states as designed first, then at each corner of what is sound."""
    battery = build.parts_of_kind("battery")[0]
    resistance_ohm = battery_supply(battery).resistance_ohm
    as_designed, worn, new = _networks(build)
    yield _solved(as_designed, states)
    for spread, emf_v in ((worn, HALF_CHARGED_V), (new, JUST_CHARGED_V)):
        supply = Supply(emf_v, resistance_ohm)
        for network in spread:
            yield _solved(network, [replace(state, supply=supply) for state in states])


def _solved(network: Network, states: list[State]) -> list[Solution | UnusableInput]:
    return [
        row if isinstance(row, UnusableInput) else network.solution(row)
        for row in network.try_many(states)
    ]


def _networks(build: Build) -> tuple[Network, tuple[Network, ...], tuple[Network, ...]]:
    """The build as designed, and with loads that take less and more: in worn joints, and in new
    ones. Laid out once for all proofs of a build."""
    known: tuple[Network, tuple[Network, ...], tuple[Network, ...]] | None
    known = build.derived.get("networks of proofs")
    if known is None:
        worn, new = (
            tuple(
                Network(build, tolerance=Tolerance(current, joints))
                for current in (1 - LOAD_SPREAD, 1 + LOAD_SPREAD)
            )
            for joints in (WORN_JOINTS, 1.0)
        )
        known = build.derived["networks of proofs"] = Network(build), worn, new
    return known


def _load_proof(build: Build, load: Part, solutions: list[Solution]) -> LoadProof:
    plus, minus = (build.lands(Terminal(load.id, name)) for name in ("+", "-"))
    clamp = next(
        (w.id for w in build.wires.values() if plus in (w.from_terminal, w.to_terminal)), None
    )
    see = SEEN[output_word(load)]
    return LoadProof(
        load.id,
        load.name,
        build.places[load.place].name,
        f"{load.name} {see}",
        plus,
        minus,
        clamp,
        _band([solution.loads[load.id].volts for solution in solutions], METER_V),
        _band([solution.loads[load.id].amps for solution in solutions], METER_A),
    )


def _band(readings: list[float], resolution: float) -> Band:
    return Band(readings[0], max(min(readings) - resolution, 0.0), max(readings) + resolution)


def _operations(build: Build, path: Path) -> tuple[Operation, ...]:
    """The key first, then every switch that has to leave its rest."""
    operations: list[Operation] = []
    for part in build.parts.values():
        position = path.positions.get(part.id)
        if position is None or part.contacts is None or position == part.contacts.positions[0].name:
            continue
        row = Operation(part.id, part.name, position, part.contacts.momentary)
        if part.kind == "key switch":
            operations.insert(0, row)
        else:
            operations.append(row)
    for name, said in SAID_OF_VALUE.items():
        if name in path.positions:
            operations.append(Operation(name, said, f"{path.positions[name]} or beyond", False))
    return tuple(operations)


def _cautions(loads: list[Part]) -> tuple[str, ...]:
    kinds = {catalogue().loads[load.catalogue or ""].kind for load in loads}
    cautions = [BATTERY_CAUTION]
    cautions += [CAUTIONS_BY_KIND[kind] for kind in sorted(kinds) if kind in CAUTIONS_BY_KIND]
    if any("fuel" in (load.catalogue or "").lower() for load in loads):
        cautions.append(FUEL_CAUTION)
    return tuple(cautions)
