"""Deadlines over the API."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.jobs.rules import deadlines
from service.plans.api.asking import asked, plan_of


class DeadlineAskSerializer(serializers.Serializer[Any]):
    until = serializers.DateTimeField()
    copies = serializers.IntegerField(min_value=1, max_value=500, default=1)
    start = serializers.DateTimeField(
        required=False, help_text="not before this; now when left out"
    )


class MachineAnswerSerializer(serializers.Serializer[Any]):
    """What one machine can do by then: from when on it is free, minutes there are for each copy,
    the change that fits, and when all are done.
    """

    machine = serializers.CharField()
    nozzle = serializers.IntegerField()
    free_at = serializers.DateTimeField()
    minutes_each = serializers.FloatField()
    fits = serializers.BooleanField()
    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())
    time_s = serializers.FloatField(allow_null=True)
    p95_um = serializers.FloatField(allow_null=True)
    done_at = serializers.DateTimeField(allow_null=True)
    give_s = serializers.FloatField()
    most = serializers.IntegerField(help_text="copies that fit with the fastest layers")


class TurnSerializer(serializers.Serializer[Any]):
    """What one of several machines does."""

    machine = serializers.CharField()
    nozzle = serializers.IntegerField()
    copies = serializers.IntegerField()
    words = serializers.CharField()
    change = serializers.DictField(child=serializers.JSONField())
    time_s = serializers.FloatField()
    p95_um = serializers.FloatField()
    done_at = serializers.DateTimeField()
    give_s = serializers.FloatField()


class PlatesSerializer(serializers.Serializer[Any]):
    """All copies on plates that hold several, laid together, the plan as it is."""

    machine = serializers.CharField()
    holds = serializers.IntegerField(
        help_text="copies on one plate, as far as so many were asked for"
    )
    plates = serializers.IntegerField()
    time_s = serializers.FloatField(help_text="with the bed changes between")
    done_at = serializers.DateTimeField()
    give_s = serializers.FloatField()
    fits = serializers.BooleanField()
    exact = serializers.BooleanField(help_text="whether the plates were laid to know their time")
    saved_s = serializers.FloatField(help_text="against one copy after the other")
    words = serializers.CharField()


class DeadlineSerializer(serializers.Serializer[Any]):
    """The answer: what each machine can do alone, best first; how several would share the copies;
    what would be needed where nothing fits; pieces a day at the present plan's pace.
    """

    fits = serializers.BooleanField()
    sentence = serializers.CharField()
    spool = serializers.CharField(allow_blank=True)
    simulated = serializers.CharField(
        allow_blank=True,
        help_text="which machines are simulated and how fast, for clock times that would surprise",
    )
    plates = PlatesSerializer(allow_null=True)
    machines = MachineAnswerSerializer(many=True)
    shared = TurnSerializer(many=True)
    needed = serializers.ListField(child=serializers.CharField())
    pieces_a_day = serializers.FloatField()
    run_done_at = serializers.DateTimeField()


class PlanDeadline(APIView):
    @extend_schema(
        operation_id="plan_deadline", request=DeadlineAskSerializer, responses=DeadlineSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """How to have so many copies by a time, heat-up, bed changes, spool and the estimate's
        range included; or what would be needed.
        """
        values = asked(DeadlineAskSerializer, request)
        return Response(
            DeadlineSerializer(
                deadlines.answer(
                    plan_of(request, pk), values["until"], values["copies"], values.get("start")
                )
            ).data
        )
