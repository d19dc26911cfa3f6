"""What is read at a moment: the frame that a screen shows, and what each meter shows."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np

from circuitry.bench.meters import (
    CONTINUITY_OHM,
    JUMPER_OHM,
    LAMP_V,
    LAMPS_W,
    LISTENS,
    LIVE_V,
    MINUS_OHM,
    PLUS_SHARE,
    PROBE_OHM,
    SUPPLY_OHM,
    Meter,
)
from circuitry.bench.moment import Moment
from circuitry.bench.rig import Rig
from circuitry.design.model import Terminal
from circuitry.devices.electronics import lit_buttons
from circuitry.devices.laws import Filament
from circuitry.network.equations import Join, Operating, Vector
from circuitry.network.network import OFF_PERCENT

if TYPE_CHECKING:
    from circuitry.bench.bench import Bench
    from circuitry.bench.circuit import Point

DEAD_V, QUIET_S, LEAST_A = 0.2, 1.0, 1e-5
OHMS_V, OHMS_OHM = 1.0, 1000.0
"""What an ohmmeter puts on its probes, and behind what: a milliamp at most."""


@dataclass(frozen=True)
class MeterReading:
    """What a meter shows: its figure and unit, None where it floats or refuses; words beside it,
    the largest since it was put on, and light where it has one. ``expected`` is the reading of the
    sound car, ``verdict`` what this one is against it."""

    kind: str
    value: float | None
    unit: str
    words: str = ""
    peak: float | None = None
    lit_percent: float | None = None
    expected: float | None = None
    verdict: str = ""


@dataclass(frozen=True)
class Pointer:
    """Where the pointer of a gauge stands: in % of its scale, which it may leave, and in words."""

    percent: float
    words: str


@dataclass(frozen=True)
class Frame:
    """Everything to be shown of a moment; lists are in the order of the build's own."""

    t_s: float
    key: str
    battery_v: float
    battery_a: float
    charge: float
    engine_rpm: float
    coolant_c: float
    engine_runs: bool
    settled: bool
    load_v: list[float]
    load_a: list[float]
    load_percent: list[float]
    on: list[str]
    wire_a: list[float]
    wire_v: list[float | None]
    """Volts at the far end of each wire against the battery's negative post; None where it
    floats."""
    wire_c: list[float]
    fuse_used: list[float]
    alternator_a: float
    pulled_in: list[str]
    parted: list[str]
    pulled: list[str]
    tripped: list[str]
    awake: list[str]
    positions: dict[str, str]
    lamps: dict[str, str]
    blades: dict[str, float]
    travels: dict[str, float]
    meters: dict[str, MeterReading]
    pointers: dict[str, Pointer]
    """Of the gauges that are led to a sender and have current."""
    senders: dict[str, float]
    """What senders tell in Ω where that is not as the build has it."""
    quiet: list[str]


