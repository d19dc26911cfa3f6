"""Recipes for what moves: wipers, blower, fan, pump, horn, and motors that run both ways."""

from dataclasses import replace
from itertools import pairwise

from circuitry.design.model import ContactTable, Part, Pin, Position
from circuitry.devices.load import law_of_load
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import CHANGEOVER, Job
from circuitry.recipes.protection import relay_for
from circuitry.recipes.recipe import FUSE, Recipe, needs_key

MOVES = "It can move the moment it is fed. Hands, hair and tools clear."
WINDOW = ("Window motor", "Door lock actuator")
SPEED_SHARES = {2: (0.5,), 3: (0.4, 0.65), 4: (0.35, 0.5, 0.7)}
"""Share of the supply that the motor gets at each lower speed of a blower."""
FULL_V = 13.0
PARK_CONTACT = ContactTable(
    "53a",
    (Position("parked", (("31", "31b"),)), Position("away", (("53a", "31b"),))),
)
"""The contact inside a wiper motor: grounds 31b while parked, feeds it on the way there."""


def wipers(job: Job) -> None:
    """The column switch feeds either brush; off, it ties the slow one to the park contact."""
    switch = job.need_switch("switch")
    motor, _, _ = wiper_motor(job)
    pump, fuse = job.load("pump"), job.fuse("run")
    job.feed_once(fuse, "out", switch, "in")
    job.feed(fuse, "out", motor, "53a")
    job.feed(switch, "slow", motor, "53")
    job.feed(switch, "fast", motor, "53b")
    parked: tuple[Part, str] = (motor, "31b")
    if has_interval(switch):
        parked = (_wipe_timer(job, fuse, motor, switch), "53e")
    job.feed(*parked, switch, "park")
    job.ground(motor, "31")
    job.loads_on(switch, "wash", pump)


def has_interval(switch: Part) -> bool:
    """Whether a wiper switch has a position for wiping now and then."""
    return switch.contacts is not None and "interval" in switch.contacts.terminals


def _wipe_timer(job: Job, fuse: Part, motor: Part, switch: Part) -> Part:
    """A timer in the wire from the park contact: its relay feeds the slow brush for a moment, and
    the park contact brings the blades home."""
    pins = (
        Pin("15", "supply"),
        Pin("31", "ground"),
        Pin("interval", "input"),
        Pin("pulse", "high side", "flash(interval)", 1.0),
        Pin("31b"),
        Pin("53e"),
    )
    timer = job.box("Wipe timer", job.panel_place(), *pins)
    relay = job.relay("Wipe timer relay", CHANGEOVER)
    ends = {"86": "pulse", "85": "31", "87a": "31b", "30": "53e", "87": "15"}
    job.house(relay, timer, **ends)
    job.feed(fuse, "out", timer, "15")
    job.ground(timer, "31")
    job.feed(switch, "interval", timer, "interval")
    job.feed(motor, "31b", timer, "31b")
    return timer


def wiper_motor(job: Job) -> tuple[Part, Part, Part]:
    """The unit with both brushes of the motor and its park contact, and the loads that they are."""
    slow = job.need_load("slow")
    fast = job.new_load("Wiper motor fast", f"{slow.name} fast", slow.place)
    pins = (("53", ""), ("53b", ""), ("53a", ""), ("31b", ""), ("31", ""))
    motor = job.box(f"{slow.name} with park contact", slow.place, *pins)
    slow = job.house(slow, motor, plus="53", minus="31")
    fast = job.house(fast, motor, plus="53b", minus="31")
    cam = job.add("sensor", "Wiper park contact", slow.place, contacts=PARK_CONTACT)
    job.house(cam, motor, **{"31": "31", "31b": "31b", "53a": "53a"})
    return motor, slow, fast


def blower(job: Job) -> None:
    """Lower speeds through resistors in series; the last position feeds the motor alone."""
    motor, switch = job.need_load("motor"), job.need_switch("switch")
    outputs = [name for name in _terminals(switch) if name != "in"]
    shares = SPEED_SHARES[len(outputs)]
    job.feed_switch(switch, job.choice("key"))
    law = law_of_load(motor)
    total_ohm = []
    for share in shares:
        amps, _ = law.current_and_slope(share * FULL_V)
        total_ohm.append((1 - share) * FULL_V / float(amps))
    steps = [a - b for a, b in zip(total_ohm, [*total_ohm[1:], 0.0], strict=True)]
    resistors = [
        job.add(
            "resistor",
            f"{motor.name} resistor {number}",
            motor.place,
            figures={"resistance_ohm": round(ohm, 2), "rated_w": 100.0},
        )
        for number, ohm in enumerate(steps, 1)
    ]
    for output, resistor in zip(outputs, resistors, strict=False):
        job.feed(switch, output, resistor, "1")
    for first, second in pairwise(resistors):
        job.feed(first, "2", second, "1")
    job.feed(resistors[-1], "2", motor)
    job.feed(switch, outputs[-1], motor)
    job.ground(motor)


