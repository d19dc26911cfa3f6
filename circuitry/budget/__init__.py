"""The budget: what a car draws while it does this or that, against alternator and battery."""

from circuitry.budget.budget import budget, with_led_lamps
from circuitry.budget.result import Budget
from circuitry.budget.scenarios import USUAL_SCENARIOS, scenarios_of

__all__ = ["USUAL_SCENARIOS", "Budget", "budget", "scenarios_of", "with_led_lamps"]
