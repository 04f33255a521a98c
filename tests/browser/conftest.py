"""The real application on a real port, and Debian's Chromium."""

import uuid

import pytest
from playwright.sync_api import sync_playwright

from mudlamp.cli.browser import CHROMIUM, FLAGS
from tests.faults.conftest import Served, private
from tests.patience import PATIENCE_S

__all__ = ["private"]


def patient(context):
    """A browser's context that waits as long as a busy machine needs."""
    context.set_default_timeout(1000 * PATIENCE_S)
    return context


@pytest.fixture(scope="module")
def site(admin_url, template, tmp_path_factory):
    from tests.conftest import _database, _run

    name = f"b_{uuid.uuid4().hex[:12]}"
    _run(admin_url, f'create database "{name}" template "{template}"')
    found = Served(_database(admin_url, name), tmp_path_factory.mktemp("site"), demo=True)
    yield found
    found.stop()
    _run(admin_url, f'drop database if exists "{name}" with (force)')


@pytest.fixture(scope="module")
def chromium():
    with sync_playwright() as play:
        found = play.chromium.launch(executable_path=CHROMIUM, args=list(FLAGS))
        yield found
        found.close()


@pytest.fixture
def page(chromium, site):
    context = patient(chromium.new_context(viewport={"width": 1280, "height": 800}))
    found = context.new_page()
    found.problems = []
    found.on("pageerror", lambda error: found.problems.append(str(error)))
    # That it is busy (503) an application may say on a busy machine: the page asks again.
    found.on(
        "console", lambda message: found.problems.append(message.text) if message.type == "error" and "503" not in message.text else None
    )
    yield found
    # Six sessions may run at once: this one's ends with its page.
    own = {"Origin": site.address}
    session = context.request.post(f"{site.address}/api/v1/sessions", data={}, headers=own).json()["session"]
    found.close()
    context.request.delete(f"{site.address}/api/v1/sessions/{session}", headers=own)
    context.close()
