"""What to buy, by kind, with what is in the drawer already and what takes weeks to come."""

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace

from circuitry.catalogue import catalogue
from circuitry.design.model import Build, Part, Run
from circuitry.layout.bundles import Bundle, bundles
from circuitry.workshop.cutting import Cutting
from circuitry.workshop.plugs import Face
from circuitry.workshop.schedule import SPLICE, End, WireLine
from circuitry.workshop.splices import Splice, Tail

GROUPS = (
    "modules",
    "plugs",
    "boxes and units",
    "panels and posts",
    "relays and flashers",
    "switches and sensors",
    "loads",
    "protection",
    "wire",
    "ends of wires",
    "covering",
    "fixings",
    "labels",
)
"""In the order of the list; the first two take weeks to come."""
SLOW = ("modules", "plugs")
GROUP_OF = {
    "module": "modules",
    "box": "boxes and units",
    "connector": "plugs",
    "panel": "panels and posts",
    "stud": "panels and posts",
    "bus bar": "panels and posts",
    "ground point": "panels and posts",
    "isolator": "panels and posts",
    "relay": "relays and flashers",
    "flasher": "relays and flashers",
    "split-charge relay": "relays and flashers",
    "switch": "switches and sensors",
    "key switch": "switches and sensors",
    "sensor": "switches and sensors",
    "load": "loads",
    "fuse": "protection",
    "breaker": "protection",
    "diode": "protection",
    "resistor": "protection",
}
BOUGHT = ("new", "adapt", "to decide")
"""States in which a part has to be bought; what is kept is there."""
SPARE_FUSES, PLUGGED_IN = 2, ("mini blade", "regular blade", "maxi blade", "glass", "continental")
"""Of each rating that a car has, in the lid of the box; those that are changed by hand."""
SLACK = 1.1
SLEEVES_MM = (5.0, 8.0, 10.0, 13.0, 16.0, 19.0, 25.0, 32.0, 40.0)
"""Inside diameters in which sleeve is sold; typical."""
TAPE_TURNS = 3.0
"""Metres of tape for a metre of a bundle of 10 mm, wound half over; typical."""


@dataclass(frozen=True)
class Item:
    """A line of the shopping list: how many are needed, spare, at hand and to be bought.

    ``id`` names it in the drawer. ``first`` says to order it first, for it takes weeks. ``price``
    is what the builder says that one costs, ``cost`` that of all to be bought.
    """

    id: str
    group: str
    name: str
    unit: str
    needed: float
    spare: float
    have: float
    buy: float
    first: bool
    note: str = ""
    price: float | None = None
    cost: float | None = None


def shopping(
    build: Build,
    lines: Sequence[WireLine],
    joined: Sequence[Splice],
    cuttings: Mapping[tuple[str, str, str], Cutting],
    pinned: Sequence[Face],
    whole: bool,
) -> tuple[Item, ...]:
    """What these wires and the parts on them take; ``whole`` takes the whole car, with what covers
    and holds its loom."""
    wanted = {end.part for line in lines for end in (line.start, line.end)}
    rows = [
        *_parts(build, wanted if not whole else set(build.parts)),
        *_wire(cuttings),
        *_ends(lines, joined, pinned if whole else ()),
        *(_on_runs(build) if whole else ()),
        Item("labels", "labels", "labels", "", sum(line.labels for line in lines), 0, 0, 0, False),
    ]
    merged: dict[str, Item] = {}
    for row in rows:
        before = merged.get(row.id)
        merged[row.id] = (
            row if before is None else replace(before, needed=before.needed + row.needed)
        )
    order = {group: number for number, group in enumerate(GROUPS)}
    found = [_with_spares(build, row) for row in merged.values() if row.needed > 0]
    return tuple(sorted(found, key=lambda row: (order[row.group], row.name)))


def _with_spares(build: Build, row: Item) -> Item:
    spare = row.spare
    if row.group in ("ends of wires", "labels", "fixings"):
        spare = math.ceil(row.needed * build.policy.spare_share)
    if row.group == "protection" and row.name.startswith(PLUGGED_IN):
        spare = SPARE_FUSES
    have = build.policy.drawer.get(row.id, 0.0)
    buy = max(row.needed + spare - have, 0.0)
    price = build.policy.prices.get(row.id)
    return replace(
        row,
        spare=spare,
        have=have,
        buy=buy,
        first=row.group in SLOW and buy > 0,
        price=price,
        cost=None if price is None else price * buy,
    )


def _parts(build: Build, wanted: set[str]) -> Iterator[Item]:
    """Parts that are new, those of one kind and row together."""
    for part in build.parts.values():
        group = GROUP_OF.get(part.kind)
        fitted_in = part.fitted.panel if part.fitted else part.id
        if group is None or part.housed or part.state not in BOUGHT or fitted_in not in wanted:
            continue
        name, note = _called(part)
        yield Item(f"{group}/{name}".lower()[:120], group, name, "", 1, 0, 0, 0, False, note)


