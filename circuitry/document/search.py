"""Finding anything of a build by name, label, terminal or catalogue row."""

from collections.abc import Iterator
from dataclasses import dataclass

from circuitry.design.model import Build
from circuitry.devices import terminals_of

MOST_FOUND = 40


@dataclass(frozen=True)
class Found:
    """One thing found: its kind and id, what it says, where it is, and the circuit it belongs to.

    ``terminal`` is set where a terminal was asked for.
    """

    kind: str
    id: str
    title: str
    detail: str
    circuit: str | None
    terminal: str | None = None


def search(build: Build, text: str) -> list[Found]:
    """What holds every word of the text, best first: the same name, its beginning, then within."""
    words = text.lower().split()
    if not words:
        return []
    ranked = []
    for number, row in enumerate(_everything(build, "." in text)):
        said = f"{row.title} {row.detail} {row.id}".lower()
        if all(word in said for word in words):
            title = row.title.lower()
            rank = 0 if title == text.lower() else 1 if title.startswith(words[0]) else 2
            ranked.append((rank, number, row))
    return [row for _, _, row in sorted(ranked, key=lambda found: found[:2])[:MOST_FOUND]]


def _everything(build: Build, terminals: bool) -> Iterator[Found]:
    for circuit in build.circuits.values():
        yield Found("circuit", circuit.id, circuit.name, f"{circuit.group} circuit", circuit.id)
    for part in build.parts.values():
        where = build.places[part.place].name
        detail = ", ".join(filter(None, (part.kind, part.catalogue, where)))
        yield Found("part", part.id, part.name, detail, part.circuit)
        for name in terminals_of(part) if terminals else ():
            title = f"{part.id}.{name}"
            yield Found("terminal", part.id, title, f"{part.name}, {where}", part.circuit, title)
    for wire in build.wires.values():
        ends = f"{wire.from_terminal} to {wire.to_terminal}, {wire.colour}"
        yield Found("wire", wire.id, wire.label, ends, wire.circuit)
    for place in build.places.values():
        yield Found("place", place.id, place.name, place.zone, None)
    for run in build.runs.values():
        ends = f"{build.places[run.from_place].name} – {build.places[run.to_place].name}"
        yield Found("run", run.id, ends, f"{run.length_m:g} m", None)
