"""Lays out what the Debian package installs: `python installer/stage.py FOLDER WHEEL`.

The program brings an interpreter and its libraries along, in /usr/lib/sober-crow, byte-compiled and without what it
never uses; everything else goes where the desktop looks for it.
"""

from __future__ import annotations

import compileall
import gzip
import os
import re
import shutil
import subprocess
import sys
import sysconfig
from collections.abc import Iterator
from pathlib import Path
from py_compile import PycInvalidationMode

from changelog import MAINTAINER, debian_changelog, releases_xml
from libraries import STATED, depends
from manuals import write_pages

from sobercrow import __version__
from sobercrow.completion import script_for

HERE, ROOT = Path(__file__).parent, Path(__file__).parent.parent
HOME = Path("usr/lib/sober-crow")
PYTHON = f"python{sys.version_info.major}.{sys.version_info.minor}"
LAUNCHER = f"""#!/{HOME}/bin/{PYTHON} -I
import sys

from sobercrow.cli import main

sys.exit(main())
"""
SITE = """import site
import sys

site.addsitedir(f"{sys.prefix}/lib/%s/site-packages")
"""
NEVER_USED = (
    *(
        "test",
        "idlelib",
        "tkinter",
        "turtledemo",
        "turtle.py",
        "ensurepip",
        "lib2to3",
        "pydoc_data",
        "distutils",
        "cgi.py",
    ),
    *("site-packages", "dist-packages", "config-*", "__pycache__", "_tkinter*", "_test*", "xxlimited*", "_crypt*"),
    *("nis.*", "sitecustomize.py"),
)
QT_LIBRARIES = (
    "Core",
    "DBus",
    "Gui",
    "OpenGL",
    "Svg",
    "Test",
    "Widgets",
    "WaylandClient",
    "XcbQpa",
    "WlShellIntegration",
)
QT_MODULES = ("QtCore", "QtGui", "QtSvg", "QtTest", "QtWidgets")
QT_PLUGINS = (
    *("iconengines", "imageformats", "platforminputcontexts", "platforms", "platformthemes", "xcbglintegrations"),
    *("wayland-decoration-client", "wayland-graphics-integration-client", "wayland-shell-integration"),
)
UNUSED_PLUGINS = (
    *("platforms/libqeglfs.so", "platforms/libqlinuxfb.so", "platforms/libqvkkhrdisplay.so", "platforms/libqvnc.so"),
    *("platforms/libqminimalegl.so", "platformthemes/libqgtk3.so", "imageformats/libqpdf.so"),
    "platforminputcontexts/libqtvirtualkeyboardplugin.so",
)
SOURCES = {".pyi", ".pxd", ".h", ".hpp", ".c", ".cpp", ".pyx"}
UNUSED_OF_SCIPY = (
    *("cluster", "datasets", "differentiate", "fftpack", "integrate", "interpolate", "io", "misc", "odr", "signal"),
    "stats",
)
WITH_SYMBOLS = ("jpeglib", "fontTools", "ezdxf", "lxml")
"""Libraries with symbols for debuggers. Those with libraries of their own beside them stay: strip would break these."""
JPEG_LIBRARY = "6b"
"""Of the many JPEG libraries that come with jpeglib the one it reads coefficients with unless told otherwise."""
ICON_SIZES = (16, 24, 32, 48, 64, 128, 256, 512)
DOCUMENTS = {"project": "vnd.sobercrow.project", "recipe": "vnd.sobercrow.recipe+json", "set": "vnd.sobercrow.set+json"}
ADDRESS = "https://sobercrow.example.org/screenshots"
"""Where software centres look for them once there is a place: AppStream takes no files that come along."""
SCREENSHOTS = ("trace", "refine-anchors", "one-line", "hand-over")


