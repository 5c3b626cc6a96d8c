"""Bands that are repeated or merged."""

from __future__ import annotations

from typing import Any

from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.spec import spec_from
from northpace.spec.places.bands import Band, merged, repeated
from service.config.typed import CoreField
from service.plans.api.asking import asked


class RepeatSerializer(serializers.Serializer[Any]):
    """Bands of one height from a height on, a setting going up by a step from one to the next."""

    name = serializers.CharField(allow_blank=True, max_length=40, default="")
    from_mm = serializers.FloatField(min_value=0, max_value=5000)
    every_mm = serializers.FloatField(min_value=0.1, max_value=5000)
    to_mm = serializers.FloatField(min_value=0, max_value=5000)
    setting = serializers.CharField()
    start = serializers.FloatField()
    step = serializers.FloatField()


class BandsSerializer(serializers.Serializer[Any]):
    bands = serializers.ListField(child=CoreField(Band))


class BandsRepeat(APIView):
    @extend_schema(operation_id="bands_repeat", request=RepeatSerializer, responses=BandsSerializer)
    def post(self, request: Request) -> Response:
        """The bands of a test tower, to look at before they are kept."""
        values = asked(RepeatSerializer, request)
        if (values["to_mm"] - values["from_mm"]) / values["every_mm"] > 200:
            raise InputError("that would be more than 200 bands; take a larger stretch", "every_mm")
        found = repeated(
            values["name"],
            values["from_mm"],
            values["every_mm"],
            values["to_mm"],
            values["setting"],
            values["start"],
            values["step"],
        )
        return Response({"bands": [band.model_dump() for band in _plain(list(found))]})


class BandsMerge(APIView):
    @extend_schema(operation_id="bands_merge", request=BandsSerializer, responses=BandsSerializer)
    def post(self, request: Request) -> Response:
        """Bands that overlap as bands that do not: what several share becomes one of its own with
        the changes of all.
        """
        values = asked(BandsSerializer, request)
        apart = [
            spec_from({"surface": {"bands": [band]}}).surface.bands[0] for band in values["bands"]
        ]
        return Response({"bands": [band.model_dump() for band in merged(tuple(apart))]})


def _plain(bands: list[Any]) -> list[Any]:
    """Bands checked one by one against the plain plan: names, bounds, types. What the machine says
    is checked when they are kept.
    """
    for band in bands:
        spec_from(
            {
                "surface": {"bands": [band.model_dump()]},
                "machine": {"hottest_nozzle": 600, "hottest_bed": 300},
            }
        )
    return bands
