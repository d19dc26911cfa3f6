"""The build: one car's electrical design as plain, frozen data. Units are in the names."""

import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from types import MappingProxyType
from typing import Any, Literal, NamedTuple, get_args

from circuitry.errors import UnusableInput

FORMAT = "oilstone-build"
VERSION = 3

KEY_POSITIONS = ("off", "accessory", "run", "crank")
ID_PATTERN = re.compile(r"^[a-z0-9][a-z0-9-]{0,63}$")
NO_FIGURES: Mapping[str, float | str] = MappingProxyType({})


class Terminal(NamedTuple):
    """A point on a part where wires land, written ``part.name``."""

    part: str
    name: str

    def __str__(self) -> str:
        return f"{self.part}.{self.name}"

    @classmethod
    def parse(cls, text: str) -> "Terminal":
        """The terminal written ``part.name``; raises UnusableInput for anything else."""
        part, dot, name = text.partition(".")
        if not (dot and name and ID_PATTERN.match(part)):
            raise UnusableInput(
                "bad-terminal",
                text,
                f"“{text}” is not a terminal. Write part.terminal, for example fan-relay.87.",
            )
        return cls(part, name)


STYLES = ("open two-seater", "coupé", "saloon", "estate", "van", "pickup", "buggy")
ENGINE_PLACES = ("front", "middle", "rear")
LEVELS = ("floor", "waist", "roof")
USUAL_AMBIENT_C = {
    "engine bay hot": 80.0,
    "engine bay": 60.0,
    "cabin": 40.0,
    "luggage": 35.0,
    "underbody": 40.0,
    "door": 40.0,
    "exterior": 35.0,
}
"""What a new place of a zone starts with; typical, to be replaced by what is known of the car."""
WET_ZONES = ("underbody", "exterior")
STATES = ("to decide", "keep", "adapt", "new", "remove", "spare")


@dataclass(frozen=True)
class Body:
    """The few figures that the plan of the car is drawn from; axles are measured from the nose."""

    style: str = "open two-seater"
    length_m: float = 3.6
    width_m: float = 1.6
    front_axle_m: float = 0.75
    rear_axle_m: float = 2.85
    engine: str = "front"
    doors: int = 2


DROP_SCHOOLS = (
    "by kind of load",
    "percent by class",
    "flat",
    "by effect",
    "by ampacity alone",
)
CRANKING = "cranking cold"
ROAD_STATES = (
    "day",
    "night",
    "night and rain",
    "parked with side lamps",
    "hazards",
    CRANKING,
)
"""What a car does: in each the loads that are on anyway, whatever else is switched."""


@dataclass(frozen=True)
class Policy:
    """How this builder decides where practitioners differ.

    ``drop_school`` is one of ``DROP_SCHOOLS``: how much may be lost on feed and return together.
    ``drop_limits_v`` replaces limits by kind of load, at 12 V; ``critical_drop_percent`` holds for
    safety and critical circuits, ``other_drop_percent`` for the rest; ``flat_drop_v`` for all.
    ``road_states`` gives the loads that are on in a road state where the builder has named them.
    ``shelf`` are the sizes of wire to choose from, empty for the usual ones. ``fuse_headroom`` is
    the share of its rating that a fuse may carry for ever. ``conductors`` is ``metric`` or
    ``awg``. ``end_extra_m`` is the length added at an end of a wire, by kind of part, where it
    differs from the usual. ``colours`` is by function, one colour, or by stage; ``palette``
    replaces colours of functions. ``sensor_pins`` is the order of the pins of sensors' plugs, the
    lowest first. ``charge_margin`` is the share of what is drawn that an alternator gives beside
    it, ``parked_days`` how long a parked battery is to last. Wires are cut to multiples of
    ``cut_to_m`` and labelled at both ends and every ``label_every_m``, of at most
    ``label_letters`` where the printer takes no more, 0 for any; ``spare_share`` is bought beside
    what is needed of small parts, ``drawer`` is what is there already, and ``prices`` what
    one costs, by item. ``laying`` is side by side or twisted: how wires lie in a bundle. ``tapes``
    are the colours of the stages' tape, the first stage's first, empty for the usual ones.
    """

    drop_school: str = "by kind of load"
    drop_limits_v: Mapping[str, float] = field(default_factory=dict)
    flat_drop_v: float = 0.5
    road_states: Mapping[str, tuple[str, ...]] = field(default_factory=dict)
    shelf: tuple[str, ...] = ()
    critical_drop_percent: float = 3.0
    other_drop_percent: float = 10.0
    fuse_headroom: float = 0.75
    conductors: str = "metric"
    insulation: str = "PVC heat-resistant thin wall"
    joint: str = "crimp"
    end_extra_m: Mapping[str, float] = field(default_factory=dict)
    colours: str = "by function"
    palette: Mapping[str, str] = field(default_factory=dict)
    sensor_pins: str = "ground, signal, supply"
    charge_margin: float = 0.2
    parked_days: float = 21.0
    cut_to_m: float = 0.05
    label_every_m: float = 1.0
    label_letters: int = 0
    spare_share: float = 0.1
    drawer: Mapping[str, float] = field(default_factory=dict)
    prices: Mapping[str, float] = field(default_factory=dict)
    laying: str = "side by side"
    tapes: tuple[str, ...] = ()


