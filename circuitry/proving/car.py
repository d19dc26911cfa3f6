"""The car whose proof is written: its build, what sound ones of its kind read, and what is known of
how its functions come alive."""

from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass
from functools import cached_property

from circuitry.design.logic import SPOKEN_VALUES, UNITS, VALUES
from circuitry.design.model import KEY_POSITIONS, Build, Circuit, Part, Terminal
from circuitry.devices.sensor import Scale
from circuitry.errors import UnusableInput
from circuitry.network.network import Settled
from circuitry.proving.situation import Situation, Sound, Today
from circuitry.proving.step import Operation
from circuitry.reach.gauges import dials
from circuitry.reach.paths import paths_of
from circuitry.reach.truth import Lever, TruthTable, fitting, levers_of, truth_tables
from circuitry.sizing.result import Sizing

ENGINE = "engine"
CRANK = "crank"
PLUGGED_IN = ("Power socket", "USB charger", "Trailer socket")
"""What takes nothing until something is plugged in: out but in its own steps."""
PARKS = {"parked", "away"}
KEYS_FIRST = ("off", "run", "accessory", CRANK)
"""The key position to prove a function in, where several do."""


@dataclass(frozen=True)
class Row:
    """One line of the truth table of a circuit: the position of each lever that it is tried in, and
    what each load does there, as its truth table says."""

    circuit: str
    at: tuple[tuple[str, str], ...]
    words: Mapping[str, str]

    @property
    def is_off(self) -> bool:
        """Whether nothing of the circuit does anything."""
        return set(self.words.values()) == {"off"}


