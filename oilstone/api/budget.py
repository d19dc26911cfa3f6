"""The budget of a build: scenarios against alternator and battery."""

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.budget import Budget, with_led_lamps
from circuitry.plain import plain
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.builds import models
from oilstone.builds.results import budget_at, sizing_at

router = Router(tags=["budget"])
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}


@router.get("/builds/{build_id}/budget", response={200: Budget, **REFUSALS})
def read_budget(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Every scenario, and what follows for alternator and battery."""
    return json_answer(plain(budget_at(get_object_or_404(models.Build, pk=build_id))))


@router.get("/builds/{build_id}/budget/led-lamps", response={200: Budget, **REFUSALS})
def read_budget_with_led_lamps(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The same with LED lamps in place of those with a filament; nothing is saved."""
    return json_answer(
        plain(with_led_lamps(sizing_at(get_object_or_404(models.Build, pk=build_id))))
    )
