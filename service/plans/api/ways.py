"""Ways up over the API."""

from __future__ import annotations

from typing import Any

from django.http import Http404, HttpResponse
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from northpace.spec.validated import validated
from northpace.ways.figures import RankedWay, WayFigures
from northpace.ways.rank import Weights
from service.accounts.api.auth import workshop_of
from service.answers import SVG, drawing, files
from service.config.typed import FiguresField
from service.plans.api.asking import asked, plan_of
from service.plans.models import WaySearch
from service.plans.rules.ways import begin, in_order


class WayDiffers(WayFigures, RankedWay):
    """A way with its place, the address of its picture, and how it differs from the present one."""

    picture: str
    differs: dict[str, float]


class WaysAskSerializer(serializers.Serializer[Any]):
    pull = serializers.ListField(
        child=serializers.FloatField(min_value=-1e6, max_value=1e6),
        min_length=3,
        max_length=3,
        required=False,
        allow_null=True,
        help_text="a load, as x, y, z in the file",
    )


class WaySearchSerializer(serializers.ModelSerializer[WaySearch]):
    ways = serializers.SerializerMethodField()
    left_out = serializers.SerializerMethodField(
        help_text="how many are left out because they scar a seen face"
    )
    stale = serializers.SerializerMethodField(help_text="whether the plan is another one now")

    class Meta:
        model = WaySearch
        fields = [
            "id",
            "state",
            "share",
            "message",
            "of",
            "pull",
            "ways",
            "left_out",
            "stale",
            "took_s",
        ]
        read_only_fields = fields

    @extend_schema_field(FiguresField(list[WayDiffers]))
    def get_ways(self, search: WaySearch) -> Any:
        ways = in_order(search, self.context["weights"])
        return [
            {**way, "picture": f"/api/way-searches/{search.pk}/{way['way']}.svg"} for way in ways
        ]

    def get_left_out(self, search: WaySearch) -> int:
        return len(search.ways) - len(in_order(search, self.context["weights"]))

    def get_stale(self, search: WaySearch) -> bool:
        return search.version.checksum != search.plan.latest.checksum


def _weights(request: Request) -> Weights:
    values = {
        key: request.query_params[key]
        for key in Weights.model_fields
        if key in request.query_params
    }
    return validated(Weights, values)


class PlanWays(APIView):
    @extend_schema(
        operation_id="plan_ways",
        parameters=[
            OpenApiParameter(name, bool if name == "keep_seen" else float)
            for name in Weights.model_fields
        ],
        responses=WaySearchSerializer(many=True),
    )
    def get(self, request: Request, pk: int) -> Response:
        """The ways that were last looked for, best first by weights; none before they were."""
        found = plan_of(request, pk).way_searches.select_related("version")[:1]
        context = {"weights": _weights(request)}
        return Response(WaySearchSerializer(found, many=True, context=context).data)

    @extend_schema(
        operation_id="plan_find_ways",
        request=WaysAskSerializer,
        responses={201: WaySearchSerializer},
    )
    def post(self, request: Request, pk: int) -> Response:
        """Look for the ways a part may stand; they come in as they are found."""
        pull = asked(WaysAskSerializer, request).get("pull")
        if pull is not None and not any(pull):
            raise InputError("a load needs a direction; 0, 0, 0 has none", "pull")
        search = begin(plan_of(request, pk), pull)
        context = {"weights": _weights(request)}
        return Response(
            WaySearchSerializer(search, context=context).data, status=status.HTTP_201_CREATED
        )

    @extend_schema(operation_id="plan_stop_ways", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Stop looking; what was found stays."""
        open_ = plan_of(request, pk).way_searches.filter(state__in=WaySearch.OPEN)
        open_.update(state=WaySearch.State.CANCELLED)
        return Response(status=status.HTTP_204_NO_CONTENT)


class WayPicture(APIView):
    @extend_schema(operation_id="way_picture", responses=files(SVG))
    def get(self, request: Request, pk: int, way: int) -> HttpResponse:
        """The part as it would stand, hatched where supports touch it."""
        search = get_object_or_404(WaySearch, pk=pk, plan__workshop=workshop_of(request))
        if way >= len(search.ways):
            raise Http404
        return drawing(search.ways[way]["picture"])