def _terminals(switch: Part) -> tuple[str, ...]:
    return switch.contacts.terminals if switch.contacts else ()


def fan(job: Job) -> None:
    """A relay whose coil is fed, or grounded, by thermostat or override."""
    motor, thermostat = job.need_load("motor"), job.need_switch("thermostat")
    override = job.switch("override")
    relay = job.relay(f"{job.circuit.name} relay", relay_for([motor]))
    key = job.choice("key")
    controls = [part for part in (thermostat, override) if part]
    if job.choice("control") == "feeds the coil":
        fuse = job.fuse(key, f"{job.circuit.name} control")
        for control in controls:
            job.feed_once(fuse, "out", control, "in")
            job.feed(control, "out", relay, "86")
        job.ground(relay, "85")
    else:
        job.feed(job.fuse(key, f"{job.circuit.name} control"), "out", relay, "86")
        for control in controls:
            job.feed(relay, "85", control, "in")
            job.ground(control, "out")
    job.feed(job.fuse("always", answer="fuse"), "out", relay, "30")
    job.loads_on(relay, "87", motor)


def fuel_pump(job: Job) -> None:
    """A relay that is held by oil pressure or the control box, or pulled in by a prime button."""
    pump, prime = job.need_load("pump"), job.switch("prime")
    inertia = job.switch("inertia")
    relay = job.relay(f"{job.circuit.name} relay")
    control = job.fuse("run", f"{job.circuit.name} control")
    start, out = (control, "out")
    if inertia is not None:
        job.feed_once(control, "out", inertia, "in")
        start, out = inertia, "out"
    if job.choice("held_by") == "oil pressure":
        oil = job.need_switch("oil_switch")
        for switch in (oil, prime):
            if switch is not None:
                job.feed_once(start, out, switch, "in")
                job.feed(switch, "out", relay, "86")
        job.ground(relay, "85")
    else:
        job.feed(start, out, relay, "86")
        box, pin = box_output(job)
        job.feed(relay, "85", box, pin)
        if prime is not None:
            job.feed(relay, "85", prime, "in")
            job.ground(prime, "out")
    job.feed(job.fuse("always", answer="fuse"), "out", relay, "30")
    job.loads_on(relay, "87", pump)


def box_output(job: Job) -> tuple[Part, str]:
    """A free low side of the control box, or a control box that has one."""
    box = job.part("box")
    if box is not None:
        free = [
            pin.name
            for pin in box.pins
            if pin.function == "low side" and not job.draft.wires_on(job.terminal(box, pin.name))
        ]
        if not free:
            raise UnusableInput(
                "no-free-pin",
                box.id,
                f"{box.name} has no free pin that switches ground. Give it one, or choose another.",
            )
        pins = tuple(
            replace(pin, when=pin.when or "engine_rpm > 0") if pin.name == free[0] else pin
            for pin in box.pins
        )
        job.draft.parts[box.id] = replace(box, pins=pins)
        return box, free[0]
    pins = (
        Pin("1", "supply"),
        Pin("2", "ground"),
        Pin("3", "low side", "engine_rpm > 0", 1.0),
    )
    box = job.box("Pump control box", job.panel_place(), *pins)
    job.feed(job.fuse("run", "Pump control box"), "out", box, "1")
    job.ground(box, "2")
    return box, "3"


def _switch_of(motor: Part) -> str | None:
    """What the switch of a motor is called: that of ``Window motor left`` is Window switch left."""
    return motor.name.replace(" motor", " switch") if " motor" in motor.name else None


def reversed_by_switch(job: Job) -> None:
    """A switch that swaps feed and ground, and ties the motor to ground at rest."""
    motor = job.need_load("motor")
    switch = job.need_switch("switch", _switch_of(motor))
    job.feed_switch(switch, job.choice("key"))
    job.ground(switch, "ground")
    job.feed(switch, "up", motor, "+")
    job.feed(switch, "down", motor, "-")


