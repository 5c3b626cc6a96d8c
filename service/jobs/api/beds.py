"""From a bed to a job: its name, its review, its commit; what came of its copies."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.beds.models import BedVersion
from service.jobs.api import serializers
from service.jobs.api.asking import asked, job_of, pressed, shown
from service.jobs.rules import committing, copies
from service.jobs.rules.reviewing import review_bed


def bed_version_of(request: Request, pk: int) -> BedVersion:
    return get_object_or_404(
        BedVersion.objects.select_related(
            "bed__workshop", "bed__nozzle__machine__loaded__material", "bed__spool__material"
        ),
        pk=pk,
        bed__workshop=workshop_of(request),
    )


class BedReview(APIView):
    @extend_schema(
        operation_id="bed_version_review",
        parameters=[OpenApiParameter("copies", int)],
        responses=serializers.ReviewSerializer,
    )
    def get(self, request: Request, pk: int) -> Response:
        """The last look before a bed is committed."""
        try:
            count = int(request.query_params.get("copies", 1))
        except ValueError as error:
            raise InputError("copies are a number", "copies") from error
        found = review_bed(bed_version_of(request, pk), count)
        return Response(serializers.ReviewSerializer(found).data)


class BedName(APIView):
    @extend_schema(
        operation_id="bed_version_name",
        request=serializers.NameSerializer,
        responses=serializers.NameAnswerSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """The file name a template gives for a computed bed."""
        version = bed_version_of(request, pk)
        if version.report is None:
            raise InputError("the exact figures are not computed yet", "file name")
        template = asked(serializers.NameSerializer, request).get("template")
        name = committing.bed_name(version, template or version.bed.workshop.name_template)
        pin = version.pins.first()
        assert pin is not None
        return Response({"file_name": name, "limit": pin.spec["machine"]["name_limit"]})


class BedCommit(APIView):
    @extend_schema(
        operation_id="bed_version_commit",
        request=serializers.PressSerializer,
        responses={201: serializers.JobSerializer(many=True)},
    )
    def post(self, request: Request, pk: int) -> Response:
        """Commit a computed bed: one job for all of it, or several for so many beds."""
        press = pressed(asked(serializers.PressSerializer, request))
        made = committing.commit_bed(bed_version_of(request, pk), request.user, press)
        return Response(
            serializers.JobSerializer(made, many=True).data, status=status.HTTP_201_CREATED
        )


class JobCopies(APIView):
    @extend_schema(
        operation_id="job_copies",
        request=serializers.CopiesSerializer,
        responses=serializers.JobSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Say what came of the copies of a bed's job; those that are not named stay."""
        told = asked(serializers.CopiesSerializer, request)["copies"]
        said = {copy["number"]: copy["state"] for copy in told}
        return shown(copies.tell(job_of(request, pk), said))
