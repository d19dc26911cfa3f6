"""Loads that lose too much on the way, told by their cause: one cause, one finding.

Where most of what is lost is lost before the way of a load leaves that of others, the trunk is the
cause, and is told once for all loads on it; else the circuit of the load is.
"""

from collections import Counter
from collections.abc import Collection, Iterator, Mapping
from dataclasses import dataclass
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Wire
from circuitry.devices.load import law_of_load, output_word
from circuitry.devices.relay import relay_row
from circuitry.finding import Finding, Mend
from circuitry.layout.bundles import copper_g_per_m
from circuitry.reach.fall import FallStep, fall_line
from circuitry.sizing.drop import is_missed
from circuitry.sizing.result import Healing, LoadSizing, Sizing

CAUSE_SHARE = 0.4
"""The share of a limit that is lost before the circuit from which the trunk is the cause."""
LEAST_FELT = 0.01
"""The share of light, speed or power from which a loss is worth a look."""
MOST_NAMED = 4


@dataclass(frozen=True)
class _Lost:
    """A load that loses too much: on what it shares with other circuits, and step by step."""

    row: LoadSizing
    shared_v: float
    steps: tuple[FallStep, ...]


def drop_findings(original: Build, sizing: Sizing) -> Iterator[Finding]:
    """One finding for each cause for which loads lose more than they may."""
    groups: dict[tuple[str, str], list[_Lost]] = {}
    for row in sizing.loads.values():
        if is_missed(row.drop_v, row.limit_v):
            lost = _lost(sizing.build, row)
            groups.setdefault(_cause(sizing.build, lost), []).append(lost)
    for (kind, owner), group in groups.items():
        group.sort(key=lambda lost: lost.row.limit_v - lost.row.drop_v)
        yield _finding(original, sizing, kind, owner, group)


def _lost(build: Build, row: LoadSizing) -> _Lost:
    load = build.parts[row.load]
    line = fall_line(build, row.solution, load, row.path)
    steps = tuple(step for step in line.steps if step.is_lost)
    shared = sum(step.loss_v for step in steps if _circuit(build, step) not in (load.circuit, None))
    return _Lost(row, shared, steps)


def _circuit(build: Build, step: FallStep) -> str | None:
    """The circuit that a step belongs to; the protection of a circuit is its own."""
    if step.owner in build.wires:
        return build.wires[step.owner].circuit
    return build.parts[step.owner].circuit if step.owner in build.parts else None


def _cause(build: Build, lost: _Lost) -> tuple[str, str]:
    """What to tell it by: the trunk that circuits share, or the circuit."""
    load = build.parts[lost.row.load]
    if lost.shared_v > CAUSE_SHARE * lost.row.limit_v:
        return "trunk", "trunk"
    return "circuit", load.circuit or load.id


def _heaviest(build: Build, group: list[_Lost]) -> str:
    """The piece of the trunk in which the loads of a group together lose most."""
    lost_v: dict[str, float] = {}
    for lost in group:
        own = build.parts[lost.row.load].circuit
        for step in lost.steps:
            if _circuit(build, step) not in (own, None):
                lost_v[step.owner] = lost_v.get(step.owner, 0.0) + step.loss_v
    return max(lost_v, key=lambda owner: (round(lost_v[owner], 3), owner))


