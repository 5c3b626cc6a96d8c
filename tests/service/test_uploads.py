"""What is sent is bounded before it is taken in: by whom, how much, and how much at once."""

import asyncio
import io
import json
import zipfile
from unittest import mock

from django.conf import settings
from django.test import SimpleTestCase

from northpace.errors import InputError
from northpace.plan import file
from service.config import uploads
from service.config.uploads import LITTLE, MOST, MOST_AT_ONCE, MOST_PLAIN, MUCH, Bounded
from tests.service.planned import Planned

FORM, PLAIN = "multipart/form-data; boundary=x", "application/json"


class Sent:
    """A request to an application in front of one that takes everything in."""

    def __init__(self, length=None, kind=FORM, cookie="", chunks=()):
        self.length, self.kind, self.cookie = length, kind, cookie
        self.chunks, self.read, self.answer = list(chunks), 0, []
        self.inside = asyncio.Event()
        self.go_on = asyncio.Event()
        self.go_on.set()

    async def receive(self):
        self.read += 1
        chunk = self.chunks.pop(0) if self.chunks else b""
        return {"type": "http.request", "body": chunk, "more_body": bool(self.chunks)}

    async def send(self, message):
        self.answer.append(message)

    async def taken_in(self, scope, receive, send):
        self.inside.set()
        await self.go_on.wait()
        while (message := await receive())["type"] == "http.request" and message["more_body"]:
            pass
        await send({"type": "http.response.start", "status": 201, "headers": []})
        await send({"type": "http.response.body", "body": b""})

    async def to(self, bounded):
        headers = [(b"content-type", self.kind.encode())]
        if self.length is not None:
            headers.append((b"content-length", str(self.length).encode()))
        if self.cookie:
            headers.append((b"cookie", f"{settings.SESSION_COOKIE_NAME}={self.cookie}".encode()))
        scope = {"type": "http", "method": "POST", "headers": headers, "sent": self}
        await bounded(scope, self.receive, self.send)
        return self.answer[0]["status"]


async def inner(scope, receive, send):
    await scope["sent"].taken_in(scope, receive, send)


class Guarded(SimpleTestCase):
    def setUp(self):
        self.bounded = Bounded(inner)
        known = mock.patch.object(uploads, "_known", lambda key: key == "good")
        known.start()
        self.addCleanup(known.stop)

    async def test_who_is_not_signed_in_sends_nothing_large(self):
        for cookie in ("", "bad", "good; x="):
            sent = Sent(LITTLE + 1, cookie=cookie, chunks=[b"x" * 10])
            allowed = cookie.startswith("good")
            self.assertEqual(await sent.to(self.bounded), 201 if allowed else 401, cookie)
            if not allowed:
                self.assertEqual(sent.read, 0)
                self.assertEqual(json.loads(sent.answer[1]["body"])["detail"], "sign in first")
        self.assertEqual(await Sent(LITTLE).to(self.bounded), 201)
        # without a length nobody knows how much comes
        self.assertEqual(await Sent(None).to(self.bounded), 401)

    async def test_nobody_sends_more_than_is_allowed(self):
        for length, kind, status in (
            (MOST, FORM, 201),
            (MOST + 1, FORM, 413),
            (MOST_PLAIN, PLAIN, 201),
            (MOST_PLAIN + 1, PLAIN, 413),
        ):
            sent = Sent(length, kind, "good")
            self.assertEqual(await sent.to(self.bounded), status, (length, kind))
            self.assertEqual(sent.read > 0, status == 201)

    async def test_more_than_was_said_ends_it(self):
        for length, chunks in ((1000, [b"x" * 600] * 3), (None, [b"x" * MOST_PLAIN, b"x"])):
            sent = Sent(length, cookie="good", chunks=chunks)
            self.assertEqual(await sent.to(self.bounded), 413)
            self.assertEqual(len(sent.answer), 2)

    async def test_few_send_much_at_once(self):
        first = [Sent(MUCH + 1, cookie="good") for _ in range(MOST_AT_ONCE)]
        for sent in first:
            sent.go_on.clear()
        under_way = [asyncio.create_task(sent.to(self.bounded)) for sent in first]
        for sent in first:
            await sent.inside.wait()
        self.assertEqual(await Sent(MUCH + 1, cookie="good").to(self.bounded), 503)
        self.assertEqual(await Sent(MUCH, cookie="good").to(self.bounded), 201)
        for sent in first:
            sent.go_on.set()
        self.assertEqual(await asyncio.gather(*under_way), [201] * MOST_AT_ONCE)
        self.assertEqual(await Sent(MUCH + 1, cookie="good").to(self.bounded), 201)


class Sessions(Planned):
    def test_a_session_is_known_by_who_is_signed_in_with_it(self):
        self.assertTrue(uploads._known(self.client.session.session_key))
        self.assertFalse(uploads._known("x" * 32))

    def test_answers_outside_of_a_view_have_the_same_shape(self):
        for answer, status in (
            (self.client.get("/api/nothing/here"), 404),
            (self.client_that_checks().post("/api/session", {}), 403),
        ):
            self.assertEqual(answer.status_code, status)
            self.assertEqual(set(answer.json()), {"detail", "where"})

    def client_that_checks(self):
        return type(self.client)(enforce_csrf_checks=True)


class Packed(SimpleTestCase):
    def test_an_archive_that_unpacks_to_very_much_is_refused_before_it_does(self):
        sink = io.BytesIO()
        part = f"{file.PART}a.stl"
        with zipfile.ZipFile(sink, "w", zipfile.ZIP_DEFLATED) as archive:
            archive.writestr(file.PLAN, json.dumps({"format": file.FORMAT, "part": part}))
            archive.writestr(part, bytes(30_000_000))
        self.assertLess(len(sink.getvalue()), 60_000)
        with self.assertRaisesRegex(InputError, "unpacks to over"):
            file.read_plan(sink.getvalue())
