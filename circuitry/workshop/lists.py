"""The lists of the workshop as tables: headings and rows of text, for spreadsheets and printers."""

from collections.abc import Callable, Iterator, Mapping

from circuitry.workshop.schedule import End, WireLine
from circuitry.workshop.splices import Tail
from circuitry.workshop.workshop import Workshop

Table = tuple[list[str], list[list[str]]]


def _metres(figure: float) -> str:
    return f"{figure:.2f}"


def _wires(made: Workshop) -> Table:
    headings = [
        *("Label", "Circuit", "Stage", "Size", "Colour", "Insulation", "Cut m", "Length m"),
        *(
            "Runs m",
            "Ends m",
            "Twist m",
            "From",
            "Ends in",
            "Strip mm",
            "To",
            "Ends in",
            "Strip mm",
            "Way",
        ),
    ]
    rows = [
        [
            *(line.label, line.circuit_name, str(line.stage), line.size, line.colour),
            *(line.insulation, _metres(line.cut_m), _metres(line.length_m)),
            *(_metres(line.length_m - line.ends_m - line.twist_m), _metres(line.ends_m)),
            _metres(line.twist_m),
            *(cell for end in (line.start, line.end) for cell in _end(end)),
            "; ".join(f"{leg.says} {leg.length_m:.2f}" for leg in line.legs),
        ]
        for line in made.wires
    ]
    return headings, rows


def _end(end: End) -> tuple[str, str, str]:
    joined = f" with {', '.join(end.joined_with)}" if end.joined_with else ""
    return end.says, f"{end.ends_in}{joined}", f"{end.strip_mm:g}"


def _splices(made: Workshop) -> Table:
    headings = ["Splice", "Place", "Stage", "Wires", "Copper mm²", "Barrel mm²", "Joined by"]
    rows = [
        [
            *(splice.name, splice.place, str(splice.stage), "; ".join(splice.labels)),
            *(f"{splice.area_mm2:g}", f"{splice.barrel_mm2:g}", splice.joint),
            *(_tail(splice.tail) if splice.tail else ("", "", "", "")),
        ]
        for splice in made.splices
    ]
    return [*headings, "Tail", "Tail m", "Tail ends in", "Strip mm"], rows


def _tail(tail: Tail) -> tuple[str, str, str, str]:
    sealed = ", sealed" if tail.sealed else ""
    kind = f"{tail.size} {tail.colour}"
    return kind, _metres(tail.length_m), f"{tail.ends_in}{sealed}", f"{tail.strip_mm:g}"


def _cuts(made: Workshop) -> Table:
    rows = []
    for group in made.cutting:
        for number, reel in enumerate(group.reels, 1):
            name = reel.at_hand or f"new, {reel.length_m:g} m"
            for piece in reel.pieces:
                what = [group.size, group.insulation, group.colour, str(number), name]
                rows.append([*what, piece.label, _metres(piece.length_m)])
    return ["Size", "Insulation", "Colour", "Reel", "Which", "Label", "Cut m"], rows


def _labels(made: Workshop) -> Table:
    """One row a label, in the order in which they go on: the start, along the wire, the end."""
    return ["Label", "At"], [
        [line.label, at] for line in made.wires for at in _where_labelled(line)
    ]


def _where_labelled(line: WireLine) -> Iterator[str]:
    yield line.start.says
    between = line.labels - 2
    for number in range(between):
        yield f"{line.length_m * (number + 1) / (between + 1):.2f} m from there"
    yield line.end.says


def _plugs(made: Workshop) -> Table:
    rows = [
        [
            *(face.name, face.half, face.place, cavity.name, cavity.contact, label),
            *(cavity.function, cavity.can, f"{cavity.asked_a:.2f}" if cavity.can else ""),
        ]
        for face in made.faces
        for row in face.rows
        for cavity in row
        for label in (cavity.labels or ("blind plug" if cavity.blind else "free",))
    ]
    return ["Plug", "Half", "Place", "Cavity", "Contact", "Wire", "For", "Can", "Asked A"], rows


def _shopping(made: Workshop) -> Table:
    headings = ["Group", "What", "Unit", "Needed", "Spare", "At hand", "To buy"]
    rows = [
        [
            *(item.group, item.name, item.unit),
            *(f"{figure:g}" for figure in (item.needed, item.spare, item.have, item.buy)),
            *("" if figure is None else f"{figure:.2f}" for figure in (item.price, item.cost)),
            *("first" if item.first else "", item.note),
        ]
        for item in made.shopping
    ]
    return [*headings, "Each", "Cost", "First", "Note"], rows


def _old_loom(made: Workshop) -> Table:
    plugs = made.old_loom.plugs if made.old_loom else ()
    rows = [
        [plug.name, end.name, end.colour, end.size, end.fate, "done" if end.settled else ""]
        for plug in plugs
        for end in plug.ends
    ]
    return ["Ends at", "Circuit", "Colour", "Size", "What to do", "Done"], rows


def _chart(made: Workshop) -> Table:
    rows = [
        [
            way.panel,
            way.way,
            "" if way.rating_a is None else f"{way.rating_a:g}",
            way.colour,
            way.feeds,
        ]
        for way in made.chart
    ]
    return ["Panel", "Way", "A", "Colour", "Feeds"], rows


LISTS: Mapping[str, Callable[[Workshop], Table]] = {
    "wires": _wires,
    "cuts": _cuts,
    "labels": _labels,
    "plugs": _plugs,
    "splices": _splices,
    "shopping": _shopping,
    "fuse-chart": _chart,
    "old-loom": _old_loom,
}
"""By name; each gives headings and rows."""
