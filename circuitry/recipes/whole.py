"""Whole circuits by hand: split off a load, move, merge, copy and colour."""

import re
from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from circuitry.design.colours import colour_for
from circuitry.design.model import (
    Build,
    Circuit,
    Housed,
    Part,
    Terminal,
    Wire,
)
from circuitry.design.routes import distance_m
from circuitry.errors import UnusableInput
from circuitry.reach.paths import paths_of
from circuitry.recipes.draft import Draft
from circuitry.recipes.legs import put_relay_into
from circuitry.recipes.load import Wiring, unwire_load, wire_load
from circuitry.recipes.protection import choose_fuse, fuse_in_way, fuse_output, ways


def split_load(build: Build, load_id: str) -> Build:
    """The build with a load behind a way of its own, live and switched as before.

    A load behind a switch gets a relay, whose coil the switch still feeds.
    """
    draft = Draft(build)
    load = draft.parts.get(load_id)
    path = paths_of(build).to_load(load) if load and load.kind == "load" else None
    if load is None or path is None or load.circuit is None:
        raise UnusableInput("not-wired", load_id, f"“{load_id}” is no load with a way to it.")
    feed = draft.wires_on(Terminal(load.id, "+"))
    if not feed:
        raise UnusableInput(
            "fed-inside",
            load.id,
            f"{load.name} is fed inside the unit that it sits in, not by a wire of its own. Split "
            "off what feeds the unit.",
        )
    kinds = [step.kind for step in path.feed]
    last_fuse = max((at for at, kind in enumerate(kinds) if kind == "fuse"), default=-1)
    switched = any(kind != "wire" for kind in kinds[last_fuse + 1 :])
    before = draft.circuits[load.circuit]
    others = [row for row in build.loads_of(before.id) if row.id != load.id]
    circuit = before
    if others:
        circuit = draft.add_circuit(load.name, before.group, before.criticality)
        draft.parts[load.id] = replace(load, circuit=circuit.id)
        for wire in [*feed, *draft.wires_on(Terminal(load.id, "-"))]:
            draft.wires[wire.id] = replace(wire, circuit=circuit.id)
    wire = draft.wires[feed[0].id]
    if wire.to_terminal != draft.lands(Terminal(load.id, "+")):
        wire = replace(wire, from_terminal=wire.to_terminal, to_terminal=wire.from_terminal)
        draft.wires[wire.id] = wire
    place = build.parts[wire.from_terminal.part].place
    if switched:
        put_relay_into(draft, wire, place, f"{load.name} relay"[:80], None)
        return draft.build
    key = paths_of(build).key_needed(wire.from_terminal) or "always"
    fuse = choose_fuse(draft, (key,), None, load.name)
    draft.wires[wire.id] = replace(wire, from_terminal=fuse_output(fuse), way=None)
    return draft.build


def move_circuit(
    build: Build,
    circuit_id: str,
    panel: str | None,
    way: str | None,
    ground: str | None,
    any_key: bool = False,
) -> Build:
    """The build with a circuit on another way or panel, or returned to another ground.

    Its fuses go to the way, or to free ways of the panel that are live as before; with ``any_key``
    to any free way. Fuses that others share stay, and the circuit gets its own. Its relays that
    stand beside the old panel go along. Raises UnusableInput.
    """
    draft = Draft(build)
    circuit = build.circuits.get(circuit_id)
    if circuit is None:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
        )
    if ground is not None:
        _move_ground(draft, circuit, ground)
    if panel is not None:
        _move_fuses(draft, circuit, panel, way, any_key)
    return draft.build


def _move_ground(draft: Draft, circuit: Circuit, ground: str) -> None:
    target = draft.parts.get(ground)
    if target is None or target.kind not in ("ground point", "bus bar"):
        raise UnusableInput("unknown-ground", ground, f"“{ground}” is no ground point.")
    for wire in list(draft.wires.values()):
        if wire.circuit != circuit.id:
            continue
        for end in ("from_terminal", "to_terminal"):
            part = draft.parts[getattr(wire, end).part]
            if part.kind == "ground point":
                moved: Any = {end: Terminal(target.id, "stud"), "way": None}
                draft.wires[wire.id] = replace(draft.wires[wire.id], **moved)


