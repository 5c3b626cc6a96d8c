"""Jobs over the API: review and commit, orders to machines, outcomes, slips."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.types import OpenApiTypes
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.serializers import Serializer
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.auth import workshop_of
from service.files import download, fetch, keep_picture
from service.jobs import minding, outcomes, rules, serializers, slip
from service.jobs.models import Job
from service.jobs.review import review
from service.jobs.schedule import open_jobs, schedule
from service.parts.views import UploadSerializer
from service.plans.models import PlanVersion
from service.workshop.machines import MachineSerializer
from service.workshop.models import Machine, Spool

WITH = (
    "version__plan__part",
    "version__part",
    "committed_by__member",
    "machine",
    "spool",
    "reprint_of",
)
#: Ended jobs that are listed.
MOST = 300


def _version(request: Request, pk: int) -> PlanVersion:
    return get_object_or_404(
        PlanVersion.objects.select_related(
            "plan__part", "plan__workshop", "nozzle__machine__loaded__material", "material", "spool"
        ),
        pk=pk,
        plan__workshop=workshop_of(request),
    )


def _job(request: Request, pk: int) -> Job:
    return get_object_or_404(
        Job.objects.select_related(*WITH), pk=pk, workshop=workshop_of(request)
    )


def _machine(request: Request, pk: int) -> Machine:
    return get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))


def _asked(form: type[Serializer[Any]], request: Request) -> dict[str, Any]:
    filled = form(data=request.data)
    filled.is_valid(raise_exception=True)
    return dict(filled.validated_data)


def _shown(job: Job) -> Response:
    return Response(serializers.JobSerializer(job).data)


class JobList(APIView):
    @extend_schema(operation_id="jobs_list", responses=serializers.JobSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Jobs of the workshop, newest first."""
        jobs = Job.objects.filter(workshop=workshop_of(request)).select_related(*WITH)[:MOST]
        return Response(serializers.JobSerializer(jobs, many=True).data)

    @extend_schema(
        operation_id="jobs_commit",
        request=serializers.CommitSerializer,
        responses={201: serializers.JobSerializer(many=True)},
    )
    def post(self, request: Request) -> Response:
        """Commit a computed version: immutable jobs with their file, one a copy, at the end of the
        machine's queue.
        """
        values = _asked(serializers.CommitSerializer, request)
        made = rules.commit(
            _version(request, values["version"]),
            request.user,
            values.get("template"),
            tuple(values["ticked"]),
            values["copies"],
        )
        return Response(
            serializers.JobSerializer(made, many=True).data, status=status.HTTP_201_CREATED
        )


