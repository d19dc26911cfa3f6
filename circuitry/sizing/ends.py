"""Where wires end: whether they fit, what the contact bears, and how many rings a nut holds."""

from collections.abc import Iterator, Mapping
from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Part, Terminal, Wire
from circuitry.devices.relay import relay_row, relay_terminal
from circuitry.devices.terminals import fits, terminal_range
from circuitry.finding import Finding, Mend
from circuitry.sizing.causes import resize
from circuitry.sizing.result import Sizing

MOST_RINGS = 4
"""On one stud: with more, the nut no longer presses on all of them."""
WARM = 1.02
"""By how much a contact may carry more than its table says before it is told."""


def end_findings(sizing: Sizing) -> Iterator[Finding]:
    """Wires that do not fit their terminals, contacts that carry too much, crowded nuts."""
    for wire in sizing.build.wires.values():
        yield from _does_not_fit(sizing, wire)
    yield from _overloaded(sizing)
    yield from _crowded(sizing)


def _does_not_fit(sizing: Sizing, wire: Wire) -> Iterator[Finding]:
    """One finding for a wire, told of the first end that it does not fit."""
    build = sizing.build
    area_mm2 = catalogue().conductor[wire.size or ""].copper_area_mm2
    misfits = [
        (end, row)
        for end in (wire.from_terminal, wire.to_terminal)
        if (row := terminal_range(build, end)) and not fits(row, area_mm2)
    ]
    if not misfits:
        return
    names = [f"{build.parts[build.lands(end).part].name}, {end.name}" for end, _ in misfits]
    end, row = misfits[0]
    yield Finding(
        "wire-does-not-fit",
        "look",
        (wire.id, *(build.lands(end).part for end, _ in misfits)),
        wire.circuit,
        f"{build.wire_of(wire)} does not fit {' and '.join(names)}",
        f"{wire.size}",
        f"{row.least_mm2:g} to {row.most_mm2:g} mm² ({row.terminal})",
        "A crimp on the wrong wire comes off or heats up. "
        + (
            "Lead it to a stud or bus bar and go on with thinner wire behind a fuse of its own, "
            "or fit a part with larger terminals."
            if area_mm2 > row.most_mm2
            else "Fit thicker wire, or a contact for thin wire."
        ),
        tuple(_larger(sizing, wire, end, row, area_mm2)),
    )


def _larger(
    sizing: Sizing, wire: Wire, end: Terminal, row: TerminalRange, area_mm2: float
) -> Iterator[Mend]:
    """Let the wire be sized where it is too thin, else a relay whose terminals take it."""
    if area_mm2 < row.least_mm2:
        if sizing.wires[wire.id].pinned:
            yield Mend(f"Let Oilstone size {wire.label}", (resize(wire, None),))
        return
    yield from _other_part(sizing.build.parts[sizing.build.lands(end).part], end, area_mm2)


def _other_part(part: Part, end: Terminal, area_mm2: float) -> Iterator[Mend]:
    """A relay of the same contacts, no weaker, whose terminal takes the wire."""
    if part.kind != "relay":
        return
    mine = relay_row(part)
    for other in catalogue().relays.values():
        takes = catalogue().terminals[relay_terminal(other, end.name)]
        strong = other.no_continuous_a_85c >= mine.no_continuous_a_85c
        if other.contacts == mine.contacts and strong and fits(takes, area_mm2):
            yield Mend(f"Fit a {other.kind} for {part.name}", (_kind(part, other.kind),))
            return


def _kind(part: Part, kind: str) -> Mapping[str, Any]:
    return {"op": "change", "collection": "parts", "id": part.id, "fields": {"catalogue": kind}}


def _overloaded(sizing: Sizing) -> Iterator[Finding]:
    """One finding for each part, told of the contact that is most over what it bears."""
    worst: dict[str, tuple[float, Terminal, float, float, str]] = {}
    for wire in sizing.build.wires.values():
        lasting_a = sizing.wires[wire.id].lasting_a
        for end in (wire.from_terminal, wire.to_terminal):
            row = terminal_range(sizing.build, end)
            if row is None or row.continuous_a is None:
                continue
            share = lasting_a / row.continuous_a
            part = sizing.build.lands(end).part
            if share > max(WARM, worst.get(part, (0.0,))[0]):
                worst[part] = share, end, lasting_a, row.continuous_a, row.terminal
    for part_id, (_, at, lasting_a, bears_a, kind) in worst.items():
        owner = sizing.build.parts[part_id]
        yield Finding(
            "pin-overloaded",
            "look",
            (owner.id,),
            owner.circuit,
            f"{owner.name}, {at.name} carries more than its contact bears",
            f"{lasting_a:.1f} A for ever",
            f"{bears_a:g} A ({kind})",
            "A contact that runs hot loses its spring, and then melts its housing. Share the loads "
            "out, or fit a part with larger terminals.",
        )


def _crowded(sizing: Sizing) -> Iterator[Finding]:
    build = sizing.build
    for stud in build.parts_of_kind("stud", "ground point"):
        wires = [
            wire
            for wire in build.wires.values()
            if stud.id in (wire.from_terminal.part, wire.to_terminal.part)
        ]
        if len(wires) <= MOST_RINGS:
            continue
        live = stud.kind == "stud"
        yield Finding(
            "crowded-stud" if live else "crowded-ground",
            "look",
            (stud.id, *(wire.id for wire in wires)),
            stud.circuit or wires[0].circuit,
            f"{stud.name} holds too many rings",
            f"{len(wires)} rings",
            f"{MOST_RINGS} at most",
            "One nut no longer presses on all of them, and a loose ring heats up. A bus bar "
            "beside it gives each a screw of its own."
            if live
            else "One nut no longer presses on all of them, and what is returned to it finds "
            "other ways back. A ground bar beside it gives each a screw of its own.",
            (_bar_beside(sizing, stud, wires),),
        )


def _bar_beside(sizing: Sizing, stud: Part, wires: list[Wire]) -> Mend:
    """A bus bar that takes all but the heaviest wires of a stud."""
    build, circuit = sizing.build, stud.circuit or wires[0].circuit
    bar = next(
        name for n in range(1, len(build.parts) + 2) if (name := f"bar-{n}") not in build.parts
    )
    heavy_first = sorted(wires, key=lambda wire: -sizing.wires[wire.id].lasting_a)
    word = "Bus bar" if stud.kind == "stud" else "Ground bar"
    value = {"id": bar, "kind": "bus bar", "name": f"{word} at {stud.name}"[:80]}
    ends = {"from_terminal": f"{stud.id}.stud", "to_terminal": f"{bar}.stud"}
    operations: list[dict[str, Any]] = [
        {"op": "add", "collection": "parts", "value": {**value, "place": stud.place}},
        {"op": "add_wire", **ends, "circuit": circuit},
    ]
    for wire in heavy_first[MOST_RINGS - 1 :]:
        end = "from_terminal" if wire.from_terminal.part == stud.id else "to_terminal"
        fields = {end: f"{bar}.stud"}
        operations.append({"op": "change", "collection": "wires", "id": wire.id, "fields": fields})
    return Mend(f"Fit a {word.lower()} beside {stud.name}", tuple(operations))
