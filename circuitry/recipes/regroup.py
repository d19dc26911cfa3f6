"""Putting a load behind another way, fuse or channel than it sits behind."""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

from circuitry.design.model import Build, Part, Terminal, Way, Wire
from circuitry.devices.module import channel_bears_a, is_bridge, soft_start_for
from circuitry.errors import UnusableInput
from circuitry.reach.paths import loads_behind, paths_of
from circuitry.reach.ways import Step
from circuitry.recipes.clearing import sweep_fuses
from circuitry.recipes.draft import Draft
from circuitry.recipes.protection import KEY_WORDS, fuse_in_way, fuse_output, ways


@dataclass(frozen=True)
class Guard:
    """What a load can be put behind: the terminal behind it, its name, and ``group``: a load goes
    from one to another of the same group. ``holds`` are the loads behind it now."""

    at: str
    name: str
    group: str
    holds: tuple[str, ...]


def guards(build: Build) -> Iterator[Guard]:
    """Every way that is fed and every channel of modules, with what sits behind it."""
    for row in ways(build):
        if row.key is not None:
            at = Terminal(row.panel, row.way)
            fuse = build.parts[row.fuse].name if row.fuse else f"{row.way}, free"
            name = f"{build.parts[row.panel].name}: {fuse}"
            yield Guard(str(at), name, KEY_WORDS[row.key], _held(build, at, row.fuse is None))
    for module in build.parts_of_kind("module"):
        for way in module.ways:
            if not is_bridge(module, way.name) and not way.joined:
                at = Terminal(module.id, way.name)
                word = "" if way.when else ", free"
                bears = f"{channel_bears_a(module, way.name):g} A"
                name = f"{module.name}: {way.name}, {bears}{word}"
                yield Guard(str(at), name, module.id, _held(build, at, not way.when))


def guard_of(build: Build, load: Part) -> Terminal | None:
    """The terminal behind what guards a load; None where nothing does or it has no way."""
    step = _guarding(build, load)
    if step is None:
        return None
    part = build.parts[step.owner]
    return fuse_output(part) if part.kind == "fuse" else step.to_terminal


def moved_load(build: Build, load_id: str, to: Terminal) -> Build:
    """The build with a load, and what shares its wire from there, behind another way or channel.

    A fuse that guards it alone goes along; a way that holds one already is shared. Raises
    UnusableInput.
    """
    load = build.parts[load_id]
    step = _guarding(build, load)
    guard = build.parts[step.owner] if step else None
    target = build.parts.get(to.part)
    if step is None or guard is None or target is None:
        raise _no_such(load, to)
    if guard.kind == "module":
        return _to_channel(build, load, guard, step.to_terminal.name, to)
    if guard.fitted is None or target.kind != "panel":
        raise UnusableInput(
            "not-in-a-way",
            load.id,
            f"{load.name} is guarded by {guard.name}, which sits in no way. Only what sits in a "
            "way of a panel goes to another way.",
        )
    return _to_way(build, load, guard, to)


def _to_way(build: Build, load: Part, fuse: Part, to: Terminal) -> Build:
    rows = {(row.panel, row.way): row for row in ways(build)}
    old = fuse_output(fuse)
    here, there = rows[old.part, old.name], rows.get((to.part, to.name))
    if there is None:
        raise _no_such(load, to)
    if there.key != here.key:
        words = [KEY_WORDS[row.key] if row.key else "never" for row in (here, there)]
        raise UnusableInput(
            "wrong-key",
            load.id,
            f"{load.name} is live {words[0]}, and {to.name} is live {words[1]}. Choose a way that "
            "is live as it is, or change the key position in the list.",
        )
    draft = Draft(build)
    leaving = draft.wires_on(old)
    own = [wire for wire in leaving if wire.circuit == load.circuit]
    with_it = own if _is_alone(build, load, fuse) else [_leads(build, load, fuse, own)]
    if there.fuse is None and len(with_it) == len(leaving):
        draft.parts[fuse.id] = fuse_in_way(draft, fuse, to)
    elif there.fuse is None:
        fresh = draft.add_part("fuse", load.name, fuse.place)
        draft.parts[fresh.id] = fuse_in_way(draft, replace(fresh, catalogue=fuse.catalogue), to)
    for wire in with_it:
        end = "from_terminal" if wire.from_terminal == old else "to_terminal"
        moved: dict[str, Any] = {end: to, "way": None}
        draft.wires[wire.id] = replace(wire, **moved)
    sweep_fuses(draft)
    return draft.build


