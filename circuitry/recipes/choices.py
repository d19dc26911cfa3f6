"""What a load can be switched by and put behind, for lists to choose from."""

from collections.abc import Iterator
from dataclasses import dataclass

from circuitry.design.model import Build, Part, Terminal
from circuitry.devices import switches_of
from circuitry.reach.paths import Paths, paths_of
from circuitry.recipes.protection import WayStatus, fuse_output, ways


@dataclass(frozen=True)
class SwitchOutput:
    """An output terminal of a switch, and the key position that feeds it (None: not fed yet)."""

    terminal: Terminal
    name: str
    key: str | None


@dataclass(frozen=True)
class FuseChoice:
    """A fuse that can be shared, the key position it is live from, and its circuits."""

    fuse: str
    name: str
    key: str | None
    circuits: tuple[str, ...]


@dataclass(frozen=True)
class Choices:
    """Everything that a new circuit can be tied to."""

    switches: tuple[SwitchOutput, ...]
    fuses: tuple[FuseChoice, ...]
    ways: tuple[WayStatus, ...]


def choices(build: Build) -> Choices:
    """Switch outputs, fuses and ways of a build, with the key position each is live from."""
    paths = paths_of(build)
    return Choices(
        tuple(_switch_outputs(build, paths)),
        tuple(_fuses(build, paths)),
        tuple(ways(build, paths)),
    )


def switch_named(build: Build, typed: str) -> SwitchOutput | None:
    """The switch or output that a typed name means; its first output where it names none."""
    for part in switches_of(build):
        for terminal, name in _outputs(part):
            if means(typed, name):
                return SwitchOutput(terminal, name, _key(paths_of(build), part))
    return None


def means(typed: str, name: str) -> bool:
    """Whether a typed name means this switch or output; a switch means its first output."""
    return name.lower() == typed.lower() or name.lower().startswith(f"{typed.lower()},")


def _switch_outputs(build: Build, paths: Paths) -> Iterator[SwitchOutput]:
    for part in switches_of(build):
        for terminal, name in _outputs(part):
            yield SwitchOutput(terminal, name, _key(paths, part))


def _outputs(part: Part) -> Iterator[tuple[Terminal, str]]:
    """The outputs of a switch other than the key, and what each is called."""
    if part.contacts is None or part.kind == "key switch":
        return
    outputs = [name for name in part.contacts.terminals if name != part.contacts.common]
    for output in outputs:
        name = part.name if len(outputs) == 1 else f"{part.name}, {output}"
        yield Terminal(part.id, output), name


def _key(paths: Paths, part: Part) -> str | None:
    return paths.key_needed(Terminal(part.id, part.contacts.common)) if part.contacts else None


def _fuses(build: Build, paths: Paths) -> list[FuseChoice]:
    return [
        FuseChoice(
            part.id,
            part.name,
            paths.key_needed(fuse_output(part)),
            tuple(
                circuit.name
                for circuit in build.circuits.values()
                if circuit.intent and circuit.intent.fuse == part.id
            ),
        )
        for part in build.parts_of_kind("fuse")
    ]
