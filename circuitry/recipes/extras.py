"""Recipes for what some cars have: lamps of the day, a hidden release, a camera for reversing."""

from circuitry.recipes.ask import Question
from circuitry.recipes.job import CHANGEOVER, Job
from circuitry.recipes.lamps import LAW, LIGHT_SWITCH, SIDES, corner, small
from circuitry.recipes.recipe import FUSE, Recipe

RINGS = ("Day lamp ring LED",)


def day_lamps(job: Job) -> None:
    """Lit by the key as long as the side lamps are off: a relay takes them away."""
    light = job.need_switch("light_switch")
    rings = [job.need_load("left"), job.load("right")]
    job.feed_switch(light, "always", "Light switch")
    relay = job.relay("Day lamp relay", CHANGEOVER)
    job.coil(relay, *small(job, light, "side"))
    job.feed(job.fuse("run"), "out", relay, "30")
    job.loads_on(relay, "87a", *rings)


def release(job: Job) -> None:
    """A relay that either button pulls in by grounding its coil: no live wire leaves the car."""
    solenoid, buttons = job.need_load("solenoid"), [job.need_switch("hidden"), job.switch("inside")]
    fuse, relay = job.fuse("always"), job.relay(f"{job.circuit.name} relay")
    job.feed(fuse, "out", relay, "30")
    job.feed(fuse, "out", relay, "86")
    for button in buttons:
        if button is not None:
            job.feed(relay, "85", button, "in")
            job.ground(button, "out")
    job.loads_on(relay, "87", solenoid)


def camera(job: Job) -> None:
    """The screen lives with the key; the gear switch feeds the camera, which wakes the screen."""
    gear, lens, screen = job.need_switch("gear"), job.need_load("camera"), job.load("screen")
    job.feed_switch(gear, "run")
    job.loads_on(gear, "out", lens)
    if screen is not None:
        job.loads_on(job.fuse("run", "Camera screen"), "out", screen)


RECIPES = (
    Recipe(
        "day-lamps",
        "Day lamps",
        "lighting",
        "safety",
        "Rings or strips of LED that are lit with the key on run, and go out when the side lamps "
        "come on.",
        LAW,
        (
            "Lit with the side lamps too: 87 and 87a are swapped.",
            "Never lit: a relay with four pins has no 87a.",
        ),
        (
            LIGHT_SWITCH,
            *(
                corner(
                    side, f"Day lamp {side}", RINGS, "day", side, "front", optional=side != "left"
                )
                for side in SIDES
            ),
            FUSE,
        ),
        day_lamps,
    ),
    Recipe(
        "release",
        "Hidden release",
        "accessory",
        "comfort",
        "A solenoid that opens a boot, a flap or a door without a handle, by a button inside and a "
        "hidden one outside. The buttons ground the coil of a relay: no live wire leads outside.",
        "Fit a cable that opens it by hand: a flat battery leaves no other way in. A door must "
        "open from inside without electricity.",
        (
            "It opens by itself in the wet: water in the hidden button.",
            "It clicks and does not open: the wire is too thin for the pull of the solenoid.",
        ),
        (
            Question(
                "solenoid",
                "load",
                "Release",
                rows=("Release solenoid",),
                near=("release", "rear"),
            ),
            Question(
                "hidden",
                "switch",
                "Hidden button",
                rows=("Push button",),
                near=("hidden", "rear"),
            ),
            Question(
                "inside",
                "switch",
                "Button inside",
                rows=("Push button",),
                near=("release", "dash"),
                optional=True,
            ),
            FUSE,
        ),
        release,
    ),
    Recipe(
        "camera",
        "Reversing camera",
        "accessory",
        "comfort",
        "A camera that the gear switch feeds, and a screen that lives with the key and shows it.",
        "A picture is no rear view mirror, and its delay hides what moves.",
        (
            "The picture rolls when the engine runs: the camera's ground is led to the body.",
            "No picture: the gear switch feeds the lamps and not the camera.",
        ),
        (
            Question(
                "gear", "switch", "Gear switch", rows=("Gear switch",), near=("gear",), shared=True
            ),
            corner("camera", "Reversing camera", ("Reversing camera",), "camera", "rear"),
            corner("screen", "Camera screen", ("Camera screen",), "screen", "dash", optional=True),
        ),
        camera,
    ),
)
