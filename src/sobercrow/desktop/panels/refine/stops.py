"""The stops of a gradient: their colours, more and fewer of them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from sobercrow.core.artwork.paint import Gradient, Stop
from sobercrow.desktop.controls import doing, group_column, label, row_of
from sobercrow.desktop.swatches import Swatches

MOST_STOPS = 8


class StopsPart:
    """A swatch for each stop; a click colours it anew."""

    def __init__(self, pick: Callable[[str, str], str | None], take: Callable[[Gradient], None]) -> None:
        """Ask for colours by `pick`, and give changed gradients to `take`."""
        self._pick, self._take = pick, take
        self.gradient: Gradient | None = None
        self.swatches = Swatches("Stops", "The colours of the gradient, from its beginning; click one to change it.")
        self.swatches.chosen_at.connect(self.recolour)
        self.more = doing("More", "One more stop, in the widest gap.", self.add)
        self.fewer = doing("Fewer", "Takes a stop between the ends away.", self.take_away)
        self.turn = doing("Turn round", "The other way.", self.reverse)
        self.group = group_column(
            label("Gradient", strong=True), self.swatches, row_of(self.more, self.fewer, self.turn)
        )

    def show(self, gradient: Gradient | None) -> None:
        """Show a gradient, or nothing."""
        self.gradient = gradient
        self.group.setVisible(gradient is not None)
        if gradient is not None:
            self.swatches.show_colours([stop.colour for stop in gradient.stops], None)
            self.fewer.setEnabled(len(gradient.stops) > 2)
            self.more.setEnabled(len(gradient.stops) < MOST_STOPS)

    def recolour(self, k: int) -> None:
        """Have another colour chosen for a stop."""
        gradient = self.gradient
        if gradient is None:
            return
        colour = self._pick(gradient.stops[k].colour, "Colour of the stop")
        if colour is not None:
            stops = [replace(stop, colour=colour) if n == k else stop for n, stop in enumerate(gradient.stops)]
            self._take(replace(gradient, stops=tuple(stops)))

    def add(self) -> None:
        """Put a stop into the widest gap, of the colour that is there already."""
        gradient = self.gradient
        if gradient is None:
            return
        stops = gradient.stops
        k = max(range(len(stops) - 1), key=lambda n: stops[n + 1].at - stops[n].at)
        one, other = stops[k], stops[k + 1]
        middle = "#" + "".join(
            f"{round((int(one.colour[n : n + 2], 16) + int(other.colour[n : n + 2], 16)) / 2):02x}" for n in (1, 3, 5)
        )
        fresh = Stop(0.5 * (one.at + other.at), middle)
        self._take(replace(gradient, stops=(*stops[: k + 1], fresh, *stops[k + 1 :])))

    def take_away(self) -> None:
        """Take away the stop in the middle."""
        if self.gradient is not None and len(self.gradient.stops) > 2:
            k = len(self.gradient.stops) // 2
            self._take(replace(self.gradient, stops=(*self.gradient.stops[:k], *self.gradient.stops[k + 1 :])))

    def reverse(self) -> None:
        """Turn it round."""
        if self.gradient is not None:
            stops = tuple(Stop(1.0 - stop.at, stop.colour) for stop in reversed(self.gradient.stops))
            self._take(replace(self.gradient, stops=stops))
