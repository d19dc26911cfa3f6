"""The car from above on paper: its outline, places by number, runs as wide as their bundles."""

from reportlab.platypus import Flowable

from circuitry.design.model import Build
from circuitry.layout.bundles import bundles
from circuitry.printing.paper import BOLD

EDGE, DOT, LEAST_LINE = 12.0, 7.0, 0.6
LINE_PER_MM = 0.12
"""Points of line for a millimetre of bundle."""
NEAR = 13.0
"""Closer than this two dots would lie on each other; the later one is moved beside."""


class CarPlan(Flowable):
    """The plan of a car, its nose up, within a width and a height in points."""

    def __init__(self, build: Build, width: float, height: float) -> None:
        super().__init__()
        self.build = build
        body = build.body
        self.scale = min(
            (height - 2 * EDGE) / body.length_m, (width - 2 * EDGE) / (1.25 * body.width_m)
        )
        self.width, self.height = width, body.length_m * self.scale + 2 * EDGE

    def draw(self) -> None:
        """Outline, axles, runs and places."""
        canvas, body = self.canv, self.build.body
        middle, half = self.width / 2, body.width_m / 2 * self.scale
        canvas.setLineWidth(0.8)
        canvas.roundRect(middle - half, EDGE, 2 * half, body.length_m * self.scale, half / 2.5)
        canvas.setDash(3, 3)
        for axle_m in (body.front_axle_m, body.rear_axle_m):
            y = self.height - EDGE - axle_m * self.scale
            canvas.line(middle - half, y, middle + half, y)
        canvas.setDash()
        at = self._dots()
        found = bundles(self.build)
        for run in self.build.runs.values():
            canvas.setLineWidth(max(LEAST_LINE, LINE_PER_MM * found[run.id].diameter_mm))
            canvas.line(*at[run.from_place], *at[run.to_place])
        canvas.setLineWidth(0.8)
        for number, place in enumerate(self.build.places, 1):
            x, y = at[place]
            canvas.setFillColorRGB(1, 1, 1)
            canvas.circle(x, y, DOT, fill=1)
            canvas.setFillColorRGB(0, 0, 0)
            canvas.setFont(BOLD, 7.5)
            canvas.drawCentredString(x, y - 2.6, str(number))

    def _dots(self) -> dict[str, tuple[float, float]]:
        """Where each place is drawn: none on another."""
        found: dict[str, tuple[float, float]] = {}
        for place in self.build.places.values():
            x = self.width / 2 + place.y_m * self.scale
            y = self.height - EDGE - place.x_m * self.scale
            while any(abs(x - a) < NEAR and abs(y - b) < NEAR for a, b in found.values()):
                x += NEAR
            found[place.id] = x, y
        return found
