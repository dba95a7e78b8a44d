"""Light and tone: even light, stains, black and white point, grey from a mix of channels."""

from __future__ import annotations

import math
from dataclasses import replace
from functools import partial

from PySide6.QtWidgets import QWidget

from sobercrow.core.cleanup.clean import tone_at
from sobercrow.core.cleanup.grey_mix import automatic_mix
from sobercrow.core.cleanup.pencils import pencil_at
from sobercrow.core.errors import SettingError
from sobercrow.core.job import Job
from sobercrow.core.settings import GreyMix, Levels, Settings, meaning_of
from sobercrow.desktop.controls import NumberField, button, headed, label, row_of
from sobercrow.desktop.document import Document
from sobercrow.desktop.histogram import Histogram, Mark
from sobercrow.desktop.panels.clean_up.part import Part
from sobercrow.desktop.panels.clean_up.sheet import Wishes
from sobercrow.desktop.presentation import Presentation
from sobercrow.desktop.steps import stage_cost
from sobercrow.desktop.swatches import Swatches

LEVELS = ("black", "midtone", "white")
CHANNELS = ("red", "green", "blue")


class LightPart(Part):
    """Even light, and stains lifted."""

    title = "Light"

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        self.automatic = button("Choose automatically", "Choose automatically\nEvens out the light where it falls off.")
        self.automatic.setCheckable(True)
        self.automatic.clicked.connect(lambda: self.change("Choose light automatically", light=None))
        self.found = label(muted=True)
        return [self.number("light", "Light", None), self.automatic, self.found, self.number("stains", "Light", 0.0)]

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        shade, settings = presentation.results.sheet.shade, self.settings
        strength = settings.light if settings.light is not None else (100.0 if shade is not None else 0.0)
        self.fields["light"].show_value(strength, settings.light is None)
        self.automatic.setChecked(settings.light is None)
        self.found.setText(
            f"It fell off by {100 * shade.fall_off:.0f} % {shade.darkest_side}; “Shade” above the canvas shows it."
            if shade is not None
            else "Nothing is taken out now."
        )
        self.fields["stains"].show_value(settings.stains, settings.stains == 0.0)

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        return "evened out" if presentation.results.sheet.shade is not None else "as it is"


class TonePart(Part):
    """Black point, midtone, white point."""

    title = "Tones"

    def __init__(self, document: Document, wishes: Wishes) -> None:
        """Work on a document's levels."""
        super().__init__(document)
        self._wishes = wishes
        self.picking: str | None = None
        self.histogram = Histogram("Tones of the picture")
        self.histogram.dragged.connect(self._dragged)
        self.automatic = button("Choose automatically", "Choose automatically\nInk goes to black and paper to white.")
        self.automatic.setCheckable(True)
        self.automatic.clicked.connect(self._automatic)
        self.levels = {name: NumberField(meaning_of(Levels, name), curved=name == "midtone") for name in LEVELS}
        for name, field in self.levels.items():
            field.changed.connect(partial(self.set_level, name))
            field.reset.connect(partial(self._reset, name))
        self.pick_black = button("Pick black", "Pick black\nClick on the canvas where the picture should become black.")
        self.pick_white = button("Pick white", "Pick white\nClick on the canvas where the picture should become white.")
        self.pick_black.clicked.connect(partial(self._pick, "black"))
        self.pick_white.clicked.connect(partial(self._pick, "white"))

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [
            self.histogram,
            headed(self.switch("levels", "Tones"), self.automatic),
            row_of(self.pick_black, self.pick_white),
            *self.levels.values(),
        ]

    def _reset(self, name: str) -> None:
        self.set_level(name, getattr(Levels(), name))

    def in_force(self) -> Levels:
        """The levels set, or those chosen from the picture."""
        given, presentation = self.settings.levels, self.document.presentation
        if given is not None:
            return given
        return presentation.results.sheet.levels if presentation is not None else Levels()

    def set_level(self, name: str, value: float) -> None:
        """Move one of the three, keeping black below white."""
        levels = self.in_force()
        titles = {"black": "Move black point", "midtone": "Move midtone", "white": "Move white point"}
        if name == "black":
            levels = replace(levels, black=min(max(round(value), 0), levels.white - 1))
        elif name == "white":
            levels = replace(levels, white=max(min(round(value), 255), levels.black + 1))
        else:
            levels = replace(levels, midtone=round(min(max(value, 0.1), 10.0), 2))
        self.change(titles[name], merge=f"levels {name}", switch_on="levels", levels=levels)

    def _dragged(self, name: str, tone: float) -> None:
        if name != "midtone":
            self.set_level(name, tone)
            return
        levels = self.in_force()
        share = (tone - levels.black) / (levels.white - levels.black)
        # the tone dragged to is the one that becomes middle grey: share ** (1 / midtone) = 1/2
        self.set_level("midtone", math.log(min(max(share, 0.002), 0.998)) / math.log(0.5))

    def _automatic(self) -> None:
        if self.settings.levels is None:
            self.change("Set tones by hand", levels=self.in_force())
        else:
            self.change("Choose tones automatically", levels=None)

    def _pick(self, which: str) -> None:
        self.picking = which
        self._wishes.tool.emit("pick")

    def picked(self, x: float, y: float) -> bool:
        """Take the tone at a place of the cleaned picture as black or white point, if one was asked for."""
        which, self.picking = self.picking, None
        if which is None:
            return False

        def look(job: Job, settings: Settings) -> float:
            return tone_at(job.sheet_before_levels(settings), settings.clean_up, x, y)

        def take(tone: float) -> None:
            levels = self.in_force()
            if (which == "black" and tone >= levels.white) or (which == "white" and tone <= levels.black):
                other = "darker than the white" if which == "black" else "lighter than the black"
                self.document.failed.emit(f"The place must be {other} point; pick another.")
            else:
                self.set_level(which, tone)

        self.document.ask_job(look, take)
        return True

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        levels, automatic = self.in_force(), self.settings.levels is None
        middle = levels.black + (levels.white - levels.black) * 0.5**levels.midtone
        marks = [
            Mark("black", levels.black, "#000000"),
            Mark("midtone", middle, "#808080"),
            Mark("white", levels.white, "#ffffff"),
        ]
        tones = presentation.results.sheet.tones
        if tones is not None:
            self.histogram.show_tones(tones, marks)
        self.automatic.setChecked(automatic)
        self.automatic.setToolTip(
            f"Choose automatically\nInk goes to black and paper to white.\n{stage_cost('Levels', self.document)}"
        )
        for name, field in self.levels.items():
            value = getattr(levels, name)
            field.show_value(value, automatic or value == getattr(Levels(), name))

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        levels = presentation.results.sheet.levels
        return f"{levels.black} to {levels.white}"


