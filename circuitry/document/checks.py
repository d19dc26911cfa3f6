"""What makes a build unusable; each problem names the part the user knows and the way out."""

from collections.abc import Iterator

from circuitry.catalogue import catalogue
from circuitry.design.logic import VALUES, compared_in, names_in, positions_in, spoken
from circuitry.design.model import KEY_POSITIONS, Build, Circuit, Part, Run, Terminal, Wire
from circuitry.design.routes import ends_of, way_of
from circuitry.design.state import State
from circuitry.devices import DEVICES, device_of, is_switch, terminals_of
from circuitry.devices.device import unknown_row
from circuitry.devices.electronics import outputs_of
from circuitry.devices.hearing import INPUT, SWITCH, heard_by, is_analogue
from circuitry.errors import UnusableInput


def check(build: Build) -> None:
    """Raise UnusableInput for the first thing that makes the build unusable."""
    for problem in problems(build):
        raise problem


def problems(build: Build) -> Iterator[UnusableInput]:
    """Every problem of the build, in the order of the document; later ones assume earlier ones."""
    yield from _policy(build)
    for run in build.runs.values():
        yield from _run(build, run)
    yield from _runs_differ(build)
    for part in build.parts.values():
        yield from _part(build, part)
    yield from _fuses_share_no_way(build)
    for part in build.parts.values():
        yield from _housed(build, part)
        yield from _conditions(build, part)
    yield from _labels(build)
    for wire in build.wires.values():
        yield from _wire(build, wire)
    for circuit in build.circuits.values():
        yield from _circuit(build, circuit)
    yield from _one_of_each(build)
    yield from _old_loom(build)


def _policy(build: Build) -> Iterator[UnusableInput]:
    policy, body = build.policy, build.body
    if not 0 <= body.front_axle_m < body.rear_axle_m <= body.length_m:
        yield UnusableInput(
            "bad-body",
            "body",
            f"The axles at {body.front_axle_m:g} m and {body.rear_axle_m:g} m from the nose do not "
            f"fit a car of {body.length_m:g} m. Measure both from the nose.",
        )
    for kind in policy.end_extra_m.keys() - set(DEVICES):
        yield UnusableInput(
            "unknown-kind", "policy", f"end_extra_m names “{kind}”, which is no kind of part."
        )
    if policy.insulation not in catalogue().insulation:
        yield unknown_row("policy", policy.insulation, "insulation", catalogue().insulation)
    if policy.joint not in catalogue().joints:
        yield unknown_row("policy", policy.joint, "joint", catalogue().joints)


def _run(build: Build, run: Run) -> Iterator[UnusableInput]:
    for place in (run.from_place, run.to_place):
        if place not in build.places:
            yield UnusableInput(
                "unknown-place", run.id, f"Run {run.id} ends at “{place}”, which is no place."
            )
    if run.from_place == run.to_place:
        yield UnusableInput(
            "loop-run",
            run.id,
            f"Run {run.id} starts and ends at the same place. Choose two places.",
        )


def _runs_differ(build: Build) -> Iterator[UnusableInput]:
    seen: dict[frozenset[str], Run] = {}
    for run in build.runs.values():
        ends = frozenset((run.from_place, run.to_place))
        other = seen.setdefault(ends, run)
        if other is not run and ends <= build.places.keys():
            first, second = (build.places[place].name for place in (run.from_place, run.to_place))
            yield UnusableInput(
                "two-runs",
                run.id,
                f"Two runs lead from {first} to {second}: {other.id} and {run.id}. Keep one, or "
                "lead one of them over a place between.",
            )


