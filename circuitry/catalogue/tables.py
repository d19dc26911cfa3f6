"""Typed rows of the reference tables in ``data/`` and the one place where they are read."""

import csv
import types
from collections.abc import Mapping
from dataclasses import dataclass, fields
from functools import cache, cached_property
from pathlib import Path
from typing import Any, Protocol, TypeVar, get_args, get_type_hints

import numpy as np

from circuitry.errors import UnusableInput

DATA = Path(__file__).parent / "data"
USUAL_SHELF = {
    "metric": tuple(f"{area:g} mm²" for area in (0.5, 0.75, 1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50)),
    "awg": tuple(f"{gauge} AWG" for gauge in (20, 18, 16, 14, 12, 10, 8, 6, 4, 2, "1/0", "2/0")),
}
"""The sizes that most builders buy: few reels."""
Row = TypeVar("Row")


@dataclass(frozen=True)
class Conductor:
    """A size of road-vehicle cable; resistance is the class limit at 20 °C."""

    name: str
    system: str
    copper_area_mm2: float
    r20_mohm_per_m: float
    outside_diameter_mm: float


@dataclass(frozen=True)
class Insulation:
    """An insulation class of ISO 6722-1 and what its temperatures allow."""

    name: str
    class_: str
    continuous_limit_c: float
    overload_240h_limit_c: float
    short_circuit_limit_c: float
    thermal_conductivity_w_per_m_k: float
    note: str


@dataclass(frozen=True)
class Grouping:
    """Factor on ampacity for wires that carry side by side (IEC 60364-5-52, bunched)."""

    loaded_wires: int
    factor: float


@dataclass(frozen=True)
class Fuse:
    """One rating of one family of fuse."""

    family: str
    rating_a: float
    cold_resistance_mohm: float
    colour: str
    note: str


@dataclass(frozen=True)
class FuseCurvePoint:
    """Least and most melting time of a family at a multiple of its rating."""

    family: str
    multiple_of_rating: float
    least_time_s: float
    most_time_s: float | None
    note: str


@dataclass(frozen=True)
class Relay:
    """A kind of relay: contacts, what they carry, and its coil; ``pull_in_a`` is what a solenoid
    with two windings takes until it has pulled in, for ``pull_in_s``."""

    kind: str
    contacts: str
    no_continuous_a_23c: float
    no_continuous_a_85c: float
    nc_continuous_a_23c: float | None
    lamp_make_peak_a: float | None
    motor_make_peak_a: float
    coil_ohm_12v: float
    pull_in_max_v: float
    drop_out_min_v: float
    contact_mohm: float
    pull_in_a: float | None
    pull_in_s: float | None
    suppression: str
    note: str

    @property
    def has_rest_contact(self) -> bool:
        """Whether terminal 87a is there."""
        return self.contacts == "SPDT"

    @property
    def has_twin_outputs(self) -> bool:
        """Whether the working contact ends on two terminals, 87 and 87b."""
        return "two outputs" in self.contacts


@dataclass(frozen=True)
class Flasher:
    """A kind of flasher: the load in W that it needs, and whether it senses a missing lamp."""

    kind: str
    least_w: float
    senses: str
    electronic: str
    contact_mohm: float
    note: str

    @property
    def is_electronic(self) -> bool:
        """Whether it works only while it is fed and grounded."""
        return self.electronic == "yes"


@dataclass(frozen=True)
class Module:
    """A kind of power module: ``channels`` and half-bridges, ``bridges``, by what each bears for
    ever, as ``4x25;6x15``; inputs; what all bear together; what it takes while nothing is on; the
    inrush that a channel bears, as a multiple of that and in seconds; and its data buses.

    A channel may start over ``soft_s`` seconds at most. One that trips comes on again ``retries``
    times, each after ``retry_s`` seconds, and then stays off until it is switched off; one that
    carries less than ``open_below_a`` while it is on tells that its load is open."""

    kind: str
    channels: str
    bridges: str
    inputs: int
    total_a: float
    sleep_ma: float
    inrush_x: float
    inrush_s: float
    buses: int
    soft_s: float
    retries: int
    retry_s: float
    open_below_a: float
    note: str

    @cached_property
    def channel_a(self) -> Mapping[str, float]:
        """What each channel and half-bridge bears for ever, in A, by name."""
        return {**_numbered("C", self.channels), **_numbered("H", self.bridges)}

    @cached_property
    def bridge_names(self) -> frozenset[str]:
        """The half-bridges."""
        return frozenset(_numbered("H", self.bridges))