class Car:
    """One build and what is known of the car today."""

    def __init__(self, sizing: Sizing, today: Today) -> None:
        self.sizing = sizing
        self.build: Build = sizing.build
        self.today = today
        self.sound = Sound(sizing.build, today)
        self.paths = paths_of(sizing.build)
        self.battery = sizing.build.parts_of_kind("battery")[0]
        self.minus = Terminal(self.battery.id, "-")
        self.plus = Terminal(self.battery.id, "+")
        self.keys = {part.id for part in self.build.parts_of_kind("key switch")}
        self.isolators = {part.id for part in self.build.parts_of_kind("isolator")}
        self.plugged_in = frozenset(
            load.id
            for load in self.build.parts_of_kind("load")
            if (load.catalogue or "").startswith(PLUGGED_IN)
        )
        self.cams = {
            part.id: part
            for part in self.build.parts_of_kind("sensor")
            if part.contacts and {row.name for row in part.contacts.positions} == PARKS
        }

    @cached_property
    def circuits(self) -> list[Circuit]:
        """In the order in which they are proved: by stage, the chassis before the engine."""
        rows = enumerate(self.build.circuits.values())
        by_order = sorted(rows, key=lambda row: (row[1].stage, row[1].group == ENGINE, row[0]))
        return [circuit for _, circuit in by_order]

    @cached_property
    def scales(self) -> Mapping[str, Scale]:
        """What the gauges show that are led to a sender."""
        return {dial.gauge.id: dial.scale for dial in dials(self.build)}

    @cached_property
    def rows(self) -> Mapping[str, list[Row]]:
        """What is tried of each circuit with loads: its lines in which something is on, the one
        with least to operate first, then those in which it must stay off."""
        held = {*self.isolators, *self.cams}
        circuits, asked = [], []
        for circuit in self.circuits:
            loads = tuple(self.build.loads_of(circuit.id))
            if loads:
                levers = (row for row in levers_of(self.build, loads) if row.part not in held)
                circuits.append(circuit.id)
                asked.append((loads, fitting(levers)))
        tables = truth_tables(self.sound.network, asked)
        rows = zip(circuits, tables, strict=True)
        return {circuit: list(self._rows(circuit, table)) for circuit, table in rows}

    def _rows(self, circuit: str, table: TruthTable) -> Iterator[Row]:
        on = [row for row in table.rows if any(o.word != "off" for o in row.outcomes)]
        tried = [tuple(map(_first_of, table.levers, row.positions)) for row in on]
        moved = [self._moved(table.levers, at) for at in tried]
        shown: set[tuple[str, str]] = set()
        for number in sorted(range(len(on)), key=moved.__getitem__):
            words = [outcome.word for outcome in on[number].outcomes]
            does = set(zip(table.loads, words, strict=True))
            if moved[number] <= min(moved) + 1 or does - shown:
                shown |= does
                yield self._row(circuit, table, tried[number], words)
        for row in table.rows:
            if row in on:
                continue
            at = _nearest(row.positions, table.levers, tried)
            if at is not None and self._moved(table.levers, at):
                yield self._row(circuit, table, at, [o.word for o in row.outcomes])

    def _row(self, circuit: str, table: TruthTable, at: tuple[str, ...], words: list[str]) -> Row:
        named = zip((lever.part for lever in table.levers), at, strict=True)
        return Row(circuit, tuple(named), dict(zip(table.loads, words, strict=True)))

    def _moved(self, levers: Iterable[Lever], at: Iterable[str]) -> int:
        """How many levers are away from where they rest."""
        return sum(name != lever.positions[0] for lever, name in zip(levers, at, strict=True))

    def situation(
        self, at: Iterable[tuple[str, str]], out: Iterable[str] = (), of: str | None = None
    ) -> Situation:
        """The car with levers in these positions and these parts out, and nothing plugged in but
        what is of this circuit."""
        positions = dict(at)
        key = next((positions[part] for part in self.keys if part in positions), "off")
        others = frozenset(row for row in positions.items() if row[0] not in self.keys)
        loose = {p for p in self.plugged_in if of is None or self.build.parts[p].circuit != of}
        return Situation(key, others, out=frozenset(out) | loose)

    @property
    def at_rest(self) -> Situation:
        """Key off, everything at rest, nothing plugged in."""
        return self.situation(())

    def on(self, settled: Settled | UnusableInput) -> frozenset[str]:
        """The loads that do something; none where it does not settle."""
        if isinstance(settled, UnusableInput):
            return frozenset()
        return self.sound.network.loads_on(settled)

    def operate(self, at: Iterable[tuple[str, str]]) -> tuple[Operation, ...]:
        """What to operate: the key first, then every lever that has to leave its rest."""
        operations: list[Operation] = []
        for name, position in at:
            part = self.build.parts.get(name)
            if name in self.keys:
                operations.insert(0, Operation(name, "Key", position))
            elif name in VALUES:
                if float(position) == VALUES[name]:
                    continue
                said = SPOKEN_VALUES[name].capitalize()
                operations.append(Operation(name, said, _value_said(name, float(position))))
            elif part and part.contacts and position != part.contacts.positions[0].name:
                jumper = (name, position) in self.today.jumpered
                held = part.contacts.momentary
                operations.append(Operation(name, part.name, position, held, jumper))
        return tuple(operations)

    def waits_for(self, at: Iterable[tuple[str, str]]) -> tuple[str, ...]:
        """Switches that are not there yet and have to be moved for this."""
        return tuple(
            row.part
            for row in self.operate(at)
            if row.part in self.today.missing and not row.jumper
        )

    def way_owners(self, load: Part) -> list[str]:
        """The parts and wires on the way to a load and back."""
        path = self.paths.to_load(load)
        if path is None:
            return [load.id]
        return list(dict.fromkeys([load.id, *(step.owner for step in path.steps)]))

    def guards(self, load: Part) -> tuple[str, str]:
        """What to suspect where nothing arrives at a load: what protects and switches it; and its
        ground, in words."""
        path = self.paths.to_load(load)
        if path is None:
            return "what feeds it", "its ground"
        kinds = ("fuse", "contact", "output", "flasher", "isolator")
        before = [s.owner for s in path.feed if s.kind in kinds and s.owner in self.build.parts]
        names = [self.build.parts[owner].name for owner in dict.fromkeys(before[::-1])][:3]
        back = [self.build.parts[s.to_terminal.part] for s in path.back]
        ground = next((p.name for p in back if p.kind in ("ground point", "bus bar")), "")
        return ", ".join(names) or "its feed", ground or "its ground wire"

    @cached_property
    def fuse_levels(self) -> Mapping[str, int]:
        """Fuses by how many others lie before them."""
        levels: dict[str, int] = {}
        start = self.build.lands(self.plus)
        reached, level, front = {start}, 0, [start]
        while front:
            beyond = []
            while front:
                for edge in self.paths.edges.get(front.pop(), ()):
                    step = edge.step
                    if step.to_terminal in reached or step.to_terminal in self.paths.grounded:
                        continue
                    if step.kind == "fuse" and step.owner not in levels:
                        levels[step.owner] = level
                        beyond.append(step.to_terminal)
                    elif step.kind != "fuse":
                        reached.add(step.to_terminal)
                        front.append(step.to_terminal)
            front = [terminal for terminal in beyond if terminal not in reached]
            reached |= set(front)
            level += 1
        return levels

    @cached_property
    def behind(self) -> Mapping[str, list[Part]]:
        """The loads that each fuse feeds, as their nearest protection."""
        found: dict[str, list[Part]] = {}
        for load in self.build.parts_of_kind("load"):
            sized = self.sizing.loads.get(load.id)
            if sized is not None and sized.fuse is not None:
                found.setdefault(sized.fuse, []).append(load)
        return found

    def stage(self, circuit: str | None) -> int:
        """The stage in which a circuit is built and proved."""
        found = self.build.circuits.get(circuit or "")
        return found.stage if found else 1

    def is_engine(self, circuit: str | None) -> bool:
        """Whether a circuit is held off until the chassis is proved."""
        found = self.build.circuits.get(circuit or "")
        return found is not None and found.group == ENGINE


TURNING_RPM = 400.0


def _value_said(name: str, value: float) -> str:
    """What a value is to be, in words."""
    if name == "engine_rpm" and value < TURNING_RPM:
        return "cranking speed or more"
    return f"{value:g} {UNITS[name]}".strip()


def _first_of(lever: Lever, positions: tuple[str, ...]) -> str:
    """The position to try, of several that do the same."""
    if lever.positions == KEY_POSITIONS:
        return next(at for at in KEYS_FIRST if at in positions)
    return lever.positions[0] if lever.positions[0] in positions else positions[0]


def _nearest(
    positions: tuple[tuple[str, ...], ...],
    levers: tuple[Lever, ...],
    tried: list[tuple[str, ...]],
) -> tuple[str, ...] | None:
    """Of positions in which all is off, those nearest to where something is on: it must refuse."""
    best: tuple[int, tuple[str, ...]] | None = None
    for on in tried:
        at = tuple(
            here if here in choices else _first_of(lever, choices)
            for here, choices, lever in zip(on, positions, levers, strict=True)
        )
        away = sum(a != b for a, b in zip(at, on, strict=True))
        if best is None or away < best[0]:
            best = away, at
    return best[1] if best else None
