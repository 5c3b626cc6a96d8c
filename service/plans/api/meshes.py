"""The mesh of a plan over the API: what was taken, parts made of it, a changed one under it."""

from __future__ import annotations

import json
from typing import Any

from django.http import HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.plan.mesh import MeshFigures
from northpace.spec import with_settings
from service.accounts.api.auth import workshop_of
from service.answers import BYTES, files
from service.parts.api.parts import PartSerializer
from service.parts.models import Part
from service.plans.api.asking import asked, plan_of, spec_asked
from service.plans.api.serializers import PlanChangeSerializer, PlanSerializer
from service.plans.rules.meshes import change_mesh
from service.plans.rules.taken import (
    bodies_apart,
    bodies_moved,
    cut_apart,
    mesh_changes,
    mesh_taken,
)


class MeshAskSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()


class MeshDoneSerializer(serializers.Serializer[Any]):
    """The plan with its new part, what was left out, and the version it is to be compared with."""

    plan = PlanSerializer()
    left_out = serializers.ListField(child=serializers.CharField())
    before = serializers.IntegerField(allow_null=True)


class ApartSerializer(serializers.Serializer[Any]):
    bodies = serializers.ListField(child=serializers.CharField(), required=False, default=list)


class BodiesMovedSerializer(PlanChangeSerializer):
    """Settings as they are being changed, and what is to be done to bodies."""

    bodies = serializers.ListField(child=serializers.DictField())


class MovedSerializer(serializers.Serializer[Any]):
    """Values of settings by name."""

    values = serializers.DictField(child=serializers.ListField(child=serializers.DictField()))


class CutSerializer(serializers.Serializer[Any]):
    normal = serializers.ListField(child=serializers.FloatField(), min_length=3, max_length=3)
    offset_mm = serializers.FloatField()


class PlanMesh(APIView):
    @extend_schema(operation_id="plan_mesh_taken", responses=MeshFigures)
    def get(self, request: Request, pk: int) -> Response:
        """Faults of the file with their places on the bed, what mending and thinning did, its
        bodies.
        """
        plan = plan_of(request, pk)
        return Response(mesh_taken(plan, plan.latest.whole_spec))

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


class PlanMeshChanges(APIView):
    @extend_schema(operation_id="plan_mesh_changes", responses=files(BYTES))
    def get(self, request: Request, pk: int) -> HttpResponse:
        """Triangles of the file and of what mending made of it: an Arrow stream with three rows a
        triangle and what became of it.
        """
        plan = plan_of(request, pk)
        return HttpResponse(mesh_changes(plan, plan.latest.whole_spec), content_type=BYTES)


class PlanBodies(APIView):
    @extend_schema(
        operation_id="plan_bodies",
        request=BodiesMovedSerializer,
        responses=MovedSerializer,
    )
    def post(self, request: Request, pk: int) -> Response:
        """Values of settings by name when bodies are moved so: marks and regions on a body go with
        it. Nothing is kept.
        """
        plan = plan_of(request, pk)
        values = asked(BodiesMovedSerializer, request)
        said = values.pop("bodies")
        spec = spec_asked(request, plan, values)
        bodies = with_settings(spec, [f"mesh.bodies={json.dumps(said)}"]).mesh.bodies
        return Response({"values": bodies_moved(plan, spec, bodies)})


class PlanApart(APIView):
    @extend_schema(
        operation_id="plan_apart",
        request=ApartSerializer,
        responses={201: PartSerializer(many=True)},
    )
    def post(self, request: Request, pk: int) -> Response:
        """Make bodies parts of their own; all of them where none is named."""
        parts = bodies_apart(plan_of(request, pk), asked(ApartSerializer, request)["bodies"])
        return Response(PartSerializer(parts, many=True).data, status=status.HTTP_201_CREATED)


class PlanCut(APIView):
    @extend_schema(
        operation_id="plan_cut", request=CutSerializer, responses={201: PartSerializer(many=True)}
    )
    def post(self, request: Request, pk: int) -> Response:
        """Cut the part as it stands by a plane into two parts that stand on the cut."""
        said = asked(CutSerializer, request)
        parts = cut_apart(plan_of(request, pk), said["normal"], said["offset_mm"])
        return Response(PartSerializer(parts, many=True).data, status=status.HTTP_201_CREATED)
