"""The figures of a plan over the API: the ≈ ones, and the report of the exact plan."""

from __future__ import annotations

from typing import Any

from rest_framework import serializers

from northpace.heights.decide import RULES


class QuickTime(serializers.Serializer[Any]):
    total = serializers.FloatField()
    by_feature = serializers.DictField(child=serializers.FloatField())
    flow_floor = serializers.FloatField(required=False)
    spread = serializers.FloatField(
        required=False,
        help_text="s, one standard deviation of the machine's jobs; 0 while it is not known",
    )


class QuickFilament(serializers.Serializer[Any]):
    length_mm = serializers.FloatField()
    mass_g = serializers.FloatField()
    cost = serializers.FloatField()
    volume_mm3 = serializers.FloatField()


class LayersSerializer(serializers.Serializer[Any]):
    count = serializers.IntegerField()
    heights_mm = serializers.ListField(child=serializers.FloatField())
    tops_mm = serializers.ListField(child=serializers.FloatField())
    seconds = serializers.ListField(child=serializers.FloatField())
    error_um = serializers.ListField(child=serializers.FloatField())
    mean_error_um = serializers.ListField(child=serializers.FloatField())
    rule = serializers.ListField(child=serializers.ChoiceField(choices=list(RULES)))
    coarser_s = serializers.ListField(child=serializers.FloatField())
    coarser_um = serializers.ListField(child=serializers.FloatField())
    finer_s = serializers.ListField(child=serializers.FloatField())
    finer_um = serializers.ListField(child=serializers.FloatField())


class SurfaceSerializer(serializers.Serializer[Any]):
    """Surface error in µm; ``gap``: the share by which no other stack could be better."""

    mean_um = serializers.FloatField()
    p95_um = serializers.FloatField()
    max_um = serializers.FloatField()
    over_target = serializers.FloatField()
    gap = serializers.FloatField()
    reached = serializers.BooleanField()
    out_of_reach_mm = serializers.ListField(
        child=serializers.ListField(child=serializers.FloatField())
    )
    missed = serializers.CharField(allow_blank=True)
    seen_mm2 = serializers.FloatField()
    hidden_mm2 = serializers.FloatField()
    flats_mm = serializers.ListField(child=serializers.FloatField())


class PaceRowSerializer(serializers.Serializer[Any]):
    """A row of the pace table; reached, seconds and held_by come with the exact plan."""

    name = serializers.CharField()
    setting = serializers.CharField()
    asked = serializers.FloatField()
    acceleration = serializers.FloatField(allow_null=True)
    push = serializers.CharField(allow_blank=True)
    section_mm2 = serializers.FloatField()
    flow = serializers.FloatField()
    share = serializers.FloatField()
    derived = serializers.BooleanField()
    push_derived = serializers.BooleanField()
    reached = serializers.FloatField(allow_null=True)
    seconds = serializers.FloatField(allow_null=True)
    held_by = serializers.CharField(allow_blank=True)


class PaceSerializer(serializers.Serializer[Any]):
    rows = PaceRowSerializer(many=True)
    safe_flow = serializers.FloatField()
    most_flow = serializers.FloatField()
    limited_by = serializers.ChoiceField(choices=["nozzle", "material"])
    temp = serializers.FloatField()
    first_at_limit = serializers.CharField(allow_blank=True)


class LedgerFeatureSerializer(serializers.Serializer[Any]):
    feature = serializers.CharField()
    seconds = serializers.FloatField()
    grams = serializers.FloatField()
    cost = serializers.FloatField()
    at_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True)


class LedgerEntrySerializer(serializers.Serializer[Any]):
    seconds = serializers.FloatField()
    grams = serializers.FloatField()
    cost = serializers.FloatField()
    by_feature = serializers.DictField(child=serializers.FloatField())


class LedgerStretchSerializer(LedgerEntrySerializer):
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()


class LedgerBandSerializer(LedgerEntrySerializer):
    name = serializers.CharField()
    from_mm = serializers.FloatField(allow_null=True)
    to_mm = serializers.FloatField(allow_null=True)


class LedgerSerializer(serializers.Serializer[Any]):
    """Entries that each add up to the whole plan."""

    features = LedgerFeatureSerializer(many=True)
    bands = LedgerBandSerializer(many=True)
    heights = LedgerStretchSerializer(many=True)
    start = LedgerEntrySerializer()


class CostSharesSerializer(serializers.Serializer[Any]):
    material = serializers.FloatField()
    machine = serializers.FloatField()
    power = serializers.FloatField()
    failed = serializers.FloatField()


class QuickSerializer(serializers.Serializer[Any]):
    """The ≈ figures."""

    pace = PaceSerializer()

    exact = serializers.BooleanField()
    time_s = QuickTime()
    filament = QuickFilament()
    layers = LayersSerializer()
    surface = SurfaceSerializer()


