"""A recipe at work: answers become parts, and parts are fed, joined and grounded."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import (
    Build,
    Circuit,
    ContactTable,
    Housed,
    Part,
    Pin,
    Terminal,
    Wire,
)
from circuitry.design.routes import distance_m
from circuitry.devices.contact_tables import kind_of_table
from circuitry.devices.hearing import BUTTON
from circuitry.errors import UnusableInput
from circuitry.reach.paths import paths_of
from circuitry.recipes.ask import Question, default_answer, shape_problem, table_named
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import choose_fuse, fresh_ways, fuse_output, panel_near

RELAY = "mini 4-pin"
CHANGEOVER = "mini 5-pin"
SOURCE_EXTRA_M = 0.25


class Job:
    """One circuit being written. Terminals are given as a part and the name of its terminal."""

    def __init__(
        self, draft: Draft, circuit: Circuit, questions: tuple[Question, ...], answers: Any
    ) -> None:
        self.draft = draft
        self.circuit = circuit
        self.questions = {question.name: question for question in questions}
        self.answers: dict[str, Any] = dict(answers)
        self.used: dict[str, Any] = {}
        unknown = set(self.answers) - set(self.questions)
        if unknown:
            raise UnusableInput(
                "unknown-answer",
                circuit.id,
                f"“{circuit.name}” does not ask for {', '.join(sorted(unknown))}. It asks for "
                f"{', '.join(self.questions)}.",
            )
        for name, answer in self.answers.items():
            problem = shape_problem(self.questions[name], answer)
            if problem:
                raise self._bad(name, problem)
        taken = {
            row["part"]
            for answer in self.answers.values()
            for row in (answer if isinstance(answer, list) else [answer])
            if isinstance(row, dict) and "part" in row
        }
        for question in questions:
            if question.name not in self.answers:
                self.answers[question.name] = default_answer(draft.build, question, taken)

    # answers

    def load(self, name: str, label: str | None = None) -> Part | None:
        """The load that was answered: from the list, or a new one; None where it is left out."""
        part = self._load(self.questions[name], self.answers[name], label)
        self.used[name] = {"part": part.id} if part else None
        return part

    def need_load(self, name: str, label: str | None = None) -> Part:
        """The load that was answered; raises UnusableInput where it is left out."""
        part = self.load(name, label)
        if part is None:
            raise self._missing(name)
        return part

    def loads(self, name: str) -> list[Part]:
        """The loads that were answered, in order."""
        rows = self.answers[name] or []
        if not isinstance(rows, list):
            raise self._bad(name, "is a list of loads")
        parts = [self._load(self.questions[name], row, None) for row in rows]
        found = [part for part in parts if part]
        self.used[name] = [{"part": part.id} for part in found]
        return found

    def switch(self, name: str, label: str | None = None) -> Part | None:
        """The switch that was answered: one that is there, or a new one."""
        question, answer = self.questions[name], self.answers[name]
        part: Part | None = None
        if answer is not None:
            part = self._chosen(name, answer) if "part" in answer else None
            tables = [table_named(row) for row in question.rows]
            if (
                part is not None
                and part.contacts not in tables
                and not _is_button_for(part, tables)
            ):
                raise UnusableInput(
                    "bad-switch",
                    part.id,
                    f"{part.name} has other contacts than a {question.rows[0].lower()}. Choose "
                    "another, or a new one.",
                )
            if part is None:
                row = answer.get("row", question.rows[0])
                if row not in question.rows:
                    raise self._bad(name, f"may be {', '.join(question.rows)}")
                part = self._new_switch(question, row, answer, label)
        self.used[name] = {"part": part.id} if part else None
        return part

    def need_switch(self, name: str, label: str | None = None) -> Part:
        """The switch that was answered; raises UnusableInput where it is left out."""
        part = self.switch(name, label)
        if part is None:
            raise self._missing(name)
        return part

    def sender(self, name: str) -> Part | None:
        """The sender that was answered: one that is there, or a new one."""
        question, answer = self.questions[name], self.answers[name]
        part: Part | None = None
        if answer is not None and "part" in answer:
            part = self._chosen(name, answer)
            if part.catalogue not in question.rows:
                raise self._bad(name, f"is a {question.rows[0].lower()}")
            self._unwired(part, "signal")
        elif answer is not None:
            row, at = question.rows[0], self._place(question, answer)
            part = self.add("sensor", answer.get("name") or row, at, catalogue=row)
        self.used[name] = {"part": part.id} if part else None
        return part

    def part(self, name: str) -> Part | None:
        """The part of the build that was chosen."""
        answer = self.answers[name]
        self.used[name] = answer
        return self._chosen(name, {"part": answer}) if answer else None

    def place(self, name: str) -> str:
        """The place that was answered."""
        place = self.answers[name]
        if place not in self.draft.build.places:
            raise self._bad(name, "is a place of the build")
        self.used[name] = place
        return str(place)

    def choice(self, name: str) -> str:
        """The choice that was made."""
        value = self.answers[name]
        if value not in self.questions[name].choices:
            raise self._bad(name, f"is one of {', '.join(self.questions[name].choices)}")
        self.used[name] = value
        return str(value)

    def flag(self, name: str) -> bool:
        """Whether it was asked for."""
        value = bool(self.answers[name])
        self.used[name] = value
        return value

    def text(self, name: str) -> str:
        """What was typed."""
        value = self.answers[name] or ""
        if not isinstance(value, str):
            raise self._bad(name, "is text")
        self.used[name] = value
        return value.strip()

    def number(self, name: str, least: float, most: float) -> float:
        """The number that was typed, between these bounds."""
        value = self.answers[name]
        if isinstance(value, bool) or not isinstance(value, int | float):
            raise self._bad(name, "is a number")
        if not least <= value <= most:
            raise self._bad(name, f"lies between {least:g} and {most:g}")
        self.used[name] = float(value)
        return float(value)

    def terminals(self, name: str) -> list[Terminal]:
        """The terminals that were chosen; each is there."""
        found = []
        for text in self.answers[name] or []:
            terminal = Terminal.parse(str(text))
            if terminal.part not in self.draft.parts:
                raise self._bad(name, f"names {text}, which is not there")
            found.append(terminal)
        self.used[name] = [str(terminal) for terminal in found]
        return found

    # parts

    def fuse(self, key: str, name: str | None = None, answer: str = "fuse") -> Part:
        """A fuse that is live from this key position: the one answered, or one in a free way."""
        chosen = self.answers.get(answer) if answer in self.questions else None
        near = self._near()
        fuse = choose_fuse(self.draft, (key,), chosen, name or self.circuit.name, near)
        if answer in self.questions:
            self.used[answer] = chosen
        return fuse

    def line_fuse(self, name: str, place: str, family: str = "regular blade") -> Part:
        """A fuse of its own in a wire, outside any panel."""
        return self.add("fuse", name, place, catalogue=family)

    def fuse_at_source(self, name: str, near: str, family: str = "regular blade") -> Part:
        """A fuse in a wire, fed from the live point that is nearer to a place, and beside that
        point: what lies before it is guarded for more."""
        source = self.source_near(near)
        fuse = self.line_fuse(name, self.draft.parts[source.part].place, family)
        self.feed(source, "", fuse, "in")
        if source != self.main_stud():
            self.keep_short(Terminal(fuse.id, "in"))
        return fuse

    def relay(self, name: str, kind: str = RELAY, place: str | None = None) -> Part:
        """A relay, beside the panel unless a place is given."""
        return self.add("relay", name, place or self.panel_place(), catalogue=kind)

    def add(self, kind: str, name: str, place: str, **fields: Any) -> Part:
        """A part of this circuit; one that was left when the circuit was cleared is used again."""
        for part in self.draft.parts.values():
            same = (part.kind, part.name, part.circuit) == (kind, name[:80], self.circuit.id)
            if same and part.id not in self._landed():
                self.draft.parts[part.id] = replace(part, place=place, **fields)
                return self.draft.parts[part.id]
        return self.draft.add_part(kind, name[:80], place, circuit=self.circuit.id, **fields)

    def panel(self, name: str, place: str, letter: str, buses: Sequence[str]) -> Part:
        """A panel with a way on each of these buses, numbered after those of other circuits."""
        parts = self.draft.parts.values()
        ways = fresh_ways((p for p in parts if p.circuit != self.circuit.id), letter, buses)
        figures = {"fuse_family": "regular blade"}
        return self.add("panel", name, place, ways=ways, figures=figures)

    def diode(self, name: str, place: str) -> Part:
        """A diode."""
        return self.add("diode", name, place)

    def house(self, part: Part, unit: Part, **pins: str) -> Part:
        """Put a part inside a unit; ``pins`` maps its terminals, plus, minus or theirs, to pins."""
        names = {"plus": "+", "minus": "-"}
        housed = Housed(unit.id, {names.get(own, own.strip("_")): pin for own, pin in pins.items()})
        inside = replace(part, housed=housed, place=unit.place)
        self.draft.parts[part.id] = inside
        return inside

    def box(self, name: str, place: str, *pins: Pin | tuple[str, str], **fields: Any) -> Part:
        """A box or unit with these pins."""
        rows = tuple(pin if isinstance(pin, Pin) else Pin(*pin) for pin in pins)
        return self.add("box", name, place, pins=rows, **fields)

    def new_load(self, row: str, name: str, place: str) -> Part:
        """A load that the recipe needs without asking."""
        return self.add("load", name, place, catalogue=row)

    def panel_place(self) -> str:
        """Where relays go: beside the panel that is nearest to the circuit's loads, or else beside
        the battery."""
        panels = [part for part in self.draft.parts.values() if part.kind == "panel"]
        if len(panels) > 1:
            near = panel_near(self.draft.build, self._near())
            return (near or panels[0]).place
        return panels[0].place if panels else self.battery.place

    def _near(self) -> str | None:
        """Where the first thing is that the circuit leads to from its fuse: the switch that carries
        it, or the load where a relay does. It is what is asked for first, there already or new."""
        for question in self.questions.values():
            answer = self.answers.get(question.name)
            row = answer[0] if isinstance(answer, list) and answer else answer
            if question.kind in ("load", "loads", "switch") and isinstance(row, Mapping):
                part = self.draft.parts.get(str(row.get("part")))
                place = part.place if part else row.get("place")
                if place in self.draft.build.places:
                    return str(place)
        return None

    @property
    def battery(self) -> Part:
        """The battery of the car."""
        return next(part for part in self.draft.parts.values() if part.kind == "battery")

    def main_stud(self) -> Terminal:
        """The live point behind the main fuse: a stud or bus bar that is not one of ground, or else
        the battery itself."""
        for part in self.draft.parts.values():
            stud = Terminal(part.id, "stud")
            if part.kind in ("stud", "bus bar") and not self.draft.grounded(stud):
                return stud
        return Terminal(self.battery.id, "+")

    def source_near(self, place: str) -> Terminal:
        """The live point that is nearer to a place: behind the main fuse, or at the battery behind
        its isolators. What is asked for beside the battery is not fed by way of the dash."""
        stud, battery = self.main_stud(), self.behind_isolators()
        parts, build = self.draft.parts, self.draft.before
        stud_m, battery_m = (
            distance_m(build, parts[end.part].place, place) for end in (stud, battery)
        )
        return battery if battery_m < stud_m else stud

    def behind_isolators(self) -> Terminal:
        """The battery's plus, or what is behind the last isolator in its lead."""
        end = Terminal(self.battery.id, "+")
        while True:
            onward = (
                wire.to_terminal
                for wire in self.draft.wires_on(end)
                if wire.from_terminal == end
                and self.draft.parts[wire.to_terminal.part].kind == "isolator"
            )
            isolator = next(onward, None)
            if isolator is None:
                return end
            end = Terminal(isolator.part, "out")

    # wires

    def keep_short(self, end: Terminal) -> None:
        """A lead that no fuse protects yet gets no more than it needs at its ends."""
        wire = self.draft.wires_on(end)[0]
        self.draft.wires[wire.id] = replace(wire, extra_m=SOURCE_EXTRA_M)

    def feed(self, start: Part | Terminal, out: str, end: Part, into: str = "+") -> Wire:
        """A wire on the supply side, from a terminal of one part to one of another."""
        first = start if isinstance(start, Terminal) else self.terminal(start, out)
        return self.draft.feed(first, self.terminal(end, into), self.circuit)

    def feed_once(self, start: Part | Terminal, out: str, end: Part, into: str) -> None:
        """The same, unless the terminal is fed already."""
        if not self.fed(end, into):
            self.feed(start, out, end, into)

    def fed(self, part: Part, into: str) -> bool:
        """Whether a wire lands on a terminal already."""
        return bool(self.draft.wires_on(self.terminal(part, into)))

    def feed_switch(self, switch: Part, key: str, name: str | None = None, into: str = "") -> None:
        """Put a switch behind a fuse of this key position, unless it is fed already."""
        common = into or (switch.contacts.common if switch.contacts else "in")
        terminal = Terminal(switch.id, common)
        if self.draft.wires_on(terminal):
            self._live_as_asked(switch, terminal, key)
            return
        self.feed(self.fuse(key, name), "out", switch, common)

    def ground(self, part: Part, name: str = "-", by_ring: bool = False) -> Wire | None:
        """Return a terminal to ground, unless it is returned already; what takes heavy cables goes
        to the ground point itself, ``by_ring``."""
        terminal = self.terminal(part, name)
        if self.draft.wires_on(terminal):
            return None
        return self.draft.ground(terminal, self.circuit, by_ring)

    def loads_on(self, start: Part | Terminal, out: str, *loads: Part | None) -> None:
        """Feed loads from a point, and ground them."""
        for load in loads:
            if load is not None:
                self.feed(start, out, load)
                self.ground(load)

    def coil(self, relay: Part, start: Part | Terminal, out: str) -> None:
        """Feed the coil of a relay and ground its other end."""
        self.feed(start, out, relay, "86")
        self.ground(relay, "85")

    def terminal(self, part: Part, name: str) -> Terminal:
        """Where a terminal of a part is: a fuse's is its way, a housed part's the unit's pin."""
        part = self.draft.parts[part.id]
        if part.kind == "fuse" and name == "out":
            return fuse_output(part)
        return self.draft.lands(Terminal(part.id, name))

    # inside

    def _landed(self) -> set[str]:
        """Parts on which wires land, and those inside units."""
        wires = self.draft.wires.values()
        landed = {end.part for wire in wires for end in (wire.from_terminal, wire.to_terminal)}
        return landed | {part.id for part in self.draft.parts.values() if part.housed}

    def _load(self, question: Question, answer: Any, label: str | None) -> Part | None:
        if answer is None:
            return None
        if not isinstance(answer, Mapping):
            raise self._bad(question.name, "is a load of the list, or a new one with its place")
        if "part" in answer:
            part = self._chosen(question.name, answer)
            if part.kind != "load":
                raise self._bad(question.name, f"is a load, and {part.name} is not")
            self._unwired(part, "+")
            part = replace(part, circuit=self.circuit.id, wish=None)
            self.draft.parts[part.id] = part
            return part
        row = answer.get("row", question.rows[0])
        if row not in catalogue().loads:
            raise self._bad(question.name, f"is no load of the catalogue: {row}")
        name = answer.get("name") or label or question.label
        return self.new_load(row, name, self._place(question, answer))

    def _unwired(self, part: Part, name: str) -> None:
        """Refuse what something feeds already."""
        if self.draft.wires_on(self.draft.lands(Terminal(part.id, name))):
            raise UnusableInput(
                "already-wired",
                part.id,
                f"{part.name} is wired already. Take it out of its circuit first, or choose "
                "another.",
            )

    def _new_switch(self, question: Question, row: str, answer: Any, label: str | None) -> Part:
        table: ContactTable = table_named(row)
        kind = "isolator" if "isolator" in row.lower() else kind_of_table(row)
        name = answer.get("name") or label or question.label
        return self.add(kind, name, self._place(question, answer), catalogue=row, contacts=table)

    def _place(self, question: Question, answer: Mapping[str, Any]) -> str:
        place = answer.get("place")
        if place not in self.draft.build.places:
            raise self._bad(question.name, "needs a place of the build")
        return str(place)

    def _chosen(self, name: str, answer: Mapping[str, Any]) -> Part:
        part = self.draft.parts.get(str(answer["part"]))
        if part is None:
            raise self._bad(name, f"names “{answer['part']}”, which is not there")
        return part

    def _live_as_asked(self, switch: Part, terminal: Terminal, key: str) -> None:
        """Refuse a switch that is already fed from another key position."""
        paths = paths_of(self.draft.build)
        live = paths.key_needed(terminal)
        if terminal in paths.grounded:
            raise UnusableInput(
                "grounded-switch",
                switch.id,
                f"{switch.name} grounds the inputs of a module, and so cannot feed "
                f"{self.circuit.name}. Write this function on the module too, or choose another "
                "switch.",
            )
        if live is not None and live != key:
            raise UnusableInput(
                "wrong-key",
                switch.id,
                f"{switch.name} is already fed, and live from {live}; this circuit is to be live "
                f"from {key}. Choose another switch, or that key position.",
            )

    def _missing(self, name: str) -> UnusableInput:
        return self._bad(name, "is needed here")

    def _bad(self, name: str, why: str) -> UnusableInput:
        label = self.questions[name].label
        return UnusableInput("bad-answer", name, f"{self.circuit.name}: {label} {why}.")


def _is_button_for(part: Part, tables: Sequence[ContactTable]) -> bool:
    """Whether a button of a keypad has the positions that a switch is asked for."""
    return part.kind == BUTTON and any(
        len(part.contacts.positions) == len(table.positions) for table in tables if part.contacts
    )


def nearest(build: Build, place: str, parts: list[Part]) -> Part | None:
    """The part whose place is nearest along the runs."""
    reachable = [(distance_m(build, place, part.place), part.id) for part in parts]
    return build.parts[min(reachable)[1]] if reachable else None
