"""What of a build its readings depend on, so that a proof knows what has changed since."""

import hashlib
from collections.abc import Iterable, Mapping

from circuitry.design.model import Build

GONE = ""


def facts_of(build: Build) -> Mapping[str, str]:
    """Of each part and wire of a sized build what readings depend on, as a short text that differs
    when it does; names, labels, colours and places are not among it."""
    known: Mapping[str, str] | None = build.derived.get("facts")
    if known is not None:
        return known
    found = {
        part.id: short(
            (
                part.kind,
                part.catalogue,
                sorted(part.figures.items()),
                part.contacts,
                part.ways,
                part.pins,
                part.fitted,
                part.housed and (part.housed.unit, sorted(part.housed.pins.items())),
            )
        )
        for part in build.parts.values()
    }
    for wire in build.wires.values():
        ends = str(wire.from_terminal), str(wire.to_terminal)
        found[wire.id] = short((*ends, wire.size, wire.joint_from, wire.joint_to))
    build.derived["facts"] = found
    return found


def changed_since(then: Mapping[str, str], now: Mapping[str, str]) -> list[str]:
    """The parts and wires that are otherwise now than when something was proved, or gone."""
    return [name for name, fact in then.items() if now.get(name, GONE) != fact]


def called(build: Build, names: Iterable[str]) -> list[str]:
    """Parts and wires as a builder knows them; what is gone by its id."""
    return [
        build.parts[name].name
        if name in build.parts
        else build.wires[name].label
        if name in build.wires
        else name
        for name in names
    ]


def short(facts: object) -> str:
    """Facts as a short text that differs when they do."""
    return hashlib.blake2b(repr(facts).encode(), digest_size=6).hexdigest()
