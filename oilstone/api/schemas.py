"""What the API takes and gives; the front end's types are made from these."""

from datetime import datetime
from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import Field, SkipValidation

from circuitry.design.model import PinFunction
from circuitry.edits.operations import Answer, DraftWants, Operation, Operations
from circuitry.edits.what_if import WhatChanges
from circuitry.recipes.regroup import Guard
from circuitry.stock.proposal import Alive, Bill, Dark, DraftStep
from circuitry.workshop import Workshop
from circuitry.workshop.evening import Evening
from circuitry.workshop.next_hour import NextHour

Key = Literal["off", "accessory", "run", "crank"]
FeedKey = Literal["always", "accessory", "run"]
Severity = Literal["stop", "look", "note"]
RowId = Annotated[int, Field(ge=0, lt=2**63)]
Revision = Annotated[int, Field(ge=0, lt=2**31)]
Pair = Annotated[list[str], Field(min_length=2, max_length=2)]


class MendView(Schema):
    """A way to put a finding right."""

    label: str
    operations: SkipValidation[list[Operation]]


class Problem(Schema):
    """Why a request was refused: a stable code, what it concerns, and the way out; edits after
    which it can be asked for again."""

    code: str
    where: str
    message: str
    mends: list[MendView] = []  # noqa: RUF012


class PhoneRequest(Schema):
    """Open the door for phones, or shut it; the page that the code leads to."""

    on: bool
    to: str = "/"


class PhoneView(Schema):
    """Whether the door for phones is open, and whether this request came in by it; the link that
    lets a phone in, and its square code as SVG."""

    on: bool
    through: bool
    link: str
    code: str


class WorkView(Schema):
    """What a request at work is doing, the share of it done from 0 to 1, and for how long."""

    doing: str
    share: float
    seconds: float


class PastEdit(Schema):
    """One edit in the history."""

    revision: int
    label: str
    kind: Literal["do", "undo", "redo"]
    at: datetime


class Conflict(Problem):
    """The base was stale: the newest revision, and the last edits since the base."""

    revision: int
    since: list[PastEdit]


class BuildSummary(Schema):
    """A build in the list of builds."""

    id: int
    name: str
    revision: int
    changed: datetime
    loads: int
    circuits: int
    deleted: datetime | None
    gone_at: datetime | None


class Created(Schema):
    """The id of a new build."""

    id: int


class PolicyView(Schema):
    """How the build decides where practitioners differ."""

    drop_school: str
    drop_limits_v: dict[str, float]
    flat_drop_v: float
    road_states: dict[str, list[str]]
    shelf: list[str]
    critical_drop_percent: float
    other_drop_percent: float
    fuse_headroom: float
    conductors: Literal["metric", "awg"]
    insulation: str
    joint: str
    end_extra_m: dict[str, float]
    colours: str
    palette: dict[str, str]
    sensor_pins: str
    charge_margin: float
    parked_days: float
    cut_to_m: float
    label_every_m: float
    label_letters: int
    spare_share: float
    drawer: dict[str, float]
    prices: dict[str, float]
    laying: str
    tapes: list[str]


class BodyView(Schema):
    """The figures that the plan of the car is drawn from."""

    style: str
    length_m: float
    width_m: float
    front_axle_m: float
    rear_axle_m: float
    engine: Literal["front", "middle", "rear"]
    doors: int


class PlaceView(Schema):
    """A named spot in the car."""

    id: str
    name: str
    zone: str
    ambient_c: float
    x_m: float
    y_m: float
    wet: bool
    level: Literal["floor", "waist", "roof"]


class RunView(Schema):
    """A way between two places; ``measured`` false while its length is only a guess."""

    id: str
    from_place: str
    to_place: str
    length_m: float
    cover: str
    passes: list[str]
    measured: bool
    fixings_mm: float
    hole_mm: float | None
    hole_fit: str


class PositionView(Schema):
    """One position of a switch."""

    name: str
    joins: list[list[str]]


class ContactsView(Schema):
    """The contact table of a switch; its first position is at rest."""

    common: str
    positions: list[PositionView]
    momentary: bool
    idle: list[str]


class FittedView(Schema):
    """The way of a panel that a fuse sits in."""

    panel: str
    way: str


class HousedView(Schema):
    """The unit that a part sits inside, and which of its terminals are which pins of the unit."""

    unit: str
    pins: dict[str, str]


class PinView(Schema):
    """A pin of a box: what it does, when it is on, and the most it may carry."""

    name: str
    function: PinFunction
    when: str
    limit_a: float | None


class PanelWay(Schema):
    """A way of a panel or a channel of a module."""

    name: str
    bus: str
    when: str
    limit_a: float | None
    soft_s: float
    joined: str


class PartView(Schema):
    """Anything with terminals; a load also has the current it takes at its test voltage."""

    id: str
    kind: str
    name: str
    place: str
    catalogue: str | None
    figures: dict[str, float | str]
    contacts: ContactsView | None
    ways: list[PanelWay]
    pins: list[PinView]
    fitted: FittedView | None
    housed: HousedView | None
    circuit: str | None
    state: str
    note: str
    terminals: list[str]
    rated_a: float | None
    output_word: str | None
    figures_as: str


