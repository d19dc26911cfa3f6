"""Tests that tell suspects apart: where to put the probes, what to look at, what to take by itself;
what each outcome would mean, and how long each takes."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

import networkx as nx
import numpy as np

from circuitry.bench.faults import Fault
from circuitry.bench.meters import JUMPER_OHM
from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.load import output_word
from circuitry.diagnosis.predicted import Predictor
from circuitry.diagnosis.seen import MISTAKEN, near, readings, within_of
from circuitry.diagnosis.suspects import concerns
from circuitry.network.equations import Numbers, Vector
from circuitry.proving.facts import short
from circuitry.proving.situation import Probe, Situation
from circuitry.proving.words import end_said, listed, wire_said
from circuitry.reach.paths import paths_of

REACH_MIN = {
    "engine bay hot": 1.0,
    "engine bay": 1.0,
    "cabin": 1.0,
    "luggage": 1.0,
    "underbody": 4.0,
    "door": 4.0,
    "exterior": 2.0,
}
"""Minutes to get a probe, or an eye, to something in a zone; typical."""
AT_HAND = ("panel", "battery", "stud", "bus bar", "module", "ground point")
AT_HAND_MIN, DASH_OUT_MIN = 0.5, 3.0
SET_UP_MIN, PROBE_MIN, SEE_MIN, LOOK_EACH_MIN = 0.3, 0.3, 0.2, 0.1
ALONE_MIN, TAKE_OFF_MIN, SWAP_MIN = 3.0, 0.5, 0.5
LAMP_OHM, LAMP_LOOSE_V = 8.7, 2.0
"""A lamp of 21 W as it is hot, and what it reads beside that while it is cold: a third of the ohms,
or less (as of any filament lamp)."""
METER, TEST_LAMP, JUMPER = TOOLS = ("meter", "test lamp", "fused jumper")
"""What a test may need that is not at hand."""
AS_IT_SHOULD = "as it should be"
STAYS_DARK, STAYS_LIT = "the lamp stays dark", "none of them puts it out"
HEALED, THE_SAME = "it works with the other", "just the same"
BY_SWAP = (
    *("stuck relay", "welded relay", "missing relay", "four-pin relay"),
    *("blown lamp", "missing lamp", "wrong lamp"),
)
"""What goes with the relay or lamp that is taken out."""
WHEN_MOVED = ("open wire", "bad joint", "chafe", "missing ground", "plug off")
"""What comes and goes as it is moved."""
MOVED_TELLS, MOVE_EACH_MIN = 0.6, 0.1
"""How often that shows at one of its ends, typical: else it lies elsewhere, or shows nothing."""
WAYS_THERE = 3
"""So many ways from a point are worth taking off by turns."""
VISIBLE = {
    "blown fuse": "blown",
    "missing fuse": "missing",
    "wrong fuse": "of another rating",
    "missing relay": "missing",
    "four-pin relay": "has four pins",
    "missing ground": "ring off, or paint under it",
    "wrong stud": "on another stud",
    "plug off": "not joined",
    "wrong plug": "in its neighbour",
    "blown lamp": "blown",
    "missing lamp": "missing",
    "wrong lamp": "another lamp",
    "lamps exchanged": "another lamp",
}
BY_ITSELF = {
    "open wire": "open",
    "bad joint": "too many ohms",
    "short to ground": "touches ground",
    "chafe": "touches ground when it is moved",
    "short to wire": "touches another wire",
}


@dataclass(frozen=True)
class Outcome:
    """One way that a test can come out: in words, the readings that it spans where it is measured,
    how likely it is, how many suspects it leaves, and the likeliest of them."""

    words: str
    low: float | None
    high: float | None
    share: float
    left: int
    suspects: tuple[str, ...]


@dataclass(frozen=True)
class Test:
    """A test: its kind (volts, see, look, move, alone, swap, refit or turns), what to do in a line,
    where, the minutes that it takes, the situation and probe of a reading, and the things that are
    looked at; ``behind`` is what hangs on each of them where they are taken off by turns, and
    ``tells`` how often what is wrong there shows. ``loose_v`` more than a meter is out by may a
    reading differ. ``tools`` are what it needs."""

    id: str
    kind: str
    title: str
    how: str
    place: str
    minutes: float
    things: tuple[str, ...]
    cautions: tuple[str, ...] = ()
    situation: Situation | None = None
    probe: Probe | None = None
    behind: tuple[frozenset[str], ...] = ()
    tells: float = 1.0
    loose_v: float = 0.0
    tools: tuple[str, ...] = ()


def minutes_to(build: Build, part: Part) -> float:
    """How long it takes to get at a part."""
    if part.kind in AT_HAND:
        return AT_HAND_MIN
    zone = build.places[part.place].zone
    hidden = part.kind in ("switch", "key switch", "box") and zone == "cabin"
    return DASH_OUT_MIN if hidden else REACH_MIN[zone]


def reading_tests(
    build: Build, situations: Sequence[tuple[Situation, str]], lamp_for: Sequence[str]
) -> Iterator[Test]:
    """Volts of every point that can be reached against battery negative in each situation; with a
    lamp in place of each of these fuses, volts across it."""
    battery = build.parts_of_kind("battery")[0]
    minus = Terminal(battery.id, "-")
    ends = dict.fromkeys(
        build.lands(end)
        for wire in build.wires.values()
        for end in (wire.from_terminal, wire.to_terminal)
    )
    for situation, said in situations:
        known = short(situation)
        for end in ends:
            part = build.parts[end.part]
            place = build.places[part.place].name
            yield Test(
                f"volts/{end}/{known}",
                "volts",
                f"Volts from {end_said(build, end)} to battery negative",
                said,
                place,
                minutes_to(build, part) + PROBE_MIN + SET_UP_MIN,
                (end.part,),
                situation=situation,
                probe=Probe("volts", end, minus),
                tools=(METER,),
            )
    for name in lamp_for:
        yield from _by_lamp(build, build.parts[name], situations)


def _by_lamp(
    build: Build, fuse: Part, situations: Sequence[tuple[Situation, str]]
) -> Iterator[Test]:
    """A lamp in place of a fuse that blows: it lights while the short is joined to it."""
    ends = Terminal(fuse.id, "in"), Terminal(fuse.id, "out")
    owners = {step.owner for step in paths_of(build).behind(ends[1])}
    unplugged = build.parts_of_kind("relay", "connector", "load")
    behind = [part for part in unplugged if part.id in owners]
    for situation, said in situations:
        known = short(situation)
        for part in (None, *behind):
            out = situation.out | {fuse.id} | ({part.id} if part else set())
            lamp = Situation(
                situation.key, situation.at, situation.supply, out, ((*ends, LAMP_OHM),)
            )
            without = f", {part.name} unplugged" if part else ""
            place = build.places[(part or fuse).place].name
            yield Test(
                f"lamp/{fuse.id}/{part.id if part else ''}/{known}",
                "volts",
                f"A 21 W lamp in place of {fuse.name}{without}: volts across it",
                f"{said}. Bright: the short is still joined to it. Leave the fuse out after it.",
                place,
                (minutes_to(build, part) if part else AT_HAND_MIN) + PROBE_MIN + SET_UP_MIN,
                (part.id,) if part else (fuse.id,),
                ("The lamp gets hot.",),
                lamp,
                Probe("volts", *ends),
                loose_v=LAMP_LOOSE_V,
                tools=(TEST_LAMP, METER),
            )


def see_tests(
    build: Build, situations: Iterable[tuple[Situation, str, Iterable[str]]]
) -> Iterator[Test]:
    """What other loads do, of those that should be on in each situation."""
    for situation, said, loads in situations:
        for load in loads:
            part = build.parts[load]
            place = build.places[part.place].name
            name = f"see/{load}/{short(situation)}"
            title = f"See what {part.name} does"
            yield Test(name, "see", title, said, place, SEE_MIN, (load,), situation=situation)


def jump_tests(
    build: Build, situation: Situation, said: str, load: str, things: Iterable[str]
) -> Iterator[Test]:
    """A fused jumper in place of the contact of each of these relays, and of the switches that are
    worked: what a load does then; never across a load."""
    worked = dict(situation.at)
    sees = f"see what {build.parts[load].name} does"
    for part in (build.parts[thing] for thing in things if thing in build.parts):
        relay = part.kind == "relay"
        for red, black in _contacts(part, worked.get(part.id, "")):
            where = (
                f"{part.name} out, a fused jumper in its socket"
                if relay
                else (f"A fused jumper across {part.name}")
            )
            joined = ((Terminal(part.id, red), Terminal(part.id, black), JUMPER_OHM),)
            out = situation.out | ({part.id} if relay else set())
            yield Test(
                f"jump/{part.id}/{red}/{black}/{load}/{short(situation)}",
                "see",
                f"{where} from {red} to {black}: {sees}",
                said,
                build.places[part.place].name,
                minutes_to(build, part) + SET_UP_MIN + PROBE_MIN + SEE_MIN,
                (load,),
                ("What it feeds comes on at once: be clear of what may turn.",),
                replace(situation, out=frozenset(out), joined=joined),
                tools=(JUMPER,),
            )


def _contacts(part: Part, position: str) -> list[tuple[str, str]]:
    """What a jumper may go in place of: the contact of a relay, those that a worked switch
    closes."""
    if part.kind == "relay":
        return [("30", "87")]
    if part.kind != "switch" or part.contacts is None or not position:
        return []
    rows = [row for row in part.contacts.positions if row.name == position]
    return [(group[0], last) for row in rows for group in row.joins for last in group[1:]]


def move_tests(build: Build, situations: Iterable[tuple[Situation, str]]) -> Iterator[Test]:
    """Plugs, rings and wires moved place by place, while what is amiss is watched."""
    things: dict[str, dict[str, None]] = {}
    for wire in build.wires.values():
        for end in (build.lands(wire.from_terminal), build.lands(wire.to_terminal)):
            part = build.parts[end.part]
            found = things.setdefault(part.place, {})
            found[wire.id] = None
            if part.kind in ("connector", "ground point"):
                found[part.id] = None
    for situation, said in situations:
        for place, found in things.items():
            parts = [build.parts[thing] for thing in found if thing in build.parts]
            zone = build.places[place].zone
            minutes = max((minutes_to(build, part) for part in parts), default=REACH_MIN[zone])
            yield Test(
                f"move/{place}/{short(situation)}",
                "move",
                f"Move plugs, rings and wires at {build.places[place].name}, one after another",
                f"{said}. Watch what is amiss: which of them makes it come or go?",
                build.places[place].name,
                minutes + SET_UP_MIN + MOVE_EACH_MIN * len(found),
                tuple(found),
                ("It is live: fingers and tools off bare metal, clear of what may turn.",),
                situation,
                tells=MOVED_TELLS,
            )


def look_tests(build: Build) -> Iterator[Test]:
    """What can be seen: fuses panel by panel, relays and plugs place by place, rings stud by stud,
    lamps one by one."""
    fuses: dict[str, list[Part]] = {}
    for fuse in build.parts_of_kind("fuse"):
        fuses.setdefault(fuse.fitted.panel if fuse.fitted else fuse.id, []).append(fuse)
    for home, parts in fuses.items():
        panel = build.parts[home]
        of = f"all fuses of {panel.name}" if len(parts) > 1 or panel.kind == "panel" else panel.name
        yield _look(build, f"fuses/{home}", f"Look at {of}: seated, whole, right rating", parts)
    for kind, what in (("relay", "relays"), ("connector", "plugs")):
        by_place: dict[str, list[Part]] = {}
        for part in build.parts_of_kind(kind):
            if part.housed is None:
                by_place.setdefault(part.place, []).append(part)
        for place, parts in by_place.items():
            name = build.places[place].name
            title = f"Look at the {what} at {name}: all there, pushed home, the right ones"
            yield _look(build, f"{what}/{place}", title, parts)
    for part in build.parts_of_kind("ground point", "stud", "bus bar"):
        yield _look(build, f"rings/{part.id}", f"Look at the rings on {part.name}", [part])
    for part in build.parts_of_kind("load"):
        yield _look(build, f"lamp/{part.id}", f"Take out and look at {part.name}", [part])


def _look(build: Build, name: str, title: str, parts: Sequence[Part]) -> Test:
    minutes = max(minutes_to(build, part) for part in parts) + LOOK_EACH_MIN * len(parts)
    places = listed(dict.fromkeys(build.places[part.place].name for part in parts), 2)
    things = tuple(part.id for part in parts)
    return Test(f"look/{name}", "look", title, "", places, minutes, things)


def alone_test(build: Build, thing: str) -> Test:
    """A part or wire by itself, both its ends off."""
    off = ("Battery negative off first.",)
    if thing in build.wires:
        wire = build.wires[thing]
        parts = [build.parts[end.part] for end in (wire.from_terminal, wire.to_terminal)]
        minutes = ALONE_MIN + max(minutes_to(build, part) for part in parts)
        ends = f"{end_said(build, wire.from_terminal)} and {end_said(build, wire.to_terminal)}"
        return Test(
            f"alone/{thing}",
            "alone",
            f"{wire_said(build, wire)} by itself: ohms end to end, and to ground",
            f"Both ends off: {ends}. Move it while you look at the meter.",
            build.places[parts[0].place].name,
            minutes,
            (thing,),
            off,
            tools=(METER,),
        )
    part = build.parts.get(thing)
    name = part.name if part else thing
    minutes = ALONE_MIN + (minutes_to(build, part) if part else AT_HAND_MIN)
    place = build.places[part.place].name if part else ""
    how = "Its contacts in each position, its pins against the plan, its coil or motor on a supply."
    return Test(
        f"alone/{thing}",
        "alone",
        f"{name} by itself",
        how,
        place,
        minutes,
        (thing,),
        off,
        tools=(METER,),
    )


def swap_test(build: Build, thing: str) -> Test | None:
    """A relay or a lamp exchanged with a good one of the same kind elsewhere in the car; None where
    there is none."""
    part = build.parts.get(thing)
    if part is None or part.housed is not None or part.kind not in ("relay", "load"):
        return None
    if part.kind == "load" and output_word(part) != "light":
        return None
    twins = [
        other
        for other in build.parts_of_kind(part.kind)
        if other.id != thing and other.catalogue == part.catalogue and other.housed is None
    ]
    if not part.catalogue or not twins:
        return None
    twin = min(twins, key=lambda other: minutes_to(build, other))
    return Test(
        f"swap/{thing}",
        "swap",
        f"{part.name} exchanged with {twin.name}",
        "Key off while you pull them. Then try what was amiss again.",
        build.places[part.place].name,
        SWAP_MIN + minutes_to(build, part) + minutes_to(build, twin),
        (thing,),
        ("Lamps and their holders get hot.",) if part.kind == "load" else (),
    )


def refit_test(build: Build, fuse: str) -> Test:
    """A good fuse where one has blown."""
    part = build.parts[fuse]
    return Test(
        f"refit/{fuse}",
        "refit",
        f"A good {part.name} of {part.number('rating_a', 0):g} A, and switch on as before",
        "Try all that was tried before, cranking too. Does it hold?",
        build.places[part.place].name,
        1.0,
        (fuse,),
        ("Only once: if it blows, find the short first.",),
    )


def turns_tests(build: Build, fuse: str) -> Iterator[Test]:
    """With a lamp in place of a fuse that blows: wherever it leads to three ways or more, they are
    taken off one after another until the lamp goes out."""
    steps = paths_of(build).behind(Terminal(fuse, "out"))
    graph: nx.Graph[Terminal] = nx.Graph()
    for step in steps:
        graph.add_edge(step.from_terminal, step.to_terminal)
        edge = graph.edges[step.from_terminal, step.to_terminal]
        edge["owners"] = edge.get("owners", frozenset()) | {step.owner}
    start = build.lands(Terminal(fuse, "out"))
    for at in [at for at in graph if at != start and graph.degree(at) > WAYS_THERE]:
        rest = graph.subgraph(set(graph) - {at})
        ways: dict[str, frozenset[str]] = {}
        for far, row in graph[at].items():
            taken_off = [owner for owner in row["owners"] if owner in build.wires]
            beyond = nx.node_connected_component(rest, far)
            if taken_off and start not in beyond:
                known = [graph.edges[edge]["owners"] for edge in graph.edges(beyond)]
                ways[taken_off[0]] = row["owners"].union(*known)
        if len(ways) >= WAYS_THERE:
            yield _by_turns(build, build.parts[fuse], at, ways)


def _by_turns(build: Build, fuse: Part, at: Terminal, ways: Mapping[str, frozenset[str]]) -> Test:
    part = build.parts[at.part]
    return Test(
        f"turns/{fuse.id}/{at}",
        "turns",
        f"A 21 W lamp in place of {fuse.name}: take the {len(ways)} wires off "
        f"{end_said(build, at)} one after another",
        "Everything as it was when it blew. Which one puts the lamp out? Put each back before "
        "the next.",
        build.places[part.place].name,
        minutes_to(build, part) + SET_UP_MIN + TAKE_OFF_MIN * len(ways),
        tuple(ways),
        ("The lamp gets hot, and what you take off is live through it.",),
        behind=tuple(ways.values()),
        tools=(TEST_LAMP,),
    )


def shows(test: Test, fault: Fault, parted: frozenset[str]) -> str:
    """What a look, a thing by itself or a new fuse shows under a fault; ``parted`` are the fuses
    that it has blown."""
    of = fault.of
    if test.kind == "refit":
        blows = test.things[0] in parted
        return "blows again" if blows else "holds"
    if test.kind == "turns":
        if test.id.split("/")[1] not in parted:
            return STAYS_DARK
        each = zip(test.things, test.behind, strict=True)
        out = (thing for thing, behind in each if concerns(fault, behind))
        return next((f"{thing} puts it out" for thing in out), STAYS_LIT)
    if test.kind == "move":
        moves = of in test.things and fault.kind in WHEN_MOVED and not parted
        return f"{of} changes it" if moves else THE_SAME
    if test.kind == "swap":
        return HEALED if of in test.things and fault.kind in BY_SWAP else THE_SAME
    if test.kind == "alone":
        if parted & set(test.things):
            return "blown"
        if of in test.things or (fault.kind == "short to wire" and fault.other in test.things):
            return BY_ITSELF.get(fault.kind, fault.kind)
        return AS_IT_SHOULD
    blown = sorted(parted & set(test.things))
    if blown:
        return f"{blown[0]} blown"
    word = VISIBLE.get(fault.kind)
    if word is None:
        return AS_IT_SHOULD
    exchanged = fault.kind == "lamps exchanged" and fault.other in test.things
    if of in test.things or exchanged:
        return f"{of if of in test.things else fault.other} {word}"
    return AS_IT_SHOULD


def shown_of(test: Test, build: Build, faults: Sequence[Fault], parted: frozenset[str]) -> str:
    """What a test that is no reading shows in a car with these faults: of the first that tells."""
    words = [rings_shown(test, build, row) or shows(test, row, parted) for row in faults]
    return next((word for word in words if word not in (AS_IT_SHOULD, THE_SAME)), words[0])


def rings_shown(test: Test, build: Build, fault: Fault) -> str:
    """What a look at a stud shows: a ring that is not there, or is there and should not be."""
    if fault.kind == "wrong stud" and test.id.startswith("look/rings/"):
        meant = build.wires[fault.of].to_terminal.part
        if test.things[0] in (meant, fault.other.partition(".")[0]):
            return f"{fault.of} {VISIBLE['wrong stud']}"
    return ""


def reading_bins(predictor: Predictor, test: Test, numbers: Numbers) -> tuple[Vector, Numbers]:
    """What a reading would be under each suspect, and the number of the span that it falls in:
    readings that a meter cannot tell apart fall in one."""
    assert test.situation is not None
    assert test.probe is not None
    values = readings(predictor, test.situation, test.probe, numbers)
    return values, spans(values, test.probe.kind, test.loose_v)


APART = 3.0
"""Times what a reading may be out by: two that are nearer leave it open which of them it was."""


def spans(values: Vector, kind: str, loose_v: float = 0.0) -> Numbers:
    """Readings in spans, from the least: a new one begins where a gap is wider than a meter and a
    builder need."""
    known = np.nan_to_num(values, nan=-1e3)
    order = np.argsort(known, kind="stable")
    sorted_values = known[order]
    within = within_of(sorted_values[1:], kind) + loose_v
    gaps = np.diff(sorted_values) > APART * within
    found = np.zeros(len(values), dtype=int)
    found[order[1:]] = np.cumsum(gaps)
    return found


def gain(bins: Numbers, groups: Numbers, weights: Vector, left_with: Vector | None = None) -> float:
    """The bits that a test tells of which group of suspects it is: the entropy of the groups, less
    that within each outcome (Shannon, 1948). ``left_with`` is what each row weighs once its outcome
    is there, where that is more than it was before: two outcomes of one suspect, neither of which
    speaks against it."""
    shape = int(groups.max()) + 1, int(bins.max()) + 1
    shares, after = np.zeros(shape), np.zeros(shape)
    np.add.at(shares, (groups, bins), weights)
    np.add.at(after, (groups, bins), weights if left_with is None else left_with)
    likely = shares.sum(axis=0)
    left = sum(
        float(likely[at]) * _entropy(after[:, at] / after[:, at].sum())
        for at in np.flatnonzero(likely).tolist()
    )
    return _entropy(shares.sum(axis=1)) - left


def _entropy(shares: Vector) -> float:
    some = shares[shares > 0]
    return float(-(some * np.log2(some)).sum())


def likelihood_of_word(shown: Sequence[str], word: str, tells: float = 1.0) -> Vector:
    """How likely a word is where this would be shown, so often."""
    same = np.array([row == word for row in shown])
    if word == THE_SAME:
        return np.where(same, 1.0, np.maximum(1 - tells, MISTAKEN / 2))
    return np.where(same, tells, MISTAKEN / 2)


def likelihood_of_reading(
    predictor: Predictor, test: Test, value: float | None, numbers: Numbers
) -> Vector:
    """How likely a reading is under each suspect."""
    assert test.situation is not None
    assert test.probe is not None
    expected = readings(predictor, test.situation, test.probe, numbers)
    return near(expected, value, test.probe.kind, test.loose_v)