def _numbered(letter: str, groups: str) -> dict[str, float]:
    """``2x25;4x15`` as figures by name, numbered on."""
    each = [
        float(amps)
        for count, amps in (group.split("x") for group in groups.split(";") if group)
        for _ in range(int(count))
    ]
    return {f"{letter}{number}": amps for number, amps in enumerate(each, 1)}


@dataclass(frozen=True)
class Load:
    """A common load; either its power or its current is given at the test voltage.

    ``duty`` is how long it is on: for ever, minutes, flashing or seconds. ``drop`` is its kind in
    the table of drop limits. ``holder`` is what a lamp is held by: it goes into the like alone.
    """

    name: str
    group: str
    kind: str
    rated_w: float | None
    rated_a: float | None
    test_v: float
    inrush_x: float
    inrush_s: float
    duty: str
    drop: str
    road: str
    criticality: str
    holder: str
    note: str

    @property
    def road_states(self) -> tuple[str, ...]:
        """The road states in which it is on anyway."""
        return tuple(name for name in self.road.split(";") if name)


@dataclass(frozen=True)
class Habit:
    """The share of the time that loads whose row begins so are on, by pace; ``anyway`` is
    yes where that does not hang on a road state. Typical, to be replaced by the builder's own."""

    load: str
    anyway: str
    idle: float
    town: float
    motorway: float
    show: float
    why: str


@dataclass(frozen=True)
class UsualAlternator:
    """An alternator as it is sold; its mass is typical."""

    rated_a: float
    mass_kg: float


@dataclass(frozen=True)
class UsualBattery:
    """A lead battery as it is sold; its resistance, full and warm, and its mass are typical."""

    capacity_ah: float
    resistance_mohm: float
    mass_kg: float


@dataclass(frozen=True)
class DropLimit:
    """How much a kind of load may lose on feed and return together, in V from 12 V."""

    load_kind: str
    loop_limit_v_at_12v: float
    note: str


@dataclass(frozen=True)
class TerminalRange:
    """What a kind of terminal takes: wires from least to most in mm², and current for ever in A."""

    terminal: str
    least_mm2: float
    most_mm2: float
    continuous_a: float | None
    strip_mm: float
    ends_in: str
    note: str


@dataclass(frozen=True)
class Ring:
    """A stud size and the hole of the ring that fits it."""

    stud: str
    hole_mm: float
    typical_use: str


@dataclass(frozen=True)
class ConnectorContact:
    """A contact family: current, wire range and the numbers of ways it comes in."""

    contact: str
    current_a: float
    wire_min_mm2: float
    wire_max_mm2: float
    ways_common: str
    sealed: str
    strip_mm: float
    note: str


@dataclass(frozen=True)
class Joint:
    """Resistance of one joint or closed contact."""

    joint: str
    resistance_mohm: float
    note: str


@dataclass(frozen=True)
class MotorTorque:
    """Loads whose torque goes with the square of speed; every other motor has constant torque."""

    load: str
    torque: str
    note: str


@dataclass(frozen=True)
class Help:
    """One thing to know at a stage of the route card."""

    stage: str
    says: str


@dataclass(frozen=True)
class Word:
    """A word of the trade, what it means, and the stages where it is met, by spaces."""

    word: str
    meaning: str
    stages: str