class WireView(Schema):
    """One conductor between two terminals; ``size`` null means that sizing chooses."""

    id: str
    label: str
    from_terminal: str
    to_terminal: str
    size: str | None
    way: list[str] | None
    length_m: float | None
    colour: str
    circuit: str | None


class IntentView(Schema):
    """How the builder asked for a circuit."""

    key: FeedKey
    switch: str | None
    through: Literal["direct", "relay"]
    fuse: str


class WrittenView(Schema):
    """The recipe that wrote a circuit, and the answers it was given."""

    recipe: str
    answers: SkipValidation[dict[str, Answer]]


class CircuitView(Schema):
    """What belongs together for one function."""

    id: str
    name: str
    group: str
    criticality: str
    stage: int
    intent: IntentView | None
    written: WrittenView | None


class StretchView(Schema):
    """A piece of an old wire."""

    colour: str
    size: str
    ends_at: str
    joint: str
    length_m: float | None
    settled: bool


class FoundCircuitView(Schema):
    """A circuit found in an old loom."""

    id: str
    name: str
    stretches: list[StretchView]
    fuse_a: float | None
    condition: str
    goes_to: str
    decision: str
    note: str


class PinPairView(Schema):
    """One function in two harnesses."""

    id: str
    function: str
    old_plug: str
    old_pin: str
    old_colour: str
    new_plug: str
    new_pin: str
    new_colour: str
    proved: bool
    note: str


class HarnessCircuitView(Schema):
    """A circuit of a ready-made harness."""

    id: str
    name: str
    size: str
    length_m: float
    fuse_a: float | None
    serves: str | None
    note: str


class AcceptanceView(Schema):
    """A finding that the builder lives with, what it said then, and why."""

    id: str
    code: str
    parts: list[str]
    found: str
    limit: str
    reason: str


class ScenarioView(Schema):
    """What the car does for a while, as the builder says it."""

    id: str
    name: str
    key: str
    road: str
    pace: str
    engine_rpm: float
    outside_c: float
    charge: float
    charges: bool
    on: dict[str, float]
    shed: list[str]
    measured_a: float | None


class ReelAtHandView(Schema):
    """A reel of wire that is at hand."""

    id: str
    size: str
    colour: str
    length_m: float
    insulation: str | None


class BuildView(Schema):
    """A build at its newest revision, with the words of the next undo and redo."""

    id: int
    name: str
    revision: int
    changed: datetime
    body_conducts: bool
    policy: PolicyView
    body: BodyView
    harness_from: str | None
    places: list[PlaceView]
    runs: list[RunView]
    parts: list[PartView]
    wires: list[WireView]
    circuits: list[CircuitView]
    found_circuits: list[FoundCircuitView]
    pin_pairs: list[PinPairView]
    harness_circuits: list[HarnessCircuitView]
    acceptances: list[AcceptanceView]
    scenarios: list[ScenarioView]
    reels: list[ReelAtHandView]
    undo: str | None
    redo: str | None


class MakeView(Schema):
    """What a loom takes, and the steps that are done, by wire."""

    workshop: Workshop
    done: dict[str, list[str]]
    steps: list[str]


class MadeCount(Schema):
    """How many wires there are, how many are cut, and how many of these are wanted otherwise."""

    wires: int
    cut: int
    changed: int


class MadeRequest(Schema):
    """A step of making wires, done or taken back; ``stage`` is the one that is shown."""

    wires: list[str]
    step: str
    done: bool = True
    stage: int | None = None


class JournalLineView(Schema):
    """A line that the builder wrote, with the minutes that it took."""

    id: int
    words: str
    stage: str
    minutes: int


class EveningView(Schema):
    """What was done in an evening."""

    day: str
    edits: list[str]
    made: list[str]
    proved: list[str]
    found: list[str]
    photos: int
    lines: list[JournalLineView]


class WaitView(Schema):
    """Something that is not done yet, and the view that it is in."""

    view: str
    says: str


class JournalView(Schema):
    """The journal, what waits and what comes next; minutes that were written down by stage.

    ``today`` is the evening that it is.
    """

    today: str
    evenings: list[EveningView]
    waits: list[WaitView]
    next: NextHour | None
    minutes: dict[str, int]


class JournalRequest(Schema):
    """A line for the journal."""

    words: Annotated[str, Field(max_length=1000)]
    stage: Annotated[str, Field(max_length=20)] = ""
    minutes: Annotated[int, Field(ge=0, le=1440)] = 0


class RevisionView(Schema):
    """One edit, and what the builder calls the build after it."""

    revision: int
    label: str
    name: str
    kind: Literal["do", "undo", "redo"]
    at: datetime


class RevisionName(Schema):
    """What a revision is called."""

    name: Annotated[str, Field(max_length=80)]


class WhatItTakes(Schema):
    """What an edit asks of an evening: ``again`` are the steps of the proof, of so many that are
    ``proved``, that would have to be proved again; ``pins`` keep what is in the car as it is, and
    ``brought`` is what is found then."""

    evening: Evening
    again: list[str]
    proved: int
    pins: list[dict[str, Any]]
    brought: list[str]


class FunctionElsewhere(Schema):
    """A circuit of another build that a recipe wrote."""

    id: str
    name: str


class FunctionsElsewhere(Schema):
    """What recipes wrote in another build."""

    build: int
    name: str
    circuits: list[FunctionElsewhere]


