"""Recipes for the supply: starting, charging, feeds, panels and isolators."""

from dataclasses import replace

from circuitry.design.model import Housed, Part, Terminal, Wire
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import CHANGEOVER, Job
from circuitry.recipes.recipe import Recipe, needs_key

RINGS = "Rings and watches off. Battery negative comes off first and goes on last."
STARTERS = ("Starter motor geared 1.4 kW", "Starter motor direct 1.0 kW")


def starter(job: Job) -> None:
    """Key or button, over neutral and brake, to a relay that feeds terminal 50."""
    motor = job.need_load("motor")
    unit = _starter_unit(job, motor)
    relay = job.relay("Start relay")
    neutral, brake, button = job.switch("neutral"), job.switch("brake"), job.switch("button")
    if button is not None and brake is not None:
        start = _button(job, button, brake)
    elif button is not None:
        job.feed_switch(button, "run", "Start button")
        start = Terminal(button.id, "out")
    else:
        key = key_switch(job)
        start = Terminal(key.id, "50")
        if brake is not None:
            job.feed(start, "", brake, "in")
            start = Terminal(brake.id, "out")
    if neutral is not None:
        job.feed(start, "", neutral, "in")
        start = Terminal(neutral.id, "out")
    job.coil(relay, start, "")
    job.feed(job.fuse("always", "Start relay"), "out", relay, "30")
    job.feed(relay, "87", unit, "50")
    if job.flag("strap"):
        _strap(job, Terminal(unit.id, "31"))


def _strap(job: Job, returned: Terminal) -> None:
    """A cable to battery negative from where a starter returns, unless cables lead there already:
    sheet metal and its bolts are no way for its current."""
    negative = Terminal(job.battery.id, "-")
    joined = _joined(job, returned)
    if negative in joined:
        return
    points = (end for end in joined if job.draft.parts[end.part].kind == "ground point")
    job.draft.add_wire(next(points, returned), negative, job.circuit, "black")


def _joined(job: Job, start: Terminal) -> set[Terminal]:
    """The terminals that wires alone join to one."""
    joined, waiting = {start}, [start]
    while waiting:
        for wire in job.draft.wires_on(waiting.pop()):
            for end in {wire.from_terminal, wire.to_terminal} - joined:
                joined.add(end)
                waiting.append(end)
    return joined


def _starter_unit(job: Job, motor: Part) -> Part:
    """The motor with its solenoid, on a heavy cable straight from the battery."""
    pins = (("30", ""), ("50", ""), ("31", "ground"), ("45", "inside"))
    unit = job.box(f"{motor.name} with solenoid", motor.place, *pins)
    solenoid = job.relay("Starter solenoid", "starter solenoid on the motor", motor.place)
    ends = {"30": "30", "87": "45", "86": "50", "85": "31"}
    job.draft.parts[solenoid.id] = replace(solenoid, housed=Housed(unit.id, ends))
    job.house(motor, unit, plus="45", minus="31")
    source = job.behind_isolators()
    job.draft.add_wire(source, Terminal(unit.id, "30"), job.circuit, "red")
    job.ground(unit, "31", by_ring=True)
    return unit


def _button(job: Job, button: Part, brake: Part) -> Terminal:
    """The button cranks with the brake pressed; without it, it gives the accessory feed."""
    job.feed_switch(button, "run", "Start button")
    relay = job.relay("Start button relay", CHANGEOVER)
    job.feed_once(button, "out", brake, "in")
    job.coil(relay, brake, "out")
    job.feed(button, "out", relay, "30")
    accessory = job.load("accessory")
    if accessory is not None:
        job.loads_on(relay, "87a", accessory)
    return Terminal(relay.id, "87")


def key_switch(job: Job) -> Part:
    """The key switch of the car; raises UnusableInput where it has none."""
    for part in job.draft.parts.values():
        if part.kind == "key switch":
            return part
    raise UnusableInput("no-key", "key", "The build has no key switch. Add one, or a button.")


