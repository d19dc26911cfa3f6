"""Reference figures: published limits and typical values, loaded once and typed."""

from circuitry.catalogue.tables import (
    Catalogue,
    Conductor,
    ConnectorContact,
    Fuse,
    FuseCurvePoint,
    Insulation,
    Joint,
    Load,
    Relay,
    Ring,
    catalogue,
)

__all__ = [
    "Catalogue",
    "Conductor",
    "ConnectorContact",
    "Fuse",
    "FuseCurvePoint",
    "Insulation",
    "Joint",
    "Load",
    "Relay",
    "Ring",
    "catalogue",
]
