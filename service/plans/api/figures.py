"""Figures of settings that are not kept."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.figures import QuickReport
from service.accounts.api.auth import workshop_of
from service.parts.models import Part
from service.plans.api.asking import asked, choices_of, plan_of, recipe_of, spec_asked
from service.plans.api.serializers import (
    AheadAskSerializer,
    AheadSerializer,
    FrontierAskSerializer,
    FrontierSerializer,
    PlanChangeSerializer,
    TriedSerializer,
)
from service.plans.rules import figures, versions
from service.plans.rules.resolving import resolve


class PlanQuick(APIView):
    @extend_schema(operation_id="plan_quick", request=PlanChangeSerializer, responses=QuickReport)
    def post(self, request: Request, pk: int) -> Response:
        """The ≈ figures of changed settings, answered at once; nothing is kept."""
        plan = plan_of(request, pk)
        values = asked(PlanChangeSerializer, request)
        return Response(figures.quick_figures(plan, spec_asked(request, plan, values)))


class PlanAhead(APIView):
    @extend_schema(operation_id="plan_ahead", request=AheadAskSerializer, responses=AheadSerializer)
    def post(self, request: Request) -> Response:
        """The ≈ figures of a plan that is not made yet."""
        values = asked(AheadAskSerializer, request)
        part = get_object_or_404(Part, pk=values["part"], workshop=workshop_of(request))
        nozzle, material, spool = choices_of(request, values, None)
        given = versions.kept_in(part)["settings"] if values["from_file"] else None
        settings = versions.first_settings(
            nozzle, material, given or values.get("settings"), recipe_of(request, values)
        )
        spec = resolve(settings, nozzle, material, spool)
        found = figures.figures_ahead(part, spec, values["whole"])
        return Response(AheadSerializer(found).data)


class PlanFrontier(APIView):
    @extend_schema(
        operation_id="plan_frontier", request=FrontierAskSerializer, responses=FrontierSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """The trade-off of the plan's part under these settings: least time for every surface
        error, beside the even stacks.
        """
        plan = plan_of(request, pk)
        values = asked(FrontierAskSerializer, request)
        spec = spec_asked(request, plan, values)
        return Response(figures.frontier_points(plan, spec, values["measure"], values["points"]))


class PlanTry(APIView):
    @extend_schema(operation_id="plan_try", request=PlanChangeSerializer, responses=TriedSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Exact figures of changed settings, for a table of trials; nothing is kept."""
        plan = plan_of(request, pk)
        return Response(
            figures.try_out(plan, spec_asked(request, plan, asked(PlanChangeSerializer, request)))
        )