def charging(job: Job) -> None:
    """B+ over a fuse to the battery, D+ over the warning lamp to the run feed."""
    alternator = job.part("alternator")
    if alternator is None:
        figures = {"rated_a": job.number("rated_a", 20, 400)}
        name, place = "Alternator", job.place("place")
        alternator = job.add("alternator", name, place, catalogue="Alternator", figures=figures)
    job.used["alternator"] = alternator.id
    lamp = job.need_load("lamp")
    source = job.behind_isolators()
    fuse = job.line_fuse("Charge fuse", job.draft.parts[source.part].place, "bolt-down M8")
    job.draft.add_wire(source, Terminal(fuse.id, "in"), job.circuit, "red")
    job.keep_short(Terminal(fuse.id, "in"))
    job.draft.add_wire(Terminal(fuse.id, "out"), Terminal(alternator.id, "B+"), job.circuit, "red")
    job.ground(alternator, "-", by_ring=True)
    job.feed(job.fuse("run", "Charge lamp"), "out", lamp)
    job.feed(lamp, "-", alternator, "D+")


def ignition_feed(job: Job) -> None:
    """A relay that the key pulls in feeds a bus of a panel."""
    panel, key = _panel(job), key_switch(job)
    bus = _bus(job, panel)
    output = "15" if job.choice("key") == "run" else "75"
    fuse = job.line_fuse(f"{job.circuit.name} fuse", job.panel_place(), "bolt-down M5")
    relay = job.relay(f"{job.circuit.name} relay", "high-current 70 A")
    job.feed(job.main_stud(), "", fuse, "in")
    job.feed(fuse, "out", relay, "30")
    job.feed(relay, "87", panel, bus)
    job.coil(relay, key, output)


def sub_panel(job: Job) -> None:
    """One heavy wire, one fuse and one relay feed a second panel; a live way pulls it in."""
    panel = _panel(job)
    trigger = job.terminals("trigger")
    fuse = job.fuse_at_source(f"{panel.name} fuse", panel.place, "bolt-down M5")
    relay = job.relay(f"{panel.name} relay", "high-current 70 A", fuse.place)
    job.feed(fuse, "out", relay, "30")
    job.feed(relay, "87", panel, _bus(job, panel))
    if trigger:
        job.coil(relay, trigger[0], "")
    else:
        job.coil(relay, job.fuse(job.choice("key"), f"{panel.name} trigger"), "out")
    if job.flag("strip"):
        _strip(job, panel.name, panel.place)


def _strip(job: Job, name: str, place: str) -> None:
    """A ground strip beside a panel where no bar of ground is; what others return to stays,
    whatever the panel is called when this is written again."""
    own = "bus bar", job.circuit.id
    strip = next((p for p in job.draft.parts.values() if (p.kind, p.circuit) == own), None)
    if strip is None and job.draft.bar_at(place) is None:
        strip = job.add("bus bar", f"{name} ground strip", place)
    if strip is not None:
        job.draft.ground(Terminal(strip.id, "stud"), job.circuit)


def far_panel(job: Job) -> None:
    """One heavy wire with its fuse feeds a panel near the loads of the other end: half of its ways
    live always, half behind a relay that the key pulls in; a ground strip beside it."""
    place, count = job.place("place"), int(job.number("ways", 2, 30))
    name = job.text("name") or job.circuit.name
    panel = job.panel(name, place, "R", ["battery"] * count + ["run"] * count)
    fuse = job.fuse_at_source(f"{name} fuse", place, "bolt-down M5")
    job.feed(fuse, "out", panel, "battery")
    relay = job.relay(f"{name} relay", "high-current 70 A", place)
    job.feed(panel, "battery", relay, "30")
    job.feed(relay, "87", panel, "run")
    job.coil(relay, job.fuse("run", f"{name} trigger"), "out")
    _strip(job, name, place)


def ground_cables(job: Job) -> None:
    """Every ground point that no cable joins to the battery yet is led to the one that is."""
    draft = job.draft
    points = [part for part in draft.parts.values() if part.kind == "ground point"]
    joined = _joined(job, Terminal(job.battery.id, "-"))
    star = next((part for part in points if Terminal(part.id, "stud") in joined), None)
    if star is None:
        raise UnusableInput(
            "no-ground", "ground", "No ground point is joined to battery negative by a cable."
        )
    for point in points:
        if Terminal(point.id, "stud") not in joined:
            wire = draft.ground(Terminal(point.id, "stud"), job.circuit, to=star.id)
            draft.wires[wire.id] = replace(wire, colour="black")


def _panel(job: Job) -> Part:
    panel = job.part("panel")
    if panel is None:
        panel = job.panel("Second panel", job.place("place"), "S", ["main"] * 6)
    job.used["panel"] = panel.id
    return panel


