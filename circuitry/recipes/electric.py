"""The recipe for the 12 V side of an electric drivetrain: what tells it that it may be live."""

from circuitry.design.model import Part, Pin
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import Recipe
from circuitry.recipes.supply import RINGS

AWAKE = "(ignition or proximity)"
PINS = (
    Pin("supply", "supply"),
    Pin("ground", "ground"),
    Pin("ignition", "input"),
    Pin("proximity", "input to ground"),
    Pin("pilot"),
    Pin("loop-in", "input"),
    Pin("loop-out", "high side", AWAKE, 0.5),
    Pin("precharged", "input to ground"),
    Pin("minus", "low side", "loop_in", 3.0),
    Pin("precharge", "low side", "loop_in and not precharged", 3.0),
    Pin("plus", "low side", "loop_in and precharged", 3.0),
    Pin("pump", "low side", AWAKE, 1.0),
)
"""The loop is fed while the car is switched on or plugged in. Contactors close while it comes back:
minus, then over a resistor, then plus."""


def drivetrain(job: Job) -> None:
    """A control box that drives the coils of three contactors, and lets go of them when the
    interlock loop opens anywhere."""
    place = job.place("place")
    box = job.box("Drive control box", place, *PINS)
    fuse = job.fuse("always")
    job.feed(fuse, "out", box, "supply")
    job.ground(box, "ground")
    job.feed(job.fuse("run", "Drive enable"), "out", box, "ignition")
    for pin, name in (("minus", "Minus"), ("precharge", "Precharge"), ("plus", "Plus")):
        coil = job.new_load("Contactor coil", f"{name} contactor coil", job.place("contactors"))
        job.feed(fuse, "out", coil)
        job.feed(coil, "-", box, pin)
    _loop(job, box)
    _told(job, box, "precharged", job.need_switch("precharge"))
    _charge_port(job, box)
    _pump(job, box)


def _loop(job: Job, box: Part) -> None:
    """A wire that goes through every plug and switch whose opening must stop the car."""
    start: tuple[Part, str] = (box, "loop-out")
    for link in (job.need_switch("service_plug"), job.switch("inertia")):
        if link is not None:
            job.feed(*start, link, "in")
            start = (link, "out")
    job.feed(*start, box, "loop-in")


def _told(job: Job, box: Part, pin: str, switch: Part) -> None:
    job.feed(box, pin, switch, "in")
    job.ground(switch, "out")


def _charge_port(job: Job, box: Part) -> None:
    """Proximity grounds an input while a plug is in; the pilot is a pair with its ground."""
    port = job.box("Charge port", job.place("port"), ("PP", ""), ("CP", ""), ("return", "ground"))
    plug = job.need_switch("plug")
    job.house(plug, port, **{"in": "PP", "out": "return"})
    job.feed(box, "proximity", port, "PP")
    job.feed(box, "pilot", port, "CP")
    job.ground(port, "return")


def _pump(job: Job, box: Part) -> None:
    """The coolant pump runs while anything is live; its reservoir tells when it is low."""
    pump = job.load("coolant_pump")
    if pump is None:
        return
    relay, fuse = job.relay("Coolant pump relay"), job.fuse("always", "Coolant pump")
    job.feed(fuse, "out", relay, "30")
    job.feed(fuse, "out", relay, "86")
    job.feed(relay, "85", box, "pump")
    job.loads_on(relay, "87", pump)
    level = job.switch("level")
    if level is not None:
        lamp = job.new_load("Telltale LED", "Coolant level telltale", job.place("telltale"))
        job.feed(job.fuse("run", "Drive enable"), "out", lamp)
        job.feed(lamp, "-", level, "in")
        job.ground(level, "out")


RECIPES = (
    Recipe(
        "drivetrain",
        "Electric drivetrain, 12 V side",
        "engine",
        "critical",
        "The coils of three contactors, the interlock loop that drops them, charge-port proximity "
        "and pilot, and the coolant pump: what is for 12 V of an electric drivetrain, and that "
        "alone.",
        f"{RINGS} What the contactors switch is above 60 V d.c. and kills. It is for qualified "
        "people with the right tools, and no part of this plan, like the protective conductor of "
        "the charge cable. Pull the service plug, wait, and have it measured before anybody "
        "reaches in.",
        (
            "Nothing closes: the loop is open in one of its plugs. Measure it from end to end.",
            "Closes minus and precharge, and never plus: the signal that says charged is missing.",
            "Drives away with the cable in: proximity is not led to the box.",
        ),
        (
            Question("place", "place", "Control box at", near=("control", "panel", "bulkhead")),
            Question("contactors", "place", "Contactors at", near=("contactor", "rear", "luggage")),
            Question(
                "service_plug",
                "switch",
                "Service plug",
                rows=("Service plug",),
                near=("service", "rear"),
            ),
            Question(
                "inertia",
                "switch",
                "Inertia switch",
                rows=("Inertia switch",),
                near=("inertia", "bulkhead"),
                optional=True,
            ),
            Question(
                "precharge",
                "switch",
                "Says that it is charged",
                rows=("Precharge signal",),
                near=("precharge", "rear"),
            ),
            Question("port", "place", "Charge port at", near=("charge", "rear")),
            Question(
                "plug",
                "switch",
                "Charge plug",
                rows=("Charge plug sensor",),
                near=("charge", "rear"),
            ),
            Question(
                "coolant_pump",
                "load",
                "Coolant pump",
                rows=("Electric water pump",),
                near=("pump", "engine"),
                optional=True,
            ),
            Question(
                "level",
                "switch",
                "Coolant level switch",
                rows=("Brake-fluid level switch",),
                near=("coolant", "engine"),
                optional=True,
            ),
            Question("telltale", "place", "Its telltale at", near=("dash",)),
        ),
        drivetrain,
    ),
)
