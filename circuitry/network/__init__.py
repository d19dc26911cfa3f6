"""Build and state to equations to volts and amps: the only source of either."""

from circuitry.design.state import State, Supply
from circuitry.network.elements import Tolerance
from circuitry.network.network import Network, Solution

__all__ = ["Network", "Solution", "State", "Supply", "Tolerance"]
