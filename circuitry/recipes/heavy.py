"""The recipe for a load of many amps: its own way from the battery, and back to it."""

from circuitry.catalogue import catalogue
from circuitry.design.model import Part, Terminal
from circuitry.devices.load import rated_current_a
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import Recipe, needs_key

LOADS = ("Winch", "Inverter 300 W")
RESERVE = 1.1
"""Times its current that a contact is to bear."""
RELAYS = ("high-current 70 A", "contactor continuous 100 A", "contactor continuous 200 A")
FAMILIES = ("maxi blade", "bolt-down M5", "bolt-down M8")
RETURNED_FROM_A = 40.0
"""A load of so much gets a cable back to the battery instead of the body."""


def heavy(job: Job) -> None:
    """Battery, fuse, contactor, load, and back by cable; the dash carries only the coil."""
    load = job.need_load("load")
    switch = job.switch("switch", f"{load.name} switch")
    amps = rated_current_a(load) * RESERVE
    source = job.behind_isolators()
    place = job.draft.parts[source.part].place
    fuse = job.line_fuse(f"{load.name} fuse", place, _family(load, amps))
    job.draft.add_wire(source, Terminal(fuse.id, "in"), job.circuit, "red")
    job.keep_short(Terminal(fuse.id, "in"))
    relay = job.relay(f"{load.name} relay", _relay(load, amps), place)
    job.feed(fuse, "out", relay, "30")
    job.feed(relay, "87", load)
    if switch is None:
        job.coil(relay, job.fuse(job.choice("key"), f"{load.name} relay"), "out")
    else:
        job.feed_switch(switch, job.choice("key"), f"{load.name} switch")
        job.coil(relay, switch, "out")
    if amps >= RETURNED_FROM_A:
        minus = Terminal(job.battery.id, "-")
        job.draft.add_wire(job.terminal(load, "-"), minus, job.circuit, "black")
    else:
        job.ground(load)


def _relay(load: Part, amps: float) -> str:
    rows = catalogue().relays
    for kind in RELAYS:
        if rows[kind].no_continuous_a_23c >= amps:
            return kind
    raise _too_much(load, amps)


def _family(load: Part, amps: float) -> str:
    for family in FAMILIES:
        if max(row.rating_a for row in catalogue().fuses[family]) >= amps / 0.75:
            return family
    raise _too_much(load, amps)


def _too_much(load: Part, amps: float) -> UnusableInput:
    return UnusableInput(
        "too-heavy",
        load.id,
        f"No relay of the catalogue bears {amps:.0f} A for {load.name}. Its maker gives it a "
        "contactor of its own: wire that by hand, and its coil as a load.",
    )


RECIPES = (
    Recipe(
        "heavy-load",
        "Heavy load from the battery",
        "accessory",
        "comfort",
        "A winch or an inverter with its own fuse at the battery, a contactor, and a cable back: "
        "the panel and the body carry none of it.",
        "Hundreds of amps burn, and a winch pulls: disconnect it before you work on it.",
        (
            "Slow and hot cables: thin ones, or a return through the body.",
            "Does not stop: contacts welded by a low battery. Pull the fuse.",
        ),
        (
            Question("load", "load", "Winch", rows=LOADS, near=("", "nose", "front")),
            Question("switch", "switch", "Switch", ("Switch, off and on",), ("winch", "dash")),
            needs_key("run"),
        ),
        heavy,
        named_after="load",
    ),
)