class CompareView(Schema):
    """Two revisions, or another build and this one: what is different between them, in things and
    in figures."""

    before: int
    after: int
    changes: list["ChangeView"]
    figures: WhatChanges


class CatalogueLoad(Schema):
    """A load of the catalogue with its typical figures."""

    name: str
    group: str
    kind: str
    rated_w: float | None
    rated_a: float | None
    test_v: float
    note: str


class SwitchOutputView(Schema):
    """An output of a switch and the key position that feeds it; null: not fed yet."""

    terminal: str
    name: str
    key: str | None


class FuseChoiceView(Schema):
    """A fuse that can be shared, the key position it is live from, and its circuits."""

    fuse: str
    name: str
    key: str | None
    circuits: list[str]


class WayView(Schema):
    """A way of a panel, the key position that feeds it, and the fuse in it."""

    panel: str
    way: str
    key: str | None
    fuse: str | None


class ChoicesView(Schema):
    """Everything that a new circuit can be tied to."""

    switches: list[SwitchOutputView]
    fuses: list[FuseChoiceView]
    ways: list[WayView]


class CandidateView(Schema):
    """One size that was weighed, and why it was refused or taken."""

    name: str
    carries_a: float
    drop_percent: float | None
    passes: bool
    reason: str


class WireResult(Schema):
    """The size of one wire and the reasons for it."""

    wire: str
    size: str
    pinned: bool
    current_a: float
    lasting_a: float
    when: str
    carries_a: float
    must_carry_a: float
    length_m: float
    ambient_c: float
    insulation: str
    runs: list[str]
    fuse: str | None
    behind: str | None


class FuseResult(Schema):
    """The rating of one fuse and the reasons for it."""

    fuse: str
    rating_a: float
    pinned: bool
    current_a: float
    lasting_a: float
    carries_a: float
    bears_a: float
    when: str


class LoadResult(Schema):
    """The worst state of one load, with the wire that feeds it and the fuse that it is behind."""

    load: str
    wire: str | None
    fuse: str | None
    volts: float
    amps: float
    drop_v: float
    drop_percent: float
    limit_v: float
    limit_percent: float
    road: str
    when: str


class CircuitResult(Schema):
    """One line of the ledger."""

    circuit: str
    current_a: float
    fuse: str | None
    fuses: int
    size: str | None
    drop_v: float | None
    drop_percent: float | None
    limit_v: float | None
    limit_percent: float | None
    worst_load: str | None
    verdict: Literal["stop", "look", "note", "fine"]


class SchoolView(Schema):
    """A school of how much may be lost on the way."""

    name: str
    says: str


class DropLimitView(Schema):
    """What a kind of load may lose in V from 12 V: the usual, and the builder's own."""

    kind: str
    usual_v: float
    own_v: float | None
    note: str
    loads: list[str]


class RoadStateView(Schema):
    """What is on in a road state, usually and as the builder has named it, and what it draws."""

    name: str
    key: str
    on: list[str]
    usual: list[str]
    named: bool
    battery_a: float | None


class ReelView(Schema):
    """A size of wire: whether it is on the shelf, and what the car needs of it.

    ``without_kg`` is the copper that doing without it costs; None where no next size fits.
    """

    size: str
    area_mm2: float
    on_shelf: bool
    usual: bool
    length_m: float
    wires: int
    copper_kg: float
    without_kg: float | None
    instead: str | None


class RulesView(Schema):
    """By what a build is sized, and what that takes."""

    school: str
    schools: list[SchoolView]
    limits: list[DropLimitView]
    roads: list[RoadStateView]
    reels: list[ReelView]
    copper_kg: float


class MendedView(Schema):
    """The operations that mend all that is safe, what they mend, and what is left."""

    operations: SkipValidation[list[Operation]]
    mends: list[str]
    left: list[str]


class WhatIfRequest(Schema):
    """A question before deciding; each needs one of the others at most."""

    question: Literal[
        "lamps to LED",
        "battery elsewhere",
        "a reel used up",
        "a load takes",
        "hotter",
        "another school",
    ]
    part: str | None = None
    place: str | None = None
    size: str | None = None
    amount: float | None = None
    school: str | None = None


class MovedView(Schema):
    """One figure before and after."""

    name: str
    before: str
    after: str


class WhatIfAnswer(Schema):
    """What would change, and the operations that would make it so."""

    label: str
    operations: SkipValidation[list[Operation]]
    wires: list[MovedView]
    fuses: list[MovedView]
    drops: list[MovedView]
    findings_gone: list[str]
    findings_new: list[str]
    copper_kg_before: float
    copper_kg_after: float
    reels_before: int
    reels_after: int


class CurveView(Schema):
    """A line of points: current in A and time in s."""

    amps: list[float]
    seconds: list[float]


class WireCurveView(Schema):
    """How long a wire bears a current."""

    wire: str
    label: str
    size: str
    curve: CurveView


class StartingView(Schema):
    """What a load takes while it starts, and after."""

    load: str
    name: str
    inrush_a: float
    inrush_s: float
    running_a: float


class StartView(Schema):
    """The start of loads, or their stop at the end, that comes nearest to parting a fuse."""

    loads: list[StartingView]
    amps: float
    seconds: float
    bears_s: float
    at_the_stop: bool


