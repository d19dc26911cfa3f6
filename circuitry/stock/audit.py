"""What an old loom and a ready-made harness are worth: judged entry by entry, in words."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.colours import LETTERS
from circuitry.design.model import (
    Build,
    Circuit,
    FoundCircuit,
    HarnessCircuit,
    Part,
    PinPair,
    Terminal,
    Wire,
)
from circuitry.design.routes import end_extra_m, shortest_way
from circuitry.network import Network, State, Supply
from circuitry.quantities import NotUnderstood, conductor
from circuitry.sizing.ampacity import free_air_ampacity_a
from circuitry.sizing.drop import drop_limit_v
from circuitry.stock.patterns import SIDES

COLOURS = {code: name for name, code in LETTERS.items()} | {"SR": "silver", "GD": "gold"}
"""Letter codes of colours by which an old wire is written down."""
RUNNING_V = 14.4


@dataclass(frozen=True)
class Remark:
    """One thing to know of an entry: stop, look or fine, and why."""

    severity: str
    text: str


@dataclass(frozen=True)
class HarnessVerdict:
    """What a harness circuit is good for: the load it serves, how, and what was reckoned.

    ``verdict`` is served, spare, too thin or too short. ``needs_m`` is the way it has to go.
    """

    circuit: str
    verdict: str
    load: str | None
    amps: float | None
    carries_a: float | None
    drop_percent: float | None
    needs_m: float | None
    text: str


@dataclass(frozen=True)
class Audit:
    """Remarks by id of entry, the verdict on each harness circuit, and loads that none serves."""

    found_circuits: Mapping[str, tuple[Remark, ...]]
    pin_pairs: Mapping[str, tuple[Remark, ...]]
    harness_circuits: Mapping[str, HarnessVerdict]
    missing: tuple[str, ...]


def audit(build: Build) -> Audit:
    """Judge everything that was recorded of old looms and of a ready-made harness."""
    served = _served(build)
    verdicts = {
        row.id: _verdict(build, row, served.get(row.id)) for row in build.harness_circuits.values()
    }
    good = {row.load for row in verdicts.values() if row.load}
    missing = [load.id for load in _wanted(build) if load.id not in good]
    return Audit(
        {row.id: tuple(_found(row)) for row in build.found_circuits.values()},
        _pins(list(build.pin_pairs.values())),
        verdicts,
        tuple(missing) if build.harness_circuits else (),
    )


def colour_in_words(code: str) -> str:
    """``BN/YE`` as brown with a yellow tracer; letters that are no code stand as they are."""
    base, _, tracer = spelled_out(code).partition("/")
    return f"{base} with a {tracer} tracer" if tracer else base


def spelled_out(code: str) -> str:
    """``BN/YE`` as ``brown/yellow``, as colours of wires are written."""
    return "/".join(COLOURS.get(letters, letters) for letters in code.split("/"))


def _found(row: FoundCircuit) -> Iterator[Remark]:
    if not row.stretches:
        yield Remark("look", "No stretch of wire is recorded yet.")
        return
    for code in {stretch.colour for stretch in row.stretches}:
        unknown = [letters for letters in code.split("/") if letters not in COLOURS]
        if unknown:
            known = ", ".join(f"{letters} {name}" for letters, name in COLOURS.items())
            yield Remark("look", f"{unknown[0]} is no colour code. Codes: {known}.")
    colours = list(dict.fromkeys(stretch.colour for stretch in row.stretches))
    if len(colours) > 1:
        words = ", then ".join(colour_in_words(code) for code in colours)
        yield Remark("look", f"The colour changes along the way: {words}. Label both ends.")
    areas = {name: catalogue().conductor[name].copper_area_mm2 for name in _sizes(row)}
    unread = [s.size for s in row.stretches if s.size and _size(s.size) is None]
    if unread:
        yield Remark("look", f"“{unread[0]}” is no wire size: 1.5 mm² or 16 AWG would be.")
    if len(set(areas.values())) > 1:
        thinnest = min(areas, key=lambda name: areas[name])
        yield Remark(
            "stop" if row.decision == "keep" else "look",
            f"Gauges are mixed in one run: it is worth no more than its thinnest, {thinnest}.",
        )
    twisted = [stretch for stretch in row.stretches if "twist" in stretch.joint.lower()]
    if twisted:
        yield Remark("stop", "A twisted joint warms and lets go. Cut it out and crimp.")
    if row.fuse_a is None and row.decision in ("keep", "mend", "to decide"):
        yield Remark("stop", "No fuse protects it. Give it one before it is fed again.")
    if row.fuse_a is not None and areas:
        yield from _fuse_remark(row, min(areas, key=lambda name: areas[name]))
    if row.decision == "cut back" and not all(stretch.settled for stretch in row.stretches):
        yield Remark("look", "Take its fuse out before it is cut; insulate the end, tie it away.")
    if row.condition in ("burned", "chopped") and row.decision == "keep":
        yield Remark("stop", f"It is {row.condition} and marked keep. Mend or replace it.")


def _fuse_remark(row: FoundCircuit, thinnest: str) -> Iterator[Remark]:
    insulation = catalogue().insulation["PVC"]
    carries_a = free_air_ampacity_a(catalogue().conductor[thinnest], insulation, 40.0)
    if row.fuse_a is not None and row.fuse_a > carries_a:
        yield Remark(
            "stop",
            f"A {row.fuse_a:g} A fuse lets more pass than {thinnest} carries, {carries_a:.1f} A at "
            "40 °C in old PVC.",
        )


def _sizes(row: FoundCircuit) -> list[str]:
    sizes = [_size(stretch.size) for stretch in row.stretches if stretch.size]
    return [size for size in sizes if size is not None]


def _size(text: str) -> str | None:
    try:
        return conductor(text)
    except NotUnderstood:
        return None


def _pins(pairs: Sequence[PinPair]) -> dict[str, tuple[Remark, ...]]:
    """Every pin stands in one pair only, has both sides, and is proved before it is cut."""
    remarks = {}
    for pair in pairs:
        mine = []
        for side in ("old", "new"):
            pin = getattr(pair, f"{side}_plug"), getattr(pair, f"{side}_pin")
            twins = [
                other.function
                for other in pairs
                if other is not pair
                and all(pin)
                and (getattr(other, f"{side}_plug"), getattr(other, f"{side}_pin")) == pin
            ]
            if not all(pin):
                mine.append(Remark("look", f"The {side} plug and pin are not named yet."))
            elif twins:
                where = f"pin {pin[1]} of {pin[0]}"
                mine.append(Remark("stop", f"The {side} {where} also stands for {twins[0]}."))
        if not pair.proved:
            mine.append(Remark("look", "Not proved by continuity: cut and cover nothing yet."))
        remarks[pair.id] = tuple(mine)
    return remarks


def _wanted(build: Build) -> list[Part]:
    return [load for load in build.parts_of_kind("load") if load.state not in ("remove", "spare")]


def _served(build: Build) -> dict[str, Part]:
    """The load of each harness circuit: the one named, or the likest by words not yet taken."""
    served = {
        row.id: build.parts[row.serves] for row in build.harness_circuits.values() if row.serves
    }
    taken = {load.id for load in served.values()}
    for row in build.harness_circuits.values():
        if row.id in served:
            continue
        likeness = {
            load.id: _alike(row.name, load.name) for load in _wanted(build) if load.id not in taken
        }
        best = max(likeness, key=lambda load: likeness[load], default=None)
        if best is not None and likeness[best] >= 0.5:
            served[row.id] = build.parts[best]
            taken.add(best)
    return served


def _alike(one: str, other: str) -> float:
    """Share of the words that two names have in common, sides counted less."""
    ours, theirs = _words(one), _words(other)
    common = ours & theirs
    weight = sum(0.5 if word in SIDES else 1.0 for word in common)
    return weight / max(sum(0.5 if word in SIDES else 1.0 for word in ours | theirs), 0.5)


def _words(name: str) -> set[str]:
    words = name.lower().replace("-", " ").replace(",", " ").split()
    return {word.removesuffix("s") if len(word) > 3 else word for word in words}


def _verdict(build: Build, row: HarnessCircuit, load: Part | None) -> HarnessVerdict:
    if load is None:
        text = "No load of the list needs it: coil it, insulate its end and label it spare."
        return HarnessVerdict(row.id, "spare", None, None, None, None, None, text)
    volts, amps = _tried(build, row, load)
    place = build.places[load.place]
    insulation = catalogue().insulation[build.policy.insulation]
    carries_a = free_air_ampacity_a(catalogue().conductor[row.size], insulation, place.ambient_c)
    share = (RUNNING_V - volts) / RUNNING_V
    needs_m = _needs_m(build, load)
    limit_v = drop_limit_v(build, load, RUNNING_V)
    limit = 100.0 if limit_v is None else 100 * limit_v / RUNNING_V
    verdict, text = _judged(limit, row, load, amps, carries_a, share, needs_m)
    return HarnessVerdict(row.id, verdict, load.id, amps, carries_a, 100 * share, needs_m, text)


def _judged(
    limit: float,
    row: HarnessCircuit,
    load: Part,
    amps: float,
    carries_a: float,
    share: float,
    needs_m: float | None,
) -> tuple[str, str]:
    if needs_m is not None and row.length_m < needs_m:
        return (
            "too short",
            f"It is {row.length_m:g} m, and the way to {load.name} is {needs_m:.2f} m.",
        )
    if carries_a < amps:
        return (
            "too thin",
            f"{row.size} carries {carries_a:.1f} A there, {load.name} takes {amps:.1f} A.",
        )
    if row.fuse_a is not None and row.fuse_a > carries_a:
        return "too thin", f"Its {row.fuse_a:g} A fuse lets more pass than {row.size} carries."
    if 100 * share > limit:
        return (
            "too thin",
            f"{100 * share:.1f} % is lost in {row.length_m:g} m of {row.size}; at most "
            f"{limit:g} % on the feed alone.",
        )
    return "served", f"{load.name} loses {100 * share:.1f} % on this feed."


def _needs_m(build: Build, load: Part) -> float | None:
    """Way from the harness's panel to a load with its ends; None where that is not known."""
    start = build.harness_from
    if start is None:
        return None
    runs = () if start == load.place else shortest_way(build.runs, start, load.place)
    if runs is None:
        return None
    ends_m = end_extra_m(build, "panel") + end_extra_m(build, "load")
    return sum(run.length_m for run in runs) + ends_m


def _tried(build: Build, row: HarnessCircuit, load: Part) -> tuple[float, float]:
    """Volts and amps of the load alone on this wire, solved; its return counts as perfect."""
    place = build.places[load.place]
    parts = (
        Part("battery", "battery", "Battery", place.id),
        Part("load", "load", load.name, place.id, load.catalogue, load.figures),
    )
    wires = (
        _trial_wire(
            "feed", Terminal("battery", "+"), Terminal("load", "+"), row.size, row.length_m
        ),
        _trial_wire("back", Terminal("load", "-"), Terminal("battery", "-"), HEAVY, 0.001),
    )
    trial = Build(
        "Trial",
        False,
        build.policy,
        places={place.id: place},
        parts={part.id: part for part in parts},
        wires={wire.id: wire for wire in wires},
        circuits={"trial": Circuit("trial", "Trial", "accessory", "comfort")},
    )
    solution = Network(trial).solve(State(supply=Supply(RUNNING_V, 1e-4)))
    return solution.loads["load"].volts, solution.loads["load"].amps


HEAVY = "120 mm²"


def _trial_wire(label: str, start: Terminal, end: Terminal, size: str, metres: float) -> Wire:
    return Wire(label, label, start, end, size=size, length_m=metres, extra_m=0.0)
