"""Log lines carry the number of the request or the task they are of, also in another process."""

import io
import json
import logging
import logging.config
from contextlib import contextmanager

from service.config import logged
from service.files import download
from service.hands import Hand
from service.limits import Limit
from tests.core.shapes import cube, stl
from tests.service.planned import Planned


@contextmanager
def lines(name):
    """What a logger says meanwhile, as a program reads it."""
    stream, found = io.StringIO(), []
    settings = logged.configured("json", "INFO")["formatters"]["json"]
    handler = logging.StreamHandler(stream)
    handler.addFilter(logged.Facts())
    handler.setFormatter(logging.config.DictConfigurator({}).configure_formatter(dict(settings)))
    logger = logging.getLogger(name)
    before = logger.level
    logger.addHandler(handler)
    logger.setLevel(logging.INFO)
    try:
        yield found
    finally:
        logger.removeHandler(handler)
        logger.setLevel(before)
        found += [json.loads(line) for line in stream.getvalue().splitlines()]


class Logged(Planned):
    def test_a_request_has_a_number_that_its_answer_states(self):
        with lines("northpace.requests") as found:
            answer = self.client.get("/api/plans", headers={"X-Request-ID": "proxy-4711"})
            other = self.client.get("/api/nothing-here", headers={"X-Request-ID": "no\u00a0number"})
            self.client.get("/api/alive")
        self.assertEqual(answer["X-Request-ID"], "proxy-4711")
        self.assertRegex(other["X-Request-ID"], r"^[0-9a-f]{16}$")
        (first, second) = found
        self.assertEqual(
            (first["request"], first["method"], first["path"], first["status"]),
            ("proxy-4711", "GET", "/api/plans", 200),
        )
        self.assertGreaterEqual(first["ms"], 0)
        self.assertEqual((second["request"], second["status"]), (other["X-Request-ID"], 404))
        self.assertEqual(logged.here(), {})

    def test_secrets_of_addresses_are_not_logged(self):
        with lines("northpace.requests") as found, lines("django.request") as refused:
            self.client.get("/api/invitations/open-sesame-4711")
        self.assertEqual([line["path"] for line in found], ["/api/invitations/…"])
        self.assertNotIn("sesame", json.dumps(found + refused))

    def test_names_of_files_are_one_line_with_all_letters(self):
        named = download(b"", 'Gehäuse "groß"\nEnde.stl')["Content-Disposition"]
        self.assertEqual(named, "attachment; filename*=utf-8''Geh%C3%A4use%20gro%C3%9F%20Ende.stl")
        self.assertEqual(
            download(b"", "a b.stl")["Content-Disposition"], 'attachment; filename="a b.stl"'
        )

    def test_a_task_has_its_number(self):
        with lines("northpace.tasks") as found:
            self.plan(stl(cube(6)))
        names = [line["name_of_task"] for line in found]
        self.assertIn("plans.tasks.compute_version", names)
        self.assertEqual(len({line["task"] for line in found}), len(found))
        self.assertTrue(all(line["task"].isdigit() for line in found))

    def test_what_computes_for_a_request_says_so_too(self):
        hand = Hand()
        self.addCleanup(hand.close)
        with logged.within(request="abcd-1234"):
            there = hand.do(logged.here, (), Limit("this", 60, 1000, ""))
        self.assertEqual(there, {"request": "abcd-1234"})
        self.assertEqual(hand.do(logged.here, (), Limit("this", 60, 1000, "")), {})

    def test_plain_lines_name_it(self):
        record = logging.makeLogRecord({"name": "service", "levelname": "WARNING", "msg": "lost"})
        form = logging.Formatter(
            logged.configured("plain", "INFO")["formatters"]["plain"]["format"]
        )
        logged.Facts().filter(record)
        self.assertTrue(form.format(record).endswith("WARNING service: lost"))
        with logged.within(task="12"):
            logged.Facts().filter(record)
        self.assertTrue(form.format(record).endswith("WARNING service [task 12]: lost"))
