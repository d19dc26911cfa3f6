"""Recipes for the cabin: interior lamps, radio, instrument cluster and sockets."""

from dataclasses import replace

from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.lamps import LIGHT_SWITCH, TELLTALES, small
from circuitry.recipes.recipe import FUSE, Recipe, needs_key

STABILISER_OHM, HEATER_A, SENDER_OHM = 0.1, 0.15, 60.0
"""Typical: what the contact of an old stabiliser loses, its bimetal's heater, a sender halfway."""
SENDER_ROWS = {
    "fuel": "Fuel-level sender",
    "temperature": "Temperature sender",
    "oil": "Pressure sender",
}
LAMPS = ("Interior lamp 10 W", "Courtesy lamp 5 W")


def interior(job: Job) -> None:
    """Lamps always fed; any door switch, or the lamp switch, grounds them."""
    lamps, switch = job.loads("lamps"), job.need_switch("switch")
    doors = [job.switch("door_left"), job.switch("door_right"), job.switch("door_more")]
    fuse = job.fuse(job.choice("key"))
    for lamp in lamps:
        job.feed(fuse, "out", lamp)
        job.feed(lamp, "-", switch, "lamp")
    job.ground(switch, "ground")
    for door in doors:
        if door is not None:
            job.feed(switch, "door", door, "in")
            job.ground(door, "out")


def radio(job: Job) -> None:
    """A switched feed for the set and a permanent one for its memory."""
    main = job.need_load("radio")
    memory = job.new_load("Memory feed", f"{main.name} memory", main.place)
    set_ = job.box(f"{main.name} set", main.place, ("75", ""), ("30", ""), ("31", "ground"))
    job.house(main, set_, plus="75", minus="31")
    job.house(memory, set_, plus="30", minus="31")
    job.feed(job.fuse(job.choice("key")), "out", set_, "75")
    job.feed(job.fuse("always", f"{main.name} memory", "memory_fuse"), "out", set_, "30")
    job.ground(set_, "31")


def cluster(job: Job) -> None:
    """The cluster and its telltales behind one plug; warnings grounded by their sensors."""
    main = job.need_load("cluster")
    oil_switch, fluid = job.switch("oil_switch"), job.switch("fluid_switch")
    pins = [("15", ""), ("30", ""), ("31", "ground"), ("58", "")]
    pins += [("oil", ""), ("fluid", "")]
    senders = {name: job.sender(f"{name}_sender") for name in ("fuel", "temperature")}
    pins += [(name, "") for name, sender in senders.items() if sender is not None]
    unit = job.box(f"{main.name} plug", main.place, *pins)
    job.house(main, unit, plus="15", minus="31")
    memory = job.new_load("Memory feed", f"{main.name} memory", main.place)
    job.house(memory, unit, plus="30", minus="31")
    lamp = job.load("lighting")
    if lamp is not None:
        job.house(lamp, unit, plus="58", minus="31")
        light = job.switch("light_switch")
        if light is not None:
            job.feed_switch(light, "always", "Light switch")
            job.feed(*small(job, light, "side"), unit, "58")
    job.feed(job.fuse("run"), "out", unit, "15")
    job.feed(job.fuse("always", f"{main.name} memory", "memory_fuse"), "out", unit, "30")
    job.ground(unit, "31")
    for pin, switch, name in (("oil", oil_switch, "Oil"), ("fluid", fluid, "Brake-fluid")):
        if switch is not None:
            telltale = job.new_load(TELLTALES[0], f"{name} telltale", main.place)
            job.house(telltale, unit, plus="15", minus=pin)
            job.feed(unit, pin, switch, "in")
            job.ground(switch, "out")
    for pin, sender in senders.items():
        if sender is not None:
            gauge = job.new_load("Gauge", f"{pin.capitalize()} gauge", main.place)
            job.house(gauge, unit, plus="15", minus=pin)
            job.feed(unit, pin, sender, "signal")
            job.ground(sender, "ground")


def old_gauges(job: Job) -> None:
    """A stabiliser in the feed of the gauges, whose contact opens and closes so that their mean is
    10 V; each gauge returns over its sender."""
    gauges = [(name, job.load(name)) for name in ("fuel", "temperature", "oil")]
    fitted = [(name, gauge) for name, gauge in gauges if gauge is not None]
    if not fitted:
        fitted = [("fuel", job.need_load("fuel"))]
    place = fitted[0][1].place
    unit = job.box("Voltage stabiliser", place, ("B", ""), ("I", ""), ("case", "ground"))
    figures = {"resistance_ohm": STABILISER_OHM, "rated_w": 5.0}
    contact = job.add("resistor", "Stabiliser contact", place, figures=figures)
    job.house(contact, unit, **{"1": "B", "2": "I"})
    heater = job.new_load("Voltage stabiliser for old gauges", "Stabiliser heater", place)
    heater = replace(heater, figures={"rated_a": HEATER_A})
    job.house(heater, unit, plus="I", minus="case")
    job.feed(job.fuse("run"), "out", unit, "B")
    job.ground(unit, "case")
    for name, gauge in fitted:
        at = job.place(f"{name}_sender")
        figures = {"resistance_ohm": SENDER_OHM}
        row = SENDER_ROWS[name]
        sender = job.add("sensor", f"{gauge.name} sender", at, catalogue=row, figures=figures)
        job.feed(unit, "I", gauge)
        job.feed(gauge, "-", sender, "signal")
        job.ground(sender, "ground")


def sockets(job: Job) -> None:
    """Sockets side by side behind one fuse."""
    job.loads_on(job.fuse(job.choice("key")), "out", *job.loads("sockets"))


