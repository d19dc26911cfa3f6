"""What can decide whether a terminal is joined to the battery: the contacts on all simple ways."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import networkx as nx

from circuitry.design.model import Terminal
from circuitry.devices.device import Condition
from circuitry.reach.graph import Goal, Graph


@dataclass(frozen=True)
class Blocks:
    """The biconnected parts of a graph as a tree: numbers of parts, joined by shared terminals.

    ``conditions`` are those of the contacts inside each part.
    """

    tree: Any
    conditions: list[list[Condition]]


class Deciding:
    """The conditions that decide in one graph."""

    def __init__(self, graph: Graph) -> None:
        self._graph = graph
        self._kept_blocks: dict[Terminal, Blocks] = {}

    def concerning(self, loads: tuple[str, ...]) -> tuple[str, ...]:
        """Switches, sensors and values that can decide whether these loads live, nearest first.

        A contact concerns a load when it lies on some simple way from the load to the battery, or
        from the coil of a relay whose contact does, and so on.
        """
        found: dict[str, None] = {}
        seen: set[Goal] = set()
        waiting = [
            Goal(self._graph.lands(Terminal(load, name)), battery)
            for load in loads
            for battery in (self._graph.plus, self._graph.minus)
            for name in ("+", "-")
        ]
        while waiting:
            goal = waiting.pop(0)
            if goal in seen:
                continue
            seen.add(goal)
            for condition in self._conditions_towards(goal):
                needs = self._graph.needs.get(condition)
                if needs is None:
                    if condition[0] not in self._graph.moved:
                        found[condition[0]] = None
                    continue
                for need in needs:
                    waiting += need.goals
                    found |= dict.fromkeys(need.positions)
        return tuple(found)

    def _conditions_towards(self, goal: Goal) -> Iterator[Condition]:
        """Conditions of the contacts on simple ways from a terminal to a battery terminal.

        Those are the contacts in the biconnected parts of the graph between the two, which follow
        one another along the tree of such parts (Hopcroft and Tarjan, 1973).
        """
        blocks = self._blocks(goal.battery)
        if goal.terminal not in blocks.tree or goal.battery not in blocks.tree:
            return
        if not nx.has_path(blocks.tree, goal.terminal, goal.battery):
            return
        for node in nx.shortest_path(blocks.tree, goal.terminal, goal.battery):
            if isinstance(node, int):
                yield from blocks.conditions[node]

    def _blocks(self, battery: Terminal) -> Blocks:
        if battery not in self._kept_blocks:
            plus, minus = self._graph.plus, self._graph.minus
            others = self._graph.joined(minus if battery == plus else plus)
            graph: nx.Graph[Terminal] = nx.Graph()
            for terminal, edges in self._graph.edges.items():
                for edge in edges:
                    if battery == minus and edge.step.kind == "fuse":
                        continue  # a return leads over no fuse
                    if terminal not in others and edge.step.to_terminal not in others:
                        graph.add_edge(terminal, edge.step.to_terminal)
            self._kept_blocks[battery] = self._block_tree(graph)
        return self._kept_blocks[battery]

    def _block_tree(self, graph: Any) -> Blocks:
        tree: nx.Graph[Any] = nx.Graph()
        conditions: list[list[Condition]] = []
        found: Iterator[Any] = nx.biconnected_components(graph)
        for number, block in enumerate(found):
            tree.add_edges_from((number, terminal) for terminal in block)
            conditions.append(
                [
                    edge.condition
                    for terminal in sorted(block)
                    for edge in self._graph.edges.get(terminal, ())
                    if edge.condition and edge.step.to_terminal in block
                ]
            )
            if any(terminal in self._graph.fields for terminal in block):
                conditions[-1].append(("engine_rpm", ""))
        return Blocks(tree, conditions)
