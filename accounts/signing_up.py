"""The mail by which somebody makes an account, or learns that they have one.

Whoever asks sees the same either way, so that nobody learns which addresses have accounts.
"""

from typing import NamedTuple

from django.core import signing
from django.core.mail import send_mail
from django.http import HttpRequest
from django.template.loader import render_to_string
from django.urls import reverse

from accounts.models import User

LINK_WORKS_S = 24 * 3600
_SALT = "sign-up"


class Asked(NamedTuple):
    """Who asked for an account, and the path of this site that they came from."""

    email: str
    back: str


def send_link(request: HttpRequest, asked: Asked) -> None:
    """Sends the link by which the account is made; to who has one, where to sign in."""
    known = User.objects.filter(email=asked.email).exists()
    path = reverse("sign-in") if known else reverse("account-new", args=[token_of(asked)])
    context = {
        "email": asked.email,
        "link": request.build_absolute_uri(path),
        "forgotten": request.build_absolute_uri(reverse("forgotten")),
    }
    mail = "accounts/known_mail.txt" if known else "accounts/sign_up_mail.txt"
    send_mail("Your account at Ondata", render_to_string(mail, context), None, [asked.email])


def token_of(asked: Asked) -> str:
    """What stands for `asked` in a link."""
    return signing.dumps(asked, salt=_SALT)


def asked_in(token: str) -> Asked | None:
    """What a link stands for; None where it is too old, or none of ours."""
    try:
        return Asked(*signing.loads(token, salt=_SALT, max_age=LINK_WORKS_S))
    except signing.BadSignature:
        return None
