"""What a container's image holds: its languages and their versions, asked of the image itself."""

from __future__ import annotations

from collections.abc import Mapping

from dryquarry.sandbox.box import Box, Start
from dryquarry.sandbox.languages import BUILT, COMPILERS, HARNESS, Missing, OwnLanguage, Runtime
from dryquarry.sandbox.running import run

_ASKED = 'command -v "$1" || exit 9; [ $# = 1 ] || exec "$@" 2>&1'


def runtime_in(box: Box, image: str, language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
    """Return how a language is run in an image, or what the image lacks."""
    if language in own:
        return _own(box, image, own[language])
    if language in ("python", "sql"):
        return _with_servant(box, image, "python", "python3", ("-s",), "python_servant.py", address_limit=True)
    if language == "javascript":
        return _with_servant(box, image, "javascript", "node", (), "javascript_servant.js", address_limit=False)
    if language in COMPILERS:
        program, flags = COMPILERS[language]
        place = _place_of(box, program, "-dumpfullversion")
        if place is None:
            return _lacks(image, program)
        version = f"{program} {place[1]} in {image}"
        return Runtime(language, version, (), build=(place[0], *flags, "-o", BUILT))
    if language == "shell":
        return Runtime("shell", f"bash in {image}", ("/bin/bash",))
    if language == "drawing":
        return Missing("drawings are drawn in bubblewrap's sandbox only")
    return Missing(
        f"nothing is known of the language {language}; [language.{language}] in dryquarry.toml says how to run it"
    )


def lacks_pytest(box: Box) -> bool:
    """Tell whether a box cannot run tests that pytest is to run."""
    return run(box, Start(("python3", "-s", "-c", "import pytest"))).exit_code != 0


def _with_servant(
    box: Box, image: str, language: str, program: str, options: tuple[str, ...], servant: str, address_limit: bool
) -> Runtime | Missing:
    place = _place_of(box, program, "--version")
    if place is None:
        return _lacks(image, program)
    path, version = place
    name = version if version.startswith("Python") else f"Node {version.removeprefix('v')}"
    command = (path, *options)
    return Runtime(
        language,
        f"{name} in {image}",
        command,
        servant=(*command, f"{HARNESS}/{servant}"),
        address_limit=address_limit,
    )


def _own(box: Box, image: str, language: OwnLanguage) -> Runtime | Missing:
    first = (language.build or language.run)[0]
    if not first.startswith("./") and _place_of(box, first) is None:
        return _lacks(image, first)
    said = _place_of(box, *language.version) if language.version else None
    version = f"{language.name} {said[1]}".strip() if said is not None else language.name
    return Runtime(language.name, f"{version} in {image}", language.run, build=language.build)


def _place_of(box: Box, program: str, *version: str) -> tuple[str, str] | None:
    """Return where a program is in the image and the first line of what it says of its version, or None."""
    came = run(box, Start(("/bin/bash", "-c", _ASKED, "bash", program, *version)))
    lines = came.out_text.strip().splitlines()
    if came.exit_code == 9 or not lines:
        return None
    return lines[0].strip(), (lines[1].strip()[:80] if len(lines) > 1 else "")


def _lacks(image: str, program: str) -> Missing:
    return Missing(f"the image {image} has no {program}")
