"""Readers and ports: what a card is copied through."""

from django.db import models
from django.db.models import UniqueConstraint

from engine.cards.copy_time import Port
from engine.quantities import WRITE_MB_S
from kit.constraints import both_or_neither, one_of, within
from kit.models.shared import (
    FormOnBus,
    KitItem,
    Source,
    bus_belongs_to_form,
    listed_once,
    source_field,
)

PORT_CHOICES = [(port.value, port.value) for port in Port]


class Reader(KitItem):
    """A card reader, a computer's own slot, or a camera on its cable.

    `most_mb_s` is the most that it has been seen to read (null: not known); `matches_maker` the
    maker for whose cards it is made, which it reads faster than the bus of the standard.
    """

    port = models.CharField(max_length=20, choices=PORT_CHOICES)
    most_mb_s = models.FloatField(null=True, blank=True)
    most_source = source_field(blank=True, default="")
    matches_maker = models.CharField(max_length=40, blank=True)

    class Meta:
        ordering = list(KitItem.named_by)
        constraints = [
            listed_once(*KitItem.named_by, name="reader_is_listed_once"),
            listed_once("slug", name="reader_has_an_address_of_its_own"),
            one_of("port", list(Port), name="reader_has_a_known_port"),
            within("most_mb_s", WRITE_MB_S, name="reader_speed_is_in_range"),
            both_or_neither("most_mb_s", "most_source", name="reader_speed_comes_with_its_source"),
            one_of("most_source", ["", *Source.values], name="reader_speed_has_a_known_source"),
        ]


class ReadForm(FormOnBus):
    """A form that a reader takes, and the bus on which it reads it."""

    reader = models.ForeignKey(Reader, models.CASCADE, related_name="accepted_forms")

    class Meta(FormOnBus.Meta):
        constraints = [
            UniqueConstraint(fields=["reader", "form"], name="form_is_read_once"),
            bus_belongs_to_form("reader_bus_belongs_to_its_form"),
        ]
