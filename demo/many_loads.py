"""A made-up car of any number of loads, by script, for measuring."""

from circuitry.design.model import Build
from circuitry.document.reading import from_document

LOADS = ("Courtesy lamp 5 W", "Stop lamp 21 W", "Tail lamp LED", "Washer pump", "Seat heater")
LOADS_A_PANEL = 40
LOADS_A_CIRCUIT = 2


def many_loads(count: int) -> Build:
    """A build of ``count`` loads in pairs, each pair behind its own fuse, switch and relay or not.

    One panel for every 40 loads, each with its own feed fuse and ground point, in a row of places.
    """
    panels = -(-count // LOADS_A_PANEL)
    document: dict = {
        "format": "oilstone-build",
        "version": 3,
        "name": f"{count} loads",
        "body_conducts": False,
        "policy": {"critical_drop_percent": 8.0},
        "places": [_place("front", 0.0)],
        "runs": [],
        "parts": [{"id": "battery", "kind": "battery", "name": "Battery", "place": "front"}],
        "wires": [],
        "circuits": [],
    }
    for panel in range(panels):
        _add_panel(document, panel)
        first = panel * LOADS_A_PANEL
        for start in range(first, min(first + LOADS_A_PANEL, count), LOADS_A_CIRCUIT):
            _add_circuit(document, panel, start, min(start + LOADS_A_CIRCUIT, count))
    return from_document(document)


def _place(name: str, x_m: float) -> dict:
    return {"id": name, "name": name, "zone": "cabin", "ambient_c": 40, "x_m": x_m, "y_m": 0}


def _part(identity: str, kind: str, place: str, **fields: object) -> dict:
    name = identity.replace("-", " ")
    return {"id": identity, "kind": kind, "name": name, "place": place} | fields


def _wire(document: dict, start: str, end: str, **fields: object) -> None:
    number = len(document["wires"]) + 1
    row = {"id": f"w{number}", "label": f"W{number}", "from_terminal": start, "to_terminal": end}
    document["wires"].append(row | fields)


def _add_panel(document: dict, panel: int) -> None:
    place, before = f"place-{panel}", f"place-{panel - 1}" if panel else "front"
    ways = [{"name": f"F{n + 1}", "bus": "main"} for n in range(LOADS_A_PANEL // LOADS_A_CIRCUIT)]
    document["places"].append(_place(place, 0.4 * (panel + 1)))
    document["runs"].append(
        {"id": f"run-{panel}", "from_place": before, "to_place": place, "length_m": 0.4}
    )
    document["parts"] += [
        _part(f"feed-{panel}", "fuse", "front", catalogue="bolt-down M8"),
        _part(f"panel-{panel}", "panel", place, ways=ways),
        _part(f"ground-{panel}", "ground point", place),
    ]
    _wire(document, "battery.+", f"feed-{panel}.in", extra_m=0.2)
    _wire(document, f"feed-{panel}.out", f"panel-{panel}.main")
    _wire(document, f"ground-{panel}.stud", "battery.-")


def _add_circuit(document: dict, panel: int, start: int, end: int) -> None:
    place, circuit, ground = f"place-{panel}", f"circuit-{start}", f"ground-{panel}.stud"
    way = f"F{(start % LOADS_A_PANEL) // LOADS_A_CIRCUIT + 1}"
    fuse, switch, relay = f"fuse-{start}", f"switch-{start}", f"relay-{start}"
    positions = [{"name": "off"}, {"name": "on", "joins": [["in", "out"]]}]
    table = {"common": "in", "positions": positions}
    document["circuits"].append(
        {"id": circuit, "name": circuit, "group": "accessory", "criticality": "comfort"}
    )
    document["parts"] += [
        _part(fuse, "fuse", place, catalogue="regular blade", circuit=circuit)
        | {"fitted": {"panel": f"panel-{panel}", "way": way}},
        _part(switch, "switch", place, contacts=table, circuit=circuit),
    ]
    output = f"{switch}.out"
    _wire(document, f"panel-{panel}.{way}", f"{switch}.in", circuit=circuit)
    if start % (2 * LOADS_A_CIRCUIT):
        document["parts"].append(_part(relay, "relay", place, catalogue="mini 4-pin"))
        _wire(document, output, f"{relay}.86", circuit=circuit)
        _wire(document, f"{relay}.85", ground, circuit=circuit)
        _wire(document, f"panel-{panel}.{way}", f"{relay}.30", circuit=circuit)
        output = f"{relay}.87"
    for number in range(start, end):
        load = f"load-{number}"
        kind = LOADS[number % len(LOADS)]
        document["parts"].append(_part(load, "load", place, catalogue=kind, circuit=circuit))
        _wire(document, output, f"{load}.+", circuit=circuit)
        _wire(document, f"{load}.-", ground, circuit=circuit)
