"""The folders and files that the launcher owns."""

from pathlib import Path

ROOT = Path(__file__).resolve().parent.parent
RUN = ROOT / ".run"
VENV = ROOT / ".venv"
VENV_PYTHON = VENV / "bin" / "python"
SOURCE = ROOT / "src"
REQUIREMENTS = ROOT / "requirements"


class Trouble(Exception):
    """Something that the user can put right; its text is one line that says what and how."""
