"""What tests of running programs need of the machine; where it lacks it they are skipped, and say so."""

from __future__ import annotations

import shutil

import pytest

from dryquarry.sandbox import bubblewrap

_FOUND = bubblewrap.found()

needs_sandbox = pytest.mark.skipif(isinstance(_FOUND, str), reason=f"not run: {_FOUND}")
needs_node = pytest.mark.skipif(shutil.which("node") is None, reason="not run: Node is not installed")
needs_compilers = pytest.mark.skipif(shutil.which("g++") is None, reason="not run: gcc and g++ are not installed")
