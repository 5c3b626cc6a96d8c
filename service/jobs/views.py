"""Jobs over the API."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.auth import workshop_of
from service.files import download, fetch
from service.jobs.models import Job
from service.jobs.rules import commit, keep_outcome, relearn, suggested_name
from service.plans.models import PlanVersion
from service.workshop.models import Machine
from service.workshop.views import MachineSerializer


class FiguresSerializer(serializers.Serializer[Any]):
    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    length_mm = serializers.FloatField()
    cost = serializers.FloatField()
    layers = serializers.IntegerField()


class JobSerializer(serializers.ModelSerializer[Job]):
    figures = FiguresSerializer()
    picture = serializers.CharField(source="version.plan.part.picture")
    plan = serializers.IntegerField(source="version.plan_id")
    committed_by = serializers.CharField(source="committed_by.member", default="")

    class Meta:
        model = Job
        fields = ["id", "number", "file_name", "title", "figures", "picture", "plan", "committed_by", "created", "outcome", "actual_s", "finishing_min",
                  "note"]
        read_only_fields = ["outcome", "actual_s", "finishing_min", "note"]


class NameSerializer(serializers.Serializer[Any]):
    template = serializers.CharField(max_length=120, required=False)


class CommitSerializer(NameSerializer):
    version = serializers.IntegerField()


class NameAnswerSerializer(serializers.Serializer[Any]):
    file_name = serializers.CharField()
    limit = serializers.IntegerField()


def _version(request: Request, pk: int) -> PlanVersion:
    return get_object_or_404(PlanVersion.objects.select_related("plan__part", "plan__workshop", "nozzle__machine", "material", "spool"),
                             pk=pk, plan__workshop=workshop_of(request))


class JobList(APIView):
    @extend_schema(operation_id="jobs_list", responses=JobSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Jobs of the workshop, newest first."""
        jobs = Job.objects.filter(workshop=workshop_of(request)).select_related("version__plan__part", "committed_by__member")
        return Response(JobSerializer(jobs, many=True).data)

    @extend_schema(operation_id="jobs_commit", request=CommitSerializer, responses={201: JobSerializer})
    def post(self, request: Request) -> Response:
        """Commit a computed version: an immutable job with its file."""
        form = CommitSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        job = commit(_version(request, form.validated_data["version"]), request.user, form.validated_data.get("template"))
        return Response(JobSerializer(job).data, status=status.HTTP_201_CREATED)


class VersionName(APIView):
    @extend_schema(operation_id="version_name", request=NameSerializer, responses=NameAnswerSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """The file name a template gives for a computed version."""
        version = _version(request, pk)
        if version.report is None:
            raise InputError("the exact figures are not computed yet", "file name")
        form = NameSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        template = form.validated_data.get("template") or version.plan.workshop.name_template
        return Response({"file_name": suggested_name(version, template), "limit": version.spec["machine"]["name_limit"]})


class OutcomeSerializer(serializers.Serializer[Any]):
    outcome = serializers.ChoiceField(choices=["good", "flaws", "failed"])
    actual_s = serializers.FloatField(required=False, allow_null=True, min_value=1, max_value=10_000_000)
    finishing_min = serializers.FloatField(required=False, min_value=0, max_value=100_000, default=0)
    note = serializers.CharField(required=False, allow_blank=True, max_length=2000, default="")


class JobOutcome(APIView):
    @extend_schema(operation_id="job_outcome", request=OutcomeSerializer, responses=JobSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """What came of a job: how long it took, how good it is, what was left to do. Its machine's estimates are corrected by it."""
        job = get_object_or_404(Job.objects.select_related("version__nozzle__machine"), pk=pk, workshop=workshop_of(request))
        form = OutcomeSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        values = form.validated_data
        return Response(JobSerializer(keep_outcome(job, values["outcome"], values.get("actual_s"), values["finishing_min"], values["note"])).data)


class MachineLearnt(APIView):
    @extend_schema(operation_id="machine_learnt", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Correct a machine's estimates by its finished jobs."""
        machine = get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))
        relearn(machine)
        return Response(MachineSerializer(machine).data)

    @extend_schema(operation_id="machine_learnt_not", responses=MachineSerializer)
    def delete(self, request: Request, pk: int) -> Response:
        """Take the correction back: the machine counts as it states itself until another job is finished on it."""
        machine = get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))
        machine.learnt = None
        machine.save(update_fields=["learnt"])
        return Response(MachineSerializer(machine).data)


class JobFile(APIView):
    @extend_schema(operation_id="job_file", responses={(200, "text/x-gcode"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The G-code file, under the name it was committed with."""
        job = get_object_or_404(Job, pk=pk, workshop=workshop_of(request))
        return download(fetch(job.file_key), job.file_name, "text/x-gcode")
