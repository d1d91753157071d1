"""What `dryquarry.toml` says of running what replies hold: in which sandbox, and in which further languages."""

from __future__ import annotations

import platform
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dryquarry.errors import closest
from dryquarry.sandbox.languages import OwnLanguage

SANDBOX_FIELDS = ("container", "image", "without_on")
ENGINES = ("docker", "podman")
LANGUAGE_FIELDS = ("file", "build", "run", "version", "sees")


class SettingsFault(ValueError):
    """Something in `dryquarry.toml` about the sandbox or a language cannot be used; the message says what."""


@dataclass(frozen=True, slots=True)
class SandboxSettings:
    """`without_on` are the machines, by their host names, on which programs may be run without a sandbox.

    `container` is the engine that makes one of `image` where there is no bubblewrap.
    """

    without_on: tuple[str, ...] = ()
    container: str = ""
    image: str = ""
    languages: Mapping[str, OwnLanguage] = field(default_factory=dict)

    @property
    def without(self) -> bool:
        """Whether the person of this very machine asked for running without a sandbox."""
        return platform.node() in self.without_on


def read_settings(data: Mapping[str, Any]) -> SandboxSettings:
    """Return the settings that a file's data hold; raises SettingsFault."""
    sandbox = _mapping(data.get("sandbox", {}), "[sandbox]", SANDBOX_FIELDS)
    languages = data.get("language", {})
    if not isinstance(languages, Mapping):
        raise SettingsFault("[language.NAME] wants a table for each language")
    return SandboxSettings(
        _texts(sandbox, "without_on", "[sandbox]"),
        *_container(sandbox),
        {str(name): _language(str(name), one) for name, one in languages.items()},
    )


def _container(sandbox: Mapping[str, Any]) -> tuple[str, str]:
    engine, image = sandbox.get("container", ""), sandbox.get("image", "")
    if engine not in ("", *ENGINES):
        raise SettingsFault(f'`container` of [sandbox] is "docker" or "podman", not {engine!r}')
    if not isinstance(image, str) or image.startswith("-"):
        raise SettingsFault(f"`image` of [sandbox] is the name of a container's image, not {image!r}")
    if bool(engine) != bool(image):
        lacking = "image" if engine else "container"
        raise SettingsFault(f"[sandbox] wants `{lacking}`, too: a container is made by an engine of an image")
    return engine, image


def _language(name: str, given: Any) -> OwnLanguage:
    where = f"[language.{name}]"
    table = _mapping(given, where, LANGUAGE_FIELDS)
    run = _texts(table, "run", where)
    file = table.get("file", "")
    if not run:
        raise SettingsFault(f'{where} wants `run`, the command that runs a program, such as ["ruby"]')
    if not isinstance(file, str):
        raise SettingsFault(f"`file` of {where} is the name of a program's file, not {file!r}")
    more = {part: _texts(table, part, where) for part in ("build", "version", "sees")}
    return OwnLanguage(name, file, run, **more)


def _mapping(value: Any, where: str, known: Sequence[str]) -> Mapping[str, Any]:
    if not isinstance(value, Mapping):
        raise SettingsFault(f"{where} wants a table, not {value!r}")
    for name in value:
        if name not in known:
            raise SettingsFault(f"unknown field '{name}' in {where}{closest(str(name), known)}")
    return value


def _texts(table: Mapping[str, Any], name: str, where: str) -> tuple[str, ...]:
    value = table.get(name, ())
    if not isinstance(value, list | tuple) or not all(isinstance(one, str) and one for one in value):
        raise SettingsFault(f"`{name}` of {where} is a list of texts, not {value!r}")
    return tuple(value)
