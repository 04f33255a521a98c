"""The virtual environment at .venv, made from the hash locks in requirements/."""

import contextlib
import fcntl
import hashlib
import itertools
import os
import shutil
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

from launcher import debian
from launcher.places import NUMBA, REQUIREMENTS, ROOT, RUN, SOURCE, VENV, VENV_PYTHON, Trouble

STAMP = VENV / "lamp-stamp"
FEWEST_PACKAGES, FILES_LOOKED_AT = 20, 8


@contextlib.contextmanager
def locked(name: str) -> Iterator[None]:
    """Hold the file lock .run/NAME.lock: a second command waits for the first."""
    RUN.mkdir(parents=True, exist_ok=True)
    with (RUN / f"{name}.lock").open("w") as file:
        fcntl.flock(file, fcntl.LOCK_EX)
        yield


def _digest(*names: str) -> str:
    text = b"".join((REQUIREMENTS / name).read_bytes() for name in names)
    return hashlib.sha256(text + sys.version.encode()).hexdigest()


def _is_there() -> bool:
    """Return whether the environment holds what it says it does: its interpreter, and the first files of every package.

    A stamp outlives a folder that was emptied, and an interpreter that was uninstalled.
    """
    records = sorted(VENV.glob("lib/python3.*/site-packages/*.dist-info/RECORD"))
    if not VENV_PYTHON.exists() or len(records) < FEWEST_PACKAGES:
        return False
    for record in records:
        with record.open(encoding="utf-8", errors="replace") as rows:
            named = (row.rpartition(",sha256=")[0].strip('"') for row in rows)
            first = list(itertools.islice((name for name in named if name.endswith((".py", ".so"))), FILES_LOOKED_AT))
        if not all((record.parent.parent / name).is_file() for name in first):
            return False
    return True


def _remove_environment() -> None:
    """Remove what is left of an environment; where it is a link, the link alone."""
    if VENV.is_symlink():
        VENV.unlink()
    elif VENV.exists():
        shutil.rmtree(VENV)


def ensure(lock: str) -> None:
    """Make or mend .venv so that it holds what `lock` ('app.txt' or 'test.txt', a superset) names."""
    wanted = _digest("uv.txt", lock)
    with locked("environment"):
        whole = STAMP.exists() and _is_there()
        if whole and wanted in STAMP.read_text().split():
            return
        debian.ensure(debian.FOR_ENVIRONMENT)
        STAMP.unlink(missing_ok=True)
        if not whole:
            _remove_environment()
        print(f"lamp: making the Python environment from requirements/{lock}", file=sys.stderr)
        if not whole:
            _run([sys.executable, "-m", "venv", str(VENV)])
            _run(
                [
                    str(VENV_PYTHON),
                    "-m",
                    "pip",
                    "install",
                    "-q",
                    "--disable-pip-version-check",
                    "--require-hashes",
                    "--only-binary",
                    ":all:",
                    "-r",
                    str(REQUIREMENTS / "uv.txt"),
                ]
            )
        # Kept beside the packages it installs: `uv pip sync` would remove a uv that the lock does not name.
        _run(
            [
                str(VENV_PYTHON),
                "-m",
                "uv",
                "pip",
                "sync",
                "-q",
                "--compile-bytecode",
                "--system-certs",
                "--python",
                str(VENV_PYTHON),
                "--require-hashes",
                "--only-binary",
                ":all:",
                str(REQUIREMENTS / lock),
                str(REQUIREMENTS / "uv.txt"),
            ]
        )
        names = [_digest("uv.txt", "app.txt")] + ([wanted] if lock != "app.txt" else [])
        STAMP.write_text("\n".join(names) + "\n")


def _run(command: list[str]) -> None:
    done = subprocess.run(command, stdin=subprocess.DEVNULL, stdout=sys.stderr, env=clean_environ(), check=False)
    if done.returncode:
        raise Trouble(
            "the Python environment could not be made (see above): check the network and the free disk space; the next run starts it afresh"
        )


def clean_environ() -> dict[str, str]:
    """Return this process's environment without what would disturb the application's Python."""
    dropped = {"PYTHONDONTWRITEBYTECODE", "PYTHONHOME", "VIRTUAL_ENV"}
    return {name: value for name, value in os.environ.items() if name not in dropped} | {"PYTHONPATH": str(SOURCE)}


def application_environ() -> dict[str, str]:
    """Return the environment in which the application and its tests run.

    numba keeps stale machine code when an inner kernel changes: its cache folder carries a digest of all kernels.
    """
    kernels = b"".join(path.read_bytes() for path in sorted(SOURCE.rglob("_kernels*.py")))
    digest = hashlib.sha256(kernels + _numba_version().encode()).hexdigest()[:16]
    return clean_environ() | {"NUMBA_CACHE_DIR": str(NUMBA / digest), "MUDLAMP_ROOT": str(ROOT), "MUDLAMP_RUN_DIR": str(RUN)}


def _numba_version() -> str:
    found = sorted(Path(VENV / "lib").glob("python3.*/site-packages/numba-*.dist-info"))
    return found[-1].name if found else "none"
