"""How far spools reach, over the API."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.plans.api.asking import asked, plan_of
from service.plans.rules.spools import spools_reach


class ReachAskSerializer(serializers.Serializer[Any]):
    spools = serializers.ListField(
        child=serializers.IntegerField(), max_length=50, help_text="one after the other"
    )
    copies = serializers.IntegerField(min_value=1, max_value=10000)
    start = serializers.DateTimeField(
        required=False, help_text="of the first copy; now when left out"
    )


class RunsOutSerializer(serializers.Serializer[Any]):
    """Where a spool ends: of which copy in which layer and at what height, and when by the
    clock.
    """

    label = serializers.CharField()  # type: ignore[assignment]
    copy = serializers.IntegerField()
    layer = serializers.IntegerField()
    z_mm = serializers.FloatField()
    at = serializers.DateTimeField()


class WaySerializer(serializers.Serializer[Any]):
    """A change that makes the part light enough (≈ g and s of a part)."""

    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())
    grams = serializers.FloatField()
    seconds = serializers.FloatField()


class ReachSerializer(serializers.Serializer[Any]):
    """What spools come to for a plan; ``lighter_g``: how much lighter each must get for one more on
    the first spool, with ways to it.
    """

    copies = serializers.IntegerField()
    left_over_g = serializers.FloatField()
    missing_g = serializers.FloatField()
    free_g = serializers.FloatField()
    end = serializers.DateTimeField()
    runs_out = RunsOutSerializer(many=True)
    one_more = serializers.IntegerField()
    lighter_g = serializers.FloatField()
    ways = WaySerializer(many=True)


class PlanReach(APIView):
    @extend_schema(operation_id="plan_reach", request=ReachAskSerializer, responses=ReachSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """How many copies some spools give, where each runs out, and what would make one
        more fit.
        """
        values = asked(ReachAskSerializer, request)
        return Response(
            ReachSerializer(
                spools_reach(
                    plan_of(request, pk), values["spools"], values["copies"], values.get("start")
                )
            ).data
        )
