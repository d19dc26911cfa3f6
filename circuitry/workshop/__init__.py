"""The workshop: everything needed to make the loom, in the order in which it is made."""

from circuitry.workshop.schedule import STEPS, Done
from circuitry.workshop.workshop import Workshop, workshop

__all__ = ["STEPS", "Done", "Workshop", "workshop"]
