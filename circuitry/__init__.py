"""The rules and the computation of a car's electrical system: no interface, no server.

What a script needs stands in ``circuitry.public`` and can be had from here.
"""

from circuitry import public
from circuitry.public import *  # noqa: F403

__all__ = public.__all__
