"""Recipes for modules, keypads and the data bus that joins them."""

import re
from dataclasses import replace
from itertools import pairwise

from circuitry.catalogue import catalogue
from circuitry.design.logic import spoken
from circuitry.design.model import (
    Build,
    ContactTable,
    Housed,
    Part,
    Pin,
    Position,
    Terminal,
)
from circuitry.devices.button import button_positions
from circuitry.devices.hearing import ANALOGUE, BUTTON, PULL_UP_OHM, bus_pins
from circuitry.devices.module import module_fields
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.channels import as_row
from circuitry.recipes.draft import Draft
from circuitry.recipes.job import Job
from circuitry.recipes.modules import feed_wires
from circuitry.recipes.recipe import Recipe, needs_key

TERMINATOR_OHM = 120.0
KEYPAD_PINS = (
    Pin("supply", "supply"),
    Pin("ground", "ground"),
    Pin("bus-high", "bus"),
    Pin("bus-low", "bus"),
)
BUTTON_LINE = re.compile(r"^\s*([^:]{1,60}?)\s*(?::\s*(.+?)\s*)?$")
MOST_BUTTONS, MOST_POSITIONS, MOST_STEPS = 24, 6, 8
ALWAYS_AWAKE = "always"
ON_OFF, HELD = ("off", "on"), ("released", "held")


def power_module(job: Job) -> None:
    """A module with a fuse of its own from the battery, and its ground."""
    name = job.text("name") or job.circuit.name
    row, place, draft = job.choice("row"), job.place("place"), job.draft
    there = (part for part in draft.parts.values() if part.circuit == job.circuit.id)
    module = next((part for part in there if part.kind == "module"), None)
    if module is None:
        module = job.add("module", name, place, **module_fields(row))
    grown = replace(as_row(module, row), name=name, place=place)
    names = {way.name for way in grown.ways}
    left = [way.name for way in module.ways if way.when and way.name not in names]
    if left:
        raise UnusableInput(
            "channels-in-use",
            module.id,
            f"{row} has no {', '.join(left)}, and {module.name} uses them. Take their loads off "
            "first.",
        )
    wake = job.choice("wake")
    others = tuple(pin for pin in grown.pins if pin.function != "supply")
    logic = () if wake == ALWAYS_AWAKE else (Pin("logic", "supply"),)
    draft.parts[module.id] = replace(grown, pins=(*others, *logic))
    feed_wires(job, grown, job.circuit)
    if logic:
        job.feed(job.fuse(wake.removeprefix("by "), f"{name} logic"), "out", grown, "logic")


def keypad(job: Job) -> None:
    """A keypad with its feed, its ground and its buttons; it speaks over a data bus."""
    name = job.text("name") or job.circuit.name
    rows = list(_buttons(job.text("buttons")))
    pad = job.box(name, job.place("place"), *KEYPAD_PINS, catalogue="Keypad")
    job.feed(job.fuse(job.choice("key")), "out", pad, "supply")
    job.ground(pad, "ground")
    for called, positions, held in rows:
        add_button(job.draft, pad, called, positions, held, job.circuit.id)


def add_button(
    draft: Draft,
    pad: Part,
    name: str,
    positions: tuple[str, ...] = ON_OFF,
    held: bool = False,
    circuit: str | None = None,
) -> Part:
    """One more button of a keypad."""
    for part in draft.parts.values():
        if part.kind == BUTTON and part.name == name and part.circuit == circuit is not None:
            housed = Housed(pad.id, {})
            contacts = button_positions(*positions, held=held)
            draft.parts[part.id] = replace(part, housed=housed, contacts=contacts, place=pad.place)
            return draft.parts[part.id]
    return draft.add_part(
        BUTTON,
        name,
        pad.place,
        contacts=button_positions(*positions, held=held),
        housed=Housed(pad.id, {}),
        circuit=circuit,
    )


