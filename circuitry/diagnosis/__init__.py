"""Finding faults: from what was seen and measured to ranked suspects and the next best test."""

from circuitry.diagnosis.finder import Finder, Ranked
from circuitry.diagnosis.predicted import Predictor
from circuitry.diagnosis.seen import Measured, Observation, Seen
from circuitry.diagnosis.tests import Outcome, Test

__all__ = ["Finder", "Measured", "Observation", "Outcome", "Predictor", "Ranked", "Seen", "Test"]
