"""Runs inside the sandbox beside a Python program: calls what it is told to call, and says what came back.

It is told nothing of what is wanted. A program that meddles with it can only say that other values came back, and
which ones would pass it does not know. Standard library only: it runs where the program runs.
"""

import asyncio
import builtins
import contextlib
import datetime
import decimal
import fractions
import inspect
import io
import json
import math
import os
import sys
import types

TAG = "~"
MOST = 200_000
LONGEST_TEXT = 1_000_000
HOME = os.getcwd()


class Encoder:
    """Values as plain data with tags; with `refs`, what is no plain value stays here and goes out as a number."""

    def __init__(self, refs=None):
        self.refs = refs
        self.count = 0

    def value(self, thing, depth=0):
        self.count += 1
        if self.count > MOST or depth > 90:
            return {TAG: "other", "v": "more than can be shown"}
        if thing is None or type(thing) in (bool, str):
            return whole(thing[:LONGEST_TEXT]) if isinstance(thing, str) else thing
        if type(thing) is int:
            return thing if abs(thing) < 2**53 else {TAG: "number", "v": big(thing)}
        if type(thing) is float:
            return thing if math.isfinite(thing) else {TAG: "number", "v": repr(thing)}
        if type(thing) is bytes:
            return {TAG: "bytes", "v": thing[:LONGEST_TEXT].hex()}
        if type(thing) is list:
            return [self.value(one, depth + 1) for one in thing]
        if type(thing) is tuple:
            return {TAG: "tuple", "v": [self.value(one, depth + 1) for one in thing]}
        if type(thing) in (set, frozenset):
            return {TAG: "set", "v": [self.value(one, depth + 1) for one in ordered(thing)]}
        if type(thing) is dict:
            pairs = [[self.value(key, depth + 1), self.value(one, depth + 1)] for key, one in thing.items()]
            return {TAG: "map", "v": pairs}
        return self.object(thing, depth) if self.refs is None else self.refs.out(thing)

    def object(self, thing, depth):
        """Return an object by what it amounts to: its number, its members, its fields, or how it shows itself."""
        if isinstance(thing, (decimal.Decimal, fractions.Fraction)):
            return {TAG: "number", "v": str(thing)}
        if isinstance(thing, (datetime.date, datetime.time)):
            return {TAG: "date", "v": thing.isoformat()}
        if isinstance(thing, (bool, int, float, str)):
            kind = next(one for one in (bool, int, float, str) if isinstance(thing, one))
            return self.value(kind(thing), depth)
        if isinstance(thing, dict):
            return self.value(dict(thing), depth)
        if isinstance(thing, (list, tuple, set, frozenset)):
            kind = next(one for one in (list, tuple, set, frozenset) if isinstance(thing, one))
            return self.value(kind(thing), depth)
        if hasattr(thing, "__next__") or isinstance(
            thing, (range, type({}.keys()), type({}.values()), type({}.items()))
        ):
            members = []
            for one in thing:
                members.append(one)
                if len(members) > MOST:
                    break
            return self.value(members, depth)
        if hasattr(thing, "__dataclass_fields__") and not isinstance(thing, type):
            pairs = [[name, self.value(getattr(thing, name), depth + 1)] for name in thing.__dataclass_fields__]
            return {TAG: "object", "kind": type(thing).__name__, "v": pairs}
        if callable(getattr(thing, "item", None)) and type(thing).__module__.startswith("numpy"):
            return self.value(thing.tolist(), depth)
        return {TAG: "other", "kind": type(thing).__name__, "v": shown(thing)}


def big(number):
    try:
        return str(number)
    except ValueError:
        return f"a number of {number.bit_length()} binary digits"


def whole(text):
    return text.encode("utf-8", "backslashreplace").decode("utf-8")


def ordered(members):
    try:
        return sorted(members)
    except TypeError:
        return sorted(members, key=repr)


def shown(thing):
    try:
        return whole(repr(thing)[:500])
    except Exception as error:
        return f"<{type(thing).__name__}, whose repr raises {type(error).__name__}>"


def raised(error):
    """Return an error as data: its kinds, nearest first, and what it says."""
    kinds = [one.__name__ for one in type(error).__mro__ if one not in (object, BaseException)]
    try:
        said = str(error)
    except Exception:
        said = ""
    line = None
    trace = error.__traceback__
    while trace is not None:
        if trace.tb_frame.f_code.co_filename.startswith(HOME):
            line = trace.tb_lineno
        trace = trace.tb_next
    if isinstance(error, SyntaxError) and error.lineno:
        said, line = error.msg or said, error.lineno
    return {"raised": kinds or ["BaseException"], "message": whole(said[:2000]), "line": line}


