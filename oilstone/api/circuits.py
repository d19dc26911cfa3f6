"""Circuits: recipes, truth tables, schematics, feeds and grounds, and finding things."""

from typing import Any

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router

from circuitry.catalogue import catalogue
from circuitry.design.colours import LETTERS, PALETTE, POLICIES
from circuitry.design.model import PIN_FUNCTIONS, Build
from circuitry.devices import DEVICES
from circuitry.document.search import search
from circuitry.drawing import LEVELS, Schematic, as_svg, overview, schematic
from circuitry.errors import UnusableInput
from circuitry.plain import plain
from circuitry.printing import sheet
from circuitry.reach.truth import truth_table
from circuitry.recipes.ask import suiting
from circuitry.recipes.book import ABOUT_MODULES, RECIPES, recipe_named
from circuitry.recipes.figures import figures_of_kinds
from circuitry.recipes.points import SWITCHED
from circuitry.recipes.recipe import Recipe, usual_answers
from circuitry.recipes.sample import sample
from circuitry.recipes.taken import Taken, taken_over
from circuitry.sizing.channels import Modules, Tried, modules, try_condition
from circuitry.sizing.feeds import feeds
from circuitry.sizing.rules import rules
from circuitry.sizing.time_current import time_current
from circuitry.sizing.wire_heat import wire_heat
from circuitry.stock.changeover import ChangeOver, change_over
from oilstone.api import schemas
from oilstone.api.answers import json_answer
from oilstone.builds import models
from oilstone.builds.results import build_at, network_at, sizing_at

router = Router(tags=["circuits"])
KIND_FIELDS = ("kind", "added_by_hand", "is_shared", "row_changes", "points", "has_usual")
REFUSALS = {404: schemas.Problem, 422: schemas.Problem}


@router.get("/builds/{build_id}/recipes", response={200: list[schemas.RecipeView], **REFUSALS})
def list_recipes(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Every recipe with what it asks, and what it takes for granted in this build."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    return json_answer([_recipe(build, recipe) for recipe in RECIPES.values()])


@router.get(
    "/builds/{build_id}/functions-elsewhere",
    response={200: list[schemas.FunctionsElsewhere], **REFUSALS},
)
def functions_elsewhere(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The functions that were written in the other builds."""
    here = get_object_or_404(models.Build, pk=build_id)
    rows = models.Circuit.objects.exclude(build=here).filter(build__deleted=None)
    found: dict[int, Any] = {}
    for row in rows.exclude(written=None).select_related("build").order_by("build", "position"):
        mine = {"build": row.build_id, "name": row.build.name, "circuits": []}
        circuits = found.setdefault(row.build_id, mine)["circuits"]
        circuits.append({"id": row.identity, "name": row.name})
    return list(found.values())


@router.get(
    "/builds/{build_id}/functions-elsewhere/{other_id}/{circuit_id}",
    response={200: Taken, **REFUSALS},
)
def function_elsewhere(
    request: HttpRequest, build_id: schemas.RowId, other_id: schemas.RowId, circuit_id: str
) -> Any:
    """What to ask a recipe for to have a function of another build in this one."""
    builds = (build_at(get_object_or_404(models.Build, pk=pk)) for pk in (build_id, other_id))
    return plain(taken_over(*builds, circuit_id))


@router.get("/recipes/{recipe_id}/schematic", response={200: schemas.SchematicView, **REFUSALS})
def recipe_schematic(request: HttpRequest, recipe_id: str) -> Any:
    """A recipe's own small schematic, as it comes out in a car that has nothing else."""
    return plain(schematic(*sample(recipe_named(recipe_id).id)))


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/schematic",
    response={200: schemas.SchematicView, **REFUSALS},
)
def circuit_schematic(request: HttpRequest, build_id: schemas.RowId, circuit_id: str) -> Any:
    """The schematic of a circuit of the sized build."""
    build = sizing_at(get_object_or_404(models.Build, pk=build_id)).build
    _known(build.circuits, circuit_id)
    return json_answer(plain(schematic(build, circuit_id)))


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/schematic.svg",
    response={200: str, **REFUSALS},
)
def circuit_drawing(request: HttpRequest, build_id: schemas.RowId, circuit_id: str) -> HttpResponse:
    """The schematic of a circuit as an SVG file to keep."""
    build = sizing_at(get_object_or_404(models.Build, pk=build_id)).build
    _known(build.circuits, circuit_id)
    return _svg(schematic(build, circuit_id), build.circuits[circuit_id].name, circuit_id)


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/schematic.pdf",
    response={200: bytes, **REFUSALS},
)
def circuit_sheet(
    request: HttpRequest, build_id: schemas.RowId, circuit_id: str, paper: str = "A4"
) -> HttpResponse:
    """The schematic of a circuit as a PDF of one sheet."""
    row = get_object_or_404(models.Build, pk=build_id)
    build = sizing_at(row).build
    _known(build.circuits, circuit_id)
    title = f"{row.name}: {build.circuits[circuit_id].name}"
    return _pdf(schematic(build, circuit_id), title, circuit_id, paper)


