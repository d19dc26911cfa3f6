"""Power up: the proof of a car step by step, the car as it stands, and the record of what was read
and seen."""

from collections import Counter
from collections.abc import Collection, Iterable, Mapping
from datetime import datetime, timedelta
from itertools import pairwise
from types import MappingProxyType
from typing import Any

from django.db import IntegrityError, transaction
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.utils import timezone
from ninja import Router

from circuitry.budget import budget
from circuitry.design.logic import VALUES
from circuitry.edits import apply_operations
from circuitry.errors import UnusableInput
from circuitry.network import Network
from circuitry.plain import plain
from circuitry.printing import proof_sheet
from circuitry.proving import (
    SECTIONS,
    SEEN_AMISS,
    Band,
    Plan,
    Step,
    Today,
    battery_at_rest,
    called,
    changed_since,
    expected_of,
    facts_of,
    judged,
    token,
)
from circuitry.proving.record import Expected
from circuitry.stock.changeover import change_steps
from circuitry.workshop.evening import as_they_are, evening
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.builds import history, models
from oilstone.builds.results import budget_at, build_at, plan_at, sized, sizing_at, steps_at

router = Router(tags=["proofs"])
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}
AHEAD, BEHIND = timedelta(minutes=5), timedelta(days=3)
"""How far a phone's clock, or what waited on it, may be off; beyond that the time is ours."""
MEANWHILE = (
    "The build was changed between looking and measuring: other readings are to be expected."
)
OLDER = "Kept before proofs were written step by step."


