"""Parked: what the car draws when it has been left, fuse by fuse where it is more."""

from collections.abc import Iterator

from circuitry.devices.battery import capacity_ah
from circuitry.errors import UnusableInput
from circuitry.proving.car import Car
from circuitry.proving.draft import drafted, reading
from circuitry.proving.situation import Probe
from circuitry.proving.step import Step
from circuitry.proving.words import RINGS_OFF, listed, place_said

TOLD_A = 0.0005


def parked(car: Car) -> Iterator[Step]:
    """What the battery gives after an hour."""
    at_rest = car.at_rest
    (settled,) = car.sound.settled([at_rest])
    if isinstance(settled, UnusableInput):
        return
    network, build = car.sound.network, car.build
    fuses = zip(build.parts_of_kind("fuse"), network.fuse_a(settled).tolist(), strict=True)
    draws = sorted(
        ((abs(amps), fuse.name) for fuse, amps in fuses if abs(amps) > TOLD_A), reverse=True
    )
    by_fuse = listed(f"{name} {amps * 1000:.0f} mA" for amps, name in draws)
    draw_a = network.battery_a(settled)
    half = capacity_ah(car.battery) / 2
    days = half / draw_a / 24 if draw_a > TOLD_A else None
    lasts = f" Half of the battery lasts {days:.0f} days at that." if days and days < 1000 else ""
    yield drafted(
        car,
        id="parked/draw",
        section="parked",
        circuit=None,
        title="Doors shut, key out, an hour later: what the battery gives",
        how="A meter in the negative lead, put on beside it before the lead comes off, so that no "
        f"box wakes.{lasts}",
        place=place_said(build, car.battery),
        cautions=[RINGS_OFF, "Nothing over 10 A through the meter: no key, no door, no switch."],
        readings=[
            reading(
                "draw",
                "Amps from the battery",
                "meter in the negative lead",
                at_rest,
                Probe("leak"),
                low="A memory feed is open: clock and radio forget.",
                high="More than it should be: fuses out one by one until it falls. By fuse: "
                + (by_fuse or "none draws anything")
                + ".",
            )
        ],
        relies_on=[car.battery.id],
        situation=at_rest,
        minutes=5.0,
    )
