"""What recipes write where modules take the place of fuses and relays: one writer a recipe.

Each asks the same questions as its recipe. Conditions name what the module hears; who reads them
reads the function: ``flash((ignition and turn_left) or hazard)``.
"""

from collections.abc import Callable, Mapping

from circuitry.errors import UnusableInput
from circuitry.recipes.job import Job
from circuitry.recipes.lamps import ONE_FUSE, SIDES
from circuitry.recipes.logic import switch_output
from circuitry.recipes.modules import Channel, OnModules, all_of, any_of
from circuitry.recipes.motors import box_output, has_interval, wiper_motor


def headlamps(job: Job) -> None:
    """A channel for each beam of each side; the dip switch has its ground from the light switch."""
    at = OnModules(job)
    light, dip = job.need_switch("light_switch"), job.need_switch("dip_switch")
    dipped = [job.need_load("dip_left"), job.need_load("dip_right")]
    main = [job.load("main_left"), job.load("main_right")]
    telltale, _, together = job.load("telltale"), job.flag("relays"), job.choice("fuses")
    at.grounded(light)
    job.feed_once(light, "head", dip, "in")
    if dip.contacts and "live" in dip.contacts.terminals:
        at.beside(light, dip, "live")
    for beam, lamps in (("dip", dipped), ("main", main)):
        groups = [lamps] if together == ONE_FUSE else [[lamp] for lamp in lamps]
        lit = [group for group in groups if any(group)]
        if beam == "main" and lit:
            lit[0] = [*lit[0], telltale]
        for group in lit:
            channel = at.channel(*group)
            at.on(channel, at.told(channel, dip, beam), *group)


def side_and_tail(job: Job) -> None:
    """Front and rear on channels of their own, by side where that is asked for."""
    at, light = OnModules(job), job.need_switch("light_switch")
    ends = {end: [job.load(f"{end}_{side}") for side in SIDES] for end in ("front", "rear")}
    plate, instruments = job.loads("plate"), job.loads("instruments")
    together = job.choice("fuses") == ONE_FUSE
    for end, more in (("front", instruments), ("rear", plate)):
        groups = [ends[end]] if together else [[lamp] for lamp in ends[end]]
        lit = [group for group in groups if any(group)] or ([[]] if more else [])
        for number, group in enumerate(lit):
            lamps = [*group, *(more if number == 0 else ())]
            channel = at.channel(*lamps)
            at.on(channel, at.told(channel, light, "side"), *lamps)


def stop_lamps(job: Job) -> None:
    """The pedal on an input of the module that feeds the lamps; left and right apart."""
    at, pedal, key = OnModules(job), job.need_switch("pedal"), job.choice("key")
    left, right, more = job.need_load("left"), job.load("right"), job.loads("more")
    for lamps in ([left], [right, *more]):
        if any(lamps):
            channel = at.channel(*lamps)
            pressed = at.told_surely(channel, pedal, "out")
            at.on(channel, at.with_key(channel, key, pressed), *lamps)


def turn_and_hazard(job: Job) -> None:
    """Channels that flash by themselves: no flasher, and LED lamps as well as filaments."""
    at = OnModules(job)
    turn, hazard = job.need_switch("turn_switch"), job.switch("hazard_switch")
    job.choice("new_flasher")
    for side in SIDES:
        front = [job.need_load(f"front_{side}"), *job.loads(f"more_{side}")]
        front.append(job.load(f"telltale_{side}"))  # type: ignore[arg-type]
        for lamps in (front, [job.load(f"rear_{side}")]):
            if any(lamps):
                channel = at.channel(*lamps)
                turning = at.with_key(channel, "run", at.told(channel, turn, side))
                both = (
                    at.told(channel, hazard, "left", common="49a", called="hazard")
                    if hazard
                    else ""
                )
                at.on(channel, f"flash({any_of(turning, both)})", *lamps)


def reversing(job: Job) -> None:
    """Lamps by the gear switch, and by the fog switch where they are fogs too; the sounder never
    by that."""
    at, gear = OnModules(job), job.need_switch("gear")
    lamps, sounder = [job.need_load("left"), job.load("right")], job.load("sounder")
    fog = job.switch("fog_switch") if job.flag("as_fogs") else None
    channel = at.channel(*lamps, None if fog else sounder)
    backwards = at.with_key(channel, "run", at.told(channel, gear, "out"))
    foggy = at.with_key(channel, "run", at.told(channel, fog, "out")) if fog else ""
    at.on(channel, any_of(backwards, foggy), *lamps, None if fog else sounder)
    if fog and sounder:
        own = at.channel(sounder)
        at.on(own, at.with_key(own, "run", at.told(own, gear, "out")), sounder)


