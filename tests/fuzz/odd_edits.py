# ruff: noqa: E501 (a table of operations, one a line)
"""Edits as no screen would send them: right ones with odd values put in, by a seed."""

import copy
import random
from collections.abc import Iterator
from typing import Any

from circuitry.design.model import Build
from circuitry.devices import terminals_of
from circuitry.recipes.book import RECIPES

ODD: tuple[Any, ...] = (
    None,
    "",
    " ",
    "x" * 90,
    "bell \x07",
    "line\n",
    "half \ud800",
    "ghost",
    "battery",
    "panel",
    "rear",
    "dash",
    "<b>bold</b>",
    "=1+1",
    0,
    -1,
    3,
    2.5,
    1e50,
    float("nan"),
    float("inf"),
    10**400,
    True,
    [],
    {},
    [None],
    ["battery.+"],
    {"part": "battery"},
    {"part": None},
    {"row": "Horn"},
    {"row": "ghost", "place": "rear"},
    {"place": "rear", "name": ""},
    [{"part": "horn"}, {"part": "horn"}],
    {"name": {"name": {"name": 1}}},
)
CELLS = (
    "250 mm",
    "10 mm",
    "1e50",
    "1" + "0" * 50,
    "-3 A",
    "55 W",
    "2 m",
    "bell \x07",
    "",
    "nan",
    "yes",
)
CELL_NAMES = {
    "set_cells": (
        "name",
        "rating",
        "where",
        "note",
        "test_v",
        "inrush_x",
        "stall_a",
        "duty",
        "what",
    ),
    "set_run": ("from", "to", "length", "hole", "fixings", "cover", "passes", "hole_fit"),
    "set_harness": ("name", "size", "length", "fuse", "serves", "note"),
    "set_figures": ("rating_a", "rated_w", "resistance_ohm", "state_of_charge", "rated_a"),
}


def odd_edits(build: Build, draw: random.Random) -> Iterator[dict[str, Any]]:
    """Operations without end: each is right in its shape, with a third of its values odd."""
    while True:
        yield _spoiled(_operation(build, draw), draw)


def _operation(build: Build, draw: random.Random) -> dict[str, Any]:
    def one(things: Any) -> Any:
        return draw.choice(sorted(things))

    def terminal() -> str:
        parts = [part for part in build.parts.values() if terminals_of(part)]
        part = draw.choice(parts)
        return f"{part.id}.{draw.choice(terminals_of(part))}"

    def cells(name: str) -> dict[str, str]:
        names = CELL_NAMES[name]
        return {draw.choice(names): draw.choice(CELLS) for _ in range(draw.randint(1, 3))}

    loads = [part.id for part in build.parts_of_kind("load")]
    things = {
        name: getattr(build, name) for name in ("places", "runs", "parts", "wires", "circuits")
    }
    collection = draw.choice(list(things))
    wiring = {"key": draw.choice(("run", "always")), "through": "relay"}
    recipe = RECIPES[one(RECIPES)]
    panel = one(part.id for part in build.parts_of_kind("panel", "box", "connector"))
    kind = draw.choice(
        (
            "fuse",
            "relay",
            "switch",
            "stud",
            "box",
            "module",
            "panel",
            "connector",
            "flasher",
            "load",
        )
    )
    points = [{"name": draw.choice(("1", "2", "F1", "")), "function": "supply", "bus": "live"}]
    field = draw.choice(("name", "label", "note", "figures", "colour", "length_m", "kind", "ways"))
    answers = {
        row.name: draw.choice(ODD)
        for row in draw.sample(recipe.questions, min(1, len(recipe.questions)))
    }
    policy = {
        draw.choice(("fuse_headroom", "conductors", "end_extra_m", "joint")): draw.choice(ODD)
    }
    return copy.deepcopy(
        draw.choice(
            (
                {"op": "change", "collection": collection, "id": one(things[collection] or ("x",)),
                 "fields": {field: draw.choice(ODD)}},
                {"op": "change", "collection": "build", "id": "build", "fields": {"policy": policy}},
                {"op": "change", "collection": "build", "id": "build",
                 "fields": {draw.choice(("body", "name", "policy", "harness_from")): draw.choice(ODD)}},
                {"op": "change", "collection": "build", "id": "build",
                 "fields": {"body": {draw.choice(("length_m", "doors", "style")): draw.choice(ODD)}}},
                {"op": "remove", "collection": collection, "id": one(things[collection] or ("x",))},
                {"op": "add_load", "name": "Lamp", "catalogue": "Horn", "place": "rear",
                 "wiring": wiring},
                {"op": "set_cells", "rows": [{"part": one(build.parts), "cells": cells("set_cells")}]},
                {"op": "set_run", "run": one([*build.runs, "ghost"]), "cells": cells("set_run")},
                {"op": "set_run", "cells": {"from": "dash", "to": "rear", **cells("set_run")}},
                {"op": "set_harness", "cells": {"name": "Feed", **cells("set_harness")}},
                {"op": "set_figures", "part": one(build.parts), "cells": cells("set_figures")},
                {"op": "set_points", "part": panel, "points": points},
                {"op": "write_recipe", "recipe": recipe.id, "answers": answers},
                {"op": "write_recipe", "recipe": recipe.id, "answers": answers},
                {"op": "insert", "wire": one(build.wires), "kind": kind, "name": "X", "count": 2},
                {"op": "add_part", "kind": kind, "name": "New", "place": one(build.places)},
                {"op": "add_wire", "from_terminal": terminal(), "to_terminal": terminal()},
                {"op": "move_circuit", "circuit": one(build.circuits), "panel": panel},
                {"op": "merge_circuits", "into": one(build.circuits),
                 "circuits": [one(build.circuits)]},
                {"op": "mirror_circuit", "circuit": one(build.circuits)},
                {"op": "move_part", "part": one(build.parts), "place": one(build.places)},
                {"op": "pin_way", "wire": one(build.wires), "through": [one(build.runs)]},
                {"op": "wire_load", "load": one(loads)},
                {"op": "unwire_load", "load": one(loads)},
                {"op": "rewire_circuit", "circuit": one(build.circuits), "wiring": wiring},
            )
        )
    )  # fmt: skip


def _spoiled(operation: dict[str, Any], draw: random.Random) -> dict[str, Any]:
    """The same with one value replaced by an odd one, in one of three."""
    if draw.random() > 1 / 3:
        return operation
    name = draw.choice(sorted(set(operation) - {"op"}))
    return {**operation, name: draw.choice(ODD)}
