"""The bench: one state of the build, solved; and the fall lines of a circuit."""

from collections.abc import Mapping
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.design.logic import MOST, SPOKEN_VALUES, UNITS, VALUES
from circuitry.design.model import Terminal
from circuitry.devices import values_felt
from circuitry.devices.electronics import lit_buttons
from circuitry.network import Solution, State
from circuitry.plain import plain
from circuitry.reach.fall import FallLine, fall_line
from circuitry.reach.losses import can_be_lost
from circuitry.reach.paths import paths_of, positions_in
from circuitry.sizing.roads import in_road_states
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
    network = network_at(row)
    losable = list(can_be_lost(network.build))
    lost = frozenset(body.lost) & {identity for identity, _, _ in losable}
    state = State(body.key, body.switches, meters=meters, values=body.values, lost=lost)
    solution = network.solve(state)
    return {
        "revision": row.revision,
        "key": body.key,
        "battery_v": solution.battery_v,
        "battery_a": solution.battery_a,
        "loads": {
            load: {**plain(reading), "is_on": reading.is_on}
            for load, reading in solution.loads.items()
        },
        "relays": plain(solution.relays),
        "flashers": plain(solution.flashers),
        "fuses": solution.fuse_a,
        "wires": solution.wire_a,
        "meters_v": solution.meters_v,
        "can_be_lost": [
            {"id": identity, "name": name, "kind": kind} for identity, name, kind in losable
        ],
        "lamps": lit_buttons(network.build, solution.closed),
        "values": [
            {
                "name": name,
                "said": SPOKEN_VALUES[name].capitalize(),
                "unit": UNITS[name],
                "usual": VALUES[name],
                "most": MOST[name],
            }
            for name in values_felt(network.build)
        ],
        "fall_lines": _live_fall_lines(row, body.circuit, solution),
    }


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/fall-lines",
    response={200: list[schemas.FallLineView], 404: schemas.Problem},
)
def design_fall_lines(
    request: HttpRequest, build_id: int, circuit_id: str, road: str | None = None
) -> Any:
    """The fall line of each load of a circuit in the road state where it loses most, or in the
    one that is asked for, where it is fed there."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    lines = []
    for load in sizing.build.loads_of(circuit_id):
        row = sizing.loads.get(load.id)
        if row is None:
            continue
        states = in_road_states(sizing, load.id)
        solution, path, when = states.get(road or "", (row.solution, row.path, row.when))
        shown = road if road in states else row.road
        line = fall_line(sizing.build, solution, load, path)
        lines.append(_view(line, when, row.limit_v, shown, list(states)))
    return lines


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
            lines.append(_view(line, in_words(build, solution.state), None, "", []))
    return lines


def _view(
    line: FallLine, when: str, limit_v: float | None, road: str, roads: list[str]
) -> Mapping[str, Any]:
    return {**plain(line), "when": when, "limit_v": limit_v, "road": road, "roads": roads}
