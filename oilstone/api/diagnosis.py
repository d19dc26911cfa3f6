"""Find a fault: from what was seen and measured to suspects and the next best test."""

from collections.abc import Collection, Iterator, Mapping
from typing import Any

from django.http import HttpRequest
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.design.model import Build
from circuitry.diagnosis import Finder, Measured, Observation, Seen, Test
from circuitry.diagnosis.seen import WORDS, WORKS
from circuitry.errors import UnusableInput
from circuitry.plain import plain
from circuitry.proving import Plan, Step, changed_since
from circuitry.proving.situation import Situation
from circuitry.quantities import NotUnderstood, meter_reading
from oilstone.api import schemas
from oilstone.api.proofs import as_core, today_of
from oilstone.builds import models
from oilstone.builds.results import plan_at, predictor_at, sizing_at

router = Router(tags=["diagnosis"])
TESTS, SUSPECTS = 4, 8
WITHOUT = ("works/crank/", "works/isolator/")


@router.post(
    "/builds/{build_id}/diagnosis",
    response={200: schemas.DiagnosisView, 404: schemas.Problem, 422: schemas.Problem},
)
def diagnose(request: HttpRequest, build_id: schemas.RowId, body: schemas.DiagnosisRequest) -> Any:
    """Suspects by how well they explain what is known, and the tests that tell most."""
    row = get_object_or_404(models.Build, pk=build_id)
    today = as_core(today_of(row))
    plan, build = plan_at(row, today), sizing_at(row).build
    steps = {step.id: step for step in plan.steps if _can_be_tried(step)}
    observed = [
        *(_by_proofs(row, plan, steps) if body.by_proofs else ()),
        *_seen(body, build, steps),
    ]
    situations: dict[Situation, str] = {}
    for step in steps.values():
        if step.situation is not None:
            situations.setdefault(step.situation, step.title)
    since, touched = _touched(row, [step.id for step, seen in observed if _is_amiss(seen)])
    predictor = predictor_at(row, today)
    with predictor.lock:
        found = _diagnosed(body, build, observed, Finder(predictor, situations, touched))
    return {**found, "since": since}


def _is_amiss(seen: Observation) -> bool:
    return isinstance(seen, Measured) or seen.word != WORKS


def _touched(row: models.Build, amiss: Collection[str]) -> tuple[str, set[str]]:
    """The last edit since what is amiss was last right, in words, and all that was changed since
    then; nothing where it never was."""
    right = models.Proof.objects.filter(build=row, step__in=amiss, passed=True)
    since = right.order_by("revision").values_list("revision", flat=True).last()
    if since is None:
        return "", set()
    edits = list(row.edits.filter(revision__gt=since).order_by("revision"))
    touched = {change["id"] for edit in edits for change in edit.changes}
    return (edits[-1].label if edits else ""), touched


