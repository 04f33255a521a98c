import errno
import os
import shutil
import signal
import socket
import subprocess
import time
import urllib.request
from pathlib import Path

import pytest

from launcher import __main__ as launcher_main
from launcher import cluster, debian, environment, places, serving
from tests.patience import PATIENCE_S, until

ROOT = Path(__file__).resolve().parents[2]


def free_port():
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@pytest.fixture
def clone(tmp_path_factory):
    """A checkout of its own, so that `up` here never meets the developer's: only the environment is shared, by a link."""
    # A name that programs trip over.
    folder = tmp_path_factory.mktemp("clone") / "100% mud"
    folder.mkdir()
    for path in (folder, *folder.parents[:4]):
        path.chmod(0o755)
    shutil.copy(ROOT / "lamp", folder / "lamp")
    for name in ("launcher", "src", "requirements"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("__pycache__"))
    (folder / ".venv").symlink_to(ROOT / ".venv")
    return folder


def start_up(clone, *words):
    with (clone / "up.log").open("w") as log:
        return subprocess.Popen(
            [str(clone / "lamp"), "up", *words], stdout=subprocess.DEVNULL, stderr=log, text=True, start_new_session=True
        )


def answers(port, seconds=PATIENCE_S):
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        try:
            with urllib.request.urlopen(f"http://127.0.0.1:{port}/healthz", timeout=1) as answer:
                return answer.status == 200
        except OSError:
            time.sleep(0.1)
    return False


def test_locks_name_hashes_and_no_host():
    for path in (ROOT / "requirements").glob("*.txt"):
        text = path.read_text()
        assert "--hash=sha256:" in text
        assert "://" not in text
    assert "resolved" not in (ROOT / "package-lock.json").read_text()


def test_help_and_unknown_commands_need_nothing(tmp_path):
    helped = subprocess.run([str(ROOT / "lamp"), "--help"], capture_output=True, text=True, check=True)
    for verb in ("up", "test", "bench", "screens", "scenes", "sim", "readings", "track", "water", "find", "backup", "restore"):
        assert f"\n  {verb}" in helped.stdout
    wrong = subprocess.run([str(ROOT / "lamp"), "up", "--port", "99999"], capture_output=True, text=True, check=False)
    assert (wrong.returncode, wrong.stdout) == (2, "")
    assert wrong.stderr.strip() == "lamp: --port is 99999: it must be 1 to 65535"


