"""Who may do what: the table held against every address, people who come and go, and the record."""

import json
import re
from threading import Barrier, Thread
from unittest import mock

from django.contrib.auth.models import User
from django.db import connection
from django.test import Client
from django.urls import get_resolver

from service.accounts.models import FailedSignIn, Invitation, Member, Record, SignedIn
from service.accounts.rules import tries
from service.accounts.rules.roles import RANK, RULES, SAFE
from service.accounts.rules.tries import COOKIE, MOST_BY_NAME, MOST_WAITING
from service.workshop.models import Machine
from tests.service.base import make_workshop, signed_in
from tests.service.planned import JSON, Planned

#: Addresses for people who are not signed in, or not yet.
OPEN = {"session", "invitations/<str:secret>", "schema"}
GOOD = "long-plumb-line"


def operations():
    """Route and method of every operation of the API."""

    def walk(patterns, before=""):
        for pattern in patterns:
            here = before + str(pattern.pattern)
            if hasattr(pattern, "url_patterns"):
                yield from walk(pattern.url_patterns, here)
            elif here.startswith("api/") and hasattr(pattern.callback, "view_class"):
                view = pattern.callback.view_class
                for method in view.http_method_names:
                    if method not in ("options", "head", "trace") and hasattr(view, method):
                        yield here.removeprefix("api/"), method.upper()

    return sorted(walk(get_resolver().url_patterns))


def member(workshop, role, name):
    user = User.objects.create_user(name, password="plumb-line")
    Member.objects.create(user=user, workshop=workshop, shown_name=name.title(), role=role)
    return signed_in(name)


class Table(Planned):
    def call(self, client, route, method, key=999_999):
        path = re.sub(r"<str:\w+>", "nothing", re.sub(r"<int:\w+>", str(key), route))
        return client.generic(method, f"/api/{path}", "{}", content_type=JSON)

    def test_every_address_that_changes_something_has_a_rule(self):
        changing = {(r, m) for r, m in operations() if m not in SAFE and r not in OPEN}
        ruled = {(r, m) for r, rules in RULES.items() for m in rules if m not in SAFE}
        self.assertEqual(changing, ruled)

    def test_every_operation_by_every_role(self):
        clients = {
            role: member(self.workshop, role, f"the-{role}") for role in ("operator", "planner")
        }
        clients["owner"] = self.client
        for route, method in operations():
            if route in OPEN or (route, method) == ("session/places/<int:pk>", "DELETE"):
                continue
            rule = RULES.get(route, {}).get(method)
            for role, client in clients.items():
                allowed = rule is None or RANK[role] >= RANK[rule.role]
                status = self.call(client, route, method).status_code
                with self.subTest(route=route, method=method, role=role):
                    self.assertEqual(status == 403, not allowed, status)
                    self.assertNotIn(status, (401, 500))
            self.assertEqual(self.call(Client(), route, method).status_code, 401, route)

    def test_nothing_of_another_workshop_is_there(self):
        """Every address with a number answers as if the thing did not exist."""
        other = make_workshop("Other bench", "other")
        theirs = signed_in("other")
        mine = {
            "people": other.members.get().pk,
            "machines": other.machines.get().pk,
            "nozzles": other.machines.get().nozzles.first().pk,
            "materials": other.materials.get().pk,
            "spools": other.materials.get().spools.get().pk,
        }
        part = self.make_part()
        plan = self.plan()
        for kind, key in mine.items():
            for route, method in operations():
                if route.split("/")[0] != kind or "<int:pk>" not in route:
                    continue
                status = self.call(self.client, route, method, key).status_code
                self.assertIn(status, (400, 404, 405), f"{method} {route}")
        for kind, key in (("parts", part), ("plans", plan)):
            for route, method in operations():
                if route.split("/")[0] == kind and "<int:pk>" in route:
                    status = self.call(theirs, route, method, key).status_code
                    self.assertIn(status, (400, 404, 405), f"{method} {route}")
        self.assertEqual(self.client.get(f"/api/plans/{plan}").status_code, 200)

    def test_an_operator_loads_a_spool_and_changes_nothing_else_of_a_machine(self):
        client = member(self.workshop, "operator", "hand")
        machine = self.workshop.machines.get()
        spool = self.workshop.materials.get().spools.get()
        path = f"/api/machines/{machine.pk}"
        done = client.post(f"{path}/hung-up", {"spool": spool.pk}, content_type=JSON)
        self.assertEqual(done.status_code, 200, done.content)
        self.assertEqual(Machine.objects.get().loaded_by.username, "hand")
        told = self.client.patch(path, {"loaded": None}, content_type=JSON)
        self.assertEqual(told.status_code, 400)
        self.assertIn("is said to machines/…/hung-up", str(told.json()))
        held = client.patch(path, {"held": True}, content_type=JSON)
        self.assertEqual(held.status_code, 200, held.content)
        both = client.patch(path, {"held": False, "name": "Mine"}, content_type=JSON)
        self.assertEqual(both.status_code, 403)
        self.assertIn("you are operator here, and this is for owners; ask Maker", str(both.json()))


