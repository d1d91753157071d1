"""Entrants and judges: models with the settings they are run with, from the content of entrants.toml."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.suites.digests import digest
from dryquarry.suites.fields import Fields
from dryquarry.suites.located import UnreadableText, decoded
from dryquarry.suites.meanings import ENTRANT_MEANINGS
from dryquarry.suites.question_reader import GOOD_NAME
from dryquarry.suites.toml_text import read_toml

STANDIN = "standin:"

ENTRANT_FIELDS = frozenset(
    {"title", "endpoint", "model", "build", "key_env", "system", "settings", "traits", "price", "limits", "stream"}
)
LIMIT_FIELDS = frozenset(
    {"in_flight", "per_minute", "tokens_per_minute", "timeout_s", "idle_timeout_s", "retries", "most_mb"}
)
RESERVED_SETTINGS = ("model", "messages", "stream", "stream_options")


@dataclass(frozen=True, slots=True)
class Price:
    """What a million tokens cost, in the entrant's own currency."""

    input: float
    output: float

    def cost(self, input_tokens: int | None, output_tokens: int | None) -> float | None:
        """Return the cost of a reply, or None where the service did not say its tokens."""
        if input_tokens is None or output_tokens is None:
            return None
        return (input_tokens * self.input + output_tokens * self.output) / 1e6


@dataclass(frozen=True, slots=True)
class Limits:
    """How hard a service may be asked, and how patiently; None means no limit of its own.

    `idle_timeout_s` is the longest time without a byte, `timeout_s` the longest for a whole reply, `retries` how
    often a request is tried again after a fault that may pass, `most_mb` the most that one reply may take (megabytes,
    unpacked); of a stream what came before that is kept.
    """

    in_flight: int = 8
    per_minute: float | None = None
    tokens_per_minute: float | None = None
    timeout_s: float = 120.0
    idle_timeout_s: float | None = None
    retries: int = 4
    most_mb: float = 64.0


@dataclass(frozen=True, slots=True)
class Entrant:
    """A model together with the settings it is run with; a judge has the same fields.

    `key_env` is the name of an environment variable, never the secret. Without `endpoint` the replies are
    collected by hand.
    """

    name: str
    title: str
    model: str
    endpoint: str | None = None
    build: str | None = None
    key_env: str | None = None
    system: str | None = None
    settings: Mapping[str, Any] = field(default_factory=dict)
    traits: Mapping[str, Any] = field(default_factory=dict)
    price: Price | None = None
    limits: Limits = field(default_factory=Limits)
    stream: bool = True

    @property
    def content(self) -> dict[str, Any]:
        """What the entrant digest covers: what changes the replies."""
        return {
            "build": self.build,
            "model": self.model,
            "settings": dict(self.settings),
            "system": self.system,
        }

    @property
    def digest(self) -> str:
        """The entrant digest."""
        return digest(self.content)


@dataclass(frozen=True, slots=True)
class Entrants:
    """All of entrants.toml: who is asked, and who judges."""

    entrants: Mapping[str, Entrant]
    judges: Mapping[str, Entrant]


def read_entrants(content: bytes, file: str) -> Entrants:
    """Return the entrants and judges in the bytes of entrants.toml; raises FaultyFiles with every fault."""
    try:
        text = decoded(content, file)
        data = read_toml(content, file)
    except UnreadableText as error:
        raise FaultyFiles(file, [error.fault]) from None
    faults: list[Fault] = []
    top = Fields(data, file, lambda name=None: _line(text, name, None), faults, what=file)
    top.only(frozenset({"entrant", "judge"}))
    entrants = {
        kind: {
            name: entrant
            for name, content in top.mapping(kind).items()
            if (entrant := _read_entrant(kind, name, content, file, text, faults)) is not None
        }
        for kind in ("entrant", "judge")
    }
    faults += _same_twice(entrants["entrant"], file, text)
    if faults:
        raise FaultyFiles(file, faults)
    return Entrants(entrants["entrant"], entrants["judge"])


def _same_twice(entrants: Mapping[str, Entrant], file: str, text: str) -> list[Fault]:
    """Return a fault for each entrant that is the same as one above, whose replies would be taken for its own."""
    first: dict[str, str] = {}
    faults = []
    for name, entrant in entrants.items():
        other = first.setdefault(entrant.digest, name)
        if other != name:
            said = (
                f"'{name}' is the same model with the same settings as '{other}'; "
                "what tells the two apart (another machine, another version) goes into `build`"
            )
            faults.append(Fault("same-entrant", said, file, _line(text, f"entrant.{name}", None)))
    return faults


