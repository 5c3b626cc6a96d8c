"""The schedule of the workshop over the API."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.computed import Computing
from service.orders.api.serializers import (
    ReleasedSerializer,
    ReleaseSerializer,
    ScheduleSerializer,
    WhatIfAnswerSerializer,
    WhatIfSerializer,
)
from service.orders.api.shown import schedule_shown
from service.orders.models import OrderLine
from service.orders.rules import releasing, searching
from service.orders.rules.shop import shop_of
from service.orders.rules.what_if import Otherwise, what_if
from service.plans.api.asking import asked
from service.plans.models import Plan
from service.workshop.models import Material, Spool, Workshop


def _shown(workshop: Workshop) -> Response:
    shop = shop_of(workshop, timezone.now())
    last = workshop.schedules.first()
    running = last if last and last.state in Computing.OPEN else None
    failed = last.message if last and last.state == Computing.State.FAILED else ""
    return Response(schedule_shown(shop, searching.shown_schedule(shop), running, failed))


class Schedule(APIView):
    @extend_schema(operation_id="schedule_show", responses=ScheduleSerializer)
    def get(self, request: Request) -> Response:
        """What is printed when and where. Looking at it starts nothing."""
        return _shown(workshop_of(request))

    @extend_schema(operation_id="schedule_search", request=None, responses=ScheduleSerializer)
    def post(self, request: Request) -> Response:
        """Search for a better schedule; what is shown stays until one is found."""
        searching.search_again(workshop_of(request))
        return _shown(workshop_of(request))

    @extend_schema(operation_id="schedule_cancel", responses={200: ScheduleSerializer})
    def delete(self, request: Request) -> Response:
        """Stop searching."""
        searching.cancel(workshop_of(request))
        return _shown(workshop_of(request))


class ScheduleRelease(APIView):
    @extend_schema(
        operation_id="schedule_release",
        request=ReleaseSerializer,
        responses={201: ReleasedSerializer},
    )
    def post(self, request: Request) -> Response:
        """Make a bed of the schedule. It is printed only once somebody has committed it."""
        workshop, values = workshop_of(request), asked(ReleaseSerializer, request)
        lines = OrderLine.objects.select_related("order__workshop", "part")
        line = get_object_or_404(lines, pk=values["line"], order__workshop=workshop)
        plan = get_object_or_404(Plan, pk=values["plan"], workshop=workshop)
        spool = None
        if values.get("spool") is not None:
            spool = get_object_or_404(Spool, pk=values["spool"], material__workshop=workshop)
        wish = releasing.BedWish(plan, values["pieces"], spool, values["begin"])
        made = releasing.release(line, wish)
        return Response({"bed": made.bed_id}, status=status.HTTP_201_CREATED)


class ScheduleWhatIf(APIView):
    @extend_schema(
        operation_id="schedule_what_if", request=WhatIfSerializer, responses=WhatIfAnswerSerializer
    )
    def post(self, request: Request) -> Response:
        """When orders would be done with a machine more, longer hours or another spool."""
        workshop, values = workshop_of(request), asked(WhatIfSerializer, request)
        shop, like = shop_of(workshop, timezone.now()), values.get("like")
        material = ""
        if values.get("material") is not None:
            found = get_object_or_404(Material, pk=values["material"], workshop=workshop)
            material = found.name
        asked_for = Otherwise(
            None if like is None else str(like),
            values.get("until"),
            values.get("weekend", False),
            values.get("spool_g", 0.0),
            material,
        )
        rows, words = what_if(shop.problem, asked_for)

        def at(seconds: float | None) -> object:
            return None if seconds is None else shop.now + searching.span(seconds)

        return Response(
            {
                "words": words,
                "orders": [
                    {
                        "order": int(row.order),
                        "now": at(row.now.done_s),
                        "then": at(row.then.done_s),
                        "late_now_s": row.now.late_s,
                        "late_then_s": row.then.late_s,
                    }
                    for row in rows
                ],
            }
        )
