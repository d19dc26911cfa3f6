"""``make bench``: how long the work takes that a builder waits for, and against what.

Ratios hold on any machine; times are of the machine that it runs on.
"""

import json
import random
import resource
import statistics
import time
import urllib.request
from collections import Counter
from collections.abc import Callable, Iterator
from dataclasses import replace
from functools import partial
from itertools import count
from typing import Any
from unittest.mock import patch

import numpy as np
from playwright.sync_api import Page, sync_playwright
from scipy.sparse import csc_array
from scipy.sparse.linalg import splu

from circuitry.bench.bench import Bench
from circuitry.bench.faults import Fault
from circuitry.bench.script import script_from
from circuitry.budget import budget
from circuitry.catalogue import catalogue
from circuitry.design.model import STYLES, Build, Runs
from circuitry.devices import switches_of
from circuitry.devices.load import rated_current_a
from circuitry.diagnosis import Finder, Predictor, Seen
from circuitry.document.reading import read, write
from circuitry.drawing import overview, schematic
from circuitry.edits import apply_operations
from circuitry.network import Network
from circuitry.network.equations import Vector
from circuitry.network.network import TOGETHER
from circuitry.printing import Extras, book
from circuitry.proving import Today, plan_of
from circuitry.reach.losses import losses
from circuitry.reach.paths import Paths, state_of
from circuitry.reach.truth import truth_table
from circuitry.recipes.book import RECIPES
from circuitry.recipes.recipe import write_recipe
from circuitry.recipes.sample import bare_car
from circuitry.sizing import Sizing, size_build
from circuitry.sizing.least_copper import Fit, least_copper
from circuitry.stock import TypedRow, set_cells
from circuitry.stock.changeover import change_over
from circuitry.stock.drafting import Wants, draft
from circuitry.stock.proposal import bill
from circuitry.stock.start import OPTIONS, KindOfCar, start
from circuitry.workshop import workshop
from demo.many_loads import many_loads
from tests.browser.running import RunningServer, launch
from tests.core.benches import demo
from tests.core.cars import ROOT
from tests.core.dealing import Dealer, Game, Table, caught, one_of_each_kind
from tests.core.positions import random_states, unsettled, use

LARGE = 400
POSITIONS = 10_000
EDITS = 45
FINDING_S = 150.0
"""How long faults are dealt in each car."""
HOUR_S = 3600.0
BENCH_DO = "/api/builds/1/bench/do"


def main() -> None:
    """Print each measure on a line of its own."""
    server = RunningServer()
    try:
        measure_core(server)
        measure_positions()
        measure_copper()
        measure_budget()
        measure_workshop()
        measure_thicker()
        measure_spoiled()
        measure_circuits()
        measure_drafts()
        measure_proving()
        measure_finding()
        measure_time()
        measure_click(server)
        measure_first_screen(server)
    finally:
        server.close()


def measure_core(server: RunningServer) -> None:
    """The demo car, then 400 loads: sizing, one solve, and an edit through the server."""
    demo = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
    for build, name, repeats in ((demo, "demo car", 20), (many_loads(LARGE), "400 loads", 5)):
        loads = len(build.parts_of_kind("load"))
        print(f"{name}: {loads} loads, {len(build.wires)} wires")
        show("size every fuse and wire", times_ms(lambda build=build: size_build(build), repeats))
        measure_solve(size_build(build).build)
        show("edit round trip", edit_times_ms(server, build, repeats, changed_rating))
        show("give a load another name", edit_times_ms(server, build, repeats, renamed_load))
        show("move a place on the plan", edit_times_ms(server, build, repeats, moved_place))
        show("paste 200 rows", edit_times_ms(server, build, repeats, pasted_rows))


def measure_positions() -> None:
    """How far any fuse and wire that was chosen is used in random positions of each demo car."""
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        build = read((ROOT / "demo" / f"{name}.json").read_bytes())
        sizing = size_build(build)
        found = use(sizing, random_states(build, POSITIONS, 10))
        print(f"{name}, {POSITIONS} random positions of all switches")
        print(f"  fuses blown               {len(found.blown):8d}")
        print(f"  most used of what may be  {100 * max(found.used.values()):8.1f} %")
        print(f"  current against that told {100 * max(found.over.values()):8.1f} %")


