"""What movers ask of a moment: like a state, with flashers in their own phases and a memory."""

from collections.abc import Mapping

import numpy as np
import numpy.typing as npt

from circuitry.bench.moment import Moment
from circuitry.design.logic import VALUES
from circuitry.design.state import State
from circuitry.devices.moving import Asked


class LiveAsked(Asked):
    """One state of a bench at a moment."""

    def __init__(self, state: State, moment: Moment, values: Mapping[str, float]) -> None:
        super().__init__([state])
        self._values = values
        self._clocks = moment.clocks
        self.memory = moment.memory

    def value(self, name: str) -> npt.NDArray[np.float64]:
        """What sensors tell of a value now."""
        return np.array([self._values.get(name, VALUES[name])])

    def lit_of(self, owner: str) -> npt.NDArray[np.bool_]:
        """Whether what this part flashes is in its lit phase."""
        clock = self._clocks.get(owner)
        return np.array([clock is None or clock.lit])