@dataclass(frozen=True)
class Catalogue:
    """All tables; ``conductors`` by system in order of area, ``fuses`` by family and rating.

    ``led_for`` is the LED lamp that does the work of each filament lamp; others stay.
    """

    conductors: Mapping[str, tuple[Conductor, ...]]
    conductor: Mapping[str, Conductor]
    insulation: Mapping[str, Insulation]
    grouping: tuple[Grouping, ...]
    fuses: Mapping[str, tuple[Fuse, ...]]
    fuse_curves: Mapping[str, tuple[FuseCurvePoint, ...]]
    relays: Mapping[str, Relay]
    loads: Mapping[str, Load]
    flashers: Mapping[str, Flasher]
    modules: Mapping[str, Module]
    rings: tuple[Ring, ...]
    connectors: tuple[ConnectorContact, ...]
    joints: Mapping[str, Joint]
    fan_loads: frozenset[str]
    led_for: Mapping[str, str]
    habits: tuple[Habit, ...]
    alternators: tuple[UsualAlternator, ...]
    batteries: tuple[UsualBattery, ...]
    drop_limits: Mapping[str, DropLimit]
    terminals: Mapping[str, TerminalRange]
    help: tuple[Help, ...]
    words: tuple[Word, ...]

    def fuse(self, family: str, rating_a: float) -> Fuse:
        """The fuse of this family and rating; raises UnusableInput when there is none."""
        for fuse in self.fuses.get(family, ()):
            if fuse.rating_a == rating_a:
                return fuse
        made = ", ".join(f"{fuse.rating_a:g}" for fuse in self.fuses.get(family, ()))
        raise UnusableInput(
            "unknown-fuse",
            f"{family} {rating_a:g} A",
            f"There is no {rating_a:g} A fuse of family “{family}”. "
            + (f"It comes as {made} A." if made else f"Families: {', '.join(self.fuses)}."),
        )

    def grouping_factors(self, loaded_wires: Any) -> Any:
        """Factors on ampacity for these numbers of loaded wires, straight between the rows of the
        table; beyond it its last row holds. Numbers and factors are arrays."""
        counts = [row.loaded_wires for row in self.grouping]
        return np.interp(loaded_wires, counts, [row.factor for row in self.grouping])


@cache
def catalogue() -> Catalogue:
    """The reference tables, read on first use."""
    metric = tuple(
        Conductor(
            f"{float(row['size_mm2']):g} mm²",
            "metric",
            float(row["size_mm2"]),
            float(row["r20_max_mohm_per_m"]),
            float(row["od_thin_wall_max_mm"]),
        )
        for row in _raw("conductors_metric")
    )
    awg = tuple(
        Conductor(
            f"{row['gauge_awg']} AWG",
            "awg",
            float(row["copper_area_mm2"]),
            float(row["r20_mohm_per_m"]),
            float(row["od_mm"]),
        )
        for row in _raw("conductors_awg")
    )
    return Catalogue(
        conductors={"metric": metric, "awg": awg},
        conductor={row.name: row for row in metric + awg},
        insulation={row.name: row for row in _rows("insulation", Insulation)},
        grouping=tuple(_rows("grouping", Grouping)),
        fuses=_by_family(_rows("fuses", Fuse)),
        fuse_curves=_by_family(_rows("fuse_curves", FuseCurvePoint)),
        relays={row.kind: row for row in _rows("relays", Relay)},
        loads={row.name: row for row in _rows("loads", Load)},
        flashers={row.kind: row for row in _rows("flashers", Flasher)},
        modules={row.kind: row for row in _rows("modules", Module)},
        rings=tuple(_rows("rings", Ring)),
        connectors=tuple(_rows("connectors", ConnectorContact)),
        joints={row.joint: row for row in _rows("joints", Joint)},
        fan_loads=frozenset(
            row.load for row in _rows("motor_torque", MotorTorque) if row.torque == "fan"
        ),
        led_for={row["lamp"]: row["led"] for row in _raw("led_lamps")},
        habits=tuple(_rows("habits", Habit)),
        alternators=tuple(_rows("alternators", UsualAlternator)),
        batteries=tuple(_rows("batteries", UsualBattery)),
        drop_limits={row.load_kind: row for row in _rows("drop_limits", DropLimit)},
        terminals={row.terminal: row for row in _rows("terminals", TerminalRange)},
        help=tuple(_rows("help", Help)),
        words=tuple(_rows("words", Word)),
    )


def _raw(table: str) -> list[dict[str, str]]:
    with (DATA / f"{table}.csv").open(encoding="utf-8", newline="") as file:
        return list(csv.DictReader(file))


def _rows(table: str, row_type: type[Row]) -> list[Row]:
    hints = get_type_hints(row_type)
    names = [field.name for field in fields(row_type)]  # type: ignore[arg-type]
    return [
        row_type(**{name: _typed(raw[name.rstrip("_")], hints[name]) for name in names})
        for raw in _raw(table)
    ]


def _typed(text: str, hint: type) -> object:
    if isinstance(hint, types.UnionType):
        return _typed(text, get_args(hint)[0]) if text else None
    return hint(text)


class _InFamily(Protocol):
    @property
    def family(self) -> str: ...


FamilyRow = TypeVar("FamilyRow", bound=_InFamily)


def _by_family(rows: list[FamilyRow]) -> dict[str, tuple[FamilyRow, ...]]:
    families: dict[str, list[FamilyRow]] = {}
    for row in rows:
        families.setdefault(row.family, []).append(row)
    return {family: tuple(members) for family, members in families.items()}
