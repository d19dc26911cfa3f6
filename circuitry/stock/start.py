"""Start from a kind of car: a first stock list with places, runs and a feed, to be corrected."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from math import ceil
from typing import Any

from circuitry.catalogue import USUAL_SHELF, catalogue
from circuitry.design.model import ENGINE_PLACES, STYLES, Body, Build, Place, Run, Runs
from circuitry.design.routes import drawn_m
from circuitry.devices.load import rated_current_a
from circuitry.document.checks import check
from circuitry.document.reading import read_thing
from circuitry.errors import UnusableInput
from circuitry.sizing.states import starts
from circuitry.stock.cells import TypedRow, set_cells
from circuitry.stock.feed import with_feed
from circuitry.stock.usual import (
    ALWAYS_THERE,
    BY_OPTION,
    CARBURETTOR,
    ENGINE_JOINS,
    ENGINE_SHARE,
    JOINS,
    OPTION_SWITCHES,
    PLACES,
    ROAD_LAMPS,
    ROAD_SWITCHES,
    SENSORS,
    SWITCHES,
    Line,
)

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
BUSES = {"always": "battery", "accessory": "accessory", "run": "run"}
USUAL_REELS_BEAR_A = {"engine bay": 115.0, "cabin": 150.0, "luggage": 150.0}
"""What may be listed together, by where the battery is, before the main fuse has to be more than
the thickest usual wire, 50 mm², answers for there."""
BULKHEAD_HOLE_MM = 45.0
LEAST_WAYS = {"always": 16, "accessory": 4, "run": 12}
"""What a plain car takes: start relay, beams, hazard lamps and memories stand in no line."""
SPARE_WAYS = 0.1
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
    build = with_feed(build, _battery_place(car), _ways(list(_listed(car, build))))
    rows = [TypedRow(None, cells) for cells in _rows(car, build)]
    build = _with_reels(set_cells(build, rows), USUAL_REELS_BEAR_A[car.battery])
    check(build)
    return build


def _with_reels(build: Build, usual_a: float) -> Build:
    """One reel more than usual where all that is listed together is more than this."""
    lasting = (load for load in build.parts_of_kind("load") if not starts(load))
    if sum(map(rated_current_a, lasting)) <= usual_a:
        return build
    usual, rows = USUAL_SHELF[build.policy.conductors], catalogue().conductor
    last = rows[usual[-1]]
    thicker = [
        row
        for row in rows.values()
        if row.system == last.system and row.copper_area_mm2 > last.copper_area_mm2
    ]
    next_up = min(thicker, key=lambda row: row.copper_area_mm2)
    return replace(build, policy=replace(build.policy, shelf=(*usual, next_up.name)))


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
    if "tow socket" in car.options and not car.road_lamps:
        raise UnusableInput(
            "bad-answer",
            "options",
            "The lamps of a trailer follow those of the car: give it lamps for the road, or leave "
            "the tow socket out.",
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
    # beside a front engine it stands at the bulkhead, out of the worst heat
    engine_bay = "bulkhead" if car.engine == "front" else "engine"
    return {"engine bay": engine_bay, "cabin": "tunnel", "luggage": "luggage"}[car.battery]


def _ways(lines: Sequence[Line]) -> dict[str, int]:
    """Ways for each bus of the first panel: one for what each switch works, one more for the coil
    where a relay does it by the key, and a tenth to spare."""
    wanted: dict[str, set[str]] = {key: set() for key in BUSES}
    for name, _, _, key, switch, through, _ in lines:
        if key in wanted:
            together = "engine" if through == "relay" else name
            what = switch.split(",")[0] or together
            wanted["always" if through == "relay" else key].add(what)
            if through == "relay" and key != "always":
                wanted[key].add(f"{what}, coil")
    return {
        BUSES[key]: max(LEAST_WAYS[key], ceil(len(names) * (1 + SPARE_WAYS)))
        for key, names in wanted.items()
    }


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
            hole_mm=BULKHEAD_HOLE_MM if "bulkhead" in passes else None,
            hole_fit="grommet" if "bulkhead" in passes else "none",
        )


def _rows(car: KindOfCar, build: Build) -> Iterator[dict[str, str]]:
    switches = [*(ROAD_SWITCHES if car.road_lamps else ()), *SWITCHES, *SENSORS]
    for option in car.options:
        switches += OPTION_SWITCHES.get(option, ())
    for name, what, where in switches:
        yield {"name": name, "what": what, "where": where}
    for line in _listed(car, build):
        keys = ("name", "what", "where", "key", "switch", "through", "state")
        yield dict(zip(keys, line, strict=True))


def _listed(car: KindOfCar, build: Build) -> Iterator[Line]:
    missing = () if car.road_lamps else {name for name, *_ in ROAD_SWITCHES}
    return (line for line in _lines(car, build) if line[4].split(",")[0] not in missing)


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