class TimeCurrentView(Schema):
    """The picture of one fuse, the wires that it guards and the loads behind it."""

    fuse: str
    name: str
    rating_a: float
    least: CurveView
    most: CurveView
    wires: list[WireCurveView]
    loads: list[StartingView]
    start: StartView | None
    margin: float | None
    worst_a: float | None
    worst_wire: str | None
    survives: bool
    guards: bool


class SpotView(Schema):
    """A point of a wire: where it is, the air there and the conductor."""

    at_m: float
    where: str
    grouping: float
    ambient_c: float
    conductor_c: float


class OverloadView(Schema):
    """The hottest spot of a wire under a current that goes on."""

    amps: float
    seconds: list[float]
    celsius: list[float]
    limit_s: float | None
    damage_s: float | None
    parts_s: list[float | None]
    safe: bool


class WireHeatView(Schema):
    """How warm a wire gets, along its way and in time under an overload."""

    wire: str
    label: str
    size: str
    behind: str | None
    current_a: float
    lasting_a: float
    limit_c: float
    damage_c: float
    most_a: float
    spots: list[SpotView]
    overload: OverloadView


class FindingView(Schema):
    """Something to look at; ``accepted`` is why the builder lives with it, ``once_accepted`` why
    they did when it said something else."""

    id: str
    code: str
    severity: Severity
    parts: list[str]
    circuit: str | None
    title: str
    found: str
    limit: str
    why: str
    mends: list[MendView]
    about: str
    accepted: str
    once_accepted: str


class Results(Schema):
    """What sizing answers for one revision."""

    wires: dict[str, WireResult]
    fuses: dict[str, FuseResult]
    loads: dict[str, LoadResult]
    circuits: dict[str, CircuitResult]
    findings: list[FindingView]


class EditRequest(Schema):
    """Operations to apply to a revision as one edit; see docs/formats/operations."""

    base: Revision
    label: Annotated[str, Field(min_length=1, max_length=200)]
    operations: SkipValidation[Operations]
    """Read by the core, whose words say what is wrong with one."""


class MoveRequest(Schema):
    """The revision that an undo or a redo starts from."""

    base: Revision


class ChangeView(Schema):
    """One thing before and after; ``index`` is where it stands among its like."""

    collection: str
    id: str
    before: dict[str, Any] | None
    after: dict[str, Any] | None
    index: int


class EditAnswer(Schema):
    """What an edit, or its preview, changes, and the new results."""

    revision: int
    changes: list[ChangeView]
    results: Results


class FallPointView(Schema):
    """A point of a fall line."""

    distance_m: float
    volts: float


class FallStepView(Schema):
    """One element of a fall line."""

    kind: str
    owner: str
    name: str
    detail: str
    side: Literal["feed", "load", "return"]
    from_terminal: str
    to_terminal: str
    length_m: float
    amps: float
    loss_v: float
    points: list[FallPointView]


class FallLineView(Schema):
    """The fall line of one load, and the state it was solved in, in words.

    ``road`` is the road state that it is drawn in, ``roads`` are those in which the load is on;
    ``worst`` is the number of the step that loses most.
    """

    load: str
    when: str
    road: str
    roads: list[str]
    limit_v: float | None
    steps: list[FallStepView]
    worst: int
    battery_v: float
    load_v: float
    feed_loss_v: float
    return_loss_v: float


class LosableView(Schema):
    """A data bus, module, keypad or control box that can be lost."""

    id: str
    name: str
    kind: str


class ValueView(Schema):
    """A value that something in the car goes by: what it is called, while nobody says otherwise,
    and at most."""

    name: str
    said: str
    unit: str
    usual: float
    most: float


class MeterReadingView(Schema):
    """What a meter shows; null where it floats or refuses, which its words say."""

    kind: str
    value: float | None
    unit: str
    words: str
    peak: float | None
    lit_percent: float | None
    expected: float | None
    verdict: str


class PointerView(Schema):
    """Where the pointer of a gauge stands: in % of its scale, which it may leave, and in words."""

    percent: float
    words: str


class FrameView(Schema):
    """What is to be shown of an instant; lists are in the order of the session's ids."""

    t_s: float
    key: Key
    battery_v: float
    battery_a: float
    charge: float
    engine_rpm: float
    coolant_c: float
    engine_runs: bool
    settled: bool
    load_v: list[float]
    load_a: list[float]
    load_percent: list[float]
    on: list[str]
    wire_a: list[float]
    wire_v: list[float | None]
    wire_c: list[float]
    fuse_used: list[float]
    alternator_a: float
    pulled_in: list[str]
    parted: list[str]
    pulled: list[str]
    tripped: list[str]
    awake: list[str]
    positions: dict[str, str]
    lamps: dict[str, str]
    blades: dict[str, float]
    travels: dict[str, float]
    meters: dict[str, MeterReadingView]
    pointers: dict[str, PointerView]
    senders: dict[str, float]
    quiet: list[str]


class EventView(Schema):
    """Something that happened at the bench, and why where that is known."""

    t_s: float
    kind: str
    what: str
    why: str
    of: list[str]


class FaultView(Schema):
    """A fault that is in the car; one dealt blind does not say where."""

    id: str
    words: str
    blind: bool


class MeterView(Schema):
    """A meter on the car, and where it is."""

    kind: str
    red: str | None = None
    black: str | None = None
    wire: str = ""
    limit_a: float = 0.0