def measure_copper() -> None:
    """Copper beyond the floors that keeps every limit that can be kept, for all loads at once
    against load by load; the gap of the programme; the sizes used."""
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        asked: list[tuple[tuple, dict]] = []

        def noted(*args: Any, _asked: list = asked, **fields: Any) -> Fit:
            _asked.append((args, fields))
            return least_copper(*args, **fields)

        with patch("circuitry.sizing.choose.least_copper", noted):
            sizing = size_build(read((ROOT / "demo" / f"{name}.json").read_bytes()))
        # the last of the whole car: the others are of branches alone, from any reel, or of mends
        args, fields = [row for row in asked if isinstance(row[1].get("reels"), list)][-1]
        floor, most, ohm, area_mm2, length_m, losses, tapers, *_ = args
        fit = least_copper(*args, **fields)
        saved_ohm = ohm[np.arange(len(floor)), floor] - ohm[np.arange(len(floor)), most]
        kept = [
            replace(loss, trunk=(), trunk_v=0.0)
            for loss in losses
            if loss.lost_v - np.dot(loss.amps, saved_ohm[list(loss.wires)]) < loss.limit_v
        ]
        any_price = {"price": None, "worth": 0.0}
        together = least_copper(*args[:5], kept, tapers, **any_price)
        alone = floor.copy()
        for loss in kept:
            alone = np.maximum(alone, least_copper(*args[:5], [loss], tapers, **any_price).size)
        by_load = float((length_m * (area_mm2[alone] - area_mm2[floor])).sum())
        print(f"{name}, copper")
        print(f"  against load by load      {together.copper_mm2_m / max(by_load, 1e-9):8.2f}")
        print(f"  gap of the programme      {100 * fit.gap:8.3f} %")
        sizes = {row.size for row in sizing.wires.values() if not row.pinned}
        print(f"  sizes used                {len(sizes):8d}")


def measure_thicker() -> None:
    """Edits that ask for less, a looser limit, a shorter run or a smaller current: in how many of
    them some wire gets thicker, and the most copper that one of them takes more."""
    area_mm2 = {name: row.copper_area_mm2 for name, row in catalogue().conductor.items()}
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        build = read((ROOT / "demo" / f"{name}.json").read_bytes())
        before = size_build(build).wires
        thicker, most = 0, 0.0
        for asking in asking_less(build, EDITS):
            after = size_build(asking).wires
            steps = [area_mm2[after[w].size] - area_mm2[row.size] for w, row in before.items()]
            thicker += any(step > 0 for step in steps)
            copper = [
                sum(area_mm2[row.size] * row.length_m for row in rows.values())
                for rows in (
                    after,
                    {w: replace(before[w], length_m=after[w].length_m) for w in after},
                )
            ]
            most = max(most, copper[0] / copper[1])
        print(f"{name}, {EDITS} edits that ask for less")
        print(f"  some wire thicker         {thicker:8d}")
        print(f"  copper at most            {most:8.3f} ×")


def asking_less(build: Build, count: int) -> Iterator[Build]:
    """The build with a looser limit, a shorter run or a smaller load, in turn."""
    draw = random.Random(4)
    for number in range(count):
        kind = ("limit", "run", "load")[number % 3]
        if kind == "limit":
            row = draw.choice(list(catalogue().drop_limits.values()))
            limits_v = {row.load_kind: row.loop_limit_v_at_12v * draw.uniform(1.1, 1.5)}
            yield replace(build, policy=replace(build.policy, drop_limits_v=limits_v))
        elif kind == "run":
            run = draw.choice(list(build.runs.values()))
            shorter = replace(run, length_m=run.length_m * draw.uniform(0.6, 0.9))
            yield replace(build, runs=Runs({**build.runs, run.id: shorter}))
        else:
            load = draw.choice(build.parts_of_kind("load"))
            figures = {**load.figures, "rated_a": rated_current_a(load) * draw.uniform(0.6, 0.9)}
            yield replace(build, parts={**build.parts, load.id: replace(load, figures=figures)})


def measure_budget() -> None:
    """Every scenario of a car against its alternator and battery."""
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        sizing = demo(name)
        network = Network(sizing.build)
        show(f"budget, {name}", times_ms(partial(budget, sizing, network), 5))
    large = size_build(many_loads(LARGE))
    show("budget, 400 loads", times_ms(partial(budget, large, Network(large.build)), 3))


