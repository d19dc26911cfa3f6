"""What sources go with, and the share of their most that they then give."""

from collections.abc import Callable, Mapping

from circuitry.design.logic import VALUES
from circuitry.devices.alternator import alternator_share
from circuitry.devices.laws import Figure

SHARES: Mapping[str, Callable[[Figure], Figure]] = {
    "engine_rpm": alternator_share,
    "daylight_percent": lambda percent: percent / 100.0,
}
"""By the name of a value; each takes a figure or an array of them."""


def share_given(goes_with: str, values: Mapping[str, float]) -> float:
    """The share that a source gives with these values; all of it where it goes with none."""
    if not goes_with:
        return 1.0
    return float(SHARES[goes_with](values.get(goes_with, VALUES[goes_with])))