class JudgedView(Schema):
    """A guess at a fault that was dealt, and what it took."""

    right: bool
    tests: int
    minutes: float
    was: str
    circuit: str | None


class KeptView(Schema):
    """A session that is kept: how long it is, and how much is done in it."""

    id: int
    name: str
    ends_s: float
    actions: int


class SessionView(Schema):
    """A build at the bench: the order of lists in frames, what is set, what has happened."""

    revision: int
    version: int
    t_s: float
    ends_s: float
    rate: float
    loads: list[str]
    wires: list[str]
    fuses: list[str]
    by_hand: list[str]
    senders: dict[str, float]
    values_by_hand: list[str]
    lost: list[str]
    faults: list[FaultView]
    meters: dict[str, MeterView]
    guesses: list[JudgedView]
    kept: list[KeptView]
    can_be_lost: list[LosableView]
    values: list[ValueView]
    frame: FrameView
    tape: list[EventView]
    told: int


class DoRequest(Schema):
    """Things to do at the bench now, each as an action of a script without its time."""

    actions: Annotated[list[dict[str, Any]], Field(max_length=200)]


class TimeRequest(Schema):
    """How time is to pass: its rate, a step at once, or a time to go to."""

    rate: Annotated[float, Field(ge=0, le=100)] | None = None
    step_s: Annotated[float, Field(gt=0, le=3600)] | None = None
    to_s: Annotated[float, Field(ge=0, le=86400)] | None = None


class ScriptRequest(Schema):
    """A script to play: its actions in the order of their times."""

    actions: Annotated[list[dict[str, Any]], Field(max_length=20_000)]
    ends_s: float | None = None


class ScriptView(Schema):
    """What has been done at the bench, as a script that can be played again."""

    actions: list[dict[str, Any]]
    ends_s: float


class KeepRequest(Schema):
    """The name to keep a session under."""

    name: Annotated[str, Field(min_length=1, max_length=80)]


class OpenRequest(Schema):
    """A session that is kept, to be played again; up to a time where one is given."""

    session: int
    to_s: float | None = None


class DealRequest(Schema):
    """How hard the fault is to be that is dealt."""

    hard: Literal["easy", "fair", "nasty"]


class GuessRequest(Schema):
    """The wire or part that is thought to have the fault; null gives up."""

    of: Annotated[str, Field(min_length=1, max_length=64)] | None


class ThingView(Schema):
    """A wire, part or choice by its id and name."""

    id: str
    name: str


class FaultKindView(Schema):
    """A kind of fault, what can have it, and the ohms that it takes where it takes any."""

    kind: str
    words: str
    on: str
    takes_ohm: float | None
    fits: list[ThingView]


class StepOperation(Schema):
    """Put this in this position, and hold it there if it springs back; ``said`` in words. A
    ``jumper`` stands in for it."""

    part: str
    name: str
    position: str
    held: bool
    jumper: bool
    said: str


class StepLook(Schema):
    """Something to see, and the word for it when it is right."""

    id: str
    name: str
    place: str
    right: str
    load: str | None
    waits: bool


class StepReading(Schema):
    """Something to measure. ``expected`` null is open, ``high`` null has no limit; ``too_low`` and
    ``too_high`` say what such a reading points to, ``tells`` what it cannot tell apart."""

    id: str
    name: str
    where: str
    unit: str
    expected: float | None
    low: float
    high: float | None
    too_low: str
    too_high: str
    tells: str
    waits: bool
    red: str | None
    black: str | None
    wire: str | None


class StepView(Schema):
    """One step of the proof; ``token`` is what it is now, ``key``, ``switches`` and ``values`` what
    the bench has to be put in for it, ``change`` the step of the change-over to modules in which
    its circuit goes."""

    id: str
    section: str
    circuit: str | None
    circuit_name: str
    stage: int
    change: str
    title: str
    how: str
    place: str
    cautions: list[str]
    goes_in: list[str]
    stays_out: list[str]
    operate: list[StepOperation]
    looks: list[StepLook]
    readings: list[StepReading]
    waits_for: list[str]
    minutes: float
    token: str
    key: Key | None
    switches: dict[str, str]
    values: dict[str, float]


class SectionView(Schema):
    """A part of the proof."""

    id: str
    title: str


class JumperView(Schema):
    """A wire across a switch stands in for a position of it."""

    part: str
    position: str


class TodayView(Schema):
    """The car as it stands: its battery as measured, parts that are not there yet, and jumpers."""

    battery_v: float | None
    battery_at: datetime | None
    missing: list[str]
    jumpers: list[JumperView]


class TodayRequest(Schema):
    """What has changed of it; volts as typed, empty to forget them."""

    battery: Annotated[str, Field(max_length=20)] | None = None
    missing: Annotated[list[str], Field(max_length=500)] | None = None
    jumpers: Annotated[list[JumperView], Field(max_length=100)] | None = None


class PlanView(Schema):
    """The whole proof; ``changes`` are the steps of a change-over to modules, in their order."""

    revision: int
    sections: list[SectionView]
    amiss: list[str]
    today: TodayView
    minutes: float
    changes: list[str]
    steps: list[StepView]


class RecordedReading(Schema):
    """A reading that was kept, with the band that it was judged by."""

    id: str
    name: str
    unit: str
    text: str
    value: float | None
    expected: float | None
    low: float
    high: float | None
    verdict: str
    hint: str = ""