def _finding(original: Build, sizing: Sizing, kind: str, owner: str, group: list[_Lost]) -> Finding:
    worst = group[0]
    names = [original.parts[lost.row.load].name for lost in group]
    named = ", ".join(names[:MOST_NAMED]) + (
        f" and {len(names) - MOST_NAMED} more" if len(names) > MOST_NAMED else ""
    )
    limit = f"{worst.row.limit_v:.2f} V"
    found = f"{worst.row.drop_v:.2f} V at {names[0]}, {worst.row.road}"
    loads = tuple(lost.row.load for lost in group)
    cured = sizing.healing(loads)
    mends = tuple(_mends(original, sizing, group, cured))
    no_wire = "" if worst.row.load in cured.loads else _no_wire(original, worst)
    # a loss that nobody would notice is told, and asks for nothing
    felt = any(_felt(original, lost) >= LEAST_FELT for lost in group)
    severity = "look" if felt else "note"
    if kind == "trunk":
        owner = _heaviest(sizing.build, group)
        piece = _piece(original, owner)
        pieces = [step.owner for step in worst.steps if step.owner in original.wires]
        return Finding(
            "trunk-loses",
            severity,
            (owner, *loads),
            _owner_circuit(original, owner),
            f"Too much is lost before the circuits of {named}"
            if len(names) > 1
            else f"Too much is lost before the circuit of {named}",
            found,
            limit,
            f"{worst.shared_v:.2f} V of it are lost before and after the circuit, most in {piece}. "
            f"{_effect(original, worst)} It is the trunk that costs it, not {len(pieces)} thin "
            f"branches.{no_wire}",
            mends,
            about="trunk",
        )
    circuit = original.circuits.get(owner)
    title = (
        f"{names[0]} loses too much on the way"
        if len(names) == 1
        else f"{circuit.name if circuit else named}: {len(names)} loads lose too much on the way"
    )
    return Finding(
        "drop-too-high",
        severity,
        loads,
        owner if circuit else None,
        title,
        found,
        limit,
        f"{_effect(original, worst)}{no_wire}",
        mends,
        about=owner,
    )


def _owner_circuit(build: Build, owner: str) -> str | None:
    if owner in build.wires:
        return build.wires[owner].circuit
    return build.parts[owner].circuit


def _piece(build: Build, owner: str) -> str:
    if owner in build.wires:
        return f"wire {build.wires[owner].label}"
    return build.parts[owner].name


def _effect(build: Build, lost: _Lost) -> str:
    """What the loss costs: light, speed or power as it is, and as the limit would leave it, against
    what the load would give if nothing were lost."""
    load = build.parts[lost.row.load]
    word = output_word(load)
    if _felt(build, lost) < LEAST_FELT:
        return f"It costs less than {100 * LEAST_FELT:.0f} % of its {word}."
    now, then = _left(build, lost)
    return (
        f"The way leaves {load.name} {100 * now:.0f} % of its {word}; within the limit it "
        f"leaves {100 * then:.0f} %."
    )


def _no_wire(build: Build, lost: _Lost) -> str:
    """What to do where the thickest wires that fit leave too much lost, and none is pinned."""
    if any(build.wires[step.owner].size for step in lost.steps if step.owner in build.wires):
        return ""
    apart = [step for step in lost.steps if step.owner not in build.wires]
    diodes = any(build.parts[step.owner].kind == "diode" for step in apart)
    taking = "fuses, contacts and a diode" if diodes else "fuses and contacts"
    return (
        f" No wire that fits cures {build.parts[lost.row.load].name}: {taking} take "
        f"{sum(step.loss_v for step in apart):.2f} V by themselves. A shorter way or fewer "
        "contacts on it would; or live with it."
    )


def _felt(build: Build, lost: _Lost) -> float:
    """The share of its light, speed or power that a load loses beyond its limit."""
    now, then = _left(build, lost)
    return abs(then - now)


def _left(build: Build, lost: _Lost) -> tuple[float, float]:
    """The share of its light, speed or power that the way leaves, and that the limit would."""
    law = law_of_load(build.parts[lost.row.load])
    source_v = lost.row.solution.battery_v
    whole, now, then = (
        float(law.output_percent(volts))
        for volts in (source_v, lost.row.volts, source_v - lost.row.limit_v)
    )
    return (now / whole, then / whole) if whole > 0 else (0.0, 0.0)


def _mends(original: Build, sizing: Sizing, group: list[_Lost], cured: Healing) -> Iterator[Mend]:
    on_ways = Counter(owner for lost in group for owner in {step.owner for step in lost.steps})
    pinned = {
        owner: original.wires[owner]
        for owner, ways in on_ways.items()
        if owner in original.wires
        and original.wires[owner].size is not None
        and 2 * ways >= len(group)
    }
    yield from let_size(pinned.values())
    some = f"cures {len(cured.loads)} of {len(group)}" if len(cured.loads) < len(group) else ""
    yield from fit_thicker(original, sizing, cured.sizes, some)
    yield from _heavier_relays(original, group)


