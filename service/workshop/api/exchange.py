"""The workshop as one file, over the API."""

from __future__ import annotations

from typing import Any

from django.http import HttpResponse
from drf_spectacular.utils import extend_schema
from rest_framework import serializers
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from northpace.export import exports
from service.accounts.api.auth import workshop_of
from service.files import download
from service.workshop.rules.exchange import WorkshopFile, export, take_in


class DoneSerializer(serializers.Serializer[Any]):
    done = serializers.ListField(child=serializers.CharField())


class WorkshopExport(APIView):
    @extend_schema(operation_id="workshop_export", responses={200: {"type": "object"}})
    def get(self, request: Request) -> HttpResponse:
        """Machines, materials and spools as a JSON file."""
        way = next(iter(exports("workshop").values()))
        data = way.write(export(workshop_of(request)))
        return download(data, f"workshop.{way.suffix}", way.media_type)


class WorkshopImport(APIView):
    @extend_schema(
        operation_id="workshop_import",
        request={"application/json": {"type": "object"}},
        responses=DoneSerializer,
    )
    def post(self, request: Request) -> Response:
        """Take a workshop file in: known names are changed, new ones added, all of it or
        nothing.
        """
        return Response({"done": take_in(workshop_of(request), request.data)})


class WorkshopSchema(APIView):
    @extend_schema(operation_id="workshop_schema", responses={200: {"type": "object"}})
    def get(self, request: Request) -> Response:
        """The JSON schema of a workshop file."""
        return Response(WorkshopFile.model_json_schema())
