"""A build being written to: adding parts and wires with fresh ids and labels."""

import re
import unicodedata
from dataclasses import replace
from typing import Any

from circuitry.design.colours import colour_for
from circuitry.design.model import Build, Circuit, Part, Terminal, Wire, landings
from circuitry.design.routes import distance_m
from circuitry.devices.connector import cavity_halves
from circuitry.errors import UnusableInput

SPARE_WIRES = "spare-wires"
"""The recipe of plugs that wait for what may come."""


class Draft:
    """A copy of a build whose collections can be added to; ``build`` gives it back.

    ``before`` is the build that it was made from.
    """

    def __init__(self, build: Build) -> None:
        self.parts = dict(build.parts)
        self.wires = dict(build.wires)
        self.circuits = dict(build.circuits)
        self.before = build

    @property
    def build(self) -> Build:
        """The build as it stands now."""
        return replace(self.before, parts=self.parts, wires=self.wires, circuits=self.circuits)

    def fresh_id(self, name: str, taken: dict[str, Any]) -> str:
        """An id made from a name, numbered when it is taken."""
        plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
        stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:50] or "thing"
        names = [stem, *(f"{stem}-{number}" for number in range(2, len(taken) + 3))]
        return next(name for name in names if name not in taken)

    def add_part(self, kind: str, name: str, place: str, **fields: Any) -> Part:
        """Add a part under a fresh id."""
        part = Part(self.fresh_id(name, self.parts), kind, name, place, **fields)
        self.parts[part.id] = part
        return part

    def add_circuit(self, name: str, group: str, criticality: str) -> Circuit:
        """Add a circuit under a fresh id."""
        circuit = Circuit(self.fresh_id(name, self.circuits), name, group, criticality)
        self.circuits[circuit.id] = circuit
        return circuit

    def add_wire(
        self, start: Terminal, end: Terminal, circuit: Circuit | None, colour: str
    ) -> Wire:
        """Add a wire with the next free label."""
        used = {wire.label for wire in self.wires.values()}
        number = next(n for n in range(1, len(used) + 2) if f"W{n}" not in used)
        wire = Wire(
            self.fresh_id(f"w{number}", self.wires),
            f"W{number}",
            start,
            end,
            colour=colour,
            circuit=circuit.id if circuit else None,
        )
        self.wires[wire.id] = wire
        return wire

    def feed(self, start: Terminal, end: Terminal, circuit: Circuit) -> Wire:
        """Add a wire on the supply side in the colour that the build's policy gives: from a spare
        plug at the place where it ends, where one is led there from the same start."""
        spare = self.spare_of(start, self.parts[end.part].place) or start
        return self.add_wire(spare, end, circuit, colour_for(self.build, circuit, "feed"))

    def spare_of(self, start: Terminal, place: str | None) -> Terminal | None:
        """The free half of a cavity of a spare plug at a place to which a wire leads from a
        terminal; None where there is none."""
        for wire in self.wires_on(start):
            for end in (wire.from_terminal, wire.to_terminal):
                part = self.parts[end.part]
                written = self.circuits[part.circuit].written if part.circuit else None
                if part.place != place or written is None or written.recipe != SPARE_WIRES:
                    continue
                onward = Terminal(part.id, cavity_halves(end.name[:-1])[1])
                if not self.wires_on(onward):
                    return onward
        return None

    def ground(
        self, terminal: Terminal, circuit: Circuit, by_ring: bool = False, to: str | None = None
    ) -> Wire:
        """Return a terminal to a ground bar at its own place, or else to the nearest ground point,
        or the one named, or to a bar beside that, which has a screw for each; ``by_ring`` passes
        bars by. Raises UnusableInput without a ground point."""
        place = self.parts[terminal.part].place
        colour = colour_for(self.build, circuit, "ground")
        strip = None if by_ring or to else self.bar_at(place)
        if strip:
            return self.add_wire(terminal, Terminal(strip, "stud"), circuit, colour)
        kind = "ground point"
        points = [row for row in self.parts.values() if row.kind == kind and to in (None, row.id)]
        reachable = [(distance_m(self.before, place, point.place), point.id) for point in points]
        far_m, nearest = min(reachable, default=(float("inf"), ""))
        if far_m == float("inf"):
            raise UnusableInput(
                "no-ground",
                str(terminal),
                f"No ground point can be reached from {self.place_name(place)}. "
                "Add a ground point, and runs that lead to it.",
            )
        bar = None if by_ring else self._bar_beside(nearest)
        return self.add_wire(terminal, Terminal(bar or nearest, "stud"), circuit, colour)

    def _bar_beside(self, point: str) -> str | None:
        """A bus bar at the place of a ground point that a wire joins to it."""
        for wire in self.wires_on(Terminal(point, "stud")):
            for end in (wire.from_terminal, wire.to_terminal):
                part = self.parts[end.part]
                if part.kind == "bus bar" and part.place == self.parts[point].place:
                    return part.id
        return None

    def bar_at(self, place: str | None) -> str | None:
        """A bus bar of ground at a place."""
        bars = (p.id for p in self.parts.values() if p.kind == "bus bar" and p.place == place)
        return next((bar for bar in bars if self.grounded(Terminal(bar, "stud"))), None)

    def grounded(self, stud: Terminal) -> bool:
        """Whether a stud or bus bar is joined to ground or to the minus of a battery, by wires and
        others between."""
        seen, waiting = {stud.part}, [stud]
        while waiting:
            for wire in self.wires_on(waiting.pop()):
                for end in (wire.from_terminal, wire.to_terminal):
                    kind = self.parts[end.part].kind
                    if kind == "ground point" or (kind == "battery" and end.name == "-"):
                        return True
                    if kind in ("stud", "bus bar") and end.part not in seen:
                        seen.add(end.part)
                        waiting.append(end)
        return False

    def lands(self, terminal: Terminal) -> Terminal:
        """Where a terminal really is; see ``Build.lands``."""
        part = self.parts[terminal.part]
        return dict(landings(part, self.parts)).get(terminal, terminal)

    def place_of(self, circuit: Circuit) -> str | None:
        """Where the first load of a circuit is; None where it has none yet."""
        loads = (part for part in self.parts.values() if part.kind == "load")
        return next((part.place for part in loads if part.circuit == circuit.id), None)

    def place_name(self, place: str) -> str:
        """The builder's name of a place."""
        return self.before.places[place].name

    def wires_on(self, terminal: Terminal) -> list[Wire]:
        """The wires that land on a terminal, or on the pin of the unit that it is inside."""
        at = {terminal, self.lands(terminal)}
        return [w for w in self.wires.values() if w.from_terminal in at or w.to_terminal in at]
