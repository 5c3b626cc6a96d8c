"""Lists of a shop with many, over the API."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response

from service.paging import MOST, Ask


class AskSerializer(serializers.Serializer[Any]):
    """What of a list is asked for; each list says by what it can be sorted."""

    search = serializers.CharField(required=False, allow_blank=True, max_length=200)
    down = serializers.BooleanField(required=False)
    offset = serializers.IntegerField(required=False, min_value=0)
    limit = serializers.IntegerField(required=False, min_value=1, max_value=MOST)
    label = serializers.CharField(  # type: ignore[assignment]
        required=False, allow_blank=True, max_length=60
    )


def asked_page(form: type[AskSerializer], request: Request) -> Ask:
    """What the address of a request asks for, checked by its form."""
    # a query's own type takes every field of a form as said: what is absent would be false
    filled = form(data=request.query_params.dict())
    filled.is_valid(raise_exception=True)
    return Ask(**filled.validated_data)


def paged(rows: Any, count: int) -> Response:
    """The answer with a page: a plain list, and the count in a header."""
    return Response(rows, headers={"X-Total": str(count)})


def keys_asked(request: Request, name: str) -> list[int]:
    """Keys that an address lists with commas between, each once, in their order."""
    form = serializers.ListField(child=serializers.IntegerField(), min_length=1, max_length=MOST)
    keys: list[int] = form.run_validation(request.query_params.get(name, "").split(","))
    return list(dict.fromkeys(keys))
