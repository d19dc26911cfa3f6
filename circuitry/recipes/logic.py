"""Recipes for control: lock-outs, crossed relays, diodes, boxes and module channels."""

import re
from dataclasses import replace

from circuitry.catalogue import catalogue
from circuitry.design.logic import spoken
from circuitry.design.model import PIN_FUNCTIONS, Part, Pin, Terminal
from circuitry.devices import terminals_of
from circuitry.devices.connector import cavity_halves
from circuitry.devices.contact_tables import TABLES
from circuitry.devices.hearing import BUTTON
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import CHANGEOVER, Job
from circuitry.recipes.load import Wiring, wire_circuit
from circuitry.recipes.modules import OnModules, feed_module
from circuitry.recipes.recipe import FUSE, Recipe, needs_key

PLAIN_LOADS = tuple(row.name for row in catalogue().loads.values() if row.group != "control")
PLAIN_SWITCHES = tuple(dict.fromkeys(("Switch, off and on", "Push button", *TABLES)))
ANY_LOAD = ("Control output load", "Telltale LED", "Stop lamp 21 W", "Horn")


def plain_load(job: Job) -> None:
    """Fuse, switch and load in a row; or a relay, and the switch carries only its coil."""
    loads, switch = [job.need_load("load"), *job.loads("more")], job.switch("switch")
    output = Terminal(switch.id, switch_output(job, switch)) if switch else None
    if job.flag("shed") and job.choice("key") != "accessory":
        raise UnusableInput(
            "not-shed",
            "shed",
            "Behind a fuse only what hangs on accessory is off while the engine cranks. Choose "
            "that key position, or a channel of a module.",
        )
    wiring = Wiring(job.choice("key"), output, None, job.choice("through"), job.answers["fuse"])
    wire_circuit(job.draft, job.circuit, loads, wiring)


def switch_output(job: Job, switch: Part) -> str:
    """The terminal of a switch that feeds a plain load: the one answered, or its last."""
    named = job.text("output")
    if switch.kind == BUTTON:
        return ""
    outputs = switch.contacts.terminals if switch.contacts else ()
    if named and named not in outputs:
        raise UnusableInput(
            "bad-output",
            "output",
            f"{switch.name} has no {named}. Its terminals are {', '.join(outputs)}.",
        )
    return named or outputs[-1]


def solenoid(job: Job) -> None:
    """A switch and limit switches in series pull in a relay; load power comes from the stud."""
    load, switch = job.need_load("load"), job.need_switch("switch")
    limits = [job.switch("limit_1"), job.switch("limit_2")]
    job.feed_switch(switch, job.choice("key"), f"{job.circuit.name} control")
    start: tuple[Part, str] = (switch, "out")
    for limit in limits:
        if limit is not None:
            job.feed(*start, limit, "in")
            start = (limit, "out")
    relay = job.relay(f"{job.circuit.name} relay")
    job.coil(relay, *start)
    fuse = job.fuse_at_source(f"{job.circuit.name} fuse", job.panel_place())
    job.feed(fuse, "out", relay, "30")
    job.loads_on(relay, "87", load)


def crossed_pair(job: Job) -> None:
    """Two changeover relays pass two driven lines straight through, and cross them while held."""
    first, second = job.need_load("first"), job.need_load("second")
    button = job.need_switch("button")
    box, lines = _driving_box(job)
    fuse = job.fuse("run")
    for load in (first, second):
        job.feed(fuse, "out", load)
    job.feed_switch(button, "run", f"{job.circuit.name} button")
    for number, load in enumerate((first, second)):
        relay = job.relay(f"Cross relay {number + 1}", CHANGEOVER)
        job.feed(load, "-", relay, "30")
        job.feed(relay, "87a", box, lines[number])
        job.feed(relay, "87", box, lines[1 - number])
        job.coil(relay, button, "out")


def _driving_box(job: Job) -> tuple[Part, tuple[str, str]]:
    """The control box that grounds two lines: one that is there, or one with two inputs."""
    box = job.part("box")
    if box is not None:
        free = [
            pin.name
            for pin in box.pins
            if pin.function == "low side" and not job.draft.wires_on(job.terminal(box, pin.name))
        ]
        if len(free) < 2:
            raise UnusableInput(
                "no-free-pin",
                box.id,
                f"{box.name} has {len(free)} free pins that switch ground, and two are needed.",
            )
        return box, (free[0], free[1])
    pins = (
        Pin("1", "supply"),
        Pin("2", "ground"),
        Pin("call-a", "input to ground"),
        Pin("call-b", "input to ground"),
        Pin("out-a", "low side", "call_a", 2.0),
        Pin("out-b", "low side", "call_b", 2.0),
    )
    box = job.box(f"{job.circuit.name} box", job.panel_place(), *pins)
    job.feed(job.fuse("run", box.name), "out", box, "1")
    job.ground(box, "2")
    for pin, name in (("call-a", "call_first"), ("call-b", "call_second")):
        call = job.switch(name)
        if call is not None:
            job.feed(box, pin, call, "in")
            job.ground(call, "out")
    return box, ("out-a", "out-b")


