"""Recipes for turn lamps: flasher and hazard, a filament shared with the stop lamps, and cures."""

from dataclasses import replace

from circuitry.design.model import Part
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question
from circuitry.recipes.job import Job
from circuitry.recipes.lamps import LAW, PEDAL, TELLTALES, corner
from circuitry.recipes.recipe import FLASHERS, Recipe

TURNS = ("Turn lamp 21 W", "Turn lamp LED")
SHARED = ("Stop lamp 21 W", "Turn lamp 21 W")
FLASHER_QUESTIONS = (
    Question("flasher", "part", "Flasher that is there", of_kind=("flasher",), optional=True),
    Question("new_flasher", "choice", "Otherwise fit", choices=FLASHERS),
)
TELLTALE_QUESTIONS = tuple(
    corner(f"telltale_{side}", f"Turn telltale {side}", TELLTALES, "turn", side, "dash")
    for side in ("left", "right")
)
REPEATER_QUESTIONS = tuple(
    Question(
        f"more_{side}",
        "loads",
        f"Repeater {side}",
        rows=("Side repeater 5 W", *TURNS),
        near=("repeater", side),
        optional=True,
        left_out=True,
    )
    for side in ("left", "right")
)
WRONG = (
    "Fast flashing: a lamp is missing or draws too little; fit the right lamp, a resistor, or a "
    "flasher that needs no load.",
    "Both sides flash dimly: the ground of one corner is missing.",
    "Nothing flashes with hazards off: the hazard switch breaks the feed; work it a few times.",
)


def turn_and_hazard(job: Job) -> None:
    """Run feed through the hazard switch to the flasher, from there to turn and hazard switch."""
    turn, hazard = job.need_switch("turn_switch"), job.switch("hazard_switch")
    flasher = _flasher(job, turn)
    _feed_flasher(job, flasher, hazard)
    job.feed_once(flasher, "49a", turn, "in")
    for side in ("left", "right"):
        lamps = [job.need_load(f"front_{side}"), job.load(f"rear_{side}")]
        job.loads_on(turn, side, *lamps, *job.loads(f"more_{side}"), job.load(f"telltale_{side}"))
        if hazard is not None:
            job.feed(hazard, side, turn, side)
    if hazard is not None:
        job.feed_once(flasher, "49a", hazard, "49a")


def turn_and_stop(job: Job) -> None:
    """The column switch takes a rear lamp from the stop feed and gives it to the flasher."""
    turn, pedal = job.need_switch("turn_switch"), job.need_switch("pedal")
    hazard = job.switch("hazard_switch")
    flasher = _flasher(job, turn)
    _feed_flasher(job, flasher, hazard)
    job.feed_once(flasher, "49a", turn, "49a")
    job.feed_switch(pedal, "always", "Stop lamps")
    if hazard is None:
        job.feed_once(pedal, "out", turn, "stop")
    else:
        job.feed_once(pedal, "out", hazard, "stop-in")
        job.feed_once(hazard, "stop-out", turn, "stop")
        job.feed_once(flasher, "49a", hazard, "49a")
    for side in ("left", "right"):
        for end in ("rear", "front"):
            lamps = [job.load(f"{end}_{side}")]
            if end == "front":
                lamps.append(job.load(f"telltale_{side}"))
            job.loads_on(turn, f"{end}-{side}", *lamps)
            if hazard is not None:
                job.feed(hazard, f"{end}-{side}", turn, f"{end}-{side}")


def _flasher(job: Job, turn: Part) -> Part:
    there = job.part("flasher")
    kind = job.choice("new_flasher")
    flasher = there or job.add("flasher", "Flasher", job.panel_place(), catalogue=kind)
    job.used["flasher"] = flasher.id
    if job.draft.wires_on(job.terminal(flasher, "49")):
        raise UnusableInput(
            "already-wired",
            flasher.id,
            f"{flasher.name} already flashes another circuit. Choose another, or none to fit a "
            "new one.",
        )
    job.ground(flasher, "31")
    return flasher


def _feed_flasher(job: Job, flasher: Part, hazard: Part | None) -> None:
    if hazard is None:
        job.feed(job.fuse("run", "Turn lamps"), "out", flasher, "49")
        return
    job.feed(job.fuse("run", "Turn lamps"), "out", hazard, "run")
    job.feed(job.fuse("always", "Hazard"), "out", hazard, "live")
    job.feed(hazard, "49", flasher, "49")