def _buttons(text: str) -> list[tuple[str, tuple[str, ...], bool]]:
    """Buttons written one a line: ``Wipers: off, slow, fast``; alone it is on and off."""
    found = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        row = BUTTON_LINE.match(line)
        said = (row[2] or "on and off") if row else ""
        positions = tuple(at.strip() for at in said.split(",") if at.strip())
        held = said == "held"
        if said in ("on and off", "held"):
            positions = HELD if held else ON_OFF
        if row is None or not 2 <= len(set(positions)) == len(positions) <= MOST_POSITIONS:
            raise UnusableInput(
                "bad-button",
                f"line {number}",
                f"Line {number}, “{line.strip()[:60]}”, is no button. Write its name; and after a "
                "colon held, or the positions that it goes through, the first at rest: Wipers: "
                "off, slow, fast.",
            )
        found.append((row[1], positions, held))
    if len(found) > MOST_BUTTONS:
        raise UnusableInput(
            "bad-button", "buttons", f"A keypad has at most {MOST_BUTTONS} buttons, one a line."
        )
    return found


def data_bus(job: Job) -> None:
    """One pair of wires from one to the next, front to rear, and a resistor at either end."""
    draft = job.draft
    chosen = [terminal.part for terminal in job.terminals("members")]
    on = [
        (part, pair)
        for part in draft.parts.values()
        if (not chosen or part.id in chosen) and (pair := _free_pair(draft, part))
    ]
    missing = [draft.parts[part].name for part in chosen if part not in {p.id for p, _ in on}]
    if missing or len(on) < 2:
        raise UnusableInput(
            "nothing-to-join",
            "members",
            f"{', '.join(missing)} has no free pair of bus pins."
            if missing
            else "A data bus joins two things or more that have a free pair of bus pins: modules, "
            "keypads, control boxes. Add one, or give a box two pins for a bus.",
        )
    places = draft.before.places
    on.sort(key=lambda row: (places[row[0].place].x_m, row[0].id))
    for (first, pair), (second, other) in pairwise(on):
        for one, next_one in zip(pair, other, strict=True):
            job.feed(first, one, second, next_one)
    for word, (part, pair) in (("front", on[0]), ("rear", on[-1])):
        figures = {"resistance_ohm": TERMINATOR_OHM, "rated_w": 0.25}
        name = f"{job.circuit.name} end, {word}"
        end = job.add("resistor", name, part.place, figures=figures)
        job.feed(part, pair[0], end, "1")
        job.feed(end, "2", part, pair[1])


def rotary(job: Job) -> None:
    """A rotary whose positions put other resistors from one analogue input to ground: the volts
    there tell which one it is in."""
    unit_to = job.part("part") or _one_with_inputs(job)
    names = [name.strip() for name in job.text("positions").split(",") if name.strip()]
    if not 2 <= len(set(names)) == len(names) <= MOST_STEPS:
        raise UnusableInput(
            "bad-positions",
            "positions",
            f"A rotary has 2 to {MOST_STEPS} positions, each called otherwise: off, slow, fast.",
        )
    name, place = job.text("name") or job.circuit.name, job.place("place")
    steps = [f"p{number}" for number in range(1, len(names))]
    pins = [("signal", ""), ("ground", "ground"), *((step, "inside") for step in steps)]
    unit = job.box(f"{name} unit", place, *pins)
    joins = [(), *((("in", step),) for step in steps)]
    table = ContactTable("in", tuple(map(Position, names, joins)))
    switch = job.add("switch", name, place, contacts=table)
    job.house(switch, unit, **{"in": "signal", **{step: step for step in steps}})
    for number, step in enumerate(steps, 1):
        share = 1 - number / len(names)  # of what the input is pulled up to, evenly spaced
        ohm = float(f"{PULL_UP_OHM * share / (1 - share):.2g}")
        figures = {"resistance_ohm": ohm, "rated_w": 0.25}
        resistor = job.add("resistor", f"{name} {names[number]}", place, figures=figures)
        job.house(resistor, unit, **{"1": step, "2": "ground"})
    pin = Pin(spoken(name).replace("_", "-")[:24], ANALOGUE)
    others = tuple(row for row in unit_to.pins if row.name != pin.name)
    job.draft.parts[unit_to.id] = replace(unit_to, pins=(*others, pin))
    job.feed(job.draft.parts[unit_to.id], pin.name, unit, "signal")
    job.ground(unit, "ground")


def _one_with_inputs(job: Job) -> Part:
    for part in job.draft.parts.values():
        if part.kind == "module":
            job.used["part"] = part.id
            return part
    raise UnusableInput(
        "no-module", "part", "The build has no module to tell. Add one first, or choose a box."
    )


def _free_pair(draft: Draft, part: Part) -> tuple[str, str] | None:
    """The first pair of bus pins of a part on which no wire lands."""
    for pair in bus_pins(part):
        if not any(draft.wires_on(Terminal(part.id, name)) for name in pair):
            return pair
    return None