def frame_of(bench: "Bench", moment: Moment, point: "Point") -> Frame:
    """What is to be shown of a moment of a bench."""
    rig, operating = bench.rig, point.operating
    network = rig.network
    layout = network.layout
    load_v, load_a = operating.element_v[layout.load_rows], operating.element_a[layout.load_rows]
    percent = layout.load_laws.output_percent(load_v) * (np.abs(load_a) > LEAST_A)
    at, _ = rig.held_loads
    if len(at):
        laws, shown = rig.live.lags.outputs(moment.at)
        by_row = dict(zip(laws.tolist(), shown.tolist(), strict=True))
        percent[at] = [by_row[row] for row in layout.load_rows[at].tolist()]
    moved = {pair for pair, on in zip(network.positions, moment.moved, strict=True) if on}
    source = layout.source
    values = bench.values_of(moment)
    used = dict(zip(rig.fuse_ids, moment.at[rig.fuse_lags], strict=True))
    return Frame(
        t_s=moment.t_s,
        key=moment.key,
        battery_v=float(operating.element_v[source]),
        battery_a=0.0 - float(operating.element_a[source]),
        charge=float(moment.charge[0]),
        engine_rpm=values["engine_rpm"],
        coolant_c=values["coolant_c"],
        engine_runs=moment.engine.runs,
        settled=point.settled,
        load_v=_short(load_v, 3),
        load_a=_short(load_a, 3),
        load_percent=_short(np.abs(percent), 1),
        on=[layout.loads[row] for row in np.flatnonzero(np.abs(percent) >= OFF_PERCENT)],
        wire_a=_short(bench.wire_amps(point, moment), 3),
        wire_v=_wire_volts(rig, operating),
        wire_c=_short(moment.wire_c, 1),
        fuse_used=_short(
            np.array([used.get(p.id, 0.0) for p in network.build.parts_of_kind("fuse")]), 3
        ),
        alternator_a=_alternator_a(rig, operating),
        pulled_in=[
            owner for owner, at in network.positions if at == "pulled in" and (owner, at) in moved
        ],
        parted=sorted(moment.parted - {"lead"}),
        pulled=sorted(moment.pulled),
        tripped=sorted(f"{owner}.{at.removesuffix(' on')}" for owner, at in moment.tripped),
        awake=[owner for owner, at in network.positions if at == "awake" and (owner, at) in moved],
        positions=bench.positions_of(moment),
        lamps=lit_buttons(network.build, frozenset(moved)),
        blades=moment.cams.copy(),
        travels={name: round(at, 3) for name, at in moment.travels.items()},
        meters=dict(_judged(bench, moment, point)),
        pointers=dict(_pointers(bench, load_a)),
        senders={part: float(f"{ohm:.3g}") for part, ohm in bench.senders_ohm(moment).items()},
        quiet=_quiet(bench, moment, operating),
    )


def _pointers(bench: "Bench", load_a: Vector) -> Iterator[tuple[str, Pointer]]:
    for row, dial in bench.dials:
        if abs(load_a[row]) > LEAST_A:
            percent = dial.percent(abs(float(load_a[row])))
            yield dial.gauge.id, Pointer(round(percent, 1), dial.said(percent))


def _judged(bench: "Bench", moment: Moment, point: "Point") -> Iterator[tuple[str, MeterReading]]:
    """What each meter shows, beside what it would on the sound car."""
    sound = bench.expected(moment)
    for name in moment.meters:
        reading = reading_of(bench, moment, point, name)
        if name in sound:
            verdict = sound[name].verdict(reading.value)
            reading = replace(reading, expected=sound[name].value, verdict=verdict)
        yield name, reading


def _quiet(bench: "Bench", moment: Moment, operating: Operating) -> list[str]:
    """The switches of which no end has had any volts for a while: working one has no effect now."""
    volts = np.abs(np.nan_to_num(operating.node_v))
    for part, ends in bench.rig.switch_ends.items():
        if (volts[ends] > DEAD_V).any():
            bench.alive_s[part] = moment.t_s
    since = ((part, bench.alive_s.get(part, -QUIET_S)) for part in bench.rig.switch_ends)
    return [part for part, alive_s in since if not moment.t_s - QUIET_S < alive_s <= moment.t_s]


def _wire_volts(rig: Rig, operating: Operating) -> list[float | None]:
    volts = operating.node_v[rig.wire_ends] - operating.node_v[rig.network.reference]
    return [None if row != row else row + 0.0 for row in np.round(volts, 2).tolist()]


def _short(figures: Any, digits: int) -> list[float]:
    shown: list[float] = (np.round(np.nan_to_num(figures), digits) + 0.0).tolist()
    return shown


def _alternator_a(rig: Rig, operating: Operating) -> float:
    rows = [row for (kind, _), row in rig.row_of.items() if kind == "alternator"]
    return round(sum(-float(operating.element_a[row]) for row in rows), 2) + 0.0