def stage(folder: Path, wheel: Path) -> None:
    """Lay everything out below a folder."""
    home = folder / HOME
    _interpreter(home)
    site = home / "lib" / PYTHON / "site-packages"
    _pip(site, "--require-hashes", "-r", str(ROOT / "requirements.lock"))
    _pip(site, str(wheel))
    _prune(site)
    compileall.compile_dir(
        home / "lib", quiet=2, workers=0, stripdir=str(folder), prependdir="/",
        invalidation_mode=PycInvalidationMode.UNCHECKED_HASH,
    )  # fmt: skip
    _write(folder / "usr/bin/sober-crow", LAUNCHER, 0o755)
    _desktop(folder / "usr/share", site / "sobercrow/desktop/assets/marks/sober-crow.svg")
    _shells(folder / "usr/share")
    _control(folder)


def _interpreter(home: Path) -> None:
    """The interpreter this runs with and its library, without what is never used."""
    library = Path(sysconfig.get_path("stdlib"))
    left_out = shutil.ignore_patterns(*NEVER_USED)
    shutil.copytree(library, home / "lib" / PYTHON, ignore=left_out, ignore_dangling_symlinks=True)
    (home / "bin").mkdir(parents=True)
    binary = home / "bin" / PYTHON
    shutil.copy(Path(sys.executable).resolve(), binary)
    binary.chmod(0o755)
    (home / "lib" / PYTHON / "sitecustomize.py").write_text(SITE % PYTHON)
    told = subprocess.run(["ldd", str(binary)], check=True, capture_output=True, text=True).stdout
    shared = re.search(r"(libpython\S+) => (\S+)", told)
    if shared is None:
        return
    copy = home / "lib" / shared[1]
    shutil.copy(shared[2], copy)
    subprocess.run(["strip", "--strip-debug", str(copy)], check=True)
    subprocess.run(["patchelf", "--set-rpath", "$ORIGIN/../lib", str(binary)], check=True)


def _pip(site: Path, *what: str) -> None:
    pip = [sys.executable, "-m", "pip", "install", "-q", "--disable-pip-version-check", "--no-deps", "--no-compile"]
    subprocess.run([*pip, "--target", str(site), *what], check=True)


def _prune(site: Path) -> None:
    """Take away what the program never uses of its libraries."""
    shutil.rmtree(site / "bin", ignore_errors=True)
    qt = site / "PySide6"
    for path in qt.iterdir():
        keep = path.name in {"__init__.py", "_config.py", "_git_pyside_version.py", "Qt"}
        keep |= path.name.split(".")[0] in QT_MODULES and path.suffix == ".so"
        keep |= path.name.startswith(("libpyside6.", "libpyside6.abi3"))
        if not keep:
            _remove(path)
    for path in (qt / "Qt").iterdir():
        if path.name not in {"lib", "plugins"}:
            _remove(path)
    for path in (qt / "Qt/lib").iterdir():
        name = re.sub(r"^libQt6(\w+)\.so.*", r"\1", path.name)
        if name != path.name and not name.startswith(QT_LIBRARIES):
            _remove(path)
    for path in (qt / "Qt/plugins").iterdir():
        if path.name not in QT_PLUGINS:
            _remove(path)
    for name in UNUSED_PLUGINS:
        _remove(qt / "Qt/plugins" / name)
    for name in ("setuptools", "pkg_resources", "_distutils_hack", "distutils-precedence.pth"):
        _remove(site / name)
    for name in UNUSED_OF_SCIPY:
        _remove(site / "scipy" / name)
    kept = f"cjpeglib_{JPEG_LIBRARY}.abi3.so"
    for path in (site / "jpeglib/cjpeglib").iterdir():
        if path.name != kept:
            _remove(path)
    for path in sorted(site.rglob("*")):
        if path.suffix in SOURCES or (path.name in {"tests", "test"} and path.is_dir()):
            _remove(path)
    for library in WITH_SYMBOLS:
        for path in (site / library).rglob("*.so"):
            subprocess.run(["strip", "--strip-debug", str(path)], check=True)


