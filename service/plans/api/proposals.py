"""Proposed changes of a plan over the API."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.proposals.held import GIVE
from northpace.proposals.options import FAMILIES
from northpace.proposals.standing import FAMILY as STANDING
from service.accounts.api.auth import workshop_of
from service.plans.api.asking import asked, plan_of
from service.plans.models import Search
from service.plans.rules.searches import begin


class HeldAskSerializer(serializers.Serializer[Any]):
    """What stays: the share (%) by which thickness, surface and stiffness may fall short of now; or
    limits of one's own where they are given.
    """

    give = serializers.FloatField(min_value=0, max_value=50, default=100 * GIVE)
    wall_mm = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=100)
    top_mm = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=100)
    bottom_mm = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=100)
    p95_um = serializers.FloatField(required=False, allow_null=True, min_value=1, max_value=5000)
    stiffness = serializers.FloatField(required=False, allow_null=True, min_value=0, max_value=1)
    mass_g = serializers.FloatField(
        required=False, allow_null=True, min_value=0.01, max_value=100000
    )
    cost = serializers.FloatField(
        required=False, allow_null=True, min_value=0.001, max_value=100000
    )
    keep = serializers.ListField(
        child=serializers.CharField(max_length=60), max_length=200, default=list
    )
    families = serializers.ListField(
        child=serializers.ChoiceField(choices=[*FAMILIES, STANDING, "nozzle"]),
        max_length=20,
        default=list,
    )


class TotalsSerializer(serializers.Serializer[Any]):
    time_s = serializers.FloatField()
    mass_g = serializers.FloatField()
    cost = serializers.FloatField()
    p95_um = serializers.FloatField()
    stiffness = serializers.FloatField()
    wall_mm = serializers.FloatField()
    flow_floor = serializers.FloatField()


class ProposalSerializer(serializers.Serializer[Any]):
    """A change with its exact effect, and the plan's totals after it."""

    family = serializers.CharField()
    words = serializers.CharField()
    sentence = serializers.CharField()
    gives_up = serializers.CharField(allow_blank=True)
    change = serializers.DictField(child=serializers.JSONField())
    seconds = serializers.FloatField()
    grams = serializers.FloatField()
    cost = serializers.FloatField()
    p95_um = serializers.FloatField()
    stiffness = serializers.FloatField()
    after = TotalsSerializer()
    brings = serializers.ListField(child=serializers.CharField())


class HeldSerializer(serializers.Serializer[Any]):
    wall_mm = serializers.FloatField()
    top_mm = serializers.FloatField()
    bottom_mm = serializers.FloatField()
    p95_um = serializers.FloatField()
    stiffness = serializers.FloatField()
    mass_g = serializers.FloatField(allow_null=True)
    cost = serializers.FloatField(allow_null=True)
    keep = serializers.ListField(child=serializers.CharField())
    families = serializers.ListField(child=serializers.CharField())


class ProposedSerializer(serializers.Serializer[Any]):
    before = TotalsSerializer()
    held = HeldSerializer()
    singles = ProposalSerializer(many=True)
    chain = ProposalSerializer(many=True)
    ranked = serializers.IntegerField()
    ranked_s = serializers.FloatField()
    elapsed_s = serializers.FloatField()
    rest = serializers.CharField()
    refused = serializers.ListField(child=serializers.CharField())


class SearchSerializer(serializers.ModelSerializer[Search]):
    result = ProposedSerializer(allow_null=True)

    class Meta:
        model = Search
        fields = [
            "id",
            "plan",
            "version",
            "state",
            "stage",
            "share",
            "message",
            "result",
            "created",
        ]
        read_only_fields = fields


class PlanProposals(APIView):
    @extend_schema(
        operation_id="plan_propose", request=HeldAskSerializer, responses={201: SearchSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """Search for what would make the plan quicker within what is held; the answer comes in the
        queue.
        """
        search = begin(plan_of(request, pk), asked(HeldAskSerializer, request))
        return Response(SearchSerializer(search).data, status=status.HTTP_201_CREATED)

    @extend_schema(operation_id="plan_proposals", responses=SearchSerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        """The searches of a plan, newest first."""
        return Response(SearchSerializer(plan_of(request, pk).searches.all()[:5], many=True).data)


class SearchDetail(APIView):
    def _search(self, request: Request, pk: int) -> Search:
        return get_object_or_404(Search, pk=pk, plan__workshop=workshop_of(request))

    @extend_schema(operation_id="search_show", responses=SearchSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """State, progress and answer of a search."""
        return Response(SearchSerializer(self._search(request, pk)).data)

    @extend_schema(operation_id="search_cancel", responses={200: SearchSerializer})
    def delete(self, request: Request, pk: int) -> Response:
        """Stop a search."""
        search = self._search(request, pk)
        Search.objects.filter(pk=search.pk, state__in=Search.OPEN).update(
            state=Search.State.CANCELLED
        )
        search.refresh_from_db()
        return Response(SearchSerializer(search).data)