class Coming(Planned):
    def invited(self, role="planner"):
        answer = self.client.post("/api/people/invitations", {"role": role}, content_type=JSON)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()["secret"]

    def join(self, secret, client=None, **values):
        body = {"username": "fulmar", "shown_name": "Fulmar", "password": GOOD, **values}
        return (client or Client()).post(f"/api/invitations/{secret}", body, content_type=JSON)

    def test_an_invitation_lets_one_person_in(self):
        secret = self.invited()
        listed = self.client.get("/api/people/invitations").json()
        self.assertEqual([row["secret"] for row in listed], [""])
        client = Client()
        shown = client.get(f"/api/invitations/{secret}").json()
        self.assertEqual(shown, {"workshop": "Test bench", "role": "planner"})
        answer = self.join(secret, client)
        self.assertEqual(answer.status_code, 200, answer.content)
        self.assertEqual(client.get("/api/session").json()["role"], "planner")
        self.assertEqual(client.get("/api/parts").status_code, 200)
        again = self.join(secret, username="second")
        self.assertEqual(again.status_code, 422)
        self.assertIn("was used", again.json()["detail"])

    def test_an_old_one_and_one_taken_back_do_not(self):
        old, back = self.invited(), self.invited()
        Invitation.objects.filter(pk=Invitation.objects.last().pk).update(
            expires="2020-01-01T00:00Z"
        )
        self.assertEqual(self.join(old).status_code, 422)
        key = self.client.get("/api/people/invitations").json()[0]["id"]
        self.client.delete(f"/api/people/invitations/{key}")
        self.assertEqual(self.join(back).status_code, 422)

    def test_what_a_name_and_a_password_must_be(self):
        secret = self.invited()
        for values, words in (
            ({"password": "short"}, "at least 10 characters"),
            ({"password": "1234567890123"}, "entirely numeric"),
            ({"password": "fulmar-fulmar", "username": "fulmar-fulmar"}, "too similar"),
            ({"password": "fulmar1fulmar1", "username": "fulmar1"}, "too similar"),
            ({"password": "xFulmar1Fulmar1x", "username": "fulmar1"}, "too similar"),
            ({"password": "petrelpetrel", "shown_name": "Petrel"}, "too similar"),
            ({"username": "maker"}, "is taken"),
        ):
            answer = self.join(secret, **values)
            self.assertEqual(answer.status_code, 422, values)
            self.assertIn(words, answer.json()["detail"])
        self.assertEqual(self.join(secret).status_code, 200)

    def test_a_workshop_keeps_an_owner(self):
        me = self.workshop.members.get()
        for call in (
            lambda: self.client.patch(
                f"/api/people/{me.pk}", {"role": "planner"}, content_type=JSON
            ),
            lambda: self.client.delete(f"/api/people/{me.pk}"),
        ):
            self.assertIn("is the only owner", call().json()["detail"])
        member(self.workshop, "owner", "second")
        done = self.client.patch(f"/api/people/{me.pk}", {"role": "operator"}, content_type=JSON)
        self.assertEqual(done.status_code, 200)
        self.assertEqual(self.client.get("/api/record").status_code, 403)

    def test_who_is_removed_is_out_at_once(self):
        other = member(self.workshop, "planner", "second")
        self.assertEqual(other.get("/api/parts").status_code, 200)
        key = Member.objects.get(user__username="second").pk
        self.assertEqual(self.client.delete(f"/api/people/{key}").status_code, 204)
        self.assertEqual(other.get("/api/parts").status_code, 401)
        self.assertEqual(len(self.client.get("/api/people").json()), 1)
        self.assertEqual(self.client.delete(f"/api/people/{key}").status_code, 404)
        with self.assertRaises(AssertionError):
            signed_in("second")

    def test_what_who_is_removed_did_stays_under_their_name(self):
        other = member(self.workshop, "owner", "second")
        plan = self.plan()
        found = other.get(f"/api/plans/{plan}").json()["latest"]["id"]
        ticks = [
            check["key"] for check in other.get(f"/api/versions/{found}/review").json()["checks"]
        ]
        job = other.post("/api/jobs", {"version": found, "ticked": ticks}, content_type=JSON)
        self.assertEqual(job.status_code, 201, job.content)
        key = Member.objects.get(user__username="second").pk
        self.client.delete(f"/api/people/{key}")
        shown = self.client.get(f"/api/jobs/{job.json()[0]['id']}").json()
        self.assertEqual(shown["committed_by"], "Second")

    def test_two_who_use_one_invitation_at_the_same_moment(self):
        secret, begin, found = self.invited(), Barrier(2), []

        def one(name):
            begin.wait()
            found.append(self.join(secret, username=name).status_code)
            connection.close()

        threads = [Thread(target=one, args=(name,)) for name in ("left", "right")]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(sorted(found), [200, 422])


