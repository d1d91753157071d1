"""Running shell lines as a person types them, with the program on the path."""

from __future__ import annotations

import shlex
import subprocess
import sys
from pathlib import Path

from conftest import PROGRAM


def run_script(script: str, folder: Path, tmp_path: Path) -> subprocess.CompletedProcess[str]:
    """Run shell lines, the program among them, until one fails; which one is told."""
    bin_folder = tmp_path / "bin"
    bin_folder.mkdir(exist_ok=True)
    program = bin_folder / "dryquarry"
    program.write_text(f'#!/bin/sh\nexec {shlex.join(PROGRAM)} "$@"\n')
    program.chmod(0o755)
    traced = "set -eE\ntrap 'echo \"FAILED: $BASH_COMMAND\" >&2' ERR\n" + script
    path = f"{bin_folder}:{Path(sys.executable).parent}:/usr/bin:/bin"
    return subprocess.run(
        ["bash", "-c", traced], cwd=folder, capture_output=True, text=True, timeout=400, env={"PATH": path, "HOME": "/"}
    )