class RecordedLook(Schema):
    """What was looked at; ``seen`` is empty where it was right."""

    id: str
    name: str
    right: str
    seen: str


class SeenBand(Schema):
    """What the sheet said to expect when it was measured."""

    name: Annotated[str, Field(max_length=200)]
    unit: Literal["V", "A", "Ω"]
    expected: Annotated[float, Field(ge=-1e9, le=1e9)] | None
    low: Annotated[float, Field(ge=-1e9, le=1e9)]
    high: Annotated[float, Field(ge=-1e9, le=1e9)] | None


class ProofRequest(Schema):
    """A step tried on the car: what was typed by reading, what was seen by look, and the builder's
    verdict. ``token`` and ``bands`` are what the step was when it was looked at; ``mark`` is made
    by whoever records, so that one sent twice is kept once."""

    step: Annotated[str, Field(min_length=1, max_length=120)]
    token: Annotated[str, Field(max_length=40)]
    title: Annotated[str, Field(max_length=300)] = ""
    passed: bool
    readings: Annotated[dict[str, str], Field(max_length=100)] = Field(default_factory=dict)
    looks: Annotated[dict[str, str], Field(max_length=100)] = Field(default_factory=dict)
    bands: Annotated[dict[str, SeenBand], Field(max_length=100)] = Field(default_factory=dict)
    note: Annotated[str, Field(max_length=500)] = ""
    who: Annotated[str, Field(max_length=40)] = ""
    mark: Annotated[str, Field(min_length=8, max_length=40)]
    said_at: datetime | None = None


class ProofView(Schema):
    """A kept proof; ``again`` says why it has to be done again, empty where it stands."""

    id: int
    step: str
    title: str
    circuit: str
    at: datetime
    revision: int
    passed: bool
    note: str
    who: str
    readings: list[RecordedReading]
    looks: list[RecordedLook]
    again: str


class ProofState(Schema):
    """The newest proof of a step, and how many are kept of it."""

    step: str
    title: str
    circuit: str
    passed: bool
    at: datetime
    who: str
    again: str
    kept: int


class ProofStates(Schema):
    """The newest proof of every step that has one; ``steps`` is how many the proof has, where it
    has been written."""

    steps: int | None
    states: list[ProofState]


class SeenRequest(Schema):
    """What a load was seen to do at a step of Power up: one of its words, or ``works``."""

    step: Annotated[str, Field(max_length=120)]
    load: Annotated[str, Field(max_length=64)]
    word: Annotated[str, Field(max_length=40)]


class TestMade(Schema):
    """A test that was made: a reading as typed, or the word of what was seen; neither where it
    cannot be made and another is wanted."""

    id: Annotated[str, Field(max_length=200)]
    reading: Annotated[str, Field(max_length=20)] | None = None
    word: Annotated[str, Field(max_length=120)] | None = None


class DiagnosisRequest(Schema):
    """What is known of a fault: what was seen, the tests made in their order, and what it was not.
    With ``by_proofs`` what Power up has recorded is known too; ``without`` tools that are not at
    hand."""

    seen: Annotated[list[SeenRequest], Field(max_length=200)] = Field(default_factory=list)
    tests: Annotated[list[TestMade], Field(max_length=60)] = Field(default_factory=list)
    not_it: Annotated[list[str], Field(max_length=60)] = Field(default_factory=list)
    by_proofs: bool = True
    without: list[Literal["meter", "test lamp", "fused jumper"]] = Field(default_factory=list)


class SuspectView(Schema):
    """A part or wire, what may be wrong with it, and its share of what is likely."""

    of: str
    words: str
    share: float
    circuit: str | None


class SearchOutcome(Schema):
    """One way that a test can come out, how likely, and whom it leaves: readings as a span, else
    the word to tell back and what it says."""

    words: str
    said: str
    low: float | None
    high: float | None
    share: float
    left: int
    suspects: list[str]


class TestView(Schema):
    """A test that tells suspects apart; ``unit`` is empty where it is a look."""

    id: str
    kind: str
    title: str
    how: str
    place: str
    minutes: float
    cautions: list[str]
    unit: str
    outcomes: list[SearchOutcome]


class ObservedView(Schema):
    """Something that is known: at which step, where, what, and whether it is amiss."""

    step: str
    title: str
    name: str
    word: str
    amiss: bool


class DiagnosisView(Schema):
    """Where the search stands: what is known, how many suspects are left, the likeliest, and the
    next best tests. ``nothing`` is that nothing is amiss yet; ``since`` is the last edit since what
    is amiss was last right, ``minutes`` what the tests made usually take."""

    nothing: bool
    since: str
    minutes: float
    sure: bool
    left: int
    observed: list[ObservedView]
    made: list[str]
    suspects: list[SuspectView]
    tests: list[TestView]


Line = Annotated[str, Field(max_length=500)]


class MendedFaultRequest(Schema):
    """A fault that was found and mended: what it was, what had been seen, and the tests made."""

    of: Annotated[str, Field(max_length=64)]
    words: Annotated[str, Field(min_length=1, max_length=300)]
    seen: Annotated[list[Line], Field(max_length=100)] = []  # noqa: RUF012
    tests: Annotated[list[Line], Field(max_length=100)] = []  # noqa: RUF012
    minutes: Annotated[float, Field(ge=0, lt=1e5)] = 0
    note: Annotated[str, Field(max_length=500)] = ""
    who: Annotated[str, Field(max_length=40)] = ""
    mark: Annotated[str, Field(min_length=1, max_length=40)]


