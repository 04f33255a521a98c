"""The commands: `up` and `test` set the machine up, the others hand over to the application."""

import argparse
import fcntl
import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
from pathlib import Path
from typing import IO, NoReturn

from launcher import backup, cluster, debian, environment, serving
from launcher.places import ROOT, RUN, VENV_PYTHON, Trouble

DEFAULT_PORT = 8470
LOOPBACK = ("127.0.0.1", "localhost", "::1")
EVERYWHERE = ("0.0.0.0", "::")  # noqa: S104 - asked for by --host
NEEDS_BROWSER = ("screens",)
# What learns, or is compared with a library, takes libraries of the tests': `up` never installs them.
NEEDS_LEARNING = ("train",)
ON_DATABASE = ("export", "import", "archive", "unarchive")
# What is learned from anglers' corrections is on the database too.
CORRECTIONS = "--corrections"
BENCHES_THAT_LEARN = ("tracker", "class")
HELP = """usage: ./lamp COMMAND [options]

  up         install what is missing, start the database, serve; Ctrl-C stops it all
  test       the whole suite, on its own database  [pytest arguments]
  bench      the benchmark table  [engine | live]
  screens    remake docs/screenshots/ from the demo
  scenes     the stock scenes
  sim        a recording of simulated water, and the truth beside it
  readings   what the receiver shows of a recording, in figures
  track      tracks and reactions from a recording alone
  cast       where to throw, how long to count
  tune       the set-up card for this water
  find       a search along a path over a reach of water, into a recording
  train      learn anew what the tracker knows
  export     an angler's rows of a kind into a file (CSV, JSON, Parquet, GeoJSON, GPX)
  import     a file into an angler's log
  archive    an angler's whole account into one file
  unarchive  such a file back into an installation
  talk       a simulated boat's instruments (NMEA 0183 over TCP)
  backup     the whole database into one file
  restore    a backup in the place of the database
  water      sound speed, absorption, ping limit

./lamp COMMAND --help tells more of each."""


HELP_FILE = {
    "backup": "Write the whole database into one file (PostgreSQL's own format); './lamp up' may go on meanwhile.",
    "restore": "Put a backup in the place of the database, whole or not at all; stop './lamp up' first.",
}


class _OneLine(argparse.ArgumentParser):
    def error(self, message: str) -> NoReturn:
        raise Trouble(message)


def main(arguments: list[str]) -> int:
    """Run one command; return its exit status."""
    verb, rest = (arguments[0], arguments[1:]) if arguments else ("--help", [])
    if verb in ("-h", "--help", "help"):
        print(HELP)
        return 0
    if verb == "up":
        return up(rest)
    if verb == "test":
        return test(rest)
    if verb in ("backup", "restore"):
        return _with_file(verb, rest)
    if (verb in ON_DATABASE or (verb == "train" and CORRECTIONS in rest)) and not {"-h", "--help"} & set(rest):
        return _on_database(verb, rest)
    return hand_over(verb, rest)


def _with_file(verb: str, rest: list[str]) -> int:
    """Back up into a file, or restore from one."""
    parser = _OneLine(prog=f"lamp {verb}", description=HELP_FILE[verb])
    parser.add_argument("file", type=Path, help="the backup's file")
    path = parser.parse_args(rest).file
    return backup.backup(path) if verb == "backup" else backup.restore(path)


def _on_database(verb: str, rest: list[str]) -> int:
    """Run a verb of the application on its database, which is started where it does not run; return its exit status."""
    debian.ensure(debian.FOR_SERVING)
    environment.ensure("test.txt" if verb in NEEDS_LEARNING else "app.txt")
    with backup.running() as private:
        backup.before_migrating(private)
        command = [str(VENV_PYTHON), "-P", "-m", "mudlamp.cli", verb, *rest]
        address = f"{private.url('mudlamp')}\n".encode()
        status = subprocess.run(command, env=environment.application_environ(), input=address, check=False).returncode
    # What it wrote is the application's.
    serving.own_folders(serving.own_user())
    return status