class GreyPart(Part):
    """Coloured pencil left out, and grey from a mix of channels."""

    title = "Colours to grey"

    def __init__(self, document: Document, wishes: Wishes) -> None:
        """Work on a document's pencils and mix."""
        super().__init__(document)
        self._wishes = wishes
        self.picking = False
        self.pick = button(
            "Leave out a pencil", "Leave out a pencil\nClick on a line in colour; graphite and ink over it stay."
        )
        self.pick.clicked.connect(self._pick)
        self.pencils = Swatches("Pencils left out", "Click a colour to have it back.")
        self.pencils.picked.connect(self._have_back)
        self.part_ink = button(
            "Part ink from paper", "Part ink from paper\nChooses the mix in which ink stands out and pencil fades."
        )
        self.part_ink.clicked.connect(self._automatic)
        self.keep = button("Keep colours", "Keep colours\nThe cleaned picture keeps its colours.")
        self.keep.clicked.connect(lambda: self.change("Keep colours", mix=None))
        self.channels = {name: NumberField(meaning_of(GreyMix, name), brief=True) for name in CHANNELS}
        for name, field in self.channels.items():
            field.changed.connect(partial(self._set, name))
            field.reset.connect(partial(self._reset, name))

    def widgets(self) -> list[QWidget]:
        """Return the widgets in their order."""
        return [
            headed(self.switch("pencils", "Coloured pencil"), self.pick),
            self.pencils,
            headed(self.switch("mix", "Mix of channels"), label("How much each channel counts.", muted=True)),
            row_of(self.part_ink, self.keep),
            *self.channels.values(),
        ]

    def _pick(self) -> None:
        self.picking = True
        self._wishes.tool.emit("pick")

    def picked(self, x: float, y: float) -> bool:
        """Leave out the coloured pencil at a place of the cleaned picture, if one was asked for."""
        if not self.picking:
            return False
        self.picking = False

        def look(job: Job, settings: Settings) -> str:
            enlarged = settings.clean_up.in_force().enlarge
            return pencil_at(job.sheet_as_laid(settings).pixels, x / enlarged, y / enlarged)

        def take(colour: str) -> None:
            kept = tuple(own for own in self.settings.pencils if own != colour)
            self.change("Leave out a pencil", switch_on="pencils", pencils=(*kept, colour))

        self.document.ask_job(look, take)
        return True

    def _have_back(self, colour: str) -> None:
        self.change("Have a pencil back", pencils=tuple(own for own in self.settings.pencils if own != colour))

    def _reset(self, name: str) -> None:
        self._set(name, getattr(GreyMix(), name))

    def _set(self, name: str, value: float) -> None:
        try:
            mix = replace(self.settings.mix or GreyMix(), **{name: value})
        except SettingError as fault:
            self.document.failed.emit(str(fault))
            return
        self.change("Mix channels", merge=f"mix {name}", switch_on="mix", mix=mix)

    def _automatic(self) -> None:
        self.document.ask_job(
            lambda job, _settings: automatic_mix(job.source.pixels),
            lambda mix: self.change("Part ink from paper", switch_on="mix", mix=mix),
        )

    def refresh(self, presentation: Presentation) -> None:
        """Show the present state."""
        super().refresh(presentation)
        self.pencils.show_colours(list(self.settings.pencils), None)
        self.pencils.setVisible(bool(self.settings.pencils))
        self.switches["pencils"].setEnabled(bool(self.settings.pencils))
        mix = self.settings.mix
        self.switches["mix"].setEnabled(mix is not None)
        self.keep.setEnabled(mix is not None)
        for name, field in self.channels.items():
            value = getattr(mix or GreyMix(), name)
            field.show_value(value, mix is None or value == getattr(GreyMix(), name))

    def summary(self, presentation: Presentation) -> str:
        """Return how things stand, in a few words."""
        in_force = self.settings.in_force()
        mix, count = in_force.mix, len(in_force.pencils)
        if mix is None:
            return f"{count} pencil{'s' if count != 1 else ''} left out" if count else "colours kept"
        return f"{mix.red:.0f} · {mix.green:.0f} · {mix.blue:.0f} %"
