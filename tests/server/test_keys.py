"""The key of an application that is bound to a network: who is let in, what is seen without it, sessions, and wrong keys."""

from __future__ import annotations

import asyncio
import stat
from pathlib import Path
from typing import Any

import httpx
import pytest

from sunglaze.core.effect.document import Effect
from sunglaze.core.effect.literals import Material
from sunglaze.core.package.archive import write_package
from sunglaze.server.app import create_app
from sunglaze.server.keys import COOKIE, LOOKED_AT_SECONDS, MOST_WRONG, Keyed, Keys
from sunglaze.server.visitors import Visitors
from sunglaze.store import effects, publishing
from tests.coroutines import finished
from tests.layers import fill

HOST = "http://192.168.1.4"


class Asked:
    """An application bound to a network, asked from an address of it, with the cookies of one browser."""

    def __init__(self, folder: Path) -> None:
        self.app = create_app(folder, "0.0.0.0")
        self.key = self.app.state.keys.key
        self.cookies = httpx.Cookies()

    def __call__(self, method: str, path: str, client: str = "192.168.1.9", **more: Any) -> httpx.Response:
        async def ask() -> httpx.Response:
            transport = httpx.ASGITransport(self.app, client=(client, 40000))
            async with httpx.AsyncClient(transport=transport, base_url=HOST, cookies=self.cookies) as http:
                answer = await http.request(method, path, **more)
                self.cookies.update(http.cookies)
                return answer

        return finished(ask())


@pytest.fixture
def asked(tmp_path: Path) -> Asked:
    return Asked(tmp_path)


def test_without_the_key_only_what_is_published_is_seen(asked: Asked) -> None:
    for path in ("/api/effects", "/api/shelf", "/api/catalogue", "/api/footage/x/file", "/api/sessions"):
        answer = asked("GET", path)
        assert (answer.status_code, "key" in answer.json()["message"]) == (401, True), path
    for method, path in (("POST", "/api/effects"), ("DELETE", "/api/packages/abcde"), ("POST", "/api/packages/abcde/review")):
        assert asked(method, path, json={}).status_code == 401
    page = asked("GET", "/effects/abc")
    assert page.status_code == 401
    assert 'name="key"' in page.text
    assert asked("GET", "/api/packages").status_code == 401
    assert asked("GET", "/api/showcase").json() == []
    assert asked("GET", "/api/cast").status_code == 200
    # Footage of somebody's own is not seen by way of the stand-in either.
    assert asked("GET", "/api/camera/frames/0.jpg?own=abc").status_code == 401


def test_visitors_see_what_was_taken_and_no_reasons(asked: Asked) -> None:
    sessions = asked.app.state.writing
    with sessions.begin() as session:
        codes = {}
        for name in ("Taken", "Returned"):
            kept = effects.create(session, Effect(name=name, layers=[fill("a")]))
            codes[name] = publishing.publish(session, kept, write_package(kept.effect, Material()), None).code
            publishing.move(session, codes[name], "in review")
        publishing.move(session, codes["Taken"], "taken")
        publishing.move(session, codes["Returned"], "returned", "It hides the eyes.")
    assert [one["name"] for one in asked("GET", "/api/showcase").json()] == ["Taken"]
    # Whoever has an address can wear it; what the reviewer wrote is not theirs.
    assert "reason" not in asked("GET", f"/api/showcase/{codes['Returned']}").json()
    assert asked("GET", f"/api/packages/{codes['Returned']}/files/program.json").status_code == 200
    assert asked("GET", f"/api/packages/{codes['Returned']}").status_code == 401
    # What came later and was returned is not to be had by its number either.
    with sessions.begin() as session:
        again = effects.get(session, publishing.publication(session, codes["Taken"]).effect_id)
        assert publishing.publish(session, again, write_package(again.effect, Material()), None).number == 2
    second = [f"/api/{one}?number=2" for one in (
        f"showcase/{codes['Taken']}", f"packages/{codes['Taken']}/files/program.json", f"packages/{codes['Taken']}/download",
    )]  # fmt: skip
    assert [asked("GET", path).status_code for path in second] == [200] * 3
    with sessions.begin() as session:
        publishing.move(session, codes["Taken"], "in review")
        publishing.move(session, codes["Taken"], "returned", "It is too dark.")
    assert [asked("GET", path).status_code for path in second] == [404] * 3
    assert asked("GET", second[1].replace("=2", "=1")).status_code == 200
    asked("GET", f"/?key={asked.key}")
    assert [asked("GET", path).status_code for path in second] == [200] * 3
    with sessions.begin() as session:
        publishing.move(session, codes["Taken"], "submitted")
    assert {one["name"]: one["reason"] for one in asked("GET", "/api/packages").json()} == {
        "Taken": "", "Returned": "It hides the eyes.",
    }  # fmt: skip