def diode_logic(job: Job) -> None:
    """Any of several feeds lights the load, and none feeds back into another."""
    load, sources = job.need_load("load"), job.terminals("sources")
    if len(sources) < 2:
        raise UnusableInput(
            "too-few-sources", "sources", "Diode logic joins two feeds or more. Choose another one."
        )
    for number, source in enumerate(sources, 1):
        diode = job.diode(f"{load.name} diode {number}", load.place)
        job.feed(source, "", diode, "anode")
        job.feed(diode, "cathode", load)
    job.ground(load)


PIN_LINE = re.compile(r"^\s*([^\s:.]{1,24})\s*:\s*([a-z ]+?)\s*(?:when\s+(.+))?$")


def control_box(job: Job) -> None:
    """A box whose pins have functions, fed, grounded and with its own draw."""
    pins = tuple(_pins(job.text("pins")))
    place = job.place("place")
    box = job.box(job.text("name") or job.circuit.name, place, *pins)
    fuse = job.fuse(job.choice("key"))
    for pin in pins:
        if pin.function == "supply":
            job.feed(fuse, "out", box, pin.name)
        if pin.function == "ground":
            job.ground(box, pin.name)
    supply = next((pin.name for pin in pins if pin.function == "supply"), None)
    ground = next((pin.name for pin in pins if pin.function == "ground"), None)
    if supply is None or ground is None:
        raise UnusableInput(
            "no-supply-pin", "pins", "A box needs a pin for supply and one for ground."
        )
    row = job.load("draw", f"{box.name} itself")
    if row is not None:
        job.house(row, box, plus=supply, minus=ground)


def _pins(text: str) -> list[Pin]:
    """Pins written one a line: ``12: low side when engine_rpm > 0``."""
    pins = []
    for number, line in enumerate(text.splitlines(), 1):
        if not line.strip():
            continue
        found = PIN_LINE.match(line)
        if found is None or found[2] not in PIN_FUNCTIONS:
            raise UnusableInput(
                "bad-pin",
                f"line {number}",
                f"Line {number}, “{line.strip()[:60]}”, is no pin. Write its name, a colon and "
                f"what it does: {', '.join(PIN_FUNCTIONS[1:])}; for an output, when.",
            )
        pins.append(Pin(found[1], found[2], found[3] or ""))
    return pins


def sensor(job: Job) -> None:
    """A sensor on pins of its own of a box or module, through a plug whose pins stand in the order
    of the car."""
    name, place, fed = job.text("name") or job.circuit.name, job.place("place"), job.flag("fed")
    reader = job.part("reader")
    if reader is None:
        raise UnusableInput(
            "no-reader", "reader", "Choose the box or module that reads it, or add one first."
        )
    figures = {"resistance_ohm": 1000.0, **({"supply_ma": 10.0} if fed else {})}
    probe = job.add("sensor", name, place, figures=figures)
    stem = spoken(name).replace("_", "-")[:20]
    pins = {
        "ground": Pin(f"{stem}-gnd", "sensor ground"),
        "signal": Pin(stem, "analogue input"),
        "supply": Pin(f"{stem}-5v", "sensor supply"),
    }
    order = [
        row for row in job.draft.before.policy.sensor_pins.split(", ") if fed or row != "supply"
    ]
    others = [row for row in reader.pins if row.name not in {pin.name for pin in pins.values()}]
    mine = [pins[row] for row in order]
    job.draft.parts[reader.id] = replace(reader, pins=(*others, *mine))
    cavities = tuple(Pin(str(number)) for number in range(1, len(order) + 1))
    plug = job.add("connector", f"{name} plug", place, catalogue=PLUG, pins=cavities)
    for number, row in enumerate(order, 1):
        front, back = cavity_halves(str(number))
        job.feed(job.draft.parts[reader.id], pins[row].name, plug, front)
        job.feed(plug, back, probe, row)