def _move_fuses(
    draft: Draft, circuit: Circuit, panel_id: str, way: str | None, any_key: bool
) -> None:
    panel = draft.parts.get(panel_id)
    if panel is None or panel.kind != "panel":
        raise UnusableInput(
            "unknown-panel",
            panel_id,
            f"“{panel_id}” is no panel. Choose one of the build’s panels.",
        )
    fuses = _fuses_of(draft, circuit)
    if not fuses:
        raise UnusableInput(
            "no-fuse",
            circuit.id,
            f"“{circuit.name}” has no fuse of its own in a panel: it sits behind another circuit.",
        )
    if way is not None and len(fuses) > 1:
        raise UnusableInput(
            "many-fuses",
            circuit.id,
            f"“{circuit.name}” has {len(fuses)} fuses. Move it to a panel, not to one way.",
        )
    old_places = set()
    for fuse in fuses:
        assert fuse.fitted is not None
        old_places.add(draft.parts[fuse.fitted.panel].place)
        _move_fuse(draft, circuit, fuse, _free_way(draft, fuse, panel, way, any_key))
    for part in list(draft.parts.values()):
        if part.circuit == circuit.id and part.kind == "relay" and part.place in old_places:
            draft.parts[part.id] = replace(part, place=panel.place)
    _near_grounds(draft, circuit)


def _near_grounds(draft: Draft, circuit: Circuit) -> None:
    """Return the relays of a circuit to the ground point that is nearest to them now."""
    build = draft.build
    points = build.parts_of_kind("ground point")
    for wire in list(draft.wires.values()):
        ends = build.parts[wire.from_terminal.part], build.parts[wire.to_terminal.part]
        if (
            wire.circuit == circuit.id
            and ends[0].kind == "relay"
            and ends[1].kind == "ground point"
        ):
            near = min(points, key=lambda point: (_far(build, ends[0], point), point.id))
            if _far(build, ends[0], near) < _far(build, ends[0], ends[1]):
                moved = replace(wire, to_terminal=Terminal(near.id, "stud"), way=None)
                draft.wires[wire.id] = moved


def _far(build: Build, one: Part, other: Part) -> float:
    return distance_m(build, one.place, other.place)


def _fuses_of(draft: Draft, circuit: Circuit) -> list[Part]:
    """The fuses in panels from whose ways wires of the circuit leave."""
    wires = [wire for wire in draft.wires.values() if wire.circuit == circuit.id]
    ends = {end for wire in wires for end in (wire.from_terminal, wire.to_terminal)}
    return [
        part
        for part in draft.parts.values()
        if part.kind == "fuse" and part.fitted and fuse_output(part) in ends
    ]


def _free_way(
    draft: Draft, fuse: Part, panel: Part, way: str | None, any_key: bool
) -> tuple[str, str]:
    build = draft.build
    rows = ways(build)
    assert fuse.fitted is not None
    at = (fuse.fitted.panel, fuse.fitted.way)
    before = next(row for row in rows if (row.panel, row.way) == at)
    here = [row for row in rows if row.panel == panel.id]
    if way is not None:
        chosen = next((row for row in here if row.way == way), None)
        if chosen is None:
            raise UnusableInput("unknown-way", way, f"{panel.name} has no way {way}.")
        if chosen.fuse is not None and chosen.fuse != fuse.id:
            raise UnusableInput(
                "way-taken", way, f"Way {way} of {panel.name} holds a fuse already. Choose another."
            )
        here = [chosen]
    free = [row for row in here if row.fuse is None]
    fitting = [row for row in free if any_key or row.key == before.key]
    if not fitting:
        live = " and ".join(sorted({LIVE[row.key] for row in free}))
        raise UnusableInput(
            "no-free-way",
            panel.id,
            f"{panel.name} has no free way that is {LIVE[before.key]}, as {fuse.name} is now; "
            f"its free ways are {live or 'none'}. Feed it so first, or let the key change.",
        )
    return fitting[0].panel, fitting[0].way


def _move_fuse(draft: Draft, circuit: Circuit, fuse: Part, to: tuple[str, str]) -> None:
    """Put a fuse into another way with the circuit's wires; where it is shared, a new one."""
    old, new = fuse_output(fuse), Terminal(*to)
    landing = [
        wire for wire in draft.wires.values() if old in (wire.from_terminal, wire.to_terminal)
    ]
    mine = [wire for wire in landing if wire.circuit == circuit.id]
    if len(mine) == len(landing):
        draft.parts[fuse.id] = fuse_in_way(draft, fuse, new)
    else:
        fresh = draft.add_part("fuse", circuit.name, fuse.place, catalogue=fuse.catalogue)
        draft.parts[fresh.id] = fuse_in_way(draft, fresh, new)
    for wire in mine:
        end = "from_terminal" if wire.from_terminal == old else "to_terminal"
        ends: Any = {end: new, "way": None}
        draft.wires[wire.id] = replace(wire, **ends)