def test_the_key_in_the_address_becomes_a_session(asked: Asked) -> None:
    answer = asked("GET", f"/effects/abc?layer=x&key={asked.key}")
    assert (answer.status_code, answer.headers["location"]) == (303, "/effects/abc?layer=x")
    cookie = answer.headers["set-cookie"]
    assert "HttpOnly" in cookie
    assert "SameSite=strict" in cookie
    assert asked.key not in cookie
    assert asked("GET", "/api/effects").json() == []
    # Who has a session already is freed of the key in the address as well.
    assert asked("GET", f"/showcase?key={asked.key}").headers["location"] == "/showcase"
    assert len(asked("GET", "/api/sessions").json()["sessions"]) == 1


def test_typed_keys_and_wrong_ones(asked: Asked) -> None:
    for n in range(MOST_WRONG):
        answer = asked("POST", "/key", data={"key": f"guess {n}"})
        assert (answer.status_code, "not the key" in answer.text) == (401, True)
    held = asked("POST", "/key", data={"key": asked.key})
    assert held.status_code == 429
    assert "Try again in" in held.text
    assert asked("GET", f"/?key={asked.key}").status_code == 429
    # Others of the network are heard.
    assert asked("POST", "/key", client="192.168.1.77", data={"key": asked.key}).status_code == 303
    asked.cookies.clear()
    assert asked("POST", "/key", client="192.168.1.78", content=b"key=" + b"a" * 5000).status_code == 413


def test_sessions_are_listed_and_ended_and_outlive_the_application(asked: Asked, tmp_path: Path) -> None:
    asked("GET", f"/?key={asked.key}", headers={"User-Agent": "Harbour office"})
    (one,) = asked("GET", "/api/sessions").json()["sessions"]
    assert (one["agent"], one["own"]) == ("Harbour office", True)
    again = Asked(tmp_path)
    again.cookies = asked.cookies
    assert again.key == asked.key
    assert again("GET", "/api/effects").status_code == 200
    assert again("DELETE", f"/api/sessions/{one['name']}").status_code == 204
    assert again("GET", "/api/effects").status_code == 401
    for name in ("key.txt", "sessions.json"):
        assert stat.S_IMODE((tmp_path / name).stat().st_mode) == 0o600
    # Nobody who reads the file can make a cookie of it.
    assert again.cookies["glaze"] not in (tmp_path / "sessions.json").read_text()


def test_old_sessions_end_by_themselves(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    keys = Keys(tmp_path)
    token = keys.enter(keys.key, "a", "")
    assert token is not None
    assert keys.known(token)
    later = keys.sessions[0].since + 31 * 86400
    monkeypatch.setattr("sunglaze.server.keys.time.time", lambda: later)
    assert keys.known(token) is None


def test_this_machine_alone_asks_nobody(tmp_path: Path) -> None:
    app = create_app(tmp_path, "127.0.0.1")
    assert app.state.keys is None
    assert not (tmp_path / "key.txt").exists()


def test_the_stream_of_a_session_that_was_ended_is_closed(tmp_path: Path) -> None:
    """A browser that was let in keeps its stream open and says nothing: it had gone on for as long as it liked."""
    keys = Keys(tmp_path)
    token = keys.enter(keys.key, "192.168.1.9", "browser")
    assert token is not None
    sent: list[dict[str, Any]] = []

    async def application(scope: Any, receive: Any, send: Any) -> None:
        await send({"type": "websocket.accept"})
        while (message := await receive())["type"] != "websocket.disconnect":
            sent.append(message)

    async def whole() -> None:
        said: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        said.put_nowait({"type": "websocket.receive", "text": "hello"})

        async def send(message: Any) -> None:
            sent.append(message)

        scope = {"type": "websocket", "path": "/api/stream", "headers": [(b"cookie", f"{COOKIE}={token}".encode())]}
        open_ = asyncio.create_task(Keyed(application, keys, Visitors())(scope, said.get, send))
        await asyncio.sleep(2 * LOOKED_AT_SECONDS)
        assert not open_.done()
        keys.end(None)
        await asyncio.wait_for(open_, 60)

    finished(whole())
    assert [message["type"] for message in sent] == ["websocket.accept", "websocket.receive", "websocket.close"]
    assert sent[-1]["code"] == 1008
