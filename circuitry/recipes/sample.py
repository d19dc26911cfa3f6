"""A recipe by itself: written into a small car that has nothing else, for its page of help."""

from functools import cache
from typing import Any

from circuitry.design.model import (
    Body,
    Build,
    Circuit,
    Part,
    Place,
    Run,
    Runs,
    Terminal,
    Way,
    Wire,
)
from circuitry.devices.contact_tables import KEY
from circuitry.recipes.book import RECIPES
from circuitry.recipes.recipe import write_recipe

PLACES = (
    ("front-left", "Front left", 0.3, -0.6),
    ("front-right", "Front right", 0.3, 0.6),
    ("engine", "Engine", 0.9, 0.0),
    ("panel", "Panel", 1.4, 0.3),
    ("dash", "Dash", 1.6, -0.2),
    ("rear-left", "Rear left", 3.3, -0.6),
    ("rear-right", "Rear right", 3.3, 0.6),
)
WAYS = (("battery", 8), ("accessory", 4), ("run", 8))
FEEDS = (
    ("battery.+", "main-fuse.in"),
    ("main-fuse.out", "stud.stud"),
    ("stud.stud", "panel.battery"),
    ("stud.stud", "key.30"),
    ("key.75", "panel.accessory"),
    ("key.15", "panel.run"),
    ("ground.stud", "battery.-"),
)


@cache
def bare_car() -> Build:
    """Battery, main fuse, stud, key, one panel with three buses and one ground point."""
    numbered = [bus for bus, count in WAYS for _ in range(count)]
    family = {"fuse_family": "regular blade"}
    ways = tuple(Way(f"F{number}", bus) for number, bus in enumerate(numbered, 1))
    parts = (
        Part("battery", "battery", "Battery", "engine"),
        Part("main-fuse", "fuse", "Main fuse", "engine", "bolt-down M8"),
        Part("stud", "stud", "Stud", "panel"),
        Part("panel", "panel", "Panel", "panel", figures=family, ways=ways),
        Part("key", "key switch", "Key", "dash", contacts=KEY),
        Part("ground", "ground point", "Ground", "panel"),
        Part(
            "module",
            "module",
            "Module",
            "panel",
            ways=tuple(Way(f"C{number}", "feed") for number in range(1, 5)),
        ),
    )
    places = [Place(identity, name, "cabin", 40.0, x_m, y_m) for identity, name, x_m, y_m in PLACES]
    runs = [
        Run(f"panel-{place.id}", "panel", place.id, 1.0) for place in places if place.id != "panel"
    ]
    feed = Circuit("feed", "Feed", "feed", "critical")
    return Build(
        "Bare car",
        False,
        body=Body(),
        places={place.id: place for place in places},
        runs=Runs({run.id: run for run in runs}),
        parts={part.id: part for part in parts},
        wires=dict(_wire(number, *ends) for number, ends in enumerate(FEEDS, 1)),
        circuits={feed.id: feed},
    )


def _wire(number: int, start: str, end: str) -> tuple[str, Wire]:
    ends = Terminal.parse(start), Terminal.parse(end)
    extra_m = 0.1 if number == 1 else None
    return f"w{number}", Wire(f"w{number}", f"W{number}", *ends, extra_m=extra_m, circuit="feed")


SAMPLE_ANSWERS: dict[str, dict[str, Any]] = {
    "diode-logic": {"sources": ["panel.F1", "panel.F9"]},
    "flasher-cure": {"cure": "a resistor on each side"},
    "glow-plugs": {
        "plugs": [
            {"row": "Glow plug", "place": "engine", "name": f"Glow plug {number}"}
            for number in range(1, 5)
        ]
    },
}
WRITTEN_BEFORE = {
    "flasher-cure": ("turn-and-hazard",),
    "data-bus": ("power-module", "keypad"),
    "sensor": ("control-box",),
    "trailer": ("turn-and-hazard", "side-and-tail", "stop-lamps"),
}
"""What a recipe adds to, and so must be there before it."""


@cache
def sample(recipe_id: str) -> tuple[Build, str]:
    """A recipe written into the bare car, and the circuit that it made."""
    build = bare_car()
    for before in WRITTEN_BEFORE.get(recipe_id, ()):
        build = write_recipe(build, RECIPES[before], {})
    if recipe_id == "diode-logic":
        for number, name in enumerate(("First feed", "Second feed")):
            key = {"key": "always" if number == 0 else "accessory"}
            build = write_recipe(build, RECIPES["sockets"], key, name)
    written = write_recipe(build, RECIPES[recipe_id], SAMPLE_ANSWERS.get(recipe_id, {}))
    return written, next(row for row in written.circuits if row not in build.circuits)
