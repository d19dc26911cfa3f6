"""Choosing the fuse of a new circuit: a free way of the right key, or one that is shared."""

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import count as numbers
from itertools import filterfalse

from circuitry.design.model import Build, Fitted, Part, Terminal, Way
from circuitry.design.routes import distance_m
from circuitry.devices.load import rated_current_a
from circuitry.errors import UnusableInput
from circuitry.finding import Mend
from circuitry.reach.paths import Paths, loads_behind, paths_of
from circuitry.recipes.draft import Draft

USUAL_RELAY, HEAVY_RELAY = "mini 4-pin", "high-current 70 A"
HEAVY_FROM_A = 20.0
"""A load of so much wants a fuse of 30 A, and its wire more than the usual blade takes."""
HANGING = ("switch", "sensor", "splice", "diode", "resistor")
MORE_WAYS = 4
PANEL_LETTERS = "FSTUV"
"""What the ways of panels are called by; E is the engine's, R that of the other end."""
ENGINE_BUS = "engine"
"""The bus of a panel behind the engine's main relay. Its ways are for what keeps the engine
running; no other circuit takes one unasked."""
KEY_WORDS = {
    "always": "with the key off",
    "accessory": "from accessory",
    "run": "from run",
    "crank": "while cranking",
}


@dataclass(frozen=True)
class WayStatus:
    """A way of a panel: the key position that feeds it (None: never), and the fuse in it."""

    panel: str
    way: str
    bus: str
    key: str | None
    fuse: str | None


def ways(build: Build, paths: Paths | None = None) -> list[WayStatus]:
    """Every way of every panel, with what feeds it and what sits in it."""
    paths = paths or paths_of(supply_side(build))
    fitted = {
        (part.fitted.panel, part.fitted.way): part.id
        for part in build.parts_of_kind("fuse")
        if part.fitted
    }
    rows = []
    for panel in build.parts_of_kind("panel"):
        buses = {way.bus for way in panel.ways}
        keys = {bus: paths.key_needed(Terminal(panel.id, bus)) for bus in buses}
        rows += [
            WayStatus(panel.id, way.name, way.bus, keys[way.bus], fitted.get((panel.id, way.name)))
            for way in panel.ways
        ]
    return rows


def supply_side(build: Build) -> Build:
    """The build without what hangs on the rest by one part alone: loads, and then switches, splices
    and fuses that lead nowhere else.

    What feeds a bus of a panel does not depend on them, and stays the same while loads are added:
    so it is searched once.
    """
    on: dict[str, set[str]] = {part: set() for part in build.parts}
    for wire in build.wires.values():
        ends = (wire.from_terminal, wire.to_terminal)
        one, other = (build.lands(end).part for end in ends)
        if one != other:  # a wire from a part to itself leads nowhere
            on[one].add(other)
            on[other].add(one)
    going = [part for part in build.parts.values() if _hangs(part, on)]
    gone: set[str] = set()
    while going:
        part = going.pop()
        if part.id in gone:
            continue
        gone.add(part.id)
        for other in on.pop(part.id):
            on[other].discard(part.id)
            if _hangs(build.parts[other], on):
                going.append(build.parts[other])
    wires = {
        wire.id: wire
        for wire in build.wires.values()
        if build.lands(wire.from_terminal).part not in gone
        and build.lands(wire.to_terminal).part not in gone
    }
    used = {build.lands(end) for w in wires.values() for end in (w.from_terminal, w.to_terminal)}
    parts = {
        part.id: part
        for part in build.parts.values()
        if part.id not in gone and not (part.fitted and fuse_output(part) not in used)
    }
    return replace(build, parts=parts, wires=wires)


def _hangs(part: Part, on: Mapping[str, set[str]]) -> bool:
    """Whether a part is a load, or something else that at most one other part leads to."""
    if part.housed is not None or part.fitted is not None:
        return False
    return part.kind == "load" or (part.kind in HANGING and len(on.get(part.id, ())) <= 1)


def fuse_output(fuse: Part) -> Terminal:
    """The terminal behind a fuse: its panel's way, or its own out."""
    if fuse.fitted is None:
        return Terminal(fuse.id, "out")
    return Terminal(fuse.fitted.panel, fuse.fitted.way)


