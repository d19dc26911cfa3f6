"""The one door for changes: operations on a build, and the changes that they make."""

from circuitry.edits.changes import Change, apply_changes, differences, inverse, upgraded_change
from circuitry.edits.operations import apply_operations

__all__ = [
    "Change",
    "apply_changes",
    "apply_operations",
    "differences",
    "inverse",
    "upgraded_change",
]
