"""The application's own process: started with no more rights than it needs, watched, and started again where it dies or hangs."""

import contextlib
import os
import pwd
import signal
import subprocess
import sys
import time
import urllib.request

from launcher.children import serve_without_rights
from launcher.places import NUMBA, ROOT, RUN, VENV_PYTHON

USER = "mudlamp"
# What the application writes: folders of its own that nobody else reads.
OWN_FOLDERS = ("log", "recordings", "photos", "archives", "find", "owed", "secrets", "home")
STOP_SECONDS = 5
# It is asked this often; silent for so long it hangs.
LOOK_SECONDS, SILENT_SECONDS, PATIENCE_SECONDS = 2.0, 15.0, 2.0
FIRST_ANSWER_SECONDS = 120.0
# So many ends within so long, and something is wrong that starting again does not mend.
MOST_STARTS, WITHIN_SECONDS = 5, 120.0


def own_folders(owner: pwd.struct_passwd | None) -> None:
    """Make the folders that the application writes to; give them, and what is in them, to its own user where it has one."""
    if owner is not None:
        # Under a strict umask the folder that holds them would shut its own user out.
        for folder in {RUN, NUMBA.parent}:
            folder.chmod(folder.stat().st_mode | 0o711)
    for folder in (NUMBA, *(RUN / name for name in OWN_FOLDERS)):
        folder.mkdir(mode=0o700, exist_ok=True)
        folder.chmod(0o700)
        if os.geteuid() != 0:
            continue
        # Without a user of its own it runs as root without root's rights: then what another start gave away must come back, too.
        uid, gid = (0, 0) if owner is None else (owner.pw_uid, owner.pw_gid)
        for path in (folder, *folder.rglob("*")):
            if path.lstat().st_uid != uid:
                os.chown(path, uid, gid, follow_symlinks=False)


def own_user() -> pwd.struct_passwd | None:
    """Return the application's own user, made where it is not there; None where we are not root, or it could not read the program."""
    if os.geteuid() != 0:
        return None
    try:
        found = pwd.getpwnam(USER)
    except KeyError:
        made = subprocess.run(
            ["useradd", "--system", "--no-create-home", "--home-dir", "/nonexistent", "--shell", "/usr/sbin/nologin", USER],
            capture_output=True,
            check=False,
        )
        if made.returncode:
            return None
        found = pwd.getpwnam(USER)
    return found if _can_read(found) else None


def _can_read(user: pwd.struct_passwd) -> bool:
    """Return whether a user can start the application's interpreter and read the program."""
    probe = [str(VENV_PYTHON), "-P", "-c", "import mudlamp.web"]
    environ = {"PATH": "/usr/bin:/bin", "PYTHONPATH": str(ROOT / "src"), "PYTHONDONTWRITEBYTECODE": "1"}
    try:
        done = subprocess.run(
            probe, user=user.pw_uid, group=user.pw_gid, extra_groups=[], cwd="/", env=environ, capture_output=True, check=False
        )
    except OSError:
        return False
    return done.returncode == 0


class Server:
    """The application's process. `look` keeps it going; `stop` ends it."""

    def __init__(self, command: list[str], environ: dict[str, str], *, url: str) -> None:
        self._url = url
        self._starts: list[float] = []
        self._answered_at: float | None = None
        self._looked_at = 0.0
        user = own_user()
        own_folders(user)
        self._environ = environ | {"HOME": str(RUN / "home")}
        self._identity: dict = {}
        self._command = command
        if user is not None:
            self._identity = {"user": user.pw_uid, "group": user.pw_gid, "extra_groups": []}
        elif os.geteuid() == 0:
            print(
                f"lamp: the user {USER} cannot read {ROOT} and its Python: the application keeps root's name, without any of root's powers",
                file=sys.stderr,
            )
            self._command = ["setpriv", "--no-new-privs", "--bounding-set=-all", "--inh-caps=-all", "--", *command]
        self._start()

    def _start(self) -> None:
        self._starts.append(time.monotonic())
        self._answered_at = None
        self._process = subprocess.Popen(
            self._command,
            env=self._environ,
            cwd=ROOT,
            start_new_session=True,
            preexec_fn=serve_without_rights,
            stdin=subprocess.PIPE,
            **self._identity,
        )

    def tell(self, database_url: str) -> None:
        """Say where the database is: it waits for that."""
        self._database_url = database_url
        with contextlib.suppress(BrokenPipeError):
            self._process.stdin.write(f"{database_url}\n".encode())
            self._process.stdin.close()

    @property
    def answered(self) -> bool:
        """Whether it has answered since it was started last."""
        return self._answered_at is not None

    def look(self) -> bool:
        """See how it does, and start it again where it died or hangs; return whether it is worth going on."""
        if self._process.poll() is not None:
            return self._again(f"ended by itself (exit {self._process.returncode})")
        now = time.monotonic()
        if not self.answered or now - self._looked_at >= LOOK_SECONDS:
            self._looked_at = now
            if answers(self._url, seconds=PATIENCE_SECONDS if self.answered else 0.5):
                self._answered_at = time.monotonic()
        since, patience = (self._answered_at, SILENT_SECONDS) if self.answered else (self._starts[-1], FIRST_ANSWER_SECONDS)
        if time.monotonic() - since > patience:
            self.kill()
            return self._again(f"did not answer for {patience:.0f} seconds")
        return True

    def _again(self, why: str) -> bool:
        """Start it again, unless it never came up (and was not killed), or ends over and over."""
        since = time.monotonic() - WITHIN_SECONDS
        self._starts = [at for at in self._starts if at > since]
        came_up = self.answered or (self._process.returncode or 0) < 0
        if not came_up or len(self._starts) >= MOST_STARTS:
            return False
        print(f"lamp: the application {why}: starting it again (see {RUN / 'log'})", file=sys.stderr, flush=True)
        # Its sessions' processes are of its group, and may hold its port.
        self.kill()
        self._command = [word for word in self._command if word != "--fresh"]
        self._start()
        self.tell(self._database_url)
        return True

    def kill(self) -> None:
        """End it and all that it started, at once."""
        with contextlib.suppress(ProcessLookupError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait()

    def stop(self) -> None:
        """End it in good order; at once where it does not."""
        stop_process(self._process)


def stop_process(process: subprocess.Popen) -> None:
    """End a child that leads a group of its own: in good order, at once where it takes too long."""
    if process.poll() is None:
        process.terminate()
        try:
            process.wait(STOP_SECONDS)
        except subprocess.TimeoutExpired:
            os.killpg(process.pid, signal.SIGKILL)
            process.wait()


def answers(url: str, *, seconds: float) -> bool:
    """Return whether the application answers in time."""
    try:
        with urllib.request.urlopen(url, timeout=seconds) as answer:  # noqa: S310 - our own loopback address
            return answer.status == 200
    except (OSError, ValueError):
        return False
