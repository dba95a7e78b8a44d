"""What is told of a fault of the program itself."""

from __future__ import annotations

from sobercrow.core.faults import fault_report, fault_sentence


def broken(secret: str) -> None:
    """Fail with something of the user's in it."""
    raise IndexError(f"/home/somebody/{secret}.png")


def test_a_report_tells_where_but_nothing_of_the_users() -> None:
    try:
        broken("wedding")
    except IndexError as fault:
        report, sentence = fault_report(fault, "Crop"), fault_sentence(fault)
    assert "IndexError" in sentence
    assert sentence.count(".") == 1
    for told in ("Sober Crow ", "Python 3", "numpy ", "Last: Crop", "tests/core/test_faults.py, line", "in broken"):
        assert told in report
    assert "wedding" not in report
    assert "home" not in report
