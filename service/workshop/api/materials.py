"""Materials and spools over the API, and the ledger of a spool."""

from __future__ import annotations

from typing import Any

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import serializers, status
from rest_framework.request import Request
from rest_framework.response import Response

from northpace.errors import InputError
from service.accounts.api.auth import workshop_of
from service.workshop.api.machines import InWorkshop, name_once, removed, with_figures
from service.workshop.models import Machine, Material, Spool, SpoolEntry
from service.workshop.rules import spools
from service.workshop.rules.materials import ENDS, AtEnd, check_figures, with_end


class SpoolSerializer(serializers.ModelSerializer[Spool]):
    material_name = serializers.CharField(source="material.name", read_only=True)
    reserved = serializers.SerializerMethodField()
    taken = serializers.SerializerMethodField()
    flow = serializers.FloatField(
        min_value=50, max_value=150, required=False, allow_null=True, write_only=True
    )

    class Meta:
        model = Spool
        fields = [
            "id",
            "label",
            "colour",
            "usable_mass",
            "diameter",
            "tare",
            "net",
            "figures",
            "flow",
            "material",
            "material_name",
            "reserved",
            "taken",
        ]
        read_only_fields = ["material"]
        extra_kwargs = {
            "figures": {"read_only": True},
            "usable_mass": {"min_value": 0, "max_value": 100000},
            "diameter": {"min_value": 0.5, "max_value": 5},
            "tare": {"min_value": 0, "max_value": 20000},
            "net": {"min_value": 0, "max_value": 100000},
        }

    def get_reserved(self, spool: Spool) -> float:
        """g that open jobs will take."""
        return spools.reserved(spool)

    def get_taken(self, spool: Spool) -> float:
        """g that jobs took."""
        return spools.taken(spool)

    def create(self, values: dict[str, Any]) -> Spool:
        flow = values.pop("flow", None)
        if flow is not None:
            values["figures"] = {"flow": flow}
        return super().create(values)

    def update(self, spool: Spool, values: dict[str, Any]) -> Spool:
        left, flow = values.pop("usable_mass", None), values.pop("flow", "as it is")
        if flow != "as it is":
            others = {key: value for key, value in spool.figures.items() if key != "flow"}
            values["figures"] = others if flow is None else {**others, "flow": flow}
        spool = super().update(spool, values)
        if left is not None:
            spools.put_right(spool, left, SpoolEntry.Kind.CORRECTED, "put right by hand")
        return spool


class MaterialSerializer(serializers.ModelSerializer[Material]):
    spools = SpoolSerializer(many=True, read_only=True)
    figures = serializers.DictField(required=False)

    class Meta:
        model = Material
        fields = ["id", "name", "figures", "purge_g", "spools"]
        extra_kwargs = {"purge_g": {"min_value": 0, "max_value": 200}}

    def validate_figures(self, value: dict[str, Any]) -> dict[str, Any]:
        return check_figures(with_figures(self.instance, value))


class EntrySerializer(serializers.ModelSerializer[SpoolEntry]):
    job = serializers.IntegerField(source="job.number", default=None, allow_null=True)

    class Meta:
        model = SpoolEntry
        fields = ["id", "kind", "grams", "left_after", "job", "note", "created"]


class MaterialList(InWorkshop):
    @extend_schema(operation_id="materials_list", responses=MaterialSerializer(many=True))
    def get(self, request: Request) -> Response:
        """Materials with their spools."""
        found = Material.objects.filter(workshop=workshop_of(request)).prefetch_related(
            "spools__material"
        )
        return Response(MaterialSerializer(found, many=True).data)

    @extend_schema(
        operation_id="materials_create",
        request=MaterialSerializer,
        responses={201: MaterialSerializer},
    )
    def post(self, request: Request) -> Response:
        """A new material."""
        form = self.filled(MaterialSerializer, request)
        made = name_once(
            lambda: form.save(workshop=workshop_of(request)),
            "a material",
            form.validated_data["name"],
        )
        return Response(MaterialSerializer(made).data, status=status.HTTP_201_CREATED)


