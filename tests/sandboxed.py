"""What tests of running programs need of the machine; where it lacks it they are skipped, and say so."""

from __future__ import annotations

import importlib.util
import shutil

import pytest

from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.browser import browser_missing
from dryquarry.sandbox.windows import windows_missing

_FOUND = bubblewrap.found()

needs_sandbox = pytest.mark.skipif(isinstance(_FOUND, str), reason=f"not run: {_FOUND}")
needs_node = pytest.mark.skipif(shutil.which("node") is None, reason="not run: Node is not installed")
needs_compilers = pytest.mark.skipif(shutil.which("g++") is None, reason="not run: gcc and g++ are not installed")
_BROWSER = browser_missing() or (_FOUND if isinstance(_FOUND, str) else None)
needs_browser = pytest.mark.skipif(_BROWSER is not None, reason=f"not run: {_BROWSER}")
_WINDOWS = windows_missing() or (_FOUND if isinstance(_FOUND, str) else None)
if _WINDOWS is None and importlib.util.find_spec("_tkinter") is None:
    _WINDOWS = "this Python has no Tk"
needs_windows = pytest.mark.skipif(_WINDOWS is not None, reason=f"not run: {_WINDOWS}")