class SigningIn(Planned):
    def enter(self, client, password, name="maker", **extra):
        body = {"username": name, "password": password}
        return client.post("/api/session", body, content_type=JSON, **extra)

    def test_guessing_has_to_wait_whatever_a_header_says(self):
        for number in range(MOST_BY_NAME):
            forged = {"HTTP_X_FORWARDED_FOR": f"10.0.0.{number}"}
            self.assertEqual(self.enter(Client(), "wrong", **forged).status_code, 403)
        late = self.enter(Client(), "plumb-line", HTTP_X_FORWARDED_FOR="10.1.1.1")
        self.assertEqual(late.status_code, 429)
        self.assertIn("try again in 15 min", late.json()["detail"])
        self.assertGreater(int(late["Retry-After"]), 800)
        # being signed in is no way around it
        self.assertEqual(self.enter(self.client, "plumb-line").status_code, 429)
        FailedSignIn.objects.update(at="2020-01-01T00:00Z")
        self.assertEqual(self.enter(Client(), "plumb-line").status_code, 200)

    def test_nobody_is_locked_out_of_where_they_work(self):
        known = {"REMOTE_ADDR": "192.168.1.7"}
        self.assertEqual(self.enter(Client(), "plumb-line", **known).status_code, 200)
        for _ in range(MOST_BY_NAME):
            self.enter(Client(), "wrong", REMOTE_ADDR="192.168.1.66")
        self.assertEqual(self.enter(Client(), "plumb-line", **known).status_code, 200)
        self.assertEqual(
            self.enter(Client(), "plumb-line", REMOTE_ADDR="192.168.1.8").status_code, 429
        )

    def test_a_browser_that_was_let_in_before_has_tries_of_its_own(self):
        hers = Client()
        self.assertEqual(self.enter(hers, "plumb-line").status_code, 200)
        hers.delete("/api/session")
        for _ in range(MOST_BY_NAME + 1):  # from the same address, behind one router
            self.enter(Client(), "wrong")
        self.assertEqual(self.enter(Client(), "plumb-line").status_code, 429)
        self.assertEqual(self.enter(hers, "plumb-line").status_code, 200)
        # it is the cookie of that name and that browser alone, and it can guess no more than others
        forged = Client()
        forged.cookies[COOKIE] = hers.cookies[COOKIE].value[:-1] + "x"
        self.assertEqual(self.enter(forged, "plumb-line").status_code, 429)
        for _ in range(MOST_BY_NAME):
            self.assertEqual(self.enter(hers, "wrong").status_code, 403)
        self.assertEqual(self.enter(hers, "plumb-line").status_code, 429)

    def test_those_made_at_the_same_moment_count(self):
        count, found, looked = 2 * MOST_BY_NAME, [], []
        begin = Barrier(count)

        def look(*_, **__):
            looked.append(1)

        def one():
            begin.wait()
            found.append(self.enter(Client(), "wrong").status_code)
            connection.close()

        with mock.patch("service.accounts.api.session.authenticate", look):
            threads = [Thread(target=one) for _ in range(count)]
            for thread in threads:
                thread.start()
            for thread in threads:
                thread.join()
        self.assertEqual(len(found), count)
        self.assertLessEqual(set(found), {403, 429, 503})
        self.assertLessEqual(len(looked), MOST_BY_NAME)
        self.assertLessEqual(FailedSignIn.objects.count(), MOST_BY_NAME)

    def test_no_more_passwords_wait_than_there_is_room_for(self):
        held = [tries._waiting.acquire(blocking=False) for _ in range(MOST_WAITING)]
        self.addCleanup(lambda: [tries._waiting.release() for _ in held])
        answer = self.enter(Client(), "plumb-line")
        self.assertEqual((answer.status_code, answer["Retry-After"]), (503, "3"))
        self.assertFalse(FailedSignIn.objects.exists())

    def test_sessions_are_listed_and_ended_and_a_new_password_ends_the_others(self):
        here, there, third = Client(), Client(), Client()
        for client in (here, there, third):
            self.enter(client, "plumb-line", HTTP_USER_AGENT="a browser")
        rows = here.get("/api/session/places").json()
        self.assertEqual([row["here"] for row in rows].count(True), 1)
        self.assertEqual(len(rows), 3)
        key = SignedIn.objects.get(key=there.session.session_key).pk
        self.assertEqual(here.delete(f"/api/session/places/{key}").status_code, 204)
        self.assertEqual(there.get("/api/parts").status_code, 401)
        for body, words in (
            ({"old": "no", "new": GOOD}, "not the password"),
            ({"old": "plumb-line", "new": "short"}, "at least 10"),
        ):
            answer = here.post("/api/session/password", body, content_type=JSON)
            self.assertIn(words, answer.json()["detail"])
        done = here.post(
            "/api/session/password", {"old": "plumb-line", "new": GOOD}, content_type=JSON
        )
        self.assertEqual(done.status_code, 204)
        self.assertEqual(here.get("/api/parts").status_code, 200)
        self.assertEqual(third.get("/api/parts").status_code, 401)
        self.assertEqual(self.enter(Client(), "plumb-line").status_code, 403)
        self.assertEqual(self.enter(Client(), GOOD).status_code, 200)


