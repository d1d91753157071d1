"""Runs inside the sandbox of an author's tests: the program, which is in a sandbox of its own, as a module.

What the tests call is done there, and what comes back is plain data or a number that stands for an object there. So
the program can neither see the tests, nor end them, nor write their report.
"""

import builtins
import json
import os
import sys

TAG = "~"
_comes = os.fdopen(int(os.environ["DOOR_IN"]), encoding="utf-8") if "DOOR_IN" in os.environ else None
_goes = os.fdopen(int(os.environ["DOOR_OUT"]), "w", encoding="utf-8") if "DOOR_OUT" in os.environ else None
_by_calls_alone = os.environ.get("DOOR_KIND") == "calls"
_classes = {}


class ProgramGone(Exception):
    """The program ended, or took too long."""


class NotPossible(TypeError):
    """Something that a test cannot do with a program that is elsewhere."""


def _asked(wish):
    if _goes is None:
        raise NotPossible("this program is no module; start it as ./program")
    try:
        _goes.write(json.dumps(wish) + "\n")
        _goes.flush()
        line = _comes.readline()
    except OSError:
        line = ""
    if not line:
        raise ProgramGone("the program ended before the call came back")
    said = json.loads(line)
    if said.get("loading"):
        where = f" (line {said['line']})" if said.get("line") else ""
        raise ImportError(
            f"the program breaks when it is loaded: {said['raised'][0]}: {said.get('message', '')}{where}"
        )
    return said


def _out(value):
    if value is None or type(value) in (bool, int, float, str):
        return value
    if isinstance(value, _Remote):
        return {TAG: "ref", "v": object.__getattribute__(value, "_number")}
    if isinstance(value, type) and "_number" in value.__dict__:
        return {TAG: "ref", "v": value.__dict__["_number"]}
    if isinstance(value, list):
        return [_out(one) for one in value]
    if isinstance(value, (tuple, set, frozenset)):
        return {TAG: "tuple" if isinstance(value, tuple) else "set", "v": [_out(one) for one in value]}
    if isinstance(value, dict):
        return {TAG: "map", "v": [[_out(key), _out(one)] for key, one in value.items()]}
    if isinstance(value, bytes):
        return {TAG: "bytes", "v": value.hex()}
    raise NotPossible(f"a {type(value).__name__} of the tests cannot be handed to the program; plain values can")


def _into(value):
    if isinstance(value, list):
        return [_into(one) for one in value]
    if not isinstance(value, dict):
        return value
    tag, inner = value[TAG], value.get("v")
    if tag == "ref":
        return _class(inner, json.loads(value["kind"])) if value["kind"].startswith("[") else _Remote(inner)
    if tag in ("tuple", "set"):
        return (tuple if tag == "tuple" else set)(_into(one) for one in inner)
    if tag in ("map", "object"):
        return {_into(key): _into(one) for key, one in inner}
    if tag == "bytes":
        return bytes.fromhex(inner)
    if tag == "number":
        return int(inner) if inner.lstrip("-").isdigit() else float(inner)
    return None if tag == "undefined" else inner


def _done(op, *args, **named):
    wish = {"op": op, "args": [_out(one) for one in args], "kw": {name: _out(one) for name, one in named.items()}}
    said = _asked(wish)
    sys.stdout.write(said.get("out", ""))
    for given, after in zip(args, said.get("args", ()), strict=False):
        if after is not None and type(given) in (list, dict, set):
            new = _into(after)
            given.clear()
            given.extend(new) if isinstance(given, list) else given.update(new)
    if "raised" in said:
        raise _error(said)
    return _into(said["value"])


def _error(said):
    if "class" in said and isinstance(said["class"], dict):
        kind = _into(said["class"])
    else:
        kind = next((_built_in(name) for name in said["raised"] if _built_in(name)), Exception)
    try:
        return kind(said.get("message", ""))
    except Exception:
        return Exception(f"{said['raised'][0]}: {said.get('message', '')}")


def _built_in(name):
    found = getattr(builtins, name, None)
    return found if isinstance(found, type) and issubclass(found, BaseException) else None


class _Kind(type):
    """The classes of the program: what they make, and what is asked of them, is there."""

    def __call__(cls, *args, **named):
        if issubclass(cls, BaseException):
            return super().__call__(*args)
        return _done("do", cls, *args, **named)

    def __getattr__(cls, name):
        if name.startswith("__"):
            raise AttributeError(name)
        return _done("getattr", cls, name)

    def __instancecheck__(cls, thing):
        if isinstance(thing, _Remote):
            return _done("isinstance", thing, cls)
        return super().__instancecheck__(thing)


def _class(number, said):
    if number not in _classes:
        _, name, known = said
        built_in = _built_in(known[0]) if known else None
        if built_in is not None and name == known[0]:
            return built_in
        _classes[number] = _Kind(name, (built_in or object,), {"_number": number})
    return _classes[number]


class _Remote:
    """An object of the program."""

    __slots__ = ("_number",)

    def __init__(self, number):
        object.__setattr__(self, "_number", number)

    def __getattr__(self, name):
        return _done("getattr", self, name)

    def __setattr__(self, name, value):
        _done("setattr", self, name, value)

    def __call__(self, *args, **named):
        return _done("do", self, *args, **named)

    def __iter__(self):
        there = _done("iter", self)
        while True:
            try:
                one = _done("next", there)
            except StopIteration:
                return
            yield one

    def __next__(self):
        return _done("next", self)

    def __hash__(self):
        return _done("hash", self)

    def __enter__(self):
        return _done("do", _done("getattr", self, "__enter__"))

    def __exit__(self, *error):
        return _done("do", _done("getattr", self, "__exit__"), None, None, None)


def _forwarded(method, op):
    setattr(_Remote, method, lambda self, *args: _done(op, self, *args))


for _name in ("len", "str", "repr", "bool", "abs", "int", "float", "round"):
    _forwarded(f"__{_name}__", _name)
for _name in ("eq", "ne", "lt", "le", "gt", "ge", "contains", "getitem", "setitem", "delitem", "neg", "invert"):
    _forwarded(f"__{_name}__", _name)
for _name in (
    "add",
    "sub",
    "mul",
    "truediv",
    "floordiv",
    "mod",
    "pow",
    "and_",
    "or_",
    "xor",
    "matmul",
    "lshift",
    "rshift",
):
    _forwarded(f"__{_name.rstrip('_')}__", _name)


class _Called:
    """A function of a program whose objects stay there altogether: what it gives is plain data."""

    def __init__(self, path):
        self._path = path

    def __getattr__(self, name):
        if name.startswith("__"):
            raise AttributeError(name)
        return _Called(f"{self._path}.{name}" if self._path else name)

    def __call__(self, *args, **named):
        said = _asked({"op": "call", "path": self._path, "args": list(args), "kw": named})
        if said.get("undefined"):
            raise AttributeError(f"the program defines no {self._path}")
        if "raised" in said:
            raise _error(said)
        return _into(said["value"])


def opened(name):
    """Put the program in place of a module of the tests."""
    sys.modules[name] = _Called("") if _by_calls_alone else _Module(name, _done("module", name))


class _Module:
    def __init__(self, name, there):
        self.__dict__.update(_there=there, __name__=name)

    def __getattr__(self, name):
        if name == "__all__":
            return _done("dir", self._there)
        if name.startswith("__"):
            raise AttributeError(name)
        return getattr(self._there, name)

    def __setattr__(self, name, value):
        setattr(self._there, name, value)