def _bus(job: Job, panel: Part) -> str:
    """The first bus of the panel that nothing feeds yet."""
    buses = dict.fromkeys(way.bus for way in panel.ways)
    for bus in buses:
        if not job.draft.wires_on(Terminal(panel.id, bus)):
            return bus
    raise UnusableInput(
        "no-free-bus",
        panel.id,
        f"Every bus of {panel.name} is fed already: {', '.join(buses)}. Choose another panel.",
    )


def main_feed(job: Job) -> None:
    """Isolators between the battery and everything else, one with poles that stop the engine."""
    start = Terminal(job.battery.id, "+")
    inside = job.need_switch("inside")
    outside = job.switch("outside")
    isolators = [part for part in (inside, outside) if part is not None]
    for wire in job.draft.wires_on(start):
        if _stays_on(job, wire):
            continue
        moved = Terminal(isolators[-1].id, "out")
        here = "from_terminal" if wire.from_terminal == start else "to_terminal"
        job.draft.wires[wire.id] = replace(wire, **{here: moved})  # type: ignore[arg-type]
    for isolator in isolators:
        job.draft.add_wire(start, Terminal(isolator.id, "in"), job.circuit, "red")
        job.keep_short(Terminal(isolator.id, "in"))
        start = Terminal(isolator.id, "out")
    if job.flag("stops_engine"):
        _stop_engine(job, inside, start)


def _stays_on(job: Job, wire: Wire) -> bool:
    """Whether a wire on the battery is there to charge it with everything else off."""
    own = (part for part in job.draft.parts.values() if part.circuit == wire.circuit)
    return any(part.kind == "solar panel" for part in own)


def _stop_engine(job: Job, isolator: Part, behind: Terminal) -> None:
    """Lead the key's feed over the ignition pole, and what is behind the isolators to ground when
    off: the alternator runs down there, and nothing of it comes out of the battery."""
    key = key_switch(job)
    common = Terminal(key.id, key.contacts.common if key.contacts else "30")
    for wire in job.draft.wires_on(common):
        moved = Terminal(isolator.id, "ignition-in")
        ends = {"to_terminal": moved} if wire.to_terminal == common else {"from_terminal": moved}
        job.draft.wires[wire.id] = replace(wire, **ends)  # type: ignore[arg-type]
    job.feed(isolator, "ignition-out", key, common.name)
    figures = {"resistance_ohm": 3.0, "rated_w": 11.0}
    resistor = job.add("resistor", "Run-down resistor", isolator.place, figures=figures)
    fuse = job.line_fuse("Run-down fuse", job.draft.parts[behind.part].place, "regular blade")
    job.draft.add_wire(behind, Terminal(fuse.id, "in"), job.circuit, "red")
    job.feed(fuse, "out", isolator, "alternator")
    job.feed(isolator, "ground", resistor, "1")
    job.ground(resistor, "2")


