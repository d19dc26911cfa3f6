"""Typed, pasted or imported cells of the stock list: read, judged and written into a build."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from circuitry import quantities
from circuitry.catalogue import catalogue
from circuitry.design.model import STATES, USUAL_AMBIENT_C, Build, Part, Place, Wish
from circuitry.devices.contact_tables import TABLES
from circuitry.devices.load import DUTIES
from circuitry.errors import UnusableInput
from circuitry.quantities import NotUnderstood
from circuitry.recipes.choices import Choices, choices, means, switch_named
from circuitry.recipes.draft import Draft
from circuitry.recipes.load import NewSwitch, Wiring, rewire_circuit, wire_load
from circuitry.recipes.protection import with_own_names
from circuitry.stock.patterns import (
    GROUP_OF_KIND,
    OWN,
    SIDES,
    became,
    completed,
    pattern_of,
    patterns,
)
from circuitry.stock.rows import (
    COLUMN_KEYS,
    COLUMNS,
    KEY_ONLY,
    UNPLACED,
    rating_text,
    switch_text,
    wiring_cells,
)

KEYS = ("always", "accessory", "run")
WAYS_THROUGH = ("direct", "relay")
WIRING = ("key", "switch", "through", "fuse")
LONGEST_NAME = 80
LONGEST_NOTE = 500
MOST_SHOWN = 8
STAND_IN = "Power socket"
"""What an unknown row is taken for, so that its other cells are judged too."""


@dataclass(frozen=True)
class TypedRow:
    """Cells for one row by column; ``part`` None adds a row."""

    part: str | None
    cells: Mapping[str, str]


@dataclass(frozen=True)
class CellProblem:
    """A cell that cannot stand: the number of its row, its column, and what was expected."""

    row: int
    column: str
    message: str


def cell_problems(
    build: Build, rows: Sequence[TypedRow], new_places: bool = False
) -> list[CellProblem]:
    """Everything that is wrong with these cells; empty when they can be set."""
    return _Writer(build, new_places).write(rows)[1]


def set_cells(build: Build, rows: Sequence[TypedRow], new_places: bool = False) -> Build:
    """The build with these cells set, all or none; raises UnusableInput that names the first bad.

    ``new_places`` adds the places that are named and not there yet, in the middle of the car.
    """
    after, problems = _Writer(build, new_places).write(rows)
    if problems:
        first = problems[0]
        title = next((c.title for c in COLUMNS if c.key == first.column), first.column)
        part = build.parts.get(rows[first.row].part or "")
        where = f"{part.name if part else f'Row {first.row + 1}'}, {title}"
        more = f" {len(problems) - 1} more cells are wrong." if len(problems) > 1 else ""
        raise UnusableInput("bad-cell", where, f"{where}: {first.message}.{more}")
    return after


def found_by_name(build: Build, rows: Sequence[TypedRow]) -> list[TypedRow]:
    """New rows whose name stands in the list already become changes of that row."""
    named = {
        part.name.lower(): part.id for part in build.parts.values() if part.kind in GROUP_OF_KIND
    }
    return [
        replace(row, part=named.get(row.cells.get("name", "").strip().lower()))
        if row.part is None
        else row
        for row in rows
    ]


class _Writer:
    """Writes rows into a build one after the other and keeps what went wrong."""

    def __init__(self, build: Build, new_places: bool) -> None:
        self.build = build
        self.new_places = new_places
        self.problems: list[CellProblem] = []
        self.parts = dict(build.parts)
        self.places = dict(build.places)
        self.place_named = {place.name.lower(): place.id for place in build.places.values()}
        self.place_named.update({place.id: place.id for place in build.places.values()})
        self.circuits = dict(build.circuits)
        self.asked: dict[str, dict[str, str]] = {}
        self.asked_in: dict[str, int] = {}

    def write(self, rows: Sequence[TypedRow]) -> tuple[Build, list[CellProblem]]:
        for number, row in enumerate(rows):
            self._row(number, row)
        build = replace(self.build, parts=self.parts, places=self.places, circuits=self.circuits)
        for circuit, cells in self.asked.items():
            build = self._rewire(build, circuit, cells)
        return build, self.problems

    def _row(self, number: int, row: TypedRow) -> None:
        for column in row.cells.keys() - set(COLUMN_KEYS):
            self._wrong(number, column, f"the list has no column “{column}”")
        part = self._part(number, row)
        if part is None:
            return
        before = self.parts.get(part.id)
        for column in COLUMN_KEYS:
            if column not in row.cells or column in WIRING:
                continue
            try:
                part = self._write_cell(part, column, row.cells[column].strip())
            except NotUnderstood as problem:
                self._wrong(number, column, f"“{row.cells[column].strip()}”: {problem}")
        if not part.place:
            part = replace(part, place=self._usual_place())
        part = self._wiring(number, part, row.cells)
        self.parts[part.id] = part
        self._rename_circuit(before, part)

    def _part(self, number: int, row: TypedRow) -> Part | None:
        if row.part is not None:
            part = self.parts.get(row.part)
            if part is None or part.kind not in GROUP_OF_KIND:
                self._wrong(number, "name", f"there is no row “{row.part}” any more")
                return None
            return part
        name = row.cells.get("name", "").strip()
        if not name:
            self._wrong(number, "name", "a new row needs a name")
            return None
        what = row.cells.get("what", "").strip()
        found = completed(what or name)
        if found is None:
            self._wrong(number, "what", f"say what “{what or name}” is: a name from the catalogue")
            found = STAND_IN
        draft = Draft(replace(self.build, parts=self.parts))
        kind = patterns()[found].kind
        return self._became(Part(draft.fresh_id(name, self.parts), kind, name, ""), found)

    def _usual_place(self) -> str:
        """Where a new row is until it says where: not placed yet."""
        if UNPLACED not in self.places:
            self._add_place(UNPLACED, "Not placed yet")
        return UNPLACED

    def _add_place(self, identity: str, name: str) -> None:
        """A place in the middle of the cabin, until it is moved."""
        middle_m = self.build.body.length_m / 2
        ambient_c = USUAL_AMBIENT_C["cabin"]
        self.places[identity] = Place(identity, name, "cabin", ambient_c, middle_m, 0.0)
        self.place_named |= {identity: identity, name.lower(): identity}

    def _write_cell(self, part: Part, column: str, text: str) -> Part:
        if column == "name":
            return replace(part, name=_short(text, LONGEST_NAME, needed=True))
        if column == "what":
            return self._change_what(part, text)
        if column == "where":
            return replace(part, place=self._place(text))
        if column == "state":
            return replace(part, state=_one_of(text.lower(), STATES, part.state))
        if column == "note":
            return replace(part, note=_short(text, LONGEST_NOTE))
        return self._write_figure(part, column, text)

    def _change_what(self, part: Part, text: str) -> Part:
        if text.lower() in ("", OWN, pattern_of(part).lower()):
            return part
        found = completed(text)
        if found is None:
            raise NotUnderstood("a name from the catalogue")
        pattern = patterns()[found]
        if GROUP_OF_KIND[pattern.kind] != GROUP_OF_KIND[part.kind]:
            raise NotUnderstood(
                f"{pattern.name} belongs to {GROUP_OF_KIND[pattern.kind]}, not to "
                f"{GROUP_OF_KIND[part.kind]}; add a row for it"
            )
        return part if found == pattern_of(part) else self._became(part, found)

    def _became(self, part: Part, found: str) -> Part:
        return with_own_names(became(part, patterns()[found]), self.parts.values())

    def _place(self, text: str) -> str:
        if not text:
            return self._usual_place()
        known = self.place_named.get(text.lower())
        if known is None and self.new_places:
            name = _short(text, LONGEST_NAME, needed=True)
            known = Draft(self.build).fresh_id(name, self.places)
            self._add_place(known, name)
        if known is None:
            names = [place.name for place in self.places.values()]
            shown = ", ".join(names[:MOST_SHOWN]) + (" …" if len(names) > MOST_SHOWN else "")
            raise NotUnderstood(f"a place of this car: {shown}")
        return known

    def _write_figure(self, part: Part, column: str, text: str) -> Part:
        """Own figures replace the typical ones; an empty cell goes back to typical."""
        names = FIGURES_OF_COLUMN[column]
        figures = {name: value for name, value in part.figures.items() if name not in names}
        if text:
            if part.kind != "load" and not (column == "rating" and _has_contacts(part)):
                raise NotUnderstood(f"nothing: a {part.kind} has no such figure")
            figures |= READ_FIGURE[column](part, text)
        return replace(part, figures=figures)

    def _wiring(self, number: int, part: Part, cells: Mapping[str, str]) -> Part:
        typed = {key: cells[key].strip() for key in WIRING if key in cells}
        if not typed or (not any(typed.values()) and part.kind != "load"):
            return part
        circuit = self.circuits.get(part.circuit or "")
        if part.kind != "load":
            self._wrong(number, next(iter(typed)), f"nothing: a {part.kind} is no load")
        elif circuit is not None and circuit.intent is None:
            shown = wiring_cells(self.build, part, circuit)
            if all(shown.get(key, "") == text for key, text in typed.items()):
                return part
            self._wrong(number, next(iter(typed)), "nothing: its circuit is wired by hand")
        elif circuit is not None:
            self.asked.setdefault(circuit.id, {}).update(typed)
            self.asked_in.setdefault(circuit.id, number)
        else:
            return self._wished(number, part, typed)
        return part

    def _wished(self, number: int, part: Part, typed: Mapping[str, str]) -> Part:
        wish = part.wish or Wish()
        allowed = {"key": ("", *KEYS), "through": ("", *WAYS_THROUGH)}
        for column, text in typed.items():
            try:
                if column in allowed:
                    wish = replace(wish, **{column: _one_of(text.lower(), allowed[column], "")})
                elif column == "switch":
                    wish = replace(wish, switch=_short(text, LONGEST_NAME))
                elif text:
                    raise NotUnderstood("nothing until it is wired")
            except NotUnderstood as problem:
                self._wrong(number, column, f"“{text}”: {problem}")
        return replace(part, wish=None if wish == Wish() else wish)

    def _rewire(self, build: Build, circuit_id: str, cells: Mapping[str, str]) -> Build:
        """Wire a circuit again where its cells ask for another way."""
        intent = build.circuits[circuit_id].intent
        assert intent is not None
        wiring = Wiring(intent.key, intent.switch, None, intent.through, intent.fuse)
        known = choices(build)
        column = "key"
        try:
            for column, text in cells.items():
                wiring = _asked(wiring, known, column, text)
            same = (wiring.key, wiring.switch, wiring.through, wiring.fuse)
            if same == (intent.key, intent.switch, intent.through, intent.fuse):
                return build
            return rewire_circuit(build, circuit_id, wiring)
        except (NotUnderstood, UnusableInput) as problem:
            self._wrong(self.asked_in[circuit_id], column, str(problem).rstrip("."))
            return build

    def _rename_circuit(self, before: Part | None, part: Part) -> None:
        """A circuit named after its only load is renamed with it."""
        circuit = self.circuits.get(part.circuit or "")
        if circuit is None or before is None or circuit.name != before.name:
            return
        if sum(p.kind == "load" and p.circuit == circuit.id for p in self.parts.values()) == 1:
            self.circuits[circuit.id] = replace(circuit, name=part.name)

    def _wrong(self, number: int, column: str, message: str) -> None:
        self.problems.append(CellProblem(number, column, message))


def wire_as_wished(build: Build, load_id: str) -> Build:
    """Wire a load of the list as it asks for.

    It joins its sibling on the other side of the car where that is wired the same way. Its switch
    is found by name, or added beside it. Raises UnusableInput.
    """
    load = build.parts.get(load_id)
    if load is not None and load.kind == "load" and _starts_an_engine(load):
        raise UnusableInput(
            "starter",
            load_id,
            f"{load.name} takes its current straight from the battery, not through a way of a "
            "panel. Write the “Starter” circuit: it adds the heavy cable and the solenoid.",
        )
    wish = (load and load.wish) or Wish()
    sibling = _sibling(build, load, wish) if load else None
    if sibling is not None:
        return wire_load(build, load_id, Wiring(), beside=sibling)
    key = wish.key or "always"
    through = wish.through or "direct"
    if load is None or wish.switch.lower() in ("", KEY_ONLY):
        return wire_load(build, load_id, Wiring(key, None, None, through))
    known = switch_named(build, wish.switch)
    if known is None:
        new = NewSwitch(wish.switch, load.place, momentary="push" in wish.switch.lower())
        return wire_load(build, load_id, Wiring(key, None, new, through))
    table = build.parts[known.terminal.part].contacts
    if table in (TABLES["Reversing switch"], TABLES["Up and down switch"]):
        raise UnusableInput(
            "both-ways",
            load_id,
            f"{load.name} goes both ways by “{known.name}”. Draft the wiring, or write “Motor "
            "both ways by a switch”: it turns the motor round.",
        )
    fed_from = known.key
    key = fed_from if fed_from in KEYS else key
    return wire_load(build, load_id, Wiring(key, known.terminal, None, through))


def _starts_an_engine(load: Part) -> bool:
    return catalogue().loads[load.catalogue or ""].kind == "starter"


def _sibling(build: Build, load: Part, wish: Wish) -> str | None:
    """The circuit of the same thing on another side of the car, asked for in the same way."""
    for other in build.parts_of_kind("load"):
        circuit = build.circuits.get(other.circuit or "")
        same = other.id != load.id and other.catalogue == load.catalogue
        if not same or circuit is None or circuit.intent is None or _stem(other) != _stem(load):
            continue
        switch = build.parts[circuit.intent.switch.part].name if circuit.intent.switch else ""
        named = switch_text(build, circuit) if switch else ""
        through = wish.through in ("", circuit.intent.through)
        if through and wish.switch.lower() in (switch.lower(), named.lower()):
            return circuit.id
    return None


def _stem(load: Part) -> frozenset[str]:
    return frozenset(load.name.lower().split()) - SIDES


def _asked(wiring: Wiring, known: Choices, column: str, text: str) -> Wiring:
    if column == "key":
        key = _one_of(text.lower(), KEYS, wiring.key)
        return wiring if key == wiring.key else replace(wiring, key=key, fuse=None)
    if column == "through":
        return replace(wiring, through=_one_of(text.lower(), WAYS_THROUGH, wiring.through))
    if column == "switch":
        output = None
        if text.lower() not in ("", KEY_ONLY):
            output = next((r.terminal for r in known.switches if means(text, r.name)), None)
            if output is None:
                names = ", ".join(row.name for row in known.switches[:MOST_SHOWN])
                raise NotUnderstood(f"“{text}”: a switch of this car: {KEY_ONLY}, {names}")
        same = output == wiring.switch
        return wiring if same else replace(wiring, switch=output, fuse=None)
    fuse = next((row.fuse for row in known.fuses if row.name.lower() == text.lower()), None)
    if fuse is None:
        names = ", ".join(row.name for row in known.fuses[:MOST_SHOWN])
        raise NotUnderstood(f"“{text}”: a fuse of this car: {names}")
    return replace(wiring, fuse=fuse)


def _has_contacts(part: Part) -> bool:
    return part.kind in ("switch", "key switch", "sensor")


def _short(text: str, longest: int, needed: bool = False) -> str:
    if needed and not text:
        raise NotUnderstood("a name")
    if len(text) > longest:
        raise NotUnderstood(f"at most {longest} characters")
    return " ".join(text.split())


def _one_of(text: str, allowed: Sequence[str], usual: str) -> str:
    if not text:
        return usual
    if text not in allowed:
        raise NotUnderstood(f"one of {', '.join(word for word in allowed if word)}")
    return text


def _rating(part: Part, text: str) -> Mapping[str, Any]:
    if part.kind != "load":
        return {"contact_rating_a": quantities.amps(text)}
    usual = rating_text(replace(part, figures={}))[-1:].lower()
    name, value = quantities.rating(text, usual)
    row = catalogue().loads[part.catalogue or ""]
    typical = row.rated_w if name == "rated_w" else row.rated_a
    return {} if value == typical else {name: value}


FIGURES_OF_COLUMN = {
    "rating": ("rated_w", "rated_a", "contact_rating_a"),
    "test_v": ("test_v",),
    "inrush_x": ("inrush_x",),
    "inrush_s": ("inrush_s",),
    "stall_a": ("stall_a",),
    "duty": ("duty",),
    "source": ("source",),
}


def _times(text: str) -> float:
    units = {"": 1.0, "x": 1.0, "×": 1.0}
    value = quantities.with_unit(text, units, "a multiple of the current, like 10")
    if value < 1:
        raise NotUnderstood("a multiple of the current, from 1")
    return value


def _stall(part: Part, text: str) -> Mapping[str, Any]:
    if catalogue().loads[part.catalogue or ""].kind != "motor":
        raise NotUnderstood("nothing: only a motor stalls")
    return {"stall_a": quantities.amps(text)}


READ_FIGURE: Mapping[str, Callable[[Part, str], Mapping[str, Any]]] = {
    "rating": _rating,
    "test_v": lambda part, text: {"test_v": quantities.volts(text)},
    "inrush_x": lambda part, text: {"inrush_x": _times(text)},
    "inrush_s": lambda part, text: {"inrush_s": quantities.seconds(text)},
    "stall_a": _stall,
    "duty": lambda part, text: {"duty": _one_of(text.lower(), DUTIES, DUTIES[0])},
    "source": lambda part, text: {"source": _short(text, 200)},
}
