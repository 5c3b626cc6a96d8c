"""Machines at work."""

from __future__ import annotations

from drf_spectacular.utils import extend_schema
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from service.jobs.api.asking import machine_of
from service.jobs.rules import orders, outcomes
from service.workshop.api.machines import MachineSerializer


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


class MachineClear(APIView):
    @extend_schema(operation_id="machine_clear", request=None, responses=MachineSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """The bed is clear; the next job may start."""
        return Response(MachineSerializer(orders.clear_bed(machine_of(request, pk))).data)
