"""The import rules bite: a violation planted in a copy of the package is found."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[1]


def lint(folder: Path) -> subprocess.CompletedProcess[str]:
    code = "from importlinter.cli import lint_imports; import sys; sys.exit(lint_imports(no_cache=True))"
    skipped = str(ROOT / "build" / "loops")  # the installed package is not looked at
    environment = {**os.environ, "PYTHONPATH": str(folder), "MESONPY_EDITABLE_SKIP": skipped}
    return subprocess.run(
        [sys.executable, "-c", code], cwd=folder, env=environment, capture_output=True, text=True, check=False
    )


@pytest.mark.parametrize(
    ("file", "line", "contract"),
    [
        ("core/job.py", "import PySide6.QtCore", "The core knows no window"),
        ("stand_ins/camera.py", "import sobercrow.desktop.tokens", "Stand-ins know the core alone"),
        ("core/geometry/bezier.py", "import sobercrow.core.artwork.model", "Inside the core, one way through"),
    ],
)
def test_a_planted_violation_is_found(tmp_path: Path, file: str, line: str, contract: str) -> None:
    shutil.copytree(ROOT / "src" / "sobercrow", tmp_path / "sobercrow", ignore=shutil.ignore_patterns("__pycache__"))
    shutil.copy(ROOT / ".importlinter", tmp_path)
    assert lint(tmp_path).returncode == 0
    path = tmp_path / "sobercrow" / file
    path.write_text(
        path.read_text().replace(
            "from __future__ import annotations", f"from __future__ import annotations\n\n{line}", 1
        )
    )
    broken = lint(tmp_path)
    assert broken.returncode != 0
    assert any(line.startswith(contract) and line.endswith("BROKEN") for line in broken.stdout.splitlines())
