"""A small image for tests of containers, made of what this machine has: bash, coreutils, tar, Python and pytest."""

from __future__ import annotations

import importlib.util
import os
import re
import subprocess
import tarfile
from collections.abc import Iterator
from pathlib import Path

NAME = "localhost/dryquarry-test:1"
PROGRAMS = ["bash", "sh", "tar", "cp", "cat", "mkdir", "timeout", "env", "sleep", "ls", "true", "echo", "grep", "sort"]
PACKAGES = ("pytest", "_pytest", "py", "pluggy", "iniconfig", "packaging", "pygments")
FOLDERS = {"usr": 0o755, "usr/bin": 0o755, "usr/lib": 0o755, "etc": 0o755, "home": 0o755, "proc": 0o755, "tmp": 0o1777}
LEFT_OUT = re.compile(r"/test/|__pycache__|idlelib|ensurepip|lib2to3|/config-3|-packages/")
LINKS = ("bin", "lib", "lib64")


def make(engine: str, folder: Path) -> None:
    """Have a container engine take in the image; raises CalledProcessError where it does not."""
    archive = folder / "image.tar"
    with tarfile.open(archive, "w") as image:
        for name, mode in FOLDERS.items():
            _add(image, name, tarfile.DIRTYPE, mode)
        for name in LINKS:
            _add(image, name, tarfile.SYMTYPE, 0o777, f"usr/{name}")
        for inside, outside in _files().items():
            if not LEFT_OUT.search(outside):
                image.add(os.path.realpath(outside), inside)
        for name in PACKAGES:
            for outside, inside in _package(name):
                image.add(outside, inside)
    subprocess.run([engine, "import", str(archive), NAME], check=True, capture_output=True, timeout=120)


def _add(image: tarfile.TarFile, name: str, kind: bytes, mode: int, target: str = "") -> None:
    entry = tarfile.TarInfo(name)
    entry.type, entry.mode, entry.linkname = kind, mode, target
    image.addfile(entry)


def _files() -> dict[str, str]:
    """Return the files of the image without packages: where each is in it, and on this machine."""
    python = Path(os.path.realpath("/usr/bin/python3"))
    library = Path("/usr/lib", python.name)
    files = {f"usr/bin/{name}": f"/usr/bin/{name}" for name in PROGRAMS} | {"usr/bin/python3": str(python)}
    files |= {str(path).lstrip("/"): str(path) for path in library.rglob("*") if path.is_file()}
    locale = Path("/usr/lib/locale/C.utf8")
    files |= {str(path).lstrip("/"): str(path) for path in locale.rglob("*") if path.is_file()}
    for path in [*files.values()]:
        if path.startswith("/usr/bin/") or path.endswith(".so"):
            files |= {_below_usr(one): one for one in _libraries(path)}
    return files


def _below_usr(path: str) -> str:
    return path.lstrip("/") if path.startswith("/usr") else f"usr{path}"


def _libraries(program: str) -> list[str]:
    said = subprocess.run(["ldd", program], capture_output=True, text=True).stdout
    return [word for word in said.split() if word.startswith("/")]


def _package(name: str) -> Iterator[tuple[str, str]]:
    found = importlib.util.find_spec(name)
    if found is None or found.origin is None:
        return
    folder = Path(found.origin).parent
    if Path(found.origin).name != "__init__.py":
        yield found.origin, f"usr/lib/python3/dist-packages/{name}.py"
        return
    for path in folder.rglob("*.py"):
        yield str(path), f"usr/lib/python3/dist-packages/{name}/{path.relative_to(folder)}"