def _svg(drawing: Schematic, title: str, file: str) -> HttpResponse:
    response = HttpResponse(as_svg(drawing, title), content_type="image/svg+xml")
    response["Content-Disposition"] = f'attachment; filename="{file}.svg"'
    return response


def _pdf(drawing: Schematic, title: str, file: str, paper: str) -> HttpResponse:
    response = HttpResponse(sheet(drawing, title, paper), content_type="application/pdf")
    response["Content-Disposition"] = f'attachment; filename="{file}.pdf"'
    return response


@router.get("/builds/{build_id}/overview", response={200: schemas.SchematicView, **REFUSALS})
def read_overview(
    request: HttpRequest, build_id: schemas.RowId, level: str = LEVELS[-1], turned: str = ""
) -> Any:
    """The whole car on one sheet, unfolded to feeds, fuses, functions or loads; ``turned`` are the
    branches that are not as that says, one to a line."""
    return json_answer(plain(_overview(build_id, level, turned)[1]))


@router.get("/builds/{build_id}/overview.svg", response={200: str, **REFUSALS})
def overview_drawing(
    request: HttpRequest, build_id: schemas.RowId, level: str = LEVELS[-1], turned: str = ""
) -> HttpResponse:
    """The whole car on one sheet, as an SVG file to keep."""
    row, drawing = _overview(build_id, level, turned)
    return _svg(drawing, row.name, "overview")


@router.get("/builds/{build_id}/overview.pdf", response={200: bytes, **REFUSALS})
def overview_sheet(
    request: HttpRequest,
    build_id: schemas.RowId,
    level: str = LEVELS[-1],
    turned: str = "",
    paper: str = "A3",
) -> HttpResponse:
    """The whole car on one sheet of paper."""
    row, drawing = _overview(build_id, level, turned)
    return _pdf(drawing, f"{row.name}: overview", "overview", paper)


def _overview(build_id: schemas.RowId, level: str, turned: str) -> tuple[models.Build, Schematic]:
    row = get_object_or_404(models.Build, pk=build_id)
    if level not in LEVELS:
        raise UnusableInput(
            "unknown-level", level, f"It unfolds to {', '.join(LEVELS)}, not to “{level}”."
        )
    return row, overview(sizing_at(row), level, set(filter(None, turned.split("\n"))))


@router.get(
    "/builds/{build_id}/circuits/{circuit_id}/truth",
    response={200: schemas.TruthTableView, **REFUSALS},
)
def circuit_truth(
    request: HttpRequest, build_id: schemas.RowId, circuit_id: str, vary: str | None = None
) -> Any:
    """What lives in which positions; ``vary`` names the switches to move, by commas."""
    row = get_object_or_404(models.Build, pk=build_id)
    network = network_at(row)
    _known(network.build.circuits, circuit_id)
    loads = tuple(network.build.loads_of(circuit_id))
    moved = None if vary is None else tuple(filter(None, vary.split(",")))
    return plain(truth_table(network, loads, moved))