def with_button(build: Build, pad_id: str, name: str, held: bool) -> tuple[Build, str]:
    """The build with one more button of a keypad, and which it is."""
    draft = Draft(build)
    pad = draft.parts[pad_id]
    button = add_button(draft, pad, name, HELD if held else ON_OFF, held)
    return draft.build, button.id


RECIPES = (
    Recipe(
        "power-module",
        "Power module",
        "feed",
        "critical",
        "A module beside its loads, with a heavy feed over a fuse of its own, and its ground. "
        "Its channels take the place of small fuses and relays; what draws more than they bear "
        "stays on a fuse and a relay.",
        "Its feed stud is live whatever the key does. Cover it, and battery negative off while you "
        "work on it.",
        (
            "Everything behind it is dead: no feed, no ground, or its own fuse has parted.",
            "It drops out while the engine cranks: its ground or feed loses too much.",
            "A channel trips as its load starts: it takes the inrush for a short circuit.",
            "Nothing works and its feed is live: its logic is not awake.",
        ),
        (
            Question("name", "text", "Name", usual="Front module"),
            Question("place", "place", "Where", near=("panel",)),
            Question("row", "choice", "Which", choices=tuple(catalogue().modules)),
            Question(
                "wake",
                "choice",
                "Its logic is awake",
                choices=(ALWAYS_AWAKE, "by run", "by accessory"),
                help="Asleep it takes nothing, and nothing behind it works: hazards, side lamps "
                "and locks want it always awake.",
            ),
        ),
        power_module,
    ),
    Recipe(
        "keypad",
        "Keypad",
        "accessory",
        "comfort",
        "Buttons that tell modules over a data bus what is wanted: on and off, held, or one "
        "position after the other. Two wires feed it and two carry the bus, however many buttons "
        "it has.",
        "When it or its bus is lost, so is all that it alone works. Brake lamps, hazards, wipers "
        "and the switch that stops the engine want wires of their own.",
        (
            "No button does anything: it has no feed, or its bus is open or not ended.",
            "One button does nothing: no condition asks for it.",
        ),
        (
            Question("name", "text", "Name", usual="Keypad"),
            Question("place", "place", "Where", near=("dash",)),
            Question(
                "buttons",
                "text",
                "Buttons, one a line",
                usual="Button 1\nButton 2\nButton 3\nButton 4\nButton 5\nButton 6",
                help="Name; and after a colon held, or its positions: Wipers: off, slow, fast",
            ),
            needs_key("run"),
        ),
        keypad,
    ),
    Recipe(
        "rotary",
        "Rotary on one input",
        "switch",
        "comfort",
        "A rotary switch with a resistor for each position, on one analogue input of a module or "
        "box: one wire tells many positions. Conditions ask for the volts of each.",
        "A broken wire reads like the first position: let that be off, and lead nothing over it "
        "that keeps the car safe.",
        (
            "It is one position off: another resistor, or a poor ground, shifts the volts.",
            "It passes through others on its way: what must not come on for a moment wants a "
            "condition with a delay.",
        ),
        (
            Question("name", "text", "Name", usual="Wiper rotary"),
            Question("positions", "text", "Positions, first at rest", usual="off, slow, fast"),
            Question("place", "place", "Where", near=("dash",)),
            Question(
                "part",
                "part",
                "Told to",
                of_kind=("module",),
                optional=True,
                left_out=True,
                help="A module, or a box; the first module where none is chosen.",
            ),
        ),
        rotary,
    ),
    Recipe(
        "data-bus",
        "Data bus",
        "feed",
        "critical",
        "One twisted pair, high and low, from module to module to keypad, with 120 Ω across either "
        "end (ISO 11898-2). What one of them knows, the others know.",
        "Battery negative off. Boxes die of supply on their bus pins: measure before you plug in.",
        (
            "Nothing hears anything: high and low are swapped somewhere, or shorted.",
            "It works at times: one end lacks its resistor. With everything off, 60 Ω between high "
            "and low is right; 120 Ω means that one is missing.",
            "It fails when the engine runs: the pair is not twisted, or lies beside coil leads.",
        ),
        (
            Question(
                "members",
                "terminals",
                "On it, by a bus pin of each",
                help="None chosen: everything that has a free pair of bus pins, front to rear.",
            ),
        ),
        data_bus,
    ),
)
