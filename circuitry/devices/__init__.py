"""Kinds of part, one module each: terminals, figures and their checks, elements with their laws,
what moves by itself, what its terminals take, its sign in drawings and its line in a netlist.

To add a kind, write its module and name it in ``registry``.
"""

from circuitry.devices.registry import (
    DEVICES,
    device_of,
    electronics_of,
    is_switch,
    switches_of,
    terminals_of,
    values_felt,
)

__all__ = [
    "DEVICES",
    "device_of",
    "electronics_of",
    "is_switch",
    "switches_of",
    "terminals_of",
    "values_felt",
]
