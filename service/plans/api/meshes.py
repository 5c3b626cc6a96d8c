"""A changed mesh under a plan, over the API."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.parts.models import Part
from service.plans.api.asking import asked, plan_of
from service.plans.api.serializers import PlanSerializer
from service.plans.rules.meshes import change_mesh


class MeshAskSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()


class MeshDoneSerializer(serializers.Serializer[Any]):
    """The plan with its new part, what was left out, and the version it is to be compared with."""

    plan = PlanSerializer()
    left_out = serializers.ListField(child=serializers.CharField())
    before = serializers.IntegerField(allow_null=True)


class PlanMesh(APIView):
    @extend_schema(
        operation_id="plan_mesh", request=MeshAskSerializer, responses=MeshDoneSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Put a changed mesh under the plan; its settings, bands and regions stay where they still
        make sense.
        """
        plan = plan_of(request, pk)
        part = get_object_or_404(
            Part, pk=asked(MeshAskSerializer, request)["part"], workshop=workshop_of(request)
        )
        left_out, before = change_mesh(plan, part)
        return Response(
            MeshDoneSerializer({"plan": plan, "left_out": left_out, "before": before}).data
        )
