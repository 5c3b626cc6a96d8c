"""Machines and their nozzles over the API."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction
from django.db.models import ProtectedError
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import OpenApiParameter, extend_schema, extend_schema_field
from pydantic import ValidationError
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView
from typing_extensions import TypedDict

from northpace.checks.suited import suits
from northpace.errors import InputError
from northpace.gcode.template import FIELDS
from northpace.spec import Machine as MachineSpec
from northpace.spec import Material as MaterialSpec
from northpace.spec.widths import tallest_layer
from service.accounts.api.auth import workshop_of
from service.config.typed import FiguresField
from service.workshop.models import Machine, Material, Nozzle, Workshop, material_spec
from service.workshop.rules.drawn import Moving, Plate, head_drawn, plate_drawn
from service.workshop.rules.machines import check_figures
from service.workshop.rules.materials import ends_follow
from service.workshop.rules.printers import CONNECTIONS, check_connection
from service.workshop.rules.reach import check_free


class NozzleSerializer(serializers.ModelSerializer[Nozzle]):
    usual_greatest = serializers.SerializerMethodField()

    class Meta:
        model = Nozzle
        fields = ["id", "bore", "flow", "least_height", "greatest_height", "usual_greatest", "hard"]
        extra_kwargs = {
            "bore": {"min_value": 0.1, "max_value": 3},
            "flow": {"min_value": 0.1, "max_value": 500},
            "least_height": {"min_value": 0.01, "max_value": 2},
            "greatest_height": {"min_value": 0.01, "max_value": 2},
        }

    def get_usual_greatest(self, nozzle: Nozzle) -> float:
        """The tallest layer (mm) of the bore, where none is stated."""
        return round(tallest_layer(nozzle.bore), 3)

    def validate(self, values: dict[str, Any]) -> dict[str, Any]:
        def own(name: str) -> Any:
            return values.get(name, getattr(self.instance, name, None))

        least, greatest = own("least_height"), own("greatest_height")
        most = tallest_layer(own("bore")) if greatest is None else greatest
        if least > most:
            raise InputError(
                f"its least layer of {least:g} mm is above its greatest, {most:g} mm", "nozzle"
            )
        return values


class LearntSerializer(serializers.Serializer[Any]):
    """What finished jobs told: share of the accelerations that is reached, seconds a layer, how far
    off jobs still are and were before.
    """

    factor = serializers.FloatField()
    layer_s = serializers.FloatField()
    spread = serializers.FloatField()
    before = serializers.FloatField()
    jobs = serializers.IntegerField()


class ConnectionSerializer(serializers.Serializer[Any]):
    """How jobs get to a machine: as ``printer`` with its address, as ``folder``, or ``none``."""

    kind = serializers.ChoiceField(choices=CONNECTIONS, default="none")
    address = serializers.CharField(required=False, allow_blank=True, max_length=200)
    folder = serializers.CharField(required=False, allow_blank=True, max_length=400)


class Drawn(TypedDict):
    """A machine from above."""

    plate: Plate
    head: list[Moving]


class MachineSerializer(serializers.ModelSerializer[Machine]):
    learnt = LearntSerializer(read_only=True, allow_null=True)
    nozzles = NozzleSerializer(many=True, read_only=True)
    figures = serializers.DictField(required=False)
    connection = ConnectionSerializer(required=False)
    drawn = serializers.SerializerMethodField()

    class Meta:
        model = Machine
        fields = [
            "id",
            "name",
            "figures",
            "learnt",
            "learnt_off",
            "nozzles",
            "connection",
            "bed_change_min",
            "spool_change_min",
            "clears_itself",
            "held",
            "loaded",
            "loaded_since",
            "fitted",
            "drawn",
        ]
        read_only_fields = ["learnt_off", "loaded", "loaded_since", "fitted"]
        extra_kwargs = {
            "bed_change_min": {"min_value": 0, "max_value": 1440},
            "spool_change_min": {"min_value": 0, "max_value": 1440},
        }

    @extend_schema_field(FiguresField(Drawn, allow_null=True))
    def get_drawn(self, machine: Machine) -> Drawn | None:
        """Its plate and head as they are drawn; none where an older program kept figures that are
        no longer allowed.
        """
        try:
            spec = MachineSpec(**machine.figures)
        except ValidationError:
            return None
        return {"plate": plate_drawn(spec), "head": head_drawn(spec)}

    def validate(self, values: dict[str, Any]) -> dict[str, Any]:
        for name in ("loaded", "fitted"):
            if name in self.initial_data:
                raise serializers.ValidationError(
                    {name: "what hangs on a machine or is fitted is said to machines/…/hung-up"}
                )
        return values

    def validate_figures(self, value: dict[str, Any]) -> dict[str, Any]:
        return check_figures(with_figures(self.instance, value))

    def validate_connection(self, value: dict[str, Any]) -> dict[str, Any]:
        connection = check_connection(dict(value))
        check_free(self.instance if isinstance(self.instance, Machine) else None, connection)
        return connection


class MachineMakeSerializer(MachineSerializer):
    bore = serializers.FloatField(min_value=0.1, max_value=3, write_only=True, default=0.4)
    flow = serializers.FloatField(min_value=0.1, max_value=500, write_only=True, default=20.0)

    class Meta(MachineSerializer.Meta):
        fields = [*MachineSerializer.Meta.fields, "bore", "flow"]


def name_once(act: Any, what: str, name: str) -> Any:
    """Run ``act`` and say in words when the name is taken."""
    try:
        with transaction.atomic():
            return act()
    except IntegrityError as error:
        raise InputError(f"there is {what} '{name}' already; take another name", "name") from error


def with_figures(instance: Machine | Material | None, changes: dict[str, Any]) -> dict[str, Any]:
    """Figures with those that a request names changed, and left to their defaults where it says
    ``null``: whoever corrects one does not put the others back to what they had read.
    """
    kept = instance.figures if instance is not None else {}
    return {key: value for key, value in {**kept, **changes}.items() if value is not None}


class InWorkshop(APIView):
    """Views whose serializers know the workshop."""

    def context(self, request: Request) -> dict[str, Any]:
        return {"request": request, "workshop": workshop_of(request)}

    def filled(
        self, form: type[serializers.Serializer[Any]], request: Request, instance: Any = None
    ) -> Any:
        found = form(
            instance, data=request.data, partial=instance is not None, context=self.context(request)
        )
        found.is_valid(raise_exception=True)
        return found

    def changed(
        self, form: type[serializers.Serializer[Any]], request: Request, rows: Any, what: str = ""
    ) -> Any:
        """The one row of ``rows`` with what the request changes. It is held from being read to
        being kept, so that of two changes at once neither is lost.
        """
        with transaction.atomic():
            found = get_object_or_404(rows.select_for_update(no_key=True, of=("self",)))
            filled = self.filled(form, request, found)
            if not what:
                return filled.save()
            return name_once(filled.save, what, filled.validated_data.get("name", str(found)))


class MachineList(InWorkshop):
    @extend_schema(operation_id="machines_list", responses=MachineSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Machines with their nozzles."""
        found = Machine.objects.filter(workshop=workshop_of(request)).prefetch_related("nozzles")
        return Response(MachineSerializer(found, many=True, context=self.context(request)).data)

    @extend_schema(
        operation_id="machines_create",
        request=MachineMakeSerializer,
        responses={201: MachineSerializer},
    )
    def post(self, request: Request) -> Response:
        """A new machine with its first nozzle."""
        form = self.filled(MachineMakeSerializer, request)
        bore, flow = form.validated_data.pop("bore"), form.validated_data.pop("flow")
        machine = name_once(
            lambda: form.save(workshop=workshop_of(request)),
            "a machine",
            form.validated_data["name"],
        )
        Nozzle.objects.create(
            machine=machine, bore=bore, flow=flow, least_height=round(0.2 * bore, 2)
        )
        return Response(
            MachineSerializer(machine, context=self.context(request)).data,
            status=status.HTTP_201_CREATED,
        )