SENSOR_PINS = ("ground, signal, supply", "supply, signal, ground", "supply, ground, signal")


@dataclass(frozen=True)
class Place:
    """A named spot; ``x_m`` from the nose rearwards, ``y_m`` from the middle to the right.

    ``level`` is floor, waist or roof: the vertical is a place too.
    """

    id: str
    name: str
    zone: str
    ambient_c: float
    x_m: float
    y_m: float
    wet: bool = False
    level: str = "waist"


@dataclass(frozen=True)
class Run:
    """A way between two places, what covers it and what it passes.

    ``measured`` is False while its length is only a guess from the plan. ``hole_mm`` is the hole
    of a bulkhead on it, and ``hole_fit`` what sits in that hole: grommet, connector or nothing.
    """

    id: str
    from_place: str
    to_place: str
    length_m: float
    cover: str = "none"
    passes: tuple[str, ...] = ()
    measured: bool = True
    fixings_mm: float = 250.0
    hole_mm: float | None = None
    hole_fit: str = "none"


class Runs(dict[str, Run]):
    """The runs of a build by id; never changed once made.

    ``ways`` keeps the ways found through them, by their two ends: builds that share the runs share
    what was found.
    """

    def __init__(self, runs: Mapping[str, Run] = MappingProxyType({})) -> None:
        super().__init__(runs)
        self.ways: dict[tuple[str, str], tuple[Run, ...] | None] = {}


@dataclass(frozen=True)
class Position:
    """One position of a switch and the groups of terminals that it joins."""

    name: str
    joins: tuple[tuple[str, ...], ...] = ()


@dataclass(frozen=True)
class ContactTable:
    """The contacts of a switch: its positions, the first at rest; ``common`` takes the feed.

    ``idle`` are terminals that no position joins.
    """

    common: str
    positions: tuple[Position, ...]
    momentary: bool = False
    idle: tuple[str, ...] = ()

    @property
    def terminals(self) -> tuple[str, ...]:
        """The common terminal first, then the others in the order they appear."""
        names = {self.common: None}
        for position in self.positions:
            for group in position.joins:
                names.update(dict.fromkeys(group))
        return tuple(dict.fromkeys((*names, *self.idle)))

    def position(self, name: str) -> Position | None:
        """The position of this name, or None."""
        return next((row for row in self.positions if row.name == name), None)


@dataclass(frozen=True)
class Way:
    """A place for one fuse in a panel, or a channel of a module, and the bus that feeds it.

    A channel is on when ``when`` holds and opens by itself above ``limit_a``; it raises its volts
    over ``soft_s`` seconds as it comes on. One that is ``joined`` to another does what that does,
    its pin bridged to that one's at the plug.
    """

    name: str
    bus: str
    when: str = ""
    limit_a: float | None = None
    soft_s: float = 0.0
    joined: str = ""


@dataclass(frozen=True)
class Fitted:
    """Where a fuse sits: a way of a panel."""

    panel: str
    way: str


@dataclass(frozen=True)
class Housed:
    """Where a part sits inside a unit: which of its terminals are which pins of the unit.

    ``pins`` maps terminals of the part to pins; the others are not led out.
    """

    unit: str
    pins: Mapping[str, str]


PinFunction = Literal[
    "",
    "supply",
    "ground",
    "input",
    "input to ground",
    "analogue input",
    "high side",
    "low side",
    "sensor supply",
    "sensor ground",
    "bus",
    "inside",
]
PIN_FUNCTIONS: tuple[str, ...] = get_args(PinFunction)
"""What a pin can do. An input is active when it is fed, an input to ground when it is grounded; an
analogue input is pulled up to 5 V and tells its volts. A high side switches the supply, a low side
switches ground; ``inside`` is a point of the unit that no wire reaches."""


@dataclass(frozen=True)
class Pin:
    """A pin of a box or unit, and what the box does with it.

    An output is on when ``when`` holds; ``limit_a`` is the most it may carry.
    """

    name: str
    function: str = ""
    when: str = ""
    limit_a: float | None = None


@dataclass(frozen=True)
class Wish:
    """How the builder wants a load that is not wired yet: names as typed, empty where unsaid."""

    key: str = ""
    switch: str = ""
    through: str = ""


