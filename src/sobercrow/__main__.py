"""Run with `python -m sobercrow`."""

from sobercrow.cli import main

main()