def _to_channel(build: Build, load: Part, module: Part, channel: str, to: Terminal) -> Build:
    names = {way.name: way for way in module.ways}
    if to.part != module.id or to.name not in names or is_bridge(module, to.name):
        raise UnusableInput(
            "other-module",
            load.id,
            f"{load.name} is on {module.name}. Choose a channel of that, or move the whole "
            "function to another module.",
        )
    if names[to.name].when or names[to.name].joined:
        raise UnusableInput(
            "channel-taken",
            load.id,
            f"{to.name} of {module.name} has a condition of its own. Choose a free channel.",
        )
    loads = loads_behind(build, Terminal(module.id, channel))
    bears_a = channel_bears_a(module, to.name)
    if bears_a < (names[channel].limit_a or 0.0) or soft_start_for(module, to.name, loads) is None:
        raise UnusableInput(
            "channel-too-weak",
            load.id,
            f"{to.name} of {module.name} bears {bears_a:g} A, which is too little for "
            f"{', '.join(row.name for row in loads)}. Choose one that bears more.",
        )
    if any(way.joined == channel for way in module.ways):
        raise UnusableInput(
            "channel-joined",
            load.id,
            f"{channel} of {module.name} is two channels joined. Write the function again instead.",
        )
    freed = Way(channel, names[channel].bus)
    soft_s = soft_start_for(module, to.name, loads) or 0.0
    taken = replace(names[channel], name=to.name, soft_s=soft_s)
    over = {channel: freed, to.name: taken}
    rows = tuple(over.get(way.name, way) for way in module.ways)
    old = Terminal(module.id, channel)
    wires = {
        wire.id: replace(
            wire,
            from_terminal=to if wire.from_terminal == old else wire.from_terminal,
            to_terminal=to if wire.to_terminal == old else wire.to_terminal,
        )
        for wire in build.wires.values()
    }
    return replace(build, wires=wires, parts={**build.parts, module.id: replace(module, ways=rows)})


def _guarding(build: Build, load: Part) -> Step | None:
    """The last fuse or channel on the way to a load."""
    path = paths_of(build).to_load(load)
    steps = [step for step in path.feed if step.kind in ("fuse", "output")] if path else []
    return steps[-1] if steps else None


def _held(build: Build, at: Terminal, free: bool) -> tuple[str, ...]:
    return () if free else tuple(load.name for load in loads_behind(build, at))


def _is_alone(build: Build, load: Part, fuse: Part) -> bool:
    """Whether no other load of its circuit sits behind the same fuse."""
    return not any(
        other.id != load.id and step is not None and step.owner == fuse.id
        for other in build.loads_of(load.circuit or "")
        for step in [_guarding(build, other)]
    )


def _leads(build: Build, load: Part, fuse: Part, own: list[Wire]) -> Wire:
    """The wire behind a fuse over which its current goes to a load."""
    path = paths_of(build).to_load(load)
    on_way = {step.owner for step in path.feed} if path else set()
    found = next((wire for wire in own if wire.id in on_way), None)
    if found is None:
        raise UnusableInput(
            "not-its-own",
            load.id,
            f"{load.name} has no wire of its own behind {fuse.name}: it is fed over what belongs "
            "to another circuit.",
        )
    return found


def _no_such(load: Part, to: Terminal) -> UnusableInput:
    return UnusableInput(
        "unknown-way", load.id, f"There is no {to} that {load.name} could sit behind."
    )