class FindingSerializer(serializers.Serializer[Any]):
    code = serializers.CharField()
    severity = serializers.ChoiceField(choices=["stop", "look", "note"])
    message = serializers.CharField()
    z_mm = serializers.FloatField(allow_null=True)
    at_mm = serializers.ListField(child=serializers.FloatField(), allow_null=True)
    help = serializers.CharField(allow_blank=True)
    places = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    change = serializers.DictField(child=serializers.JSONField())


class PatchSerializer(serializers.Serializer[Any]):
    """A solid patch: where it is, what it costs, which open faces cause it."""

    at_mm = serializers.ListField(child=serializers.FloatField())
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    area_mm2 = serializers.FloatField()
    seconds = serializers.FloatField()
    solid = serializers.BooleanField()
    kinds = serializers.ListField(child=serializers.CharField())


class SolidSerializer(serializers.Serializer[Any]):
    """Patches, and the causes the move table numbers: patch, kind, height of the open face
    in mm.
    """

    patches = PatchSerializer(many=True)
    causes = serializers.ListField(child=serializers.ListField(child=serializers.JSONField()))


class StandSerializer(serializers.Serializer[Any]):
    number = serializers.IntegerField()
    at_mm = serializers.ListField(child=serializers.FloatField())
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()
    contact_mm2 = serializers.FloatField()
    seconds = serializers.FloatField()
    seen_mm2 = serializers.FloatField()
    on_part = serializers.BooleanField()
    why = serializers.CharField()


class StrengthSerializer(serializers.Serializer[Any]):
    """Proxies, not a simulation: relative to a solid part."""

    least_stiffness = serializers.FloatField()
    least_at_mm = serializers.FloatField()
    mean_stiffness = serializers.FloatField()


class FootSerializer(serializers.Serializer[Any]):
    lift_mm = serializers.FloatField()
    loops = serializers.IntegerField()
    area_mm2 = serializers.FloatField()
    contact_mm2 = serializers.FloatField()


class SpoolShareSerializer(serializers.Serializer[Any]):
    parts = serializers.IntegerField()
    left_over_g = serializers.FloatField()
    lighter_for_one_more_g = serializers.FloatField()


class ReportFilament(QuickFilament):
    spool = SpoolShareSerializer(allow_null=True)
    cost_shares = CostSharesSerializer()
    by_feature_mm = serializers.DictField(child=serializers.FloatField())


class ReportLayers(LayersSerializer):
    slowed = serializers.ListField(child=serializers.FloatField())
    mass_g = serializers.ListField(child=serializers.FloatField())


class ReportPaths(serializers.Serializer[Any]):
    moves = serializers.IntegerField()
    travel_mm = serializers.FloatField()
    retractions = serializers.IntegerField()
    outer_wall_crossings = serializers.IntegerField()
    seams = serializers.IntegerField()
    travel_saved_mm = serializers.FloatField()
    around = serializers.IntegerField()
    gap_area_mm2 = serializers.FloatField()
    missing_area_mm2 = serializers.FloatField()
    walls = serializers.IntegerField()
    wall_thickness_mm = serializers.FloatField()
    diameter_change_mm = serializers.FloatField()
    first_diameter_change_mm = serializers.FloatField()


class ReportPart(serializers.Serializer[Any]):
    size_mm = serializers.ListField(child=serializers.FloatField())
    volume_mm3 = serializers.FloatField()


class LanesSerializer(serializers.Serializer[Any]):
    """Values of every layer: % infill, walls, mm/s, mm³/s, °C, % fan."""

    infill = serializers.ListField(child=serializers.FloatField())
    walls = serializers.ListField(child=serializers.FloatField())
    speed = serializers.ListField(child=serializers.FloatField())
    flow = serializers.ListField(child=serializers.FloatField())
    nozzle_temp = serializers.ListField(child=serializers.FloatField())
    fan = serializers.ListField(child=serializers.FloatField())


class BandPlaceSerializer(serializers.Serializer[Any]):
    name = serializers.CharField(allow_blank=True)
    from_mm = serializers.FloatField()
    to_mm = serializers.FloatField()


class RegionPlaceSerializer(serializers.Serializer[Any]):
    """Where a region reaches inside the part; null where it lies outside."""

    name = serializers.CharField(allow_blank=True)
    from_mm = serializers.FloatField(allow_null=True)
    to_mm = serializers.FloatField(allow_null=True)
    area_mm2 = serializers.FloatField()


class ReportSerializer(serializers.Serializer[Any]):
    """The exact figures."""

    part = ReportPart()
    time_s = QuickTime()
    filament = ReportFilament()
    layers = ReportLayers()
    paths = ReportPaths()
    surface = SurfaceSerializer()
    findings = FindingSerializer(many=True)
    solid = SolidSerializer()
    stands = StandSerializer(many=True)
    strength = StrengthSerializer()
    footing = FootSerializer()
    pace = PaceSerializer()
    ledger = LedgerSerializer()
    lanes = LanesSerializer()
    bands = BandPlaceSerializer(many=True)
    regions = RegionPlaceSerializer(many=True)
    spirals = serializers.ListField(child=serializers.ListField(child=serializers.FloatField()))
    elapsed_s = serializers.DictField(child=serializers.FloatField())
