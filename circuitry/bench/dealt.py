"""Faults dealt blind, as builders make them, and what finding them took."""

import random
from collections.abc import Sequence
from dataclasses import dataclass

from circuitry.bench.faults import KINDS, Fault, can_have, others_for, problem_of, said
from circuitry.bench.script import Action
from circuitry.design.model import Build
from circuitry.errors import UnusableInput

HARD = ("easy", "fair", "nasty")
LIKELY = {
    "blown lamp": 6,
    "blown fuse": 4,
    "open wire": 6,
    "bad joint": 8,
    "missing ground": 6,
    "plug off": 5,
    "stuck relay": 3,
    "missing relay": 3,
    "short to ground": 3,
    "swapped pins": 4,
    "stuck switch": 2,
}
"""How often builders meet each kind, against the others at 1; typical."""
MINUTES = {
    "key": 0.1,
    "switch": 0.1,
    "value": 0.1,
    "pull": 1.0,
    "fit": 1.0,
    "meter": 2.0,
    "reset": 0.5,
}
"""What each thing that is done takes by hand; typical."""
TRIES = 200


@dataclass(frozen=True)
class Judged:
    """A guess: whether it is right, what the fault was where it is told and the circuit that it is
    in, and what it took: tests made, and minutes by hand."""

    right: bool
    tests: int
    minutes: float
    was: str
    circuit: str | None


def deal(build: Build, hard: str, seed: str) -> Fault:
    """A fault that a car can have, as hard as asked, always the same for a seed; raises
    UnusableInput where the build is too bare to have one."""
    if hard not in HARD:
        raise UnusableInput("unknown-level", "hard", f"Deal one of: {', '.join(HARD)}.")
    draw = random.Random(seed)
    kinds = [kind for kind, row in KINDS.items() if row.hard == HARD.index(hard)]
    weights = [LIKELY.get(kind, 1) for kind in kinds]
    for _ in range(TRIES):
        kind = draw.choices(kinds, weights)[0]
        fits = [identity for identity, _ in can_have(build, kind)]
        if not fits:
            continue
        of = draw.choice(fits)
        others = others_for(build, kind, of)
        fault = Fault(kind, of, draw.choice(list(others)) if others else "", blind=True)
        if not problem_of(fault, build):
            return fault
    raise UnusableInput("bare-build", "build", "This car has nothing yet that could go wrong.")


def judge(build: Build, fault: Fault, of: str | None, since: Sequence[Action]) -> Judged:
    """A guess at the wire or part that has a fault, after what has been done since it was dealt;
    None gives up, and is told."""
    tests = sum(action.do in ("meter", "pull") for action in since)
    minutes = sum(MINUTES.get(action.do, 0.0) for action in since)
    right = of in (fault.of, fault.other)
    if not right and of is not None:
        return Judged(right, tests, round(minutes, 1), "", None)
    thing = build.wires.get(fault.of) or build.parts.get(fault.of)
    circuit = thing.circuit if thing is not None else None
    return Judged(right, tests, round(minutes, 1), said(build, fault), circuit)