@router.get("/builds/{build_id}/plan", response={200: schemas.PlanView, **REFUSALS})
def read_plan(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Every step of the proof, with what to expect of the car as it stands."""
    row = get_object_or_404(models.Build, pk=build_id)
    today = today_of(row)
    plan = plan_at(row, as_core(today))
    changes = change_steps(build_at(row))
    return json_answer(
        {
            "revision": row.revision,
            "sections": [{"id": name, "title": title} for name, title in SECTIONS.items()],
            "amiss": SEEN_AMISS,
            "today": _today_view(today),
            "minutes": sum(step.minutes for step in plan.steps),
            "changes": list(dict.fromkeys(changes.values())),
            "steps": [_step_view(row, plan, step, changes) for step in plan.steps],
        }
    )


def _step_view(
    row: models.Build, plan: Plan, step: Step, changes: Mapping[str, str]
) -> Mapping[str, Any]:
    build = build_at(row)
    circuit = build.circuits.get(step.circuit or "")
    at = dict(step.situation.at) if step.situation else {}
    return {
        "id": step.id,
        "section": step.section,
        "circuit": step.circuit,
        "circuit_name": circuit.name if circuit else "",
        "stage": step.stage,
        "change": changes.get(step.circuit or "", ""),
        "title": step.title,
        "how": step.how,
        "place": step.place,
        "cautions": step.cautions,
        "goes_in": step.goes_in,
        "stays_out": step.stays_out,
        "operate": [{**plain(one), "said": one.said} for one in step.operate],
        "looks": [plain(look) for look in step.looks],
        "readings": [
            {
                "id": reading.id,
                "name": reading.name,
                "where": reading.where,
                "unit": reading.unit,
                "expected": reading.band.expected,
                "low": reading.band.low,
                "high": reading.band.high,
                "too_low": reading.low,
                "too_high": reading.high,
                "tells": reading.tells,
                "waits": reading.waits,
                "red": plain(reading.probe.red),
                "black": plain(reading.probe.black),
                "wire": reading.probe.wire,
            }
            for reading in step.readings
        ],
        "waits_for": called(build, step.waits_for),
        "minutes": step.minutes,
        "token": token(step, plan.facts),
        "key": step.situation.key if step.situation else None,
        "switches": {name: position for name, position in at.items() if name not in VALUES},
        "values": {name: float(value) for name, value in at.items() if name in VALUES},
    }


def today_of(row: models.Build) -> models.CarToday:
    """The car as it stands; as if nothing were known where nothing was said."""
    kept = models.CarToday.objects.filter(build=row).first()
    return kept or models.CarToday(build=row)


def as_core(today: models.CarToday) -> Today:
    """The same for the core."""
    jumpers = frozenset((part, position) for part, position in today.jumpers.items())
    return Today(today.battery_v, frozenset(today.missing), jumpers)


def _today_view(today: models.CarToday) -> Mapping[str, Any]:
    return {
        "battery_v": today.battery_v,
        "battery_at": today.battery_at,
        "missing": today.missing,
        "jumpers": [
            {"part": part, "position": position} for part, position in today.jumpers.items()
        ],
    }


@router.put("/builds/{build_id}/today", response={200: schemas.TodayView, **REFUSALS})
def put_today(request: HttpRequest, build_id: schemas.RowId, body: schemas.TodayRequest) -> Any:
    """Say how the car stands: its battery as measured, what is not there yet, what is jumpered."""
    row = get_object_or_404(models.Build, pk=build_id)
    build = build_at(row)
    volts = battery_at_rest(body.battery) if body.battery else None
    missing = body.missing or []
    jumpers = {jumper.part: jumper.position for jumper in body.jumpers or []}
    for name in (*missing, *jumpers):
        if name not in build.parts:
            raise UnusableInput("unknown-id", name, f"The build has no part “{name}” any more.")
    for name, position in jumpers.items():
        contacts = build.parts[name].contacts
        if contacts is None or contacts.position(position) is None:
            raise UnusableInput(
                "no-such-position",
                name,
                f"{build.parts[name].name} has no position “{position}” that a jumper can stand "
                "in for.",
            )
    with transaction.atomic():
        today = models.CarToday.objects.get_or_create(build=row)[0]
        if body.battery is not None:
            today.battery_v, today.battery_at = volts, timezone.now() if volts else None
        if body.missing is not None:
            today.missing = sorted(set(missing))
        if body.jumpers is not None:
            today.jumpers = jumpers
        today.save()
    return _today_view(today)


@router.post("/builds/{build_id}/proofs", response={201: schemas.ProofView, **REFUSALS})
def record_proof(request: HttpRequest, build_id: schemas.RowId, body: schemas.ProofRequest) -> Any:
    """Keep what was read and seen at a step, with what was to be expected, the time and the
    verdict; what is sent again is kept once."""
    row = get_object_or_404(models.Build, pk=build_id)
    known = models.Proof.objects.filter(build=row, mark=body.mark).first()
    if known is None:
        try:
            known = _recorded(row, body)
        except IntegrityError:  # sent twice at once
            known = models.Proof.objects.get(build=row, mark=body.mark)
    return 201, _proof_view(known, _Again(row, [known]))


def _recorded(row: models.Build, body: schemas.ProofRequest) -> models.Proof:
    plan = plan_at(row, as_core(today_of(row)))
    step = next((step for step in plan.steps if step.id == body.step), None)
    same = step is not None and token(step, plan.facts) == body.token
    if step is not None and same:
        expected = expected_of(step)
        facts = {name: plan.facts[name] for name in step.relies_on if name in plan.facts}
    else:  # it was another when it was looked at: judged by what the sheet said then
        expected = {
            name: Expected(band.name, band.unit, Band(band.expected, band.low, band.high))
            for name, band in body.bands.items()
        }
        facts = {MEANWHILE: "otherwise"}
    rights = {look.id: look for look in step.looks} if step else {}
    looks = [
        {
            "id": name,
            "name": rights[name].name if name in rights else name,
            "right": rights[name].right if name in rights else "",
            "seen": seen,
        }
        for name, seen in body.looks.items()
    ]
    now = timezone.now()
    near = body.said_at and now - BEHIND <= body.said_at <= now + AHEAD
    said_at = body.said_at if near else None
    with transaction.atomic():
        return models.Proof.objects.create(
            build=row,
            step=body.step,
            title=step.title[:300] if step else body.title,
            circuit=(step.circuit or "") if step else "",
            revision=row.revision,
            passed=body.passed,
            note=body.note,
            who=body.who,
            readings=plain(judged(expected, body.readings)),
            looks=looks,
            facts=facts,
            mark=body.mark,
            said_at=said_at,
        )


@router.get("/builds/{build_id}/proofs", response={200: schemas.ProofStates, **REFUSALS})
def proof_states(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The newest proof of each step that has one, and why it is to be done again."""
    row = get_object_or_404(models.Build, pk=build_id)
    newest, count, again = _newest(row)
    return {
        "steps": steps_at(row),
        "states": [
            {
                "step": proof.step,
                "title": proof.title or proof.circuit,
                "circuit": proof.circuit,
                "passed": proof.passed,
                "at": _said(proof),
                "who": proof.who,
                "again": again.why(proof),
                "kept": count[proof.pk],
            }
            for proof in newest
        ],
    }


def _newest(row: models.Build) -> "tuple[Collection[models.Proof], Counter[int], _Again]":
    """The newest proof of each step, how many there are of it, and why it is to be done again."""
    fields = ("id", "step", "title", "circuit", "passed", "at", "said_at", "who", "facts")
    kept = models.Proof.objects.filter(build=row).only(*fields, "revision", "build_id")
    newest: dict[str, models.Proof] = {}
    before: dict[int, models.Proof] = {}
    count: Counter[int] = Counter()
    for proof in sorted(kept, key=_said, reverse=True):
        first = newest.setdefault(proof.step or f"circuit/{proof.circuit}", proof)
        count[first.pk] += 1
        if first is not proof:
            before.setdefault(first.pk, proof)
    return newest.values(), count, _Again(row, newest.values(), before)


@router.get("/builds/{build_id}/proofs/sheet", response={200: bytes, **REFUSALS})
def print_sheet(
    request: HttpRequest,
    build_id: schemas.RowId,
    circuit: str = "",
    stage: int = 0,
    change: str = "",
    left: bool = False,
    paper: str = "A4",
) -> Any:
    """The sheet to fill in beside the car, as PDF: of the whole car, a circuit, a stage, a step
    of the change-over to modules, or what is left of it."""
    row = get_object_or_404(models.Build, pk=build_id)
    plan = plan_at(row, as_core(today_of(row)))
    done: set[str] = set()
    if left:
        newest, _, again = _newest(row)
        done = {proof.step for proof in newest if proof.passed and not again.why(proof)}
    changes = change_steps(build_at(row)) if change else {}
    steps = {
        step.id
        for step in plan.steps
        if (not circuit or step.circuit == circuit)
        and (not stage or step.stage == stage)
        and (not change or changes.get(step.circuit or "") == change)
        and step.id not in done
    }
    about = f"{row.name}, revision {row.revision}, {timezone.localdate():%d %B %Y}"
    response = HttpResponse(proof_sheet(plan, about, steps, paper), content_type="application/pdf")
    response["Content-Disposition"] = 'inline; filename="sheet-of-proof.pdf"'
    return response


@router.get("/builds/{build_id}/proofs/record", response={200: list[schemas.ProofView], **REFUSALS})
def proof_record(
    request: HttpRequest, build_id: schemas.RowId, step: str, circuit: str = ""
) -> Any:
    """Every proof kept of a step, the newest first, and those of its circuit from before steps."""
    row = get_object_or_404(models.Build, pk=build_id)
    kept = list(models.Proof.objects.filter(build=row, step=step))
    if circuit:
        kept += models.Proof.objects.filter(build=row, step="", circuit=circuit)
    kept.sort(key=_said, reverse=True)
    again = _Again(row, kept, {newer.pk: older for newer, older in pairwise(kept)})
    return [_proof_view(proof, again) for proof in kept]


def _said(proof: models.Proof) -> datetime:
    """When whoever measured said so; on a phone out of reach that is before it is known here."""
    return proof.said_at or proof.at


@router.post(
    "/builds/{build_id}/evening",
    response={200: schemas.WhatItTakes, 409: schemas.Conflict, **REFUSALS},
)
def look_at_evening(
    request: HttpRequest, build_id: schemas.RowId, body: schemas.EditRequest
) -> Any:
    """What an edit asks of an evening on a finished car, and which of its proofs it touches."""
    row = get_object_or_404(models.Build, pk=build_id)
    before = history.build_at_base(build_id, body.base)
    sizing, after = sizing_at(row), sized(apply_operations(before, body.operations))
    took = evening(sizing, after, budget_at(row), budget(after, Network(after.build)))
    pins = as_they_are(sizing.build, after.build)
    brought = []
    if pins:
        kept = sized(apply_operations(before, [*pins, *body.operations]))
        known = {found.title for found in after.findings}
        brought = [found.title for found in kept.findings if found.title not in known]
    now, then = facts_of(sizing.build), facts_of(after.build)
    stand = [
        proof
        for proof in _newest(row)[0]
        if proof.step and proof.passed and not changed_since(proof.facts, now)
    ]
    again = [proof.title for proof in stand if changed_since(proof.facts, then)]
    return json_answer(
        {
            "evening": plain(took),
            "again": again,
            "proved": len(stand),
            "pins": pins,
            "brought": brought,
        }
    )


class _Again:
    """Why proofs have to be done again: what each relied on, against the build as it is."""

    def __init__(
        self,
        row: models.Build,
        proofs: Iterable[models.Proof],
        before: Mapping[int, models.Proof] = MappingProxyType({}),
    ) -> None:
        """``before`` is the proof said before each, of those that have one."""
        self._before = before
        self._build = sizing_at(row).build
        self._now = facts_of(self._build)
        self._changed = {
            proof.pk: changed_since(proof.facts, self._now) for proof in proofs if proof.step
        }
        changed = any(self._changed.values())
        self._edits = list(row.edits.values_list("revision", "label", "changes")) if changed else []

    def why(self, proof: models.Proof) -> str:
        """The reason, empty where it stands."""
        if not proof.step:
            return OLDER
        changed = self._changed[proof.pk]
        if not changed:
            return self._contradicted(proof)
        if MEANWHILE in changed:
            return MEANWHILE
        names = called(self._build, changed)
        what = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        labels = [
            label
            for revision, label, changes in self._edits
            if revision > proof.revision and {row["id"] for row in changes} & set(changed)
        ]
        since = f" (“{labels[-1]}”)" if labels else ""
        return f"Changed since: {what}{since}."

    def _contradicted(self, proof: models.Proof) -> str:
        """Whether somebody who had not seen the proof before it said otherwise."""
        before = self._before.get(proof.pk)
        if (
            before is None
            or before.passed == proof.passed
            or before.step != proof.step
            or before.at <= _said(proof)
        ):
            return ""
        said = {True: "passed", False: "not right"}
        one, other = (row.who or "somebody" for row in (proof, before))
        return (
            f"{one} said {said[proof.passed]} and {other} said {said[before.passed]}, neither "
            "having seen the other's: measure it once more together."
        )


def _proof_view(proof: models.Proof, again: _Again) -> Mapping[str, Any]:
    return {
        "id": proof.pk,
        "step": proof.step,
        "title": proof.title or proof.circuit,
        "circuit": proof.circuit,
        "at": _said(proof),
        "revision": proof.revision,
        "passed": proof.passed,
        "note": proof.note,
        "who": proof.who,
        "readings": proof.readings,
        "looks": proof.looks,
        "again": again.why(proof),
    }
