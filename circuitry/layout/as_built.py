"""A wire as it was cut, where that is otherwise than it was drawn."""

from dataclasses import replace

from circuitry.design.model import Build, Wire
from circuitry.design.routes import extra_m, length_m


def cut_at(build: Build, wire: Wire, metres: float) -> Wire:
    """The wire with this length: what is more than its runs is in its ends, and it keeps its way;
    one that is shorter than its runs has a length of its own."""
    runs_m = length_m(build, wire) - extra_m(build, wire)
    if metres >= runs_m:
        return replace(wire, extra_m=round(metres - runs_m, 4))
    return replace(wire, length_m=metres, extra_m=0.0)
