"""Whether protection does its work: a short at the far end clears, and the right fuse parts."""

from collections.abc import Iterator

from circuitry.devices.fuse_times import NEVER_S, longest_time_s
from circuitry.finding import Finding
from circuitry.reach.fall import way_ohm
from circuitry.reach.ways import TAKES_POWER
from circuitry.sizing.fuses import SELECTIVE, fuses_below
from circuitry.sizing.result import LoadSizing, Sizing

CLEARS_WITHIN_S = 5.0
LEAST_OHM = 1e-6


def protection_findings(sizing: Sizing) -> Iterator[Finding]:
    """Fuses that a short at the far end does not part in time, and pairs of which either may."""
    yield from _shorts_that_last(sizing)
    yield from _not_selective(sizing)


def _shorts_that_last(sizing: Sizing) -> Iterator[Finding]:
    worst: dict[str, tuple[float, float, LoadSizing]] = {}
    for row in sizing.loads.values():
        fuses = [step.owner for step in row.path.feed if step.kind == "fuse"]
        electronic = any(step.kind == "output" for step in row.path.feed)
        limited = any(step.kind in TAKES_POWER for step in row.path.steps)
        if not fuses or electronic or limited:  # a resistor on the way lets no short be one
            continue
        fuse = sizing.build.parts[fuses[-1]]
        # what flows when the load is shorted
        short_a = row.solution.battery_v / max(way_ohm(row.solution, row.path), LEAST_OHM)
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
    rated = {part.id: part.number("rating_a", 0) for part in sizing.build.parts_of_kind("fuse")}
    for upper_id, below in fuses_below(sizing.easiest).items():
        lowers = [row for row in below if rated[upper_id] < SELECTIVE * rated[row]]
        if not lowers:
            continue
        upper = sizing.build.parts[upper_id]
        named = (f"{sizing.build.parts[row].name} {rated[row]:g} A" for row in lowers[:3])
        yield Finding(
            "not-selective",
            "note",
            (upper.id, *lowers),
            upper.circuit,
            f"{upper.name} may part before what is behind it",
            f"{rated[upper_id]:g} A before {', '.join(named)}",
            f"{SELECTIVE:g} times the fuse behind it",
            "A short in one circuit then takes all of them out.",
        )
