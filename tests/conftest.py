"""Shared fixtures."""

from __future__ import annotations

import os
import sys
from pathlib import Path

import pytest
from hypothesis import settings

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
if "PYTEST_XDIST_WORKER" in os.environ:  # the cores are shared out among the tests already
    os.cpu_count = lambda: 1
settings.register_profile("steady", deadline=None, derandomize=True)
settings.load_profile("steady")
ROOT = Path(__file__).parents[1]
sys.path[:0] = [str(ROOT / "tests"), str(ROOT / "bench"), str(ROOT / "installer")]

from sobercrow.core.artwork.model import Artwork
from sobercrow.core.job import Job
from sobercrow.core.results import Results
from sobercrow.core.settings import Settings


@pytest.fixture(scope="session")
def traced() -> Results:
    """The word "Rope" in a serif face, traced with default settings."""
    from drawings import lettering, picture

    return Job(picture(lettering("Rope"))).run(Settings())


@pytest.fixture
def artwork(traced: Results) -> Artwork:
    """Its artwork: four shapes, three of them with a hole."""
    return traced.artwork
