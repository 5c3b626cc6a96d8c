"""Regions as contours, and how much is painted by hand."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.paths.supports.by_hand import PaintedArea
from service.plans.api.asking import asked, plan_of, spec_asked
from service.plans.api.serializers import PlanChangeSerializer
from service.plans.rules import places


class RegionShapeSerializer(serializers.Serializer[Any]):
    """A region as contour lines in mm from the middle of the bed; ``message``: why it has none."""

    rings = serializers.ListField(
        child=serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    )
    from_mm = serializers.FloatField(allow_null=True)
    to_mm = serializers.FloatField(allow_null=True)
    message = serializers.CharField(allow_blank=True)


class PlanRegions(APIView):
    @extend_schema(
        operation_id="plan_regions",
        request=PlanChangeSerializer,
        responses=RegionShapeSerializer(many=True),
    )
    def post(self, request: Request, pk: int) -> Response:
        """The regions of these settings as contour lines for the stage."""
        plan = plan_of(request, pk)
        spec = spec_asked(request, plan, asked(PlanChangeSerializer, request))
        return Response(places.regions_drawn(plan, spec))


class PlanPainted(APIView):
    @extend_schema(operation_id="plan_painted", request=PlanChangeSerializer, responses=PaintedArea)
    def post(self, request: Request, pk: int) -> Response:
        """How much of the surface the support marks of these settings ask for and forbid."""
        plan = plan_of(request, pk)
        spec = spec_asked(request, plan, asked(PlanChangeSerializer, request))
        return Response(places.painted_here(plan, spec))
