"""What was read and seen at a step, judged by what was to be expected."""

from collections.abc import Mapping
from dataclasses import dataclass

from circuitry.errors import UnusableInput
from circuitry.proving.facts import short
from circuitry.proving.situation import Band
from circuitry.proving.step import Step
from circuitry.quantities import NotUnderstood, meter_reading

RESTS_V = (6.0, 16.0)


@dataclass(frozen=True)
class ReadingRecord:
    """One reading as it was typed, its value in V, A or Ω, and what that is against its band; the
    value is None where it is open. ``hint`` says what else it may be."""

    id: str
    name: str
    unit: str
    text: str
    value: float | None
    expected: float | None
    low: float
    high: float | None
    verdict: str
    hint: str = ""


@dataclass(frozen=True)
class LookRecord:
    """One thing that was looked at: the word for it when it is right, and what was seen instead;
    empty where it was right."""

    id: str
    name: str
    right: str
    seen: str = ""


def token(step: Step, facts: Mapping[str, str]) -> str:
    """What a step is at one time, as a short text: it differs when what it relies on or what it
    expects does."""
    bands = [(row.id, row.band.expected, row.band.low, row.band.high) for row in step.readings]
    relied = [(name, facts.get(name)) for name in step.relies_on]
    return short((step.id, [row.said for row in step.operate], bands, relied))


def judged(
    step_readings: Mapping[str, "Expected"], texts: Mapping[str, str]
) -> list[ReadingRecord]:
    """What was typed, by the readings of a step; raises UnusableInput where it is no reading."""
    rows = []
    for name, text in texts.items():
        if not text.strip():
            continue
        expected = step_readings.get(name)
        if expected is None:
            raise UnusableInput(
                "no-such-reading",
                name,
                f"The step has no reading “{name}” any more. What you typed is kept: {text}.",
            )
        rows.append(_judged(name, expected, text.strip()))
    return rows


@dataclass(frozen=True)
class Expected:
    """What a reading is called, its unit and its band."""

    name: str
    unit: str
    band: Band


def expected_of(step: Step) -> dict[str, Expected]:
    """The readings of a step by id."""
    return {row.id: Expected(row.name, row.unit, row.band) for row in step.readings}


def _judged(name: str, expected: Expected, text: str) -> ReadingRecord:
    try:
        value = meter_reading(text, expected.unit)
    except NotUnderstood as problem:
        raise UnusableInput(
            "bad-reading", name, f"“{text}” at {expected.name} is no reading. Type {problem}."
        ) from problem
    if expected.unit == "A" and value is not None:
        value = abs(value)  # a clamp that is on the other way round
    band = expected.band
    verdict = band.verdict(value)
    hint = ""
    bare = value is not None and verdict == "too high" and text[-1:].isdigit()
    if bare and band.expected and band.verdict((value or 0.0) / 1000) == "in band":
        hint = f"It would be right in m{expected.unit}: type that after it."
    return ReadingRecord(
        name,
        expected.name,
        expected.unit,
        text,
        value,
        band.expected,
        band.low,
        band.high,
        verdict,
        hint,
    )


def battery_at_rest(text: str) -> float:
    """Volts of a battery at rest as measured today; raises UnusableInput."""
    try:
        volts = meter_reading(text, "V")
    except NotUnderstood as problem:
        raise UnusableInput("bad-reading", "battery", f"“{text}”: type {problem}.") from problem
    low, high = RESTS_V
    if volts is None or not low <= abs(volts) <= high:
        raise UnusableInput(
            "bad-reading",
            "battery",
            f"{text} is no 12 V battery at rest: that reads 11.5 to 13 V. Take it off its charger, "
            "wait a while, and measure on the posts.",
        )
    return abs(volts)
