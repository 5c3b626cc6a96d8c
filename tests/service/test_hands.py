"""What is computed apart gets so long and so much memory, and stops nobody else."""

import os
import signal
import threading
import time
from dataclasses import replace
from types import SimpleNamespace
from unittest.mock import patch

import numpy as np
from django.test import override_settings
from procrastinate.contrib.django.models import ProcrastinateJob

from northpace.errors import InputError
from service import hands
from service.hands import MOST_WAITING, Busy, TooLong, TooMuch, Unwanted, apart
from service.limits import Limit
from service.plans.models import PlanVersion
from service.plans.rules import computing
from service.queue import ASKING, BEHIND, LARGE, SMALL, as_asked, later
from tests.core.shapes import cube, organic, stl
from tests.service.base import make_workshop, plan_body, signed_in, upload, work
from tests.service.planned import JSON, Planned
from tests.service.test_people import member

ONE = override_settings(HANDS={"quick": 1, "exact": 0, "work": 1})


def where() -> int:
    return os.getpid()


def refuse() -> None:
    raise InputError("too thin", "walls.count")


def take(megabytes: int) -> float:
    return float(np.ones(125_000 * megabytes).sum())


def linger(seconds: float) -> None:
    time.sleep(seconds)


def spin() -> None:
    while True:
        pass


def silent() -> None:
    raise TimeoutError("the store")


def fall() -> None:
    os.kill(os.getpid(), signal.SIGKILL)


def limit(seconds=30.0, megabytes=500.0):
    return Limit("this", seconds, megabytes, "Less would help.")


class Apart(Planned):
    def setUp(self):
        super().setUp()
        ONE.enable()
        self.addCleanup(hands.close)
        self.addCleanup(ONE.disable)

    def do(self, function, *args, **options):
        return apart("quick", function, args, options.pop("limit", limit()), **options)

    def test_it_is_another_process_and_stays_the_same(self):
        first = self.do(where)
        self.assertNotEqual(first, os.getpid())
        self.assertEqual(self.do(where), first)

    def test_a_refusal_comes_as_it_was_said(self):
        with self.assertRaises(InputError) as caught:
            self.do(refuse)
        self.assertEqual(str(caught.exception), "walls.count: too thin")

    def test_too_long_too_much_and_falling_over_are_said_and_the_next_is_computed(self):
        self.do(where)
        words = "this took more than 1 s of processor time and was stopped. Less"
        with self.assertRaisesMessage(TooLong, words):
            self.do(spin, limit=limit(seconds=1))
        with self.assertRaisesMessage(TooLong, "this was not done after 1 s and was stopped"):
            self.do(linger, 60, limit=replace(limit(), lasts=1.0))
        with self.assertRaisesMessage(TooMuch, "this needs more than 500 MB and was stopped."):
            self.do(take, 800)
        self.assertEqual(self.do(take, 100), 12_500_000)
        with self.assertRaisesMessage(TooMuch, "this ended its process twice"):
            self.do(fall)
        self.assertNotEqual(self.do(where), os.getpid())

    def test_what_waits_for_others_is_not_blamed(self):
        """Real time beyond the limit passes, but no processor works on it."""
        self.do(linger, 1.5, limit=limit(seconds=1))

    def test_a_process_that_is_ended_while_it_has_nothing_to_do_is_replaced(self):
        for _ in range(2):
            os.kill(self.do(where), signal.SIGKILL)
            self.assertNotEqual(self.do(where), os.getpid())

    def test_what_does_not_answer_there_is_no_limit_that_was_met(self):
        with self.assertRaisesRegex(OSError, "did not answer in time") as caught:
            self.do(silent)
        self.assertNotIsInstance(caught.exception, TooMuch)

    def test_what_nobody_wants_ends_within_a_second(self):
        self.do(where)
        told = threading.Event()
        begun = []

        def wanted():
            if not told.is_set():
                begun.append(time.monotonic())
                told.set()
            return False

        with self.assertRaises(Unwanted):
            self.do(linger, 600, limit=limit(700), wanted=wanted)
        self.assertLess(time.monotonic() - begun[0], 2)  # 1 s, and what a busy machine adds

    def test_no_more_waits_than_there_is_room_for(self):
        self.do(where)
        hand = hands._rooms["quick"].hands[0]
        with patch.object(hand, "waiting", MOST_WAITING), self.assertRaises(Busy):
            self.do(where)
        plan = self.plan()
        with patch.object(hand, "waiting", MOST_WAITING):
            answer = self.client.post(f"/api/plans/{plan}/quick", {}, content_type=JSON)
        self.assertEqual(answer.status_code, 503)
        self.assertEqual(answer["Retry-After"], "3")

    def test_plans_and_quick_figures_are_the_same_as_where_they_were_asked(self):
        plan = self.plan(stl(cube(12)))  # read and planned apart
        body = {"settings": {"surface": {"layer_height": 0.24}}}
        found = self.client.post(f"/api/plans/{plan}/quick", body, content_type=JSON).json()
        shape = self.client.get(f"/api/plans/{plan}/shape").content
        report = PlanVersion.objects.get().report
        hands.close()
        with override_settings(HANDS={"quick": 0, "exact": 0, "work": 0}):
            here = self.client.post(f"/api/plans/{plan}/quick", body, content_type=JSON).json()
            self.assertEqual(found, here)
            self.assertEqual(shape, self.client.get(f"/api/plans/{plan}/shape").content)
            PlanVersion.objects.update(state="computing")
            computing.compute_here(PlanVersion.objects.get().pk)
        again = PlanVersion.objects.get().report
        self.assertEqual(again["time_s"], report["time_s"])

    def test_a_plan_that_needs_too_much_says_so(self):
        part = self.make_part(stl(organic()))
        self.client.post("/api/plans", plan_body(part, self.workshop), content_type=JSON)
        with override_settings(PLANNING_SECONDS=0.01):
            computing.compute(PlanVersion.objects.get().pk)
        version = PlanVersion.objects.get()
        self.assertEqual(version.state, "failed")
        self.assertIn("s of processor time and was stopped. Thicker layers", version.message)


