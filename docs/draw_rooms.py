"""Draws rooms.svg: the rooms of the core and the server, and their imports as arrows.

An arrow leads from a room to each that it uses, without those that it uses through another anyway.
"""

import ast
from pathlib import Path
from textwrap import wrap
from xml.sax.saxutils import escape

import grimp
import networkx as nx

HERE = Path(__file__).parent
AT = {
    "server": (1.5, 0),
    "public": (2.6, 0),
    "edits": (0, 1),
    "stock": (0, 2),
    "bench": (1, 3),
    "sizing": (0, 4),
    "drawing": (2, 4),
    "diagnosis": (1, 1),
    "proving": (1, 2),
    "budget": (2, 2),
    "formats": (3, 1),
    "printing": (2, 1),
    "workshop": (4, 1),
    "recipes": (0, 5),
    "layout": (0, 7),
    "reach": (2, 6),
    "network": (2, 7),
    "document": (2, 8),
    "devices": (2, 9),
    "design": (1, 10),
    "quantities": (0, 10),
    "catalogue": (1, 11),
}
"""Column and row of each room; what uses stands above what it uses."""
WIDTH, HEIGHT, BOX_WIDTH, BOX_HEIGHT = 200, 88, 176, 56
LETTERS = 34
"""In a line of what a room is about."""
ONE_WITH = {"command_line": "public", "bench_commands": "public"}
SMALL = {"errors", "finding", "progress", "plain", "__main__"}
"""Modules that everything may use; drawn they would only add lines."""


def rooms() -> "nx.DiGraph[str]":
    """Rooms of the core, and the server as one, with what each uses."""
    imports = grimp.build_graph("circuitry", "oilstone")
    graph: nx.DiGraph[str] = nx.DiGraph()
    for importer in imports.modules:
        for imported in imports.find_modules_directly_imported_by(importer):
            first, second = _room(importer), _room(imported)
            if first and second and first != second:
                graph.add_edge(first, second)
    return nx.transitive_reduction(graph)


def _room(module: str) -> str | None:
    names = module.split(".")
    if names[0] == "oilstone":
        return "server"
    room = names[1] if len(names) > 1 and names[1] not in SMALL else None
    return ONE_WITH.get(room or "", room)


def _subject(room: str) -> str:
    """The first words of a room's docstring."""
    if room == "server":
        return "storage, the one door, the API"
    at = HERE.parent / "circuitry" / room
    file = at / "__init__.py" if at.is_dir() else at.with_suffix(".py")
    said = (ast.get_docstring(ast.parse(file.read_text(encoding="utf-8"))) or "").split("\n")[0]
    return said.split(":")[0].split(";")[0].rstrip(".")


def drawn(graph: "nx.DiGraph[str]") -> str:
    """The picture as SVG."""
    at = {room: (16 + x * WIDTH, 12 + y * HEIGHT) for room, (x, y) in AT.items()}
    lines = [_arrow(at[one], at[other]) for one, other in sorted(graph.edges)]
    boxes = [_box(room, *at[room]) for room in sorted(graph.nodes)]
    wide, height = 4 * WIDTH, 11 * HEIGHT
    style = (
        "text{font:13px sans-serif;fill:#1F2529;text-anchor:middle}.quiet{font-size:9.5px;"
        "fill:#5C666D}rect{fill:#FCFBF8;stroke:#1F2529}path{fill:none;stroke:#2F6F73}"
        "marker path{fill:#2F6F73}"
    )
    return "\n".join(
        [
            f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 {wide} {height}">',
            "<title>Rooms, and which uses which</title>",
            f"<style>{style}</style>",
            '<marker id="end" viewBox="0 0 8 8" refX="8" refY="4" markerWidth="7" '
            'markerHeight="7" orient="auto"><path d="M0 0 L8 4 L0 8 z"/></marker>',
            f'<rect x="0" y="0" width="{wide}" height="{height}" style="stroke:none"/>',
            *lines,
            *boxes,
            "</svg>",
            "",
        ]
    )


def _arrow(one: tuple[float, float], other: tuple[float, float]) -> str:
    x, y = one[0] + BOX_WIDTH / 2, one[1] + BOX_HEIGHT
    end_x, end_y = other[0] + BOX_WIDTH / 2, other[1]
    bend = (end_y - y) / 2
    return (
        f'<path d="M{x:g} {y:g} C{x:g} {y + bend:g} {end_x:g} {end_y - bend:g} {end_x:g} '
        f'{end_y:g}" marker-end="url(#end)"/>'
    )


def _box(room: str, x: float, y: float) -> str:
    middle = x + BOX_WIDTH / 2
    lines = "".join(
        f'<text class="quiet" x="{middle:g}" y="{y + 34 + 12 * row:g}">{escape(line)}</text>'
        for row, line in enumerate(wrap(_subject(room), LETTERS)[:2])
    )
    return (
        f'<rect x="{x:g}" y="{y:g}" width="{BOX_WIDTH}" height="{BOX_HEIGHT}" rx="4"/>'
        f'<text x="{middle:g}" y="{y + 19:g}">{escape(room)}</text>{lines}'
    )


if __name__ == "__main__":
    (HERE / "rooms.svg").write_text(drawn(rooms()), encoding="utf-8")