def measure_workshop() -> None:
    """Everything that is made of a car; its book."""
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        show(f"schedule, cuts, plugs, {name}", times_ms(partial(workshop, demo(name).build), 5))
    large = size_build(many_loads(LARGE)).build
    show("schedule, cuts, plugs, 400 loads", times_ms(partial(workshop, large), 3))
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        groups = workshop(demo(name).build).cutting
        over = max(group.over_bound for group in groups)
        bought_m = sum(group.bought_m for group in groups)
        print(
            f"  cut of {name}: {bought_m:.0f} m bought, {100 * over:.1f} % over the bound at most"
        )
    van = demo("fernhill-half-ton-van")
    found = budget(van, Network(van.build))
    show("book of the van", times_ms(partial(book, van, found, Extras()), 2))


def measure_spoiled() -> None:
    """Every wire of each demo car spoiled in each way, in eight states: what does not settle."""
    for name in ("saltmarsh-roadster", "fernhill-half-ton-van"):
        build = size_build(read((ROOT / "demo" / f"{name}.json").read_bytes())).build
        tried, codes = unsettled(build, build.wires.values(), random_states(build, 8, 3))
        print(f"{name}, {tried} states with one wire spoiled")
        print(f"  not converged             {codes['not-converged']:8d}")
        print(f"  loops that never settle   {codes['relays-never-settle']:8d}")


def measure_circuits() -> None:
    """The drawing of a circuit of 40 wires, and a truth table of the demo car."""
    lamps = [{"row": "Power socket", "place": "dash", "name": f"Socket {n}"} for n in range(20)]
    build = write_recipe(bare_car(), RECIPES["sockets"], {"sockets": lamps})
    show("draw a circuit of 40 wires", times_ms(lambda: schematic(build, "power-sockets"), 20))
    sizing = size_build(many_loads(LARGE))
    show("draw 400 loads on one sheet", times_ms(lambda: overview(sizing), 5))
    demo = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
    network = Network(size_build(demo).build)
    loads = tuple(network.build.loads_of("turn-and-hazard-lamps"))
    show("truth table of the turn lamps", times_ms(lambda: truth_table(network, loads), 5))


def measure_modules() -> None:
    """What is left when a bus or a module is lost; a function moved to a module."""
    rally = size_build(read((ROOT / "demo" / "quarrel-hill-rally-coupe.json").read_bytes())).build
    loads = rally.parts_of_kind("load")
    show("table of losses, rally coupé", times_ms(lambda: losses(Network(rally), loads), 10))
    van = read((ROOT / "demo" / "fernhill-half-ton-van.json").read_bytes())
    moved = [{"op": "feed_by", "circuit": "horn", "by": "module channels"}]
    show("function to a module, van", times_ms(lambda: apply_operations(van, moved), 10))
    show("the same, sized", times_ms(lambda: size_build(apply_operations(van, moved)), 5))
    show("change-over plan, van", times_ms(lambda: change_over(van), 5))


def measure_drafts() -> None:
    """The wiring of a car with everything drafted from its list, and of one with many loads; what
    is to be looked at in cars of every style."""
    listed = start(KindOfCar("All", "saloon", "steel", 4, 4, options=OPTIONS))
    lamp = {"what": "Courtesy lamp 5 W", "where": "Roof, middle", "key": "accessory"}
    rows = [
        TypedRow(None, {**lamp, "name": f"Lamp {n}", "switch": f"Switch {n}"}) for n in range(100)
    ]
    for build, repeats in ((listed, 5), (set_cells(listed, rows), 3)):
        loads = len(build.parts_of_kind("load"))
        show(f"draft {loads} loads", times_ms(partial(draft, build), repeats))
    on_modules = partial(draft, listed, Wants(school="modules", keypad=True))
    show("draft it on modules", times_ms(on_modules, 5))
    measure_modules()
    found: Counter[str] = Counter()
    cars = [
        KindOfCar(f"{style}", style, shell, 4, 4, battery=battery, options=options)
        for style in STYLES
        for shell, battery in (("steel", "engine bay"), ("plastic on a frame", "luggage"))
        for options in (OPTIONS[::2], OPTIONS[1::2])
    ]
    for car in cars:
        drafted = draft(start(car))
        found["refused"] += sum(bool(step.problem) for step in drafted.steps)
        rows_found = Counter(row.severity for row in bill(size_build(drafted.build)).findings)
        found["stops"] += rows_found["stop"]
        found["most looks"] = max(found["most looks"], rows_found["look"])
    print(f"{len(cars)} cars of every style drafted and sized")
    for what in ("refused", "stops", "most looks"):
        print(f"  {what:26}{found[what]:8d}")


