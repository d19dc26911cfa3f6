"""Everything needed to make a loom: its wires, what is cut from which reel, plugs, what to buy."""

from collections.abc import Iterable, Iterator, Mapping, Sequence
from dataclasses import dataclass

from circuitry.catalogue import catalogue
from circuitry.design.colours import stage_colour
from circuitry.design.model import Build
from circuitry.layout.bundles import mass_kg
from circuitry.network import Solution
from circuitry.workshop.cutting import Cutting, Piece, Stock, cut_from_reels
from circuitry.workshop.old_loom import OldLoom, old_loom
from circuitry.workshop.plugs import Face, faces
from circuitry.workshop.schedule import (
    SMALL_M,
    Changed,
    Done,
    WireLine,
    changed,
    rounded_up,
    schedule,
)
from circuitry.workshop.shopping import Item, shopping
from circuitry.workshop.splices import Splice, splices

Kind = tuple[str, str, str]
"""Size, insulation and colour of wire."""


@dataclass(frozen=True)
class CutPiece:
    """A length to cut for a wire, or for the tail of a splice, by its id."""

    wire: str
    label: str
    length_m: float


@dataclass(frozen=True)
class CutReel:
    """What is cut from one reel in order, and what is left; ``at_hand`` names one that is there."""

    at_hand: str | None
    length_m: float
    pieces: tuple[CutPiece, ...]
    left_m: float


@dataclass(frozen=True)
class CutGroup:
    """The wires of one size, insulation and colour: what is cut from which reel.

    ``over_bound`` is what is bought beyond the least that any cutting must, as a share of that.
    """

    size: str
    insulation: str
    colour: str
    metres: float
    bought_m: float
    over_bound: float
    reels: tuple[CutReel, ...]
    too_long: tuple[CutPiece, ...]


@dataclass(frozen=True)
class Way:
    """A way of a panel for the label in its lid: fuse, rating, colour, and what it feeds."""

    panel: str
    way: str
    fuse: str
    rating_a: float | None
    colour: str
    feeds: str


@dataclass(frozen=True)
class Workshop:
    """What it takes to make a loom, or one stage of it. ``kinds`` of wire are as many as there are
    sizes, insulations and colours together; ``tapes`` are the colours of the stages' tape, from the
    first stage to the last that there is; ``long_labels`` are those that the printer does not
    take."""

    stages: tuple[int, ...]
    stage: int | None
    wires: tuple[WireLine, ...]
    cutting: tuple[CutGroup, ...]
    faces: tuple[Face, ...]
    splices: tuple[Splice, ...]
    chart: tuple[Way, ...]
    shopping: tuple[Item, ...]
    changed: tuple[Changed, ...]
    tapes: tuple[str, ...]
    metres: float
    kinds: int
    kinds_in_one_colour: int
    long_labels: tuple[str, ...]
    old_loom: OldLoom | None


def workshop(
    build: Build,
    done: Sequence[Done] = (),
    stage: int | None = None,
    solutions: Iterable[Solution] = (),
) -> Workshop:
    """What to make of a sized build; ``done`` are the steps that were ticked off, and wires that
    were cut are cut no more. ``stage`` takes one stage alone; ``solutions`` say what flows in
    pins."""
    every = schedule(build)
    lines = tuple(line for line in every if stage is None or line.stage == stage)
    by_id = {line.id: line for line in every}
    was_cut = {row.wire for row in done if row.step == "cut"}
    joined = splices(build, by_id)
    mine = [row for row in joined if stage in (None, row.stage)]
    pieces = _pieces(
        build,
        [line for line in lines if line.id not in was_cut],
        [row for row in mine if row.tail and row.tail.wire not in was_cut],
    )
    cuttings = dict(_cuttings(build, pieces))
    names = {line.id: line.label for line in every}
    names.update((row.id, f"tail {row.name[0].lower()}{row.name[1:]}") for row in joined)
    pinned = faces(build, by_id, joined, solutions)
    return Workshop(
        tuple(sorted({line.stage for line in every})),
        stage,
        lines,
        tuple(_group(kind, cutting, names) for kind, cutting in cuttings.items()),
        pinned,
        tuple(mine),
        tuple(_chart(build)),
        shopping(build, lines, mine, cuttings, pinned, stage is None),
        tuple(changed(by_id, list(done))),
        tuple(
            stage_colour(build, n + 1) for n in range(max((row.stage for row in every), default=0))
        ),
        sum(line.length_m for line in lines),
        len({(line.size, line.insulation, line.colour) for line in lines}),
        len({(line.size, line.insulation) for line in lines}),
        tuple(line.label for line in lines if 0 < build.policy.label_letters < len(line.label)),
        old_loom(build, mass_kg(build)),
    )


