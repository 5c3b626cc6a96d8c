"""Machines at work."""

from __future__ import annotations

from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.accounts.api.auth import workshop_of
from service.jobs.api.asking import asked, machine_of
from service.jobs.api.serializers import HungUpSerializer
from service.jobs.rules import evening, instructions, outcomes
from service.workshop.api.machines import MachineSerializer
from service.workshop.models import Spool


class MachineLearnt(APIView):
    @extend_schema(operation_id="machine_learnt", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """Correct a machine's estimates by its finished jobs."""
        machine = machine_of(request, pk)
        machine.learnt_off = False
        machine.save(update_fields=["learnt_off"])
        outcomes.relearn(machine)
        return Response(MachineSerializer(machine).data)

    @extend_schema(operation_id="machine_learnt_not", responses={200: MachineSerializer})
    def delete(self, request: Request, pk: int) -> Response:
        """Take the correction back: the machine counts as it states itself until it is asked to
        learn again.
        """
        machine = machine_of(request, pk)
        machine.learnt, machine.learnt_off = None, True
        machine.save(update_fields=["learnt", "learnt_off"])
        return Response(MachineSerializer(machine).data)


class MachineHungUp(APIView):
    @extend_schema(
        operation_id="machine_hung_up", request=HungUpSerializer, responses=MachineSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Say which spool hangs on a machine, or which nozzle is fitted. The job that waited for it
        begins.
        """
        machine, said = machine_of(request, pk), asked(HungUpSerializer, request)
        if said.get("spool") is not None:
            mine = Spool.objects.filter(material__workshop=workshop_of(request))
            said["spool"] = get_object_or_404(mine, pk=said["spool"])
        if "nozzle" in said:
            said["nozzle"] = get_object_or_404(machine.nozzles, pk=said["nozzle"])
        return Response(MachineSerializer(instructions.hung_up(machine, said, request.user)).data)


class MachineRegroup(APIView):
    @extend_schema(operation_id="machine_regroup", request=None, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        """Put the waiting jobs of each spool together, so that it is changed less often."""
        evening.regroup(machine_of(request, pk))
        return Response(status=204)


class MachineClear(APIView):
    @extend_schema(operation_id="machine_clear", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """The bed is clear; the next job may start."""
        return Response(MachineSerializer(instructions.clear_bed(machine_of(request, pk))).data)