def hand_over(verb: str, rest: list[str]) -> int:
    """Replace this process by the application's own command."""
    browser = verb in NEEDS_BROWSER or (verb == "bench" and "live" in rest)
    if browser:
        debian.ensure(debian.FOR_SERVING + debian.FOR_BROWSER)
    compares = verb == "bench" and any(name in rest for name in BENCHES_THAT_LEARN)
    if compares:
        debian.ensure(debian.FOR_COMPARING)
    environment.ensure("test.txt" if browser or compares or verb in NEEDS_LEARNING else "app.txt")
    command = [str(VENV_PYTHON), "-P", "-m", "mudlamp.cli", verb, *rest]
    os.execve(command[0], command, environment.application_environ())  # noqa: S606 - our own interpreter takes this process's place


def up(rest: list[str]) -> int:
    """Set up, start the database, serve until told to stop, then stop all that was started."""
    parser = _OneLine(prog="lamp up", description="Install what is missing, start the database, load the demo and serve.")
    parser.add_argument("--port", type=int, default=DEFAULT_PORT, help="port to serve on, 1 to 65535 (default %(default)s)")
    parser.add_argument(
        "--host", default="127.0.0.1", help="address to serve on (default %(default)s: this machine only; 0.0.0.0 lets paired devices in)"
    )
    parser.add_argument("--fresh", action="store_true", help="empty the database first and load the demo anew")
    options = parser.parse_args(rest)
    if not 1 <= options.port <= 65535:
        raise Trouble(f"--port is {options.port}: it must be 1 to 65535")
    if options.host not in (*LOOPBACK, *EVERYWHERE):
        # A code is shown on this machine: it must be able to come in.
        raise Trouble(
            f"--host is {options.host[:60]}: it must be one of {', '.join(LOOPBACK)} (this machine only), or {' or '.join(EVERYWHERE)} (paired devices too)"
        )
    if options.host in EVERYWHERE and not 1 <= options.port <= 65534:
        raise Trouble(f"--port is {options.port}: it must be 1 to 65534, since the port after it explains what to trust")
    stopping = _note_signals()
    RUN.mkdir(parents=True, exist_ok=True)
    with (RUN / "up.lock").open("a+") as alone:
        _only_one(alone)
        debian.ensure(debian.FOR_SERVING)
        environment.ensure("app.txt")
        for port in (options.port, options.port + 1)[: 1 if options.host in LOOPBACK else 2]:
            _check_port(options.host, port)
        private = cluster.at(RUN / "pg")
        try:
            return _serve(options, private, stopping)
        finally:
            cluster.stop(private)


def _serve(options: argparse.Namespace, private: cluster.Cluster, stopping: list[int]) -> int:
    command = [str(VENV_PYTHON), "-P", "-m", "mudlamp.cli", "serve", "--host", options.host, "--port", str(options.port)]
    command.append("--database-from-stdin")
    if options.fresh:
        command.append("--fresh")
    url = f"http://{f'[{options.host}]' if ':' in options.host else options.host}:{options.port}/"
    announcement = f"Mud Lamp is at {url}  (Ctrl-C stops it)"
    if options.host not in LOOPBACK:
        # Over https only those answer who trust it; this machine itself needs no trust.
        url = f"http://127.0.0.1:{options.port + 1}/"
        announcement = (
            f"Mud Lamp is at {url} on this machine; other devices begin at http://mudlamp.local:{options.port + 1}/door  (Ctrl-C stops it)"
        )
    if stopping:
        return 0
    # It loads its libraries while the database starts, and waits for the address.
    server = serving.Server(command, environment.application_environ(), url=f"{url}healthz")
    announced = False
    try:
        cluster.ensure_running(private)
        backup.before_migrating(private)
        server.tell(private.url("mudlamp"))
        while not stopping and server.look():
            if server.answered and not announced:
                announced = True
                print(announcement, flush=True)
            time.sleep(0.2 if announced else 0.05)
            if not _alive(private):
                print("lamp: the database ended by itself: starting it again", file=sys.stderr, flush=True)
                cluster.ensure_running(private)
    finally:
        server.stop()
    return 0 if stopping else 2


def _alive(private: cluster.Cluster) -> bool:
    return cluster._postmaster_pid(private) is not None


