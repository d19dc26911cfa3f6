"""The words of a proof: cautions by what may hurt, ends of wires, what is seen of a load."""

from collections.abc import Iterable, Iterator

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Terminal, Wire
from circuitry.devices.load import output_word

RINGS_OFF = "Rings and watches off. Battery negative goes on last and comes off first."
NEGATIVE_OFF = "Battery negative is off and stays off for this step."
NEAR_BATTERY = "No sparks near the battery: it gives off gas. Eye protection on."
EXTINGUISHER = "Extinguisher at hand. At smoke: negative lead off first, then look."
AIRBAGS = "Airbag wiring is never probed, and no test current goes into it."
CAUTIONS_BY_KIND = {
    "filament": "Lamps and their holders get hot.",
    "ptc heater": "The element gets hot.",
    "resistor": "The element gets hot.",
    "motor": "A motor starts the moment it is fed. Hands, hair and tools clear.",
    "starter": "The engine turns at once. Out of gear, car held, hands clear.",
    "solenoid": "A mechanism moves at once. Fingers clear.",
    "two-stage solenoid": "A mechanism moves at once. Fingers clear.",
}
FAN = "The fan may start at any moment. Hands and sleeves clear."
FUEL = "Look for fuel leaks before and while it runs. No sparks, extinguisher at hand."
FUEL_SENDER = (
    "The sender in the tank stays unplugged: nothing but its own gauge may put current into it."
)
WIPERS = "Wiper arms off their spindles until the motor has parked."
WINDOW = "Hands and head out of the window: it may move at once."
LEAD_OFF = (
    "Starter's heavy lead off and insulated, battery negative off while it comes off: should it "
    "not refuse, the engine must not turn."
)
BELTS = "Belts and fan turn: no sleeves, no leads near them."
EXHAUST = "Never run it in a closed garage."
LOUD = "It is loud. Ears covered, nobody in front of it."
GLOW = "Glow plugs and ignition are hot or high-voltage: hands off while they are live."
SEEN = {
    "light": "lights",
    "sound": "sounds",
    "speed": "runs",
    "current": "reads",
    "power": "works",
}
UNSEEN = {
    "light": "dark",
    "sound": "silent",
    "speed": "stands",
    "current": "at rest",
    "power": "off",
}
DIM = {"light": "glows", "speed": "runs slowly", "current": "reads little"}


MOVES = ("motor", "starter", "solenoid", "two-stage solenoid")


def is_starter(load: Part) -> bool:
    """Whether a load turns the engine."""
    return catalogue().loads[load.catalogue or ""].kind == "starter"


def moving(loads: Iterable[Part]) -> list[Part]:
    """Those of these loads that move something."""
    rows = catalogue().loads
    return [load for load in loads if rows[load.catalogue or ""].kind in MOVES]


def cautions_of(loads: Iterable[Part]) -> Iterator[str]:
    """What may hurt where these loads come alive, each once."""
    said: dict[str, None] = {}
    for load in loads:
        name = load.catalogue or ""
        kind = catalogue().loads[name].kind
        own = {
            "Wiper": WIPERS,
            "Radiator fan": FAN,
            "Fuel pump": FUEL,
            "Window": WINDOW,
            "Ignition": GLOW,
            "Glow": GLOW,
            "Horn": LOUD,
        }
        special = [words for start, words in own.items() if name.startswith(start)]
        for words in special or [CAUTIONS_BY_KIND.get(kind, "")]:
            if words:
                said.setdefault(words)
    return iter(said)


def seen(load: Part, word: str) -> str:
    """What is seen of a load in a position: by what its truth table says of it."""
    output = output_word(load)
    return {
        "on": SEEN[output],
        "off": UNSEEN[output],
        "dim": DIM.get(output, "works weakly"),
        "flashing": {"light": "flashes", "sound": "sounds on and off"}.get(output, "on and off"),
        "reverse": "runs the other way",
    }[word]


def end_said(build: Build, terminal: Terminal) -> str:
    """A terminal as a builder finds it: ``plug X4, cavity 3``, ``F3 of Front panel``, ``Rear
    module, terminal “rear fog”``."""
    terminal = build.lands(terminal)
    part, name = build.parts[terminal.part], terminal.name
    match part.kind:
        case "battery":
            return f"{part.name} {'positive' if name == '+' else 'negative'}"
        case "connector":
            return f"{part.name}, cavity {name[:-1]}"
        case "panel":
            ways = {way.name for way in part.ways}
            return f"{name} of {part.name}" if name in ways else f"bus {name} of {part.name}"
        case "ground point" | "stud" | "bus bar" | "splice" | "body":
            return part.name
    if "-" in name.strip("-"):
        return f"{part.name}, terminal “{name.replace('-', ' ')}”"
    return f"{part.name}, terminal {name}"


def wire_said(build: Build, wire: Wire) -> str:
    """A wire as a builder tells it from others: its label, size and colour."""
    size = f"{wire.size} " if wire.size else ""
    return f"{wire.label}, {size}{wire.colour}"


def place_said(build: Build, part: Part) -> str:
    """Where a part is."""
    return build.places[part.place].name


def listed(names: Iterable[str], most: int = 12) -> str:
    """Names in one line, the rest counted."""
    rows = list(names)
    more = f" and {len(rows) - most} more" if len(rows) > most else ""
    return ", ".join(rows[:most]) + more
