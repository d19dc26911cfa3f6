"""A first feed and grounds for a car without any, so that loads can be put behind fuses at once."""

from collections.abc import Iterator, Mapping
from dataclasses import replace

from circuitry.design.model import Build, Circuit, Part, Terminal, Way, Wire
from circuitry.stock.patterns import patterns

RING = "ring"


def with_feed(build: Build, battery_place: str, ways: Mapping[str, int]) -> Build:
    """Battery, main fuse, bar, panel, key with its two relays, grounds with a bar beside each.

    ``ways`` are how many the panel has on each of its buses: battery, accessory and run.
    """
    parts = {part.id: part for part in _parts(build, battery_place, ways)}
    circuits = {
        "main-feed": Circuit("main-feed", "Main feed", "feed", "critical"),
        "key-control": Circuit("key-control", "Key and its relays", "switch", "critical"),
        "grounds": Circuit("grounds", "Grounds", "feed", "critical"),
    }
    lines = [*_feed_lines(), *_ground_lines(build, parts)]
    wires = {f"w{number}": _wire(number, *line) for number, line in enumerate(lines, start=1)}
    return replace(build, parts=parts, circuits=circuits, wires=wires)


def _parts(build: Build, battery_place: str, ways: Mapping[str, int]) -> Iterator[Part]:
    shelf = "panel-shelf"
    figures = {"state_of_charge": 1.0, "resistance_mohm": 7.0}
    yield Part("battery", "battery", "Battery", battery_place, figures=figures)
    yield Part("main-fuse", "fuse", "Main fuse", battery_place, "bolt-down M8")
    yield Part("feed-bar", "bus bar", "Feed bar", shelf)
    numbered = [bus for bus, count in ways.items() for _ in range(count)]
    rows = tuple(Way(f"F{number}", bus) for number, bus in enumerate(numbered, start=1))
    family = {"fuse_family": "regular blade"}
    yield Part("panel", "panel", "Panel", shelf, figures=family, ways=rows)
    yield Part("key-fuse", "fuse", "Key fuse", shelf, "regular blade")
    yield Part("ignition-fuse", "fuse", "Ignition fuse", shelf, "bolt-down M5")
    yield Part("accessory-fuse", "fuse", "Accessory fuse", shelf, "bolt-down M5")
    contacts = patterns()["Ignition key"].contacts
    rating = {"contact_rating_a": 20.0}
    yield Part("key", "key switch", "Key", "column", "Ignition key", rating, contacts)
    yield Part("run-relay", "relay", "Run relay", shelf, "high-current 70 A")
    yield Part("accessory-relay", "relay", "Accessory relay", shelf, "high-current 70 A")
    for identity, name, place in _grounds(build):
        yield Part(identity, "ground point", name, place)
        yield Part(_bar_of(identity), "bus bar", name.replace("Ground", "Ground bar"), place)


def _grounds(build: Build) -> list[tuple[str, str, str]]:
    return [
        ("ground-front", "Ground G1, nose", "nose"),
        ("ground-panel", "Ground G2, panel shelf", "panel-shelf"),
        ("ground-rear", "Ground G3, luggage", "luggage"),
        *([("ground-engine", "Ground G4, engine", "engine")] if "engine" in build.places else []),
    ]


def _bar_of(point: str) -> str:
    return point.replace("ground", "ground-bar")


Line = tuple[str, str, str, str, float | None]


def _feed_lines() -> Iterator[Line]:
    yield "battery.+", "main-fuse.in", "red", "main-feed", 0.25
    yield "main-fuse.out", "feed-bar.stud", "red", "main-feed", None
    yield "feed-bar.stud", "panel.battery", "red", "main-feed", None
    yield "feed-bar.stud", "ignition-fuse.in", "red", "main-feed", 0.2
    yield "ignition-fuse.out", "run-relay.30", "red", "main-feed", None
    yield "run-relay.87", "panel.run", "red", "main-feed", None
    yield "feed-bar.stud", "accessory-fuse.in", "red", "main-feed", 0.2
    yield "accessory-fuse.out", "accessory-relay.30", "red", "main-feed", None
    yield "accessory-relay.87", "panel.accessory", "red", "main-feed", None
    yield "feed-bar.stud", "key-fuse.in", "red", "key-control", 0.2
    yield "key-fuse.out", "key.30", "brown", "key-control", None
    yield "key.15", "run-relay.86", "yellow", "key-control", None
    yield "key.75", "accessory-relay.86", "yellow", "key-control", None
    yield "run-relay.85", "ground-bar-panel.stud", "black", "key-control", None
    yield "accessory-relay.85", "ground-bar-panel.stud", "black", "key-control", None


def _ground_lines(build: Build, parts: dict[str, Part]) -> Iterator[Line]:
    """To the body where it conducts, else all to the point that goes to the battery: the one where
    it stands, the engine's where it stands before the bulkhead."""
    points = [identity for identity, _, _ in _grounds(build)]
    at_battery = [point for point in points if parts[point].place == parts["battery"].place]
    beside = "ground-engine" if parts["battery"].place == "bulkhead" else "ground-panel"
    star = at_battery[0] if at_battery else beside
    for point in points:
        yield f"{_bar_of(point)}.stud", f"{point}.stud", "black", "grounds", None
    yield f"{star}.stud", "battery.-", "black", "grounds", 0.4
    if build.body_conducts and star == "ground-engine":
        yield "ground-panel.stud", "battery.-", "black", "grounds", 0.4
    if not build.body_conducts:
        for point in points:
            if point != star:
                yield f"{point}.stud", f"{_bar_of(star)}.stud", "black", "grounds", None


def _wire(
    number: int, start: str, end: str, colour: str, circuit: str, extra_m: float | None
) -> Wire:
    rings = [RING if _bolted(end) else None for end in (start, end)]
    return Wire(
        f"w{number}",
        f"W{number}",
        Terminal.parse(start),
        Terminal.parse(end),
        extra_m=extra_m,
        colour=colour,
        joint_from=rings[0],
        joint_to=rings[1],
        circuit=circuit,
    )


def _bolted(end: str) -> bool:
    return end.split(".")[0] in ("battery", "main-fuse") or end.endswith(".stud")