def reversed_by_relays(job: Job) -> None:
    """Two five-pin relays rest on ground; the switch grounds the coil of one."""
    motors = [job.need_load("motor"), *job.loads("more")]
    switch = job.need_switch("switch", _switch_of(motors[0]))
    key = job.choice("key")
    fuse = job.fuse(key)
    job.ground(switch, "in")
    for way, terminal in (("up", "+"), ("down", "-")):
        relay = job.relay(f"{job.circuit.name} {way} relay", CHANGEOVER)
        job.feed(fuse, "out", relay, "87")
        job.ground(relay, "87a")
        job.feed(fuse, "out", relay, "86")
        job.feed(relay, "85", switch, way)
        for motor in motors:
            job.feed(relay, "30", motor, terminal)


def horn(job: Job) -> None:
    """A relay for the horns; the push feeds or grounds its coil."""
    horns, push = [job.need_load("horn"), *job.loads("more")], job.need_switch("push")
    fuse = job.fuse(job.choice("key"))
    relay = job.relay("Horn relay")
    if job.choice("push_does") == "grounds the coil":
        job.feed(fuse, "out", relay, "86")
        job.feed(relay, "85", push, "in")
        job.ground(push, "out")
    else:
        job.feed_once(fuse, "out", push, "in")
        job.coil(relay, push, "out")
    job.feed(fuse, "out", relay, "30")
    job.loads_on(relay, "87", *horns)