def flasher_cure(job: Job) -> None:
    """A resistor beside a lamp on each side, or a flasher that needs no load."""
    flasher = job.part("flasher")
    if flasher is None:
        raise UnusableInput("no-flasher", "flasher", "The build has no flasher to cure. Add one.")
    if job.choice("cure") == "a flasher that needs no load":
        job.draft.parts[flasher.id] = replace(flasher, catalogue=FLASHERS[1])
        return
    missing_w = job.number("missing_w", 1, 60)
    for side in ("left", "right"):
        lamp = job.part(f"lamp_{side}")
        if lamp is None:
            continue
        figures = {"resistance_ohm": round(13.5**2 / missing_w, 1), "rated_w": 50.0}
        resistor = job.add("resistor", f"Load resistor {side}", lamp.place, figures=figures)
        wires = job.draft.wires_on(job.terminal(lamp, "+"))
        if not wires:
            raise UnusableInput(
                "not-wired", lamp.id, f"{lamp.name} is not wired yet. Wire it first."
            )
        job.feed(job.terminal(lamp, "+"), "", resistor, "1")
        job.ground(resistor, "2")


RECIPES = (
    Recipe(
        "turn-and-hazard",
        "Turn and hazard lamps",
        "lighting",
        "safety",
        "A flasher fed from run, or from the battery with the hazard switch on; turn switch, lamps "
        "at the corners and a telltale for each side.",
        LAW,
        WRONG,
        (
            Question(
                "turn_switch",
                "switch",
                "Turn switch",
                rows=("Turn switch",),
                near=("turn", "column"),
            ),
            Question(
                "hazard_switch",
                "switch",
                "Hazard switch",
                rows=("Hazard switch",),
                near=("hazard", "dash"),
                optional=True,
            ),
            *FLASHER_QUESTIONS,
            corner("front_left", "Turn lamp front left", TURNS, "turn", "front", "left"),
            corner("rear_left", "Turn lamp rear left", TURNS, "turn", "rear", "left"),
            corner("front_right", "Turn lamp front right", TURNS, "turn", "front", "right"),
            corner("rear_right", "Turn lamp rear right", TURNS, "turn", "rear", "right"),
            *TELLTALE_QUESTIONS,
            *REPEATER_QUESTIONS,
        ),
        turn_and_hazard,
    ),
    Recipe(
        "turn-and-stop",
        "Turn and stop in one filament",
        "lighting",
        "safety",
        "Rear lamps whose one filament shows stop and turn: the column switch takes the turning "
        "side from the stop feed. Hazards break the stop feed.",
        LAW,
        (
            *WRONG,
            "Both rear lamps flash when braking and turning: a changeover contact of the column "
            "switch is bridged.",
        ),
        (
            Question(
                "turn_switch",
                "switch",
                "Column switch",
                rows=("Turn and stop switch",),
                near=("turn", "column"),
            ),
            PEDAL,
            Question(
                "hazard_switch",
                "switch",
                "Hazard switch",
                rows=("Hazard switch with stop",),
                near=("hazard", "dash"),
                optional=True,
            ),
            *FLASHER_QUESTIONS,
            corner("rear_left", "Turn and stop lamp left", SHARED, "rear", "left"),
            corner("rear_right", "Turn and stop lamp right", SHARED, "rear", "right"),
            corner("front_left", "Turn lamp front left", TURNS, "turn", "front", "left"),
            corner("front_right", "Turn lamp front right", TURNS, "turn", "front", "right"),
            *TELLTALE_QUESTIONS,
        ),
        turn_and_stop,
    ),
    Recipe(
        "flasher-cure",
        "Cure for fast flashing",
        "lighting",
        "safety",
        "LED turn lamps draw too little for a flasher that senses its load: a resistor beside a "
        "lamp on each side, R = V²/P, or a flasher that needs no load.",
        "The resistors get hot enough to burn: metal under them, air over them, no loom on them.",
        (
            "Resistors on plastic or carpet: they reach well over 100 °C while hazards run.",
            "An electronic flasher without its ground never flashes.",
        ),
        (
            Question("flasher", "part", "Flasher", of_kind=("flasher",)),
            Question(
                "cure",
                "choice",
                "Cure",
                choices=("a flasher that needs no load", "a resistor on each side"),
            ),
            Question("missing_w", "number", "Power that is missing, W", usual=21),
            Question(
                "lamp_left",
                "part",
                "Lamp on the left",
                of_kind=("load",),
                near=("turn", "rear", "left"),
            ),
            Question(
                "lamp_right",
                "part",
                "Lamp on the right",
                of_kind=("load",),
                near=("turn", "rear", "right"),
            ),
        ),
        flasher_cure,
    ),
)