def fogs(job: Job) -> None:
    """Front fogs with the side lamps, and not with main beam where that is asked for; a rear fog
    only with dipped beam or front fogs."""
    at = OnModules(job)
    light, dip = job.need_switch("light_switch"), job.switch("dip_switch")
    front, rear = [job.load("front_left"), job.load("front_right")], job.load("rear")
    front_switch = job.switch("front_switch") if any(front) else None
    without_main = job.flag("off_with_main")
    if dip is not None:
        at.grounded(light)
        job.feed_once(light, "head", dip, "in")

    def fogged(channel: Channel) -> str:
        return all_of(at.told(channel, light, "side"), at.told(channel, front_switch, "out"))  # type: ignore[arg-type]

    if front_switch is not None:
        channel = at.channel(*front)
        main = f"not {at.told(channel, dip, 'main')}" if without_main and dip else ""
        at.on(channel, all_of(fogged(channel), main), *front)
    if rear is not None:
        switch, telltale = job.need_switch("rear_switch"), job.load("telltale")
        channel = at.channel(rear, telltale)
        dipped = at.told(channel, dip, "dip") if dip else at.told(channel, light, "head")
        allowed = any_of(dipped, fogged(channel) if front_switch else "")
        at.on(channel, all_of(at.told(channel, switch, "out"), allowed), rear, telltale)


def fan(job: Job) -> None:
    """One channel by thermostat or override."""
    at, motor = OnModules(job), job.need_load("motor")
    controls = [job.need_switch("thermostat"), job.switch("override")]
    key, _ = job.choice("key"), job.choice("control")
    channel = at.channel(motor)
    hot = any_of(*(at.told(channel, part, "out") for part in controls if part))
    at.on(channel, at.with_key(channel, key, hot), motor)


def wipers(job: Job) -> None:
    """A channel for each brush; the slow one stays on until the park contact grounds its input."""
    at, switch = OnModules(job), job.need_switch("switch")
    unit, slow, fast = wiper_motor(job)
    pump = job.load("pump")
    slowly, fastly = at.channel(slow), at.channel(fast)
    wiping = at.told(slowly, switch, "slow")
    if has_interval(switch):
        wiping = any_of(wiping, f"flash({at.told(slowly, switch, 'interval')})")
    parked = at.told(slowly, unit, "31b", called="wiper-parked")
    faster = at.told(slowly, switch, "fast")
    until_parked = f"{wiping} or (not {parked} and not {faster})"
    at.on(slowly, at.with_key(slowly, "run", until_parked), slow)
    at.on(fastly, at.with_key(fastly, "run", at.told(fastly, switch, "fast")), fast)
    if pump is not None:
        washing = at.channel(pump)
        at.on(washing, at.with_key(washing, "run", at.told(washing, switch, "wash")), pump)


def horn(job: Job) -> None:
    """One channel while the push grounds its input."""
    at, key, _ = OnModules(job), job.choice("key"), job.choice("push_does")
    horns, push = [job.need_load("horn"), *job.loads("more")], job.need_switch("push")
    channel = at.channel(*horns)
    at.on(channel, at.with_key(channel, key, at.told(channel, push, "out")), *horns)


def fuel_pump(job: Job) -> None:
    """On while the engine runs or the prime button is held, and never after a crash."""
    at, pump, prime = OnModules(job), job.need_load("pump"), job.switch("prime")
    inertia, by_oil = job.switch("inertia"), job.choice("held_by") == "oil pressure"
    channel = at.channel(pump)
    if by_oil:
        running = at.told(channel, job.need_switch("oil_switch"), "out")
    else:
        running = at.told(channel, *box_output(job), called="pump-wanted")
    primed = at.told(channel, prime, "out") if prime else ""
    sound = at.told(channel, inertia, "out") if inertia else ""
    wanted = all_of(sound, any_of(running, primed))
    at.on(channel, at.with_key(channel, "run", wanted), pump)


def reversed_by_relays(job: Job) -> None:
    """Two half-bridges: each lies at ground until its input is grounded."""
    at, motors = OnModules(job), [job.need_load("motor"), *job.loads("more")]
    switch, key = job.need_switch("switch"), job.choice("key")
    for way, terminal in (("up", "+"), ("down", "-")):
        channel = at.channel(*motors, bridge=True)
        at.on(channel, at.with_key(channel, key, at.told(channel, switch, way)))
        for motor in motors:
            job.feed(job.draft.parts[channel.module], channel.way, motor, terminal)


def plain_load(job: Job) -> None:
    """One channel by its switch, or by the key alone; one for each load where that is too much."""
    at, switch = OnModules(job), job.switch("switch")
    loads = [job.need_load("load"), *job.loads("more")]
    key, _, shed = job.choice("key"), job.choice("through"), job.flag("shed")
    if switch is None and key == "always":
        raise UnusableInput(
            "never-off",
            "switch",
            "A channel needs something that it is on by: choose a switch, or a key position.",
        )
    output = switch_output(job, switch) if switch else ""
    for group in [loads] if at.bears(loads) else [[load] for load in loads]:
        channel = at.channel(*group)
        asked = at.told(channel, switch, output) if switch else ""
        calm = f"not {at.cranking(channel)}" if shed else ""
        at.on(channel, all_of(at.with_key(channel, key, asked), calm), *group)


WRITERS: Mapping[str, Callable[[Job], None]] = {
    "headlamps": headlamps,
    "side-and-tail": side_and_tail,
    "stop-lamps": stop_lamps,
    "turn-and-hazard": turn_and_hazard,
    "reversing": reversing,
    "fogs": fogs,
    "fan": fan,
    "wipers": wipers,
    "horn": horn,
    "fuel-pump": fuel_pump,
    "reversed-by-relays": reversed_by_relays,
    "plain-load": plain_load,
}
