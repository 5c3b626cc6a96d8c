"""What goes over the API about orders and the schedule."""

from __future__ import annotations

from typing import Any, get_args

from rest_framework import serializers

from northpace.schedule.problem import MOST_PIECES, MOST_PLANS
from service.orders.models import Order
from service.orders.rules.outlook import State


class LineAskSerializer(serializers.Serializer[Any]):
    part = serializers.IntegerField()
    pieces = serializers.IntegerField(min_value=1, max_value=MOST_PIECES, help_text="in each kit")
    plans = serializers.ListField(
        child=serializers.IntegerField(),
        required=False,
        max_length=MOST_PLANS,
        help_text="plans that may be used; without any the newest of the part for each nozzle",
    )


class OrderAskSerializer(serializers.Serializer[Any]):
    customer = serializers.CharField(required=False, allow_blank=True, max_length=120)
    reference = serializers.CharField(required=False, allow_blank=True, max_length=120)
    note = serializers.CharField(required=False, allow_blank=True, max_length=2000)
    due = serializers.DateTimeField(required=False, allow_null=True)
    urgency = serializers.IntegerField(required=False, min_value=1, max_value=3)
    kits = serializers.IntegerField(required=False, min_value=1, max_value=MOST_PIECES)
    lines = LineAskSerializer(many=True, required=False)


class PlanUseSerializer(serializers.Serializer[Any]):
    """A plan that may be used for a line."""

    plan = serializers.IntegerField()
    number = serializers.IntegerField()
    machine = serializers.CharField(allow_blank=True)
    material = serializers.CharField(allow_blank=True)
    why = serializers.CharField(
        allow_blank=True, help_text="why it cannot be scheduled now; empty if it can"
    )
    computing = serializers.BooleanField(help_text="the times of its beds are being computed")
    holds = serializers.IntegerField(
        allow_null=True, help_text="the most pieces that fit on a bed of its machine"
    )
    full_s = serializers.FloatField(allow_null=True, help_text="what such a bed takes")


class OrderLineSerializer(serializers.Serializer[Any]):
    """A line of an order, and how its pieces stand. Pieces that are good, printed, under way, on
    beds and left add up to those that are wanted, or to more if more were printed.
    """

    id = serializers.IntegerField()
    part = serializers.IntegerField()
    name = serializers.CharField()
    pieces = serializers.IntegerField()
    wanted = serializers.IntegerField()
    good = serializers.IntegerField()
    bad = serializers.IntegerField()
    printed = serializers.IntegerField(
        help_text="printed, and nobody has entered how they came out"
    )
    under_way = serializers.IntegerField()
    on_beds = serializers.IntegerField(help_text="on beds that are not committed yet")
    left = serializers.IntegerField()
    spare = serializers.IntegerField(
        help_text="pieces printed beyond those left, because some are likely to fail"
    )
    fails = serializers.FloatField(help_text="share that fails")
    plans = PlanUseSerializer(many=True)


class OrderSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    number = serializers.IntegerField()
    title = serializers.CharField()
    customer = serializers.CharField(allow_blank=True)
    reference = serializers.CharField(allow_blank=True)
    note = serializers.CharField(allow_blank=True)
    due = serializers.DateTimeField(allow_null=True)
    urgency = serializers.IntegerField()
    kits = serializers.IntegerField()
    created = serializers.DateTimeField()
    closed = serializers.ChoiceField(["", *Order.Closed.values])
    closed_at = serializers.DateTimeField(allow_null=True)
    promised = serializers.DateTimeField(
        allow_null=True, help_text="time the customer was promised"
    )
    price = serializers.CharField(allow_null=True, help_text="€, as it was quoted")
    done = serializers.BooleanField(help_text="all pieces are printed and good")
    lines = OrderLineSerializer(many=True)


class OrderCloseSerializer(serializers.Serializer[Any]):
    how = serializers.ChoiceField([*Order.Closed.values, "open"])


class OrderPromiseSerializer(serializers.Serializer[Any]):
    promised = serializers.DateTimeField(allow_null=True)


class TermSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    words = serializers.CharField(help_text="how it was computed")
    amount = serializers.CharField(help_text="€")


class PriceSerializer(serializers.Serializer[Any]):
    pieces = serializers.IntegerField()
    each = serializers.CharField(help_text="€")


class PartPriceSerializer(serializers.Serializer[Any]):
    name = serializers.CharField()
    pieces = serializers.IntegerField()
    total = serializers.CharField()
    each = serializers.CharField()
    beds = serializers.IntegerField()
    a_bed = serializers.IntegerField()
    machine = serializers.CharField()
    hours = serializers.FloatField()
    grams = serializers.FloatField()
    terms = TermSerializer(many=True)
    by_number = PriceSerializer(many=True)


class OrderQuoteSerializer(serializers.Serializer[Any]):
    """What an order costs; amounts in € with two decimals."""

    total = serializers.CharField()
    missing = serializers.ListField(child=serializers.CharField())
    terms = TermSerializer(many=True)
    parts = PartPriceSerializer(many=True)


class ImportAskSerializer(serializers.Serializer[Any]):
    table = serializers.CharField(
        trim_whitespace=False, max_length=2_000_000, help_text="a table with commas (CSV)"
    )


