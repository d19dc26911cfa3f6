"""The recipe for a trailer socket: lamps of the trailer tapped from those of the car."""

from circuitry.design.model import Part, Pin
from circuitry.errors import UnusableInput
from circuitry.recipes.ask import Question, is_meant
from circuitry.recipes.job import Job
from circuitry.recipes.recipe import Recipe

CAVITIES = {
    "turn_left": "1",
    "fog": "2",
    "turn_right": "4",
    "tail_right": "5",
    "stop": "6",
    "tail": "7",
}
"""Contacts of the 7-pin socket by function; 3 is ground (ISO 1724)."""
GROUND = "3"
TURN = ("Trailer turn lamp LED with driver", "Turn lamp LED", "Turn lamp 21 W")
TAIL = ("Trailer tail lamps LED with driver", "Tail lamp LED", "Tail lamp 5 W")
STOP = ("Trailer stop lamps LED with driver", "Stop lamp LED", "Stop lamp 21 W")
FOG = ("Rear fog lamp LED", "Rear fog lamp 21 W")


def trailer(job: Job) -> None:
    """Each lamp of the trailer over a contact of the socket to the lamp of the car that it follows;
    one ground for all of them."""
    lamps = {name: lamp for name in CAVITIES if (lamp := job.load(name)) is not None}
    pins = tuple(Pin(str(number)) for number in range(1, 8))
    socket = job.add("connector", "Trailer socket", job.place("place"), pins=pins)
    for name, lamp in lamps.items():
        job.feed(_followed(job, name), "+", socket, f"{CAVITIES[name]}a")
        job.feed(socket, f"{CAVITIES[name]}b", lamp)
        job.feed(lamp, "-", socket, f"{GROUND}b")
    job.ground(socket, f"{GROUND}a")


def _followed(job: Job, name: str) -> Part:
    """The lamp of the car that a lamp of the trailer goes with."""
    question = job.questions[f"{name}_follows"]
    lamp = job.part(question.name)
    wired = lamp is not None and job.draft.wires_on(job.terminal(lamp, "+"))
    if lamp is None or not wired or not is_meant(lamp, question):
        raise UnusableInput(
            "no-lamp-to-follow",
            question.name,
            f"The car has no {question.near[0]} lamp with wires for the trailer's to follow. Write "
            "the lamps of the car first.",
        )
    return lamp


def _lamp(name: str, word: str, title: str, rows: tuple[str, ...], optional: bool) -> Question:
    near = ("trailer", *word.split(), "tail", "rear")
    return Question(name, "load", title, rows, near, optional=optional, left_out=optional)


def _follows(name: str, word: str, title: str) -> Question:
    return Question(
        f"{name}_follows",
        "part",
        title,
        near=tuple(word.split()),
        of_kind=("load",),
    )


RECIPES = (
    Recipe(
        "trailer",
        "Trailer socket",
        "lighting",
        "safety",
        "A 7-pin socket whose lamps follow those of the car: turn, tail, stop and fog, over one "
        "ground of their own.",
        "The lamps of a trailer double what fuses and switches of the car carry.",
        (
            "Trailer lamps glow dimly together: the ground in contact 3.",
            "Turn lamps flash fast or not at all: a flasher that counts its lamps.",
            "A fuse parts when the trailer is plugged in: a bare wire in its plug, or water.",
        ),
        (
            _lamp("turn_left", "turn left", "Trailer turn lamp left", TURN, False),
            _follows("turn_left", "turn rear left", "goes with"),
            _lamp("turn_right", "turn right", "Trailer turn lamp right", TURN, False),
            _follows("turn_right", "turn rear right", "goes with"),
            _lamp("tail", "tail", "Trailer tail lamps", TAIL, False),
            _follows("tail", "tail left", "go with"),
            _lamp("tail_right", "tail right", "Tail lamp right by itself", TAIL, True),
            _follows("tail_right", "tail right", "goes with"),
            _lamp("stop", "stop", "Trailer stop lamps", STOP, False),
            _follows("stop", "stop left", "go with"),
            _lamp("fog", "fog", "Trailer fog lamp", FOG, True),
            _follows("fog", "fog", "goes with"),
            Question("place", "place", "Socket at", near=("tail", "rear", "middle")),
        ),
        trailer,
    ),
)