class Refs:
    """The objects that stay here and are known outside by a number."""

    def __init__(self):
        self.things = []
        self.numbers = {}

    def out(self, thing):
        number = self.numbers.get(id(thing))
        if number is None:
            number = self.numbers[id(thing)] = len(self.things)
            self.things.append(thing)
        said = {TAG: "ref", "v": number, "kind": type(thing).__name__}
        if isinstance(thing, type):
            known = [one.__name__ for one in thing.__mro__ if getattr(builtins, one.__name__, None) is one]
            said["kind"] = json.dumps(["class", thing.__name__, known])
        return said

    def into(self, value):
        if isinstance(value, list):
            return [self.into(one) for one in value]
        if not isinstance(value, dict):
            return value
        tag, inner = value[TAG], value.get("v")
        if tag == "ref":
            return self.things[inner]
        if tag == "map":
            return {self.into(key): self.into(one) for key, one in inner}
        if tag in ("tuple", "set"):
            return (tuple if tag == "tuple" else set)(self.into(one) for one in inner)
        if tag == "bytes":
            return bytes.fromhex(inner)
        return float(inner) if "n" in inner or "." in inner else int(inner)


class Servant:
    """The program, loaded, and what is asked of it."""

    def __init__(self, main, remote):
        self.main = main
        self.refs = Refs()
        self.remote = remote
        self.failed = None
        self.modules = {}
        sys.path.insert(0, os.path.dirname(os.path.abspath(main)))
        sys.path.insert(0, HOME)
        sys.argv = [main]
        self.load()

    def load(self):
        name = os.path.splitext(os.path.basename(self.main))[0]
        module = types.ModuleType(name)
        module.__file__ = self.main
        sys.modules[name] = self.modules[name] = self.modules["program"] = module
        try:
            with open(self.main, encoding="utf-8") as file:
                code = compile(file.read(), os.path.abspath(self.main), "exec")
            exec(code, module.__dict__)
        except (EOFError, SystemExit):
            pass  # it asks somebody for something, or ends itself, at the end of what it defines
        except BaseException as error:
            self.failed = {**raised(error), "loading": True}
        self.module = module

    def named(self, path):
        thing = self.module
        for part in path.split("."):
            thing = getattr(thing, part)
        return thing

    def answer(self, wish):
        if self.failed is not None:
            return self.failed
        try:
            return self.call(wish) if wish["op"] == "call" else self.remotely(wish)
        except BaseException as error:
            return raised(error)

    def call(self, wish):
        try:
            function = self.named(wish["path"])
        except AttributeError:
            return {"raised": ["NameError"], "message": "", "undefined": True}
        result = function(*wish["args"], **wish["kw"])
        if inspect.iscoroutine(result):
            result = asyncio.run(result)
        return {"value": Encoder().value(result)}

    def remotely(self, wish):
        encoder = Encoder(self.refs)
        kind, args = wish["op"], [self.refs.into(one) for one in wish["args"]]
        named = {name: self.refs.into(one) for name, one in wish.get("kw", {}).items()}
        heard = io.StringIO()
        with contextlib.redirect_stdout(heard):
            try:
                said = {"value": encoder.value(self.done(kind, args, named))}
            except BaseException as error:
                said = {**raised(error), "class": self.refs.out(type(error))}
        # what it did to lists and mappings that it was given is done to those outside, too
        said["args"] = [encoder.value(one) if type(one) in (list, dict, set) else None for one in args]
        said["out"] = heard.getvalue()[:LONGEST_TEXT]
        return said

    def done(self, kind, args, named):
        if kind == "module":
            name = args[0]
            if name not in self.modules:
                self.modules[name] = __import__(name, fromlist=["*"])
            return self.modules[name]
        if kind == "do":
            result = args[0](*args[1:], **named)
            return asyncio.run(result) if inspect.iscoroutine(result) else result
        if kind == "isinstance":
            return isinstance(args[0], args[1])
        if kind == "next":
            return next(args[0])
        if kind == "dir":
            return [name for name in dir(args[0]) if not name.startswith("__")]
        return getattr(builtins, kind)(*args) if kind in BUILT_IN else getattr(__import__("operator"), kind)(*args)


BUILT_IN = (
    "getattr",
    "setattr",
    "delattr",
    "len",
    "iter",
    "str",
    "repr",
    "bool",
    "hash",
    "abs",
    "int",
    "float",
    "round",
)


def main():
    come, go = int(sys.argv[1]), int(sys.argv[2])
    with os.fdopen(come, encoding="utf-8") as wishes, os.fdopen(go, "w", encoding="utf-8") as answers:
        for number in (come, go):
            os.set_inheritable(number, False)
        servant = Servant(sys.argv[3], remote=len(sys.argv) > 4)
        for line in wishes:
            wish = json.loads(line)
            said = servant.answer(wish)
            sys.stdout.flush()
            answers.write(json.dumps({**said, "id": wish.get("id")}) + "\n")
            answers.flush()


if __name__ == "__main__":
    main()