def test_a_port_in_use_is_told(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = taken.getsockname()[1]
        done = subprocess.run(
            [str(ROOT / "lamp"), "up", "--port", str(port)], capture_output=True, text=True, check=False, timeout=PATIENCE_S
        )
    assert done.returncode == 2
    assert "another './lamp up' is already running" in done.stderr or f"--port {port} on 127.0.0.1 cannot be used" in done.stderr


def test_a_killed_server_starts_again_and_a_taken_port_is_changed(tmp_path_factory):
    folder = tmp_path_factory.mktemp("pg")
    for path in (folder, *folder.parents[:3]):
        path.chmod(0o755)
    private = cluster.at(folder)
    assert cluster.ensure_running(private)
    assert not cluster.ensure_running(private)
    first = private.port
    os.kill(cluster._postmaster_pid(private), signal.SIGKILL)
    assert cluster.ensure_running(private)
    cluster.stop(private)
    assert cluster._postmaster_pid(private) is None
    with socket.socket() as other:
        # The server's last connections may linger on it.
        other.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
        other.bind(("127.0.0.1", first))
        other.listen()
        assert cluster.ensure_running(private)
        assert private.port != first
    # A pid file that names a stranger's process is no running server.
    cluster.stop(private)
    (private.data / "postmaster.pid").write_text(f"{os.getpid()}\n{private.data}\n")
    assert cluster._postmaster_pid(private) is None
    assert cluster.ensure_running(private)
    cluster.stop(private)


def test_an_interrupted_initdb_is_thrown_away(tmp_path_factory):
    folder = tmp_path_factory.mktemp("pg")
    for path in (folder, *folder.parents[:3]):
        path.chmod(0o755)
    (folder / "data.new").mkdir()
    (folder / "data.new" / "half").write_text("made")
    private = cluster.at(folder)
    assert cluster.ensure_running(private)
    assert not (folder / "data.new").exists()
    assert (private.home / "password").stat().st_mode & 0o777 == 0o600
    cluster.stop(private)


def test_a_full_disk_is_a_clear_line(tmp_path, monkeypatch):
    monkeypatch.setattr(cluster, "LEAST_FREE_BYTES", 10**18)
    with pytest.raises(places.Trouble, match="MB free on the disk"):
        cluster.ensure_running(cluster.Cluster(home=tmp_path))


def test_missing_packages_are_told_by_name(monkeypatch):
    monkeypatch.setitem(debian.PRESENT, "chromium", lambda: False)
    assert debian.missing(debian.FOR_BROWSER) == ["chromium"]
    monkeypatch.setattr(debian.os, "geteuid", lambda: 1000)
    monkeypatch.setattr(debian.shutil, "which", lambda name: None)
    with pytest.raises(places.Trouble, match=r"as root, run 'apt-get install chromium'"):
        debian.ensure(["chromium"])


def test_the_environment_drops_what_would_disturb_and_keys_the_kernel_cache(monkeypatch):
    monkeypatch.setenv("PYTHONDONTWRITEBYTECODE", "1")
    environ = environment.application_environ()
    assert "PYTHONDONTWRITEBYTECODE" not in environ
    assert environ["NUMBA_CACHE_DIR"].startswith(str(places.NUMBA))


@pytest.mark.parametrize("number", [signal.SIGINT, signal.SIGTERM])
def test_up_serves_and_one_signal_stops_all_that_it_started(clone, number):
    port = free_port()
    process = start_up(clone, "--port", str(port))
    try:
        assert answers(port), (clone / "up.log").read_text()[-800:]
        second = subprocess.run(
            [str(clone / "lamp"), "up", "--port", str(free_port())], capture_output=True, text=True, check=False, timeout=PATIENCE_S
        )
        assert second.returncode == 2
        assert "already running" in second.stderr
        home = cluster.at(clone / ".run" / "pg")
        assert cluster._postmaster_pid(home)
        process.send_signal(number)
        process.wait(PATIENCE_S)
        assert not answers(port, seconds=0.5)
        assert cluster._postmaster_pid(home) is None
    finally:
        if process.poll() is None:
            os.killpg(process.pid, signal.SIGKILL)


def served_pid(process):
    """The application's process: the launcher's child that is no database."""
    for path in Path("/proc").iterdir():
        if path.name.isdigit():
            try:
                parent = int((path / "stat").read_text().rsplit(")", 1)[1].split()[1])
                command = (path / "cmdline").read_bytes()
            except (OSError, IndexError):
                continue
            if parent == process.pid and b"mudlamp.cli" in command:
                return int(path.name)
    return None


def test_an_application_that_dies_or_hangs_is_started_again_and_said(clone):
    port = free_port()
    process = start_up(clone, "--port", str(port))
    log = clone / "up.log"
    try:
        assert answers(port), log.read_text()[-800:]
        for folder in ("log", "recordings", "secrets", "owed"):
            assert (clone / ".run" / folder).stat().st_mode & 0o777 == 0o700
        first = served_pid(process)
        os.kill(first, signal.SIGKILL)
        until(lambda: "ended by itself (exit -9): starting it again" in log.read_text())
        assert answers(port)
        second = served_pid(process)
        assert second != first
        # Until it has answered the launcher, too, it is given two minutes.
        time.sleep(3.0)
        os.kill(second, signal.SIGSTOP)
        until(lambda: "did not answer for 15 seconds: starting it again" in log.read_text())
        assert answers(port)
        # Killed itself, the launcher leaves neither the application nor the database.
        home = cluster.at(clone / ".run" / "pg")
        postmaster, third = cluster._postmaster_pid(home), served_pid(process)
        process.kill()
        process.wait()
        until(lambda: not Path(f"/proc/{postmaster}").exists() and not Path(f"/proc/{third}").exists())
        assert not answers(port, seconds=0.5)
    finally:
        if process.poll() is None:
            process.terminate()
            process.wait(PATIENCE_S)


def test_other_machines_are_not_let_in_yet():
    done = subprocess.run(
        [str(ROOT / "lamp"), "up", "--host", "192.0.2.1"], capture_output=True, text=True, check=False, timeout=PATIENCE_S
    )
    assert (done.returncode, done.stdout) == (2, "")
    assert done.stderr.startswith("lamp: --host is 192.0.2.1: it must be one of 127.0.0.1, localhost, ::1")


@pytest.fixture
def venv(tmp_path, monkeypatch):
    """An environment of one package too few to be believed, and then of enough."""
    home = tmp_path / "venv"
    packages = home / "lib" / "python3.11" / "site-packages"
    (home / "bin").mkdir(parents=True)
    (home / "bin" / "python").symlink_to(ROOT / ".venv" / "bin" / "python")
    for number in range(environment.FEWEST_PACKAGES):
        info = packages / f"p{number}-1.dist-info"
        info.mkdir(parents=True)
        (packages / f"p{number}.py").touch()
        (info / "RECORD").write_text(f"p{number}.py,sha256=x,0\n{info.name}/RECORD,,\n")
    monkeypatch.setattr(environment, "VENV", home)
    monkeypatch.setattr(environment, "VENV_PYTHON", home / "bin" / "python")
    return packages


def test_an_environment_is_believed_by_what_is_in_it(venv):
    assert environment._is_there()
    (venv / "p3.py").unlink()
    assert not environment._is_there()
    (venv / "p3.py").touch()
    python = venv.parents[2] / "bin" / "python"
    python.unlink()
    python.symlink_to("/nowhere/python3")
    assert not environment._is_there()


def test_an_emptied_environment_is_no_environment(venv):
    shutil.rmtree(venv)
    assert not environment._is_there()
    environment._remove_environment()
    assert not environment.VENV.exists()


def test_a_link_to_an_environment_is_removed_and_not_what_it_leads_to(venv, tmp_path, monkeypatch):
    link = tmp_path / "link"
    link.symlink_to(environment.VENV)
    monkeypatch.setattr(environment, "VENV", link)
    environment._remove_environment()
    assert not link.is_symlink()
    assert venv.exists()


@pytest.mark.parametrize(("number", "said"), [(errno.EROFS, "/x cannot be written: make it writable"), (errno.ENOSPC, "the disk is full")])
def test_a_folder_that_cannot_be_written_is_a_line(monkeypatch, capsys, number, said):
    def fail(_arguments):
        raise OSError(number, "no", "/x")

    monkeypatch.setattr(launcher_main, "main", fail)
    assert launcher_main.run(["up"]) == 2
    out, err = capsys.readouterr()
    assert out == ""
    assert err.startswith("lamp: ")
    assert said in err


def test_its_own_user_serves_where_it_can_read_the_program(monkeypatch, tmp_path):
    """As root: what it writes is given to a user of its own; where that user cannot read the program it keeps its name, without powers."""
    if os.geteuid() != 0:
        assert serving.own_user() is None
        return
    monkeypatch.setattr(serving, "RUN", tmp_path)
    monkeypatch.setattr(serving, "NUMBA", tmp_path / "numba")
    monkeypatch.setattr(serving, "_can_read", lambda _user: True)
    user = serving.own_user()
    assert (user.pw_name, user.pw_uid == 0) == ("mudlamp", False)
    (tmp_path / "log").mkdir()
    (tmp_path / "log" / "old.log").touch()
    serving.own_folders(user)
    assert {path.stat().st_uid for path in tmp_path.rglob("*")} == {user.pw_uid}
    monkeypatch.setattr(serving, "_can_read", lambda _user: False)
    assert serving.own_user() is None