class Turns(Planned):
    def queued(self, client, workshop, part):
        return client.post("/api/plans", plan_body(part, workshop), content_type=JSON).json()["id"]

    def test_workshops_take_turns(self):
        other = make_workshop("Other bench", "other")
        theirs = signed_in("other")
        mine, others = self.make_part(stl(cube(8))), upload(theirs).json()["id"]
        work()
        for _ in range(3):
            self.queued(self.client, self.workshop, mine)
        for _ in range(2):
            self.queued(theirs, other, others)
        order = ProcrastinateJob.objects.filter(
            status="todo", task_name__endswith="compute_version"
        ).order_by("-priority", "id")
        self.assertEqual(
            [job.args["workshop"] for job in order],
            [self.workshop.pk, other.pk, self.workshop.pk, other.pk, self.workshop.pk],
        )

    def test_persons_of_a_workshop_take_turns(self):
        colleague = member(self.workshop, "planner", "pia")
        part = self.make_part(stl(cube(8)))
        plans = [self.queued(self.client, self.workshop, part) for _ in range(3)]
        hers = [self.queued(colleague, self.workshop, part) for _ in range(2)]
        self.queued(self.client, self.workshop, part)
        order = ProcrastinateJob.objects.filter(
            status="todo", task_name__endswith="compute_version"
        ).order_by("-priority", "id")
        self.assertEqual(
            [PlanVersion.objects.get(pk=job.args["version_id"]).plan_id for job in order][:5],
            [plans[0], hers[0], plans[1], hers[1], plans[2]],
        )
        self.assertEqual(len({job.priority for job in order}), 6)
        versions = [job.args["version_id"] for job in order]
        # what nobody asked for comes behind, and what a task queues is of who asked for the task
        ASKING.set(0)
        key = later("plans.tasks.compute_version", SMALL, self.workshop.pk, version_id=versions[0])
        self.assertEqual(ProcrastinateJob.objects.get(pk=key).priority, BEHIND)
        context = SimpleNamespace(job=SimpleNamespace(task_kwargs={"person": 7}))
        self.assertEqual(as_asked(ASKING.get, context, None), 7)
        self.assertEqual(ASKING.get(), 0)
        work()
        self.assertEqual(set(PlanVersion.objects.values_list("state", flat=True)), {"done"})

    def test_small_work_has_a_lane_that_large_work_leaves(self):
        part = self.make_part(stl(cube(8)))
        self.queued(self.client, self.workshop, part)
        job = ProcrastinateJob.objects.get(status="todo")
        self.assertEqual(job.queue_name, SMALL)
        version = PlanVersion.objects.get()
        with patch("service.computed.apart", side_effect=TooLong("too long")):
            computing.compute(version.pk, within_small=True)
        moved = ProcrastinateJob.objects.exclude(pk=job.pk).get(status="todo")
        self.assertEqual(moved.queue_name, LARGE)
        work()
        self.assertEqual(PlanVersion.objects.get().state, "done")
        # what took long the last time is large from the start
        PlanVersion.objects.update(took_s=60.0)
        self.client.patch(
            f"/api/plans/{version.plan_id}",
            {"settings": {"surface": {"layer_height": 0.24}}},
            content_type=JSON,
        )
        self.assertEqual(ProcrastinateJob.objects.get(status="todo").queue_name, LARGE)