def module_channel(job: Job) -> None:
    """A free channel of a module feeds loads while its condition holds; one each where together
    they are too much for one."""
    module = job.part("module")
    if module is None:
        raise UnusableInput(
            "no-module", "module", "The build has no module. List one in Take stock first."
        )
    feed_module(job, module)
    at, loads = OnModules(job, module.id), job.loads("loads")
    limit_a = job.number("limit_a", 0.5, 60)
    condition = job.text("when") or _by_switch(job, module)
    for group in [loads] if at.bears(loads) else [[load] for load in loads]:
        at.on(at.channel(*group), condition, *group, limit_a=limit_a)


def _by_switch(job: Job, module: Part) -> str:
    """The condition that a switch is away from rest; a switch without wires is led to an input."""
    switch = job.need_switch("switch")
    if switch.kind == BUTTON:
        return spoken(switch.id)
    outputs = terminals_of(switch)
    if job.choice("reaches") == "over the data bus" or any(
        job.draft.wires_on(Terminal(switch.id, name)) for name in outputs
    ):
        return spoken(switch.id)
    pin = Pin(_input_for(job, module, switch), "input to ground")
    module = job.draft.parts[module.id]
    others = tuple(row for row in module.pins if row.name != pin.name)
    job.draft.parts[module.id] = replace(module, pins=(*others, pin))
    job.feed(module, pin.name, switch, outputs[0])
    job.ground(switch, outputs[-1])
    return spoken(pin.name)


def _input_for(job: Job, module: Part, switch: Part) -> str:
    """The name of an input for a switch: ``rear-fog`` for the rear fog switch, where nothing else
    is called so."""
    short = switch.id.removesuffix("-switch")[:LONGEST_PIN].rstrip("-")
    taken = short in job.draft.parts or job.draft.wires_on(Terminal(module.id, short))
    return f"in-{switch.id}"[:LONGEST_PIN] if taken else short


