"""Wires for what may come: led to a place behind fuses of their own, into a plug that waits."""

from dataclasses import replace

from circuitry.design.model import Pin
from circuitry.devices.connector import cavity_halves
from circuitry.recipes.ask import Question
from circuitry.recipes.draft import SPARE_WIRES
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import Recipe, needs_key

PLUG = "pin size 16 sealed"
RATINGS = ("10 A", "5 A", "7.5 A")
MOST = 6


def spare_wires(job: Job) -> None:
    """Each behind a fuse of its own, which says what its wire must bear."""
    place, key = job.place("place"), job.choice("key")
    count, rating_a = round(job.number("count", 1, MOST)), float(job.choice("rated").split()[0])
    at = job.draft.place_name(place)
    pins = tuple(Pin(str(number)) for number in range(1, count + 1))
    plug = job.add("connector", f"Spare plug, {at}", place, catalogue=PLUG, pins=pins)
    for pin in pins:
        fuse = job.fuse(key, f"Spare {pin.name}, {at}")
        job.draft.parts[fuse.id] = replace(fuse, figures={**fuse.figures, "rating_a": rating_a})
        job.feed(fuse, "out", plug, cavity_halves(pin.name)[0])


RECIPES = (
    Recipe(
        SPARE_WIRES,
        "Spare wires",
        "accessory",
        "comfort",
        "Wires that wait: each behind a fuse of its own, all in one plug at a place where "
        "something may be wanted one day. A load that is added there is led from the plug, and "
        "the loom stays closed.",
        "Leave the fuses out until something is plugged in: the plug is live with them.",
        (
            "The plug corrodes: a cavity without a wire wants its blind plug, the whole its cap.",
            "Nobody knows what it is: label it at the plug too.",
        ),
        (
            Question("place", "place", "Where it ends", near=("tail", "rear", "luggage")),
            Question("count", "number", "How many wires", usual=2),
            Question("rated", "choice", "Fuse of each", choices=RATINGS),
            needs_key("accessory"),
        ),
        spare_wires,
        stage=2,
    ),
)
