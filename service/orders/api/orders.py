"""Orders over the API."""

from __future__ import annotations

from typing import Any

from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.orders.api.serializers import (
    ImportAskSerializer,
    ImportedSerializer,
    OrderAskSerializer,
    OrderCloseSerializer,
    OrderPromiseSerializer,
    OrderQuoteSerializer,
    OrderSerializer,
)
from service.orders.api.shown import orders_shown
from service.orders.models import Order
from service.orders.rules import importing, quoting, taking
from service.orders.rules.shop import shop_of
from service.parts.models import Part
from service.plans.api.asking import asked
from service.plans.models import Plan
from service.workshop.models import Workshop

#: Closed orders that are listed, the newest.
MOST_CLOSED = 100


def order_of(request: Request, pk: int) -> Order:
    return get_object_or_404(
        Order.objects.select_related("workshop"), pk=pk, workshop=workshop_of(request)
    )


def _shown(order: Order, code: int = status.HTTP_200_OK) -> Response:
    """One order as it stands."""
    (shown,) = orders_shown(shop_of(order.workshop, timezone.now(), only=[order]))
    return Response(shown, status=code)


class OrderList(APIView):
    @extend_schema(
        operation_id="orders_list",
        parameters=[OpenApiParameter("closed", bool, description="closed ones instead")],
        responses=OrderSerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        """Open orders, or those closed last."""
        workshop, now = workshop_of(request), timezone.now()
        if request.query_params.get("closed") not in ("true", "1"):
            return Response(orders_shown(shop_of(workshop, now)))
        closed = Order.objects.filter(workshop=workshop).exclude(closed="")
        return Response(orders_shown(shop_of(workshop, now, closed[:MOST_CLOSED])))

    @extend_schema(
        operation_id="orders_create", request=OrderAskSerializer, responses={201: OrderSerializer}
    )
    def post(self, request: Request) -> Response:
        """Take an order."""
        values = asked(OrderAskSerializer, request)
        lines = _lines(workshop_of(request), values.pop("lines", []))
        order = taking.take(workshop_of(request), lines, **values)
        return _shown(order, status.HTTP_201_CREATED)


def _lines(workshop: Workshop, rows: list[dict[str, Any]]) -> list[taking.LineWish]:
    """The lines asked for, of parts and plans of this workshop."""
    parts = Part.objects.filter(workshop=workshop).defer("picture")
    parts_by_key = parts.in_bulk([row["part"] for row in rows])
    plans = Plan.objects.filter(workshop=workshop)
    plans_by_key = plans.in_bulk([key for row in rows for key in row.get("plans", [])])
    out = []
    for row in rows:
        if row["part"] not in parts_by_key:
            raise InputError(f"there is no part {row['part']}", "part")
        missing = [key for key in row.get("plans", []) if key not in plans_by_key]
        if missing:
            raise InputError(f"there is no plan {missing[0]}", "plans")
        chosen = [plans_by_key[key] for key in dict.fromkeys(row.get("plans", []))]
        out.append(taking.LineWish(parts_by_key[row["part"]], row["pieces"], chosen))
    return out


class OrderDetail(APIView):
    @extend_schema(operation_id="order_show", responses=OrderSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """An order, open or closed."""
        return _shown(order_of(request, pk))

    @extend_schema(
        operation_id="order_change", request=OrderAskSerializer, responses=OrderSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Change an open order. What is not mentioned stays; lines are replaced all together."""
        order, values = order_of(request, pk), asked(OrderAskSerializer, request)
        rows = values.pop("lines", None)
        lines = None if rows is None else _lines(order.workshop, rows)
        return _shown(taking.change(order, lines, **values))

    @extend_schema(operation_id="order_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove an order that no bed was made for; another one is closed."""
        taking.remove(order_of(request, pk))
        return Response(status=status.HTTP_204_NO_CONTENT)


class OrderClose(APIView):
    @extend_schema(
        operation_id="order_close", request=OrderCloseSerializer, responses=OrderSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Close an order as delivered or cancelled, or open it again."""
        order, how = order_of(request, pk), asked(OrderCloseSerializer, request)["how"]
        return _shown(taking.reopen(order) if how == "open" else taking.close(order, how))


class OrderPrice(APIView):
    @extend_schema(operation_id="order_quote", responses=OrderQuoteSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """What an order costs as things are now, amount by amount."""
        return Response(quoting.as_dict(quoting.quote_for(order_of(request, pk))))


class OrderPromise(APIView):
    @extend_schema(
        operation_id="order_promise", request=OrderPromiseSerializer, responses=OrderSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep what the customer is promised: the present price, and a time."""
        order = order_of(request, pk)
        return _shown(quoting.promise(order, asked(OrderPromiseSerializer, request)["promised"]))


class OrderImport(APIView):
    @extend_schema(
        operation_id="orders_import", request=ImportAskSerializer, responses=ImportedSerializer
    )
    def post(self, request: Request) -> Response:
        """Take orders from a table, and say what is wrong with the rows of the others."""
        table = asked(ImportAskSerializer, request)["table"]
        found = importing.read_in(workshop_of(request), table)
        return Response(
            {
                "orders": [order.pk for order in found.orders],
                "wrong": [{"row": one.row, "words": one.words} for one in found.wrong],
            }
        )