@dataclass(frozen=True)
class Part:
    """Anything with terminals.

    ``catalogue`` names the row its figures come from; ``figures`` replaces or adds to them, with
    the unit in each name. A fuse without ``rating_a`` is rated by sizing. ``state`` says what
    becomes of it: keep, adapt, new, remove, spare, or still to decide.
    """

    id: str
    kind: str
    name: str
    place: str
    catalogue: str | None = None
    figures: Mapping[str, float | str] = field(default_factory=lambda: NO_FIGURES)
    contacts: ContactTable | None = None
    ways: tuple[Way, ...] = ()
    fitted: Fitted | None = None
    housed: Housed | None = None
    circuit: str | None = None
    state: str = "new"
    pins: tuple[Pin, ...] = ()
    wish: Wish | None = None
    note: str = ""

    def number(self, name: str, default: float) -> float:
        """The figure of this name, or the default when the part has none of its own."""
        value = self.figures.get(name, default)
        return float(value)


@dataclass(frozen=True)
class Wire:
    """One conductor between two terminals.

    ``size`` None lets sizing choose; ``way`` None takes the shortest way through the runs;
    ``length_m`` None measures that way. ``extra_m`` is added for the two ends; None adds what
    the parts at its ends usually take.
    """

    id: str
    label: str
    from_terminal: Terminal
    to_terminal: Terminal
    size: str | None = None
    way: tuple[str, ...] | None = None
    length_m: float | None = None
    extra_m: float | None = None
    insulation: str | None = None
    colour: str = "black"
    joint_from: str | None = None
    joint_to: str | None = None
    circuit: str | None = None


@dataclass(frozen=True)
class Intent:
    """How the builder asked for a circuit: enough to wire it again another way.

    ``key`` is always, accessory or run; ``switch`` is the switch's output terminal or None;
    ``through`` is direct or relay; ``fuse`` is the fuse that it was put behind.
    """

    key: str
    switch: Terminal | None
    through: str
    fuse: str


@dataclass(frozen=True)
class Written:
    """The recipe that wrote a circuit, and the answers that it was given."""

    recipe: str
    answers: Mapping[str, Any]


@dataclass(frozen=True)
class Circuit:
    """What belongs together for one function; loads, relays and wires name their circuit.

    ``intent`` is how a plain circuit was asked for, ``written`` the recipe of any other.
    """

    id: str
    name: str
    group: str
    criticality: str
    stage: int = 1
    intent: Intent | None = None
    written: Written | None = None


@dataclass(frozen=True)
class Stretch:
    """A piece of an old wire, from the end before to ``ends_at``: colour code and size as found.

    ``settled`` once that end is connected, insulated or out of the car.
    """

    colour: str
    size: str = ""
    ends_at: str = ""
    joint: str = ""
    length_m: float | None = None
    settled: bool = False


@dataclass(frozen=True)
class FoundCircuit:
    """A circuit found in an old loom: its stretches in order, and what is to become of it.

    ``decision`` is keep, mend, replace, cut back, remove, or to decide. ``goes_to`` is what it
    feeds.
    """

    id: str
    name: str
    stretches: tuple[Stretch, ...] = ()
    fuse_a: float | None = None
    condition: str = "sound"
    goes_to: str = ""
    decision: str = "to decide"
    note: str = ""


@dataclass(frozen=True)
class PinPair:
    """One function in two harnesses: the old plug and pin, and the new ones.

    ``proved`` once a continuity test has shown that they are the same function.
    """

    id: str
    function: str
    old_plug: str = ""
    old_pin: str = ""
    old_colour: str = ""
    new_plug: str = ""
    new_pin: str = ""
    new_colour: str = ""
    proved: bool = False
    note: str = ""


@dataclass(frozen=True)
class HarnessCircuit:
    """A circuit of a ready-made harness: size and length of its wire from the harness's panel.

    ``serves`` is the load that it is used for; None lets its name decide.
    """

    id: str
    name: str
    size: str
    length_m: float
    fuse_a: float | None = None
    serves: str | None = None
    note: str = ""


@dataclass(frozen=True)
class Acceptance:
    """A finding that the builder lives with, and why.

    ``parts`` are those that it concerns, ``found`` and ``limit`` what it said then: when it says
    something else, it is open again.
    """

    id: str
    code: str
    parts: tuple[str, ...]
    found: str
    limit: str
    reason: str