def _part(build: Build, part: Part) -> Iterator[UnusableInput]:
    who = f"{part.kind.capitalize()} “{part.name}”"
    if part.kind not in DEVICES:
        yield UnusableInput(
            "unknown-kind",
            part.id,
            f"“{part.name}” is of unknown kind “{part.kind}”. Kinds: {', '.join(DEVICES)}.",
        )
        return
    if part.place not in build.places:
        yield UnusableInput(
            "unknown-place", part.id, f"{who} is at “{part.place}”, which is no place of the build."
        )
    if part.circuit is not None and part.circuit not in build.circuits:
        yield UnusableInput(
            "unknown-circuit", part.id, f"{who} belongs to “{part.circuit}”, which is no circuit."
        )
    device, rows = device_of(part), device_of(part).rows()
    yield from _figures(part, who)
    if rows is not None and part.catalogue not in rows:
        what = f"{device.row_word or part.kind} for “{part.name}”"
        yield unknown_row(part.id, part.catalogue, what, rows)
    yield from device.problems(build, part, who)
    if part.ways and part.kind not in ("panel", "module"):
        yield UnusableInput(
            "bad-ways",
            part.id,
            f"{who} has ways or channels: only panels and modules do. Make them pins.",
        )
    if len({way.name for way in part.ways}) < len(part.ways):
        yield UnusableInput("two-ways", part.id, f"{who} has two ways of one name.")
    if len({pin.name for pin in part.pins}) < len(part.pins):
        yield UnusableInput("two-pins", part.id, f"{who} has two pins of one name.")


def _figures(part: Part, who: str) -> Iterator[UnusableInput]:
    device = device_of(part)
    figures = {figure.name for figure in device.figures}
    for name, value in part.figures.items():
        if name in device.texts:
            continue
        if name not in figures:
            known = ", ".join(sorted(figures | device.texts)) or "none"
            yield UnusableInput(
                "unknown-figure", part.id, f"{who} has no figure “{name}”. It takes {known}."
            )
        elif not isinstance(value, float) or value < 0:
            yield UnusableInput(
                "bad-figure", part.id, f"{who}: {name} is {value}, but must be a number above 0."
            )


def _housed(build: Build, part: Part) -> Iterator[UnusableInput]:
    if part.housed is None:
        return
    who = f"{part.kind.capitalize()} “{part.name}”"
    unit = build.parts.get(part.housed.unit)
    if unit is None or unit.kind not in ("box", "module"):
        yield UnusableInput(
            "unknown-unit",
            part.id,
            f"{who} sits inside “{part.housed.unit}”, which is no box. Name a box or a module.",
        )
        return
    for own, pin in part.housed.pins.items():
        if own not in terminals_of(part) or pin not in terminals_of(unit):
            yield UnusableInput(
                "unknown-pin",
                part.id,
                f"{who} has terminal {own} on pin {pin} of “{unit.name}”: it has "
                f"{', '.join(terminals_of(part))}, the unit has {', '.join(terminals_of(unit))}.",
            )


def _conditions(build: Build, part: Part) -> Iterator[UnusableInput]:
    """Conditions that cannot be read, or that ask for what neither the part nor the build has."""
    outputs = outputs_of(part)
    if not outputs:
        return
    known = heard_by(build, part)
    for name, condition in outputs:
        where = f"“{part.name}”, {name}"
        try:
            asked = names_in(condition)
        except UnusableInput as problem:
            yield UnusableInput(problem.code, part.id, f"{where}: {problem}")
            continue
        for missing in [one for one in asked if one not in known]:
            yield UnusableInput(
                "unknown-name",
                part.id,
                f"{where}: “{missing}” is no input, no button and no switch of the build. "
                f"It may ask for {', '.join(sorted(known)[:8])}.",
            )
        compared = compared_in(condition)
        for asked_for in asked:
            told = known.get(asked_for)
            if told is None or told.kind not in (INPUT, SWITCH):
                continue
            volts = told.kind == INPUT and is_analogue(build, told)
            if volts != (asked_for in compared):
                yield UnusableInput(
                    "not-compared" if volts else "not-a-figure",
                    part.id,
                    f"{where}: “{asked_for}” tells its volts. Compare it: {asked_for} > 2.5."
                    if volts
                    else f"{where}: “{asked_for}” is on or off, and cannot be compared. Values are "
                    f"{', '.join(VALUES)}, and analogue inputs.",
                )
        for name_asked, position in positions_in(condition):
            switch = build.parts.get(known[name_asked].part) if name_asked in known else None
            names = (
                [row.name for row in switch.contacts.positions]
                if switch and switch.contacts
                else []
            )
            if position not in map(spoken, names):
                yield UnusableInput(
                    "unknown-position",
                    part.id,
                    f"{where}: “{name_asked}” is never “{position}”. It has "
                    f"{', '.join(map(spoken, names)) or 'no positions'}.",
                )


