"""Proving a car: what to do, see and measure, in the order of the job, and what to expect."""

from circuitry.proving.facts import called, changed_since, facts_of
from circuitry.proving.plan import Plan, plan_of
from circuitry.proving.record import LookRecord, battery_at_rest, expected_of, judged, token
from circuitry.proving.situation import Band, Today
from circuitry.proving.step import SECTIONS, SEEN_AMISS, Step

__all__ = [
    "SECTIONS",
    "SEEN_AMISS",
    "Band",
    "LookRecord",
    "Plan",
    "Step",
    "Today",
    "battery_at_rest",
    "called",
    "changed_since",
    "expected_of",
    "facts_of",
    "judged",
    "plan_of",
    "token",
]
