"""Counts and times for a monitoring system, in the text format of Prometheus."""

from __future__ import annotations

import hmac
from collections.abc import Iterator

from django.conf import settings
from django.db.models import Count, Sum
from django.http import HttpRequest, HttpResponse
from prometheus_client import CONTENT_TYPE_LATEST, CollectorRegistry, generate_latest
from prometheus_client.core import GaugeMetricFamily
from prometheus_client.metrics_core import Metric

from service.jobs.models import Job
from service.jobs.rules.state import last_sign, queue
from service.plans.models import PlanVersion


class _Collector:
    """Reads the database when it is asked: every process of the service counts there."""

    def collect(self) -> Iterator[Metric]:
        waiting = GaugeMetricFamily("northpace_waiting", "tasks that wait", labels=["lane"])
        computing = GaugeMetricFamily("northpace_computing", "tasks at work", labels=["lane"])
        for row in queue():
            waiting.add_metric([row["lane"]], row["waiting"])
            computing.add_metric([row["lane"]], row["computing"])
        yield waiting
        yield computing
        sign = last_sign()
        yield GaugeMetricFamily(
            "northpace_worker_silence_seconds",
            "since a worker gave a sign of life",
            value=-1 if sign is None else sign,
        )
        versions = GaugeMetricFamily("northpace_versions", "versions of plans", labels=["state"])
        seconds = GaugeMetricFamily(
            "northpace_planning_seconds", "time that exact plans took, added up"
        )
        for state, count in (
            PlanVersion.objects.order_by().values_list("state").annotate(Count("id"))
        ):
            versions.add_metric([state], count)
        spent = PlanVersion.objects.aggregate(total=Sum("took_s"))["total"]
        seconds.add_metric([], spent or 0.0)
        yield versions
        yield seconds
        jobs = GaugeMetricFamily("northpace_jobs", "jobs", labels=["state"])
        for state, count in Job.objects.order_by().values_list("state").annotate(Count("id")):
            jobs.add_metric([state], count)
        yield jobs


def metrics(request: HttpRequest) -> HttpResponse:
    """All counts; only for who has the token of the settings, and nobody where there is none."""
    token = f"Bearer {settings.METRICS_TOKEN}"
    if not settings.METRICS_TOKEN or not hmac.compare_digest(
        token.encode(), request.headers.get("Authorization", "").encode()
    ):
        return HttpResponse(status=404)
    registry = CollectorRegistry()
    registry.register(_Collector())
    return HttpResponse(generate_latest(registry), content_type=CONTENT_TYPE_LATEST)
