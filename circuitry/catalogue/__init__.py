"""Reference figures: published limits and typical values, loaded once and typed."""

from circuitry.catalogue.tables import (
    USUAL_SHELF,
    Catalogue,
    Conductor,
    ConnectorContact,
    DropLimit,
    Fuse,
    FuseCurvePoint,
    Insulation,
    Joint,
    Load,
    Module,
    Relay,
    Ring,
    TerminalRange,
    catalogue,
)

__all__ = [
    "USUAL_SHELF",
    "Catalogue",
    "Conductor",
    "ConnectorContact",
    "DropLimit",
    "Fuse",
    "FuseCurvePoint",
    "Insulation",
    "Joint",
    "Load",
    "Module",
    "Relay",
    "Ring",
    "TerminalRange",
    "catalogue",
]
