"""What the layout wants the builder to look at: ways, lengths, holes, heat, edges and plugs."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from circuitry.design.model import Build, Part, Run
from circuitry.design.routes import drawn_m, ends_of, has_way, shortest_way
from circuitry.devices.connector import cavity_halves, keyed_apart, keyed_at, like_plugs
from circuitry.finding import Finding, Mend
from circuitry.layout.bundles import bundles

SLEEVES = ("split tube", "convoluted tube", "shrink sleeve", "braid")
SHORTER_THAN_DRAWN = 0.85
LONGER_THAN_DRAWN = 2.5
SLACK_M = 0.4
HOLE_FILL = 0.8
MOST_NAMED = 6


@dataclass(frozen=True)
class Hazard:
    """What a run may pass, how it is said, the covers that are enough, and what mends it."""

    name: str
    said: str
    enough: tuple[str, ...]
    wants: str
    why: str
    mend: str
    cover: str


HAZARDS = (
    Hazard(
        "hot part",
        "a hot part unsleeved",
        SLEEVES,
        "a sleeve",
        "Insulation softens beside a manifold. Sleeve it, and keep it as far off as you can.",
        "Sleeve it",
        "convoluted tube",
    ),
    Hazard(
        "edge",
        "an edge uncovered",
        ("tape", *SLEEVES),
        "tape or a sleeve, and an edge strip",
        "Vibration cuts the insulation within months.",
        "Tape it",
        "tape",
    ),
    Hazard(
        "fuel line",
        "a fuel line uncovered",
        ("tape", *SLEEVES),
        "a sleeve, and clips of its own",
        "A chafed live wire on a fuel line is a fire. Never share a clip with it.",
        "Sleeve it",
        "convoluted tube",
    ),
    Hazard(
        "wheel",
        "a wheel unsleeved",
        SLEEVES,
        "a sleeve, clear of the tyre at full lock and bump",
        "Stones and the tyre take the insulation off.",
        "Sleeve it",
        "convoluted tube",
    ),
)


def layout_findings(build: Build) -> Iterator[Finding]:
    """Findings on places, runs and holes of a sized build, in the order of the build."""
    yield from _ways(build)
    yield from _reach(build)
    wide = {run: bundle.diameter_mm for run, bundle in bundles(build).items()}
    for run in build.runs.values():
        if wide[run.id]:
            yield from _run(build, run, wide[run.id])
        if far_from_drawn(build, run):
            yield _far(build, run)
    yield from _plugs(build)
    guessed = [run.id for run in build.runs.values() if not run.measured]
    if guessed:
        yield Finding(
            "length-guessed",
            "note",
            tuple(guessed),
            None,
            f"{len(guessed)} of {len(build.runs)} runs are not measured yet",
            "lengths guessed from the plan",
            "measured in the car",
            "Lay a string along the way in the car, and type its length in Lay out.",
        )


def far_from_drawn(build: Build, run: Run) -> bool:
    """Whether a length can hardly be right: well below the straight line, or far beyond it."""
    drawn = drawn_m(build.places[run.from_place], build.places[run.to_place])
    too_short = run.length_m < SHORTER_THAN_DRAWN * drawn - 0.05
    return too_short or run.length_m > LONGER_THAN_DRAWN * drawn + SLACK_M


def run_name(build: Build, run: Run) -> str:
    """The run as the builder says it: its two places."""
    return f"{build.places[run.from_place].name} – {build.places[run.to_place].name}"


def _ways(build: Build) -> Iterator[Finding]:
    for wire in build.wires.values():
        if not has_way(build, wire):
            start, end = (build.places[place].name for place in ends_of(build, wire))
            yield Finding(
                "wire-no-way",
                "stop",
                (wire.id,),
                wire.circuit,
                f"{build.wire_of(wire)} has no way",
                f"no run leads from {start} to {end}",
                "a chain of measured runs",
                "Its length is only a guess from the plan. Add the missing run in Lay out.",
            )


def _reach(build: Build) -> Iterator[Finding]:
    """Loads that no chain of runs joins to the battery, wired or not."""
    battery = build.parts_of_kind("battery")[0].place
    lost: dict[str, list[str]] = {}
    for load in build.parts_of_kind("load"):
        if load.place != battery and shortest_way(build.runs, battery, load.place) is None:
            lost.setdefault(load.place, []).append(load.id)
    for place, loads in lost.items():
        names = [build.parts[load].name for load in loads]
        yield Finding(
            "load-out-of-reach",
            "look",
            tuple(loads),
            None,
            f"{build.places[place].name} cannot be reached",
            f"no run leads there; it holds {', '.join(names[:MOST_NAMED])}",
            "a chain of runs from the battery",
            "Add a run to it in Lay out, or move what is there to another place.",
        )


def _run(build: Build, run: Run, wide_mm: float) -> Iterator[Finding]:
    name = run_name(build, run)
    if run.hole_mm is not None and wide_mm > HOLE_FILL * run.hole_mm:
        yield Finding(
            "hole-too-small",
            "stop" if wide_mm > run.hole_mm else "look",
            (run.id,),
            None,
            f"The hole on {name} is tight",
            f"the bundle has {wide_mm:.0f} mm",
            f"{HOLE_FILL * run.hole_mm:.0f} mm of a {run.hole_mm:g} mm hole",
            "A bundle forced through a hole chafes. Drill larger, or lead some wires another way.",
        )
    if "bulkhead" in run.passes and run.hole_fit == "none":
        yield _unprotected(
            run,
            f"The hole on {name} has no grommet",
            "bare metal or laminate round the wires",
            "a grommet or a bulkhead connector",
            "The edge saws through the insulation, and a live wire meets the body.",
            _change(run, "Fit a grommet", hole_fit="grommet"),
        )
    for hazard in HAZARDS:
        if hazard.name in run.passes and run.cover not in hazard.enough:
            yield _unprotected(
                run,
                f"{name} passes {hazard.said}",
                f"cover: {run.cover}",
                hazard.wants,
                hazard.why,
                _change(run, hazard.mend, cover=hazard.cover),
            )


def _far(build: Build, run: Run) -> Finding:
    drawn = drawn_m(build.places[run.from_place], build.places[run.to_place])
    return Finding(
        "length-far-from-drawn",
        "look",
        (run.id,),
        None,
        f"{run_name(build, run)} is {run.length_m:g} m, which is far from the plan",
        f"{run.length_m:g} m {'measured' if run.measured else 'guessed'}",
        f"{drawn:.2f} m straight on the plan",
        "Either the length or the place on the plan is wrong. The length counts; measure again.",
    )


def _unprotected(run: Run, title: str, found: str, limit: str, why: str, mend: Mend) -> Finding:
    return Finding("run-unprotected", "look", (run.id,), None, title, found, limit, why, (mend,))


def _plugs(build: Build) -> Iterator[Finding]:
    """Plugs that can be swapped by hand, and wires in a cavity that is plugged."""
    used = {
        (end.part, end.name)
        for wire in build.wires.values()
        for end in (build.lands(wire.from_terminal), build.lands(wire.to_terminal))
    }
    free = {
        plug.id: [
            pin.name
            for pin in plug.pins
            if not any((plug.id, half) in used for half in cavity_halves(pin.name))
        ]
        for plug in build.parts_of_kind("connector")
    }
    for plugs in like_plugs(build):
        fitting = [
            plug for plug in plugs if any(not keyed_apart(plug, o) for o in plugs if o is not plug)
        ]
        if fitting:
            names = [plug.name for plug in fitting]
            yield Finding(
                "plugs-alike",
                "look",
                tuple(plug.id for plug in fitting),
                None,
                f"{' and '.join(names)} at {build.places[plugs[0].place].name} can be swapped",
                f"{len(plugs[0].pins)} cavities each, {plugs[0].catalogue}, nothing to tell them",
                "an unlike cavity plugged in each",
                "In the dark the wrong one goes in, and every circuit behind it is another.",
                tuple(_keying(plugs, free)),
            )
    for plug in build.parts_of_kind("connector"):
        if keyed_at(plug) and keyed_at(plug) not in free[plug.id]:
            yield Finding(
                "keyed-cavity-used",
                "stop",
                (plug.id,),
                None,
                f"Cavity {keyed_at(plug)} of {plug.name} is plugged and has a wire",
                "a keying plug where a contact is to go",
                "a free cavity",
                "The contact does not go in. Key it at a free cavity, or lead the wire elsewhere.",
            )


def _keying(plugs: Sequence[Part], free: Mapping[str, Sequence[str]]) -> Iterator[Mend]:
    """A free cavity for each, no two alike, where there are as many."""
    used = np.array([[pin.name not in free[plug.id] for pin in plug.pins] for plug in plugs])
    first = np.linspace(0.0, 0.5 / len(plugs), used.shape[1])
    rows, cavities = linear_sum_assignment(used + first)
    if len(rows) < len(plugs) or used[rows, cavities].any():
        return
    said = [
        f"{plug.pins[at].name} of {plug.name}" for plug, at in zip(plugs, cavities, strict=True)
    ]
    operations = tuple(
        {
            "op": "change",
            "collection": "parts",
            "id": plug.id,
            "fields": {"figures": {"keyed_at": float(at + 1)}},
        }
        for plug, at in zip(plugs, cavities.tolist(), strict=True)
    )
    yield Mend(f"Plug cavity {' and '.join(said)}", operations)


def _change(run: Run, label: str, **fields: str) -> Mend:
    operation = {"op": "change", "collection": "runs", "id": run.id, "fields": fields}
    return Mend(label, (operation,))