def _remove(path: Path) -> None:
    if path.is_dir() and not path.is_symlink():
        shutil.rmtree(path)
    else:
        path.unlink(missing_ok=True)


def _write(path: Path, text: str | bytes, mode: int = 0o644) -> None:
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(text.encode() if isinstance(text, str) else text)
    path.chmod(mode)


def _desktop(share: Path, mark: Path) -> None:
    """Menu entry, file types, icons, data for software centres, small pictures, what is told of the package."""
    for name, place in (
        ("sober-crow.desktop", "applications"),
        ("sober-crow.xml", "mime/packages"),
        ("sober-crow.thumbnailer", "thumbnailers"),
        ("copyright", "doc/sober-crow"),
    ):
        _write(share / place / name, (HERE / name).read_bytes())
    _icon(share, mark, "apps/sober-crow")
    for name, kind in DOCUMENTS.items():
        _icon(share, HERE / f"icons/document-{name}.svg", f"mimetypes/application-{kind}")
    shots = []
    for name in SCREENSHOTS:
        kind = ' type="default"' if not shots else ""
        shots.append(f"<screenshot{kind}><image>{ADDRESS}/{name}.png</image></screenshot>")
    text = (HERE / "metainfo.xml").read_text().replace("@SCREENSHOTS@", "".join(shots))
    changes = (ROOT / "CHANGELOG.md").read_text()
    _write(share / "metainfo/org.sobercrow.SoberCrow.metainfo.xml", text.replace("@RELEASES@", releases_xml(changes)))
    _write(share / "doc/sober-crow/changelog.gz", gzip.compress(debian_changelog(changes).encode(), 9, mtime=0))


def _icon(share: Path, source: Path, name: str) -> None:
    """An icon as SVG, and as PNG in every size."""
    from PySide6.QtCore import QRectF, Qt
    from PySide6.QtGui import QImage, QPainter
    from PySide6.QtSvg import QSvgRenderer

    hicolor = share / "icons/hicolor"
    _write(hicolor / f"scalable/{name}.svg", source.read_bytes())
    renderer = QSvgRenderer(str(source))
    for size in ICON_SIZES:
        image = QImage(size, size, QImage.Format.Format_ARGB32_Premultiplied)
        image.fill(Qt.GlobalColor.transparent)
        painter = QPainter(image)
        renderer.render(painter, QRectF(image.rect()))
        painter.end()
        path = hicolor / f"{size}x{size}/{name}.png"
        path.parent.mkdir(parents=True, exist_ok=True)
        image.save(str(path))


def _shells(share: Path) -> None:
    """Manual pages, and what shells read to complete a line."""
    write_pages(share / "man")
    for shell, place in (
        ("bash", "bash-completion/completions/sober-crow"),
        ("zsh", "zsh/vendor-completions/_sober-crow"),
        ("fish", "fish/vendor_completions.d/sober-crow.fish"),
    ):
        _write(share / place, script_for(shell))


def _files(folder: Path) -> Iterator[Path]:
    return (path for path in sorted(folder.rglob("*")) if path.is_file() and not path.is_symlink())


def _control(folder: Path) -> None:
    """What the package manager is told."""
    for path in folder.rglob("*"):
        if not path.is_symlink():
            runs = path.is_dir() or (path.parent.name == "bin")
            path.chmod(0o755 if runs else 0o644)
    size = sum(path.stat().st_size for path in _files(folder)) // 1024
    text = (HERE / "control").read_text()
    needs = ", ".join(sorted({*depends(folder / HOME), *STATED}))
    for name, value in (("VERSION", __version__), ("MAINTAINER", MAINTAINER), ("SIZE", str(size)), ("DEPENDS", needs)):
        text = text.replace(f"@{name}@", value)
    _write(folder / "DEBIAN/control", text)
    _write(folder / "usr/share/lintian/overrides/sober-crow", (HERE / "lintian-overrides").read_text())


if __name__ == "__main__":
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    stage(Path(sys.argv[1]), Path(sys.argv[2]))