class MendedFaultView(Schema):
    """A fault that was found and mended, and when."""

    id: int
    of: str
    words: str
    seen: list[str]
    tests: list[str]
    minutes: float
    note: str
    who: str
    at: datetime


class ColumnView(Schema):
    """A column of the stock list."""

    key: str
    title: str
    unit: str


class StockRowView(Schema):
    """A row of the stock list as text; ``yours`` are the columns with the builder's own figures."""

    part: str
    kind: str
    group: Literal["loads", "switches", "sensors", "boxes", "feeds"]
    function: str
    place: str
    cells: dict[str, str]
    yours: list[str]
    wiring: str
    circuit: str | None
    shares: int


class StockView(Schema):
    """The stock list: columns, rows, and what each group of rows can be."""

    columns: list[ColumnView]
    rows: list[StockRowView]
    kinds: dict[str, list[str]]


class TypedRowRequest(Schema):
    """Cells for a row; ``part`` null adds one."""

    part: str | None = None
    cells: dict[str, str]


class CellsRequest(Schema):
    """Cells to judge before they are set."""

    rows: Annotated[list[TypedRowRequest], Field(max_length=5000)]
    new_places: bool = False
    by_name: bool = False


class CellProblemView(Schema):
    """A cell that cannot stand, by the number of its row, and what was expected."""

    row: int
    column: str
    message: str


class TableView(Schema):
    """A table read from a file as text, and the column that each heading likely means."""

    name: str
    headings: list[str]
    rows: list[list[str]]
    notes: list[str]
    columns: list[str | None]


class KindOfCarRequest(Schema):
    """What the builder says of a car before anything is listed."""

    name: Annotated[str, Field(min_length=1, max_length=80)]
    style: str
    shell: str
    seats: Annotated[int, Field(ge=1, le=9)]
    doors: Annotated[int, Field(ge=0, le=6)]
    engine: str
    battery: str
    road_lamps: bool
    options: Annotated[list[str], Field(max_length=20)]
    length_m: Annotated[float, Field(ge=1.5, le=12)] | None = None
    width_m: Annotated[float, Field(ge=0.8, le=3)] | None = None
    conductors: Literal["metric", "awg"] = "metric"


class KindsOfCar(Schema):
    """What each answer can be; lengths and widths in m usual for each style."""

    styles: list[str]
    shells: list[str]
    engines: list[str]
    batteries: list[str]
    options: list[str]
    sizes_m: dict[str, Annotated[list[float], Field(min_length=2, max_length=2)]]


class RunLayout(Schema):
    """A run as laid out: its straight distance on the plan and the bundle in it."""

    drawn_m: float
    far: bool
    wires: list[str]
    diameter_mm: float
    mass_g: float


class WireLayout(Schema):
    """A wire as laid out: its runs in order, its length, and whether the runs are pinned."""

    runs: list[str]
    length_m: float
    size: str
    pinned: bool
    has_way: bool


class LoomView(Schema):
    """A loom in figures."""

    metres: dict[str, float]
    total_m: float
    copper_kg: float
    mass_kg: float
    worst_load: str | None
    worst_drop_percent: float | None
    worst_limit_percent: float | None
    stops: int
    looks: int


class ZoneView(Schema):
    """What a new place of a zone starts with."""

    ambient_c: float
    wet: bool


class LayoutView(Schema):
    """Runs and wires as laid out, the loom in figures, and what is usual.

    ``ends_m`` is what is usually added at an end of a wire, by kind of part.
    """

    runs: dict[str, RunLayout]
    wires: dict[str, WireLayout]
    loom: LoomView
    zones: dict[str, ZoneView]
    ends_m: dict[str, float]
    sensor_pins: list[str]


class PlacementRequest(Schema):
    """Another place for a part."""

    part: str
    place: str


class PlacementView(Schema):
    """The loom before and after."""

    before: LoomView
    after: LoomView


class RemarkView(Schema):
    """One thing to know of an entry."""

    severity: Severity
    text: str


class HarnessVerdictView(Schema):
    """What a harness circuit is good for."""

    circuit: str
    verdict: Literal["served", "spare", "too thin", "too short"]
    load: str | None
    amps: float | None
    carries_a: float | None
    drop_percent: float | None
    needs_m: float | None
    text: str


class AuditView(Schema):
    """Remarks by id of entry, verdicts on a harness, loads that none of its circuits serves."""

    found_circuits: dict[str, list[RemarkView]]
    pin_pairs: dict[str, list[RemarkView]]
    harness_circuits: dict[str, HarnessVerdictView]
    missing: list[str]
    colours: dict[str, str]


class PhotoView(Schema):
    """A photo of a thing of a build."""

    id: int
    collection: str
    identity: str
    caption: str
    width: int
    height: int
    at: datetime


class QuestionView(Schema):
    """One thing that a recipe asks, and what it takes as usual in this build."""

    name: str
    kind: str
    label: str
    rows: list[str]
    choices: list[str]
    of_kind: list[str]
    optional: bool
    usual: SkipValidation[Answer]
    suits: list[str]
    help: str


