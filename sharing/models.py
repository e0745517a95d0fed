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


class SharedScreen(models.TextChoices):
    """What a link shows; the label is what a list of links calls it."""

    CARD = "card", "Card"
    DESK = "desk", "Set-up"
    TABLE = "table", "Table"
    RESULTS = "results", "Results"
    OUTING_SHEET = "outing sheet", "Field sheet of an outing"
    BODY_SHEET = "body sheet", "Field sheet of a body"


OF_SETUP = (SharedScreen.DESK, SharedScreen.TABLE, SharedScreen.RESULTS, SharedScreen.BODY_SHEET)


class ShareQuerySet(models.QuerySet["Share"]):
    """Links that somebody has given away."""

    def working(self) -> Self:
        """Those that have not been revoked."""
        return self.filter(revoked_at=None)


class Share(models.Model):
    """A read-only link to a screen, of a card, of a set-up or of an outing.

    The link carries a random token, which nobody can guess and no other row will ever have.
    Revoking ends it. The sheet of a body has the set-ups that are `pinned`, too. A card goes
    without its price and state, unless `with_state`.
    """

    owner = models.ForeignKey(settings.AUTH_USER_MODEL, models.CASCADE, related_name="shares")
    card = models.ForeignKey(Card, models.CASCADE, null=True, blank=True, related_name="+")
    outing = models.ForeignKey(Outing, models.CASCADE, null=True, blank=True, related_name="+")
    setup = models.CharField(max_length=LONGEST_SETUP, blank=True)
    screen = models.CharField(max_length=20, choices=SharedScreen, default=SharedScreen.DESK)
    pinned = models.JSONField(default=list, blank=True)
    token = models.CharField(max_length=43, unique=True, default=new_token, editable=False)
    with_state = models.BooleanField(default=False)
    made_at = models.DateTimeField(auto_now_add=True)
    revoked_at = models.DateTimeField(null=True, blank=True)

    objects = ShareQuerySet.as_manager()

    class Meta:
        ordering = ["-pk"]
        constraints = [
            CheckConstraint(
                condition=Q(screen=SharedScreen.CARD, setup="", outing=None, card__isnull=False)
                | Q(screen=SharedScreen.OUTING_SHEET, setup="", card=None, outing__isnull=False)
                | Q(screen__in=OF_SETUP, card=None, outing=None) & ~Q(setup=""),
                name="share_is_of_what_its_screen_shows",
            ),
        ]

    def __str__(self) -> str:
        if self.card:
            return str(self.card)
        if self.outing:
            return str(self.outing)
        reading = read_query(self.setup, Kit.of(self.owner, with_sample=True))
        if reading is None:
            return ""
        is_of_body = self.screen in (SharedScreen.RESULTS, SharedScreen.BODY_SHEET)
        return str(reading.setup.body) if is_of_body else reading.setup.name

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
