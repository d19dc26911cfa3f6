"""The bench: a build under power, as it is now and as a stream; and the fall lines of a circuit."""

import itertools
import json
import random
import time
from collections.abc import Iterator, Mapping
from typing import Any

from django.http import HttpRequest, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.bench.dealt import deal
from circuitry.bench.faults import KINDS, can_have, others_for, said
from circuitry.bench.script import as_rows
from circuitry.design.logic import MOST, SPOKEN_VALUES, UNITS, VALUES
from circuitry.devices import values_felt
from circuitry.plain import plain
from circuitry.reach.fall import FallLine, fall_line
from circuitry.reach.losses import can_be_lost
from circuitry.reach.paths import paths_of, positions_in
from circuitry.sizing.roads import in_road_states
from circuitry.sizing.states import in_words
from oilstone.api import schemas
from oilstone.builds import models
from oilstone.builds.live import Live, live_of
from oilstone.builds.results import sizing_at

router = Router(tags=["bench"])
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}
SESSION = {200: schemas.SessionView, **REFUSALS}
LEAST_FRAME_S, MOST_FRAME_S = 0.04, 0.4
LOOKS_AT_BUILD_S = 0.5
STREAM_S = 900.0
"""After which a stream ends, and the page asks for another."""


def _live(build_id: schemas.RowId) -> Live:
    return live_of(get_object_or_404(models.Build, pk=build_id))