class MachineDetail(InWorkshop):
    def _machine(self, request: Request, pk: int) -> Machine:
        return get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))

    @extend_schema(operation_id="machine_show", responses=MachineSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """One machine."""
        return Response(
            MachineSerializer(self._machine(request, pk), context=self.context(request)).data
        )

    @extend_schema(
        operation_id="machine_change", request=MachineSerializer, responses=MachineSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Correct a machine. Plans keep the machine as it was when they were computed, until they
        are changed.
        """
        workshop = workshop_of(request)
        rows = Machine.objects.filter(pk=pk, workshop=workshop)
        with transaction.atomic():
            before = get_object_or_404(rows.select_for_update(no_key=True)).name
            saved = self.changed(MachineSerializer, request, rows, "a machine")
            if saved.name != before:
                ends_follow(workshop, before, saved.name)
        return Response(MachineSerializer(saved, context=self.context(request)).data)

    @extend_schema(operation_id="machine_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a machine that nothing was planned for."""
        return removed(self._machine(request, pk))


def removed(found: Any) -> Response:
    """Remove a row, or say what still needs it."""
    name = str(found)
    try:
        found.delete()
    except ProtectedError:
        return Response(
            {
                "detail": f"{name} is used by plans or jobs; it stays so that they can be traced",
                "where": name,
            },
            status=status.HTTP_409_CONFLICT,
        )
    return Response(status=status.HTTP_204_NO_CONTENT)


class NozzleList(InWorkshop):
    @extend_schema(
        operation_id="nozzles_create", request=NozzleSerializer, responses={201: NozzleSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """One more nozzle for a machine."""
        machine = get_object_or_404(Machine, pk=pk, workshop=workshop_of(request))
        nozzle = self.filled(NozzleSerializer, request).save(machine=machine)
        return Response(NozzleSerializer(nozzle).data, status=status.HTTP_201_CREATED)


class NozzleDetail(InWorkshop):
    def _nozzle(self, request: Request, pk: int) -> Nozzle:
        return get_object_or_404(Nozzle, pk=pk, machine__workshop=workshop_of(request))

    @extend_schema(
        operation_id="nozzle_change", request=NozzleSerializer, responses=NozzleSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Correct a nozzle."""
        rows = Nozzle.objects.filter(pk=pk, machine__workshop=workshop_of(request))
        return Response(NozzleSerializer(self.changed(NozzleSerializer, request, rows)).data)

    @extend_schema(operation_id="nozzle_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a nozzle that nothing was planned for; a machine keeps at least one."""
        nozzle = self._nozzle(request, pk)
        if nozzle.machine.nozzles.count() == 1:
            raise InputError(f"{nozzle.machine} has no other nozzle", "nozzle")
        return removed(nozzle)


class FitSerializer(serializers.Serializer[Any]):
    severity = serializers.ChoiceField(choices=["stop", "look", "note"])
    message = serializers.CharField()
    help = serializers.CharField(allow_blank=True)


class Fits(APIView):
    @extend_schema(
        operation_id="fits",
        parameters=[
            OpenApiParameter("nozzle", int, required=True),
            OpenApiParameter("material", int, required=True),
        ],
        responses=FitSerializer(many=True),
    )
    def get(self, request: Request) -> Response:
        """What does not suit between a machine with a nozzle and a material, before anything is
        planned.
        """
        workshop: Workshop = workshop_of(request)
        try:
            keys = {name: int(request.query_params[name]) for name in ("nozzle", "material")}
        except (KeyError, ValueError) as error:
            raise InputError(
                "nozzle and material are asked for by their numbers", "fits"
            ) from error
        nozzle = get_object_or_404(Nozzle, pk=keys["nozzle"], machine__workshop=workshop)
        material = get_object_or_404(Material, pk=keys["material"], workshop=workshop)
        found = suits(MachineSpec(**nozzle.spec()), MaterialSpec(**material_spec(material, None)))
        return Response(
            FitSerializer(
                [
                    {"severity": entry.severity, "message": entry.message, "help": entry.help}
                    for entry in found
                ],
                many=True,
            ).data
        )


class TemplateFieldsView(APIView):
    @extend_schema(
        operation_id="template_fields",
        responses={200: {"type": "object", "additionalProperties": {"type": "string"}}},
    )
    def get(self, request: Request) -> Response:
        """Fields that start and end G-code may use, with what they stand for."""
        return Response(FIELDS)
