"""Recipes for what gives or tells of current beside battery and alternator: a second battery, a
solar panel, a d.c. converter, and an ammeter in the main feed."""

from dataclasses import replace

from circuitry.design.model import Part, Terminal, Wire
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import Recipe
from circuitry.recipes.supply import RINGS

AUXILIARY = ("Power socket", "USB charger", "Interior lamp 10 W", "Courtesy lamp 5 W")
BEFORE_THE_FEED = ("fuse", "isolator", "battery")
"""Kinds from which the wire comes that feeds the main stud."""


def second_battery(job: Job) -> None:
    """A fuse at each battery, and between them a relay that joins them while they are charged."""
    place, loads = job.place("place"), job.loads("loads")
    source = job.behind_isolators()
    here = job.draft.parts[source.part].place
    capacity_ah = job.number("capacity_ah", 1.0, 400.0)
    battery = job.add(
        "second battery", "Second battery", place, figures={"capacity_ah": capacity_ah}
    )
    first = _at_battery(job, source, "Split-charge fuse", here, "maxi blade")
    relay = job.add("split-charge relay", "Split-charge relay", here)
    job.feed(first, "out", relay, "in")
    job.ground(relay, "ground")
    second = _at_battery(job, Terminal(battery.id, "+"), "Second battery fuse", place, "maxi blade")
    stud = job.add("stud", "Second battery stud", place)
    job.feed(relay, "out", stud, "stud")
    job.feed(second, "out", stud, "stud")
    job.ground(battery, "-", by_ring=True)
    if loads:
        own = job.line_fuse(f"{job.circuit.name} loads", place)
        job.feed(stud, "stud", own, "in")
        job.loads_on(own, "out", *loads)


def _at_battery(job: Job, source: Terminal, name: str, place: str, family: str) -> Part:
    """A fuse as near as can be to a battery's post."""
    fuse = job.line_fuse(name, place, family)
    job.draft.add_wire(source, Terminal(fuse.id, "in"), job.circuit, "red")
    job.keep_short(Terminal(fuse.id, "in"))
    return fuse


def solar(job: Job) -> None:
    """Panel and controller straight on the battery, so that it is charged with all else off."""
    figures = {"rated_w": job.number("rated_w", 1.0, 400.0)}
    panel = job.add("solar panel", "Solar panel", job.place("place"), figures=figures)
    battery = job.battery
    fuse = _at_battery(job, Terminal(battery.id, "+"), "Solar fuse", battery.place, "regular blade")
    job.feed(fuse, "out", panel, "+")
    job.ground(panel, "-")


def converter(job: Job) -> None:
    """The converter's output over a fuse at the battery; the key enables it."""
    figures = {"rated_a": job.number("rated_a", 5.0, 400.0)}
    unit = job.add("converter", "D.c. converter", job.place("place"), figures=figures)
    source = job.behind_isolators()
    here = job.draft.parts[source.part].place
    fuse = _at_battery(job, source, "Converter fuse", here, "bolt-down M8")
    job.draft.add_wire(Terminal(fuse.id, "out"), Terminal(unit.id, "+"), job.circuit, "red")
    job.ground(unit, "-", by_ring=True)
    job.feed(job.fuse("run", "Converter enable"), "out", unit, "enable")


def ammeter(job: Job) -> None:
    """The wire that feeds the main stud is parted, and led over the meter."""
    stud = job.main_stud()
    feeding = _feeding(job, stud)
    meter = job.add(
        "ammeter",
        "Ammeter",
        job.place("place"),
        figures={"scale_a": job.number("scale_a", 10.0, 200.0)},
    )
    moved = Terminal(meter.id, "in")
    here = {"to_terminal": moved} if feeding.to_terminal == stud else {"from_terminal": moved}
    job.draft.wires[feeding.id] = replace(feeding, extra_m=None, **here)  # type: ignore[arg-type]
    job.draft.add_wire(Terminal(meter.id, "out"), stud, job.circuit, "red")


def _feeding(job: Job, stud: Terminal) -> Wire:
    for wire in job.draft.wires_on(stud):
        other = wire.from_terminal if wire.to_terminal == stud else wire.to_terminal
        part = job.draft.parts[other.part]
        first = part.kind in BEFORE_THE_FEED and (part.kind != "fuse" or other.name == "out")
        if first and wire.circuit != job.circuit.id:
            return wire
    raise UnusableInput(
        "no-main-feed",
        stud.part,
        "There is no stud or bar that one wire from the battery feeds, so there is nothing that an "
        "ammeter could stand in. Add a main fuse and a stud behind it first.",
    )


RECIPES = (
    Recipe(
        "second-battery",
        "Second battery",
        "feed",
        "comfort",
        "A battery for what is on while the car stands. A relay joins it to the first while that "
        "is being charged, and parts them when it is not, so that the car still starts.",
        f"{RINGS} The isolator of the car does not cut the second battery: it stays live, and its "
        "own lead comes off too before you work. A battery in the cabin is vented to the outside.",
        (
            "Never charged: the relay has no ground, or the wire is so thin that it sees too "
            "little.",
            "Clicks in and out: a discharged battery pulls the first one down; thicker cable.",
            "Both flat: the relay is welded.",
        ),
        (
            Question("place", "place", "Second battery at", near=("luggage", "rear")),
            Question("capacity_ah", "number", "Capacity, Ah", usual=60),
            Question(
                "loads",
                "loads",
                "On it",
                rows=AUXILIARY,
                near=("auxiliary", "rear"),
                optional=True,
            ),
        ),
        second_battery,
    ),
    Recipe(
        "solar",
        "Solar top-up",
        "feed",
        "comfort",
        "A small panel with its controller keeps the battery full while the car stands.",
        "It gives as long as there is light, with the isolator off too: cover it, or pull its "
        "fuse, before you work.",
        (
            "Battery boils dry in summer: a panel without its controller.",
            "Does nothing: it sits behind the isolator, which is off.",
        ),
        (
            Question("place", "place", "Panel at", near=("roof", "rear", "luggage")),
            Question("rated_w", "number", "Rating, W", usual=20),
        ),
        solar,
    ),
    Recipe(
        "converter",
        "D.c. converter in place of an alternator",
        "feed",
        "critical",
        "In a car with an electric drivetrain a converter feeds the 12 V side from the traction "
        "battery. Here is its 12 V side: output, fuse at the battery, and the key that enables it.",
        f"{RINGS} Its other side is above 60 V d.c., which kills: it is for qualified people, "
        "and no part of this plan.",
        (
            "12 V battery goes flat while driving: the enable is not fed.",
            "Fuse at the battery blows: the output is reversed.",
        ),
        (
            Question("place", "place", "Converter at", near=("converter", "engine", "bulkhead")),
            Question("rated_a", "number", "Rated current, A", usual=100),
        ),
        converter,
    ),
    Recipe(
        "ammeter",
        "Ammeter in the main feed",
        "feed",
        "comfort",
        "An ammeter as old cars had it: everything but the starter flows through it.",
        f"{RINGS} The thickest wires of the car then end behind the dash, live as far as the main "
        "fuse lets them be.",
        (
            "Needle at the stop: more is on than its scale has.",
            "Car dead and smell of burning at the dash: a loose nut on the meter.",
        ),
        (
            Question("place", "place", "Ammeter at", near=("dash",)),
            Question("scale_a", "number", "Scale to, A", usual=60),
        ),
        ammeter,
    ),
)
