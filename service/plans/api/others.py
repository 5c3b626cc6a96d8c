"""Who else has a plan open, over the API."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.plans.api.asking import author_of, plan_of
from service.plans.rules import presence


class OthersSerializer(serializers.Serializer[Any]):
    """The newest version of a plan, and who else has it open now."""

    number = serializers.IntegerField()
    others = serializers.ListField(child=serializers.CharField())


class PlanOthers(APIView):
    @extend_schema(operation_id="plan_others", request=None, responses=OthersSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Say that this screen shows the plan, and learn who else does."""
        plan = plan_of(request, pk)
        return Response(
            {
                "number": plan.latest.number,
                "others": presence.others(plan, author_of(request)),
            }
        )