def _fuses_share_no_way(build: Build) -> Iterator[UnusableInput]:
    seen: dict[tuple[str, str], Part] = {}
    for part in build.parts_of_kind("fuse"):
        if part.fitted is None:
            continue
        other = seen.setdefault((part.fitted.panel, part.fitted.way), part)
        if other is not part:
            yield UnusableInput(
                "two-fuses",
                part.id,
                f"Fuses “{other.name}” and “{part.name}” both sit in way {part.fitted.way}. "
                "Move one to another way.",
            )


def _labels(build: Build) -> Iterator[UnusableInput]:
    seen: dict[str, Wire] = {}
    for wire in build.wires.values():
        other = seen.setdefault(wire.label, wire)
        if other is not wire:
            yield UnusableInput(
                "two-labels",
                wire.label,
                f"Two wires carry the label {wire.label}: {other.from_terminal} to "
                f"{other.to_terminal}, and {wire.from_terminal} to {wire.to_terminal}. "
                "Give one of them another label.",
            )


def _wire(build: Build, wire: Wire) -> Iterator[UnusableInput]:
    missing = False
    for end in (wire.from_terminal, wire.to_terminal):
        problem = terminal_problem(build, end, f"Wire {wire.label} ends on")
        if problem:
            missing = True
            yield UnusableInput("missing-terminal", wire.label, problem)
    if wire.from_terminal == wire.to_terminal:
        yield UnusableInput(
            "loop-wire", wire.label, f"Wire {wire.label} starts and ends on {wire.to_terminal}."
        )
    if wire.size is not None and wire.size not in catalogue().conductor:
        yield unknown_row(wire.label, wire.size, "conductor size", catalogue().conductor)
    if wire.insulation is not None and wire.insulation not in catalogue().insulation:
        yield unknown_row(wire.label, wire.insulation, "insulation", catalogue().insulation)
    for joint in (wire.joint_from, wire.joint_to):
        if joint is not None and joint not in catalogue().joints:
            yield unknown_row(wire.label, joint, "joint", catalogue().joints)
    if wire.circuit is not None and wire.circuit not in build.circuits:
        yield UnusableInput(
            "unknown-circuit",
            wire.label,
            f"Wire {wire.label} belongs to “{wire.circuit}”, which is no circuit.",
        )
    for run in wire.way or ():
        if run not in build.runs:
            missing = True
            yield UnusableInput(
                "unknown-run", wire.label, f"Wire {wire.label} goes along “{run}”, which is no run."
            )
    if wire.way and not missing and not _leads(build, wire):
        start, last = (build.places[place].name for place in ends_of(build, wire))
        yield UnusableInput(
            "broken-way",
            wire.label,
            f"Wire {wire.label}: its pinned runs do not lead from {start} to {last}. "
            "Let it take the shortest way, or choose other runs.",
        )


def _leads(build: Build, wire: Wire) -> bool:
    """Whether the pinned runs of a wire are a chain from its one end to the other."""
    here, end = ends_of(build, wire)
    for run in way_of(build, wire):
        if here not in (run.from_place, run.to_place):
            return False
        here = run.to_place if here == run.from_place else run.from_place
    return here == end