def fuse_in_way(draft: Draft, fuse: Part, way: Terminal) -> Part:
    """A fuse as it is in a way of a panel: called after it, and of the family that fits there."""
    panel = draft.parts[way.part]
    family = str(panel.figures.get("fuse_family", fuse.catalogue))
    first, _, rest = fuse.name.partition(" ")
    called = rest if fuse.fitted and first == fuse.fitted.way else fuse.name
    return replace(
        fuse,
        fitted=Fitted(panel.id, way.name),
        place=panel.place,
        catalogue=family,
        name=f"{way.name} {called}"[:80],
        figures=fuse.figures if family == fuse.catalogue else {},
    )


def comfort_fuses(build: Build) -> list[Part]:
    """The fuses in ways behind which there is nothing but comfort, and something."""
    safe = {row.id for row in build.circuits.values() if row.criticality != "comfort"}
    found = []
    for fuse in build.parts_of_kind("fuse"):
        behind = loads_behind(build, fuse_output(fuse)) if fuse.fitted else []
        if behind and not any(load.circuit in safe for load in behind):
            found.append(fuse)
    return found


def relay_for(loads: Iterable[Part]) -> str:
    """The kind of relay that bears these loads together, whose terminals take their wire."""
    heavy = sum(rated_current_a(load) for load in loads) >= HEAVY_FROM_A
    return HEAVY_RELAY if heavy else USUAL_RELAY


def choose_fuse(
    draft: Draft, keys: tuple[str, ...], chosen: str | None, name: str, near: str | None = None
) -> Part:
    """The fuse to sit behind: the chosen one, or a new fuse in a free way.

    ``keys`` are the key positions from which it may be live, the first the most wanted; ``near`` is
    the place to which the panel is to be near, where there are several.

    Raises UnusableInput when the chosen fuse is live in another key position, or no way is free.
    """
    build = draft.build
    if chosen is not None:
        return _chosen_fuse(build, keys, chosen)
    rows = ways(build)
    fitting = [row for key in keys for row in rows if row.key == key]
    free = [row for row in fitting if row.fuse is None and row.bus != ENGINE_BUS]
    if not free:
        shared = [build.parts[row.fuse].name for row in fitting if row.fuse]
        raise UnusableInput(
            "no-free-way",
            "fuse",
            f"No free way is live {KEY_WORDS[keys[0]]}. "
            + (f"Share one of {', '.join(shared)}, " if shared else "")
            + ("or choose" if shared else "Choose")
            + " another key position, or give the panel more ways.",
            _more_ways(build, keys[0], rows),
        )
    wanted = [row for row in free if row.key == free[0].key]
    row = min(wanted, key=lambda row: _far_m(build, near, row.panel))
    panel = build.parts[row.panel]
    family = str(panel.figures.get("fuse_family", "regular blade"))
    fitted = Fitted(panel.id, row.way)
    return draft.add_part(
        "fuse", f"{fitted.way} {name}"[:80], panel.place, catalogue=family, fitted=fitted
    )


def spare_fuse(draft: Draft, key: str, place: str | None, amps: float) -> str | None:
    """The fuse of a spare wire that ends at a place, is live as asked and bears so much; None where
    there is none."""
    for fuse in draft.build.parts_of_kind("fuse"):
        bears_a = draft.before.policy.fuse_headroom * fuse.number("rating_a", 0)
        if bears_a < amps or draft.spare_of(fuse_output(fuse), place) is None:
            continue
        if paths_of(draft.build).key_needed(fuse_output(fuse)) == key:
            return fuse.id
    return None


def _far_m(build: Build, near: str | None, panel: str) -> float:
    return 0.0 if near is None else round(distance_m(build, near, build.parts[panel].place), 1)


def panel_near(build: Build, near: str | None) -> Part | None:
    """The panel with ways for everything that is nearest to a place; the first where none is."""
    panels = dict.fromkeys(row.panel for row in ways(build) if row.bus != ENGINE_BUS)
    full = [panel for panel in panels if _is_full(build, panel)] or list(panels)
    nearest = min(full, key=lambda panel: _far_m(build, near, panel), default=None)
    return build.parts[nearest] if nearest else None


