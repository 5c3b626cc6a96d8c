"""Orders of customers, the beds that are made for them, and the schedule of the workshop."""

from __future__ import annotations

from django.db import models

from service.computed import Computing


class Order(models.Model):
    """What somebody ordered. It is open until a person closes it."""

    class Closed(models.TextChoices):
        DELIVERED = "delivered"
        CANCELLED = "cancelled"

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="orders"
    )
    number = models.PositiveIntegerField()
    customer = models.CharField(max_length=120, blank=True)
    reference = models.CharField(max_length=120, blank=True, help_text="the customer's own words")
    note = models.CharField(max_length=2000, blank=True)
    due = models.DateTimeField(null=True, blank=True)
    urgency = models.PositiveSmallIntegerField(default=2, help_text="3 is urgent, 1 can wait")
    kits = models.PositiveIntegerField(
        default=1, help_text="how many times the pieces of its lines"
    )
    created = models.DateTimeField(auto_now_add=True)
    closed = models.CharField(max_length=10, choices=Closed.choices, blank=True)
    closed_at = models.DateTimeField(null=True, blank=True)
    # what the customer was promised
    promised = models.DateTimeField(null=True, blank=True)
    quote = models.JSONField(null=True, blank=True)
    quoted_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ["-number"]
        constraints = [
            models.UniqueConstraint(fields=["workshop", "number"], name="order_number_once")
        ]

    def __str__(self) -> str:
        return f"order {self.number}"

    @property
    def title(self) -> str:
        """What it is called on screens."""
        named = ", ".join(word for word in (self.customer, self.reference) if word)
        return named or f"Order {self.number}"


class OrderLine(models.Model):
    """One part of an order, how many pieces of it are in a kit, and the plans that may be used."""

    order = models.ForeignKey(Order, on_delete=models.CASCADE, related_name="lines")
    part = models.ForeignKey("parts.Part", on_delete=models.PROTECT, related_name="order_lines")
    pieces = models.PositiveIntegerField(help_text="in each kit")
    plans = models.ManyToManyField("plans.Plan", related_name="order_lines")

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.pieces} × {self.part} of {self.order}"


class OrderBed(models.Model):
    """A bed that was made for a line of an order, with what the schedule expected of it."""

    line = models.ForeignKey(OrderLine, on_delete=models.CASCADE, related_name="beds")
    bed = models.OneToOneField("beds.Bed", on_delete=models.CASCADE, related_name="of_order")
    begin = models.DateTimeField()
    seconds = models.FloatField(help_text="expected time of the bed")
    grams = models.FloatField(help_text="expected g of filament of the bed")
    pieces = models.PositiveIntegerField()

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"{self.bed} for {self.line}"


class PlateTimes(Computing):
    """Time and filament of beds with 1, 2, 4 … pieces of a version of a plan, on its machine."""

    version = models.OneToOneField(
        "plans.PlanVersion", on_delete=models.CASCADE, related_name="plate_times"
    )
    machine = models.CharField(max_length=64, help_text="digest of the machine's figures")
    copies = models.JSONField(default=list)
    seconds = models.JSONField(default=list)
    grams = models.JSONField(default=list)

    class Meta:
        ordering = ["pk"]

    def __str__(self) -> str:
        return f"bed times of {self.version}"


class ShopSchedule(Computing):
    """A schedule that was searched for: what it was computed from, and what came of it."""

    workshop = models.ForeignKey(
        "workshop.Workshop", on_delete=models.CASCADE, related_name="schedules"
    )
    facts = models.CharField(
        max_length=64, help_text="digest of everything it depends on (`Shop.facts`)"
    )
    result = models.JSONField(null=True)

    class Meta:
        ordering = ["-pk"]

    def __str__(self) -> str:
        return f"schedule {self.pk}"