def reading_of(bench: "Bench", moment: Moment, point: "Point", name: str) -> MeterReading:
    """What a meter shows at a moment."""
    meter = moment.meters[name]
    if meter.kind == "clamp":
        wires = list(bench.build.wires)
        amps = float(bench.wire_amps(point, moment)[wires.index(meter.wire)])
        return MeterReading(meter.kind, amps, "A", peak=moment.peaks.get(name))
    volts = _across(bench.rig, point.operating, meter)
    if meter.kind == "voltmeter":
        words = "floats: nothing joins these two points" if volts is None else ""
        return MeterReading(meter.kind, volts, "V", words, moment.peaks.get(name))
    if meter.kind == "ohmmeter":
        return _ohms(bench, moment, meter, volts)
    if meter.kind in LAMPS_W:
        law = _lamp(meter)
        lit = float(law.output_percent(volts or 0.0))
        words = "lit" if lit > 50 else "glows" if lit > 2 else "dark"
        return MeterReading(meter.kind, volts, "V", words, lit_percent=lit)
    if meter.kind == LISTENS:
        return MeterReading(meter.kind, volts, "V", _tip(bench, moment, meter, volts))
    amps = bench.lead_amps(moment, point)
    words = "open: it has blown" if "lead" in moment.parted else ""
    return MeterReading(meter.kind, amps, "A", words)


def _tip(bench: "Bench", moment: Moment, meter: Meter, volts: float | None) -> str:
    """What a powered probe shows of the point that its tip is on: plus, minus or nothing."""
    battery_v = bench.point.operating.element_v[bench.rig.network.layout.source]
    if volts is None:
        return "nothing"
    if volts > PLUS_SHARE * float(battery_v):
        return "plus"
    if abs(volts) > LIVE_V:
        return "nothing"
    ohm = bench.ohms_between(moment, meter)
    return "minus" if ohm is not None and ohm < MINUS_OHM else "nothing"


def _ohms(bench: "Bench", moment: Moment, meter: Meter, volts: float | None) -> MeterReading:
    if volts is not None and abs(volts) > LIVE_V:
        words = f"live, {volts:.2f} V: disconnect first"
        return MeterReading(meter.kind, None, "Ω", words)
    ohm = bench.ohms_between(moment, meter)
    if ohm is None or ohm > 20e6:
        return MeterReading(meter.kind, None, "Ω", "open")
    words = "continuity" if ohm < CONTINUITY_OHM else ""
    return MeterReading(meter.kind, max(ohm, 0.0), "Ω", words)


def _across(rig: Rig, operating: Operating, meter: Meter) -> float | None:
    red_v, black_v = (float(operating.node_v[node]) for node in nodes_of(rig, meter))
    return None if red_v != red_v or black_v != black_v else red_v - black_v


def _lamp(meter: Meter) -> Filament:
    return Filament(LAMPS_W[meter.kind] / LAMP_V, LAMP_V)


def joins_of(rig: Rig, moment: Moment) -> list[Join]:
    """What the meters that load the car join to it: test lamps, and the lead last."""
    found: list[Join] = []
    for meter in moment.meters.values():
        if meter.kind in LAMPS_W:
            red, black = nodes_of(rig, meter)
            law = _lamp(meter)
            volts = max(abs(moment.near_v[red] - moment.near_v[black]), 0.1)
            current_a, _ = law.current_and_slope(volts)
            found.append(Join(red, black, float(current_a / volts)))
    lead = moment.meters.get("lead")
    if lead is not None and lead.kind != LISTENS and "lead" not in moment.parted:
        found.append(_lead(rig, moment, lead))
    return found


def nodes_of(rig: Rig, meter: Meter) -> tuple[int, int]:
    """The nodes on which the probes of a meter are."""
    red, black = (rig.network.node[end] for end in (meter.red, meter.black) if end is not None)
    return red, black


def _lead(rig: Rig, moment: Moment, meter: Meter) -> Join:
    red, black = nodes_of(rig, meter)
    battery = rig.network.battery.id
    match meter.kind:
        case "fused jumper":
            return Join(red, black, 1 / JUMPER_OHM)
        case "powered probe plus":
            return Join(red, rig.network.node[Terminal(battery, "+")], 1 / PROBE_OHM)
        case "powered probe minus":
            return Join(red, rig.network.reference, 1 / PROBE_OHM)
    return Join(red, black, 1 / SUPPLY_OHM, moment.supply_v)


Readings = Mapping[str, MeterReading]
