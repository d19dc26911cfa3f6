"""The recipe for what keeps an engine running: one main relay, and a fuse for each behind it."""

from circuitry.design.model import Fitted, Part
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.protection import ENGINE_BUS, HEAVY_RELAY
from circuitry.recipes.recipe import FUSE, Recipe
from circuitry.recipes.supply import key_switch

ASKED = ("box", "coils", "injectors", "lambda_heater", "idle_valve")
SPARE_WAYS = 2
CARBURETTOR = ("Fuel pump carburettor",)
"""What tells an engine without injection: it has the coil alone."""


def engine(job: Job) -> None:
    """A relay that the key pulls in feeds a panel of its own, and that everything the engine needs.

    So it lives or dies together, the key carries a coil only, and one fuse that parts leaves the
    others alone.
    """
    loads = [load for name in ASKED if (load := job.load(name)) is not None]
    if not loads:
        loads = [job.need_load("coils")]
    fuse = job.fuse_at_source("Engine fuse", job.panel_place(), "maxi blade")
    relay = job.relay("Engine main relay", HEAVY_RELAY)
    panel = _panel(job, len(loads))
    job.feed(fuse, "out", relay, "30")
    job.feed(relay, "87", panel, panel.ways[0].bus)
    job.coil(relay, job.fuse("run", "Engine main relay"), "out")
    for load, way in zip(loads, panel.ways, strict=False):
        family = str(panel.figures["fuse_family"])
        fitted = Fitted(panel.id, way.name)
        own = job.add(
            "fuse", f"{way.name} {load.name}", panel.place, catalogue=family, fitted=fitted
        )
        job.loads_on(own, "out", load)


def glow_plugs(job: Job) -> None:
    """A relay of many amps straight from the stud, as long as the button is held."""
    plugs, button = job.loads("plugs"), job.need_switch("button")
    fuse = job.fuse_at_source("Glow plug fuse", job.panel_place(), "maxi blade")
    relay = job.relay("Glow plug relay", HEAVY_RELAY)
    job.feed(fuse, "out", relay, "30")
    job.feed_switch(button, "run", "Preheat")
    job.coil(relay, button, "out")
    job.loads_on(relay, "87", *plugs)


def ballast(job: Job) -> None:
    """The coil over a resistor while the engine runs, and straight from the fuse while it cranks:
    a battery that sags to 9 V then still gives the coil what it is made for."""
    coil, fuse = job.need_load("coil"), job.fuse("run")
    figures = {"resistance_ohm": job.number("ballast_ohm", 0.5, 5.0), "rated_w": 50.0}
    resistor = job.add("resistor", "Ballast resistor", coil.place, figures=figures)
    bypass = job.relay("Ballast bypass relay")
    job.feed(fuse, "out", resistor, "1")
    job.feed(resistor, "2", coil)
    job.feed(fuse, "out", bypass, "30")
    job.feed(bypass, "87", coil)
    job.coil(bypass, key_switch(job), "50")
    job.ground(coil)


def _panel(job: Job, loads: int) -> Part:
    """A panel for the engine beside the other, with ways to spare."""
    buses = [ENGINE_BUS] * (loads + SPARE_WAYS)
    return job.panel("Engine panel", job.panel_place(), "E", buses)


def _asked(
    name: str, word: str, title: str, *rows: str, left_out_with: tuple[str, ...] = CARBURETTOR
) -> Question:
    near = (word, "engine", "bulkhead")
    return Question(
        name, "load", title, rows=rows, near=near, optional=True, left_out_with=left_out_with
    )


RECIPES = (
    Recipe(
        "engine",
        "Engine electronics",
        "engine",
        "critical",
        "Control box, coils, injectors and heaters, each behind its own fuse, and all behind one "
        "main relay that the key pulls in. An engine with a carburettor has the coil alone.",
        "Coils spark and injectors spray when the key is turned: stand clear, pump off.",
        (
            "Stops and starts by itself: the main relay, or its coil's ground.",
            "Cranks and does not fire: the fuse of the coils, or a relay fed from accessory.",
        ),
        (
            _asked("box", "control", "Control box", "Engine control box"),
            _asked(
                "coils",
                "coil",
                "Ignition coils",
                "Ignition coils set of four",
                "Ignition coil single",
                left_out_with=(),
            ),
            _asked("injectors", "injector", "Injectors", "Injectors set of four"),
            _asked("lambda_heater", "lambda", "Lambda heater", "Lambda heater"),
            _asked("idle_valve", "idle", "Idle valve", "Idle valve"),
        ),
        engine,
    ),
    Recipe(
        "ballast-coil",
        "Ignition coil with ballast",
        "engine",
        "critical",
        "A coil for 8 V behind a resistor, which a relay bridges while the starter turns.",
        "The resistor gets hot enough to burn paint and fingers; the coil gives thousands of "
        "volts with the key on. Stand clear.",
        (
            "Fires while cranking and dies as the key springs back: the resistor is open.",
            "Coil gets hot: a coil for 12 V needs no resistor, one for 8 V always does.",
            "Hard to start when cold: the bridge over the resistor does not close.",
        ),
        (
            Question(
                "coil",
                "load",
                "Ignition coil",
                rows=("Ignition coil for a ballast resistor",),
                near=("coil", "engine", "bulkhead"),
            ),
            Question("ballast_ohm", "number", "Ballast, Ω", usual=1.5),
            FUSE,
        ),
        ballast,
    ),
    Recipe(
        "glow-plugs",
        "Glow plugs",
        "engine",
        "critical",
        "The plugs of a diesel engine behind one relay and one large fuse, alive while a button is "
        "held with the key on run.",
        "Glow plugs get red hot, and take as much as a headlamp each: hold the button for seconds.",
        (
            "Nothing: the large fuse, or the ground of the engine.",
            "Starts badly on a cold day: one plug is open; each takes the same, measure them one "
            "by one.",
        ),
        (
            Question("plugs", "loads", "Glow plug", rows=("Glow plug",), near=("glow", "engine")),
            Question("button", "switch", "Preheat button", ("Push button",), ("preheat", "dash")),
        ),
        glow_plugs,
    ),
)
