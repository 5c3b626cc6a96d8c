"""Test slices and their verdicts."""

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
from service.parts.api.parts import UploadSerializer
from service.plans.api.asking import asked, plan_of
from service.plans.api.serializers import (
    SliceCutSerializer,
    TestSliceSerializer,
    VerdictSerializer,
)
from service.plans.models import TestSlice
from service.plans.rules import slices


class PlanSlices(APIView):
    @extend_schema(
        operation_id="plan_slice", request=SliceCutSerializer, responses={201: TestSliceSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """Cut a stretch of height into a sample part with a plan of its own."""
        plan = plan_of(request, pk)
        values = asked(SliceCutSerializer, request)
        made = slices.make_slice(plan, values["from_mm"], values["to_mm"])
        return Response(TestSliceSerializer(made).data, status=status.HTTP_201_CREATED)


def _slice(request: Request, pk: int) -> TestSlice:
    return get_object_or_404(
        TestSlice.objects.select_related("plan__part"), pk=pk, plan__workshop=workshop_of(request)
    )


class SliceVerdict(APIView):
    @extend_schema(
        operation_id="slice_judge", request=VerdictSerializer, responses=TestSliceSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Record what the printed slice showed; it sets the surface target of the plan it was cut
        from.
        """
        values = asked(VerdictSerializer, request)
        judged = slices.judge(
            _slice(request, pk), values["verdict"], values.get("note", ""), values.get("target_um")
        )
        return Response(TestSliceSerializer(judged).data)


class SlicePhoto(APIView):
    parser_classes = [MultiPartParser]

    @extend_schema(operation_id="slice_photo_show", responses=files(*PHOTO))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """The photo of a printed slice."""
        return photo(_slice(request, pk).photo_key)

    @extend_schema(
        operation_id="slice_photo", request=UploadSerializer, responses=TestSliceSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep a photo of the printed slice: PNG or JPEG, up to 10 MB."""
        values = asked(UploadSerializer, request)
        found = _slice(request, pk)
        slices.keep_photo(found, values["file"].read())
        return Response(TestSliceSerializer(found).data)