def _heavier_relays(build: Build, group: list[_Lost]) -> Iterator[Mend]:
    """A relay whose contact alone loses what is missing, in a kind that loses less."""
    worst = group[0]
    missing_v = worst.row.drop_v - worst.row.limit_v
    for step in worst.steps:
        part = build.parts.get(step.owner)
        if part is None or part.kind != "relay":
            continue
        row = relay_row(part)
        for other in catalogue().relays.values():
            lasts = "intermittent" not in other.contacts and other.contacts == row.contacts
            saved_v = step.loss_v * (1 - other.contact_mohm / row.contact_mohm)
            if lasts and saved_v >= missing_v:
                fields: dict[str, Any] = {"catalogue": other.kind}
                yield Mend(
                    f"Fit a {other.kind} for {part.name}",
                    ({"op": "change", "collection": "parts", "id": part.id, "fields": fields},),
                )
                return


def resize(wire: Wire, size: str | None) -> Mapping[str, Any]:
    """The operation that gives a wire a size; None lets it be chosen."""
    return {"op": "change", "collection": "wires", "id": wire.id, "fields": {"size": size}}


def let_size(wires: Collection[Wire]) -> Iterator[Mend]:
    """The mend that gives up the sizes of some wires, where there are any."""
    if wires:
        labels = ", ".join(wire.label for wire in wires)
        yield Mend(f"Let Oilstone size {labels}", tuple(resize(wire, None) for wire in wires))


def fit_thicker(
    build: Build, sizing: Sizing, sizes: Mapping[str, str], cures: str = ""
) -> Iterator[Mend]:
    """The mend that gives wires these sizes, where there are any, and what copper it asks for;
    ``cures`` says what it does."""
    if not sizes:
        return
    wires = build.wires
    thicker = {wire: size for wire, size in sizes.items() if size != sizing.wires[wire].size}
    said = ", ".join(f"{size} for {wires[wire].label}" for wire, size in [*thicker.items()][:4])
    more = f" and {len(thicker) - 4} more" if len(thicker) > 4 else ""
    cost = f"{grams(more_copper_kg(sizing, thicker))} more copper"
    yield Mend(
        f"Fit thicker wire: {said}{more} ({', '.join(filter(None, (cures, cost)))})",
        tuple(resize(wires[wire], size) for wire, size in sizes.items()),
    )


def more_copper_kg(sizing: Sizing, sizes: Mapping[str, str]) -> float:
    """The copper in kg that these wires have more in these sizes than as they are chosen."""
    conductor = catalogue().conductor
    grams_more = (
        (copper_g_per_m(conductor[size]) - copper_g_per_m(conductor[sizing.wires[wire].size]))
        * sizing.wires[wire].length_m
        for wire, size in sizes.items()
    )
    return sum(grams_more) / 1000


def grams(mass_kg: float) -> str:
    """A mass as it is weighed out: in grams to the ten below a kilogram.

    >>> grams(0.836), grams(0.012), grams(0.004), grams(1.24)
    ('840 g', '10 g', 'under 10 g', '1.2 kg')
    """
    if mass_kg >= 1:
        return f"{mass_kg:.1f} kg"
    return f"{round(100 * mass_kg) * 10} g" if mass_kg >= 0.005 else "under 10 g"


def rechoose(fuse: Part, label: str, **fields: Any) -> Mend:
    """The mend that gives up the rating of a fuse, and changes other fields of it."""
    figures = {name: value for name, value in fuse.figures.items() if name != "rating_a"}
    changed = {"figures": figures, **fields}
    operation = {"op": "change", "collection": "parts", "id": fuse.id, "fields": changed}
    return Mend(label, (operation,))
