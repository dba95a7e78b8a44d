"""The compiled loops are all built, and only they are."""

from __future__ import annotations

import importlib
import re
import subprocess
import sys
from importlib.machinery import EXTENSION_SUFFIXES
from pathlib import Path

import pytest

ROOT = Path(__file__).parents[2]
CORE = ROOT / "src" / "sobercrow" / "core"
KERNELS = sorted(CORE.rglob("_*_kernels.py"))
NAMES = [".".join(["sobercrow.core", *path.relative_to(CORE).with_suffix("").parts]) for path in KERNELS]


def test_compiled_loops_live_only_in_kernel_files_and_the_build_knows_them_all() -> None:
    for source in CORE.rglob("*.py"):
        assert ("\nimport cython\n" in source.read_text()) == (source in KERNELS) or not KERNELS, source
    build = (ROOT / "meson.build").read_text()
    listed = {folder: re.findall(r"'(\w+)'", names) for folder, names in re.findall(r"'(\w+)': \[([^\]]*)\]", build)}
    built = {CORE / folder / f"_{name}_kernels.py" for folder, names in listed.items() for name in names}
    assert built == set(KERNELS)
    assert all(path.with_suffix(".pxd").exists() for path in KERNELS)


@pytest.mark.parametrize("name", NAMES)
def test_loops_run_as_machine_code(name: str) -> None:
    assert str(importlib.import_module(name).__file__).endswith(tuple(EXTENSION_SUFFIXES))


def test_one_module_of_loops_does_not_bring_its_neighbours() -> None:
    code = f"import sys; import {NAMES[0]}; print([n for n in sys.modules if n.endswith('_kernels')])"
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == str([NAMES[0]])
