"""The state of the service, for owners."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.jobs.rules.state import state_of


class LaneSerializer(serializers.Serializer[Any]):
    lane = serializers.CharField()
    waiting = serializers.IntegerField()
    computing = serializers.IntegerField()


class ContactSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    kind = serializers.CharField()
    seen = serializers.DateTimeField(allow_null=True)
    error = serializers.CharField(allow_blank=True)
    trouble = serializers.CharField(allow_blank=True)


class DiskSerializer(serializers.Serializer[Any]):
    free = serializers.IntegerField()
    total = serializers.IntegerField()


class RoomSerializer(serializers.Serializer[Any]):
    """Bytes of the workshop's files."""

    parts = serializers.IntegerField()
    plans = serializers.IntegerField()
    jobs = serializers.IntegerField()
    photos = serializers.IntegerField()


class BackupSerializer(serializers.Serializer[Any]):
    at = serializers.DateTimeField()
    file = serializers.CharField()
    bytes = serializers.IntegerField()


class SlowSerializer(serializers.Serializer[Any]):
    plan = serializers.IntegerField()
    number = serializers.IntegerField()
    part = serializers.CharField(allow_blank=True)
    seconds = serializers.FloatField()


class StateSerializer(serializers.Serializer[Any]):
    version = serializers.CharField()
    queue = LaneSerializer(many=True)
    last_sign_s = serializers.FloatField(allow_null=True)
    machines = ContactSerializer(many=True)
    disk = DiskSerializer()
    room = RoomSerializer()
    versions = serializers.IntegerField()
    keep_days = serializers.IntegerField()
    backup = BackupSerializer(allow_null=True)
    slowest = SlowSerializer(many=True)


class StateView(APIView):
    @extend_schema(operation_id="state_show", responses=StateSerializer)
    def get(self, request: Request) -> Response:
        """How the service is: queue, workers, machines, room on disk, last backup."""
        return Response(StateSerializer(state_of(workshop_of(request))).data)