def terminal_problem(build: Build, terminal: Terminal, said: str) -> str | None:
    """Why this terminal is not there, as a sentence starting with ``said``; None when it is."""
    part = build.parts.get(terminal.part)
    if part is None:
        return f"{said} {terminal}, but the build has no part “{terminal.part}”."
    names = terminals_of(part)
    inside = {pin.name for pin in part.pins if pin.function == "inside"}
    if part.housed is not None:
        unit = build.parts[part.housed.unit]
        return f"{said} {terminal}, which is inside “{unit.name}”. Choose a pin of it."
    if terminal.name in inside:
        return f"{said} {terminal.name}, which is inside “{part.name}”. Choose a pin of it."
    if terminal.name in names:
        return None
    why = device_of(part).without(part, terminal.name)
    if why:
        return f"{said} terminal {terminal.name}, but {why}"
    return (
        f"{said} terminal {terminal.name} of “{part.name}”, which has {', '.join(names)}. "
        "Choose one of these."
    )


def _circuit(build: Build, circuit: Circuit) -> Iterator[UnusableInput]:
    intent = circuit.intent
    if intent is None:
        return
    if intent.fuse not in build.parts:
        yield UnusableInput(
            "unknown-fuse",
            circuit.id,
            f"Circuit “{circuit.name}” names fuse “{intent.fuse}”, which is not there.",
        )
    if intent.switch is not None:
        problem = terminal_problem(build, intent.switch, f"Circuit “{circuit.name}” is switched by")
        if problem:
            yield UnusableInput("missing-terminal", circuit.id, problem)


def _one_of_each(build: Build) -> Iterator[UnusableInput]:
    batteries = build.parts_of_kind("battery")
    if not batteries:
        yield UnusableInput(
            "no-battery",
            "parts",
            f"The build “{build.name}” has no battery. Add one part of kind battery.",
        )
    if len(batteries) > 1:
        yield UnusableInput(
            "two-batteries",
            batteries[1].id,
            f"The build “{build.name}” has {len(batteries)} batteries. Keep one.",
        )
    keys = build.parts_of_kind("key switch")
    if len(keys) > 1:
        yield UnusableInput(
            "two-keys", keys[1].id, "The build has more than one key switch. Keep one."
        )


def _old_loom(build: Build) -> Iterator[UnusableInput]:
    if build.harness_from is not None and build.harness_from not in build.places:
        yield UnusableInput(
            "unknown-place", "harness", f"The harness starts at “{build.harness_from}”, no place."
        )
    for row in build.harness_circuits.values():
        if row.size not in catalogue().conductor:
            yield unknown_row(row.id, row.size, f"size for “{row.name}”", catalogue().conductor)
        serves = build.parts.get(row.serves or "")
        if row.serves is not None and (serves is None or serves.kind != "load"):
            yield UnusableInput(
                "unknown-load", row.id, f"“{row.name}” serves “{row.serves}”, which is no load."
            )


def check_state(build: Build, state: State) -> None:
    """Raise UnusableInput when the state names what the build does not have."""
    if state.key not in KEY_POSITIONS:
        raise UnusableInput(
            "unknown-key", "key", f"The key has no “{state.key}”: {', '.join(KEY_POSITIONS)}."
        )
    for part_id, position in state.switches.items():
        part = build.parts.get(part_id)
        if part is None or not is_switch(part) or part.contacts is None:
            raise UnusableInput("unknown-switch", part_id, f"The build has no switch “{part_id}”.")
        if part.contacts.position(position) is None:
            names = ", ".join(row.name for row in part.contacts.positions)
            raise UnusableInput(
                "unknown-position",
                part_id,
                f"Switch “{part.name}” has no position “{position}”. It has {names}.",
            )
    for name in state.values:
        if name not in VALUES:
            raise UnusableInput(
                "unknown-value", name, f"No sensor tells “{name}”. Values: {', '.join(VALUES)}."
            )
    for terminal in (probe for meter in state.meters for probe in meter):
        problem = terminal_problem(build, terminal, "The voltmeter is on")
        if problem:
            raise UnusableInput("missing-terminal", str(terminal), problem)
