"""The Debian package in a clean system: `python bench/installed.py dist/sober-crow_*.deb [--suite bookworm]`.

Makes a minimal system (mmdebstrap; needs root and a mirror of the distribution), installs the package there, traces,
opens a project by its file type, draws its small picture, completes a line of the shell, and removes it all again.
"""

from __future__ import annotations

import argparse
import shlex
import shutil
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

from sobercrow.core.first_sight import first_settings
from sobercrow.core.formats.project import Project, write_project
from sobercrow.core.job import Job
from sobercrow.core.picture.decode import read_picture

PICTURE = Path(__file__).parent.parent / "src/sobercrow/demo/pictures/tints.png"
USER = "designer"
OPEN_S = 25


class System:
    """A system in a folder; commands run in it as root or as its user."""

    def __init__(self, root: Path) -> None:
        """Work in the system below a folder."""
        self.root = root

    def run(self, command: str, user: str | None = None, check: bool = True) -> str:
        """Run a command of the shell there; return what it says."""
        if user is not None:
            command = f"su {user} -c {shlex.quote(command)}"
        done = subprocess.run(
            ["chroot", str(self.root), "/bin/sh", "-c", command], capture_output=True, text=True, errors="replace"
        )
        if check and done.returncode:
            sys.exit(f"{command}\nended with {done.returncode}:\n{done.stdout[-2000:]}{done.stderr[-2000:]}")
        return done.stdout

    def files(self) -> set[str]:
        """Return every path there is, kernel's and caches apart."""
        skipped = ("proc", "sys", "dev", "tmp", "var/cache", "var/log", "var/lib/apt", "var/lib/dpkg", f"home/{USER}")
        prune = " -o ".join(f"-path /{name}" for name in skipped)
        return set(self.run(f"find / \\( {prune} \\) -prune -o -print").splitlines())


def told(name: str, well: bool, more: str = "") -> None:
    """Print one line of what was tried; end with the first that fails."""
    print(f"| {name} | {'yes' if well else '**no**'} | {more} |")
    if not well:
        sys.exit(1)


def timed(work: Callable[[], object]) -> float:
    """Return how long something takes, in seconds."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start


def make_project(path: Path) -> None:
    """Write the demo picture and its artwork as a project that anyone may read."""
    job = Job(read_picture(PICTURE))
    settings = first_settings(job)
    write_project(Project(PICTURE.read_bytes(), PICTURE.name, settings, None), job.run(settings).artwork, path)
    path.chmod(0o644)


def try_package(system: System, package: Path) -> None:
    """Install, use and remove a package."""
    system.run(f"useradd -m {USER}")
    system.run(
        "apt-get update && apt-get install -y --no-install-recommends xdg-utils libglib2.0-bin desktop-file-utils"
    )
    shutil.copy(package, system.root / "tmp/sober-crow.deb")
    before = system.files()
    system.run("apt-get install -y --no-install-recommends --download-only /tmp/sober-crow.deb")
    home = f"/home/{USER}"
    shutil.copy(PICTURE, system.root / home[1:] / "tints.png")
    installed_s = timed(lambda: system.run("apt-get install -y --no-install-recommends /tmp/sober-crow.deb"))
    traced_s = timed(lambda: system.run(f"cd {home} && sober-crow trace tints.png -o first.svg", USER))
    svg = system.root / home[1:] / "first.svg"
    size = int(system.run("dpkg-query -W -f '${Installed-Size}' sober-crow")) / 1024
    print("| tried | well | |\n|---|---|---|")
    told(
        "installed, and a first artwork",
        svg.stat().st_size > 500,
        f"{installed_s:.0f} + {traced_s:.1f} s after the download",
    )
    print(f"| size | | {size:.0f} MB installed, package {package.stat().st_size / 1e6:.0f} MB |")
    compilers = system.run("command -v gcc cc ninja cython || true").strip()
    told("without a compiler", not compilers, compilers)
    make_project(system.root / home[1:] / "tints.sobercrow")
    kind = system.run(f"cd {home} && gio info -a standard::content-type tints.sobercrow", USER)
    told("a project has its file type", "application/vnd.sobercrow.project" in kind)
    entry = system.run("gio mime application/vnd.sobercrow.project", USER)
    told("which our menu entry opens", "sober-crow.desktop" in entry)
    command = system.run("sed -n 's/^Exec=//p' /usr/share/applications/sober-crow.desktop").strip()
    command = command.replace("%f", "tints.sobercrow")
    system.run(f"cd {home} && QT_QPA_PLATFORM=offscreen timeout -s INT {OPEN_S} {command}; true", USER)
    config = system.run(f"cat {home}/.config/sober-crow/*", USER, check=False)
    told("the window opens it", "tints.sobercrow" in config, "it is among the recent ones")
    system.run(f"cd {home} && sober-crow thumbnail --size 128 --output small.png tints.sobercrow", USER)
    told("its small picture is drawn", (system.root / home[1:] / "small.png").read_bytes()[:4] == b"\x89PNG")
    line = "_SOBER_CROW_COMPLETE=bash_complete COMP_WORDS='sober-crow trace --kind ' COMP_CWORD=3 sober-crow"
    told("shells complete a line", "one-line" in system.run(line, USER))
    system.run("apt-get purge -y sober-crow && apt-get autoremove -y --purge")
    left = {path for path in system.files() - before if "sober" in path.lower()}
    told("nothing of it is left", not left, ", ".join(sorted(left)[:5]))


def main() -> None:
    """Make a clean system, try the package there, and take the system away."""
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("package", type=Path)
    parser.add_argument("--suite", default="bookworm")
    parser.add_argument("--mirror", default="http://deb.debian.org/debian")
    chosen = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder) / "system"
        subprocess.run(
            ["mmdebstrap", "--quiet", "--variant=minbase", "--components=main", chosen.suite, str(root), chosen.mirror],
            check=True,
        )
        subprocess.run(["mount", "-t", "proc", "proc", str(root / "proc")], check=True)
        try:
            try_package(System(root), chosen.package)
        finally:
            subprocess.run(["umount", str(root / "proc")], check=True)


if __name__ == "__main__":
    main()
