"""The layout: bundles, ways and lengths, and what another place for a part would mean."""

from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.design.model import SENSOR_PINS, USUAL_AMBIENT_C, WET_ZONES
from circuitry.design.routes import drawn_m, has_way, length_m, usual_end_extra_m, way_of
from circuitry.devices import DEVICES
from circuitry.layout import bundles, far_from_drawn
from circuitry.plain import plain
from circuitry.sizing import loom
from circuitry.sizing.placement import moved
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.builds import models
from oilstone.builds.results import build_at, sized, sizing_at

router = Router(tags=["layout"])


@router.get("/builds/{build_id}/layout", response={200: schemas.LayoutView, 404: schemas.Problem})
def read_layout(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Every run with its bundle, every wire with its way, and the loom in figures."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    build = sizing.build
    packed = bundles(build)
    return json_answer(
        {
            "runs": {
                run.id: {
                    "drawn_m": drawn_m(build.places[run.from_place], build.places[run.to_place]),
                    "far": far_from_drawn(build, run),
                    "wires": packed[run.id].wires,
                    "diameter_mm": packed[run.id].diameter_mm,
                    "mass_g": packed[run.id].mass_g,
                }
                for run in build.runs.values()
            },
            "wires": {
                wire.id: {
                    "runs": [run.id for run in way_of(build, wire)],
                    "length_m": length_m(build, wire),
                    "size": wire.size,
                    "pinned": wire.way is not None,
                    "has_way": has_way(build, wire),
                }
                for wire in build.wires.values()
            },
            "loom": loom(sizing),
            "zones": {
                zone: {"ambient_c": ambient_c, "wet": zone in WET_ZONES}
                for zone, ambient_c in USUAL_AMBIENT_C.items()
            },
            "sensor_pins": SENSOR_PINS,
            "ends_m": {kind: usual_end_extra_m(kind) for kind in DEVICES},
        }
    )


@router.post(
    "/builds/{build_id}/placement",
    response={200: schemas.PlacementView, 404: schemas.Problem, 422: schemas.Problem},
)
def ask_placement(
    request: HttpRequest, build_id: schemas.RowId, body: schemas.PlacementRequest
) -> Any:
    """The loom as it is, and as it would be with a part in another place; nothing is saved."""
    row = get_object_or_404(models.Build, pk=build_id)
    after = moved(build_at(row), body.part, body.place)
    return {"before": plain(loom(sizing_at(row))), "after": plain(loom(sized(after)))}
