import unicodedata
from typing import Any, ClassVar

from django import forms
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.forms import AuthenticationForm, BaseUserCreationForm, PasswordResetForm
from django.db import IntegrityError, transaction
from django.http import HttpRequest

from accounts.models import User
from pages.limits import is_guessing

LONGEST_ADDRESS = 254  # RFC 5321, section 4.5.3, less the brackets


def normalised(address: str) -> str:
    """An e-mail address as it is kept and counted, however somebody types it."""
    return unicodedata.normalize("NFKC", address).strip().lower()


def address_typed(group: str, request: HttpRequest) -> str:
    """The address in a form, for limits."""
    return normalised(request.POST.get("email", ""))[:LONGEST_ADDRESS]


class SignInForm(AuthenticationForm):
    """Signing in; capitals in the address make no difference, nor another try at guessing."""

    def clean_username(self) -> str:
        username: str = self.cleaned_data["username"]
        if len(username) > LONGEST_ADDRESS:
            raise forms.ValidationError("No e-mail address is as long as that.")
        return normalised(username)

    def clean(self) -> dict[str, Any]:
        """The account, unless its password is being guessed; code "locked" then.

        Tries count until somebody signs in or sets another password, those at many accounts from
        one place for a quarter of an hour. They are counted before anything is looked up or hashed.
        """
        if self.request and is_guessing(self.request, "sign-in anywhere"):
            raise forms.ValidationError("Too many tries.", code="locked")
        if email := self.cleaned_data.get("username"):
            user = User.objects.filter(email=email).first()
            last = f"{user.password} {user.last_login}" if user else ""
            if self.request and is_guessing(self.request, "sign-in", f"{email} {last}"):
                raise forms.ValidationError("Too many tries.", code="locked")
        return super().clean()


class LeaveForm(forms.Form):
    """The password of somebody who wants their account gone."""

    password = forms.CharField(
        widget=forms.PasswordInput(attrs={"autocomplete": "current-password"}), strip=False
    )

    def __init__(self, *args: Any, user: AbstractBaseUser, **options: Any) -> None:
        super().__init__(*args, **options)
        self.user = user

    def clean_password(self) -> str:
        password: str = self.cleaned_data["password"]
        if not self.user.check_password(password):
            raise forms.ValidationError("That is not the password of this account.")
        return password


class SignUpForm(forms.Form):
    """The address of somebody who wants an account."""

    email = forms.EmailField(label="E-mail", max_length=LONGEST_ADDRESS)

    def clean_email(self) -> str:
        return normalised(self.cleaned_data["email"])


class ForgottenForm(PasswordResetForm):
    """The address of somebody who has forgotten their password."""

    email = forms.EmailField(
        label="E-mail",
        max_length=LONGEST_ADDRESS,
        widget=forms.EmailInput(attrs={"autocomplete": "email"}),
    )


class NewAccountForm(BaseUserCreationForm):
    """The password of a new account, typed twice; the address is that of the instance."""

    class Meta:
        model = User
        fields: ClassVar[list[str]] = []

    def saved(self) -> User | None:
        """The new account; None, and a fault, when the address was taken meanwhile."""
        try:
            with transaction.atomic():
                user: User = self.save()
        except IntegrityError:
            self.add_error(None, User._meta.get_field("email").error_messages["unique"])
            return None
        return user
