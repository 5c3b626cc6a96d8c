"""How far spools reach for a plan, and what would make one more fit."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

import numpy as np
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.material.amounts import parts_per_spool
from northpace.material.spools import reach
from northpace.spec import spec_from
from service.core import pipeline
from service.files import fetch
from service.plans import rules
from service.plans.views import asked, plan_of
from service.workshop.models import Spool
from service.workshop.spools import reserved


class ReachAskSerializer(serializers.Serializer[Any]):
    spools = serializers.ListField(child=serializers.IntegerField(), max_length=50, help_text="one after the other")
    copies = serializers.IntegerField(min_value=1, max_value=10000)
    start = serializers.DateTimeField(required=False, help_text="of the first copy; now when left out")


class RunsOutSerializer(serializers.Serializer[Any]):
    """Where a spool ends: of which copy in which layer and at what height, and when by the clock."""

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
    """What spools come to for a plan; ``lighter_g``: how much lighter each must get for one more on the first spool, with ways to it."""

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
        """How many copies some spools give, where each runs out, and what would make one more fit."""
        plan, values = plan_of(request, pk), asked(ReachAskSerializer, request)
        version = rules.last_exact(plan)
        if version is None or version.report is None:
            raise InputError("the exact figures are not computed yet", str(plan))
        known = {spool.pk: spool for spool in Spool.objects.filter(pk__in=values["spools"], material__workshop=plan.workshop)}
        spools = [known[key] for key in values["spools"] if key in known]
        if not spools:
            raise InputError("choose at least one spool", "spools")
        if any(spool.material_id != version.material_id for spool in spools):
            raise InputError(f"the plan is in {version.material}; spools of another material do not go with it", "spools")
        report, machine = version.report, version.nozzle.machine
        layers, begin = report["layers"], values.get("start") or timezone.now()
        free = [max(spool.usable_mass - reserved(spool), 0.0) for spool in spools]
        found = reach(np.array(layers["mass_g"]), np.array(layers["seconds"]), float(report["time_s"]["by_feature"].get("start", 0.0)), free, values["copies"],
                      60 * machine.bed_change_min)
        share = parts_per_spool(sum(free), float(report["filament"]["mass_g"]))
        ways = pipeline().lighter(fetch(plan.part.file_key), plan.part.filename, spec_from(version.spec), np.array(layers["heights_mm"]),
                                  share.lighter_for_one_more_g, rules.correction_for(plan, spec_from(version.spec)))
        return Response(ReachSerializer({
            "copies": share.parts, "left_over_g": share.left_over_g, "missing_g": found.missing_g, "free_g": sum(free),
            "end": begin + timedelta(seconds=found.seconds), "one_more": share.parts + 1, "lighter_g": share.lighter_for_one_more_g,
            "ways": [way.as_dict() for way in ways], "runs_out": [
                {"label": spools[end.spool].label, "copy": end.copy, "layer": end.layer, "z_mm": layers["tops_mm"][end.layer - 1],
                 "at": begin + timedelta(seconds=end.seconds)} for end in found.runs_out]}).data)
