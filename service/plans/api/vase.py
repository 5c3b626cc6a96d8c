"""Whether a part can be one spiral."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.paths.spiral.check import set_aside
from service.plans.api.asking import asked, plan_of, spec_asked
from service.plans.api.serializers import PlanChangeSerializer
from service.plans.rules import figures


class BreakSerializer(serializers.Serializer[Any]):
    z = serializers.FloatField()
    rule = serializers.CharField()
    reason = serializers.CharField()


class OfferSerializer(serializers.Serializer[Any]):
    """A way on: settings by name; ``surface.bands`` is a band to add."""

    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())


class AsideSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    value = serializers.JSONField(allow_null=True)
    because = serializers.CharField()


class VaseSerializer(serializers.Serializer[Any]):
    suits = serializers.BooleanField()
    sentence = serializers.CharField()
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    breaks = BreakSerializer(many=True)
    offers = OfferSerializer(many=True)
    aside = serializers.DictField(child=AsideSerializer(many=True))


class PlanVase(APIView):
    @extend_schema(operation_id="plan_vase", request=PlanChangeSerializer, responses=VaseSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Whether the part can be one spiral under these settings, the first height that speaks
        against it, ways on, and what would be set aside.
        """
        plan = plan_of(request, pk)
        spec = spec_asked(request, plan, asked(PlanChangeSerializer, request))
        return Response(
            {
                **figures.as_spiral(plan, spec),
                "aside": {build: set_aside(spec, build) for build in ("spiral", "open-vessel")},
            }
        )
