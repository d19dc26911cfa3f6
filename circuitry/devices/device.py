"""What a kind of part says of itself; each module of this room is one kind."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from circuitry.catalogue import TerminalRange, catalogue
from circuitry.design.model import Build, ContactTable, Part, Terminal
from circuitry.devices.laws import Lag, Law
from circuitry.devices.moving import Mover, Nodes
from circuitry.errors import UnusableInput

BLADE, LARGE_BLADE, PIN = "blade 6.3 mm", "blade 9.5 mm", "sealed pin size 20"
STUD, HEAVY_STUD, SMALL_STUD = "stud M8", "stud M10", "stud M6"
SWITCH_COST = 10
"""What it costs a way to ask somebody to move a switch; a step costs 1."""
SAID = {
    "output": "electronic output",
    "plug": "plug contact",
    "joint": "inside the box",
}
"""What a branch is called on the way to a load, where its kind does not say it."""
Condition = tuple[str, str]
"""What must move, and the position that it must be in."""


@dataclass(frozen=True)
class Figure:
    """A figure that a kind of part takes: its words and unit, and what counts while it is not
    given."""

    name: str
    said: str
    unit: str
    usual: float | None = None


@dataclass(frozen=True)
class Around:
    """What a part does not say itself: the air about it, and factors on load current and on the
    resistance of joints and contacts, for tolerance."""

    ambient_c: float = 20.0
    load_current: float = 1.0
    joint_resistance: float = 1.0


@dataclass(frozen=True)
class Crossing:
    """That the search for ways may cross a branch: its cost, the condition that it needs, and
    whether current passes only from its first terminal to its last."""

    cost: int = 1
    needs: Condition | None = None
    one_way: bool = False


@dataclass(frozen=True)
class Branch:
    """A two-terminal element between two terminals of a part.

    Linear when ``law`` is None: ``i = (v − emf_v) · siemens``. ``position`` is that in which it
    conducts; None conducts always. No way leads through it where ``crossing`` is None.
    """

    kind: str
    first: str
    last: str
    siemens: float = 0.0
    law: Law | None = None
    emf_v: float = 0.0
    position: str | None = None
    crossing: Crossing | None = None


@dataclass(frozen=True)
class Need:
    """One way to make something move: terminals that must lead to battery plus and to minus, and
    the positions that controls and values must have."""

    plus: tuple[Terminal, ...]
    minus: tuple[Terminal, ...]
    positions: Mapping[str, str] = field(default_factory=dict)


class Device:
    """A kind of part. What a kind does not say is as here."""

    kind: str
    figures: tuple[Figure, ...] = ()
    texts: frozenset[str] = frozenset()
    is_switch = False
    """Whether somebody or something outside the network moves its contacts."""
    in_body = False
    """Whether a metal body joins it to others like it."""
    drawn_as = "part"
    """How drawings place it: as a part, a load, a fuse, a splice or a ground point."""
    glyph = ""
    """Its sign in drawings: an SVG path in 20 by 10."""
    row_word = ""
    """What its catalogue rows are, where that is not its kind."""
    usual_row: str | None = None
    """The catalogue row of a new one."""
    has_usual = True
    """Whether a new one can be left to be the usual one."""
    row_changes = False
    """Whether one that is there can be made one of another row."""
    row_joins = False
    """Whether its catalogue row says what its contacts join."""
    put_into: tuple[str, str] | None = None
    """The terminals for the two halves of a wire that it is put into; None where it
    cannot be."""
    added_by_hand = True
    """Whether a circuit takes one more of it by hand."""
    is_shared = False
    """Whether wires of other circuits usually land on it too."""
    drawn_by_use = False
    """Whether a drawing shows only those of its terminals that something in it is joined to."""
    drawn_apart = False
    """Whether a drawing shows each pair of its terminals that are joined by itself."""
    goes_with = ""
    """The value that says how much it gives, where it is such a source."""
    points = ""
    """The word for the points that one is given by number; empty where there are none."""

    def rows(self) -> Mapping[str, object] | None:
        """The catalogue rows of which it must name one; None where it needs none."""
        return None

    def choices(self) -> Sequence[str]:
        """What a new one can be; empty where there is nothing to choose."""
        return list(self.rows() or ())

    def fields(self, row: str | None, count: int) -> dict[str, Any]:
        """What a new one starts with: of these ``choices``, or of the usual; with so many points,
        where it has any."""
        return {"catalogue": row or self.usual_row}

    def figure_sets(self) -> Mapping[str, tuple[Figure, ...]]:
        """The figures that a form asks for, by ``figures_as``."""
        return {self.kind: self.figures}

    def figures_as(self, part: Part) -> str:
        """Which of ``figure_sets`` this part takes."""
        return self.kind

    def terminals(self, part: Part) -> tuple[str, ...]:
        """Names of its terminals, in the order in which a screen lists them."""
        raise NotImplementedError

    def problems(self, build: Build, part: Part, who: str) -> Iterator[UnusableInput]:
        """What makes this part unusable beside what holds for all; ``who`` names it."""
        return iter(())

    def without(self, part: Part, name: str) -> str:
        """Why it has no terminal of this name, where others of its kind have one, and the way out;
        empty where there is nothing to say."""
        return ""

    def branches(self, part: Part, around: Around) -> Iterator[Branch]:
        """Its elements."""
        return iter(())

    def needs(self, part: Part, build: Build) -> Iterator[tuple[Condition, tuple[Need, ...]]]:
        """For each condition that it meets by itself, the ways to make it so."""
        return iter(())

    def movers(self, parts: Sequence[Part], node: Nodes, build: Build) -> Iterable[Mover]:
        """What moves by itself among all parts of this kind."""
        return ()

    def lags(self, part: Part) -> Mapping[str, Lag]:
        """What of it follows with a delay what drives it, by kind of branch; its elements answer
        in the steady state of these."""
        return {}

    def takes(self, build: Build, part: Part, name: str) -> TerminalRange | None:
        """What a wire ends on at a terminal; None where any size goes."""
        return catalogue().terminals[BLADE]

    def sign(self, part: Part) -> str:
        """Its sign in drawings, as an SVG path in 20 by 10."""
        return CONTACT_GLYPH if part.contacts else self.glyph

    def detail(self, part: Part) -> str:
        """What a drawing says below its name."""
        return ""

    def is_left(self, part: Part, name: str) -> bool:
        """Whether a drawing has this terminal at the left, where the feed comes from."""
        contacts = part.contacts
        return (contacts is not None and name == contacts.common) or name in LEFT_TERMINALS

    def says(self, part: Part, kind: str) -> str:
        """What a branch of it is called on the way to a load."""
        return SAID.get(kind, kind)


CONTACT_GLYPH = "M0 8 h5 l10 -8 m0 8 h5"
LEFT_TERMINALS = {"in", "+", "anode", "1", "live", "run", "stop-in"}


def contact_branches(
    part: Part, table: ContactTable, mohm: float, around: Around, cost: Mapping[str, int]
) -> Iterator[Branch]:
    """A branch for each pair that a position joins; ``cost`` by position, where it is not usual."""
    siemens = 1000 / mohm / around.joint_resistance
    for row, position in enumerate(table.positions):
        usual = 1 if row == 0 else SWITCH_COST
        crossing = Crossing(cost.get(position.name, usual), (part.id, position.name))
        for first, *others in position.joins:
            for other in others:
                yield Branch(
                    "contact",
                    first,
                    other,
                    siemens,
                    position=position.name,
                    crossing=crossing,
                )


def unknown_row(where: str, name: str | None, what: str, table: Iterable[object]) -> UnusableInput:
    """That a catalogue table has no row of this name, with some that it has."""
    names = [str(row) for row in table]
    shown = ", ".join(names[:8]) + (f" and {len(names) - 8} more" if len(names) > 8 else "")
    return UnusableInput(
        "unknown-catalogue-row",
        where,
        f"The catalogue has no {what} called “{name}”. It has {shown}.",
    )
