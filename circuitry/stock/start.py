"""Start from a kind of car: a first stock list with places, runs and a feed, to be corrected."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from circuitry.build.checks import check
from circuitry.build.document import read_thing
from circuitry.build.model import ENGINE_PLACES, STYLES, Body, Build, Place, Run, Runs
from circuitry.build.routes import drawn_m
from circuitry.errors import UnusableInput
from circuitry.stock.cells import TypedRow, set_cells
from circuitry.stock.feed import with_feed

SHELLS = ("plastic on a frame", "steel", "aluminium")
BATTERY_PLACES = ("engine bay", "cabin", "luggage")
OPTIONS = (
    "heater",
    "wipers",
    "electric windows",
    "central locks",
    "electric fan",
    "injection",
    "audio",
    "power sockets",
    "worklights",
    "tow socket",
)
GUESS = 1.15
SIZES_M = {
    "open two-seater": (3.6, 1.6),
    "coupé": (4.1, 1.7),
    "saloon": (4.3, 1.7),
    "estate": (4.5, 1.7),
    "van": (4.4, 1.8),
    "pickup": (4.8, 1.8),
    "buggy": (3.2, 1.6),
}
OPEN_STYLES = ("open two-seater", "buggy")


@dataclass(frozen=True)
class KindOfCar:
    """What the builder says of a car before anything is listed.

    ``length_m`` and ``width_m`` None take those usual for the style.
    """

    name: str
    style: str = "open two-seater"
    shell: str = "plastic on a frame"
    seats: int = 2
    doors: int = 2
    engine: str = "front"
    battery: str = "luggage"
    road_lamps: bool = True
    options: tuple[str, ...] = field(default=())
    length_m: float | None = None
    width_m: float | None = None
    conductors: str = "metric"


def start(car: KindOfCar) -> Build:
    """The first build of a car: body, places, guessed runs, feed, grounds, and the stock list.

    Every load carries how it is usually wanted and waits to be wired. Raises UnusableInput.
    """
    _check(car)
    body = _body(car)
    places = {place.id: place for place in _places(car, body)}
    runs = Runs({run.id: run for run in _runs(places)})
    build = Build(car.name, car.shell != SHELLS[0], body=body, places=places, runs=runs)
    build = replace(build, policy=replace(build.policy, conductors=car.conductors))
    build = with_feed(build, _battery_place(car))
    rows = [TypedRow(None, cells) for cells in _rows(car, build)]
    build = set_cells(build, rows)
    check(build)
    return build


def _check(car: KindOfCar) -> None:
    allowed: Mapping[str, tuple[str, tuple[str, ...]]] = {
        "style": (car.style, STYLES),
        "shell": (car.shell, SHELLS),
        "engine": (car.engine, ENGINE_PLACES),
        "battery": (car.battery, BATTERY_PLACES),
        "conductors": (car.conductors, ("metric", "awg")),
    }
    chosen = [("options", (option, OPTIONS)) for option in car.options]
    for name, (value, known) in [*allowed.items(), *chosen]:
        if value not in known:
            raise UnusableInput(
                "bad-answer", name, f"{name}: “{value}” is not one of {', '.join(known)}."
            )
    if not car.name.strip():
        raise UnusableInput("bad-answer", "name", "Give the build a name.")


def _body(car: KindOfCar) -> Body:
    length_m, width_m = SIZES_M[car.style]
    length_m, width_m = car.length_m or length_m, car.width_m or width_m
    axles = {"front_axle_m": round(0.2 * length_m, 2), "rear_axle_m": round(0.8 * length_m, 2)}
    figures = {"length_m": length_m, "width_m": width_m, **axles}
    words = {"style": car.style, "engine": car.engine, "doors": car.doors}
    return read_thing(Body, {**figures, **words})


def _battery_place(car: KindOfCar) -> str:
    return {"engine bay": "engine", "cabin": "tunnel", "luggage": "luggage"}[car.battery]


# Name, zone, ambient °C, share of the length, share of the half width to the right, level, wet.
Row = tuple[str, str, float, float, float, str, bool]
PLACES: Mapping[str, Row] = {
    "front-left": ("Front left lamp", "exterior", 40, 0.06, -0.75, "waist", True),
    "front-right": ("Front right lamp", "exterior", 40, 0.06, 0.75, "waist", True),
    "nose": ("Nose, behind the radiator", "exterior", 60, 0.1, 0.0, "waist", True),
    "bulkhead": ("Bulkhead, front side", "engine bay", 60, 0.32, -0.1, "waist", True),
    "panel-shelf": ("Panel shelf", "cabin", 40, 0.39, -0.5, "waist", False),
    "dash": ("Dash", "cabin", 40, 0.41, 0.15, "waist", False),
    "column": ("Steering column", "cabin", 40, 0.44, 0.45, "waist", False),
    "pedals": ("Pedal box", "cabin", 40, 0.36, 0.45, "floor", False),
    "tunnel": ("Tunnel, behind the lever", "cabin", 40, 0.55, 0.0, "floor", False),
    "luggage": ("Luggage space", "luggage", 35, 0.84, 0.2, "floor", False),
    "tank": ("Fuel tank", "underbody", 40, 0.78, -0.4, "floor", True),
    "rear": ("Tail, middle", "exterior", 35, 0.96, 0.0, "waist", True),
    "rear-left": ("Rear left lamp", "exterior", 35, 0.96, -0.8, "waist", True),
    "rear-right": ("Rear right lamp", "exterior", 35, 0.96, 0.8, "waist", True),
    "roof": ("Roof, middle", "cabin", 45, 0.5, 0.3, "roof", False),
    "door-left": ("Left door", "door", 40, 0.5, -0.95, "waist", True),
    "door-right": ("Right door", "door", 40, 0.5, 0.95, "waist", True),
}
ENGINE_SHARE = {"front": 0.21, "middle": 0.7, "rear": 0.88}
ENGINE_JOINS = {"front": "bulkhead", "middle": "tunnel", "rear": "luggage"}
JOINS = (
    ("nose", "front-left"),
    ("nose", "front-right"),
    ("bulkhead", "nose"),
    ("panel-shelf", "bulkhead"),
    ("panel-shelf", "dash"),
    ("dash", "column"),
    ("panel-shelf", "pedals"),
    ("panel-shelf", "tunnel"),
    ("tunnel", "luggage"),
    ("luggage", "tank"),
    ("luggage", "rear"),
    ("rear", "rear-left"),
    ("rear", "rear-right"),
    ("dash", "roof"),
    ("panel-shelf", "door-left"),
    ("dash", "door-right"),
)


def _places(car: KindOfCar, body: Body) -> Iterator[Place]:
    for identity, (name, zone, ambient_c, along, across, level, wet) in PLACES.items():
        closed_only = identity == "roof" and car.style in OPEN_STYLES
        doorless = identity.startswith("door") and not (car.doors and _in_doors(car))
        if closed_only or doorless:
            continue
        x_m, y_m = along * body.length_m, across * body.width_m / 2
        hot = identity == "nose" and car.engine == "front"
        yield Place(
            identity,
            name,
            "engine bay hot" if hot else zone,
            80.0 if hot else ambient_c,
            round(x_m, 2),
            round(y_m, 2),
            wet,
            level,
        )
    x_m = round(ENGINE_SHARE[car.engine] * body.length_m, 2)
    yield Place("engine", "Engine", "engine bay hot", 90.0, x_m, 0.15, True)


def _in_doors(car: KindOfCar) -> bool:
    return bool({"electric windows", "central locks"} & set(car.options))


def _runs(places: Mapping[str, Place]) -> Iterator[Run]:
    engine_x_m = places["engine"].x_m
    engine = "front"
    if engine_x_m > places["tunnel"].x_m:
        engine = "rear" if engine_x_m > places["luggage"].x_m else "middle"
    for one, other in (*JOINS, (ENGINE_JOINS[engine], "engine")):
        if one not in places or other not in places:
            continue
        first, last = places[one], places[other]
        guess_m = max(round(GUESS * drawn_m(first, last) / 0.05) * 0.05, 0.2)
        passes = []
        if "engine" in (one, other) or "hot" in first.zone + last.zone:
            passes.append("hot part")
        if {one, other} == {"panel-shelf", "bulkhead"}:
            passes.append("bulkhead")
        if "door" in (first.zone, last.zone):
            passes.append("moving hinge")
        cover = "convoluted tube" if first.wet or last.wet else "tape"
        yield Run(
            f"{one}-to-{other}",
            one,
            other,
            round(guess_m, 2),
            cover,
            tuple(passes),
            measured=False,
            hole_mm=30.0 if "bulkhead" in passes else None,
            hole_fit="grommet" if "bulkhead" in passes else "none",
        )


# Name, what it is, place, live from, switched by, through, state.
Line = tuple[str, str, str, str, str, str, str]
SWITCHES = (
    ("Light switch", "Light switch, side and head", "dash"),
    ("Dip switch", "Dip switch", "column"),
    ("Turn switch", "Turn switch", "column"),
    ("Hazard switch", "Switch, off and on", "dash"),
    ("Brake pedal", "Pedal switch", "pedals"),
    ("Reversing switch", "Gear switch", "engine"),
    ("Horn push", "Push button", "column"),
)
ROAD_LAMPS: tuple[Line, ...] = (
    *(
        (
            f"Dipped beam {side}",
            "Dipped beam halogen 55 W",
            f"front-{side}",
            "always",
            "Light switch, head",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Main beam {side}",
            "Main beam halogen 60 W",
            f"front-{side}",
            "always",
            "Dip switch, main",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Side lamp {side}",
            "Side lamp 5 W",
            f"front-{side}",
            "always",
            "Light switch, side",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Tail lamp {side}",
            "Tail lamp 5 W",
            f"rear-{side}",
            "always",
            "Light switch, side",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Stop lamp {side}",
            "Stop lamp 21 W",
            f"rear-{side}",
            "always",
            "Brake pedal",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    (
        "High stop lamp",
        "High stop lamp LED",
        "rear",
        "always",
        "Brake pedal",
        "direct",
        "to decide",
    ),
    *(
        (
            f"Turn lamp {end} {side}",
            "Turn lamp 21 W",
            f"{end}-{side}",
            "run",
            f"Turn switch, {side}",
            "direct",
            "new",
        )
        for end in ("front", "rear")
        for side in ("left", "right")
    ),
    (
        "Number-plate lamp",
        "Number-plate lamp 5 W",
        "rear",
        "always",
        "Light switch, side",
        "direct",
        "new",
    ),
    (
        "Reversing lamp",
        "Reversing lamp 21 W",
        "rear-left",
        "run",
        "Reversing switch",
        "direct",
        "to decide",
    ),
    (
        "Rear fog lamp",
        "Rear fog lamp 21 W",
        "rear-right",
        "run",
        "Rear fog switch",
        "direct",
        "to decide",
    ),
)
ALWAYS_THERE: tuple[Line, ...] = (
    ("Horn", "Horn", "nose", "always", "Horn push", "relay", "new"),
    ("Instrument cluster", "Instrument cluster", "dash", "run", "", "direct", "to decide"),
    (
        "Instrument lamp",
        "Instrument lamp 2.2 W",
        "dash",
        "always",
        "Light switch, side",
        "direct",
        "new",
    ),
    ("Main beam telltale", "Telltale LED", "dash", "always", "Dip switch, main", "direct", "new"),
    ("Starter motor", "Starter motor geared 1.4 kW", "engine", "", "", "", "to decide"),
)
CARBURETTOR: tuple[Line, ...] = (
    ("Fuel pump", "Fuel pump carburettor", "tank", "run", "Inertia switch", "direct", "to decide"),
    ("Ignition coil", "Ignition coils set of four", "engine", "run", "", "direct", "to decide"),
)
BY_OPTION: Mapping[str, tuple[Line, ...]] = {
    "heater": (
        (
            "Heater blower",
            "Heater blower full",
            "bulkhead",
            "run",
            "Blower switch",
            "relay",
            "to decide",
        ),
    ),
    "wipers": (
        (
            "Wiper motor",
            "Wiper motor slow",
            "bulkhead",
            "run",
            "Wiper switch, slow",
            "direct",
            "to decide",
        ),
        ("Washer pump", "Washer pump", "nose", "run", "Washer push", "direct", "new"),
    ),
    "electric windows": tuple(
        (
            f"Window motor {side}",
            "Window motor",
            f"door-{side}",
            "run",
            f"Window switch {side}",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    "central locks": tuple(
        (
            f"Door lock {side}",
            "Door lock actuator",
            f"door-{side}",
            "always",
            "Lock switch",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    "electric fan": (
        (
            "Radiator fan",
            "Radiator fan 400 mm",
            "nose",
            "run",
            "Radiator thermostat",
            "relay",
            "to decide",
        ),
    ),
    "injection": (
        ("Fuel pump", "Fuel pump injection", "tank", "run", "Inertia switch", "relay", "to decide"),
        ("Engine control box", "Engine control box", "panel-shelf", "run", "", "relay", "new"),
        ("Injectors", "Injectors set of four", "engine", "run", "", "relay", "new"),
        ("Ignition coils", "Ignition coils set of four", "engine", "run", "", "relay", "new"),
        ("Lambda heater", "Lambda heater", "engine", "run", "", "relay", "new"),
        ("Idle valve", "Idle valve", "engine", "run", "", "relay", "to decide"),
    ),
    "audio": (
        ("Radio", "Radio", "dash", "accessory", "", "direct", "new"),
        ("Amplifier", "Amplifier", "luggage", "accessory", "", "relay", "to decide"),
    ),
    "power sockets": (
        ("Power socket", "Power socket", "dash", "accessory", "", "direct", "new"),
        ("USB charger", "USB charger", "tunnel", "accessory", "", "direct", "new"),
    ),
    "worklights": tuple(
        (
            f"Worklight {side}",
            "Driving lamp halogen 100 W",
            f"rear-{side}",
            "accessory",
            "Worklight switch",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    "tow socket": tuple(
        (f"Trailer {what}", row, "rear", "always", switch, "direct", "to decide")
        for what, row, switch in (
            ("tail lamps", "Tail lamp 5 W", "Light switch, side"),
            ("stop lamps", "Stop lamp 21 W", "Brake pedal"),
            ("turn lamp left", "Turn lamp 21 W", "Turn switch, left"),
            ("turn lamp right", "Turn lamp 21 W", "Turn switch, right"),
        )
    ),
}
OPTION_SWITCHES: Mapping[str, tuple[tuple[str, str, str], ...]] = {
    "heater": (("Blower switch", "Switch, off and on", "dash"),),
    "wipers": (
        ("Wiper switch", "Two-speed switch", "column"),
        ("Washer push", "Push button", "column"),
    ),
    "electric windows": tuple(
        (f"Window switch {side}", "Switch, off and on", "tunnel") for side in ("left", "right")
    ),
    "central locks": (("Lock switch", "Switch, off and on", "dash"),),
    "electric fan": (("Radiator thermostat", "Thermostat switch", "nose"),),
    "worklights": (("Worklight switch", "Switch, off and on", "dash"),),
}
SENSORS = (
    ("Inertia switch", "Inertia switch", "bulkhead"),
    ("Oil-pressure switch", "Oil-pressure switch", "engine"),
    ("Coolant temperature sender", "Temperature sender", "engine"),
    ("Fuel-level sender", "Fuel-level sender", "tank"),
)


def _rows(car: KindOfCar, build: Build) -> Iterator[dict[str, str]]:
    switches = [*SWITCHES, *SENSORS]
    if car.road_lamps:
        switches.append(("Rear fog switch", "Switch, off and on", "dash"))
    for option in car.options:
        switches += OPTION_SWITCHES.get(option, ())
    for name, what, where in switches:
        yield {"name": name, "what": what, "where": where}
    for line in _lines(car, build):
        keys = ("name", "what", "where", "key", "switch", "through", "state")
        yield dict(zip(keys, line, strict=True))


def _lines(car: KindOfCar, build: Build) -> Iterator[Line]:
    if car.road_lamps:
        yield from ROAD_LAMPS
    yield from ALWAYS_THERE
    if "injection" not in car.options:
        yield from CARBURETTOR
    roof = "roof" if "roof" in build.places else "dash"
    yield (
        "Interior lamp",
        "Interior lamp 10 W",
        roof,
        "always",
        "Interior lamp switch",
        "direct",
        "new",
    )
    for option in OPTIONS:
        if option in car.options:
            for line in BY_OPTION[option]:
                where = line[2] if line[2] in build.places else "dash"
                yield (*line[:2], where, *line[3:])
    if car.seats > 2 and "roof" in build.places:
        yield (
            "Rear interior lamp",
            "Courtesy lamp 5 W",
            "roof",
            "always",
            "Interior lamp switch",
            "direct",
            "to decide",
        )


def answers(row: Mapping[str, Any]) -> KindOfCar:
    """The kind of car in a JSON object of known shape."""
    return KindOfCar(**{**row, "options": tuple(row.get("options", ()))})
