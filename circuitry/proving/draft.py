"""Steps as they are first written: with what is to be read, and no band yet."""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Any

from circuitry.design.model import Part
from circuitry.proving.car import Car
from circuitry.proving.situation import OPEN_OHM, Band, Probe, Situation
from circuitry.proving.step import Look, Reading, Step
from circuitry.proving.words import place_said, seen

PENDING = Band(None, 0.0, None)
AT_REST = Situation()


@dataclass(frozen=True)
class Asked(Reading):
    """A reading whose band is still to be worked out, in its situation."""

    situation: Situation = AT_REST
    open_from: float = OPEN_OHM


def reading(
    id: str,
    name: str,
    where: str,
    situation: Situation,
    probe: Probe,
    low: str = "",
    high: str = "",
    tells: str = "",
    waits: bool = False,
    open_from: float = OPEN_OHM,
) -> Asked:
    """Something to measure; ohms that are open are so from ``open_from`` up."""
    return Asked(id, name, where, probe, probe.unit, PENDING, low, high, tells, waits, situation)


def look_at(car: Car, load: Part, right: str) -> Look:
    """A load to look at, and the word for it when it is right."""
    missing = load.id in car.today.missing
    return Look(f"look/{load.id}", load.name, place_said(car.build, load), right, load.id, missing)


def look_for(car: Car, load: Part, word: str) -> Look:
    """A load to look at, and what is seen of it where its truth table has this word; of a gauge
    what its sender tells."""
    scale = car.scales.get(load.id)
    right = f"reads {scale.proved}" if scale and word == "on" else seen(load, word)
    return look_at(car, load, right)


def drafted(
    car: Car,
    *,
    id: str,
    section: str,
    circuit: str | None,
    title: str,
    how: str = "",
    place: str = "",
    cautions: Iterable[str] = (),
    goes_in: Sequence[str] = (),
    stays_out: Sequence[str] = (),
    operate: Sequence[Any] = (),
    looks: Sequence[Look] = (),
    readings: Sequence[Reading] = (),
    waits_for: Sequence[str] = (),
    relies_on: Sequence[str] = (),
    situation: Situation | None = None,
    minutes: float = 1.0,
) -> Step:
    """A step, with the stage of its circuit."""
    return Step(
        id=id,
        section=section,
        circuit=circuit,
        stage=car.stage(circuit),
        title=title,
        how=how,
        place=place,
        cautions=tuple(dict.fromkeys(cautions)),
        goes_in=tuple(goes_in),
        stays_out=tuple(stays_out),
        operate=tuple(operate),
        looks=tuple(looks),
        readings=tuple(readings),
        waits_for=tuple(waits_for),
        relies_on=tuple(relies_on),
        situation=situation,
        minutes=round(minutes, 1),
    )
