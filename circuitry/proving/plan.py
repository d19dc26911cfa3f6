"""The whole proof of a car, written from its build: every step with what to expect of it."""

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, fields, replace

from circuitry.design.model import Build
from circuitry.errors import UnusableInput
from circuitry.progress import report
from circuitry.proving.car import Car
from circuitry.proving.cold import cold
from circuitry.proving.draft import Asked
from circuitry.proving.facts import facts_of
from circuitry.proving.first_power import first_power
from circuitry.proving.functions import functions
from circuitry.proving.loom import loom
from circuitry.proving.parked import parked
from circuitry.proving.situation import Band, Today
from circuitry.proving.step import Reading, Step
from circuitry.sizing.result import Sizing

NOTHING_KNOWN = Today()
NOTHING_PASSES = "Right also where nothing flows: look that it works."
SHORT_PASSES = "A dead short reads much the same: unplug what hangs on it, and it must read open."


@dataclass(frozen=True)
class Plan:
    """The steps of a proof in their order, and the facts that they rely on: of each part and wire
    what its readings depend on, told apart by a short text."""

    steps: tuple[Step, ...]
    facts: Mapping[str, str]

    def step(self, name: str) -> Step:
        """The step of this id; raises UnusableInput."""
        found = next((step for step in self.steps if step.id == name), None)
        if found is None:
            raise UnusableInput(
                "no-such-step",
                name,
                "This step is not in the plan any more: the build has changed. What you typed is "
                "kept; find the step that has taken its place.",
            )
        return found


def plan_of(sizing: Sizing, today: Today = NOTHING_KNOWN) -> Plan:
    """The whole proof of a sized build, as its car stands today."""
    car = Car(sizing, today)
    report("Writing the steps")
    steps = [*loom(car), *cold(car), *first_power(car), *functions(car), *parked(car)]
    report("Working out what to expect")
    return Plan(tuple(_expected(car, steps)), facts_of(sizing.build))


def _expected(car: Car, steps: Sequence[Step]) -> Iterator[Step]:
    asked = [
        (row.situation, row.probe)
        for step in steps
        for row in step.readings
        if isinstance(row, Asked)
    ]
    bands = iter(car.sound.bands(asked))
    for step in steps:
        readings = []
        for row in step.readings:
            band = next(bands) if isinstance(row, Asked) else row.band
            if isinstance(band, Band):
                readings.append(_with_band(car.build, row, band))
        yield replace(step, readings=tuple(readings))


def _with_band(build: Build, row: Reading, band: Band) -> Reading:
    """The reading with what to expect, its probes on the pins of what is housed; one that a car
    without any current would also pass says so, and so does one that a dead short would pass."""
    own = {field.name: getattr(row, field.name) for field in fields(Reading)}
    if isinstance(row, Asked) and band.expected is None:
        band = replace(band, low=row.open_from)
    if isinstance(row, Asked) and not row.tells and band.low <= 0:
        own["tells"] = SHORT_PASSES if row.probe.unit == "Ω" else NOTHING_PASSES
    red, black = (end and build.lands(end) for end in (row.probe.red, row.probe.black))
    return Reading(**{**own, "band": band, "probe": replace(row.probe, red=red, black=black)})
