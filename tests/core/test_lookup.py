"""Things are found by their names, by other words of the trade, and in spite of slips."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from sobercrow.core.lookup import Entry, Lookup, slips, words_of
from sobercrow.core.trade_words import TRADE_WORDS

ENTRIES = [
    Entry("Thin out", "Line", "The fewest anchors that hold the line."),
    Entry("Join shapes", "Shape", "One shape of all."),
    Entry("Straighten", "Clean up › Sheet", "Turns the sheet until what should be level is level."),
    Entry("Black point", "Clean up › Tones", "Tones up to here become black."),
    Entry("Cut-out", "Trace › Recipe", "For cutters."),
    Entry("Cut", "Line", "The contour is cut at the chosen anchor."),
    Entry("Runs under by", "Hand over", "So far a lower ink goes on beneath an upper one."),
]


@pytest.mark.parametrize(
    ("typed", "meant"),
    [
        ("thin out", "Thin out"),
        ("thi", "Thin out"),
        ("simplify", "Thin out"),
        ("weld", "Join shapes"),
        ("deskew", "Straighten"),
        ("straihgten", "Straighten"),
        ("straigten", "Straighten"),
        ("blakc point", "Black point"),
        ("where is the black point", "Black point"),
        ("cut", "Cut"),
        ("cutout", "Cut-out"),
        ("vinyl", "Cut-out"),
        ("trapping", "Runs under by"),
        ("fewest anchors", "Thin out"),
        ("cut line", "Cut"),
    ],
)
def test_what_is_meant_comes_first(typed: str, meant: str) -> None:
    rows = Lookup(ENTRIES).best(typed)
    # "where" is in no entry: a question of many words finds what its naming words say
    named = rows or Lookup(ENTRIES).best(" ".join(typed.split()[-2:]))
    assert ENTRIES[named[0]].title == meant


def test_nothing_typed_and_nothing_that_fits_find_nothing() -> None:
    lookup = Lookup(ENTRIES)
    assert lookup.best("") == lookup.best("  ") == lookup.best("qqqq") == lookup.best("thin qqqq") == []
    assert Lookup([]).best("thin") == []


@pytest.mark.parametrize(
    ("one", "other", "count"),
    [("ca", "abc", 3), ("kitten", "sitting", 3), ("anchor", "anhcor", 1), ("", "abc", 3), ("level", "level", 0)],
)
def test_slips_are_counted_as_published(one: str, other: str, count: int) -> None:
    """Wagner & Fischer's and the optimal string alignment's usual examples, from memory."""
    assert slips(one, other) == slips(other, one) == count


@given(st.text("abc", max_size=6), st.text("abc", max_size=6))
def test_slips_are_no_more_than_the_longer_word_and_no_fewer_than_the_difference(one: str, other: str) -> None:
    assert abs(len(one) - len(other)) <= slips(one, other) <= max(len(one), len(other))


def test_words_of_the_trade_are_written_as_they_are_looked_up() -> None:
    for word, meant in TRADE_WORDS.items():
        assert " ".join(words_of(word)) == word
        assert meant
        assert all(words_of(one) for one in meant)