class RecipeView(Schema):
    """A function of a car that can be written into a build."""

    id: str
    title: str
    group: str
    summary: str
    caution: str
    wrong: list[str]
    questions: list[QuestionView]


class PortView(Schema):
    """A terminal on the edge of a symbol, in px."""

    name: str
    side: Literal["left", "right"]
    x: float
    y: float


class DrawnTextView(Schema):
    """Words of a drawing at a place in px."""

    x: float
    y: float
    text: str
    anchor: Literal["start", "middle", "end"]
    role: Literal["name", "detail", "port"]


class SymbolView(Schema):
    """A symbol of a schematic, in px: its frame, strokes, dots, sign, words and ports."""

    id: str
    kind: str
    part: str | None
    name: str
    detail: str
    x: float
    y: float
    width: float
    height: float
    frame: list[float] | None
    strokes: str
    dots: list[list[float]]
    sign: str
    sign_x: float
    sign_y: float
    sign_scale: float
    texts: list[DrawnTextView]
    ports: list[PortView]


class LineView(Schema):
    """A wire of a schematic, or a join inside a unit, as corners in px, with its colours as they
    are drawn and what is written along it."""

    wire: str | None
    base: str
    tracer: str
    points: list[list[float]]
    said: DrawnTextView | None


class SchematicView(Schema):
    """A drawing made by rule."""

    width: float
    height: float
    symbols: list[SymbolView]
    lines: list[LineView]
    joints: list[list[float]]


class LeverView(Schema):
    """A switch, the key, a sensor or a value, with its positions."""

    part: str
    name: str
    positions: list[str]


class TestOutcome(Schema):
    """What a load does."""

    word: Literal["off", "dim", "on", "flashing", "reverse"]
    volts: float
    amps: float


class TruthRowView(Schema):
    """Positions of the levers, and what each load does there."""

    positions: list[list[str]]
    outcomes: list[TestOutcome]


class TruthTableView(Schema):
    """Rows over levers and loads; ``held`` are levers that rest."""

    levers: list[LeverView]
    held: list[LeverView]
    loads: list[str]
    rows: list[TruthRowView]


class LoadOnFeed(Schema):
    """A circuit on a way or a ground, with its largest current."""

    circuit: str
    name: str
    current_a: float


class FeedWay(Schema):
    """A way or channel: what is in it, what it spares, and what it feeds."""

    name: str
    fuse: str | None
    fuse_name: str | None
    rating_a: float | None
    spare_a: float | None
    key: str | None
    when: str
    sums_a: dict[str, float]
    circuits: list[LoadOnFeed]


class FeedPoint(Schema):
    """One point of the supply, and what it feeds."""

    id: str
    kind: str
    name: str
    detail: str
    key: str | None
    rating_a: float | None
    spare_a: float | None
    sums_a: dict[str, float]
    rings: int
    most_rings: int | None
    ways: list[FeedWay]
    points: list["FeedPoint"]


class GroundView(Schema):
    """A ground point: its way back, its wires and what it returns."""

    id: str
    name: str
    place: str
    rings: int
    most_rings: int | None
    back: str
    sums_a: dict[str, float]
    circuits: list[LoadOnFeed]


class FeedsView(Schema):
    """The supply tree, what nothing feeds, and the ground points."""

    root: FeedPoint
    loose: list[FeedPoint]
    grounds: list[GroundView]


class ConditionRequest(Schema):
    """A condition to look at, for an output of a part."""

    part: str
    when: str = Field(max_length=300)


class FoundView(Schema):
    """One thing found."""

    kind: str
    id: str
    title: str
    detail: str
    circuit: str | None
    terminal: str | None


class FigureView(Schema):
    """A figure that a kind of part takes, and what counts while it is not given."""

    name: str
    said: str
    unit: str
    usual: float | None


class DraftRequest(DraftWants):
    """What a draft of the wiring cannot know; ``sized`` asks for what it comes to as well."""

    sized: bool = False


class DraftView(Schema):
    """The wiring of everything in the list that has none, and what it takes."""

    steps: list[DraftStep]
    counts: dict[str, int]
    wires: int
    length_m: float
    ways: int
    ways_free: int
    ways_added: int
    darkest: list[Dark]
    alive: list[Alive]
    keeps: bool
    guards: list[Guard]
    beside: list[str]
    bill: Bill | None


class KindView(Schema):
    """What can be done with a kind of part by hand, and what a new one can be."""

    kind: str
    added_by_hand: bool
    is_shared: bool
    row_changes: bool
    is_put_into_wires: bool
    points: str
    has_usual: bool
    choices: list[str]


class HelpLine(Schema):
    """One thing to know at a stage of the route card."""

    stage: str
    says: str


class WordView(Schema):
    """A word of the trade, and the stages where it is met, by spaces."""

    word: str
    meaning: str
    stages: str


class HelpView(Schema):
    """Help at each stage, and the words of the trade."""

    stages: list[HelpLine]
    words: list[WordView]


class PartsCatalogue(Schema):
    """What can be chosen for parts by hand."""

    kinds: list[KindView]
    colours: dict[str, str]
    palette: dict[str, str]
    colour_policies: list[str]
    pin_functions: list[PinFunction]
    switched_functions: list[str]
    figures: dict[str, list[FigureView]]
    conductors: dict[str, list[str]]