def measure_solve(sized: Build) -> None:
    """One state from rest with its relays, against one bare factor and solve of the matrix."""
    network = Network(sized)
    path = next(p for load in sized.parts_of_kind("load") if (p := Paths(sized).to_load(load)))
    state = state_of(sized, path.positions)
    solve_ms = times_ms(lambda: network.solve(state), 40)
    unknowns = network.node_count - 1
    right = np.ones(unknowns)
    matrix = network.equations.jacobian(np.ones(len(network.elements)), right)
    bare_ms = times_ms(partial(factor_and_solve, matrix, right), 40)
    show("solve one state", solve_ms)
    show("bare factor and solve", bare_ms)
    ratio = statistics.median(solve_ms) / statistics.median(bare_ms)
    print(f"  {'solve against bare':26}{ratio:8.1f} ×")
    states = random_states(sized, TOGETHER, 5)
    batch_ms = [taken / TOGETHER for taken in times_ms(lambda: network.try_many(states), 8)]
    show(f"each of {TOGETHER} states at once", batch_ms)
    ratio = statistics.median(batch_ms) / statistics.median(bare_ms)
    print(f"  {'each against bare':26}{ratio:8.1f} ×")


def measure_time() -> None:
    """The bench through time: a step against a bare factor and solve of its matrix, a minute in
    which nothing moves, and everything on, against the clock; then an hour of anything."""
    demo = read((ROOT / "demo" / "saltmarsh-roadster.json").read_bytes())
    for build, name in ((demo, "demo car"), (many_loads(LARGE), "400 loads")):
        print(f"the bench, {name}")
        bench = Bench(size_build(build))
        network = bench.rig.network
        right = np.ones(network.node_count - 1)
        matrix = network.equations.jacobian(np.ones(len(network.elements)), right)
        bare = partial(factor_and_solve, matrix, right)
        show("a minute, nothing moves", times_ms(partial(pass_a_minute, bench), 5))
        all_on(bench, 361.0)
        from_s, steps_ms, bare_ms = bench.moment.t_s, [], []
        while bench.moment.t_s < from_s + 10.0:
            steps_ms.append(once_ms(partial(one_step, bench)))
            bare_ms.append(once_ms(bare))  # between the steps: a processor changes its speed
        times = 1000 * (bench.moment.t_s - from_s) / sum(steps_ms)
        print(f"  {'everything on':26}{times:8.0f} × real time, {len(steps_ms) / 10:.0f} steps a s")
        show("a step", steps_ms)
        ratio = statistics.median(steps_ms) / statistics.median(bare_ms)
        print(f"  {'a step against bare':26}{ratio:8.1f} ×")
    measure_hour(size_build(demo))


DEMOS = ("saltmarsh-roadster", "fernhill-half-ton-van", "quarrel-hill-rally-coupe")
DEALS = 100
"""Faults that are dealt and looked for in each demo car."""


def measure_proving() -> None:
    """The plan of each demo car written, and the share of faults that fail some step of it."""
    for name in DEMOS:
        sizing = demo(name)
        plan_of(sizing)
        show(f"the plan written, {name}", times_ms(lambda sizing=sizing: plan_of(sizing), 3))
        dealer = Dealer(sizing)
        faults = one_of_each_kind(dealer, "measured", 6)
        share = sum(bool(caught(dealer, fault)) for fault in faults) / len(faults)
        print(f"  faults that fail some step {100 * share:6.1f} %, of {len(faults)}")