def _called(part: Part) -> tuple[str, str]:
    """What a part is called in a shop, and what it is for where it is the only one."""
    if part.kind == "fuse":
        rating_a = part.number("rating_a", 0)
        row = next(
            (r for r in catalogue().fuses.get(part.catalogue or "", ()) if r.rating_a == rating_a),
            None,
        )
        return f"{part.catalogue} {rating_a:g} A", row.colour if row else ""
    if part.kind == "connector":
        return f"{part.catalogue or 'plug'}, {len(part.pins)} ways, both halves", part.name
    if part.kind == "panel":
        return f"{part.name}, {len(part.ways)} ways", ""
    if part.catalogue:
        named = part.kind in ("relay", "flasher")
        return f"{part.catalogue} {part.kind}" if named else part.catalogue, part.name
    return part.name, ""


def _wire(cuttings: Mapping[tuple[str, str, str], Cutting]) -> Iterator[Item]:
    for (size, insulation, colour), cutting in cuttings.items():
        name = f"{size} {colour}, {insulation}"
        for length_m in sorted({c.stock.length_m for c in cutting.cuts if c.stock.reel is None}):
            count = sum(c.stock.reel is None and c.stock.length_m == length_m for c in cutting.cuts)
            item = f"wire/{name}/{length_m:g}".lower()[:120]
            yield Item(item, "wire", f"{name}: reel of {length_m:g} m", "", count, 0, 0, 0, False)
        for piece in cutting.too_long:
            item = f"wire/{name}/{piece.length_m:g}".lower()[:120]
            yield Item(
                item, "wire", f"{name}: {piece.length_m:g} m in one piece", "", 1, 0, 0, 0, False
            )


def _ends(
    lines: Sequence[WireLine], joined: Sequence[Splice], pinned: Sequence[Face]
) -> Iterator[Item]:
    """What wires and tails end in, by the sizes that it takes; barrels, seals and blind plugs."""
    for line in lines:
        for end in (line.start, line.end):
            if end.ends_in != SPLICE:
                yield from _end(end, line.size)
    for splice in joined:
        yield _small(f"splice barrel for {splice.barrel_mm2:g} mm² together")
        if splice.tail is not None:
            yield from _end(splice.tail, splice.tail.size)
    for face in pinned:
        blind = sum(cavity.blind for row in face.rows for cavity in row)
        if blind:
            yield _small(f"blind plug for {face.contact}", blind)
        if any(cavity.keys for row in face.rows for cavity in row):
            yield _small(f"keying plug for {face.contact}")


def _end(end: End | Tail, size: str) -> Iterator[Item]:
    yield _small(f"{end.ends_in} for {size}")
    if end.sealed:
        yield _small(f"seal for {end.ends_in}, {size}")


def _small(name: str, count: int = 1) -> Item:
    return Item(f"ends/{name}"[:120], "ends of wires", name, "", count, 0, 0, 0, False)


def _on_runs(build: Build) -> Iterator[Item]:
    """What covers the loom and holds it, by the bundle in each run."""
    for run_id, bundle in bundles(build).items():
        run = build.runs[run_id]
        if not bundle.wires:
            continue
        yield from _covering(run, bundle)
        clips = math.ceil(run.length_m / (run.fixings_mm / 1000))
        size_mm = _sleeve_mm(bundle.diameter_mm)
        name = f"clip for a bundle of {size_mm:g} mm"
        yield Item(f"fixings/{name}", "fixings", name, "", clips, 0, 0, 0, False)
        if run.hole_mm is not None and run.hole_fit == "grommet":
            name = f"grommet for a hole of {run.hole_mm:g} mm, bundle {size_mm:g} mm"
            yield Item(f"fixings/{name}", "fixings", name, "", 1, 0, 0, 0, False)


def _covering(run: Run, bundle: Bundle) -> Iterator[Item]:
    if run.cover == "none":
        return
    if run.cover == "tape":
        metres = TAPE_TURNS * run.length_m * bundle.diameter_mm / 10
        yield Item("covering/tape", "covering", "loom tape", "m", round(metres, 1), 0, 0, 0, False)
        return
    name = f"{run.cover}, {_sleeve_mm(bundle.diameter_mm):g} mm inside"
    metres = round(run.length_m * SLACK, 2)
    yield Item(f"covering/{name}", "covering", name, "m", metres, 0, 0, 0, False)


def _sleeve_mm(diameter_mm: float) -> float:
    return next((size for size in SLEEVES_MM if size >= diameter_mm), SLEEVES_MM[-1])