@router.get("/builds/{build_id}/bench", response=SESSION)
def session(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The bench of a build as it is now."""
    return _session(_live(build_id))


def _session(live: Live) -> Any:
    with live.lock:
        frame, bench = live.look(), live.bench
        build, moment = bench.build, bench.moment
        kept = models.BenchSession.objects.filter(build_id=live.build_id).exclude(name="")
        return {
            "revision": live.revision,
            "version": live.version,
            "t_s": live.t_s,
            "ends_s": max([live.t_s, *(action.at_s for action in live.ahead)]),
            "rate": live.rate,
            "loads": [part.id for part in build.parts_of_kind("load")],
            "wires": list(build.wires),
            "fuses": [part.id for part in build.parts_of_kind("fuse")],
            "by_hand": list(moment.switches),
            "senders": moment.senders,
            "values_by_hand": list(moment.values),
            "lost": sorted(moment.lost),
            "faults": [
                {
                    "id": "" if fault.blind else fault.id,
                    "words": "somewhere in the car" if fault.blind else said(build, fault),
                    "blind": fault.blind,
                }
                for fault in moment.faults.values()
            ],
            "meters": {name: meter.as_row() for name, meter in moment.meters.items()},
            "guesses": plain(live.guesses),
            "kept": [
                {
                    "id": row.pk,
                    "name": row.name,
                    "ends_s": row.at_s,
                    "actions": row.actions.count(),
                }
                for row in kept
            ],
            "can_be_lost": [
                {"id": identity, "name": name, "kind": kind}
                for identity, name, kind in can_be_lost(build)
            ],
            "values": [
                {
                    "name": name,
                    "said": SPOKEN_VALUES[name].capitalize(),
                    "unit": UNITS[name],
                    "usual": VALUES[name],
                    "most": MOST[name],
                }
                for name in VALUES
                if name in (*values_felt(build), "engine_rpm", "coolant_c")
            ],
            "frame": plain(frame),
            "tape": live.tell(),
            "told": len(live.bench.tape),
        }


@router.post("/builds/{build_id}/bench/do", response=SESSION)
def do(request: HttpRequest, build_id: schemas.RowId, body: schemas.DoRequest) -> Any:
    """Turn the key, work switches, pull fuses, put in faults, put on meters: now."""
    live = _live(build_id)
    with live.lock:
        live.do(body.actions)
        return _session(live)


@router.post("/builds/{build_id}/bench/time", response=SESSION)
def pass_time(request: HttpRequest, build_id: schemas.RowId, body: schemas.TimeRequest) -> Any:
    """Let time run, slowly or fast, stand still, take a step, or go to an event."""
    live = _live(build_id)
    with live.lock:
        live.look()
        if body.rate is not None:
            live.rate = body.rate
            live.version += 1
        if body.step_s is not None:
            live.step(body.step_s)
        if body.to_s is not None:
            live.go_to(body.to_s)
        live.save()
        return _session(live)


@router.post("/builds/{build_id}/bench/clear", response=SESSION)
def clear(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Begin anew: everything off, mended and cold."""
    live = _live(build_id)
    with live.lock:
        live.clear()
        return _session(live)


@router.get("/builds/{build_id}/bench/script", response={200: schemas.ScriptView, **REFUSALS})
def script(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """What has been done, as a script."""
    live = _live(build_id)
    with live.lock:
        return {"actions": as_rows(live.done), "ends_s": live.t_s}


@router.post("/builds/{build_id}/bench/script", response=SESSION)
def play(request: HttpRequest, build_id: schemas.RowId, body: schemas.ScriptRequest) -> Any:
    """Begin anew and play a script as time runs on."""
    live = _live(build_id)
    with live.lock:
        live.play(body.actions, body.ends_s)
        return _session(live)


@router.post("/builds/{build_id}/bench/keep", response=SESSION)
def keep(request: HttpRequest, build_id: schemas.RowId, body: schemas.KeepRequest) -> Any:
    """Keep what has been done under a name."""
    live = _live(build_id)
    with live.lock:
        live.keep(body.name.strip() or "unnamed")
        return _session(live)


@router.post("/builds/{build_id}/bench/open", response=SESSION)
def open_kept(request: HttpRequest, build_id: schemas.RowId, body: schemas.OpenRequest) -> Any:
    """Play a session that was kept, from the start; up to a time, and stand still there."""
    kept = get_object_or_404(models.BenchSession, pk=body.session, build_id=build_id)
    live = _live(build_id)
    with live.lock:
        live.play(list(kept.actions.values_list("row", flat=True)))
        if body.to_s is not None:
            live.go_to(min(body.to_s, max(kept.at_s, 0.0)))
        return _session(live)


@router.delete("/builds/{build_id}/bench/kept/{session_id}", response=SESSION)
def drop_kept(request: HttpRequest, build_id: schemas.RowId, session_id: schemas.RowId) -> Any:
    """Throw a session away that was kept."""
    kept = models.BenchSession.objects.exclude(name="")
    get_object_or_404(kept, pk=session_id, build_id=build_id).delete()
    return _session(_live(build_id))


@router.get(
    "/builds/{build_id}/bench/faults", response={200: list[schemas.FaultKindView], **REFUSALS}
)
def fault_kinds(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """What can go wrong in this car, and where."""
    build = _live(build_id).bench.build
    return [
        {
            "kind": kind,
            "words": row.words,
            "on": row.on,
            "takes_ohm": row.takes_ohm,
            "fits": [{"id": of, "name": name} for of, name in can_have(build, kind)],
        }
        for kind, row in KINDS.items()
    ]


@router.get(
    "/builds/{build_id}/bench/faults/others", response={200: list[schemas.ThingView], **REFUSALS}
)
def fault_others(request: HttpRequest, build_id: schemas.RowId, kind: str, of: str) -> Any:
    """What else a kind of fault on a wire or part takes; empty where it takes nothing."""
    build = _live(build_id).bench.build
    if kind not in KINDS:
        return []
    things = {**build.parts, **build.wires}

    def name(of: str) -> str:
        thing = things.get(of)
        return getattr(thing, "label", "") or getattr(thing, "name", "") or of

    return [{"id": other, "name": name(other)} for other in others_for(build, kind, of)]


@router.post("/builds/{build_id}/bench/deal", response=SESSION)
def deal_fault(request: HttpRequest, build_id: schemas.RowId, body: schemas.DealRequest) -> Any:
    """Put a fault into the car without saying where."""
    live = _live(build_id)
    with live.lock:
        seed = f"{random.SystemRandom().random()}"
        fault = deal(live.bench.build, body.hard, seed)
        live.do([{"do": "mend", "of": "all"}, {"do": "fault", "fault": fault.as_row()}])
        return _session(live)


@router.post("/builds/{build_id}/bench/guess", response=SESSION)
def guess(request: HttpRequest, build_id: schemas.RowId, body: schemas.GuessRequest) -> Any:
    """Say where the fault is that was dealt, or give up."""
    live = _live(build_id)
    with live.lock:
        live.guess(body.of)
        return _session(live)


@router.get("/builds/{build_id}/bench/stream", include_in_schema=False)
def stream(request: HttpRequest, build_id: schemas.RowId, every_s: float = LEAST_FRAME_S) -> Any:
    """Frames as server-sent events: the first whole, then what has changed since the one before."""
    get_object_or_404(models.Build, pk=build_id)
    frames = _frames(build_id, min(max(every_s, LEAST_FRAME_S), MOST_FRAME_S))
    response = StreamingHttpResponse(frames, content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["Content-Encoding"] = "identity"  # packed, frames would wait for each other
    return response


def _frames(build_id: schemas.RowId, every_s: float) -> Iterator[str]:
    yield "retry: 500\n\n"
    shown: dict[str, Any] = {}
    told, checked_s = -1, 0.0
    live = _live(build_id)
    began_s = time.monotonic()
    for _ in itertools.count():
        now_s = time.monotonic()
        if now_s - began_s > STREAM_S:
            return
        if now_s - checked_s > LOOKS_AT_BUILD_S:
            checked_s = now_s
            row = models.Build.objects.filter(pk=build_id).first()
            if row is None:
                return
            live = live_of(row)
        with live.lock:
            frame: dict[str, Any] = plain(live.look())
            events = live.bench.tape[told:] if 0 <= told <= len(live.bench.tape) else []
            told = len(live.bench.tape)
            news: dict[str, Any] = {
                "revision": live.revision,
                "version": live.version,
                "rate": live.rate,
                "told": told,
                "frame": {k: v for k, v in frame.items() if shown.get(k) != v},
            }
            if events:
                news["tape"] = plain(events)
        shown = frame
        yield f"data: {json.dumps(news, ensure_ascii=False, separators=(',', ':'))}\n\n"
        time.sleep(max(every_s - (time.monotonic() - now_s), 0.005))


@router.get(
    "/builds/{build_id}/bench/fall-lines",
    response={200: list[schemas.FallLineView], **REFUSALS},
)
def live_fall_lines(request: HttpRequest, build_id: schemas.RowId, circuit: str) -> Any:
    """The fall line of each load of a circuit that has a way, as it is now."""
    live = _live(build_id)
    with live.lock:
        live.look()
        bench = live.bench
        solution, build = bench.solution(), bench.build
    positions = positions_in(build, solution)
    lines = []
    for load in build.loads_of(circuit):
        path = paths_of(build).to_load(load, positions)
        if path is not None:
            line = fall_line(build, solution, load, path)
            lines.append(_view(line, in_words(build, solution.state), None, "", []))
    return lines


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/fall-lines",
    response={200: list[schemas.FallLineView], 404: schemas.Problem},
)
def design_fall_lines(
    request: HttpRequest, build_id: schemas.RowId, circuit_id: str, road: str | None = None
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


def _view(
    line: FallLine, when: str, limit_v: float | None, road: str, roads: list[str]
) -> Mapping[str, Any]:
    stated = {"when": when, "limit_v": limit_v, "road": road, "roads": roads}
    return {**plain(line), **stated, "worst": line.worst}
