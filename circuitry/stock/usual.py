"""What cars of a kind usually have: places, the runs that join them, switches and loads."""

from collections.abc import Mapping

# Name, zone, ambient °C, share of the length, share of the half width to the right, level, wet.
Row = tuple[str, str, float, float, float, str, bool]
PLACES: Mapping[str, Row] = {
    "front-left": ("Front left lamp", "exterior", 40, 0.06, -0.75, "waist", True),
    "front-right": ("Front right lamp", "exterior", 40, 0.06, 0.75, "waist", True),
    "nose": ("Nose, behind the radiator", "exterior", 60, 0.1, 0.0, "waist", True),
    "bulkhead": ("Bulkhead, front side", "engine bay", 60, 0.32, -0.1, "waist", True),
    "panel-shelf": ("Panel shelf", "cabin", 40, 0.39, -0.5, "waist", False),
    "dash": ("Dash", "cabin", 40, 0.41, 0.15, "waist", False),
    "column": ("Steering column", "cabin", 40, 0.44, 0.45, "waist", False),
    "pedals": ("Pedal box", "cabin", 40, 0.36, 0.45, "floor", False),
    "tunnel": ("Tunnel, behind the lever", "cabin", 40, 0.55, 0.0, "floor", False),
    "luggage": ("Luggage space", "luggage", 35, 0.84, 0.2, "floor", False),
    "tank": ("Fuel tank", "underbody", 40, 0.78, -0.4, "floor", True),
    "rear": ("Tail, middle", "exterior", 35, 0.96, 0.0, "waist", True),
    "rear-left": ("Rear left lamp", "exterior", 35, 0.96, -0.8, "waist", True),
    "rear-right": ("Rear right lamp", "exterior", 35, 0.96, 0.8, "waist", True),
    "roof": ("Roof, middle", "cabin", 45, 0.5, 0.3, "roof", False),
    "door-left": ("Left door", "door", 40, 0.5, -0.95, "waist", True),
    "door-right": ("Right door", "door", 40, 0.5, 0.95, "waist", True),
}
ENGINE_SHARE = {"front": 0.21, "middle": 0.7, "rear": 0.88}
ENGINE_JOINS = {"front": "bulkhead", "middle": "tunnel", "rear": "luggage"}
JOINS = (
    ("nose", "front-left"),
    ("nose", "front-right"),
    ("bulkhead", "nose"),
    ("panel-shelf", "bulkhead"),
    ("panel-shelf", "dash"),
    ("dash", "column"),
    ("panel-shelf", "pedals"),
    ("panel-shelf", "tunnel"),
    ("tunnel", "luggage"),
    ("luggage", "tank"),
    ("luggage", "rear"),
    ("rear", "rear-left"),
    ("rear", "rear-right"),
    ("dash", "roof"),
    ("panel-shelf", "door-left"),
    ("dash", "door-right"),
)

