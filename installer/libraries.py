"""Which packages of the distribution bring the libraries that the program does not bring itself."""

from __future__ import annotations

import subprocess
from pathlib import Path

PACKAGES = {
    "ld-linux-x86-64.so.2": "libc6 (>= 2.36)",
    "libbz2.so.1.0": "libbz2-1.0",
    "libc.so.6": "libc6 (>= 2.36)",
    "libcrypto.so.3": "libssl3 | libssl3t64",
    "libdbus-1.so.3": "libdbus-1-3",
    "libdl.so.2": "libc6 (>= 2.36)",
    "libEGL.so.1": "libegl1",
    "libexpat.so.1": "libexpat1",
    "libffi.so.8": "libffi8",
    "libfontconfig.so.1": "libfontconfig1",
    "libfreetype.so.6": "libfreetype6",
    "libgcc_s.so.1": "libgcc-s1",
    "libGL.so.1": "libgl1",
    "libglib-2.0.so.0": "libglib2.0-0 | libglib2.0-0t64",
    "libgobject-2.0.so.0": "libglib2.0-0 | libglib2.0-0t64",
    "libgthread-2.0.so.0": "libglib2.0-0 | libglib2.0-0t64",
    "libgio-2.0.so.0": "libglib2.0-0 | libglib2.0-0t64",
    "liblzma.so.5": "liblzma5",
    "libm.so.6": "libc6 (>= 2.36)",
    "libmvec.so.1": "libc6 (>= 2.36)",
    "libncursesw.so.6": "libncursesw6",
    "libnsl.so.2": "libnsl2",
    "libpanelw.so.6": "libncursesw6",
    "libpthread.so.0": "libc6 (>= 2.36)",
    "libreadline.so.8": "libreadline8 | libreadline8t64",
    "librt.so.1": "libc6 (>= 2.36)",
    "libsqlite3.so.0": "libsqlite3-0",
    "libssl.so.3": "libssl3 | libssl3t64",
    "libstdc++.so.6": "libstdc++6",
    "libtinfo.so.6": "libtinfo6",
    "libutil.so.1": "libc6 (>= 2.36)",
    "libuuid.so.1": "libuuid1",
    "libwayland-client.so.0": "libwayland-client0",
    "libwayland-cursor.so.0": "libwayland-cursor0",
    "libwayland-egl.so.1": "libwayland-egl1",
    "libX11-xcb.so.1": "libx11-xcb1",
    "libX11.so.6": "libx11-6",
    "libxcb-cursor.so.0": "libxcb-cursor0",
    "libxcb-glx.so.0": "libxcb-glx0",
    "libxcb-icccm.so.4": "libxcb-icccm4",
    "libxcb-image.so.0": "libxcb-image0",
    "libxcb-keysyms.so.1": "libxcb-keysyms1",
    "libxcb-randr.so.0": "libxcb-randr0",
    "libxcb-render-util.so.0": "libxcb-render-util0",
    "libxcb-render.so.0": "libxcb-render0",
    "libxcb-shape.so.0": "libxcb-shape0",
    "libxcb-shm.so.0": "libxcb-shm0",
    "libxcb-sync.so.1": "libxcb-sync1",
    "libxcb-util.so.1": "libxcb-util1",
    "libxcb-xfixes.so.0": "libxcb-xfixes0",
    "libxcb-xkb.so.1": "libxcb-xkb1",
    "libxcb.so.1": "libxcb1",
    "libxkbcommon-x11.so.0": "libxkbcommon-x11-0",
    "libxkbcommon.so.0": "libxkbcommon0",
    "libz.so.1": "zlib1g",
    "libzstd.so.1": "libzstd1",
}
"""The package of Debian 12 or later that has a library, or those."""
STATED = ("shared-mime-info", "hicolor-icon-theme")
"""What no library asks for."""


def depends(folder: Path) -> set[str]:
    """Return the packages that bring what the libraries and programs below a folder need and is not there itself.

    Raises
    ------
    LookupError
        If a library is needed that no package is known for.
    """
    files = [path for path in folder.rglob("*") if path.is_file() and _is_elf(path)]
    own = {path.name for path in files} | {path.name for path in folder.rglob("*.so*")}
    needed: dict[str, Path] = {}
    for path in files:
        told = subprocess.run(["patchelf", "--print-needed", str(path)], check=True, capture_output=True, text=True)
        needed |= dict.fromkeys(told.stdout.split(), path)
    unknown = {name: path for name, path in needed.items() if name not in own and name not in PACKAGES}
    if unknown:
        raise LookupError(
            f"No package is known for {', '.join(f'{name} of {path.name}' for name, path in unknown.items())}."
        )
    return {PACKAGES[name] for name in needed if name not in own}


def _is_elf(path: Path) -> bool:
    with path.open("rb") as file:
        return file.read(4) == b"\x7fELF"
