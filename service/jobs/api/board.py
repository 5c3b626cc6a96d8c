"""The board: machines, what is on them and waits for them, with clock times."""

from __future__ import annotations

from typing import Any

from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.jobs.api.asking import listed
from service.jobs.api.serializers import BoardSerializer, JobSerializer
from service.jobs.models import Job
from service.jobs.rules.evening import change_of, fewer_changes, unattended
from service.jobs.rules.schedule import open_jobs, schedule
from service.workshop.models import Machine, Workshop
from service.workshop.rules.house import presence_of

#: Ended jobs shown on the board.
ENDED = 60


def board(workshop: Workshop) -> dict[str, Any]:
    """Everything the board shows, from what was last heard."""
    now = timezone.now()
    rows, presence = [], presence_of(workshop, now)
    machines = Machine.objects.filter(workshop=workshop)
    for machine in machines.select_related("loaded__material", "loaded_by__member", "fitted"):
        jobs, contact = open_jobs(machine), machine.contact
        slots = schedule(machine, jobs, now, presence)
        rows.append(
            {
                "id": machine.pk,
                "name": machine.name,
                "kind": machine.connection.get("kind", "none"),
                "state": contact.get("state"),
                "seen": contact.get("seen"),
                "lost": contact.get("lost"),
                "error": contact.get("error", ""),
                "trouble": contact.get("trouble", ""),
                "held": machine.held,
                "clears_itself": machine.clears_itself,
                "loaded": f"{machine.loaded.label}, {machine.loaded.material}"
                if machine.loaded
                else "",
                "loaded_since": machine.loaded_since,
                "loaded_by": str(machine.loaded_by.member) if machine.loaded_by else "",
                "change": change_of(machine, jobs),
                "unattended": unattended(machine, jobs),
                "fewer": fewer_changes(machine, jobs),
                "free_at": max([slot.end for slot in slots.values()], default=now),
                "jobs": JobSerializer(jobs, many=True, context={"slots": slots}).data,
            }
        )
    ended = listed(Job.objects.filter(workshop=workshop, state__in=Job.ENDED))
    ended = ended.order_by("-ended", "-number")[:ENDED]
    return {"machines": rows, "ended": JobSerializer(ended, many=True).data, "now": now}


class Board(APIView):
    @extend_schema(operation_id="board", responses=BoardSerializer)
    def get(self, request: Request) -> Response:
        """Machines with what is on them and waits for them, and what ended last."""
        return Response(board(workshop_of(request)))
