"""Contact tables of the usual switches and sensors, by name.

Terminal numbers are those of DIN 72552 where it has one: 30 battery, 15 ignition, 50 starter, 75
accessory, 49 flasher, 53 wiper.
"""

from collections.abc import Mapping
from types import MappingProxyType

from circuitry.design.model import ContactTable, Position

KEY = ContactTable(
    "30",
    (
        Position("off"),
        Position("accessory", (("30", "75"),)),
        Position("run", (("30", "75", "15"),)),
        Position("crank", (("30", "15", "50"),)),
    ),
)
ISOLATOR = ContactTable("in", (Position("on", (("in", "out"),)), Position("off")))
KILL_ISOLATOR = ContactTable(
    "in",
    (
        Position("on", (("in", "out"), ("ignition-in", "ignition-out"))),
        Position("off", (("alternator", "ground"),)),
    ),
)
"""Battery and ignition poles, and one that ties the alternator to ground over a resistor."""


def _from(common: str, *positions: tuple[str, tuple[str, ...]], held: bool = False) -> ContactTable:
    """A table in which each position joins the common terminal to the outputs named."""
    rows = tuple(
        Position(at, ((common, *outputs),) if outputs else ()) for at, outputs in positions
    )
    return ContactTable(common, rows, held)


def _joins(
    common: str, *positions: tuple[str, tuple[tuple[str, ...], ...]], held: bool = False
) -> ContactTable:
    return ContactTable(common, tuple(Position(*row) for row in positions), held)


SWITCHES: Mapping[str, ContactTable] = MappingProxyType(
    {
        "Switch, off and on": _from("in", ("off", ()), ("on", ("out",))),
        "Push button": _from("in", ("released", ()), ("held", ("out",)), held=True),
        "Pedal switch": _from("in", ("released", ()), ("pressed", ("out",)), held=True),
        "Pedal switch, change-over": _from(
            "in", ("released", ("rest",)), ("pressed", ("out",)), held=True
        ),
        "Light switch, side and head": _from(
            "in", ("off", ()), ("side", ("side",)), ("head", ("side", "head"))
        ),
        "Dip switch": _from("in", ("dip", ("dip",)), ("main", ("main",))),
        "Dip switch with flash": _joins(
            "in",
            ("dip", (("in", "dip"),)),
            ("main", (("in", "main"),)),
            ("flash", (("in", "dip"), ("live", "main"))),
        ),
        "Turn switch": _from("in", ("middle", ()), ("left", ("left",)), ("right", ("right",))),
        "Hazard switch": _joins(
            "run",
            ("off", (("run", "49"),)),
            ("on", (("live", "49"), ("49a", "left", "right"))),
        ),
        "Turn and stop switch": _joins(
            "49a",
            ("middle", (("stop", "rear-left", "rear-right"),)),
            ("left", (("49a", "rear-left", "front-left"), ("stop", "rear-right"))),
            ("right", (("49a", "rear-right", "front-right"), ("stop", "rear-left"))),
        ),
        "Hazard switch with stop": _joins(
            "run",
            ("off", (("run", "49"), ("stop-in", "stop-out"))),
            (
                "on",
                (
                    ("live", "49"),
                    ("49a", "rear-left", "rear-right", "front-left", "front-right"),
                ),
            ),
        ),
        "Wiper switch with park and wash": _joins(
            "in",
            ("off", (("park", "slow"),)),
            ("slow", (("in", "slow"),)),
            ("fast", (("in", "fast"),)),
            ("wash", (("in", "slow", "wash"),)),
        ),
        "Wiper switch with park, interval and wash": _joins(
            "in",
            ("off", (("park", "slow"),)),
            ("interval", (("park", "slow"), ("in", "interval"))),
            ("slow", (("in", "slow"),)),
            ("fast", (("in", "fast"),)),
            ("wash", (("in", "slow", "wash"),)),
        ),
        "Two-speed switch": _from("in", ("off", ()), ("slow", ("slow",)), ("fast", ("fast",))),
        "Three-speed switch": _from(
            "in", ("off", ()), ("1", ("one",)), ("2", ("two",)), ("3", ("three",))
        ),
        "Four-speed switch": _from(
            "in", ("off", ()), ("1", ("one",)), ("2", ("two",)), ("3", ("three",)), ("4", ("four",))
        ),
        "Reversing switch": _joins(
            "in",
            ("rest", (("ground", "up", "down"),)),
            ("up", (("in", "up"), ("ground", "down"))),
            ("down", (("in", "down"), ("ground", "up"))),
            held=True,
        ),
        "Up and down switch": _from(
            "in", ("rest", ()), ("up", ("up",)), ("down", ("down",)), held=True
        ),
        "Interior lamp switch": _joins(
            "lamp", ("door", (("lamp", "door"),)), ("off", ()), ("on", (("lamp", "ground"),))
        ),
        "Door switch": _from("in", ("closed", ()), ("open", ("out",))),
        "Gear switch": _from("in", ("out", ()), ("in gear", ("out",))),
    }
)
SENSORS: Mapping[str, ContactTable] = MappingProxyType(
    {
        "Thermostat switch": _from("in", ("cold", ()), ("hot", ("out",))),
        "Oil-pressure switch": _from("in", ("pressure", ()), ("none", ("out",))),
        "Oil-pressure safety switch": _from("in", ("none", ()), ("pressure", ("out",))),
        "Brake-fluid level switch": _from("in", ("full", ()), ("low", ("out",))),
        "Neutral switch": _from("in", ("neutral", ("out",)), ("in gear", ())),
        "Limit switch": _from("in", ("free", ("out",)), ("at limit", ())),
        "Inertia switch": _from("in", ("normal", ("out",)), ("tripped", ())),
        "Service plug": _from("in", ("in place", ("out",)), ("pulled", ())),
        "Charge plug sensor": _from("in", ("unplugged", ()), ("plugged in", ("out",))),
        "Precharge signal": _from("in", ("charging", ()), ("done", ("out",))),
    }
)
TABLES: Mapping[str, ContactTable] = MappingProxyType({**SWITCHES, **SENSORS})


def kind_of_table(name: str) -> str:
    """Whether a table of this name is a driver's switch or a sensor that acts on its own."""
    return "sensor" if name in SENSORS else "switch"
