"""People, by an address and a password."""

from typing import ClassVar

from django.contrib.auth.base_user import AbstractBaseUser, BaseUserManager
from django.db import models
from django.db.models import CheckConstraint, Q
from django.db.models.functions import Lower


class UserManager(BaseUserManager["User"]):
    """Finds people by their address, whatever its capitals."""

    def get_by_natural_key(self, username: str | None) -> "User":
        return self.get(email=(username or "").lower())


class User(AbstractBaseUser):
    """Somebody with a kit of their own. The address is kept in small letters."""

    email = models.EmailField(
        "e-mail",
        unique=True,
        error_messages={"unique": "There is an account with this address already."},
    )
    is_active = models.BooleanField(default=True)
    joined_at = models.DateTimeField(auto_now_add=True)

    objects: ClassVar[UserManager] = UserManager()

    USERNAME_FIELD = "email"
    EMAIL_FIELD = "email"

    class Meta:
        constraints = [
            CheckConstraint(condition=Q(email=Lower("email")), name="email_is_in_small_letters")
        ]

    def __str__(self) -> str:
        return self.email
