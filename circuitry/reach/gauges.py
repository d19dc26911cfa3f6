"""What gauges read: a pointer goes with the current that its sender lets pass."""

from collections.abc import Iterator
from dataclasses import dataclass

from circuitry.design.model import Build, Part, Terminal
from circuitry.devices.load import output_word, rated_current_a, test_volts
from circuitry.devices.sensor import SENDERS, Scale
from circuitry.reach.paths import paths_of

BEYOND_PERCENT = 4.0
"""How far past an end of its scale a pointer stands that has left it, and by how much it can."""
AT_END_PERCENT = 1.5
LEAST_A = 1e-9


@dataclass(frozen=True)
class Dial:
    """A gauge and the sender that it is marked for: at the voltage that it is made for, with the
    ohms of its winding and of the sender at both ends of the scale."""

    gauge: Part
    sender: Part
    scale: Scale
    made_for_v: float
    winding_ohm: float
    least_ohm: float
    most_ohm: float

    def percent(self, amps: float) -> float:
        """Where the pointer stands, in % of the way from the least end to the most, for a current
        in the winding: what is told by the sender that lets so much pass at the voltage that the
        gauge is made for. So it reads otherwise at other volts, as gauges without a stabiliser do.
        It stops a little past its ends."""
        ohm = self.made_for_v / max(amps, LEAST_A) - self.winding_ohm
        share = self.scale.share(ohm, self.least_ohm, self.most_ohm)
        return 100 * min(max(share, -BEYOND_PERCENT / 100), 1 + BEYOND_PERCENT / 100)

    def said(self, percent: float) -> str:
        """Where the pointer stands, in words."""
        least, most = self.scale.least, self.scale.most
        if abs(percent) <= AT_END_PERCENT:
            return least
        if abs(percent - 100) <= AT_END_PERCENT:
            return most
        if 0 < percent < 100:
            return f"{percent:.0f} % to {most}"
        return f"below {least}" if percent < 0 else f"above {most}"


def dials(build: Build) -> Iterator[Dial]:
    """The gauges of a build that are led to a sender with a known scale."""
    paths = paths_of(build)
    signals = {
        paths.lands(Terminal(part.id, "signal")): part
        for part in build.parts_of_kind("sensor")
        if part.catalogue in SENDERS
    }
    for gauge in build.parts_of_kind("load"):
        if output_word(gauge) != "current":
            continue
        joined = paths.joined(Terminal(gauge.id, "-"))
        sender = next((part for signal, part in signals.items() if signal in joined), None)
        if sender is None:
            continue
        scale, volts = SENDERS[sender.catalogue or ""], test_volts(gauge)
        winding_ohm = volts / rated_current_a(gauge)
        yield Dial(gauge, sender, scale, volts, winding_ohm, *scale.ends_ohm(sender))