class OnRecord(Planned):
    def test_who_changed_what_is_kept_and_exported_without_secrets(self):
        spool = self.workshop.materials.get().spools.get()
        self.client.patch(f"/api/spools/{spool.pk}", {"usable_mass": 321}, content_type=JSON)
        self.client.patch(f"/api/spools/{spool.pk}", {"usable_mass": -1}, content_type=JSON)
        self.client.post(
            "/api/session/password", {"old": "plumb-line", "new": GOOD}, content_type=JSON
        )
        self.client.get("/api/parts")
        rows = self.client.get("/api/record").json()
        self.assertEqual(
            [(row["what"], row["about"], row["sent"]) for row in rows],
            [
                ("changed their password", "", {}),
                ("changed a spool", "S-1", {"usable_mass": 321}),
            ],
        )
        self.assertEqual(rows[0]["who"], "Maker (maker)")
        text = self.client.get("/api/record/file").content.decode()
        self.assertIn("changed a spool,S-1", text)
        self.assertNotIn(GOOD, json.dumps(rows) + text)
        # no table program takes a cell for a formula
        Record.objects.update(about="=HYPERLINK(1)")
        self.assertIn(",'=HYPERLINK(1),", self.client.get("/api/record/file").content.decode())
        self.assertEqual(Record.objects.count(), 2)