class MaterialDetail(InWorkshop):
    def _material(self, request: Request, pk: int) -> Material:
        return get_object_or_404(Material, pk=pk, workshop=workshop_of(request))

    @extend_schema(
        operation_id="material_change", request=MaterialSerializer, responses=MaterialSerializer
    )
    def patch(self, request: Request, pk: int) -> Response:
        """Correct a material."""
        rows = Material.objects.filter(pk=pk, workshop=workshop_of(request))
        return Response(
            MaterialSerializer(self.changed(MaterialSerializer, request, rows, "a material")).data
        )

    @extend_schema(operation_id="material_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a material that nothing was planned in."""
        return removed(self._material(request, pk))


class EndSerializer(serializers.Serializer[Any]):
    """A speed (mm/s) or acceleration (mm/s²) at one end of the dial on a machine; null leaves it to
    the limits.
    """

    end = serializers.ChoiceField(choices=ENDS)
    machine = serializers.IntegerField()
    setting = serializers.CharField()
    value = serializers.FloatField(allow_null=True, min_value=0)


class MaterialDial(InWorkshop):
    @extend_schema(
        operation_id="material_dial", request=EndSerializer, responses=MaterialSerializer
    )
    def post(self, request: Request, pk: int) -> Response:
        """Keep a value at one end of the dial, for every plan in the material on a machine."""
        form = self.filled(EndSerializer, request)
        values = dict(form.validated_data)
        workshop = workshop_of(request)
        machine = get_object_or_404(Machine, pk=values.pop("machine"), workshop=workshop)
        at = AtEnd(machine=machine.name, **values)
        with transaction.atomic():
            # held from being read to being kept, so that of two values at once neither is lost
            rows = Material.objects.select_for_update(no_key=True)
            material = get_object_or_404(rows, pk=pk, workshop=workshop)
            material.figures = with_end(material.figures, at)
            material.save(update_fields=["figures"])
        return Response(MaterialSerializer(material).data)


class SpoolList(InWorkshop):
    @extend_schema(
        operation_id="spools_create", request=SpoolSerializer, responses={201: SpoolSerializer}
    )
    def post(self, request: Request, pk: int) -> Response:
        """One more spool of a material."""
        material = get_object_or_404(Material, pk=pk, workshop=workshop_of(request))
        return Response(
            SpoolSerializer(self.filled(SpoolSerializer, request).save(material=material)).data,
            status=status.HTTP_201_CREATED,
        )


class SpoolView(InWorkshop):
    def spool(self, request: Request, pk: int) -> Spool:
        return get_object_or_404(
            Spool.objects.select_related("material"), pk=pk, material__workshop=workshop_of(request)
        )


class SpoolDetail(SpoolView):
    @extend_schema(operation_id="spool_show", responses=SpoolSerializer)
    def get(self, request: Request, pk: int) -> Response:
        """One spool."""
        return Response(SpoolSerializer(self.spool(request, pk)).data)

    @extend_schema(operation_id="spool_change", request=SpoolSerializer, responses=SpoolSerializer)
    def patch(self, request: Request, pk: int) -> Response:
        """Correct a spool; what is put right by hand has a line in its ledger."""
        rows = Spool.objects.filter(pk=pk, material__workshop=workshop_of(request))
        return Response(SpoolSerializer(self.changed(SpoolSerializer, request, rows)).data)

    @extend_schema(operation_id="spool_remove", responses={204: None})
    def delete(self, request: Request, pk: int) -> Response:
        """Remove a spool that no open job needs."""
        spool = self.spool(request, pk)
        if spools.reserved(spool) > 0:
            raise InputError(
                "open jobs have reserved filament on it; cancel them or give them another "
                "spool first",
                spool.label,
            )
        return removed(spool)


class SpoolLedger(SpoolView):
    @extend_schema(operation_id="spool_ledger", responses=EntrySerializer(many=True))
    def get(self, request: Request, pk: int) -> Response:
        """What was taken off a spool and put right, newest first."""
        return Response(
            EntrySerializer(
                self.spool(request, pk).entries.select_related("job")[:500], many=True
            ).data
        )


class WeighSerializer(serializers.Serializer[Any]):
    gross = serializers.FloatField(min_value=0, max_value=100000, help_text="g, with its reel")


class SpoolWeigh(SpoolView):
    @extend_schema(operation_id="spool_weigh", request=WeighSerializer, responses=SpoolSerializer)
    def post(self, request: Request, pk: int) -> Response:
        """What a scale says of a spool with its reel."""
        spool = self.spool(request, pk)
        form = WeighSerializer(data=request.data)
        form.is_valid(raise_exception=True)
        spools.weigh(spool, form.validated_data["gross"])
        return Response(SpoolSerializer(spool).data)