def measure_finding() -> None:
    """Faults dealt at the bench by a seed that no test uses, and looked for; and how long it takes
    to weigh suspects by ten observations."""
    for name in DEMOS:
        dealer = Dealer(demo(name))
        ends_s = time.perf_counter() + FINDING_S
        games: list[Game] = []
        for number in range(DEALS):
            if time.perf_counter() > ends_s:
                break
            games.append(dealer.play([dealer.dealt(f"measured {number}")]))
        seen = [game for game in games if game.seen]
        tests = sorted(game.tests for game in seen)
        found = sum(game.found is not None for game in seen) / max(len(seen), 1)
        by_hand = sum(game.minutes for game in seen) / max(sum(game.fixed for game in seen), 1.0)
        pairs = []
        for number in range(0, DEALS, 2):
            if time.perf_counter() > ends_s + FINDING_S / 2:
                break
            two = [dealer.dealt(f"measured pair {at}") for at in (number, number + 1)]
            pairs.append(dealer.play_on(two))
        shown = [row for row in pairs if row is not None]
        print(f"faults dealt in {name}: {len(games)}, of which {len(seen)} can be seen")
        print(f"  found                     {100 * found:6.1f} %")
        print(f"  tests, median             {statistics.median(tests):6.0f}")
        print(f"  tests, 95th of a hundred  {tests[int(0.95 * (len(tests) - 1))]:6.0f}")
        print(f"  minutes against the fixed order {by_hand:6.2f}")
        share = 100 * sum(shown) / max(len(shown), 1)
        print(f"  pairs found               {share:6.1f} %, of {len(shown)}")
    dealer = Dealer(demo(DEMOS[0]))
    walked = Table(dealer, [Fault("open wire", "w196")]).walk()
    for what, observed in (("ten observations", walked[:10]), ("a whole walk", walked)):

        def weigh(predictor: Predictor, observed: list[Seen] = observed) -> int:
            finder = Finder(predictor, dealer.situations)
            finder.observe(*observed)
            return len(finder.suspects)

        first = [Predictor(dealer.build, Today()) for _ in range(5)]
        print(f"{weigh(first.pop())} suspects weighed by {what}")
        show("for the first time", times_ms(lambda: weigh(first.pop()), 3))  # noqa: B023
        show("the same again", times_ms(lambda: weigh(dealer.predictor), 5))


def factor_and_solve(matrix: csc_array, right: Vector) -> Vector:
    found: Vector = splu(matrix, "MMD_AT_PLUS_A").solve(right)
    return found


def one_step(bench: Bench) -> None:
    bench.run(bench.moment.t_s + bench.next_step_s())


def pass_a_minute(bench: Bench) -> None:
    bench.run(bench.moment.t_s + 60.0)


def all_on(bench: Bench, at_s: float) -> None:
    """The key at run, everything switched on, flashers and wipers going."""
    rows: list[dict[str, object]] = [{"at_s": at_s, "do": "key", "to": "run"}]
    still = ("isolator", "inertia", "horn", "push", "start")
    for part in switches_of(bench.build):
        worked = part.contacts and part.kind in ("switch", "button")
        if worked and not any(word in part.id for word in still):
            to = "slow" if "wiper" in part.id else part.contacts.positions[-1].name
            rows.append({"at_s": at_s, "do": "switch", "of": part.id, "to": to})
    for action in script_from(rows, bench.build).actions:
        bench.act(action)
    bench.run(at_s + 1.0)


def measure_hour(sizing: Sizing) -> None:
    """An hour of random actions: what is lost of charge and power, and what memory it takes."""
    bench, draw = Bench(sizing), random.Random(11)
    switches = [p for p in switches_of(bench.build) if p.kind == "switch" and p.contacts]
    watts, at_s, loose, began_s = 0.0, 0.0, 0, time.process_time()
    held_kb = 0
    while at_s < HOUR_S:
        at_s += draw.expovariate(1 / 5)
        part = draw.choice(switches)
        row = {"at_s": at_s, "do": "switch", "of": part.id}
        row["to"] = draw.choice(part.contacts.positions).name
        if draw.random() < 0.25:
            key = draw.choice(("off", "accessory", "run", "run", "crank"))
            row = {"at_s": at_s, "do": "key", "to": key}
        (action,) = script_from([row], bench.build).actions
        bench.act(action)
        del bench.tape[:-400]
        operating = bench.point.operating
        power_w = operating.element_v * operating.element_a
        watts = max(watts, abs(float(power_w.sum())) / max(float(np.abs(power_w).max()), 1.0))
        loose += not bench.point.settled
        if at_s > HOUR_S / 2 and not held_kb:
            held_kb = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    grown_mb = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - held_kb) / 1e3
    print(f"an hour of anything: {time.process_time() - began_s:.0f} s")
    print(f"  power balance within {watts:.1e}, {loose} instants unsettled")
    print(f"  memory grown in its second half: {grown_mb:.1f} MB")


def measure_click(server: RunningServer) -> None:
    """From a click on the bench to the frame that shows it."""
    post(server, "/api/builds/1/bench/clear", b"{}")
    bodies = (
        json.dumps({"actions": [{"do": "key", "to": to}]}).encode() for to in ("run", "off") * 10
    )
    show("click to first frame", times_ms(lambda: post(server, BENCH_DO, next(bodies)), 15))


