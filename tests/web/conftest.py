import asyncio
import datetime as dt
import uuid

import httpx
import pytest

from mudlamp.services.house import house_on
from mudlamp.services.settings import read_settings
from mudlamp.web.app import make_app
from tests.patience import until

HOST = "http://127.0.0.1"


class Client:
    """The application in process: each call runs on a loop of its own."""

    def __init__(self, app):
        self.app = app
        self.cookies = httpx.Cookies()

    def call(self, method, path, *, headers=None, **options):
        async def go():
            transport = httpx.ASGITransport(app=self.app, raise_app_exceptions=False)
            async with httpx.AsyncClient(transport=transport, base_url=HOST, cookies=self.cookies) as client:
                answer = await client.request(method, path, headers=headers, **options)
                self.cookies.update(client.cookies)
                return answer

        return self.run(go())

    def run(self, call):
        return asyncio.run(call)

    @property
    def owner(self):
        """Whose things this browser's are: its angler's, else its own."""
        if "lamp_device" not in self.cookies:
            self.get("/healthz")
        cookie = self.cookies.get("lamp_angler") or self.cookies["lamp_device"]
        return uuid.UUID(cookie.split(".")[0])

    def get(self, path, **options):
        return self.call("GET", path, **options)

    def post(self, path, *, headers=None, **options):
        return self.call("POST", path, headers={"Origin": HOST} | (headers or {}), **options)

    def done(self, job):
        """How a job stands once it is over."""

        def over():
            found = self.get(f"/api/v1/jobs/{job['id']}").json()
            return found if found["state"] not in ("waiting", "running") else None

        return until(over, every_s=0.1)


@pytest.fixture
def app(engine, tmp_path):
    made = make_app(house_on(engine, read_settings({"MUDLAMP_RUN_DIR": str(tmp_path)})))
    yield made
    made.state.house.close()


@pytest.fixture
def client(app):
    return Client(app)


@pytest.fixture
def now():
    return dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)
