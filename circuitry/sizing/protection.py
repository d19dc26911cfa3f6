"""Whether protection does its work: a short at the far end clears, and the right fuse parts."""

from collections.abc import Iterator
from itertools import pairwise

from circuitry.build.model import Part
from circuitry.finding import Finding
from circuitry.network.fall import fall_line
from circuitry.sizing.fuse_times import NEVER_S, longest_time_s
from circuitry.sizing.result import LoadSizing, Sizing

CLEARS_WITHIN_S = 5.0
SELECTIVE = 1.6
"""What a fuse must be above the one below it, so that the lower parts first."""


def protection_findings(sizing: Sizing) -> Iterator[Finding]:
    """Fuses that a short at the far end does not part in time, and pairs of which either may."""
    yield from _shorts_that_last(sizing)
    yield from _not_selective(sizing)


def _fuses_on(sizing: Sizing, row: LoadSizing) -> list[Part]:
    steps = (step for step in row.path.feed if step.kind == "fuse")
    return [sizing.build.parts[step.owner] for step in steps]


def _short_a(sizing: Sizing, row: LoadSizing) -> float:
    """What flows when the load is shorted, from the resistance of its way as it was solved: the
    volts lost in each piece over the current in it."""
    line = fall_line(sizing.build, row.solution, sizing.build.parts[row.load], row.path)
    ohm = sum(
        abs(step.loss_v / step.amps)
        for step in line.steps
        if step.kind != "load" and abs(step.amps) > 1e-3
    )
    return row.solution.battery_v / max(ohm, 1e-6)


def _shorts_that_last(sizing: Sizing) -> Iterator[Finding]:
    worst: dict[str, tuple[float, float, LoadSizing]] = {}
    for row in sizing.loads.values():
        fuses = _fuses_on(sizing, row)
        electronic = any(step.kind == "output" for step in row.path.feed)
        if not fuses or electronic:
            continue
        fuse = fuses[-1]
        short_a = _short_a(sizing, row)
        lasts_s = longest_time_s(fuse.catalogue or "", fuse.number("rating_a", 0), short_a)
        if lasts_s > max(CLEARS_WITHIN_S, worst.get(fuse.id, (0.0,))[0]):
            worst[fuse.id] = lasts_s, short_a, row
    for fuse_id, (lasts_s, short_a, row) in worst.items():
        fuse, load = sizing.build.parts[fuse_id], sizing.build.parts[row.load]
        yield Finding(
            "short-lasts",
            "look",
            (fuse.id, load.id),
            load.circuit,
            f"A short at {load.name} may not part {fuse.name}",
            f"{short_a:.0f} A, {'for ever' if lasts_s >= NEVER_S else f'{lasts_s:.0f} s'}",
            f"{CLEARS_WITHIN_S:g} s",
            "The wire is so long or thin that a short hardly takes more than the fuse bears, and "
            "glows for as long. Thicker wire or a smaller fuse lets it part at once.",
        )


def _not_selective(sizing: Sizing) -> Iterator[Finding]:
    pairs: dict[tuple[str, str], tuple[Part, Part]] = {}
    for row in sizing.loads.values():
        fuses = _fuses_on(sizing, row)
        for upper, lower in pairwise(fuses):
            if upper.number("rating_a", 0) < SELECTIVE * lower.number("rating_a", 0):
                pairs[upper.id, lower.id] = upper, lower
    by_upper: dict[str, list[Part]] = {}
    for upper, lower in pairs.values():
        by_upper.setdefault(upper.id, []).append(lower)
    for upper_id, lowers in by_upper.items():
        upper = sizing.build.parts[upper_id]
        named = ", ".join(f"{row.name} {row.number('rating_a', 0):g} A" for row in lowers[:3])
        yield Finding(
            "not-selective",
            "note",
            (upper.id, *(row.id for row in lowers)),
            upper.circuit,
            f"{upper.name} may part before what is behind it",
            f"{upper.number('rating_a', 0):g} A before {named}",
            f"{SELECTIVE:g} times the fuse behind it",
            "A short in one circuit then takes all of them out. Where the larger fuse guards "
            "nothing else, live with it.",
        )