def _note_signals() -> list[int]:
    received: list[int] = []
    for number in (signal.SIGINT, signal.SIGTERM, signal.SIGHUP):
        signal.signal(number, lambda got, _frame: received.append(got))
    return received


def _only_one(file: IO[str]) -> None:
    try:
        fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except BlockingIOError:
        file.seek(0)
        raise Trouble(
            f"another './lamp up' is already running here (process {file.read().strip() or '?'}): use it, or stop it first"
        ) from None
    file.truncate(0)
    file.write(str(os.getpid()))
    file.flush()


def _check_port(host: str, port: int) -> None:
    with socket.socket(socket.AF_INET6 if ":" in host else socket.AF_INET) as probe:
        probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        try:
            probe.bind((host, port))
        except OSError as error:
            raise Trouble(
                f"--port {port} on {host} cannot be used ({error.strerror}): stop what uses it, or choose another with --port"
            ) from None


def test(rest: list[str]) -> int:
    """Run every check, or only pytest where it is given arguments."""
    if rest in (["-h"], ["--help"]):
        print(
            "usage: ./lamp test [pytest arguments]\n\nWithout arguments: ruff, mypy, import-linter, the front end rebuilt and compared, pytest."
        )
        return 0
    debian.ensure(debian.FOR_SERVING + debian.FOR_BROWSER + debian.FOR_COMPARING)
    environment.ensure("test.txt")
    private = cluster.at(RUN / "test-pg")
    stopping = _note_signals()
    environ = environment.application_environ()
    with environment.locked("test"):
        cluster.ensure_running(private)
        environ |= {
            "MUDLAMP_TEST_ADMIN_URL": private.url("postgres"),
            "MUDLAMP_TEST_CLUSTER": str(private.home),
            "PYTHONPATH": f"{environ['PYTHONPATH']}:{ROOT}",
        }
        try:
            status = _run_side_by_side(_checks(rest), environ, stopping)
        finally:
            cluster.stop(private)
    return status


def _run_side_by_side(checks: list[tuple[str, list[str]]], environ: dict[str, str], stopping: list[int]) -> int:
    """Run checks at the same time; show each one's output when it ends; return the first bad exit status, 0 where all passed, 2 when stopped.

    The last check writes to the screen as it goes.
    """
    status = 0
    with tempfile.TemporaryDirectory() as folder:
        running = []
        for number, (name, command) in enumerate(checks, start=1):
            output = None if number == len(checks) else (Path(folder) / str(number)).open("w+")
            child = subprocess.Popen(command, env=environ, cwd=ROOT, start_new_session=True, stdout=output, stderr=output)
            running.append((name, child, output))
        while running and not stopping:
            for one in [one for one in running if one[1].poll() is not None]:
                running.remove(one)
                name, child, output = one
                print(f"lamp: {name}: {'passed' if child.returncode == 0 else 'FAILED'}", file=sys.stderr, flush=True)
                if output is not None and child.returncode:
                    output.seek(0)
                    print(output.read(), file=sys.stderr, flush=True)
                status = status or child.returncode
            time.sleep(0.1)
        for _, child, _ in running:
            os.killpg(child.pid, signal.SIGTERM)
            serving.stop_process(child)
    return 2 if stopping else status


def _checks(rest: list[str]) -> list[tuple[str, list[str]]]:
    python = str(VENV_PYTHON)
    if rest:
        return [("pytest", [python, "-m", "pytest", *rest])]
    # One worker more than there are cores: many tests wait for a server or a browser. A file's tests stay together and share what they start.
    workers = str((os.cpu_count() or 1) + 1)
    return [
        ("ruff check", [python, "-m", "ruff", "check", "."]),
        ("ruff format", [python, "-m", "ruff", "format", "--check", "."]),
        ("mypy", [python, "-m", "mypy"]),
        ("import-linter", [str(Path(python).with_name("lint-imports")), "--no-cache"]),
        ("front end, rebuilt and compared", [python, "tools/front_end.py", "--compare"]),
        ("pytest", [python, "-m", "pytest", "-n", workers, "--dist", "loadfile", "--durations", "15"]),
    ]
