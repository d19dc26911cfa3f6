"""The stock list: every load, switch, sensor, box and feed as a row of cells in plain text."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.catalogue import Load, catalogue
from circuitry.design.model import Build, Circuit, Part
from circuitry.devices.load import rated_current_a
from circuitry.reach.paths import paths_of
from circuitry.stock.patterns import GROUP_OF_KIND, pattern_of

UNPLACED = "unplaced"
KEY_ONLY = "key only"


@dataclass(frozen=True)
class Column:
    """A column of the list: its key, its head, and the unit that stands in the head."""

    key: str
    title: str
    unit: str = ""


COLUMNS = (
    Column("name", "Name"),
    Column("what", "What it is"),
    Column("where", "Where"),
    Column("rating", "Rated"),
    Column("state", "State"),
    Column("key", "Live from"),
    Column("switch", "Switched by"),
    Column("through", "Through"),
    Column("fuse", "Behind"),
    Column("test_v", "Tested at", "V"),
    Column("inrush_x", "Inrush", "×"),
    Column("inrush_s", "Inrush for", "s"),
    Column("stall_a", "Stall", "A"),
    Column("duty", "Duty"),
    Column("source", "Source of figures"),
    Column("note", "Note"),
)
COLUMN_KEYS = tuple(column.key for column in COLUMNS)
FIGURES = ("test_v", "inrush_x", "inrush_s", "stall_a", "duty")


@dataclass(frozen=True)
class StockRow:
    """One row: its cells as text, which of them are the builder's own figures, and its wiring.

    ``wiring`` is wired, by hand, not wired, or empty for what is not a load. ``shares`` counts
    the loads of its circuit, which share live from, switch, relay and fuse.
    """

    part: str
    kind: str
    group: str
    function: str
    place: str
    cells: Mapping[str, str]
    yours: tuple[str, ...]
    wiring: str
    circuit: str | None
    shares: int


def stock_rows(build: Build) -> list[StockRow]:
    """The rows in the order of the build: loads, switches, sensors, boxes and feeds."""
    shares: dict[str | None, int] = {}
    wired = build.wired_parts()
    for load in build.parts_of_kind("load"):
        shares[load.circuit] = shares.get(load.circuit, 0) + 1
    return [
        _row(build, part, shares, part.id in wired)
        for part in build.parts.values()
        if part.kind in GROUP_OF_KIND
    ]


def figure(value: float, unit: str = "") -> str:
    """A figure as it is written in a cell: at most four digits behind the point, none in vain."""
    return f"{round(value, 4):.10g}{' ' + unit if unit else ''}"


def _row(build: Build, part: Part, shares: Mapping[str | None, int], has_wires: bool) -> StockRow:
    circuit = build.circuits.get(part.circuit or "")
    cells = {
        "name": part.name,
        "what": pattern_of(part),
        "where": "" if part.place == UNPLACED else build.places[part.place].name,
        "state": part.state,
        "note": part.note,
    }
    function, wiring = GROUP_OF_KIND[part.kind], ""
    if part.kind == "load":
        row = catalogue().loads[part.catalogue or ""]
        function = circuit.group if circuit else row.group
        wiring = "not wired"
        if has_wires or circuit:
            wiring = "wired" if circuit and circuit.intent else "by hand"
        cells |= _load_cells(part, row) | wiring_cells(build, part, circuit)
    elif part.kind in ("switch", "key switch", "sensor"):
        rating_a = part.number("contact_rating_a", 0)
        cells["rating"] = figure(rating_a, "A") if rating_a else ""
    return StockRow(
        part.id,
        part.kind,
        GROUP_OF_KIND[part.kind],
        function,
        part.place,
        {key: cells.get(key, "") for key in COLUMN_KEYS},
        _yours(part),
        wiring,
        part.circuit,
        shares.get(part.circuit, 1) if circuit else 1,
    )


def _yours(part: Part) -> tuple[str, ...]:
    own = [key for key in FIGURES if key in part.figures]
    if {"rated_w", "rated_a", "contact_rating_a"} & part.figures.keys():
        own.insert(0, "rating")
    return tuple(own)


def _load_cells(part: Part, row: Load) -> dict[str, str]:
    duty = part.figures.get("duty", row.duty)
    inrush_x = part.number("inrush_x", row.inrush_x)
    cells = {
        "rating": rating_text(part),
        "test_v": figure(part.number("test_v", row.test_v), "V"),
        "inrush_x": figure(inrush_x, "×"),
        "inrush_s": figure(part.number("inrush_s", row.inrush_s), "s"),
        "duty": str(duty),
        "source": str(part.figures.get("source", "")),
    }
    if row.kind == "motor":
        stall_a = part.number("stall_a", rated_current_a(part) * inrush_x)
        cells["stall_a"] = f"{stall_a:.3g} A"
    return cells


def rating_text(part: Part) -> str:
    """The rating of a load in the unit that it is given in."""
    row = catalogue().loads[part.catalogue or ""]
    if "rated_w" in part.figures:
        return figure(part.number("rated_w", 0), "W")
    if "rated_a" in part.figures:
        return figure(part.number("rated_a", 0), "A")
    return figure(row.rated_a or 0, "A") if row.rated_w is None else figure(row.rated_w, "W")


def switch_text(build: Build, circuit: Circuit) -> str:
    """The switch of a circuit as the list names it: its output too where it has several."""
    assert circuit.intent is not None
    output = circuit.intent.switch
    if output is None:
        return KEY_ONLY
    switch = build.parts[output.part]
    several = switch.contacts is not None and len(switch.contacts.terminals) > 2
    return f"{switch.name}, {output.name}" if several else switch.name


def wiring_cells(build: Build, part: Part, circuit: Circuit | None) -> dict[str, str]:
    """How a load is fed, as the list shows it: as it was asked for, or read off its wires."""
    if circuit and circuit.intent:
        return {
            "key": circuit.intent.key,
            "switch": switch_text(build, circuit),
            "through": circuit.intent.through,
            "fuse": build.parts[circuit.intent.fuse].name,
        }
    if part.wish:
        return {"key": part.wish.key, "switch": part.wish.switch, "through": part.wish.through}
    return _read_off_cells(build, part) if circuit else {}


def _read_off_cells(build: Build, part: Part) -> dict[str, str]:
    """How a load of a circuit that was written or wired by hand comes on: its easiest way."""
    path = paths_of(build).to_load(part)
    if path is None:
        return {}
    keys = {row.id for row in build.parts_of_kind("key switch")}
    moved = (
        row
        for switch, at in path.positions.items()
        if switch not in keys and (row := build.parts.get(switch)) and row.contacts
        if at != row.contacts.positions[0].name
    )
    switches = [row.name for row in moved]
    kinds = [build.parts[step.owner].kind for step in path.feed if step.kind == "contact"]
    outputs = any(step.kind == "output" for step in path.feed)
    fuses = [step.owner for step in path.feed if step.kind == "fuse"]
    return {
        "key": next((at for switch, at in path.positions.items() if switch in keys), "always"),
        "switch": ", ".join(switches[:2]) or KEY_ONLY,
        "through": "module" if outputs else "relay" if "relay" in kinds[-1:] else "direct",
        "fuse": build.parts[fuses[-1]].name if fuses else "",
    }