def _pieces(
    build: Build, lines: Sequence[WireLine], joined: Sequence[Splice]
) -> Mapping[Kind, Sequence[Piece]]:
    """What is to be cut of each kind of wire: for wires, and for the tails of splices."""
    kinds: dict[Kind, list[Piece]] = {}
    for line in lines:
        piece = Piece(line.id, line.cut_m)
        kinds.setdefault((line.size, line.insulation, line.colour), []).append(piece)
    for row in joined:
        if row.tail is not None:
            piece = Piece(row.id, rounded_up(row.tail.length_m, build.policy.cut_to_m))
            kind = row.tail.size, row.tail.insulation, row.tail.colour
            kinds.setdefault(kind, []).append(piece)
    return kinds


def _cuttings(
    build: Build, kinds: Mapping[Kind, Sequence[Piece]]
) -> Iterator[tuple[Kind, Cutting]]:
    area = catalogue().conductor
    for kind in sorted(kinds, key=lambda kind: (area[kind[0]].copper_area_mm2, *kind)):
        size, insulation, colour = kind
        at_hand = [
            Stock(reel.length_m, reel.id)
            for reel in build.reels.values()
            if (reel.size, reel.colour) == (size, colour) and reel.insulation in (None, insulation)
        ]
        yield kind, cut_from_reels(kinds[kind], at_hand)


def _group(kind: Kind, cutting: Cutting, names: Mapping[str, str]) -> CutGroup:
    def cut(pieces: Sequence[Piece]) -> tuple[CutPiece, ...]:
        return tuple(CutPiece(row.wire, names[row.wire], row.length_m) for row in pieces)

    reels = tuple(
        CutReel(row.stock.reel, row.stock.length_m, cut(row.pieces), max(row.left_m, 0.0))
        for row in cutting.cuts
    )
    over = cutting.cost / cutting.least_cost - 1 if cutting.least_cost > SMALL_M else 0.0
    return CutGroup(
        *kind,
        sum(piece.length_m for reel in reels for piece in reel.pieces),
        cutting.bought_m,
        over,
        reels,
        cut(cutting.too_long),
    )


def _chart(build: Build) -> Iterator[Way]:
    """The ways of every panel in its own order, with what is behind each."""
    fitted = {(f.fitted.panel, f.fitted.way): f for f in build.parts_of_kind("fuse") if f.fitted}
    for panel in build.parts_of_kind("panel"):
        for way in panel.ways:
            fuse = fitted.get((panel.id, way.name))
            if fuse is None:
                yield Way(panel.name, way.name, "", None, "", "free")
                continue
            rating_a = fuse.number("rating_a", 0)
            rows = catalogue().fuses.get(fuse.catalogue or "", ())
            colour = next((row.colour for row in rows if row.rating_a == rating_a), "")
            behind = [
                build.circuits[wire.circuit].name
                for wire in build.wires.values()
                if wire.circuit
                and any(
                    (end.part, end.name) == (panel.id, way.name)
                    for end in (build.lands(wire.from_terminal), build.lands(wire.to_terminal))
                )
            ]
            feeds = ", ".join(dict.fromkeys(behind)) or fuse.name
            yield Way(panel.name, way.name, fuse.name, rating_a, colour, feeds)