class WrongRowSerializer(serializers.Serializer[Any]):
    row = serializers.IntegerField()
    words = serializers.CharField()


class ImportedSerializer(serializers.Serializer[Any]):
    orders = serializers.ListField(child=serializers.IntegerField())
    wrong = WrongRowSerializer(many=True)


class SpanSerializer(serializers.Serializer[Any]):
    begin = serializers.DateTimeField()
    end = serializers.DateTimeField()


class BusySerializer(SpanSerializer):
    """A job, or a bed that is not committed yet, on a machine."""

    kind = serializers.ChoiceField(["job", "bed"])
    id = serializers.IntegerField()
    title = serializers.CharField()
    running = serializers.BooleanField()
    order = serializers.IntegerField(allow_null=True)


class ScheduleMachineSerializer(serializers.Serializer[Any]):
    id = serializers.IntegerField()
    name = serializers.CharField()
    why = serializers.CharField(allow_blank=True)
    simulated = serializers.FloatField(help_text="times as fast as a real one")
    busy = BusySerializer(many=True)


class ScheduledBedSerializer(SpanSerializer):
    """A bed of the schedule."""

    order = serializers.IntegerField()
    line = serializers.IntegerField()
    part = serializers.CharField()
    plan = serializers.IntegerField()
    machine = serializers.IntegerField()
    spool = serializers.IntegerField()
    spool_label = serializers.CharField()
    pieces = serializers.IntegerField()
    grams = serializers.FloatField()
    seconds = serializers.FloatField(help_text="what the machine takes, if it is not simulated")
    hands = serializers.DateTimeField(help_text="when a person begins to make the machine ready")
    off = serializers.DateTimeField(help_text="when its pieces have been taken off")
    cleared = serializers.BooleanField()
    changed = serializers.BooleanField(help_text="another spool is hung up before")


class OrderOutlookSerializer(serializers.Serializer[Any]):
    order = serializers.IntegerField()
    state = serializers.ChoiceField(
        get_args(State),
        help_text="waiting: the times of its beds are still being computed; impossible: not all of "
        "its pieces can be printed",
    )
    done = serializers.DateTimeField(allow_null=True)
    late_s = serializers.FloatField(allow_null=True)
    likely = serializers.DateTimeField(allow_null=True)
    promise = serializers.DateTimeField(allow_null=True, help_text="in 95 of 100 replays by then")
    on_time = serializers.FloatField(allow_null=True)
    lacking = serializers.ListField(
        child=serializers.CharField(), help_text="what cannot be printed, and why"
    )


class SearchingSerializer(serializers.Serializer[Any]):
    state = serializers.CharField()
    share = serializers.FloatField()


class NeededSerializer(serializers.Serializer[Any]):
    material = serializers.CharField()
    needed_g = serializers.FloatField(help_text="for everything still to be printed")
    free_g = serializers.FloatField(
        help_text="on spools, without what jobs and beds that were made will take"
    )


class ScheduleSerializer(serializers.Serializer[Any]):
    now = serializers.DateTimeField()
    zone = serializers.CharField()
    until = serializers.DateTimeField(help_text="the end of the last bed")
    there = SpanSerializer(many=True, help_text="when somebody is there; empty if always")
    machines = ScheduleMachineSerializer(many=True)
    beds = ScheduledBedSerializer(many=True)
    orders = OrderOutlookSerializer(many=True)
    changes = serializers.ListField(child=serializers.CharField())
    needed = NeededSerializer(many=True)
    searched = serializers.BooleanField(help_text="false: only the first answer")
    gap = serializers.FloatField(
        help_text="largest share of its cost that another schedule could save"
    )
    searching = SearchingSerializer(allow_null=True)
    failed = serializers.CharField(allow_blank=True, help_text="why the last search failed")


class ReleaseSerializer(serializers.Serializer[Any]):
    line = serializers.IntegerField()
    plan = serializers.IntegerField()
    pieces = serializers.IntegerField(min_value=1)
    spool = serializers.IntegerField(allow_null=True, required=False)
    begin = serializers.DateTimeField()


class ReleasedSerializer(serializers.Serializer[Any]):
    bed = serializers.IntegerField()


class WhatIfSerializer(serializers.Serializer[Any]):
    """What the workshop would have; what is not mentioned stays as it is."""

    like = serializers.IntegerField(
        required=False, allow_null=True, help_text="one more machine like the one with this number"
    )
    until = serializers.RegexField(
        r"^\d\d:\d\d$", required=False, allow_null=True, help_text="somebody is there until then"
    )
    weekend = serializers.BooleanField(required=False)
    spool_g = serializers.FloatField(
        required=False, min_value=0, max_value=100_000, help_text="on one more spool"
    )
    material = serializers.IntegerField(required=False, help_text="of that spool")


class WhatIfOrderSerializer(serializers.Serializer[Any]):
    order = serializers.IntegerField()
    now = serializers.DateTimeField(allow_null=True)
    then = serializers.DateTimeField(allow_null=True)
    late_now_s = serializers.FloatField(allow_null=True)
    late_then_s = serializers.FloatField(allow_null=True)


class WhatIfAnswerSerializer(serializers.Serializer[Any]):
    """When orders are done as things are, and when they would be. Both are searched for equally
    long.
    """

    words = serializers.CharField()
    orders = WhatIfOrderSerializer(many=True)