PLUG = "pin size 20 sealed"
LONGEST_PIN = 24
RECIPES = (
    Recipe(
        "sensor",
        "Sensor with its plug",
        "engine",
        "critical",
        "A sensor that a box or module reads, over a plug of two or three pins in the order that "
        "the policy of the car gives to all of them: who measures one knows where to put the "
        "probes on all. Its ground goes to the box's own pin and not to the body.",
        "Sensors sit at hot and moving parts: engine off and cool.",
        (
            "Reads wrong when much is on: its ground is led to the body.",
            "Reads nothing: supply and ground are swapped in one half of the plug.",
        ),
        (
            Question("name", "text", "Name", usual="Oil pressure sensor"),
            Question("place", "place", "Where", near=("engine",)),
            Question("reader", "part", "Read by", of_kind=("box", "module")),
            Question("fed", "flag", "It has a 5 V supply", usual=True),
        ),
        sensor,
    ),
    Recipe(
        "plain-load",
        "One load",
        "accessory",
        "comfort",
        "A load straight through its switch, or through a relay so that the switch carries only "
        "the coil.",
        "Battery negative off while you wire.",
        (
            "The switch gets warm: it carries more than its contacts can; use a relay.",
            "Works in the wrong key position: it is behind a way of another bus.",
        ),
        (
            Question("load", "load", "Load", rows=("Power socket",), near=("dash",)),
            Question(
                "more",
                "loads",
                "More of them",
                rows=PLAIN_LOADS,
                near=("more",),
                optional=True,
                left_out=True,
            ),
            Question(
                "switch",
                "switch",
                "Switch",
                rows=PLAIN_SWITCHES,
                near=("dash",),
                optional=True,
                left_out=True,
            ),
            Question(
                "output",
                "text",
                "Its output",
                usual="",
                help="The terminal of the switch that feeds it, where there are several.",
            ),
            Question("through", "choice", "Through", choices=("direct", "relay")),
            needs_key("run"),
            Question(
                "shed",
                "flag",
                "Off while the engine cranks",
                usual=False,
                help="So that the starter has all of the battery; accessory feeds are so anyway.",
            ),
            FUSE,
        ),
        plain_load,
    ),
    Recipe(
        "solenoid",
        "Solenoid with lock-outs",
        "accessory",
        "comfort",
        "Control power over a switch and two limit switches in series to a relay; load power from "
        "the battery's stud through its own protection and the relay's contacts.",
        "The mechanism moves at once. Fingers clear.",
        (
            "The breaker trips on the pull-in though the hold current is small: slow protection.",
            "Dead in one gear: a limit switch stands open.",
        ),
        (
            Question(
                "load",
                "load",
                "Solenoid",
                rows=("Overdrive solenoid two-stage", "Release solenoid"),
                near=("solenoid", "overdrive", "tunnel"),
            ),
            Question(
                "switch",
                "switch",
                "Switch",
                rows=("Switch, off and on", "Push button"),
                near=("overdrive", "dash"),
            ),
            Question(
                "limit_1", "switch", "First limit switch", rows=("Limit switch",), near=("limit",)
            ),
            Question(
                "limit_2",
                "switch",
                "Second limit switch",
                rows=("Limit switch",),
                near=("limit",),
                optional=True,
            ),
            needs_key("run"),
        ),
        solenoid,
    ),
    Recipe(
        "crossed-pair",
        "Crossed pair of relays",
        "accessory",
        "comfort",
        "Two five-pin relays pass the two grounded lines of a control box straight to their loads, "
        "and cross them while a button is held. The loads have a common live. A four-pin relay "
        "cannot do it.",
        "What the lines drive may move when they cross.",
        (
            "Dead unless the button is held: 87 and 87a are swapped.",
            "One line is never crossed: a relay with both pins 87 instead of 87a.",
        ),
        (
            Question("first", "load", "First load", rows=ANY_LOAD, near=("first", "engine")),
            Question("second", "load", "Second load", rows=ANY_LOAD, near=("second", "engine")),
            Question(
                "button", "switch", "Crossing button", rows=("Push button",), near=("cross", "dash")
            ),
            Question("box", "part", "Control box", of_kind=("box",), optional=True, left_out=True),
            Question(
                "call_first",
                "switch",
                "Calls the first line",
                rows=("Switch, off and on",),
                near=("call", "first"),
                optional=True,
            ),
            Question(
                "call_second",
                "switch",
                "Calls the second line",
                rows=("Switch, off and on",),
                near=("call", "second"),
                optional=True,
            ),
        ),
        crossed_pair,
    ),
    Recipe(
        "diode-logic",
        "One load from several feeds",
        "accessory",
        "comfort",
        "Diodes let any of several feeds light a load without feeding one another.",
        "A diode gets warm; it takes about 0.8 V from the load.",
        (
            "Something else comes on too: a diode stands the wrong way round.",
            "Dead from one feed: its diode has burnt out after a short circuit.",
        ),
        (
            Question("load", "load", "Load", rows=ANY_LOAD[1:], near=("dash",)),
            Question("sources", "terminals", "Fed from"),
        ),
        diode_logic,
    ),
    Recipe(
        "control-box",
        "Control box",
        "engine",
        "critical",
        "A box whose pins have functions: supply, ground, inputs, outputs that switch supply or "
        "ground, sensor supply and ground, data bus.",
        "Boxes die of reversed polarity and of welding on the car: unplug them first.",
        (
            "Sensors read wrong: their ground is led to the body and not to the box's own pin.",
            "An output does nothing: the pin cannot do what is asked of it.",
        ),
        (
            Question("name", "text", "Name", usual="Engine control box"),
            Question("place", "place", "Where", near=("panel",)),
            Question(
                "pins",
                "text",
                "Pins, one a line",
                usual="1: supply\n2: ground",
                help="Name, colon, what it does; for an output, when: 4: low side when in_3",
            ),
            Question(
                "draw",
                "load",
                "What it draws",
                rows=("Engine control box", "Alarm and immobiliser"),
                near=("box",),
                optional=True,
            ),
            needs_key("run"),
            FUSE,
        ),
        control_box,
    ),
    Recipe(
        "module-channel",
        "Module channel",
        "accessory",
        "comfort",
        "A channel of a power module feeds loads while its condition holds: a switch led to an "
        "input, a button on the data bus, or a condition of your own.",
        "A channel can come on by itself when its condition does. Hands clear of motors.",
        (
            "Channel trips at once: its limit is below the inrush.",
            "Never on: the condition asks for an input that nothing grounds.",
        ),
        (
            Question("module", "part", "Module", of_kind=("module",)),
            Question("loads", "loads", "Load", rows=ANY_LOAD[2:], near=("rear",)),
            Question(
                "when",
                "text",
                "On when",
                optional=True,
                help="ignition and coolant_c > 92; empty: by the switch below.",
            ),
            Question(
                "switch",
                "switch",
                "By the switch",
                rows=(
                    "Switch, off and on",
                    "Push button",
                    "Door switch",
                    "Pedal switch",
                    "Gear switch",
                ),
                near=("dash",),
            ),
            Question(
                "reaches",
                "choice",
                "The switch reaches it",
                choices=("by a wire to an input", "over the data bus"),
            ),
            Question("limit_a", "number", "Limit, A", usual=15),
        ),
        module_channel,
    ),
)
