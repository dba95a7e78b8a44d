"""Looking things up by a few words: names in full, begun or mistyped, and words of the trade for what is called
otherwise here."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from sobercrow.core.trade_words import TRADE_WORDS

NAMED, PLACED, HELPED = 1.0, 0.45, 0.4
"""How much a word counts that is in the name, in where it is, and in what it does."""
WHOLE, BEGUN, STEM, SLIPPED, INSIDE, MEANT = 1.0, 0.85, 0.75, 0.7, 0.5, 1.05
"""How much a word counts that is typed in full, begun, with an ending of its own, with a slip of the fingers, found
inside another; or is what a word of the trade is called here."""
SLIP_LENGTH, TWO_SLIPS_LENGTH = 3, 8
"""Words of so many letters may have one slip, or two."""
IN_ORDER = 0.4
"""A name that begins with all that was typed counts so much more."""
PER_WORD = 0.01
LEAST_LETTERS_INSIDE, LEAST_STEM = 3, 4
"""A word of so many letters may stand inside another; one of so many may be the stem of what was typed."""
IDLE = frozenset(
    ["a", "an", "the", "of", "to", "in", "on", "for", "and", "or", "how", "do", "i", "is", "it", "my", "with"]
)


@dataclass(frozen=True, slots=True)
class Entry:
    """Something that can be looked up: its name, where it is, and what it does; `share` is how likely it is meant,
    beside others that fit as well."""

    title: str
    where: str
    help: str
    share: float = 1.0


class Lookup:
    """Entries, ready to be looked up while somebody types."""

    def __init__(self, entries: Sequence[Entry]) -> None:
        """Read the words of entries."""
        self._titles = [" ".join(words_of(entry.title)) for entry in entries]
        self._shares = [entry.share for entry in entries]
        self._words: dict[str, dict[int, float]] = {}
        for k, entry in enumerate(entries):
            for text, weight in ((entry.title, NAMED), (entry.where, PLACED), (entry.help, HELPED)):
                for word in words_of(text):
                    places = self._words.setdefault(word, {})
                    places[k] = max(places.get(k, 0.0), weight)
        self._letters = {word: set(word) for word in self._words}

    def best(self, typed: str, most: int = 12) -> list[int]:
        """Return the rows of the entries that fit what was typed, the likeliest first, then as they stand; none for
        nothing typed.

        All words must fit: by themselves, or as a word of the trade that is called otherwise here.
        """
        every = words_of(typed)
        words = [word for word in every if word not in IDLE] or every
        if not words:
            return []
        totals = self._of_all([self._meant(word) for word in words])
        whole = self._phrase(" ".join(words))
        for k, value in whole.items():
            totals[k] = max(totals.get(k, 0.0), value)
        start = " ".join(every)
        order = sorted(totals, key=lambda k: (-self._likely(k, totals[k], start), k))
        return order[:most]

    def _likely(self, k: int, value: float, start: str) -> float:
        title = self._titles[k]
        value += IN_ORDER * (title.startswith(start)) + IN_ORDER * (title == start) - PER_WORD * title.count(" ")
        return value * self._shares[k]

    def _meant(self, word: str) -> dict[int, float]:
        """How well a word fits each entry, itself or what it is called here."""
        made = self._fits(word)
        for k, value in self._phrase(word).items():
            made[k] = max(made.get(k, 0.0), value)
        return made

    def _phrase(self, words: str) -> dict[int, float]:
        """How well entries fit what a phrase of the trade is called here."""
        made: dict[int, float] = {}
        for meant in TRADE_WORDS.get(words, ()):
            for k, value in self._of_all([self._fits(own) for own in words_of(meant)]).items():
                made[k] = max(made.get(k, 0.0), MEANT * value)
        return made

    @staticmethod
    def _of_all(parts: Sequence[dict[int, float]]) -> dict[int, float]:
        """The mean for entries that fit all of several words."""
        both = set(parts[0]).intersection(*parts[1:])
        return {k: sum(part[k] for part in parts) / len(parts) for k in both}

    def _fits(self, word: str) -> dict[int, float]:
        made: dict[int, float] = {}
        for own, strength in self._alike(word):
            for k, weight in self._words[own].items():
                made[k] = max(made.get(k, 0.0), strength * weight)
        return made

    def _alike(self, word: str) -> list[tuple[str, float]]:
        """The words of entries that are like a word, and how much so; none with slips if it is there in full."""
        made = []
        for own in self._words:
            if own == word:
                made.append((own, WHOLE))
            elif own.startswith(word):
                made.append((own, BEGUN))
            elif len(own) >= LEAST_STEM and word.startswith(own):
                made.append((own, STEM))
            elif len(word) >= LEAST_LETTERS_INSIDE and word in own:
                made.append((own, INSIDE))
        if any(strength == WHOLE for _, strength in made):
            return made
        most = 0 if len(word) < SLIP_LENGTH else 1 if len(word) < TWO_SLIPS_LENGTH else 2
        letters = set(word)
        for own, its in self._letters.items() if most else ():
            near = abs(len(own) - len(word)) <= most and len(letters & its) >= min(len(letters), len(its)) - most
            if near and slips(word, own) <= most:
                made.append((own, SLIPPED))
        return made


def words_of(text: str) -> list[str]:
    """Return the words of a text in small letters; those with hyphens in one as well."""
    words = re.findall(r"[\w%]+", text.casefold())
    return words + [joined.replace("-", "") for joined in re.findall(r"\w+(?:-\w+)+", text.casefold())]


def slips(one: str, other: str) -> int:
    """Return how many letters must be left out, put in, changed or swapped with their neighbours to make one word
    the other (Damerau 1964, "A technique for computer detection and correction of spelling errors")."""
    before: list[int] = []
    row = list(range(len(other) + 1))
    for i, a in enumerate(one, 1):
        earlier, before, row = before, row, [i]
        for j, b in enumerate(other, 1):
            cost = min(before[j] + 1, row[j - 1] + 1, before[j - 1] + (a != b))
            if i > 1 and j > 1 and a == other[j - 2] and one[i - 2] == b:
                cost = min(cost, earlier[j - 2] + 1)
            row.append(cost)
    return row[-1]
