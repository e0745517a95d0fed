"""What people let others see."""

import secrets
from typing import Self
from urllib.parse import parse_qsl

from django.conf import settings
from django.db import models
from django.db.models import CheckConstraint, Q

from kit.models import Body, Card
from outings.models import Outing
from setups import keys
from setups.keys import LONGEST_SETUP
from setups.kit import Kit
from setups.reader import read_query

MOST_SHARES = 100  # working links of one owner


def new_token() -> str:
    """256 random bits, as a link can carry them."""
    return secrets.token_urlsafe(32)


class ShareQuerySet(models.QuerySet["Share"]):
    """Links that somebody has given away."""

    def working(self) -> Self:
        """Those that have not been revoked."""
        return self.filter(revoked_at=None)


class Share(models.Model):
    """A read-only link to one card, to one set-up of the Desk, to a table, to a body's results, or
    to the field sheet of an outing.

    The link carries a random token, which nobody can guess and no other row will ever have.
    Revoking ends it. A card goes without its price and state, unless `with_state`.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="shares")
    card = models.ForeignKey(Card, models.CASCADE, null=True, blank=True, related_name="+")
    outing = models.ForeignKey(Outing, models.CASCADE, null=True, blank=True, related_name="+")
    setup = models.CharField(max_length=LONGEST_SETUP, blank=True)
    is_table = models.BooleanField(default=False)
    is_results = models.BooleanField(default=False)
    token = models.CharField(max_length=43, unique=True, default=new_token, editable=False)
    with_state = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    objects = ShareQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        constraints = [
            CheckConstraint(
                condition=Q(setup="", outing=None, card__isnull=False)
                | Q(setup="", card=None, outing__isnull=False)
                | Q(card=None, outing=None) & ~Q(setup=""),
                name="share_is_of_a_card_a_setup_or_an_outing",
            ),
            CheckConstraint(
                condition=Q(is_table=False) | ~Q(setup=""), name="a_table_is_of_a_setup"
            ),
            CheckConstraint(
                condition=Q(is_results=False) | Q(is_table=False) & ~Q(setup=""),
                name="results_are_of_a_setup_and_no_table",
            ),
        ]

    def __str__(self) -> str:
        if self.card:
            return str(self.card)
        if self.outing:
            return f"field sheet: {self.outing}"
        reading = read_query(self.setup, Kit.of(self.owner, with_sample=True))
        if reading is None:
            return ""
        return str(reading.setup.body) if self.is_results else reading.setup.name

    @property
    def is_gone(self) -> bool:
        """Whether its owner has revoked it, or archived the card or the body that it is of."""
        return self.revoked_at is not None or self._is_of_archive

    @property
    def _is_of_archive(self) -> bool:
        if self.card:
            return self.card.archived_at is not None
        setup = self.outing.plan.setup if self.outing else self.setup
        slug = dict(parse_qsl(setup)).get(keys.BODY, "")
        return Body.objects.owned_by(self.owner).archived().filter(slug=slug).exists()
