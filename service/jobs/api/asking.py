"""What a request over the API is about."""

from __future__ import annotations

from typing import Any

from django.db.models import QuerySet
from django.shortcuts import get_object_or_404
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import Serializer

from service.accounts.api.auth import workshop_of
from service.jobs.api import serializers
from service.jobs.models import Job
from service.jobs.rules.committing import Press
from service.jobs.rules.schedule import HEAVY
from service.plans.models import PlanVersion
from service.workshop.models import Machine

WITH = (
    "version__plan__part",
    "version__part",
    "bed",
    "committed_by__member",
    "machine",
    "spool",
    "reprint_of",
)


#: Ended jobs that are listed.
MOST = 300


def version_of(request: Request, pk: int) -> PlanVersion:
    return get_object_or_404(
        PlanVersion.objects.select_related(
            "plan__part", "plan__workshop", "nozzle__machine__loaded__material", "material", "spool"
        ),
        pk=pk,
        plan__workshop=workshop_of(request),
    )


def listed(jobs: QuerySet[Job]) -> QuerySet[Job]:
    """Jobs with what their lists show, and without what is large."""
    return jobs.select_related(*WITH).defer(*HEAVY)


def job_of(request: Request, pk: int) -> Job:
    return get_object_or_404(listed(Job.objects.all()), pk=pk, workshop=workshop_of(request))


def machine_of(request: Request, pk: int) -> Machine:
    return get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))


def asked(form: type[Serializer[Any]], request: Request) -> dict[str, Any]:
    filled = form(data=request.data)
    filled.is_valid(raise_exception=True)
    return dict(filled.validated_data)


def pressed(values: dict[str, Any]) -> Press:
    """A press on *commit* from its form."""
    return Press(values.get("template"), tuple(values["ticked"]), values["copies"], values["key"])


def shown(job: Job) -> Response:
    return Response(serializers.JobSerializer(job).data)
