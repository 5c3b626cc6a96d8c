"""From a version to a job: its name, its review."""

from __future__ import annotations

from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.jobs.api import serializers
from service.jobs.api.asking import asked, version_of
from service.jobs.rules import committing
from service.jobs.rules.reviewing import review


class VersionName(APIView):
    @extend_schema(
        operation_id="version_name",
        request=serializers.NameSerializer,
        responses=serializers.NameAnswerSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """The file name a template gives for a computed version."""
        version = version_of(request, pk)
        if version.report is None:
            raise InputError("the exact figures are not computed yet", "file name")
        template = (
            asked(serializers.NameSerializer, request).get("template")
            or version.plan.workshop.name_template
        )
        return Response(
            {
                "file_name": committing.suggested_name(version, template),
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
        return Response(serializers.ReviewSerializer(review(version_of(request, pk), copies)).data)
