from typing import Any

from django import forms
from django.contrib.auth.base_user import AbstractBaseUser
from django.contrib.auth.forms import AuthenticationForm, BaseUserCreationForm

from accounts.models import User


class SignInForm(AuthenticationForm):
    """Signing in; capitals in the address make no difference, nor another try at guessing."""

    def clean_username(self) -> str:
        username: str = self.cleaned_data["username"]
        return username.lower()


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


class SignUpForm(BaseUserCreationForm):
    """A new account: an address and a password, typed twice."""

    class Meta:
        model = User
        fields = ["email"]

    def clean_email(self) -> str:
        email: str = self.cleaned_data["email"]
        return email.lower()