RECIPES = (
    Recipe(
        "wipers",
        "Wipers and washer",
        "accessory",
        "safety",
        "Two speeds, wash with wipe, and a park contact that brings the blades home when the "
        "switch goes to off. A switch with an interval brings the timer that wipes now and then.",
        f"{MOVES} Blades off, or the screen wet.",
        (
            "Blades stop where they are: no feed on 53a, or 31b not led to the switch.",
            "Fuse blows when the switch goes to off: 53a and 31b are swapped.",
            "Blades run on for ever: the park contact does not reach its ground.",
            "Interval wipes once and stops halfway: the timer sits in the wire to 53 and not in "
            "that of the park contact.",
        ),
        (
            Question(
                "switch",
                "switch",
                "Wiper switch",
                rows=(
                    "Wiper switch with park and wash",
                    "Wiper switch with park, interval and wash",
                ),
                near=("wiper", "column"),
            ),
            Question(
                "slow",
                "load",
                "Wiper motor",
                rows=("Wiper motor slow",),
                near=("wiper", "bulkhead"),
            ),
            Question(
                "pump",
                "load",
                "Washer pump",
                rows=("Washer pump",),
                near=("washer", "bulkhead"),
                optional=True,
            ),
            FUSE,
        ),
        wipers,
    ),
    Recipe(
        "blower",
        "Heater blower",
        "accessory",
        "comfort",
        "Two to four speeds: the lower ones through resistors that stand in the blower's own air.",
        f"{MOVES} The resistors get hot enough to burn.",
        (
            "Only the top speed works: the resistor pack has burnt out.",
            "The switch melts: it carries the whole current at the top speed.",
        ),
        (
            Question(
                "motor",
                "load",
                "Blower",
                rows=("Heater blower full", "Radiator fan 300 mm"),
                near=("blower", "bulkhead"),
            ),
            Question(
                "switch",
                "switch",
                "Speed switch",
                rows=("Three-speed switch", "Four-speed switch", "Two-speed switch"),
                near=("blower", "dash"),
            ),
            needs_key("run"),
            FUSE,
        ),
        blower,
    ),
    Recipe(
        "fan",
        "Radiator fan",
        "engine",
        "critical",
        "A relay pulled in by a thermostat, or by an override on the dash.",
        f"{MOVES} A fan may start with a hot engine even after you have switched off.",
        (
            "Fan never stops: a grounded sensor wire, or a welded relay.",
            "Fuse blows at start: its rating leaves no room for the inrush.",
        ),
        (
            Question(
                "motor",
                "load",
                "Fan",
                rows=("Radiator fan 400 mm", "Radiator fan 300 mm"),
                near=("fan", "nose"),
            ),
            Question(
                "thermostat",
                "switch",
                "Thermostat switch",
                rows=("Thermostat switch",),
                near=("thermostat", "nose"),
            ),
            Question(
                "override",
                "switch",
                "Override switch",
                rows=("Switch, off and on",),
                near=("fan", "override", "dash"),
                optional=True,
                left_out=True,
            ),
            Question(
                "control", "choice", "Thermostat", choices=("feeds the coil", "grounds the coil")
            ),
            needs_key("run"),
            FUSE,
        ),
        fan,
    ),
    Recipe(
        "fuel-pump",
        "Fuel pump",
        "engine",
        "critical",
        "A relay held by oil pressure or by the control box while the engine turns, a button to "
        "prime, and an inertia switch that cuts it in a crash.",
        "Look for fuel leaks before and while it runs. No sparks, extinguisher at hand.",
        (
            "Pump runs with the engine stopped: the prime button or the oil switch is bridged.",
            "Engine dies in bends: the oil switch opens; the control box holds it better.",
        ),
        (
            Question(
                "pump",
                "load",
                "Fuel pump",
                rows=(
                    "Fuel pump injection",
                    "Fuel pump carburettor",
                    "Fuel pump injection high output",
                ),
                near=("pump", "tank"),
            ),
            Question("held_by", "choice", "Held by", choices=("oil pressure", "control box")),
            Question(
                "oil_switch",
                "switch",
                "Oil-pressure safety switch",
                rows=("Oil-pressure safety switch",),
                near=("oil", "engine"),
            ),
            Question("box", "part", "Control box", of_kind=("box",), optional=True, left_out=True),
            Question(
                "prime",
                "switch",
                "Prime button",
                rows=("Push button",),
                near=("prime", "dash"),
                optional=True,
            ),
            Question(
                "inertia",
                "switch",
                "Inertia switch",
                rows=("Inertia switch",),
                near=("inertia", "bulkhead"),
                optional=True,
            ),
            FUSE,
        ),
        fuel_pump,
    ),
    Recipe(
        "reversed-by-switch",
        "Motor both ways by a switch",
        "accessory",
        "comfort",
        "A window, lock or other motor whose switch swaps its feed and its ground; at rest both "
        "ends are on ground.",
        f"{MOVES} Windows and locks trap fingers.",
        (
            "Runs one way only: one pole of the switch, or the ground of the switch.",
            "Slow one way: a poor joint in the wire that only that way loads.",
        ),
        (
            Question("motor", "load", "Motor", rows=WINDOW, near=("window", "door")),
            Question(
                "switch",
                "switch",
                "Reversing switch",
                rows=("Reversing switch",),
                near=("window", "tunnel"),
            ),
            needs_key("run"),
            FUSE,
        ),
        reversed_by_switch,
        named_after="motor",
    ),
    Recipe(
        "reversed-by-relays",
        "Motor both ways by two relays",
        "accessory",
        "comfort",
        "Two five-pin relays rest on ground; a small switch grounds the coil of one or the other. "
        "A four-pin relay cannot do it.",
        f"{MOVES} Windows and locks trap fingers.",
        (
            "Both relays click and nothing moves: both coils are grounded at once.",
            "Does not stop sharply: 87a is not on ground.",
        ),
        (
            Question("motor", "load", "Motor", rows=WINDOW, near=("lock", "window", "door")),
            Question(
                "more",
                "loads",
                "More of the same",
                rows=WINDOW,
                near=("lock", "door"),
                optional=True,
                left_out=True,
            ),
            Question(
                "switch",
                "switch",
                "Up and down switch",
                rows=("Up and down switch",),
                near=("lock", "window", "dash"),
            ),
            needs_key("always"),
            FUSE,
        ),
        reversed_by_relays,
        named_after="motor",
    ),
    Recipe(
        "horn",
        "Horn",
        "accessory",
        "safety",
        "A relay for one horn or two; the push feeds its coil, or grounds it as many columns do.",
        "It is loud: ears away from it.",
        (
            "Horn sounds as the wheel turns: the slip ring chafes on the column.",
            "Only clicks: thin wire or a poor ground at the horn.",
        ),
        (
            Question("horn", "load", "Horn", rows=("Horn",), near=("horn", "nose")),
            Question(
                "more",
                "loads",
                "Second horn",
                rows=("Horn",),
                near=("horn",),
                optional=True,
                left_out=True,
            ),
            Question(
                "push",
                "switch",
                "Horn push",
                rows=("Push button", "Pedal switch"),
                near=("horn", "column"),
            ),
            Question(
                "push_does", "choice", "The push", choices=("feeds the coil", "grounds the coil")
            ),
            needs_key("always"),
            FUSE,
        ),
        horn,
    ),
)
