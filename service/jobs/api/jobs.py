"""Jobs over the API."""

from __future__ import annotations

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.parsers import MultiPartParser
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.answers import PHOTO, files, photo
from service.files import download, fetch, keep_picture
from service.jobs.api import serializers
from service.jobs.api.asking import MOST, asked, job_of, listed, pressed, shown, version_of
from service.jobs.models import Job
from service.jobs.rules import committing, copies, instructions, outcomes, slip
from service.jobs.rules.schedule import open_jobs, schedule
from service.parts.api.parts import UploadSerializer
from service.workshop.models import Spool


class JobList(APIView):
    @extend_schema(operation_id="jobs_list", responses=serializers.JobSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Jobs of the workshop, newest first."""
        jobs = listed(Job.objects.filter(workshop=workshop_of(request)))[:MOST]
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
        values = asked(serializers.CommitSerializer, request)
        version = version_of(request, values["version"])
        made = committing.commit(version, request.user, pressed(values))
        return Response(
            serializers.JobSerializer(made, many=True).data, status=status.HTTP_201_CREATED
        )


class JobDetail(APIView):
    @extend_schema(operation_id="job_show", responses=serializers.JobSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """One job."""
        return shown(job_of(request, pk))


class JobOrder(APIView):
    @extend_schema(
        operation_id="job_order",
        request=serializers.InstructionSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Tell a machine to pause, resume, cancel, or give up a copy of a bed; or say for a machine
        that does not speak that a job started, is done, or failed.
        """
        job, values = job_of(request, pk), asked(serializers.InstructionSerializer, request)
        if values["what"] in instructions.WISHES:
            return shown(instructions.order(job, values["what"]))
        if values["what"] == "begin-short":
            return shown(instructions.begin_short(job))
        if values["what"] == "give-up":
            return shown(copies.give_up(job, values.get("copy", 0)))
        return shown(
            instructions.by_hand(
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
        before = asked(serializers.PlaceSerializer, request)["before"]
        return shown(
            committing.put_before(job_of(request, pk), job_of(request, before) if before else None)
        )


class JobReprint(APIView):
    @extend_schema(
        operation_id="job_reprint", request=None, responses={201: serializers.JobSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """The same file once more."""
        return Response(
            serializers.JobSerializer(committing.reprint(job_of(request, pk), request.user)).data,
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
        job = job_of(request, pk)
        spool = get_object_or_404(
            Spool,
            pk=asked(serializers.JobSpoolSerializer, request)["spool"],
            material__workshop=workshop_of(request),
        )
        return shown(instructions.change_spool(job, spool, request.user))


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
        return shown(
            outcomes.keep_outcome(
                job_of(request, pk), asked(serializers.OutcomeSerializer, request)
            )
        )


class JobFlow(APIView):
    @extend_schema(operation_id="job_flow", request=None, responses=serializers.FlowSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Correct the flow of the job's spool by what its part weighs."""
        return Response({"flow": outcomes.correct_flow(job_of(request, pk))})


class JobPhoto(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(
        operation_id="job_photo_show",
        responses=files(*PHOTO),
    )
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The photo of what came of a job."""
        return photo(job_of(request, pk).photo_key)

    @extend_schema(
        operation_id="job_photo", request=UploadSerializer, responses=serializers.JobSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep a photo of what came of a job: PNG or JPEG, up to 10 MB."""
        job = job_of(request, pk)
        job.photo_key = keep_picture(asked(UploadSerializer, request)["file"].read())
        job.save(update_fields=["photo_key"])
        return shown(job)


class JobSlip(APIView):
    @extend_schema(operation_id="job_slip", responses=serializers.SlipSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """What is printed to lie beside a job."""
        job = job_of(request, pk)
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
    @extend_schema(operation_id="job_file", responses=files("text/x-gcode"))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The G-code file, under the name it was committed with."""
        job = job_of(request, pk)
        return download(fetch(job.file_key), job.file_name, "text/x-gcode")
