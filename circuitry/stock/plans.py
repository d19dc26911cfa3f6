"""What is drafted in which order: the recipes, why a good builder wires them so, and when the car
wants each of them."""

from collections.abc import Callable
from dataclasses import dataclass

from circuitry.design.model import Build, Part
from circuitry.recipes.ask import Question, is_meant, suiting
from circuitry.recipes.recipe import Recipe


@dataclass(frozen=True)
class Plan:
    """A recipe of the draft, why a good builder wires it so, and when the car wants it."""

    recipe: str
    why: str
    wanted: Callable[[Build, Recipe], bool]
    loads: tuple[str, ...] = ()
    """Where it is written again for each: the catalogue rows that its first question takes."""


def is_listed(build: Build, recipe: Recipe) -> bool:
    """Whether the list has a load without wires that it must have, or any where it must have none,
    and none that it must have stands wired already: a telltale makes no headlamps, and what is
    left of a function is no function."""
    needed = [row for row in recipe.questions if row.kind == "load" and not row.optional]
    stands = any(_stands(build, row) for row in needed if not listed(build, row))
    return not stands and any(listed(build, question) for question in needed or recipe.questions)


def _stands(build: Build, question: Question) -> bool:
    """Whether the car has what a question asks for, with its wires."""
    loads = (part for part in build.parts_of_kind("load") if part.circuit is not None)
    return any(part.catalogue in question.rows and is_meant(part, question) for part in loads)


def listed(build: Build, question: Question) -> list[Part]:
    """The loads of the list that a question means and that have no wires yet."""
    if question.kind not in ("load", "loads"):
        return []
    return [part for part in suiting(build, question) if is_meant(part, question)]


def _wants_isolator(build: Build, recipe: Recipe) -> bool:
    return not build.parts_of_kind("isolator")


def _wants_alternator(build: Build, recipe: Recipe) -> bool:
    rows = {load.catalogue or "" for load in build.parts_of_kind("load")}
    engine = any(word in row for row in rows for word in ("Starter", "Ignition coil", "Fuel pump"))
    return engine and not build.parts_of_kind("alternator")


PLANS = (
    Plan(
        "main-feed",
        "An isolator beside the battery makes the car safe to work on and stops its engine.",
        _wants_isolator,
    ),
    Plan("charging", "An engine needs an alternator, which is not in the list.", _wants_alternator),
    Plan(
        "starter",
        "Straight from the battery by heavy cable; only its solenoid is worked by the key.",
        is_listed,
    ),
    Plan(
        "headlamps",
        "Fed where they are always live, so that the key cannot leave the car dark.",
        is_listed,
    ),
    Plan(
        "side-and-tail",
        "Alive with the key off, for a car that stands on the road at night.",
        is_listed,
    ),
    Plan(
        "stop-lamps",
        "Behind a fuse of their own: nothing else may take the stop lamps along.",
        is_listed,
    ),
    Plan(
        "turn-and-hazard",
        "Turn lamps by the key, hazard lamps without it, over one flasher.",
        is_listed,
    ),
    Plan("reversing", "Live with the key, through a switch on the gearbox.", is_listed),
    Plan("fogs", "Only with the other lamps on, so that they cannot be forgotten.", is_listed),
    Plan(
        "trailer",
        "Each lamp of the trailer follows one of the car, over one plug and one ground.",
        is_listed,
    ),
    Plan("fan", "Through a relay: it takes more than a thermostat bears.", is_listed),
    Plan("blower", "Its resistors sit in the air; the switch carries the motor.", is_listed),
    Plan("wipers", "With park, so that they stop where they do not hide the road.", is_listed),
    Plan("horn", "Through a relay, and alive with the key off.", is_listed),
    Plan(
        "fuel-pump",
        "Stops with the engine, and when the car is hit.",
        is_listed,
    ),
    Plan(
        "engine",
        "Control box, coils and injectors behind one main relay, never behind comfort.",
        is_listed,
    ),
    Plan(
        "reversed-by-switch",
        "A window goes both ways: its switch turns the motor round.",
        is_listed,
        ("Window motor",),
    ),
    Plan(
        "reversed-by-relays",
        "Locks go both ways, together, worked by two relays.",
        is_listed,
        ("Door lock actuator",),
    ),
    Plan(
        "glow-plugs",
        "Straight from the stud through a relay of many amps, as long as a button is held.",
        is_listed,
    ),
    Plan(
        "heavy-load",
        "Its own fuse at the battery and a cable back: no panel bears so much.",
        is_listed,
        ("Winch", "Inverter 300 W"),
    ),
    Plan(
        "ballast-coil",
        "Behind its resistor, which the starter bridges: the coil is made for 8 V.",
        is_listed,
    ),
    Plan(
        "drivetrain",
        "Its contactors let go when the loop opens anywhere; what is above 60 V is not here.",
        is_listed,
    ),
    Plan(
        "old-gauges",
        "Behind a stabiliser, for they live on 10 V in the mean.",
        is_listed,
    ),
    Plan(
        "cluster",
        "With its telltales and gauges, and a memory that the key does not cut.",
        is_listed,
    ),
    Plan("interior", "By the doors, and by a switch of its own.", is_listed),
    Plan("radio", "From accessory, with its memory always live.", is_listed),
    Plan("sockets", "What people plug in sits with nothing that the car needs.", is_listed),
)
FIRST_ON_MODULES = "headlamps"
"""Before this come only heavy currents, which no channel bears."""
CABLES_WHY = "No return over sheet metal: each ground point is led to the battery by cable."
FAR_PANEL_WHY = "One heavy wire to the other end, and short thin ones from there to its loads."
MODULE_WHY = "Near its loads, so that many thin wires are short and one thick wire is long."
KEYPAD_WHY = "Two wires to the dash in place of one for each switch."
BUS_WHY = "What one module knows, the other knows; 120 Ω across both ends."
STAYS = "It takes more than a channel bears, and stays on a fuse and a relay."
ON_CHANNELS = {
    "headlamps": "Each beam of each side on a channel of its own: no one of them darkens the road.",
    "side-and-tail": "Front and rear from the module beside them; alive with the key off.",
    "stop-lamps": "The pedal is led to the very module that feeds them; they hang on no bus.",
    "turn-and-hazard": "Channels flash by themselves: no flasher, and LED lamps are as good.",
    "wipers": "The slow channel stays on until the park contact grounds its input.",
    "horn": "A channel for a relay and a fuse; the push grounds its input.",
    "fuel-pump": "On while the engine runs or is primed, and never after a crash.",
    "fan": "One channel by thermostat or override.",
    "reversed-by-relays": "Two half-bridges turn them both ways without relays.",
}
NO_PLACE = "A wire needs two ends: nobody knows how long these would be."
PLACE_IT = "Give them a place in the list, then draft again."
AS_LISTED = "As the list asks: no function of the house knows it."
