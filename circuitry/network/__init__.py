"""Build and state to equations to volts and amps: the only source of either."""

from circuitry.network.elements import Tolerance
from circuitry.network.network import Network, Solution
from circuitry.network.state import State, Supply

__all__ = ["Network", "Solution", "State", "Supply", "Tolerance"]