def _is_full(build: Build, panel: str) -> bool:
    """Whether a panel has ways that are live with the key off."""
    return any(row.panel == panel and row.key == "always" for row in ways(build))


def _more_ways(build: Build, key: str, rows: Sequence[WayStatus]) -> tuple[Mend, ...]:
    """The edits that give each panel with ways of this key position more of them, or add a panel at
    the other end where there is only one."""
    panels = dict.fromkeys(row.panel for row in rows if row.key == key and row.bus != ENGINE_BUS)
    grown = (
        Mend(
            f"Give {build.parts[panel].name} {MORE_WAYS} more ways {KEY_WORDS[key]}",
            ({"op": "add_ways", "panel": panel, "key": key, "count": MORE_WAYS},),
        )
        for panel in panels
    )
    # the second panel wants a way of run for its own relay
    has_run = any(row.key == "run" and row.fuse is None for row in rows)
    if len(panels) == 1 and key in ("always", "run") and has_run:
        far = {"op": "write_recipe", "recipe": "far-panel", "answers": {}}
        return (*grown, Mend("Add a second panel at the other end", (far,)))
    return tuple(grown)


def add_ways(build: Build, panel_id: str, key: str, count: int) -> Build:
    """The build with more ways of a panel that are live from this key position, on the bus of
    which most are taken; raises UnusableInput."""
    rows = [row for row in ways(build) if row.panel == panel_id and row.key == key]
    if not rows:
        raise UnusableInput(
            "no-bus",
            panel_id,
            f"There is no panel “{panel_id}” with ways that are live {KEY_WORDS[key]}. Feed a bus "
            "of it first.",
        )
    return with_ways(build, panel_id, max(rows, key=lambda row: taken_beside(rows, row)).bus, count)


def with_ways(build: Build, panel_id: str, bus: str, count: int) -> Build:
    """The build with more ways on a bus of a panel, numbered on by its own letter."""
    panel = build.parts[panel_id]
    letter = panel.ways[0].name.rstrip("0123456789") if panel.ways else "F"
    added = fresh_ways(build.parts.values(), letter, [bus] * count)
    grown = replace(panel, ways=(*panel.ways, *added))
    return replace(build, parts={**build.parts, panel.id: grown})


def fresh_ways(parts: Iterable[Part], letter: str, buses: Sequence[str]) -> tuple[Way, ...]:
    """A way on each of these buses. No panel of the car has one of that name: on a list, and on the
    lid of a panel, the name is all that tells which fuse to pull."""
    taken = {way.name for part in parts if part.kind == "panel" for way in part.ways}
    names = (f"{letter}{number}" for number in numbers(1))
    return tuple(map(Way, filterfalse(taken.__contains__, names), buses))


def with_own_names(part: Part, parts: Iterable[Part]) -> Part:
    """The part; the ways of a new panel called as those of no other panel are."""
    if part.kind != "panel":
        return part
    others = [row for row in parts if row.kind == "panel" and row.id != part.id]
    letters = {way.name.rstrip("0123456789") for row in others for way in row.ways}
    letter = next((name for name in PANEL_LETTERS if name not in letters), PANEL_LETTERS[0])
    return replace(part, ways=fresh_ways(others, letter, [way.bus for way in part.ways]))


def taken_beside(rows: Sequence[WayStatus], row: WayStatus) -> int:
    """How many ways of the bus of a way are taken."""
    return sum(
        other.fuse is not None for other in rows if (other.panel, other.bus) == (row.panel, row.bus)
    )


def _chosen_fuse(build: Build, keys: tuple[str, ...], chosen: str) -> Part:
    fuse = build.parts.get(chosen)
    if fuse is None or fuse.kind != "fuse":
        raise UnusableInput("unknown-fuse", chosen, f"The build has no fuse “{chosen}”.")
    live = paths_of(build).key_needed(fuse_output(fuse))
    if live not in keys:
        word = f"live {KEY_WORDS[live]}" if live else "never live"
        raise UnusableInput(
            "wrong-key",
            chosen,
            f"Fuse “{fuse.name}” is {word}, but the circuit is asked for {KEY_WORDS[keys[0]]}. "
            "Choose another fuse or another key position.",
        )
    return fuse
