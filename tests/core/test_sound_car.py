"""A sound circuit raises nothing; each mistake made in it raises its own finding."""

from collections.abc import Callable
from unittest import TestCase
from unittest.mock import patch

from circuitry.document.reading import from_document
from circuitry.reach.paths import Paths
from circuitry.sizing import size_build
from tests.core.cars import lamp_document, part, place, relay_parts, switch, wire

Change = Callable[[dict], None]


def sound() -> dict:
    """A lamp behind a fuse and a rated switch, its lead from the battery short, sizes to choose."""
    row = lamp_document()
    row["wires"][0]["length_m"] = 0.2
    for each in row["parts"]:
        if each["id"] == "light":
            each["figures"] = {"contact_rating_a": 15}
    for each in row["wires"]:
        each["size"] = None
    return row


def codes(change: Change | None = None) -> set[str]:
    row = sound()
    if change is not None:
        change(row)
    return {finding.code for finding in size_build(from_document(row)).findings}


def run(start: str, end: str, **fields: object) -> dict:
    row = {"id": f"{start}-{end}", "from_place": start, "to_place": end, "length_m": 1.0}
    return {**row, "measured": True, **fields}


def lamp_moved(row: dict, *runs: dict) -> None:
    """The lamp a metre away in the engine bay, over these runs."""
    row["places"].append(place("nose", 1.0))
    row["runs"] += runs
    next(each for each in row["parts"] if each["id"] == "lamp")["place"] = "nose"
    for each in row["wires"][2:]:
        each["length_m"] = None


def a_long_thin_wire(row: dict) -> None:
    row["wires"][2] |= {"length_m": 60.0, "size": "0.5 mm²"}


def a_fuse_too_large(row: dict) -> None:
    row["wires"][2] |= {"size": "0.5 mm²"}
    row["parts"][1] |= {"figures": {"rating_a": 30}}


def a_relay(row: dict, *ends: tuple[str, str]) -> None:
    row["parts"] += relay_parts()
    row["wires"] += [wire(10 + n, *pair, size=None) for n, pair in enumerate(ends)]


def a_useless_switch(row: dict) -> None:
    row["parts"].append(switch("never", ("off", []), ("on", [])))
    row["wires"].append(wire(10, "fuse.out", "never.in", size=None))


def a_second_fuse(row: dict) -> None:
    row["parts"].append(part("above", "fuse", catalogue="regular blade", figures={"rating_a": 10}))
    row["wires"][0] |= {"to_terminal": "above.in"}
    row["wires"].append(wire(10, "above.out", "fuse.in", size=None, length_m=0.2))
    row["parts"].append(part("other", "load", catalogue="Stop lamp 21 W"))
    row["wires"].append(wire(11, "above.out", "other.+", size=None, length_m=0.2))
    row["wires"].append(wire(12, "other.-", "battery.-", size=None, length_m=0.2))


def a_live_ground(row: dict) -> None:
    row["parts"].append(part("ground", "ground point"))
    row["wires"].append(wire(10, "battery.+", "ground.stud", size=None, length_m=0.2))


def a_box(row: dict) -> None:
    """A box whose output lets through less than the lamp takes."""
    pins = [
        {"name": "1", "function": "supply"},
        {"name": "2", "function": "ground"},
        {"name": "3", "function": "high side", "when": "light", "limit_a": 1.0},
    ]
    row["parts"].append(part("box", "box", pins=pins))
    row["wires"][1] |= {"to_terminal": "box.1"}
    row["wires"][2] |= {"from_terminal": "box.3"}
    row["wires"].append(wire(10, "box.2", "battery.-", size=None))
    row["wires"].append(wire(11, "fuse.out", "light.in", size=None))


def an_ammeter(row: dict) -> None:
    row["parts"].append(part("meter", "ammeter"))
    row["wires"][1] |= {"to_terminal": "meter.in"}
    row["wires"].append(wire(10, "meter.out", "light.in", size=None))


MISTAKES: dict[str, Change] = {
    "ammeter-in-feed": an_ammeter,
    "wire-too-thin": a_fuse_too_large,
    "drop-too-high": a_long_thin_wire,
    "short-lasts": a_long_thin_wire,
    "load-dead": lambda row: row["wires"].pop(2) and None,
    "coil-bridged": lambda row: a_relay(
        row, ("fuse.out", "relay.86"), ("relay.86", "relay.85"), ("fuse.out", "relay.30")
    ),
    "never-closes": a_useless_switch,
    "not-selective": a_second_fuse,
    "ground-live": a_live_ground,
    "channel-overloaded": a_box,
    "wire-no-way": lambda row: lamp_moved(row),
    "load-out-of-reach": lambda row: lamp_moved(row),
    "length-guessed": lambda row: lamp_moved(row, run("bench", "nose", measured=False)),
    "hole-too-small": lambda row: lamp_moved(row, run("bench", "nose", hole_mm=2.0)),
    "run-unprotected": lambda row: lamp_moved(
        row, run("bench", "nose", passes=["bulkhead"], hole_mm=40.0)
    ),
    "source-wire-long": lambda row: row["wires"][0].update(length_m=1.0),
}


class SoundCarTest(TestCase):
    def test_a_sound_circuit_raises_nothing(self) -> None:
        self.assertEqual(codes(), set())
        through = run("bench", "nose", passes=["bulkhead"], hole_mm=40.0, hole_fit="grommet")
        self.assertEqual(codes(lambda row: lamp_moved(row, through)), set())

    def test_each_mistake_raises_its_own_finding(self) -> None:
        for code, change in MISTAKES.items():
            with self.subTest(code):
                self.assertIn(code, codes(change))

    def test_a_search_that_gives_up_is_told(self) -> None:
        self.assertNotIn("short-not-searched", codes())
        with patch.object(Paths, "short_gave_up", return_value=True):
            self.assertIn("short-not-searched", codes())
