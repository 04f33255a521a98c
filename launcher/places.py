"""The folders and files that the launcher owns."""

import os
from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
# What runs apart (benches and pictures) has a database, a log and recordings of its own: an angler's log holds an angler's days alone.
RUN = ROOT / ".run" / "apart" if os.environ.get("MUDLAMP_APART") else ROOT / ".run"
# Compiled kernels are the same for all.
NUMBA = ROOT / ".run" / "numba"
VENV = ROOT / ".venv"
VENV_PYTHON = VENV / "bin" / "python"
SOURCE = ROOT / "src"
REQUIREMENTS = ROOT / "requirements"


class Trouble(Exception):
    """Something that the user can put right; its text is one line that says what and how."""
