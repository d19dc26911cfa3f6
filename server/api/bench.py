"""The bench: one state of the build, solved; and the fall lines of a circuit."""

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.build.model import Terminal
from circuitry.network import Solution, State
from circuitry.network.fall import FallLine, fall_line
from circuitry.network.paths import paths_of, positions_in
from circuitry.plain import plain
from circuitry.sizing.states import in_words
from server.api import schemas
from server.builds import models
from server.builds.results import network_at, sizing_at

router = Router(tags=["bench"])


@router.post(
    "/builds/{build_id}/bench",
    response={200: schemas.BenchAnswer, 404: schemas.Problem, 422: schemas.Problem},
)
def solve_state(request: HttpRequest, build_id: int, body: schemas.BenchRequest) -> Any:
    """Volts and amps of the sized build with the key and switches as asked."""
    row = get_object_or_404(models.Build, pk=build_id)
    meters = tuple((Terminal.parse(red), Terminal.parse(black)) for red, black in body.meters)
    state = State(body.key, body.switches, meters=meters, values=body.values)
    solution = network_at(row).solve(state)
    return {
        "revision": row.revision,
        "key": body.key,
        "battery_v": solution.battery_v,
        "battery_a": solution.battery_a,
        "loads": plain(solution.loads),
        "relays": plain(solution.relays),
        "flashers": plain(solution.flashers),
        "fuses": solution.fuse_a,
        "wires": solution.wire_a,
        "meters_v": solution.meters_v,
        "fall_lines": _live_fall_lines(row, body.circuit, solution),
    }


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/fall-lines",
    response={200: list[schemas.FallLineView], 404: schemas.Problem},
)
def design_fall_lines(request: HttpRequest, build_id: int, circuit_id: str) -> Any:
    """The fall line of each load of a circuit in the state where it loses most."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    return [
        _view(fall_line(sizing.build, row.solution, load, row.path), row.when)
        for load in sizing.build.loads_of(circuit_id)
        if (row := sizing.loads.get(load.id))
    ]


def _live_fall_lines(
    row: models.Build, circuit: str | None, solution: Solution
) -> list[Mapping[str, Any]]:
    if circuit is None:
        return []
    build = sizing_at(row).build
    positions = positions_in(build, solution)
    lines = []
    for load in build.loads_of(circuit):
        path = paths_of(build).to_load(load, positions)
        if path is not None:
            line = fall_line(build, solution, load, path)
            lines.append(_view(line, in_words(build, solution.state)))
    return lines


def _view(line: FallLine, when: str) -> Mapping[str, Any]:
    return {**plain(line), "when": when}
