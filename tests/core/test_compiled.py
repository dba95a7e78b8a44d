from __future__ import annotations

import re
from pathlib import Path

import numba

import sobercrow.core
from sobercrow.core import compiled
from sobercrow.core.tracing._contour_kernels import fit_contour
from sobercrow.core.warm import warm

CORE = Path(sobercrow.core.__file__).parent


def test_compiled_loops_live_only_in_kernel_files() -> None:
    for source in CORE.rglob("*.py"):
        marked = "\n@kernel\n" in source.read_text()
        assert marked == source.name.endswith("_kernels.py"), source
        assert marked == bool(re.match(r"_\w+_kernels\.py", source.name))


def test_machine_code_is_kept_under_a_digest_of_its_sources(tmp_path, monkeypatch) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path))
    folder = compiled._cache_folder()
    assert folder.parent == tmp_path / "sober-crow"
    monkeypatch.setattr(numba, "__version__", "0.0.1")
    assert compiled._cache_folder() != folder


def test_warming_compiles_the_loops() -> None:
    warm()
    assert fit_contour.signatures
