"""What a language is run with on this machine: where its programs are, which version they are, how a program starts."""

from __future__ import annotations

import importlib.util
import shutil
import subprocess
import sys
from collections.abc import Mapping
from dataclasses import dataclass, replace
from functools import lru_cache
from importlib import metadata
from pathlib import Path

# where, in a sandbox, what loads and calls programs lies
HARNESS = "/harness"
VERSION_TIMEOUT_S = 10
BUILT = "program"
COMPILERS = {"c": ("gcc", ("-O1", "-std=gnu17", "-w")), "c++": ("g++", ("-O1", "-std=gnu++20", "-w"))}


@dataclass(frozen=True, slots=True)
class Missing:
    """A language that cannot be run here; `said` is what to do, for a person."""

    said: str


@dataclass(frozen=True, slots=True)
class Runtime:
    """How programs of a language are run. `command` is followed by the main file and the arguments.

    `build` makes the file `program` of the main file, which is then what is run. `servant` is the command that loads
    a program to call its functions, or nothing. `sees` is what it is installed in, `hides` what of that is no part
    of the language.
    """

    name: str
    version: str
    command: tuple[str, ...]
    build: tuple[str, ...] = ()
    servant: tuple[str, ...] = ()
    sees: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    address_limit: bool = True


@dataclass(frozen=True, slots=True)
class OwnLanguage:
    """A language as `dryquarry.toml` describes it: the name of a program's file, how to build it, and how to run it."""

    name: str
    file: str
    run: tuple[str, ...]
    build: tuple[str, ...] = ()
    version: tuple[str, ...] = ()
    sees: tuple[str, ...] = ()


def runtime_of(language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
    """Return how a language is run here, or what is missing; what `dryquarry.toml` says goes before what is known."""
    if language in own:
        return _own(own[language])
    if language in ("python", "sql"):
        return _python()
    if language == "drawing":
        return _drawing()
    if language in COMPILERS:
        return _compiled(language)
    maker = {"javascript": _node, "shell": _shell}.get(language)
    if maker is None:
        return Missing(
            f"nothing is known of the language {language}; [language.{language}] in dryquarry.toml says how to run it"
        )
    return maker()


@lru_cache
def _python() -> Runtime:
    base = Path(sys.base_prefix)
    number = f"{sys.version_info.major}.{sys.version_info.minor}"
    program = str(base / "bin" / f"python{number}")
    packages = tuple(
        str(place)
        for name in ("site-packages", "dist-packages")
        if (place := base / "lib" / f"python{number}" / name).is_dir()
    )
    sees = () if base == Path("/usr") else (str(base),)
    packages += ("/usr/lib/python3/dist-packages",) if Path("/usr/lib/python3/dist-packages").is_dir() else ()
    version = f"Python {sys.version.split()[0]}"
    servant = (program, "-s", f"{HARNESS}/python_servant.py")
    return Runtime("python", version, (program, "-s"), servant=servant, sees=sees, hides=packages)


@lru_cache
def _drawing() -> Runtime | Missing:
    """Return the Python that draws SVG, which sees the package for that beside its own library."""
    found = importlib.util.find_spec("resvg_py")
    if found is None or found.origin is None:
        return Missing("drawings are not drawn here (pip install resvg_py)")
    python, packages = _python(), str(Path(found.origin).parent.parent)
    hides = () if any(packages.startswith(one) for one in python.hides) else python.hides
    version = f"resvg {metadata.version('resvg_py')}"
    return replace(python, version=version, sees=(*python.sees, packages), hides=hides)


@lru_cache
def _node() -> Runtime | Missing:
    program = shutil.which("node") or shutil.which("nodejs")
    if program is None:
        return Missing("Node is not installed (Debian's package nodejs)")
    place = Path(program).resolve()
    sees = () if place.is_relative_to("/usr") else (str(place.parent.parent),)
    servant = (str(place), f"{HARNESS}/javascript_servant.js")
    return Runtime(
        "javascript",
        f"Node {version_of((program, '--version'))}",
        (str(place),),
        servant=servant,
        sees=sees,
        address_limit=False,
    )


@lru_cache
def _compiled(name: str) -> Runtime | Missing:
    program, flags = COMPILERS[name]
    place = shutil.which(program)
    if place is None:
        return Missing(f"{program} is not installed (Debian's package {program})")
    return Runtime(name, f"{program} {version_of((place, '-dumpfullversion'))}", (), build=(place, *flags, "-o", BUILT))


@lru_cache
def _shell() -> Runtime | Missing:
    place = shutil.which("bash")
    if place is None:
        return Missing("bash is not installed (Debian's package bash)")
    return Runtime("shell", f"bash {version_of((place, '-c', 'echo $BASH_VERSION'))}", (place,))


def _own(language: OwnLanguage) -> Runtime | Missing:
    first = (language.build or language.run)[0]
    if not first.startswith("./") and shutil.which(first) is None:
        return Missing(f"{first}, by which dryquarry.toml runs {language.name}, is not installed")
    version = version_of(language.version) if language.version else ""
    return Runtime(
        language.name, f"{language.name} {version}".strip(), language.run, build=language.build, sees=language.sees
    )


@lru_cache
def version_of(command: tuple[str, ...]) -> str:
    """Return the first line that a program says of its version."""
    try:
        done = subprocess.run(
            command, capture_output=True, timeout=VERSION_TIMEOUT_S, check=False, stdin=subprocess.DEVNULL
        )
    except (OSError, subprocess.TimeoutExpired):
        return "of unknown version"
    lines = (done.stdout or done.stderr).decode("utf-8", "replace").strip().splitlines()
    return lines[0].strip().removeprefix("v")[:80] if lines else ""