def _read_entrant(kind: str, name: str, data: Any, file: str, text: str, faults: list[Fault]) -> Entrant | None:
    table = f"{kind}.{name}"
    fields = Fields({}, file, lambda field=None: _line(text, table, field), faults, what=f"[{table}]")
    if not isinstance(data, dict):
        fields.fault("wrong-shape", f"[{table}] wants a table of fields")
        return None
    fields.data = data
    fields.only(ENTRANT_FIELDS, ENTRANT_MEANINGS)
    if not GOOD_NAME.fullmatch(name):
        fields.fault("bad-id", f"the name '{name}' wants letters, digits, '-', '_' and '.' only")
    endpoint = fields.text("endpoint")
    if endpoint is not None:
        # Services are told by their base address, or by the one that requests go to in the end.
        endpoint = endpoint.rstrip("/").removesuffix("/chat/completions")
        if re.match(r"https?://[^/]*@", endpoint):
            said = (
                "the endpoint has a password in it, which would be stored and shown; `key_env` names a variable for it"
            )
            fields.fault("secret", said, "endpoint")
            return None
    if endpoint and endpoint != STANDIN and not re.match(r"https?://[^/\s]+", endpoint):
        fields.fault("bad-endpoint", f"the endpoint '{endpoint}' is neither a http(s) URL nor '{STANDIN}'", "endpoint")
    settings = fields.mapping("settings")
    for reserved in RESERVED_SETTINGS:
        if reserved in settings:
            fields.fault("bad-setting", f"'{reserved}' is set by the tool and cannot be among the settings", "settings")
    return Entrant(
        name=name,
        title=fields.text("title") or name,
        model=fields.text("model", required=endpoint is not None) or name,
        endpoint=endpoint.rstrip("/") if endpoint else None,
        build=fields.text("build"),
        key_env=_read_key_env(fields),
        system=fields.text("system"),
        settings=settings,
        traits=fields.mapping("traits"),
        price=_read_price(fields),
        limits=_read_limits(fields),
        stream=_read_stream(fields),
    )


def _read_key_env(fields: Fields) -> str | None:
    name = fields.text("key_env")
    if name and not re.fullmatch(r"[A-Za-z_][A-Za-z0-9_]*", name):
        # Not repeated in the message: what stands here by mistake is often the secret itself.
        fields.fault("bad-key-name", "'key_env' is the NAME of an environment variable, never the secret", "key_env")
        return None
    return name


def _read_stream(fields: Fields) -> bool:
    value = fields.data.get("stream", True)
    if not isinstance(value, bool):
        fields.fault("wrong-shape", f"'stream' wants true or false, not {value!r}", "stream")
    return value is not False


def _read_price(fields: Fields) -> Price | None:
    data = fields.mapping("price")
    if not data:
        return None
    price = Fields(data, fields.file, lambda *_: fields.line("price"), fields.faults, what="`price`")
    price.only(frozenset({"input", "output"}))
    for side in ("input", "output"):
        value = data.get(side)
        if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value < float("inf"):
            price.fault("wrong-shape", f"`price` wants '{side}', a number of 0 or more per million tokens")
            return None
    return Price(float(data["input"]), float(data["output"]))


def _read_limits(fields: Fields) -> Limits:
    data = fields.mapping("limits")
    limits = Fields(data, fields.file, lambda *_: fields.line("limits"), fields.faults, what="`limits`")
    limits.only(LIMIT_FIELDS)
    optional = {
        name: limits.number(name, 1.0) for name in ("per_minute", "tokens_per_minute", "idle_timeout_s") if name in data
    }
    in_flight = limits.number("in_flight", Limits().in_flight)
    retries = data.get("retries", Limits().retries)
    if in_flight != int(in_flight):
        limits.fault("wrong-shape", f"'in_flight' wants a whole number, not {in_flight}")
    if type(retries) is not int or not 0 <= retries <= 20:
        limits.fault("wrong-shape", f"'retries' wants a whole number from 0 to 20, not {retries}")
        retries = 0
    timeout_s = limits.number("timeout_s", Limits().timeout_s)
    most_mb = limits.number("most_mb", Limits().most_mb)
    return Limits(in_flight=int(in_flight), timeout_s=timeout_s, retries=retries, most_mb=most_mb, **optional)


def _line(text: str, table: str | None, field: str | None) -> int | None:
    """Return the line of a field below its table's header, or of the header, as far as it can be found."""
    header = None
    for number, line in enumerate(text.splitlines(), start=1):
        stripped = line.strip().replace('"', "")
        if stripped.startswith("[") and table is not None:
            if header is not None:
                break
            header = number if re.match(rf"\[{re.escape(table)}[\].]", stripped) else None
        elif header is not None and field and re.match(rf"{re.escape(field)}\s*[=.]", stripped):
            return number
    return header
