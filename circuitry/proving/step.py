"""A step of proof: one thing to do, to see and to measure, with what to expect of it."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.design.logic import VALUES
from circuitry.proving.situation import Band, Probe, Situation

Section = str
SECTIONS: Mapping[Section, str] = {
    "loom": "On the bench, before it goes in",
    "cold": "In the car, battery off",
    "first power": "First power",
    "functions": "Every function, every position",
    "parked": "Parked",
}
"""The five parts of a proof in their order, and their titles."""
SEEN_AMISS = (
    *("dead", "dim", "glows", "flickers", "flashes fast", "wrong one lights", "both light"),
    *("does not go off", "sweeps up instead of down", "turns backwards", "blows at once"),
    *("blows after a while", "gets hot", "works until the engine runs", "works with the door open"),
)
"""What builders say of what is not as it should be."""


@dataclass(frozen=True)
class Operation:
    """Put this switch, the key or a value in this position; ``held`` while looking. ``jumper``
    where a wire across the switch stands in for it."""

    part: str
    name: str
    position: str
    held: bool = False
    jumper: bool = False

    @property
    def said(self) -> str:
        """In words: ``Key to run``, ``coolant at 92 °C``."""
        joined = "at" if self.part in VALUES else "to"
        return f"{self.name} {joined} {self.position}"


@dataclass(frozen=True)
class Look:
    """Something to see: what it is, where, and the word for it when it is right. ``load`` is the
    load that is looked at; ``waits`` where it is not there yet."""

    id: str
    name: str
    place: str
    right: str
    load: str | None = None
    waits: bool = False


@dataclass(frozen=True)
class Reading:
    """Something to measure: where the probes go in words, what to expect, and what a reading that
    is too low or too high points to. ``tells`` says what it cannot tell apart, where there is
    something; ``waits`` where a part of it is not there yet."""

    id: str
    name: str
    where: str
    probe: Probe
    unit: str
    band: Band
    low: str
    high: str
    tells: str = ""
    waits: bool = False


@dataclass(frozen=True)
class Step:
    """One step: its section, the circuit and stage that it belongs to, what to do in one line, how,
    what may hurt, what must be in and what must stay out, what to operate, see and measure.

    ``waits_for`` names parts that are not there yet without which nothing of it can be tried.
    ``relies_on`` are the parts and wires whose change makes it to be proved again. ``minutes`` is
    what it usually takes.
    """

    id: str
    section: Section
    circuit: str | None
    stage: int
    title: str
    how: str
    place: str
    cautions: tuple[str, ...]
    goes_in: tuple[str, ...]
    stays_out: tuple[str, ...]
    operate: tuple[Operation, ...]
    looks: tuple[Look, ...]
    readings: tuple[Reading, ...]
    waits_for: tuple[str, ...]
    relies_on: tuple[str, ...]
    situation: Situation | None
    minutes: float
