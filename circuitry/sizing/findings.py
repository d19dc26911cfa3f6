"""What the checks want the builder to look at, worst first, with mends where there are any."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import replace
from typing import Any

from circuitry.catalogue import catalogue
from circuitry.design.model import Acceptance, Build, Part, Policy, Wire
from circuitry.devices import switches_of
from circuitry.devices.relay import relay_row
from circuitry.document.reading import write_thing
from circuitry.finding import SEVERITIES, Finding, Mend
from circuitry.layout.findings import layout_findings
from circuitry.network.network import Solution
from circuitry.sizing.ampacity import enough
from circuitry.sizing.causes import drop_findings, rechoose, resize
from circuitry.sizing.charging import charging_findings
from circuitry.sizing.ends import end_findings
from circuitry.sizing.facts import shelf_of
from circuitry.sizing.faults import design_faults
from circuitry.sizing.functions import function_findings
from circuitry.sizing.isolation import isolation_findings
from circuitry.sizing.modules import module_findings
from circuitry.sizing.protection import protection_findings
from circuitry.sizing.result import FuseSizing, Sizing, WireSizing
from circuitry.sizing.sharing import sharing_findings
from circuitry.sizing.starting import starting_findings
from circuitry.sizing.states import starts
from circuitry.sizing.time_current import slow_protection

SOURCE_WIRE_LIMIT_M = 0.3
RELAY_HOT_C = 85.0
RELAY_COOL_C = 23.0


def findings(
    original: Build, sizing: Sizing, solutions: Sequence[Solution], unprotected: frozenset[str]
) -> list[Finding]:
    """All findings of a sized build, worst first and then in the order of the build."""
    found = [
        *_dead_loads(sizing),
        *_wires(original, sizing, unprotected),
        *_fuses(original, sizing),
        *drop_findings(original, sizing),
        *_switches(original, solutions),
        *_relays(original, solutions),
        *_states(sizing.build),
        *_old_school(original),
        *design_faults(sizing.build, solutions),
        *layout_findings(sizing.build),
        *end_findings(sizing),
        *charging_findings(original, sizing),
        *protection_findings(sizing),
        *starting_findings(original, sizing),
        *slow_protection(sizing),
        *sharing_findings(original, sizing),
        *function_findings(original, sizing),
        *isolation_findings(sizing),
        *module_findings(sizing),
    ]
    return held_to(found, original.acceptances)


def held_to(found: Iterable[Finding], acceptances: Mapping[str, Acceptance]) -> list[Finding]:
    """The findings, worst first, those that the builder lives with last; one that says something
    else than when it was accepted is open again."""
    rows = []
    for row in found:
        accepted = acceptances.get(row.id)
        if accepted is not None:
            same = (accepted.found, accepted.limit) == (row.found, row.limit)
            word = "accepted" if same else "once_accepted"
            row = replace(row, **{word: accepted.reason})  # type: ignore[arg-type]
        rows.append(row)
    return sorted(rows, key=lambda row: (bool(row.accepted), SEVERITIES.index(row.severity)))


def _dead_loads(sizing: Sizing) -> Iterator[Finding]:
    wired = sizing.build.wired_parts()
    for load in sizing.build.parts_of_kind("load"):
        if load.id in sizing.unsearched:
            yield _not_searched(load, load.id in sizing.loads)
        if load.id in sizing.loads or load.id in sizing.unsearched or load.id not in wired:
            continue
        path = sizing.easiest.get(load.id)
        if path is None:
            yield Finding(
                "load-dead",
                "stop",
                (load.id,),
                load.circuit,
                f"{load.name} cannot come on",
                "no way from battery to load and back",
                "one key and switch position at least",
                "A wire, a switch or a ground is missing on its way.",
            )
        else:
            yield Finding(
                "load-not-energised",
                "stop",
                (load.id,),
                load.circuit,
                f"{load.name} has a way but no voltage",
                "less than half of the battery's voltage",
                "nearly all of it",
                "A relay on its way may lack the voltage to pull in, or its coil shares the fault.",
            )


def _not_searched(load: Part, comes_on: bool) -> Finding:
    return Finding(
        "search-gave-up",
        "look" if comes_on else "stop",
        (load.id,),
        load.circuit,
        f"Not every way to {load.name} could be looked at",
        "more positions of switches and relays on its way than can be searched",
        "every position of every switch",
        "Its fuse and wires may be sized for less than can flow"
        + (". " if comes_on else ", and that it comes on is not known. ")
        + "Take switches out that lie side by side, or lead it over a relay of its own; prove "
        "it on the bench.",
    )


def _states(build: Build) -> Iterator[Finding]:
    wired = build.wired_parts()
    going = [part for part in build.parts.values() if part.state in ("remove", "spare")]
    for part in going:
        if part.id in wired:
            remove = {"op": "remove_load", "load": part.id}
            yield Finding(
                "still-wired",
                "look",
                (part.id,),
                part.circuit,
                f"{part.name} is marked {part.state} but still wired",
                "wires land on it",
                "none",
                "A wire that feeds nothing is a live end to find later. Take it out or change its "
                "state.",
                (Mend(f"Take {part.name} out", (remove,)),) if part.kind == "load" else (),
            )
    waiting = [
        part for part in build.parts_of_kind("load") if part.id not in wired and part not in going
    ]
    if waiting:
        yield Finding(
            "not-wired",
            "note",
            tuple(part.id for part in waiting),
            None,
            f"{len(waiting)} loads are not wired yet"
            if len(waiting) > 1
            else f"{waiting[0].name} is not wired yet",
            ", ".join(part.name for part in waiting[:5]) + (" …" if len(waiting) > 5 else ""),
            "all of them",
            "They have no fuse and no wire, and count for nothing. Wire them in Take stock.",
        )


def _old_school(original: Build) -> Iterator[Finding]:
    if original.policy.drop_school != "percent by class":
        return
    fields = {"policy": {"drop_school": "by kind of load"}}
    yield Finding(
        "drop-by-class",
        "note",
        (),
        None,
        "Drop is judged in percent by class",
        f"{original.policy.critical_drop_percent:g} % and "
        f"{original.policy.other_drop_percent:g} % of the source",
        "by kind of load",
        "What a headlamp, an injector and a horn may lose differs more than two classes can say. "
        "By kind of load most cars need less copper, and the engine's electronics get more volts.",
        (
            Mend(
                "Judge drop by kind of load",
                ({"op": "change", "collection": "build", "id": "build", "fields": fields},),
            ),
        ),
    )


def _wires(original: Build, sizing: Sizing, unprotected: frozenset[str]) -> Iterator[Finding]:
    cranking = _cranking(sizing)
    for row in sizing.wires.values():
        wire = original.wires[row.wire]
        if not enough(row.carries_a, row.lasting_a):
            yield _thin(original, sizing, wire, row, f"{row.lasting_a:.1f} A flow in it")
        elif not enough(row.carries_a, row.must_carry_a) and row.behind is not None:
            limit = f"{row.behind} lets {row.must_carry_a:g} A pass for ever"
            yield _thin(original, sizing, wire, row, limit)
        if row.wire in unprotected and row.length_m > SOURCE_WIRE_LIMIT_M + 1e-9:
            if wire.id in cranking:
                yield _starter_cable(sizing.build, wire, row)
                continue
            yield Finding(
                "source-wire-long",
                "stop",
                (wire.id,),
                wire.circuit,
                f"{sizing.build.wire_of(wire)} is not protected near the battery",
                f"{row.length_m:.2f} m before its fuse",
                f"{SOURCE_WIRE_LIMIT_M:g} m",
                "Chafed through, it feeds all that the battery has into the fault. Move the fuse "
                "nearer to the battery.",
            )


def _cranking(sizing: Sizing) -> set[str]:
    """The wires that lead cranking current, which no fuse would bear."""
    starters = (load for load in sizing.build.parts_of_kind("load") if starts(load))
    ways = (sizing.easiest.get(load.id) for load in starters)
    return {step.owner for way in ways if way for step in way.feed if step.kind == "wire"}


def _starter_cable(build: Build, wire: Wire, row: WireSizing) -> Finding:
    return Finding(
        "starter-cable-bare",
        "note",
        (wire.id,),
        wire.circuit,
        f"{build.wire_of(wire)} has no fuse, for it leads to the starter",
        f"{row.length_m:.2f} m",
        "as short as it can be",
        "That is usual, for no fuse would bear the cranking. Sleeve and clip it, away from edges, "
        "heat and moving parts.",
    )


def _thin(original: Build, sizing: Sizing, wire: Wire, row: WireSizing, limit: str) -> Finding:
    passing = _passing(sizing, wire.id) if row.pinned else None
    mends: tuple[Mend, ...] = ()
    if passing is not None:
        mends = (Mend(f"Fit {passing}", (resize(wire, passing),)),)
    elif not row.pinned:
        mends = tuple(_thicker_reel(sizing.build.policy, row))
    return Finding(
        "wire-too-thin",
        "stop",
        (wire.id, *((row.fuse,) if row.fuse else ())),
        wire.circuit,
        f"{sizing.build.wire_of(wire)} is too thin",
        f"{row.size} carries {row.carries_a:.1f} A here",
        limit,
        "In a fault the wire glows before the fuse parts."
        if row.carries_a >= row.lasting_a
        else "It runs too hot in normal use.",
        mends,
    )


def _thicker_reel(policy: Policy, row: WireSizing) -> Iterator[Mend]:
    """The next size that is not on the shelf and would carry what it must: what a size carries in
    one place goes about with its copper to the power of 0.6."""
    shelf = shelf_of(policy)
    thickest = shelf[-1]
    for size in catalogue().conductors[policy.conductors]:
        times = (size.copper_area_mm2 / thickest.copper_area_mm2) ** 0.6
        if size not in shelf and times > 1 and times * row.carries_a >= row.must_carry_a:
            fields = {"policy": {"shelf": [*(other.name for other in shelf), size.name]}}
            operation = {"op": "change", "collection": "build", "id": "build", "fields": fields}
            yield Mend(f"Put {size.name} on the shelf", (operation,))
            return


def _fuses(original: Build, sizing: Sizing) -> Iterator[Finding]:
    for row in sizing.fuses.values():
        part = original.parts[row.fuse]
        if row.carries_a >= row.lasting_a and row.bears_a >= row.current_a:
            continue
        yield Finding(
            "fuse-too-small",
            "stop" if row.current_a > row.rating_a else "look",
            (part.id,),
            circuit_behind(sizing, part.id),
            f"{part.name if 'fuse' in part.name.lower() else f'Fuse {part.name}'} is too small"
            if row.pinned
            else f"No fuse is large enough for {part.name}",
            f"{row.current_a:.1f} A flow",
            f"{row.carries_a:.1f} A for ever through {row.rating_a:g} A",
            "It parts or ages in normal use."
            if row.pinned
            else "Share its loads out over more ways, or choose a family with larger ratings.",
            _refit(sizing, part, row),
        )


def _passing(sizing: Sizing, owner: str) -> str | None:
    """The first size weighed for a wire or fuse that passes."""
    return next((row.name for row in sizing.candidates(owner) if row.passes), None)


def _refit(sizing: Sizing, part: Part, row: FuseSizing) -> tuple[Mend, ...]:
    passing = _passing(sizing, part.id) if row.pinned else None
    if passing is None:
        return ()
    return (rechoose(part, f"Let Oilstone choose: {passing}"),)


def _switches(original: Build, solutions: Sequence[Solution]) -> Iterator[Finding]:
    for part in switches_of(original):
        rating_a = part.number("contact_rating_a", 0)
        current_a = _largest_contact_a(part, solutions)
        if not rating_a or current_a <= rating_a:
            continue
        circuit = _heaviest_direct_circuit(original, part, solutions)
        yield Finding(
            "switch-overloaded",
            "stop",
            (part.id,),
            circuit,
            f"{part.name} carries more than its contacts can",
            f"{current_a:.1f} A",
            f"{rating_a:g} A",
            "The contacts burn or weld. A relay leaves the switch only the coil's current.",
            _relay_mend(original, circuit),
        )


def _relay_mend(original: Build, circuit_id: str | None) -> tuple[Mend, ...]:
    circuit = original.circuits.get(circuit_id or "")
    if circuit is None or circuit.intent is None:
        return ()
    wiring: dict[str, Any] = {**write_thing(circuit.intent), "through": "relay"}
    operation = {"op": "rewire_circuit", "circuit": circuit.id, "wiring": wiring}
    return (Mend(f"Put {circuit.name} through a relay", (operation,)),)


def _heaviest_direct_circuit(
    original: Build, part: Part, solutions: Sequence[Solution]
) -> str | None:
    currents = {
        circuit.id: max(
            sum(s.loads[load.id].amps for load in original.loads_of(circuit.id)) for s in solutions
        )
        for circuit in original.circuits.values()
        if circuit.intent
        and circuit.intent.through == "direct"
        and circuit.intent.switch
        and circuit.intent.switch.part == part.id
    }
    return max(currents, key=lambda circuit: currents[circuit], default=None)


def _relays(original: Build, solutions: Sequence[Solution]) -> Iterator[Finding]:
    for part in original.parts_of_kind("relay"):
        row = relay_row(part)
        ambient_c = original.places[part.place].ambient_c
        share = min(max((ambient_c - RELAY_COOL_C) / (RELAY_HOT_C - RELAY_COOL_C), 0), 1)
        rating_a = row.no_continuous_a_23c + share * (
            row.no_continuous_a_85c - row.no_continuous_a_23c
        )
        current_a = _largest_contact_a(part, solutions)
        if current_a > rating_a:
            yield Finding(
                "relay-overloaded",
                "stop",
                (part.id,),
                part.circuit,
                f"{part.name} carries more than its contacts can",
                f"{current_a:.1f} A",
                f"{rating_a:.0f} A at {ambient_c:g} °C",
                "The contacts burn or weld. Choose a larger relay or share the loads out.",
            )


def _largest_contact_a(part: Part, solutions: Sequence[Solution]) -> float:
    return max((solution.contact_a.get(part.id, 0.0) for solution in solutions), default=0.0)


def circuit_behind(sizing: Sizing, fuse: str) -> str | None:
    """The first circuit that has a wire behind a fuse."""
    for row in sizing.wires.values():
        circuit = sizing.build.wires[row.wire].circuit
        if row.fuse == fuse and circuit is not None:
            return circuit
    return None