def edit_times_ms(
    server: RunningServer, build: Build, repeats: int, operation: Callable[[Build, int], dict]
) -> list[float]:
    """Edits, each new to the server, from request to the last byte of the answer."""
    identity = json.loads(post(server, "/api/builds", write(build).encode()))["id"]
    revision = count()

    sent: list[bytes] = []

    def edit() -> None:
        base = next(revision)
        body = {"base": base, "label": "Edit", "operations": [operation(build, base)]}
        sent.append(post(server, f"/api/builds/{identity}/edits", json.dumps(body).encode()))

    taken_ms = times_ms(edit, repeats)
    print(f"  {'  its answer, compressed':26}{len(sent[-1]) / 1000:8.1f} kB")
    return taken_ms


def changed_rating(build: Build, base: int) -> dict:
    """Another current for the first load."""
    load = build.parts_of_kind("load")[0].id
    fields = {"figures": {"rated_a": 4 + base / 100}}
    return {"op": "change", "collection": "parts", "id": load, "fields": fields}


def renamed_load(build: Build, base: int) -> dict:
    """Another name for the first load."""
    load = build.parts_of_kind("load")[0].id
    return {"op": "change", "collection": "parts", "id": load, "fields": {"name": f"Load {base}"}}


def moved_place(build: Build, base: int) -> dict:
    """Another spot on the plan for the last place."""
    place = list(build.places)[-1]
    return {"op": "change", "collection": "places", "id": place, "fields": {"x_m": base / 100}}


def pasted_rows(build: Build, base: int) -> dict:
    """Two hundred new loads."""
    names = [f"Lamp {base}-{number}" for number in range(200)]
    rows = [{"cells": {"name": name, "what": "Courtesy lamp 5 W"}} for name in names]
    return {"op": "set_cells", "rows": rows}


def post(server: RunningServer, path: str, body: bytes) -> bytes:
    """The answer to a request with this body, as it is sent to a browser."""
    headers = {"Content-Type": "application/json", "Accept-Encoding": "gzip"}
    request = urllib.request.Request(server.address.rstrip("/") + path, body, headers)
    with urllib.request.urlopen(request) as answer:
        return bytes(answer.read())


def measure_first_screen(server: RunningServer) -> None:
    """From an empty browser to a list that takes typing, and the script that it took."""
    with sync_playwright() as playwright:
        browser = launch(playwright)
        usable_ms = []
        for _ in range(7):
            context = browser.new_context()
            context.add_init_script("localStorage.setItem('oilstone-care-read', 'yes')")
            page = context.new_page()
            script_bytes: list[int] = []
            watch_scripts(page, script_bytes)
            start = time.perf_counter()
            page.goto(f"{server.address}builds/1/stock", wait_until="commit")
            page.locator("#new-load").fill("Horn")
            usable_ms.append((time.perf_counter() - start) * 1000)
            page.wait_for_load_state("networkidle")
            context.close()
        browser.close()
    print("first screen, the notice read, nothing cached")
    show("usable", usable_ms)
    print(f"  {'script, compressed':26}{sum(script_bytes) / 1000:8.0f} kB")


def watch_scripts(page: Page, sizes: list[int]) -> None:
    """Note the size on the wire of every script that the page loads."""

    def finished(request: object) -> None:
        if request.resource_type == "script":  # type: ignore[attr-defined]
            sizes.append(request.sizes()["responseBodySize"])  # type: ignore[attr-defined]

    page.on("requestfinished", finished)


def times_ms(run: Callable[[], object], repeats: int) -> list[float]:
    """Times of a few runs in milliseconds, after one that warms up."""
    run()
    return [once_ms(run) for _ in range(repeats)]


def once_ms(run: Callable[[], object]) -> float:
    """The time of one run in milliseconds."""
    start = time.perf_counter()
    run()
    return (time.perf_counter() - start) * 1000


def show(what: str, taken_ms: list[float]) -> None:
    """Median and 95th percentile."""
    high_ms = statistics.quantiles(taken_ms, n=20, method="inclusive")[-1]
    print(f"  {what:26}{statistics.median(taken_ms):8.1f} ms   95 % within {high_ms:.1f} ms")


if __name__ == "__main__":
    main()
