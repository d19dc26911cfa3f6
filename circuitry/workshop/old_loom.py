"""What becomes of an old loom: circuit by circuit, end by end, and what it weighs.

Every stretch of an old wire ends somewhere, in a plug, at a part, or in the air; each such end is
counted until it is connected, insulated or out of the car.
"""

from collections.abc import Iterable, Iterator
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, FoundCircuit, Stretch
from circuitry.layout.bundles import mass_g_per_m
from circuitry.quantities import NotUnderstood, conductor
from circuitry.stock.audit import spelled_out

NOWHERE = "an end without a name"
OUT = ("remove", "replace")
"""Of these decisions the wire leaves the car."""
UNDECIDED = "to decide"
FATES = {
    UNDECIDED: "Decide: nothing is cut before.",
    "keep": "Connected as it was.",
    "mend": "Mended, then connected.",
    "replace": "Taken out; a new wire takes its place.",
    "cut back": "Cut back, its end insulated and tied away; its fuse out.",
    "remove": "Taken out.",
}
"""What is done with each end, by the decision on its circuit."""


@dataclass(frozen=True)
class OldEnd:
    """An end of an old wire: the stretch before it, by its circuit and number, what it is, what is
    done with it by the decision on the circuit where there is one, and whether that is done."""

    circuit: str
    stretch: int
    name: str
    colour: str
    size: str
    fate: str
    decided: bool
    settled: bool


@dataclass(frozen=True)
class OldPlug:
    """Where old wires end, with how many of their ends are left to do."""

    name: str
    ends: tuple[OldEnd, ...]
    left: int


@dataclass(frozen=True)
class Fate:
    """The circuits of one decision, what it means, and their mass in kg as far as it is known."""

    decision: str
    says: str
    circuits: tuple[str, ...]
    mass_kg: float


@dataclass(frozen=True)
class OldLoom:
    """An old loom: circuits by decision, ends by plug, and how many of all ends are ``left``.

    ``out_kg`` is what leaves the car, ``in_kg`` what the new loom brings; ``unweighed`` are the
    circuits of which a stretch has no length, or a size that is none.
    """

    fates: tuple[Fate, ...]
    plugs: tuple[OldPlug, ...]
    ends: int
    left: int
    out_kg: float
    in_kg: float
    unweighed: tuple[str, ...]


def old_loom(build: Build, in_kg: float) -> OldLoom | None:
    """What becomes of the old loom of a build whose new one weighs ``in_kg``; None without one."""
    rows = list(build.found_circuits.values())
    if not rows:
        return None
    mass_kg = {row.id: _mass_kg(row) for row in rows}
    plugs = tuple(_plugs(rows))
    return OldLoom(
        tuple(
            Fate(
                decision,
                says,
                tuple(row.name for row in mine),
                sum(mass_kg[row.id] or 0.0 for row in mine),
            )
            for decision, says in FATES.items()
            if (mine := [row for row in rows if row.decision == decision])
        ),
        plugs,
        sum(len(plug.ends) for plug in plugs),
        sum(plug.left for plug in plugs),
        sum(mass_kg[row.id] or 0.0 for row in rows if row.decision in OUT),
        in_kg,
        tuple(row.name for row in rows if mass_kg[row.id] is None),
    )


def _plugs(rows: Iterable[FoundCircuit]) -> Iterator[OldPlug]:
    """In the order of their names, so that nothing moves while ends are ticked off."""
    ends: dict[str, list[OldEnd]] = {}
    for row in rows:
        for number, stretch in enumerate(row.stretches):
            at = stretch.ends_at.strip() or NOWHERE
            ends.setdefault(at, []).append(_end(row, number, stretch))
    for name, mine in sorted(ends.items()):
        yield OldPlug(name, tuple(mine), sum(not end.settled for end in mine))


def _end(row: FoundCircuit, number: int, stretch: Stretch) -> OldEnd:
    kind = row.name, spelled_out(stretch.colour), stretch.size
    return OldEnd(
        row.id, number, *kind, FATES[row.decision], row.decision != UNDECIDED, stretch.settled
    )


def _mass_kg(row: FoundCircuit) -> float | None:
    """The mass of all its stretches; None where one is not known, or there is none."""
    masses = [_stretch_kg(stretch) for stretch in row.stretches]
    known = [mass for mass in masses if mass is not None]
    return sum(known) if known and len(known) == len(masses) else None


def _stretch_kg(stretch: Stretch) -> float | None:
    if stretch.length_m is None:
        return None
    try:
        size = conductor(stretch.size)
    except NotUnderstood:
        return None
    return stretch.length_m * mass_g_per_m(catalogue().conductor[size]) / 1000