def merge_circuits(build: Build, into: str, circuits: list[str]) -> Build:
    """The build with the loads of circuits fed from where another circuit's first load is fed."""
    for circuit_id in circuits:
        if circuit_id == into:
            continue
        if circuit_id not in build.circuits:
            raise UnusableInput(
                "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
            )
        for load in build.loads_of(circuit_id):
            build = wire_load(unwire_load(build, load.id), load.id, Wiring(), into)
    return build


LIVE = {
    "always": "always live",
    "accessory": "live from accessory",
    "run": "live from run",
    "crank": "live while cranking",
    None: "never live",
}
SIDES = {"left": "right", "right": "left", "Left": "Right", "Right": "Left"}


def mirrored(text: str) -> str:
    """A name or an id for the other side of the car."""
    return re.sub(r"left|right|Left|Right", lambda found: SIDES[found[0]], text)


def mirror_circuit(build: Build, circuit_id: str) -> Build:
    """The build with a circuit copied to the other side of the car.

    Its loads, switches and relays are copied to the mirrored places, its fuses to free ways of the
    same bus; switches of other circuits and grounds are shared. Raises UnusableInput.
    """
    circuit = build.circuits.get(circuit_id)
    own = [part for part in build.parts.values() if part.circuit == circuit_id]
    if circuit is None or not own:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}” with parts."
        )
    if not any(_other_side(build, part.place) != part.place for part in own):
        raise UnusableInput(
            "no-side",
            circuit_id,
            f"Nothing of “{circuit.name}” is at a place on the left or right, so there is no other "
            "side to copy it to.",
        )
    draft = Draft(build)
    name = mirrored(circuit.name)
    name = name if name != circuit.name else f"{circuit.name}, other side"
    copy = draft.add_circuit(name[:80], circuit.group, circuit.criticality)
    draft.circuits[copy.id] = replace(copy, stage=circuit.stage)
    became = _copy_parts(draft, build, own, copy)
    ends = _copy_fuses(draft, circuit, copy)
    for wire in build.wires.values():
        if wire.circuit == circuit_id:
            _copy_wire(draft, wire, copy, became, ends)
    return draft.build


def _copy_parts(draft: Draft, build: Build, own: list[Part], copy: Circuit) -> dict[str, str]:
    became: dict[str, str] = {}
    for part in own:
        if part.kind == "fuse" and part.fitted:
            continue
        name = mirrored(part.name)
        name = name if name != part.name else f"{part.name} 2"
        place = _other_side(build, part.place)
        new_id = draft.fresh_id(name, draft.parts)
        clone = replace(part, id=new_id, name=name[:80], place=place, circuit=copy.id)
        draft.parts[new_id] = clone
        became[part.id] = new_id
    for old, new in became.items():
        housed = build.parts[old].housed
        if housed is not None:
            unit = became.get(housed.unit, housed.unit)
            draft.parts[new] = replace(draft.parts[new], housed=Housed(unit, housed.pins))
    return became


def _copy_fuses(draft: Draft, circuit: Circuit, copy: Circuit) -> dict[Terminal, Terminal]:
    """A new fuse for each of the circuit's, live from the same key position."""
    ends = {}
    for fuse in _fuses_of(draft, circuit):
        key = paths_of(draft.build).key_needed(fuse_output(fuse)) or "always"
        ends[fuse_output(fuse)] = fuse_output(choose_fuse(draft, (key,), None, copy.name))
    return ends


def _copy_wire(
    draft: Draft,
    wire: Wire,
    copy: Circuit,
    became: Mapping[str, str],
    ends: Mapping[Terminal, Terminal],
) -> None:
    def over(end: Terminal) -> Terminal:
        return ends.get(end) or Terminal(became.get(end.part, end.part), end.name)

    first, second = over(wire.from_terminal), over(wire.to_terminal)
    if draft.parts[second.part].kind == "ground point":
        draft.ground(first, copy)
    else:
        draft.add_wire(first, second, copy, wire.colour)


def _other_side(build: Build, place: str) -> str:
    other = mirrored(place)
    return other if other in build.places else place


def recolour(build: Build) -> Build:
    """The build with every wire in the colour that the policy gives it."""
    wires = dict(build.wires)
    for wire in build.wires.values():
        circuit = build.circuits.get(wire.circuit or "")
        if circuit is None:
            continue
        kinds = {build.parts[end.part].kind for end in (wire.from_terminal, wire.to_terminal)}
        role = "ground" if "ground point" in kinds else "feed"
        wires[wire.id] = replace(wire, colour=colour_for(build, circuit, role))
    return replace(build, wires=wires)
