from __future__ import annotations

import ast
import re
import subprocess
import sys
from pathlib import Path

import numba

import sobercrow.core
from sobercrow.core import compiled

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


def called_loops() -> list[tuple[str, str]]:
    """Every compiled loop that plain code calls: its module and its name."""
    found = set()
    for source in CORE.rglob("*.py"):
        if source.name.endswith("_kernels.py"):
            continue
        for node in ast.walk(ast.parse(source.read_text())):
            if isinstance(node, ast.ImportFrom) and (node.module or "").endswith("_kernels"):
                found |= {(node.module, name.name) for name in node.names if not name.name.isupper()}
    return sorted(found)


def test_set_up_compiles_every_loop_so_that_nobody_waits_for_one() -> None:
    loops = called_loops()
    assert len(loops) > 15
    code = f"""
import importlib
from sobercrow.core.warm import warm
warm()
print([f"{{m}}.{{n}}" for m, n in {loops} if not getattr(importlib.import_module(m), n).signatures])
"""
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)
    assert done.stdout.strip() == "[]"