PANEL = Question(
    "panel", "part", "Panel", of_kind=("panel",), near=("second", "rear"), optional=True
)
RECIPES = (
    Recipe(
        "starter",
        "Starter",
        "engine",
        "critical",
        "Key or start button, over a neutral switch and the brake, to a relay and the solenoid. "
        "With a button and a brake switch, the button gives accessory without the brake and cranks "
        "with it.",
        "The engine turns at once. Out of gear, car held or on stands, hands clear of belts.",
        (
            "Only clicks: a weak battery, or a poor engine ground.",
            "Cranks in gear: the neutral switch is bridged.",
        ),
        (
            Question(
                "motor",
                "load",
                "Starter motor",
                rows=STARTERS,
                near=("starter", "engine", "bulkhead"),
            ),
            Question(
                "neutral",
                "switch",
                "Neutral switch",
                rows=("Neutral switch",),
                near=("neutral", "tunnel"),
                optional=True,
            ),
            Question(
                "brake",
                "switch",
                "Brake switch for starting",
                rows=("Pedal switch",),
                near=("start", "pedal"),
                optional=True,
                left_out=True,
            ),
            Question(
                "button",
                "switch",
                "Start button",
                rows=("Push button",),
                near=("start", "dash"),
                optional=True,
                left_out=True,
            ),
            Question(
                "accessory",
                "load",
                "On without the brake",
                rows=("Telltale LED", "Radio"),
                near=("accessory", "dash"),
                optional=True,
                left_out=True,
            ),
            Question(
                "strap",
                "flag",
                "Ground cable from the engine to the battery",
                usual=True,
                help="Where none leads there yet: sheet metal carries a starter badly.",
            ),
        ),
        starter,
    ),
    Recipe(
        "charging",
        "Charging",
        "engine",
        "critical",
        "Alternator with its heavy wire and fuse, and the warning lamp that excites it.",
        f"{RINGS} The charge post is live with the key off.",
        (
            "Does not charge until revved: the warning lamp is dead, so nothing excites the field.",
            "Lamp on with the key off: B+ and D+ are swapped.",
        ),
        (
            Question("alternator", "part", "Alternator", of_kind=("alternator",), optional=True),
            Question("place", "place", "Otherwise a new one at", near=("engine",)),
            Question("rated_a", "number", "Rated current, A", usual=65),
            Question(
                "lamp",
                "load",
                "Charge telltale",
                rows=("Telltale 1.2 W", "Telltale LED"),
                near=("charge", "dash"),
            ),
        ),
        charging,
    ),
    Recipe(
        "ignition-feed",
        "Ignition feed",
        "feed",
        "critical",
        "A relay that the key pulls in feeds a bus of a panel, so that the key carries only coils.",
        RINGS,
        (
            "Everything dead in one key position: the relay, or its coil's ground.",
            "Runs on after the key is off: a welded relay, or a feed back through a lamp.",
        ),
        (
            PANEL,
            Question("place", "place", "Otherwise a new one at", near=("panel",)),
            needs_key("run"),
        ),
        ignition_feed,
    ),
    Recipe(
        "sub-panel",
        "Second panel through a relay",
        "feed",
        "critical",
        "One heavy wire with its own fuse, and a relay tapped from a live way, feed a panel near "
        "its loads; a ground strip beside it.",
        f"{RINGS} The heavy wire is live as far as its relay with the key off.",
        (
            "The sum of its ways is more than its feed: each fuse is fine, together they are not.",
            "Dead while cranking: the trigger is tapped from accessory.",
        ),
        (
            PANEL,
            Question("place", "place", "Otherwise a new one at", near=("rear", "luggage")),
            Question("trigger", "terminals", "Tapped from", optional=True),
            needs_key("run"),
            Question("strip", "flag", "Ground strip beside it", usual=True),
        ),
        sub_panel,
    ),
    Recipe(
        "far-panel",
        "Panel at the other end",
        "feed",
        "critical",
        "A second panel near the loads of the other end, with ways that are always live and ways "
        "that the key makes live: one heavy wire goes there instead of many thin ones.",
        f"{RINGS} Half of its ways are live with the key off.",
        (
            "Everything at one end dead: its heavy wire, or the fuse at the start of it.",
            "Half of it dead with the key on: the relay beside it, or the ground of its coil.",
        ),
        (
            Question("name", "text", "Name", usual="Rear panel"),
            Question("place", "place", "Where", near=("luggage", "rear")),
            Question("ways", "number", "Ways of each kind", usual=6),
        ),
        far_panel,
    ),
    Recipe(
        "ground-cables",
        "Ground cables",
        "feed",
        "critical",
        "Each ground point is led by cable to the one at the battery, so that no return goes "
        "through sheet metal.",
        RINGS,
        ("Lamps glow through each other: a cable is loose at one of its rings.",),
        (),
        ground_cables,
    ),
    Recipe(
        "main-feed",
        "Battery isolators",
        "feed",
        "critical",
        "An isolator inside, and one outside if asked for, in the battery's lead; a pole of it "
        "breaks the ignition and runs the alternator down, so that the engine stops too.",
        f"{RINGS} An isolator that leaves the alternator running can destroy it.",
        (
            "Engine runs on with the isolator off: the ignition pole is not wired.",
            "Alternator dead after a test: its run-down resistor was left out.",
        ),
        (
            Question(
                "inside",
                "switch",
                "Isolator inside",
                rows=("Kill isolator",),
                near=("isolator", "dash"),
                beside="battery",
                help="At the battery, so that its bare lead stays short, and within reach.",
            ),
            Question(
                "outside",
                "switch",
                "Isolator outside",
                rows=("Battery isolator",),
                near=("outside", "luggage"),
                beside="battery",
                optional=True,
                left_out=True,
            ),
            Question("stops_engine", "flag", "Stops the engine too", usual=True),
        ),
        main_feed,
    ),
)
