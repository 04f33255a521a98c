"""Debian's packages: what is missing is installed, what is there is left alone."""

import importlib.util
import os
import shutil
import subprocess
import sys
from collections.abc import Iterable
from pathlib import Path

from launcher.places import Trouble

POSTGRES_BIN = Path("/usr/lib/postgresql/15/bin")
NO_MAIN_CLUSTER = "mkdir -p /etc/postgresql-common/createcluster.d && echo 'create_main_cluster = false' > /etc/postgresql-common/createcluster.d/mudlamp.conf"


def _has_library(name: str) -> bool:
    listed = subprocess.run(["/sbin/ldconfig", "-p"], capture_output=True, text=True, check=False)
    return name in listed.stdout


def _has_font(folder: str) -> bool:
    return any(Path("/usr/share/fonts").glob(f"truetype/{folder}*"))


# Each package, with a look that tells whether what it brings is there already (by whatever way it came).
PRESENT = {
    "postgresql-15": lambda: (POSTGRES_BIN / "postgres").exists(),
    "python3-venv": lambda: importlib.util.find_spec("ensurepip") is not None,
    "libpango-1.0-0": lambda: _has_library("libpango-1.0.so.0"),
    "libpangoft2-1.0-0": lambda: _has_library("libpangoft2-1.0.so.0"),
    "libharfbuzz-subset0": lambda: _has_library("libharfbuzz-subset.so.0"),
    "chromium": lambda: Path("/usr/bin/chromium").exists(),
    "fonts-liberation": lambda: _has_font("liberation"),
    "fonts-dejavu-core": lambda: _has_font("dejavu"),
    "libgl1": lambda: _has_library("libGL.so.1"),
    "libglib2.0-0": lambda: _has_library("libglib-2.0.so.0"),
    "libnss3-tools": lambda: shutil.which("certutil") is not None,
    "libatomic1": lambda: _has_library("libatomic.so.1"),
}

FOR_ENVIRONMENT = ("python3-venv",)
# The last three are what the engine of printed cards draws text with.
FOR_SERVING = ("python3-venv", "postgresql-15", "libpango-1.0-0", "libpangoft2-1.0-0", "libharfbuzz-subset0")
FOR_BROWSER = ("chromium", "fonts-liberation", "fonts-dejavu-core", "libatomic1", "libnss3-tools")
# What the library that counts how well tracks keep to their fish is linked with.
FOR_COMPARING = ("libgl1", "libglib2.0-0")


def missing(packages: Iterable[str]) -> list[str]:
    """Return the packages whose contents are not on this machine."""
    return [name for name in packages if not PRESENT[name]()]


def ensure(packages: Iterable[str]) -> None:
    """Install what is missing of `packages`; raise Trouble where that fails."""
    wanted = missing(packages)
    if not wanted:
        return
    print(f"lamp: installing Debian packages: {' '.join(wanted)}", file=sys.stderr)
    as_root = [] if os.geteuid() == 0 else ["sudo"]
    if as_root and shutil.which("sudo") is None:
        raise Trouble(
            f"Debian packages are missing and there is no sudo: as root, run 'apt-get install {' '.join(wanted)}', then run this again"
        )
    if "postgresql-15" in wanted:
        # The package would otherwise make and start a cluster of its own.
        subprocess.run([*as_root, "sh", "-c", NO_MAIN_CLUSTER], check=False)
    install = [*as_root, "env", "DEBIAN_FRONTEND=noninteractive", "apt-get", "install", "-y", "-qq", "--no-install-recommends", *wanted]
    for command in ([*as_root, "apt-get", "update", "-qq"], install):
        done = subprocess.run(command, stdin=subprocess.DEVNULL, stdout=sys.stderr, check=False)
        if done.returncode:
            raise Trouble(
                f"'{' '.join(command[-3:])}' failed (exit {done.returncode}): check the network and the free disk space, then run this again"
            )
    still = missing(wanted)
    if still:
        raise Trouble(f"still missing after installing: {' '.join(still)}; install by hand, then run this again")