@dataclass(frozen=True)
class Scenario:
    """What a car does for a while, for its budget; one of the id of a usual one takes its place.

    ``road`` is the road state whose loads are on, empty for none; ``pace`` says how often others
    are on: one of ``PACES``. ``on`` gives the share of the time that a load is on where it is
    otherwise, ``shed`` the loads that are left off to spare. ``charge`` is that of the battery as
    it begins, ``charges`` whether the alternator works, ``measured_a`` what was measured to flow
    from the battery, in place of what is worked out.
    """

    id: str
    name: str
    key: str = "run"
    road: str = ""
    pace: str = ""
    engine_rpm: float = 0.0
    outside_c: float = 20.0
    charge: float = 0.8
    charges: bool = True
    on: Mapping[str, float] = field(default_factory=dict)
    shed: tuple[str, ...] = ()
    measured_a: float | None = None


@dataclass(frozen=True)
class Reel:
    """A reel of wire that is at hand; ``insulation`` and ``colour`` are those of the wire on it."""

    id: str
    size: str
    colour: str
    length_m: float
    insulation: str | None = None


PACES = ("", "idle", "town", "motorway", "show")


@dataclass(frozen=True)
class Build:
    """One car's electrical design. Ids are unique within each collection and stable.

    ``harness_from`` is the place of the panel of a ready-made harness.
    """

    name: str
    body_conducts: bool
    policy: Policy = field(default_factory=Policy)
    body: Body = field(default_factory=Body)
    harness_from: str | None = None
    places: Mapping[str, Place] = field(default_factory=dict)
    runs: Runs = field(default_factory=Runs)
    parts: Mapping[str, Part] = field(default_factory=dict)
    wires: Mapping[str, Wire] = field(default_factory=dict)
    circuits: Mapping[str, Circuit] = field(default_factory=dict)
    found_circuits: Mapping[str, FoundCircuit] = field(default_factory=dict)
    pin_pairs: Mapping[str, PinPair] = field(default_factory=dict)
    harness_circuits: Mapping[str, HarnessCircuit] = field(default_factory=dict)
    acceptances: Mapping[str, Acceptance] = field(default_factory=dict)
    scenarios: Mapping[str, Scenario] = field(default_factory=dict)
    reels: Mapping[str, Reel] = field(default_factory=dict)

    def __post_init__(self) -> None:
        if not isinstance(self.runs, Runs):
            object.__setattr__(self, "runs", Runs(self.runs))

    def parts_of_kind(self, *kinds: str) -> list[Part]:
        """Parts of these kinds in the order of the build."""
        if len(kinds) == 1:
            return list(self._parts_by_kind.get(kinds[0], ()))
        return [part for part in self.parts.values() if part.kind in kinds]

    def lands(self, terminal: Terminal) -> Terminal:
        """Where a terminal really is: that of a fitted or housed part is its panel's or unit's."""
        return self._landings.get(terminal, terminal)

    @cached_property
    def _landings(self) -> Mapping[Terminal, Terminal]:
        return dict(pair for part in self.parts.values() for pair in landings(part, self.parts))

    @cached_property
    def _parts_by_kind(self) -> Mapping[str, list[Part]]:
        by_kind: dict[str, list[Part]] = {}
        for part in self.parts.values():
            by_kind.setdefault(part.kind, []).append(part)
        return by_kind

    @cached_property
    def derived(self) -> dict[str, Any]:
        """What others have worked out of this build and keep with it: a build never changes."""
        return {}

    def wired_parts(self) -> set[str]:
        """Ids of the parts on which a wire lands, and of those housed in a unit with wires."""
        wires = self.wires.values()
        wired = {end.part for wire in wires for end in (wire.from_terminal, wire.to_terminal)}
        housed = (part for part in self.parts.values() if part.housed)
        return wired | {part.id for part in housed if part.housed and part.housed.unit in wired}

    def loads_of(self, circuit: str) -> list[Part]:
        """The loads of a circuit in the order of the build."""
        return [part for part in self.parts_of_kind("load") if part.circuit == circuit]

    def wire_of(self, wire: Wire) -> str:
        """What a wire is to the builder: its function first, as in “Horn: its ground wire W7”."""
        ends = wire.from_terminal, wire.to_terminal
        returns = any(e.name == "-" or self.parts[e.part].kind == "ground point" for e in ends)
        word = "ground wire" if returns else "wire"
        if wire.circuit is None:
            return f"{word.capitalize()} {wire.label}"
        return f"{self.circuits[wire.circuit].name}: its {word} {wire.label}"


def landings(part: Part, parts: Mapping[str, Part]) -> Iterator[tuple[Terminal, Terminal]]:
    """The terminals of a fitted or housed part that really are those of its panel or unit."""
    if part.fitted is not None:
        panel, name = parts[part.fitted.panel], part.fitted.way
        bus = next(way.bus for way in panel.ways if way.name == name)
        yield Terminal(part.id, "in"), Terminal(panel.id, bus)
        yield Terminal(part.id, "out"), Terminal(panel.id, name)
    if part.housed is not None:
        for own, pin in part.housed.pins.items():
            yield Terminal(part.id, own), Terminal(part.housed.unit, pin)