class JobDetail(APIView):
    @extend_schema(operation_id="job_show", responses=serializers.JobSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """One job."""
        return _shown(_job(request, pk))


class VersionName(APIView):
    @extend_schema(
        operation_id="version_name",
        request=serializers.NameSerializer,
        responses=serializers.NameAnswerSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """The file name a template gives for a computed version."""
        version = _version(request, pk)
        if version.report is None:
            raise InputError("the exact figures are not computed yet", "file name")
        template = (
            _asked(serializers.NameSerializer, request).get("template")
            or version.plan.workshop.name_template
        )
        return Response(
            {
                "file_name": rules.suggested_name(version, template),
                "limit": version.spec["machine"]["name_limit"],
            }
        )


class VersionReview(APIView):
    @extend_schema(
        operation_id="version_review",
        parameters=[OpenApiParameter("copies", int)],
        responses=serializers.ReviewSerializer,
    )
    def get(self, request: Request, pk: int) -> Response:
        """The last look before a commit: findings, spool, machine, the workshop's own list, clock
        times.
        """
        try:
            copies = int(request.query_params.get("copies", 1))
        except ValueError as error:
            raise InputError("copies are a number", "copies") from error
        return Response(serializers.ReviewSerializer(review(_version(request, pk), copies)).data)


class JobOrder(APIView):
    @extend_schema(
        operation_id="job_order",
        request=serializers.OrderSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Tell a machine to pause, resume or cancel; or say for a machine that does not speak that
        a job started, is done, or failed.
        """
        job, values = _job(request, pk), _asked(serializers.OrderSerializer, request)
        if values["what"] in minding.WISHES:
            return _shown(minding.order(job, values["what"]))
        return _shown(
            minding.by_hand(
                job, values["what"], values.get("actual_s"), values["reason"], values["share"]
            )
        )


class JobPlace(APIView):
    @extend_schema(
        operation_id="job_place",
        request=serializers.PlaceSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Put a queued job before another one, or at the end."""
        before = _asked(serializers.PlaceSerializer, request)["before"]
        return _shown(
            rules.put_before(_job(request, pk), _job(request, before) if before else None)
        )


class JobReprint(APIView):
    @extend_schema(
        operation_id="job_reprint", request=None, responses={201: serializers.JobSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """The same file once more."""
        return Response(
            serializers.JobSerializer(rules.reprint(_job(request, pk), request.user)).data,
            status=status.HTTP_201_CREATED,
        )


class JobSpool(APIView):
    @extend_schema(
        operation_id="job_spool",
        request=serializers.JobSpoolSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Go on with another spool; what was taken so far is booked on the old one."""
        job = _job(request, pk)
        spool = get_object_or_404(
            Spool,
            pk=_asked(serializers.JobSpoolSerializer, request)["spool"],
            material__workshop=workshop_of(request),
        )
        return _shown(minding.change_spool(job, spool))


class JobOutcome(APIView):
    @extend_schema(
        operation_id="job_outcome",
        request=serializers.OutcomeSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """What came of a job: how long it took, how good it is, what was left to do. Its machine's
        estimates are corrected by it.
        """
        return _shown(
            outcomes.keep_outcome(_job(request, pk), _asked(serializers.OutcomeSerializer, request))
        )


class JobFlow(APIView):
    @extend_schema(operation_id="job_flow", request=None, responses=serializers.FlowSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Correct the flow of the job's spool by what its part weighs."""
        return Response({"flow": outcomes.correct_flow(_job(request, pk))})


class JobPhoto(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        operation_id="job_photo_show",
        responses={(200, "application/octet-stream"): OpenApiTypes.BINARY},
    )
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The photo of what came of a job."""
        job = _job(request, pk)
        if not job.photo_key:
            return HttpResponse("there is no photo", status=404, content_type="text/plain")
        return HttpResponse(
            fetch(job.photo_key),
            content_type="image/png" if job.photo_key.endswith(".png") else "image/jpeg",
        )

    @extend_schema(
        operation_id="job_photo", request=UploadSerializer, responses=serializers.JobSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep a photo of what came of a job: PNG or JPEG, up to 10 MB."""
        job = _job(request, pk)
        job.photo_key = keep_picture(_asked(UploadSerializer, request)["file"].read())
        job.save(update_fields=["photo_key"])
        return _shown(job)


class JobSlip(APIView):
    @extend_schema(operation_id="job_slip", responses=serializers.SlipSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """What is printed to lie beside a job."""
        job = _job(request, pk)
        slots = (
            schedule(job.machine, open_jobs(job.machine))
            if job.machine and job.state in Job.OPEN
            else {}
        )
        address = request.build_absolute_uri(f"/jobs/{job.pk}")
        return Response(
            {
                "job": serializers.JobSerializer(job, context={"slots": slots}).data,
                "address": address,
                "code": slip.code(address),
                "settings": [{"label": label, "value": value} for label, value in slip.lines(job)],
            }
        )


class JobFile(APIView):
    @extend_schema(operation_id="job_file", responses={(200, "text/x-gcode"): OpenApiTypes.BINARY})
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The G-code file, under the name it was committed with."""
        job = _job(request, pk)
        return download(fetch(job.file_key), job.file_name, "text/x-gcode")


class MachineLearnt(APIView):
    @extend_schema(operation_id="machine_learnt", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Correct a machine's estimates by its finished jobs."""
        machine = _machine(request, pk)
        machine.learnt_off = False
        machine.save(update_fields=["learnt_off"])
        outcomes.relearn(machine)
        return Response(MachineSerializer(machine).data)

    @extend_schema(operation_id="machine_learnt_not", responses=MachineSerializer)
    def delete(self, request: Request, pk: int) -> Response:
        """Take the correction back: the machine counts as it states itself until it is asked to
        learn again.
        """
        machine = _machine(request, pk)
        machine.learnt, machine.learnt_off = None, True
        machine.save(update_fields=["learnt", "learnt_off"])
        return Response(MachineSerializer(machine).data)


class MachineClear(APIView):
    @extend_schema(operation_id="machine_clear", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """The bed is clear; the next job may start."""
        return Response(MachineSerializer(minding.clear_bed(_machine(request, pk))).data)
