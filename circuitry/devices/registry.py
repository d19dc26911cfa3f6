"""Every kind of part, and what is asked of a part whatever its kind."""

from circuitry.design.logic import VALUES, names_in
from circuitry.design.model import Build, Part
from circuitry.devices.alternator import Alternator
from circuitry.devices.ammeter import Ammeter
from circuitry.devices.battery import Battery
from circuitry.devices.box import Box
from circuitry.devices.button import Button
from circuitry.devices.connector import Connector
from circuitry.devices.converter import Converter
from circuitry.devices.device import Device
from circuitry.devices.diode import Diode
from circuitry.devices.electronics import Electronics, outputs_of
from circuitry.devices.flasher import Flasher
from circuitry.devices.fuse import Fuse
from circuitry.devices.load import Load
from circuitry.devices.module import Module
from circuitry.devices.panel import Panel
from circuitry.devices.points import BusBar, GroundPoint, Splice, Stud
from circuitry.devices.relay import Relay
from circuitry.devices.resistor import Resistor
from circuitry.devices.second_battery import SecondBattery
from circuitry.devices.sensor import Sensor
from circuitry.devices.solar import Solar
from circuitry.devices.split_charge import SplitCharge
from circuitry.devices.switch import Isolator, KeySwitch, Switch

DEVICES: dict[str, Device] = {
    device.kind: device
    for device in (
        Battery(),
        Fuse(),
        Load(),
        Switch(),
        KeySwitch(),
        Isolator(),
        Button(),
        Sensor(),
        Relay(),
        Flasher(),
        Connector(),
        Resistor(),
        Alternator(),
        Converter(),
        SecondBattery(),
        SplitCharge(),
        Solar(),
        Ammeter(),
        Diode(),
        Module(),
        Box(),
        Panel(),
        Stud(),
        BusBar(),
        GroundPoint(),
        Splice(),
    )
}


def device_of(part: Part) -> Device:
    """The kind of a part that has passed the checks."""
    return DEVICES[part.kind]


def terminals_of(part: Part) -> tuple[str, ...]:
    """Names of the part's terminals, in the order a screen lists them."""
    return device_of(part).terminals(part)


def is_switch(part: Part) -> bool:
    """Whether somebody, or something outside the network, moves its contacts."""
    return device_of(part).is_switch


def switches_of(build: Build) -> list[Part]:
    """The parts of a build that are switches, in its order."""
    return [part for part in build.parts.values() if is_switch(part)]


def electronics_of(build: Build) -> list[Part]:
    """The boxes and modules of a build, in its order."""
    return [part for part in build.parts.values() if isinstance(device_of(part), Electronics)]


def values_felt(build: Build) -> list[str]:
    """The values that something in a build goes by: what gives by them, or a condition."""
    felt = {device_of(part).goes_with for part in build.parts.values()}
    for part in electronics_of(build):
        felt |= {name for _, condition in outputs_of(part) for name in names_in(condition)}
    return [name for name in VALUES if name in felt]
