"""What was seen and measured, and how likely it is under what would be shown."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations

import numpy as np

from circuitry.diagnosis.foreseen import WORKS_FROM
from circuitry.diagnosis.predicted import Predictor
from circuitry.network.equations import Matrix, Numbers, Vector
from circuitry.network.network import OFF_PERCENT
from circuitry.proving.situation import Probe, Situation

WORKS, DIM, DEAD, ALIVE, BACKWARDS = "works", "dim", "dead", "alive", "backwards"
WORDS = {
    "dead": DEAD,
    "dim": DIM,
    "glows": DIM,
    "flickers": DIM,
    "does not go off": ALIVE,
    "turns backwards": BACKWARDS,
    "sweeps up instead of down": WORKS,
}
"""What builders say, as what they mean; what is not among these says nothing of one load."""
MISTAKEN = 0.01
"""How often an observation is simply wrong; typical."""
LIGHTS = (0.02, 0.05, 0.3, 0.5, WORKS_FROM)
"""Shares of the sound light between which people call it dead, a glow, dim, or as it should be."""
SAID_OF = {
    DEAD: (0.95, 0.5, 0.12, 0.01, 0.002, 0.0005),
    DIM: (0.004, 0.46, 0.86, 0.69, 0.3, 0.001),
    WORKS: (0.002, 0.01, 0.02, 0.3, 0.69, 0.97),
}
NEXT_TO_EACH_OTHER = ({WORKS, DIM}, {DIM, DEAD}, {WORKS, DEAD})
LOOKS_ALIKE, SELDOM = 0.1, 0.05
"""Of the sound light: nobody sees a smaller difference; and how often two lamps that look alike are
called otherwise; typical."""
WITHIN_V, WITHIN_SHARE, WITHIN_A, WITHIN_OHM = 0.15, 0.03, 0.1, 0.3
"""How far a reading may be from what is predicted: the meter, warm wires, loads that differ."""


@dataclass(frozen=True)
class Seen:
    """A load in a situation, and what it was seen to do: works, dim, dead, alive where it should be
    off, or backwards."""

    situation: Situation
    load: str
    word: str

    def likelihood(self, predictor: Predictor, numbers: Numbers) -> Vector:
        """How likely that is under each suspect."""
        sound, percent = predictor.percent(self.situation, self.load, numbers)
        return _of_word(self.word, percent, sound)


def told_apart(predictor: Predictor, rows: Sequence[Seen], numbers: Numbers) -> Vector:
    """How likely loads of one kind in one situation are called by different words under each
    suspect: seldom where they look alike, for they are seen side by side."""
    found = np.ones(len(numbers))
    shares: dict[Seen, Vector] = {}
    for one, other in combinations(rows, 2):
        kinds = {predictor.build.parts[row.load].catalogue for row in (one, other)}
        if len(kinds) > 1 or {one.word, other.word} not in NEXT_TO_EACH_OTHER:
            continue
        for row in {one, other} - shares.keys():
            sound, percent = predictor.percent(row.situation, row.load, numbers)
            shares[row] = percent / (sound or 1.0)
        found[np.abs(shares[one] - shares[other]) < LOOKS_ALIKE] = SELDOM
    return found


def chances_of(percent: Vector, sound: float) -> Matrix:
    """The chance of each word, by how much light there is and word."""
    share = np.maximum(percent / sound, 0.0)
    chances = np.array(list(SAID_OF.values()))[:, np.searchsorted(LIGHTS, share, side="right")].T
    found: Matrix = chances / chances.sum(axis=1, keepdims=True)
    return found


def _of_word(word: str, percent: Vector, sound: float) -> Vector:
    """The chance that somebody says this word of so much light, against that where it fits best."""
    if word == BACKWARDS:
        against = (percent * (sound or 1.0)) < -OFF_PERCENT
        return np.where(against, 1.0, MISTAKEN)
    if abs(sound) < OFF_PERCENT:  # it should be off
        lit = np.abs(percent) >= OFF_PERCENT
        return np.where(lit == (word != WORKS), 1.0, MISTAKEN)
    if word == ALIVE:
        word = WORKS
    share = np.maximum(percent / sound, 0.0)
    chances = np.array(SAID_OF[word]) / max(SAID_OF[word])
    found: Vector = chances[np.searchsorted(LIGHTS, share, side="right")]
    return found


@dataclass(frozen=True)
class Measured:
    """A reading in a situation, in V, A or Ω; None is open, or floats."""

    situation: Situation
    probe: Probe
    value: float | None

    def likelihood(self, predictor: Predictor, numbers: Numbers) -> Vector:
        """How likely that is under each suspect."""
        expected = readings(predictor, self.situation, self.probe, numbers)
        return near(expected, self.value, self.probe.kind)


Observation = Seen | Measured


def readings(predictor: Predictor, situation: Situation, probe: Probe, numbers: Numbers) -> Vector:
    """What a meter would show under each suspect; NaN where it floats."""
    predicted = predictor.predict(situation, numbers.tolist())
    network = predictor.network
    if probe.kind == "volts":
        assert probe.red is not None
        assert probe.black is not None
        red, black = network.node[probe.red], network.node[probe.black]
        volts: Vector = predicted.volts(red, numbers) - predicted.volts(black, numbers)
        return volts
    if probe.kind == "amps":
        return np.abs(predicted.amps(predictor.wire_at[probe.wire or ""], numbers))
    return -predicted.amps(network.layout.source, numbers)


def near(expected: Vector, value: float | None, kind: str, loose_v: float = 0.0) -> Vector:
    """How likely a reading is where this is expected; ``loose_v`` more than usual may be out."""
    floats = np.isnan(expected)
    if value is None:
        return np.where(floats, 1.0, MISTAKEN)
    within = within_of(np.nan_to_num(expected), kind) + loose_v
    off = np.abs(np.nan_to_num(expected) - value) / within
    found: Vector = np.maximum(np.exp(-0.5 * np.maximum(off - 1.0, 0.0) ** 2), MISTAKEN / 2)
    return np.where(floats & (abs(value) > WITHIN_V), MISTAKEN, found)


def within_of(expected: Vector, kind: str) -> Vector:
    """How far a reading may be from what is expected."""
    least = {"volts": WITHIN_V, "ohms": WITHIN_OHM}.get(kind, WITHIN_A)
    share = WITHIN_SHARE if kind == "volts" else 3 * WITHIN_SHARE
    found: Vector = least + share * np.abs(expected)
    return found