@router.get("/builds/{build_id}/feeds", response={200: schemas.FeedsView, **REFUSALS})
def read_feeds(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The supply tree and the ground points, with their sums by key position."""
    return json_answer(plain(feeds(sizing_at(get_object_or_404(models.Build, pk=build_id)))))


@router.get("/builds/{build_id}/modules", response={200: Modules, **REFUSALS})
def read_modules(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """Modules, keypads and data buses, and what is dead when one of them is lost."""
    return json_answer(plain(modules(sizing_at(get_object_or_404(models.Build, pk=build_id)))))


@router.get("/builds/{build_id}/change-over", response={200: ChangeOver, **REFUSALS})
def read_change_over(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """The steps from the old box to the modules, after each of which the car runs."""
    return json_answer(plain(change_over(build_at(get_object_or_404(models.Build, pk=build_id)))))


@router.post("/builds/{build_id}/conditions", response={200: Tried, **REFUSALS})
def look_at_condition(
    request: HttpRequest, build_id: schemas.RowId, body: schemas.ConditionRequest
) -> Any:
    """A condition in words, with its table and what is wrong with it; nothing is saved."""
    build = build_at(get_object_or_404(models.Build, pk=build_id))
    return json_answer(plain(try_condition(build, body.part, body.when)))


@router.get("/builds/{build_id}/rules", response={200: schemas.RulesView, **REFUSALS})
def read_rules(request: HttpRequest, build_id: schemas.RowId) -> Any:
    """By what the build is sized: how much may be lost, road states, and the reels it needs."""
    return json_answer(rules(sizing_at(get_object_or_404(models.Build, pk=build_id))))


@router.get(
    "/builds/{build_id}/fuses/{fuse_id}/time-current",
    response={200: schemas.TimeCurrentView, **REFUSALS},
)
def read_time_current(request: HttpRequest, build_id: schemas.RowId, fuse_id: str) -> Any:
    """How long a fuse takes to part at each current, and how long what is behind it bears that."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    return json_answer(time_current(sizing, fuse_id))


@router.get(
    "/builds/{build_id}/wires/{wire_id}/heat", response={200: schemas.WireHeatView, **REFUSALS}
)
def read_wire_heat(
    request: HttpRequest, build_id: schemas.RowId, wire_id: str, amps: float | None = None
) -> Any:
    """How warm a wire gets along its way, and in time when this current goes on."""
    sizing = sizing_at(get_object_or_404(models.Build, pk=build_id))
    return json_answer(wire_heat(sizing, wire_id, amps))


@router.get("/builds/{build_id}/search", response={200: list[schemas.FoundView], **REFUSALS})
def search_build(request: HttpRequest, build_id: schemas.RowId, text: str) -> Any:
    """Places, parts, terminals, wires and circuits that hold every word."""
    return plain(search(build_at(get_object_or_404(models.Build, pk=build_id)), text[:100]))


@router.get("/catalogue/help", response=schemas.HelpView)
def read_help(request: HttpRequest) -> Any:
    """What to know at each stage, and the words of the trade."""
    return plain({"stages": catalogue().help, "words": catalogue().words})


@router.get("/catalogue/parts", response=schemas.PartsCatalogue)
def parts_catalogue(request: HttpRequest) -> Any:
    """What can be chosen for parts by hand: the rows of each kind, colours, functions of pins."""
    tables = catalogue()
    return {
        "kinds": [
            {
                **{name: getattr(device, name) for name in KIND_FIELDS},
                "is_put_into_wires": device.put_into is not None,
                "choices": device.choices(),
            }
            for device in DEVICES.values()
        ],
        "colours": dict(LETTERS),
        "palette": dict(PALETTE),
        "colour_policies": list(POLICIES),
        "pin_functions": list(PIN_FUNCTIONS),
        "switched_functions": list(SWITCHED),
        "figures": plain(figures_of_kinds()),
        "conductors": {
            system: [row.name for row in rows] for system, rows in tables.conductors.items()
        },
    }


def _recipe(build: Build, recipe: Recipe) -> dict[str, Any]:
    usual, has_modules = usual_answers(build, recipe), bool(build.parts_of_kind("module"))
    questions = [
        {
            **plain(row),
            "usual": usual[row.name],
            "suits": [part.id for part in suiting(build, row)],
        }
        for row in recipe.questions
        if has_modules or row not in ABOUT_MODULES
    ]
    names = ("id", "title", "group", "summary", "caution", "wrong")
    return {**{name: getattr(recipe, name) for name in names}, "questions": questions}


def _known(circuits: Any, circuit_id: str) -> None:
    if circuit_id not in circuits:
        raise UnusableInput(
            "unknown-circuit", circuit_id, f"The build has no circuit “{circuit_id}”."
        )