# Name, what it is, place, live from, switched by, through, state.
Line = tuple[str, str, str, str, str, str, str]
ROAD_SWITCHES = (
    ("Light switch", "Light switch, side and head", "dash"),
    ("Dip switch", "Dip switch", "column"),
    ("Turn switch", "Turn switch", "column"),
    ("Hazard switch", "Hazard switch", "dash"),
    ("Brake pedal", "Pedal switch", "pedals"),
    ("Reversing switch", "Gear switch", "engine"),
    ("Rear fog switch", "Switch, off and on", "dash"),
)
"""A car without lamps for the road has none of them, and nothing that they work."""
SWITCHES = (("Horn push", "Push button", "column"),)
ROAD_LAMPS: tuple[Line, ...] = (
    *(
        (
            f"Dipped beam {side}",
            "Dipped beam halogen 55 W",
            f"front-{side}",
            "always",
            "Light switch, head",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Main beam {side}",
            "Main beam halogen 60 W",
            f"front-{side}",
            "always",
            "Dip switch, main",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Side lamp {side}",
            "Side lamp 5 W",
            f"front-{side}",
            "always",
            "Light switch, side",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Tail lamp {side}",
            "Tail lamp 5 W",
            f"rear-{side}",
            "always",
            "Light switch, side",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    *(
        (
            f"Stop lamp {side}",
            "Stop lamp 21 W",
            f"rear-{side}",
            "always",
            "Brake pedal",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    (
        "High stop lamp",
        "High stop lamp LED",
        "rear",
        "always",
        "Brake pedal",
        "direct",
        "to decide",
    ),
    *(
        (
            f"Turn lamp {end} {side}",
            "Turn lamp 21 W",
            f"{end}-{side}",
            "run",
            f"Turn switch, {side}",
            "direct",
            "new",
        )
        for end in ("front", "rear")
        for side in ("left", "right")
    ),
    (
        "Number-plate lamp",
        "Number-plate lamp 5 W",
        "rear",
        "always",
        "Light switch, side",
        "direct",
        "new",
    ),
    (
        "Reversing lamp",
        "Reversing lamp 21 W",
        "rear-left",
        "run",
        "Reversing switch",
        "direct",
        "to decide",
    ),
    (
        "Rear fog lamp",
        "Rear fog lamp 21 W",
        "rear-right",
        "run",
        "Rear fog switch",
        "direct",
        "to decide",
    ),
)
ALWAYS_THERE: tuple[Line, ...] = (
    ("Horn", "Horn", "nose", "always", "Horn push", "relay", "new"),
    ("Instrument cluster", "Instrument cluster", "dash", "run", "", "direct", "to decide"),
    (
        "Instrument lamp",
        "Instrument lamp 2.2 W",
        "dash",
        "always",
        "Light switch, side",
        "direct",
        "new",
    ),
    ("Main beam telltale", "Telltale LED", "dash", "always", "Dip switch, main", "direct", "new"),
    ("Starter motor", "Starter motor geared 1.4 kW", "engine", "", "", "", "to decide"),
)
CARBURETTOR: tuple[Line, ...] = (
    ("Fuel pump", "Fuel pump carburettor", "tank", "run", "Inertia switch", "direct", "to decide"),
    ("Ignition coil", "Ignition coil single", "engine", "run", "", "direct", "to decide"),
)
BY_OPTION: Mapping[str, tuple[Line, ...]] = {
    "heater": (
        (
            "Heater blower",
            "Heater blower full",
            "bulkhead",
            "run",
            "Blower switch",
            "relay",
            "to decide",
        ),
    ),
    "wipers": (
        (
            "Wiper motor",
            "Wiper motor slow",
            "bulkhead",
            "run",
            "Wiper switch, slow",
            "direct",
            "to decide",
        ),
        ("Washer pump", "Washer pump", "nose", "run", "Wiper switch, wash", "direct", "new"),
    ),
    "electric windows": tuple(
        (
            f"Window motor {side}",
            "Window motor",
            f"door-{side}",
            "run",
            f"Window switch {side}",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    "central locks": tuple(
        (
            f"Door lock {side}",
            "Door lock actuator",
            f"door-{side}",
            "always",
            "Lock switch",
            "direct",
            "new",
        )
        for side in ("left", "right")
    ),
    "electric fan": (
        (
            "Radiator fan",
            "Radiator fan 400 mm",
            "nose",
            "run",
            "Radiator thermostat",
            "relay",
            "to decide",
        ),
    ),
    "injection": (
        ("Fuel pump", "Fuel pump injection", "tank", "run", "Inertia switch", "relay", "to decide"),
        ("Engine control box", "Engine control box", "panel-shelf", "run", "", "relay", "new"),
        ("Injectors", "Injectors set of four", "engine", "run", "", "relay", "new"),
        ("Ignition coils", "Ignition coils set of four", "engine", "run", "", "relay", "new"),
        ("Lambda heater", "Lambda heater", "engine", "run", "", "relay", "new"),
        ("Idle valve", "Idle valve", "engine", "run", "", "relay", "to decide"),
    ),
    "audio": (
        ("Radio", "Radio", "dash", "accessory", "", "direct", "new"),
        ("Amplifier", "Amplifier", "luggage", "accessory", "", "relay", "to decide"),
    ),
    "power sockets": (
        ("Power socket", "Power socket", "dash", "accessory", "", "direct", "new"),
        ("USB charger", "USB charger", "tunnel", "accessory", "", "direct", "new"),
    ),
    "worklights": tuple(
        (
            f"Worklight {side}",
            "Driving lamp halogen 100 W",
            f"rear-{side}",
            "accessory",
            "Worklight switch",
            "relay",
            "to decide",
        )
        for side in ("left", "right")
    ),
    "tow socket": tuple(
        (f"Trailer {what}", row, "rear", "always", switch, "direct", "to decide")
        for what, row, switch in (
            ("tail lamps", "Trailer tail lamps LED with driver", "Light switch, side"),
            ("stop lamps", "Trailer stop lamps LED with driver", "Brake pedal"),
            ("turn lamp left", "Trailer turn lamp LED with driver", "Turn switch, left"),
            ("turn lamp right", "Trailer turn lamp LED with driver", "Turn switch, right"),
        )
    ),
}
OPTION_SWITCHES: Mapping[str, tuple[tuple[str, str, str], ...]] = {
    "heater": (("Blower switch", "Three-speed switch", "dash"),),
    "wipers": (("Wiper switch", "Wiper switch with park and wash", "column"),),
    "electric windows": tuple(
        (f"Window switch {side}", "Reversing switch", "tunnel") for side in ("left", "right")
    ),
    "central locks": (("Lock switch", "Up and down switch", "dash"),),
    "electric fan": (("Radiator thermostat", "Thermostat switch", "nose"),),
    "worklights": (("Worklight switch", "Switch, off and on", "dash"),),
}
SENSORS = (
    ("Inertia switch", "Inertia switch", "bulkhead"),
    ("Oil-pressure switch", "Oil-pressure switch", "engine"),
    ("Coolant temperature sender", "Temperature sender", "engine"),
    ("Fuel-level sender", "Fuel-level sender", "tank"),
)
