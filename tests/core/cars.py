"""Small builds for tests, written as documents the way a user would."""

from dataclasses import replace
from functools import cache
from pathlib import Path
from typing import Any

from circuitry.design.model import Build
from circuitry.document.reading import from_document, read, to_document
from circuitry.sizing import Sizing, size_build

ROOT = Path(__file__).resolve().parents[2]
ROADSTER_FILE = ROOT / "tests" / "data" / "part-wired-roadster.json"


@cache
def roadster() -> Build:
    return read(ROADSTER_FILE.read_bytes())


@cache
def roadster_sizing() -> Sizing:
    return size_build(roadster())


def place(name: str, x_m: float = 0.0, zone: str = "cabin", ambient_c: float = 20.0) -> dict:
    return {"id": name, "name": name, "zone": zone, "ambient_c": ambient_c, "x_m": x_m, "y_m": 0}


def part(identity: str, kind: str, at: str = "bench", **fields: Any) -> dict:
    return {"id": identity, "kind": kind, "name": identity.replace("-", " "), "place": at, **fields}


def wire(number: int, start: str, end: str, **fields: Any) -> dict:
    fields = {"size": "1 mm²", "length_m": 1.0, "extra_m": 0.0, **fields}
    label = f"W{number}"
    return {
        "id": f"w{number}",
        "label": label,
        "from_terminal": start,
        "to_terminal": end,
        **fields,
    }


def switch(identity: str, *positions: tuple[str, list[list[str]]], **fields: Any) -> dict:
    rows = [{"name": name, "joins": joins} for name, joins in positions]
    return part(identity, "switch", contacts={"common": "in", "positions": rows, **fields})


ON_OFF = (("off", []), ("on", [["in", "out"]]))


def document(parts: list[dict], wires: list[dict], **fields: Any) -> dict:
    battery = part("battery", "battery", figures={"state_of_charge": 1.0, "resistance_mohm": 10})
    return {
        "format": "oilstone-build",
        "version": 3,
        "name": "Test car",
        "body_conducts": False,
        "places": [place("bench")],
        "runs": [],
        "parts": [battery, *parts],
        "wires": wires,
        "circuits": [],
        **fields,
    }


def lamp_document() -> dict:
    """Battery, fuse, switch and a lamp, all wires 1 m of 1 mm²."""
    return document(
        [
            part("fuse", "fuse", catalogue="regular blade", figures={"rating_a": 10}),
            switch("light", *ON_OFF),
            part("lamp", "load", catalogue="Stop lamp 21 W"),
        ],
        [
            wire(1, "battery.+", "fuse.in"),
            wire(2, "fuse.out", "light.in"),
            wire(3, "light.out", "lamp.+"),
            wire(4, "lamp.-", "battery.-"),
        ],
    )


def lamp() -> Build:
    return from_document(lamp_document())


def relay_parts(kind: str = "mini 4-pin", identity: str = "relay") -> list[dict]:
    return [part(identity, "relay", catalogue=kind)]


def unpinned(build: Build) -> Build:
    """The build with every size and rating left to sizing."""
    wires = {key: replace(row, size=None) for key, row in build.wires.items()}
    return replace(build, wires=wires)


def copy_of(build: Build) -> dict:
    return to_document(build)
