"""Who gets in where codes are needed: nobody without one, and a code opens what it is for."""

from __future__ import annotations

import socket
import tempfile
import threading
import time
import unittest
from pathlib import Path
from unittest import mock

import requests
from flask.testing import FlaskClient

from glass_thread.api.app import LOOPBACK, Settings, create_app
from glass_thread.api.door import http_server
from glass_thread.api.door.echo import LONGEST_ECHO
from glass_thread.api.door.gate import COOKIE, Asked, Gate
from glass_thread.core.signal.errors import ConflictError, NotFoundError, ParameterError
from glass_thread.services.access.codes import FIRST, LISTENING, Codes
from glass_thread.services.access.guesses import MOST, Guesses
from tests.api.test_api import API, ApiCase
from tests.signals import FolderCase

TOKEN = "the workers' token"
HERE = "studio.example.org"


class CodesTest(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.codes = Codes(self.folder)

    def test_the_first_code_is_made_once_and_is_its_owners_alone(self) -> None:
        (first,) = self.codes.all()
        self.assertEqual((first.name, first.kind), (FIRST, "full"))
        self.assertGreaterEqual(len(first.text.replace("-", "")), 25)
        self.assertEqual((self.folder / "sign-in.json").stat().st_mode & 0o777, 0o600)
        self.assertEqual(Codes(self.folder).all(), (first,))

    def test_a_code_is_read_whatever_its_case_and_spaces(self) -> None:
        (first,) = self.codes.all()
        self.assertEqual(self.codes.of(f" {first.text.upper()} "), first)
        for other in ("", first.text[:-1], first.text + "x", first.text[::-1], "é"):
            self.assertIsNone(self.codes.of(other))

    def test_what_another_process_changes_counts_at_once(self) -> None:
        ticket = self.codes.ticket(self.codes.all()[0])
        Codes(self.folder).add("the laptop")
        self.assertEqual([one.name for one in self.codes.all()], [FIRST, "the laptop"])
        self.assertIsNotNone(self.codes.holder(ticket))
        Codes(self.folder).rotate(FIRST)
        self.assertIsNone(self.codes.holder(ticket))

    def test_tickets_hold_for_their_code_alone(self) -> None:
        laptop = self.codes.add("the laptop", LISTENING)
        ticket = self.codes.ticket(laptop)
        self.assertEqual(self.codes.holder(ticket), laptop)
        for forged in ("", "in", ticket[:-1], ticket.replace("in.", "out."), laptop.text, f"{ticket}x"):
            self.assertIsNone(self.codes.holder(forged))
        self.codes.withdraw("the laptop")
        self.assertIsNone(self.codes.holder(ticket))

    def test_bad_names(self) -> None:
        self.codes.add("a")
        for wrong in (lambda: self.codes.add("a"), lambda: self.codes.add(" ")):
            with self.assertRaises((ConflictError, ParameterError)):
                wrong()
        with self.assertRaisesRegex(NotFoundError, "there is “owner”, “a”"):
            self.codes.withdraw("b")
        self.codes.withdraw("a")
        with self.assertRaisesRegex(ParameterError, "last code"):
            self.codes.withdraw(FIRST)

    def test_a_file_that_is_none_is_told(self) -> None:
        for text in (
            "",
            "{}",
            '{"codes": []}',
            '{"codes": [{"name": "x", "kind": "full", "text": "a", "made_at": 0}]}',
        ):
            (self.folder / "sign-in.json").write_text(text)
            with self.subTest(text), self.assertRaisesRegex(ParameterError, "Take it away"):
                Codes(self.folder).all()

    def test_guesses_are_counted_by_address(self) -> None:
        guesses = Guesses()
        for _ in range(MOST):
            self.assertEqual(guesses.wait_s("a"), 0.0)
            guesses.wrong("a")
        self.assertGreater(guesses.wait_s("a"), 50.0)
        self.assertEqual(guesses.wait_s("b"), 0.0)


class GateTest(unittest.TestCase):
    """The rules by themselves; DNS rebinding and the Fetch standard's rule on safelisted requests."""

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.codes = Codes(Path(folder.name))
        self.open = Gate(LOOPBACK, TOKEN, 1000)
        self.closed = Gate(LOOPBACK | {HERE}, TOKEN, 1000, self.codes)

    def status(self, gate: Gate, method: str = "GET", path: str = f"{API}/songs", **headers: str) -> int | None:
        sent = {"host": "127.0.0.1", **{name.replace("_", "-"): value for name, value in headers.items()}}
        refused = gate.refusal(Asked(method, path, sent.get))
        return refused.status if refused else None

    def test_hosts(self) -> None:
        ticket = f"{COOKIE}={self.codes.ticket(self.codes.all()[0])}"
        for host, alone, network in (
            ("127.0.0.1:4380", None, None), ("localhost", None, None), ("[::1]:80", None, None),
            ("192.168.1.5:4380", 403, None), ("[fd00::2]", 403, None), (HERE, 403, None), ("evil.example", 403, 403),
            ("", 403, 403), ("127.0.0.1.evil.example", 403, 403), ("[::1", 403, 403), ("a@127.0.0.1", None, None),
        ):  # fmt: skip
            with self.subTest(host):
                self.assertEqual(self.status(self.open, host=host), alone)
                self.assertEqual(self.status(self.closed, host=host, cookie=ticket), network)

    def test_changes_come_from_our_own_page(self) -> None:
        json, form = "application/json; charset=utf-8", "multipart/form-data; boundary=x"
        for headers, status in (
            ({"content_type": json}, None), ({"content_type": form}, 415), ({}, 415),
            ({"content_type": form, "origin": "http://127.0.0.1"}, None), ({"origin": "null"}, 403),
            ({"content_type": json, "origin": "https://127.0.0.1"}, 403), ({"origin": "http://127.0.0.1:81"}, 403),
            ({"content_type": json, "sec_fetch_site": "cross-site"}, 403),
            ({"content_type": json, "sec_fetch_site": "same-site"}, 403),
        ):  # fmt: skip
            with self.subTest(headers):
                self.assertEqual(self.status(self.open, "POST", **headers), status)

    def test_what_is_too_much_is_refused_by_what_it_says(self) -> None:
        ours = {"origin": "http://127.0.0.1"}
        for headers, status in (
            ({"content_length": "1000"}, None), ({"content_length": "1001"}, 413), ({"content_length": "9" * 25}, None),
            ({"transfer_encoding": "chunked"}, 411),
        ):  # fmt: skip
            with self.subTest(headers):
                self.assertEqual(self.status(self.open, "POST", **ours, **headers), status)
        large = Gate(LOOPBACK, TOKEN, 1 << 40)
        self.assertEqual(self.status(large, "POST", content_type="application/json", content_length="5000000"), 413)

    def test_strangers(self) -> None:
        listener = self.codes.add("client", LISTENING)
        full, listening = (f"{COOKIE}={self.codes.ticket(one)}" for one in (self.codes.all()[0], listener))
        token, ours = f"Bearer {TOKEN}", {"origin": "http://127.0.0.1"}
        for method, path, headers, status in (
            ("GET", f"{API}/songs", {}, 401), ("GET", f"{API}/openapi.json", {}, 401), ("GET", "/", {}, None),
            ("GET", "/assets/x.js", {}, None), ("POST", f"{API}/sign-in", ours, None),
            ("GET", f"{API}/songs", {"cookie": full}, None), ("GET", f"{API}/songs", {"cookie": "x; y=;;="}, 401),
            ("POST", f"{API}/songs", {"cookie": listening, **ours}, 403),
            ("GET", f"{API}/songs", {"cookie": listening}, None), ("GET", f"{API}/work", {"cookie": full}, 401),
            ("GET", f"{API}/work", {"authorization": token}, None),
            ("GET", f"{API}/songs", {"authorization": token}, 401),
            ("GET", f"{API}/songs", {"authorization": f"Bearer {self.codes.all()[0].text}"}, 401),
        ):  # fmt: skip
            with self.subTest(method=method, path=path, headers=headers):
                self.assertEqual(self.status(self.closed, method, path, **headers), status)
        self.assertIsNone(self.status(self.open))
        self.codes._path.write_text("no codes")
        self.assertEqual(self.status(self.closed, cookie=full), 503)
        self.assertEqual(self.status(Gate(LOOPBACK, "", 1000), path=f"{API}/work", authorization="Bearer "), 401)


class SignInTest(FolderCase):
    """The application as a browser on another machine meets it."""

    def setUp(self) -> None:
        super().setUp()
        self.work = self.workspace()
        self.codes = Codes(self.work.folder)
        self.app = create_app(self.work, Settings(LOOPBACK, TOKEN, codes=self.codes))

    def browser(self, code: str | None = None) -> FlaskClient:
        client = self.app.test_client()
        client.environ_base["HTTP_ORIGIN"] = "http://localhost"
        if code is not None:
            answer = client.post(f"{API}/sign-in", json={"code": code})
            self.assertEqual(answer.status_code, 200, answer.json)
        return client

    def test_nothing_answers_without_a_code(self) -> None:
        spec = self.browser(self.codes.all()[0].text).get(f"{API}/openapi.json").json
        stranger, asked = self.browser(), 0
        for path, methods in spec["paths"].items():
            for method in methods:
                if path == f"{API}/sign-in" or method not in ("get", "post", "put", "patch", "delete"):
                    continue
                place = path.replace("{", "").replace("}", "")
                answer = stranger.open(place, method=method.upper(), json={} if method != "get" else None)
                asked += 1
                with self.subTest(path=path, method=method):
                    self.assertEqual(answer.status_code, 401)
        self.assertGreater(asked, 80)

    def test_a_browser_signs_in_and_out(self) -> None:
        browser = self.browser()
        self.assertEqual(browser.get(f"{API}/sign-in").json, {
            "needed": True, "signed_in": False, "name": "", "may_change": False})  # fmt: skip
        answer = browser.post(f"{API}/sign-in", json={"code": self.codes.all()[0].text})
        cookie = answer.headers["Set-Cookie"]
        for part in ("HttpOnly", "SameSite=Strict", "Path=/", "Max-Age="):
            self.assertIn(part, cookie)
        self.assertNotIn("Secure", cookie)
        self.assertNotIn(self.codes.all()[0].text, cookie)
        self.assertEqual(browser.post(f"{API}/songs", json={"title": "Here"}).status_code, 201)
        self.assertEqual(browser.delete(f"{API}/sign-in").status_code, 204)
        self.assertEqual(browser.get(f"{API}/songs").status_code, 401)
        safe = browser.post(f"{API}/sign-in", json={"code": self.codes.all()[0].text},
                            headers={"Origin": "https://localhost"}, base_url="https://localhost")  # fmt: skip
        self.assertIn("Secure", safe.headers["Set-Cookie"])

    def test_guessing_is_slowed(self) -> None:
        browser = self.browser()
        found = [browser.post(f"{API}/sign-in", json={"code": f"guess {i}"}) for i in range(8)]
        self.assertEqual([one.status_code for one in found], [401] * 5 + [429] * 3)
        self.assertGreater(int(found[-1].headers["Retry-After"]), 50)
        right = {"code": self.codes.all()[0].text}
        self.assertEqual(browser.post(f"{API}/sign-in", json=right).status_code, 429)
        other = browser.post(f"{API}/sign-in", json=right, environ_base={"REMOTE_ADDR": "10.0.0.9"})
        self.assertEqual(other.status_code, 200)

    def test_steps_say_by_whom_they_were_made(self) -> None:
        laptop = self.browser(self.codes.add("the laptop").text)
        song = laptop.post(f"{API}/songs", json={"title": "Here"}).json["id"]
        laptop.patch(f"{API}/songs/{song}", json={"tempo": 91.0})
        (step,) = laptop.get(f"{API}/songs/{song}/steps").json["steps"]
        self.assertEqual(step["made_by"], "the laptop")

    def test_listening_reads_and_changes_nothing(self) -> None:
        song = self.browser(self.codes.all()[0].text).post(f"{API}/songs", json={"title": "Here"}).json["id"]
        client = self.browser(self.codes.add("client", LISTENING).text)
        self.assertEqual(client.get(f"{API}/songs/{song}").status_code, 200)
        for method, path in (("PATCH", f"/songs/{song}"), ("DELETE", f"/songs/{song}"), ("POST", "/songs")):
            answer = client.open(f"{API}{path}", method=method, json={"title": "Other"})
            self.assertEqual((answer.status_code, answer.json["message"]), (
                403, "“client” may listen and look, but not change anything."))  # fmt: skip

    def test_a_worker_fetches_only_what_a_job_names(self) -> None:
        browser, worker = self.browser(), {"Authorization": f"Bearer {TOKEN}"}
        audio = next((self.work.folder / "audio").iterdir(), None)
        name = audio.name if audio else "0" * 64
        answer = browser.get(f"{API}/work/audio/{name}", headers=worker)
        self.assertEqual((answer.status_code, answer.json["message"]), (
            404, "No job that is being worked on needs such content."))  # fmt: skip


class EchoTest(ApiCase):
    def test_answers_do_not_say_back_what_was_sent(self) -> None:
        long = "x" * 100_000
        track = f"{API}/tracks/{'0' * 32}"
        for answer in (
            self.client.post(f"{API}/songs", json={long: 1}),
            self.client.post(f"{API}/songs", json={"title": {long: 1}}),
            self.client.get(f"{API}/songs/{long[:3000]}"), self.client.get(f"{track}/content?step={long[:3000]}"),
            self.client.post(f"{track}/edits", json={"base": long, "operation": {"type": long}}),
            self.client.patch(f"{API}/songs/{self.song}", json={"scale": long}),
        ):  # fmt: skip
            with self.subTest(answer.request.path[:60]):
                self.assertGreaterEqual(answer.status_code, 400)
                self.assertNotIn("x" * (LONGEST_ECHO + 1), answer.get_data(as_text=True))


class DoorTest(ApiCase):
    """The HTTP server itself, on a socket."""

    def setUp(self) -> None:
        super().setUp()
        listener = socket.socket()
        listener.bind(("127.0.0.1", 0))
        listener.listen(1024)
        self.port = listener.getsockname()[1]
        app = create_app(self.work, Settings(LOOPBACK, TOKEN))
        for name, value in (("HEADERS_S", 1.0), ("_LOOK_S", 1)):
            patched = mock.patch.object(http_server, name, value)
            self.addCleanup(patched.stop)
            patched.start()
        threading.Thread(target=http_server.serve, args=(app, listener), daemon=True).start()
        self.url = f"http://127.0.0.1:{self.port}"

    def raw(self, data: bytes) -> socket.socket:
        client = socket.create_connection(("127.0.0.1", self.port), timeout=30)
        self.addCleanup(client.close)
        client.sendall(data)
        return client

    def test_a_body_is_refused_before_it_is_read(self) -> None:
        for headers, status in (
            (b"Origin: http://evil.example\r\nContent-Length: 400000000\r\n", b"403"),
            (b"Origin: http://127.0.0.1\r\nHost: evil.example\r\nContent-Length: 400000000\r\n", b"403"),
            (f"Origin: {self.url}\r\nContent-Length: 4000000000\r\n".encode(), b"413"),
            (f"Origin: {self.url}\r\nTransfer-Encoding: chunked\r\n".encode(), b"411"),
            (f"Origin: {self.url}\r\nContent-Length: 4000000000\r\nExpect: 100-continue\r\n".encode(), b"413"),
        ):  # fmt: skip
            host = b"" if b"Host" in headers else f"Host: 127.0.0.1:{self.port}\r\n".encode()
            with self.subTest(headers):
                client = self.raw(b"POST /api/v1/archives HTTP/1.1\r\n" + host + headers + b"\r\n" + b"x" * 1000)
                self.assertEqual(client.recv(4000).split(b" ")[1], status)
        self.assertEqual(requests.get(f"{self.url}{API}/songs", timeout=30).status_code, 200)

    def test_idle_and_slow_clients_hold_up_nobody_and_are_let_go(self) -> None:
        slow = [self.raw(b"GET / HTTP/1.1\r\nHost: 127.") for _ in range(150)]
        idle = [self.raw(b"") for _ in range(150)]
        begun = time.monotonic()
        self.assertEqual(requests.get(f"{self.url}{API}/songs", timeout=30).status_code, 200)
        self.assertLess(time.monotonic() - begun, 10.0)
        self.assertEqual([client.recv(10) for client in slow], [b""] * len(slow))  # they are let go
        idle[0].sendall(b"GET / HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n")
        self.assertTrue(idle[0].recv(10).startswith(b"HTTP/1.1"))