RECIPES = (
    Recipe(
        "interior",
        "Interior lamps",
        "accessory",
        "comfort",
        "Lamps with a permanent feed that any door switch, or their own switch, grounds.",
        "Lamps and their holders get hot.",
        (
            "Always on: a door switch whose case touches the body, or a wire nipped in a hinge.",
            "Flat battery after a week: a door switch that does not open.",
        ),
        (
            Question("lamps", "loads", "Interior lamp", rows=LAMPS, near=("interior", "roof")),
            Question(
                "switch",
                "switch",
                "Interior lamp switch",
                rows=("Interior lamp switch",),
                near=("interior", "dash"),
            ),
            Question(
                "door_left",
                "switch",
                "Door switch left",
                rows=("Door switch",),
                near=("door", "left", "dash"),
                shared=True,
                optional=True,
            ),
            Question(
                "door_right",
                "switch",
                "Door switch right",
                rows=("Door switch",),
                near=("door", "right", "dash"),
                shared=True,
                optional=True,
            ),
            Question(
                "door_more",
                "switch",
                "Another door",
                rows=("Door switch",),
                near=("rear", "cargo"),
                optional=True,
                left_out=True,
            ),
            needs_key("always"),
            FUSE,
        ),
        interior,
    ),
    Recipe(
        "radio",
        "Radio",
        "accessory",
        "comfort",
        "A switched feed for the set, a permanent one for clock and stations.",
        "Battery negative off before the plug goes in.",
        (
            "Forgets its stations: switched and permanent feed are swapped.",
            "Flat battery: the set is on the permanent feed.",
        ),
        (
            Question("radio", "load", "Radio", rows=("Radio",), near=("radio", "dash")),
            needs_key("accessory"),
            FUSE,
            Question("memory_fuse", "fuse", "Memory behind", optional=True),
        ),
        radio,
    ),
    Recipe(
        "cluster",
        "Instrument cluster",
        "accessory",
        "critical",
        "A cluster with run feed, memory feed and lighting, its oil and brake-fluid telltales, "
        "which their sensors ground, and its gauges, which return over their senders.",
        "Try it on the bench before the dash goes in: feed, ground, every lamp, and a resistor in "
        "place of each sender.",
        (
            "A telltale never lights: its sensor has no ground, for it sits on paint or tape.",
            "All telltales glow faintly: the ground of the cluster is missing.",
            "A gauge stands at one end: the wire to its sender is open or on ground.",
        ),
        (
            Question(
                "cluster",
                "load",
                "Instrument cluster",
                rows=("Instrument cluster",),
                near=("cluster", "dash"),
            ),
            Question(
                "oil_switch",
                "switch",
                "Oil-pressure switch",
                rows=("Oil-pressure switch",),
                near=("oil", "engine"),
                optional=True,
            ),
            Question(
                "fluid_switch",
                "switch",
                "Brake-fluid level switch",
                rows=("Brake-fluid level switch",),
                near=("fluid", "bulkhead"),
                optional=True,
                left_out=True,
            ),
            Question(
                "lighting",
                "load",
                "Instrument lamp",
                rows=("Instrument lamp 2.2 W",),
                near=("instrument", "dash"),
                optional=True,
            ),
            replace(LIGHT_SWITCH, optional=True),
            *(
                Question(
                    f"{name}_sender",
                    "sender",
                    f"{name.capitalize()} gauge told by",
                    rows=(SENDER_ROWS[name],),
                    near=(name,),
                    optional=True,
                )
                for name in ("fuel", "temperature")
            ),
            FUSE,
            Question("memory_fuse", "fuse", "Memory behind", optional=True),
        ),
        cluster,
    ),
    Recipe(
        "old-gauges",
        "Gauges behind a stabiliser",
        "accessory",
        "comfort",
        "Old gauges with a slow bimetal live on 10 V in the mean. A stabiliser gives it by "
        "opening and closing its contact; each gauge returns over its sender.",
        "The fuel sender sits in the tank: never put more on it than its gauge lets through.",
        (
            "All gauges read too much: the case of the stabiliser has no ground, so its contact "
            "stays closed.",
            "A voltmeter on its output jumps between 0 and 12 V: that is how it works; the mean "
            "counts.",
            "One gauge reads full or nothing: the wire to its sender is on ground, or open.",
        ),
        (
            *(
                Question(
                    name,
                    "load",
                    f"{name.capitalize()} gauge",
                    rows=("Gauge for 10 V",),
                    near=(name, "dash"),
                    optional=True,
                    left_out=name == "oil",
                )
                for name in ("fuel", "temperature", "oil")
            ),
            Question("fuel_sender", "place", "Fuel sender at", near=("tank", "rear", "luggage")),
            Question("temperature_sender", "place", "Temperature sender at", near=("engine",)),
            Question("oil_sender", "place", "Oil sender at", near=("engine",)),
            FUSE,
        ),
        old_gauges,
    ),
    Recipe(
        "sockets",
        "Power sockets",
        "accessory",
        "comfort",
        "Sockets and chargers behind one fuse.",
        "A socket takes whatever is plugged in: its fuse protects the wire, not the guest.",
        (
            "Fuse blows with two guests at once: give each socket its own.",
            "Flat battery: a socket that is live with the key off.",
        ),
        (
            Question(
                "sockets",
                "loads",
                "Socket",
                rows=("Power socket", "USB charger"),
                near=("socket", "dash"),
            ),
            needs_key("accessory"),
            FUSE,
        ),
        sockets,
    ),
)
