"""Everything of a workshop, over the API."""

from __future__ import annotations

import tempfile

from django.http import FileResponse
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.answers import files
from service.orders.rules.archive import write_archive


class WorkshopArchive(APIView):
    @extend_schema(
        operation_id="workshop_archive",
        responses=files("application/zip"),
    )
    def get(self, request: Request) -> FileResponse:
        """Parts, plans, orders, jobs and spools in one archive, to be read without this program."""
        written = tempfile.TemporaryFile()  # noqa: SIM115 - the answer closes it
        write_archive(workshop_of(request), written)
        written.seek(0)
        return FileResponse(written, as_attachment=True, filename="workshop.zip")
