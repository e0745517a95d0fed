"""People, by an address and a password; and guests, who have neither."""

from typing import ClassVar

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models
from django.db.models import CheckConstraint, Q
from django.db.models.functions import Lower
from django.utils import timezone

MOST_ITEMS_OF_GUEST = 100


class UserManager(BaseUserManager["User"]):
    """Finds people by their address, whatever its capitals, and guests by their time."""

    def guests(self) -> "models.QuerySet[User]":
        """Guests whose kits are still kept."""
        return self.filter(guest_until__gt=timezone.now())

    def expired_guests(self) -> "models.QuerySet[User]":
        """Guests whose time is over."""
        return self.filter(guest_until__lte=timezone.now())

    def get_by_natural_key(self, username: str | None) -> "User":
        return self.get(email=(username or "").lower())


class User(AbstractBaseUser):
    """Somebody with a kit of their own. The address is kept in small letters.

    A guest has no address, and a kit that is kept for a browser until `guest_until`.
    """

    email = models.EmailField(  # noqa: DJ001 - guests have none, and no two alike are allowed
        "e-mail",
        unique=True,
        null=True,
        error_messages={"unique": "There is an account with this address already."},
    )
    is_active = models.BooleanField(default=True)
    joined_at = models.DateTimeField(auto_now_add=True)
    guest_until = models.DateTimeField(null=True, blank=True, db_index=True)
    shows_sample = models.BooleanField(
        default=False, help_text="whether the sample kit is offered beside what they own"
    )

    objects: ClassVar[UserManager] = UserManager()

    USERNAME_FIELD = "email"
    EMAIL_FIELD = "email"

    class Meta:
        constraints = [
            CheckConstraint(condition=Q(email=Lower("email")), name="email_is_in_small_letters"),
            CheckConstraint(
                condition=Q(email=None) ^ Q(guest_until=None),
                name="user_has_an_address_or_is_a_guest",
            ),
        ]

    def __str__(self) -> str:
        return self.email or "Guest"

    @property
    def is_guest(self) -> bool:
        """Whether this is somebody without an account."""
        return self.guest_until is not None

    @property
    def most_items(self) -> int | None:
        """The items that the kit may have; None: as many as you like."""
        return MOST_ITEMS_OF_GUEST if self.is_guest else None
