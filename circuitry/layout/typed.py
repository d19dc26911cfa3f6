"""Runs as they are typed: lengths with units, places by name."""

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from circuitry import quantities
from circuitry.design.model import Build, Run, Runs
from circuitry.design.routes import drawn_m
from circuitry.errors import UnusableInput
from circuitry.quantities import NotUnderstood

GUESS = 1.15
SHORTEST_M = 0.1
COVERS = ("none", "tape", "split tube", "convoluted tube", "shrink sleeve", "braid")
HAZARDS = ("hot part", "moving hinge", "edge", "bulkhead", "wheel", "fuel line")
FITS = ("none", "grommet", "connector")


def set_run(build: Build, run_id: str | None, cells: Mapping[str, str]) -> Build:
    """The build with these cells of a run set; ``run_id`` None adds a run.

    Cells are from, to, length, cover, passes, hole, hole_fit and fixings. A length that is typed
    counts as measured; without one a new run takes a guess from the plan. Raises UnusableInput.
    """
    if run_id is not None and run_id not in build.runs:
        raise UnusableInput("unknown-run", run_id, f"The build has no run “{run_id}” any more.")
    run = build.runs[run_id] if run_id else _new(build, cells)
    for name, text in cells.items():
        if name in ("from", "to"):
            if run_id:
                end: dict[str, Any] = {f"{name}_place": _place(build, name, text)}
                run = replace(run, **end)
            continue
        if name not in READ:
            raise UnusableInput("bad-field", run.id, f"A run has no “{name}”.")
        try:
            run = replace(run, **READ[name](text.strip()))
        except NotUnderstood as problem:
            raise UnusableInput(
                "bad-cell", run.id, f"{name} “{text.strip()}”: {problem}."
            ) from None
    return replace(build, runs=Runs({**build.runs, run.id: run}))


def _new(build: Build, cells: Mapping[str, str]) -> Run:
    ends = [_place(build, name, cells.get(name, "")) for name in ("from", "to")]
    first, last = (build.places[place] for place in ends)
    guess_m = max(round(GUESS * drawn_m(first, last), 2), SHORTEST_M)
    stem = f"{first.id}-to-{last.id}"[:60]
    taken = build.runs.keys()
    identity = next(
        name for name in (stem, *(f"{stem}-{n}" for n in range(2, 99))) if name not in taken
    )
    return Run(identity, first.id, last.id, guess_m, measured=False)


def _place(build: Build, name: str, text: str) -> str:
    tidy = text.strip().lower()
    for place in build.places.values():
        if tidy in (place.id, place.name.lower()):
            return place.id
    raise UnusableInput("unknown-place", name, f"“{text}” is no place here. Choose one for {name}.")


def _length(text: str) -> Mapping[str, Any]:
    return {"length_m": quantities.length_m(text), "measured": True}


def _hole(text: str) -> Mapping[str, Any]:
    if not text:
        return {"hole_mm": None}
    return {"hole_mm": 1000 * quantities.length_m(text, "mm")}


def _fixings(text: str) -> Mapping[str, Any]:
    return {"fixings_mm": 1000 * quantities.length_m(text or "250 mm", "mm")}


def _cover(text: str) -> Mapping[str, Any]:
    return {"cover": _one_of(text or "none", COVERS)}


def _hole_fit(text: str) -> Mapping[str, Any]:
    return {"hole_fit": _one_of(text or "none", FITS)}


def _passes(text: str) -> Mapping[str, Any]:
    named = [word.strip().lower() for word in text.split(",") if word.strip()]
    return {"passes": tuple(dict.fromkeys(_one_of(word, HAZARDS) for word in named))}


def _one_of(text: str, allowed: tuple[str, ...]) -> str:
    if text.lower() not in allowed:
        raise NotUnderstood(f"one of {', '.join(allowed)}")
    return text.lower()


READ: Mapping[str, Callable[[str], Mapping[str, Any]]] = {
    "length": _length,
    "cover": _cover,
    "passes": _passes,
    "hole": _hole,
    "hole_fit": _hole_fit,
    "fixings": _fixings,
}
