"""The guide: complete, its links and pictures there, and a passage about whatever is asked."""

from __future__ import annotations

import re

import pytest
from PIL import Image

from sobercrow.core.guide import FOLDER, INDEX, passages_of, plain_text, read_guide

GUIDE = read_guide()
JOBS = [head.page for head in GUIDE.groups()["Eight jobs"]]


def test_every_page_is_in_the_index_and_every_link_and_picture_is_there() -> None:
    assert {path.stem for path in FOLDER.glob("*.md")} == set(GUIDE.pages)
    for name, text in GUIDE.pages.items():
        assert max(map(len, text.splitlines())) <= 120, name
        for place in re.findall(r"\]\(([^)]+)\)", text):
            assert (FOLDER / place).is_file(), (name, place)
    assert len(GUIDE.passages) == len({(one.page, one.title) for one in GUIDE.passages})


@pytest.mark.parametrize("page", JOBS)
def test_a_job_is_told_in_ten_sentences_and_a_picture(page: str) -> None:
    head = GUIDE.head(page)
    text = GUIDE.pages[page].split("\n", 1)[1]
    sentences = re.findall(r"[^.]{8,}\.(?:\s|$)", plain_text(text))
    pictures = re.findall(r"!\[[^\]]{10,}\]\(([^)]+)\)", head.text)
    assert (len(sentences), len(pictures)) == (10, 1)
    assert Image.open(FOLDER / pictures[0]).width == 1040


def test_there_are_eight_jobs() -> None:
    assert len(JOBS) == 8


def test_passages_end_at_the_next_heading_and_code_has_none() -> None:
    page = "# One\n\nFirst. Second.\n\n## Two\n\nSee *Make\nround*.\n\n```\n# no heading\n```\n"
    one, two = passages_of("page", page)
    assert (one.level, one.text, one.first_sentence) == (1, "First. Second.", "First.")
    assert (two.page_title, two.level, two.names) == ("One", 2, frozenset({"make round"}))
    assert "# no heading" in two.text


@pytest.mark.parametrize(
    ("trail", "page", "title"),
    [
        (("Clean up", "Light", "Lift stains"), "clean-up", "Light"),
        (("Refine", "Nib"), "lines", "Nib and Scrape"),
        (("Clean up", "Touch-ups", "Nib"), "clean-up", "Touch-ups"),
        (("Hand over", "Tolerance"), "hand-over", "DXF"),
        (("Trace", "Fine settings", "Tolerance"), "trace", "Fine settings"),
        (("Trace", "nothing of that name"), "trace", "Trace"),
        (("nowhere", "nothing of that name"), INDEX, "Guide"),
        ((), INDEX, "Guide"),
    ],
)
def test_one_is_led_to_the_passage_of_the_step_one_is_in(trail: tuple[str, ...], page: str, title: str) -> None:
    found = GUIDE.about(trail)
    assert (found.page, found.title) == (page, title)


def test_search_puts_what_is_called_so_first_and_wants_all_words() -> None:
    assert [one.title for one in GUIDE.having("overc")] == ["Plotter", "Vinyl cutter"]
    assert [one.title for one in GUIDE.having("seam")[:2]] == ["Seam", "Seam and peek"]
    assert GUIDE.having("seam anchor stain") == [] == GUIDE.having(" ")