@router.get(
    "/builds/{build_id}/faults",
    response={200: list[schemas.MendedFaultView], 404: schemas.Problem},
)
def read_faults(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The faults that were found and mended, the newest first."""
    return get_object_or_404(models.Build, pk=build_id).faults.all()


@router.post(
    "/builds/{build_id}/faults",
    response={201: schemas.MendedFaultView, 404: schemas.Problem, 422: schemas.Problem},
)
def keep_fault(
    request: HttpRequest, build_id: schemas.RowId, body: schemas.MendedFaultRequest
) -> Any:
    """Keep a fault that was found and mended; sent again, it is kept once."""
    row = get_object_or_404(models.Build, pk=build_id)
    fields = body.model_dump(exclude={"mark"})
    found, _ = models.MendedFault.objects.get_or_create(build=row, mark=body.mark, defaults=fields)
    return 201, found


def _diagnosed(
    body: schemas.DiagnosisRequest,
    build: Build,
    observed: list[tuple[Step, Observation]],
    finder: Finder,
) -> Mapping[str, Any]:
    """Where the search stands."""
    known = [seen for _, seen in observed]
    nothing = not any(map(_is_amiss, known))
    made: list[str] = []
    if not nothing:
        finder.observe(*known)
        made = [_make(finder, test) for test in body.tests]
        for name in body.not_it:
            finder.ruled_out(name)
    return {
        "nothing": nothing,
        "minutes": sum(finder.test(test.id).minutes for test in body.tests) if made else 0.0,
        "sure": not nothing and finder.is_sure(),
        "left": 0 if nothing else finder.left(),
        "observed": [_observed_view(build, step, seen) for step, seen in observed],
        "made": made,
        "suspects": []
        if nothing
        else [
            {
                "of": rank.of,
                "words": rank.words,
                "share": round(rank.share, 3),
                "circuit": _circuit(build, rank.of),
            }
            for rank in finder.ranked(SUSPECTS)
        ],
        "tests": []
        if nothing
        else [_test_view(finder, test) for test, _ in finder.best(TESTS, body.without)],
    }


def _can_be_tried(step: Step) -> bool:
    """Whether a step is a function that the finder can put the car in."""
    return (
        step.section == "functions"
        and step.situation is not None
        and bool(step.looks)
        and not step.id.startswith(WITHOUT)
        and not any(name == "engine_rpm" for name, _ in step.situation.at)
    )


def _seen(
    body: schemas.DiagnosisRequest, build: Build, steps: Mapping[str, Step]
) -> Iterator[tuple[Step, Observation]]:
    for one in body.seen:
        step = steps.get(one.step)
        if step is None or step.situation is None:
            raise UnusableInput(
                "no-such-step",
                one.step,
                "What you saw belongs to a step that is not in the plan any more. Take it out of "
                "the list, and say where you see it now.",
            )
        if one.load not in build.parts or build.parts[one.load].kind != "load":
            raise UnusableInput("unknown-id", one.load, "There is no such load in this car.")
        word = WORDS.get(one.word, one.word if one.word == WORKS else "")
        if word:
            yield step, Seen(step.situation, one.load, word)


def _by_proofs(
    row: models.Build, plan: Plan, steps: Mapping[str, Step]
) -> Iterator[tuple[Step, Observation]]:
    """What the newest proofs say, of steps whose facts are as they were then; what was amiss before
    the last fault was mended says nothing any more."""
    mended = row.faults.values_list("at", flat=True).first()
    newest: dict[str, models.Proof] = {}
    for proof in models.Proof.objects.filter(build=row).exclude(step=""):
        newest.setdefault(proof.step, proof)
    for name, proof in newest.items():
        step = steps.get(name)
        if step is None or step.situation is None or changed_since(proof.facts, plan.facts):
            continue
        if mended and not proof.passed and proof.at < mended:
            continue
        words = {look["id"]: look["seen"] for look in proof.looks}
        for look in step.looks:
            seen = words.get(look.id, "")
            word = WORDS.get(seen, "") if seen else WORKS
            told = proof.passed or any(
                words.values()
            )  # what is not said to be amiss was seen right
            if look.load and word and told:
                yield step, Seen(step.situation, look.load, word)
        probes = {reading.id: reading for reading in step.readings}
        for reading in proof.readings:
            asked = probes.get(reading["id"])
            if asked is not None and reading["verdict"] != "in band":
                yield step, Measured(step.situation, asked.probe, reading["value"])


def _make(finder: Finder, made: schemas.TestMade) -> str:
    """Take in a test that was made, and say it in words."""
    test = finder.test(made.id)
    if made.reading is not None:
        try:
            value = meter_reading(made.reading, "V")
        except NotUnderstood as problem:
            raise UnusableInput(
                "bad-reading",
                made.id,
                f"“{made.reading}” is no reading of this test. Type {problem}.",
            ) from problem
        finder.read(test, value)
        return f"{test.title}: {made.reading} V"
    if made.word is not None:
        finder.looked(test, made.word)
        return f"{test.title}: {_in_words(finder.build, made.word)}"
    finder.skip(test)
    return f"{test.title}: cannot be made now"


def _observed_view(build: Build, step: Step, seen: Observation) -> Mapping[str, Any]:
    if isinstance(seen, Seen):
        name, word, amiss = build.parts[seen.load].name, seen.word, seen.word != WORKS
    else:
        reading = next((row for row in step.readings if row.probe == seen.probe), None)
        name = reading.name if reading else "a reading"
        unit = seen.probe.unit
        word, amiss = "open" if seen.value is None else f"{seen.value:.2f} {unit}", True
    return {"step": step.id, "title": step.title, "name": name, "word": word, "amiss": amiss}


def _test_view(finder: Finder, test: Test) -> Mapping[str, Any]:
    return {
        "id": test.id,
        "kind": test.kind,
        "title": test.title,
        "how": test.how,
        "place": test.place,
        "minutes": round(test.minutes, 1),
        "cautions": test.cautions,
        "unit": test.probe.unit if test.probe else "",
        "outcomes": [
            {**plain(outcome), "said": _in_words(finder.build, outcome.words)}
            for outcome in finder.outcomes(test)
        ],
    }


def _circuit(build: Build, of: str) -> str | None:
    thing = build.wires.get(of) or build.parts.get(of)
    return thing.circuit if thing is not None else None


def _in_words(build: Build, word: str) -> str:
    """What was seen, with the thing by its name."""
    first, _, rest = word.partition(" ")
    thing = build.parts.get(first)
    if thing is not None:
        return f"{thing.name} {rest}"
    return f"{build.wires[first].label} {rest}" if first in build.wires else word
