"""Places, runs and the bundles of wires in them."""

from circuitry.layout.bundles import Bundle, bundles
from circuitry.layout.findings import far_from_drawn, layout_findings
from circuitry.layout.pinning import pinned_way

__all__ = ["Bundle", "bundles", "far_from_drawn", "layout_findings", "pinned_way"]
