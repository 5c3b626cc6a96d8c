"""What differs at a height, and writing it back."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.spec import settings, spec_from
from service.plans.api.asking import asked, plan_of, spec_asked
from service.plans.api.serializers import PlanChangeSerializer, PlanSerializer
from service.plans.rules import places

#: What of a test can be written back: settings the material supplies, with the figure of the
#: material each becomes.
WRITTEN = {
    entry["name"]: entry["key"]
    for entry in settings()
    if entry["within"] and "material" in (entry["source"], entry["group"])
}


class HereAskSerializer(PlanChangeSerializer):
    z_mm = serializers.FloatField(min_value=0, max_value=5000)


class HereSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    value = serializers.JSONField(allow_null=True)
    base = serializers.JSONField(allow_null=True)
    kind = serializers.ChoiceField(choices=["band", "region"])
    by = serializers.CharField()


class PlanHere(APIView):
    @extend_schema(
        operation_id="plan_here", request=HereAskSerializer, responses=HereSerializer(many=True)
    )
    def post(self, request: Request, pk: int) -> Response:
        """What differs from the whole part at a height, and which band or region it is from."""
        plan = plan_of(request, pk)
        values = asked(HereAskSerializer, request)
        spec = spec_asked(request, plan, values)
        return Response(places.differs(plan, spec, values["z_mm"]))


class WriteBackSerializer(serializers.Serializer[Any]):
    name = serializers.ChoiceField(choices=list(WRITTEN))
    value = serializers.FloatField()
    to = serializers.ChoiceField(choices=["material", "spool"])


class PlanWriteBack(APIView):
    @extend_schema(
        operation_id="plan_write_back", request=WriteBackSerializer, responses=PlanSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep the value a test found best with the plan's material, or with its spool alone; plans
        made later start from it.
        """
        plan, values = plan_of(request, pk), asked(WriteBackSerializer, request)
        latest, figure = plan.latest, WRITTEN[values["name"]]
        holder = latest.spool if values["to"] == "spool" else latest.material
        if holder is None:
            raise InputError("this plan has no spool; choose one, or write to the material", "to")
        with transaction.atomic():
            holder = type(holder).objects.select_for_update(no_key=True).get(pk=holder.pk)
            figures = {**holder.figures, figure: values["value"]}
            spec_from({"material": figures, "machine": {"hottest_nozzle": 600, "hottest_bed": 300}})
            holder.figures = figures
            holder.save(update_fields=["figures"])
        return Response(PlanSerializer(plan).data)
