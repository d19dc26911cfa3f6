"""A way that a wire must take: the shortest that goes along chosen runs, in their order."""

from itertools import product

from circuitry.design.model import Build, Run, Wire
from circuitry.design.routes import ends_of, shortest_way
from circuitry.errors import UnusableInput

MOST_THROUGH = 6


def pinned_way(build: Build, wire: Wire, through: tuple[str, ...]) -> tuple[str, ...]:
    """The runs of the shortest way between the ends of a wire that takes these runs in order.

    Each run may be taken in either direction. Raises UnusableInput when no way does.
    """
    for run in through:
        if run not in build.runs:
            raise UnusableInput("unknown-run", wire.label, f"“{run}” is no run of the build.")
    if len(through) > MOST_THROUGH:
        raise UnusableInput(
            "too-many-runs", wire.label, f"Pin at most {MOST_THROUGH} runs; the rest follows."
        )
    runs = [build.runs[run] for run in through]
    ways = (_way(build, wire, chosen) for chosen in product(*[_directions(run) for run in runs]))
    found = [way for way in ways if way is not None]
    if not found:
        names = ", ".join(
            f"{build.places[run.from_place].name} to {build.places[run.to_place].name}"
            for run in runs
        )
        raise UnusableInput(
            "no-way",
            wire.label,
            f"No way for wire {wire.label} goes along {names} in this order. Add the runs that are "
            "missing, or pin fewer.",
        )
    shortest = min(found, key=lambda way: (sum(run.length_m for run in way), len(way)))
    return tuple(run.id for run in shortest)


def _directions(run: Run) -> tuple[tuple[Run, str, str], ...]:
    return (run, run.from_place, run.to_place), (run, run.to_place, run.from_place)


def _way(build: Build, wire: Wire, chosen: tuple[tuple[Run, str, str], ...]) -> list[Run] | None:
    here, end = ends_of(build, wire)
    way: list[Run] = []
    for run, enter, leave in chosen:
        leg = shortest_way(build.runs, here, enter)
        if leg is None:
            return None
        way += [*leg, run]
        here = leave
    leg = shortest_way(build.runs, here, end)
    return None if leg is None else [*way, *leg]
