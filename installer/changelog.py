"""The change log as Debian and software centres want it, from CHANGELOG.md."""

from __future__ import annotations

import re
from collections.abc import Iterator
from datetime import UTC, date, datetime
from email.utils import format_datetime
from html import escape
from textwrap import fill
from typing import NamedTuple

MAINTAINER = "the Sober Crow authors <authors@example.org>"


class Release(NamedTuple):
    """A version, the day it came out, and what changed."""

    version: str
    day: date
    changes: tuple[str, ...]


def releases(text: str) -> Iterator[Release]:
    """Return the releases of a change log, newest first; each has a heading “## 1.2.3 (2026-01-31)”."""
    parts = re.split(r"^## (\S+) \((\d{4}-\d\d-\d\d)\)$", text, flags=re.MULTILINE)[1:]
    for version, day, body in zip(parts[::3], parts[1::3], parts[2::3], strict=True):
        changes = re.findall(r"^- (.+(?:\n  .+)*)", body, re.MULTILINE)
        yield Release(version, date.fromisoformat(day), tuple(" ".join(one.split()) for one in changes))


def debian_changelog(text: str) -> str:
    """Return a change log in Debian's form (Debian Policy 4.4)."""
    return "\n".join(
        f"sober-crow ({one.version}) stable; urgency=medium\n\n"
        + "".join(f"{fill(change, 79, initial_indent='  * ', subsequent_indent='    ')}\n" for change in one.changes)
        + f"\n -- {MAINTAINER}  {format_datetime(datetime.combine(one.day, datetime.min.time(), UTC))}\n"
        for one in releases(text)
    )


def releases_xml(text: str) -> str:
    """Return the releases as AppStream has them (AppStream 1.0, “Releases”)."""
    return "".join(
        f'<release version="{one.version}" date="{one.day}"><description><ul>'
        + "".join(f"<li>{escape(change)}</li>" for change in one.changes)
        + "</ul></description></release>"
        for one in releases(text)
    )
