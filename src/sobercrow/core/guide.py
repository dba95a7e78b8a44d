"""The guide: pages of plain Markdown, read as passages, each under its heading.

The pages are one source: the window shows them, the docs folder links to them, and the manual page is made from them.
What a passage is about is told by its heading and by the names it *emphasises*: controls, tools and commands.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

FOLDER = Path(__file__).parent.parent / "guide"
INDEX = "index"
SAME_NAME = 8.0
"""How much it counts for a passage that it is called like what is asked about."""
NAMES_IT = 6.0
CALLED_AS_FOLD = 4.0
NAMES_FOLD = 1.0
SAME_PAGE = 3.0
LINKED_PAGE = 2.0
"""A page that the page of a step links to belongs to that step."""

_HEADING = re.compile(r"^(#{1,3}) (.+)$")
_EMPHASIS = re.compile(r"\*{1,2}([^*]+?)\*{1,2}")
_LINK = re.compile(r"\[([^\]]+)\]\(([^)]+)\)")
_PICTURE = re.compile(r"!\[([^\]]*)\]\(([^)]+)\)")


@dataclass(frozen=True, slots=True)
class Passage:
    """A heading of the guide and what stands beneath it, up to the next one.

    `page` is the name of the page's file without suffix, `page_title` its heading, `level` 1 for the head of a page.
    """

    page: str
    page_title: str
    title: str
    level: int
    text: str

    @property
    def plain(self) -> str:
        """The text without marks, pictures and line breaks."""
        return plain_text(self.text)

    @property
    def first_sentence(self) -> str:
        """The first sentence of the text."""
        return re.split(r"(?<=[.:])\s", self.plain, maxsplit=1)[0]

    @property
    def names(self) -> frozenset[str]:
        """What the passage emphasises, in small letters."""
        return frozenset(" ".join(name.split()).casefold() for name in _EMPHASIS.findall(self.text))


@dataclass(frozen=True, slots=True)
class Guide:
    """All pages, in the order of the index: their Markdown by name, and their passages."""

    pages: dict[str, str]
    passages: tuple[Passage, ...]

    def head(self, page: str) -> Passage:
        """Return the head of a page; that of the index for a page there is not."""
        return next((one for one in self.passages if one.page == page), self.passages[0])

    def groups(self) -> dict[str, tuple[Passage, ...]]:
        """Return the heads of the pages, by the headings of the index they stand under."""
        parts = (one for one in self.passages if one.page == INDEX and one.level > 1)
        return {
            part.title: tuple(self.head(Path(place).stem) for _, place in _LINK.findall(part.text)) for part in parts
        }

    def having(self, typed: str) -> list[Passage]:
        """Return the passages in which all words that were typed stand or begin: those that are called so first, then
        those that emphasise them, the shortest first; none for nothing typed."""
        begun = [re.compile(rf"\b{re.escape(word)}", re.IGNORECASE) for word in typed.split()]

        def lack(passage: Passage) -> int:
            parts = (passage.title, " ".join(passage.names), f"{passage.title} {passage.plain}")
            return next((k for k, text in enumerate(parts) if all(word.search(text) for word in begun)), len(parts))

        ranked = [(lack(one), one) for one in self.passages] if begun else []
        return [one for rank, one in sorted(ranked, key=lambda pair: (pair[0], len(pair[1].text))) if rank < 3]

    def about(self, trail: Sequence[str]) -> Passage:
        """Return the passage about something in the window.

        Parameters
        ----------
        trail
            What it is called, after what it lies in: step, parts of its panel, its own name.

        Returns
        -------
        Passage
            The one that is called like it or names it, on the page of its step if there is one; else that about what
            it lies in; else the head of the index.
        """
        words = [word.casefold().partition(", like ")[0] for word in trail if word]
        if not words:
            return self.passages[0]
        step = self._page_called(words[0])
        linked = {Path(place).stem for _, place in _LINK.findall(self.pages[step])} if step else set()

        def worth(passage: Passage) -> float:
            here = SAME_PAGE if passage.page == step else LINKED_PAGE if passage.page in linked else 0.0
            title, names = passage.title.casefold(), passage.names
            value = SAME_NAME * (title == words[-1]) + NAMES_IT * (words[-1] in names)
            for fold in words[1:-1]:
                value += CALLED_AS_FOLD * (title == fold) + NAMES_FOLD * (fold in names)
            whole_page = passage.level == 1 and title == words[0]
            return value + here if value or whole_page else 0.0

        return max(self.passages, key=worth)

    def _page_called(self, title: str) -> str | None:
        return next((one.page for one in self.passages if one.level == 1 and one.title.casefold() == title), None)


def plain_text(markdown: str) -> str:
    """Return Markdown as one line of text: without pictures, marks of emphasis, addresses of links and lists."""
    text = _LINK.sub(r"\1", _PICTURE.sub("", markdown))
    text = _EMPHASIS.sub(r"\1", text).replace("`", "")
    return " ".join(re.sub(r"(?m)^(?:- |\d+\. )", "", text).split())


def passages_of(page: str, markdown: str) -> tuple[Passage, ...]:
    """Return the passages of a page, which must begin with its heading; headings within code are none."""
    made: list[tuple[str, int, list[str]]] = []
    in_code = False
    for line in markdown.splitlines():
        in_code ^= line.startswith("```")
        heading = None if in_code else _HEADING.match(line)
        if heading:
            made.append((heading[2], len(heading[1]), []))
        else:
            made[-1][2].append(line)
    return tuple(Passage(page, made[0][0], title, level, "\n".join(lines).strip()) for title, level, lines in made)


@lru_cache(maxsize=1)
def read_guide() -> Guide:
    """Return the guide that comes along, its pages in the order of the index."""
    index = (FOLDER / f"{INDEX}.md").read_text(encoding="utf-8")
    names = [INDEX, *(Path(place).stem for _, place in _LINK.findall(index))]
    pages = {name: (FOLDER / f"{name}.md").read_text(encoding="utf-8") for name in names}
    return Guide(pages, tuple(one for name, text in pages.items() for one in passages_of(name, text)))
