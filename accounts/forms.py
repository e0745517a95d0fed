from django.contrib.auth.forms import BaseUserCreationForm

from accounts.models import User


class SignUpForm(BaseUserCreationForm):
    """A new account: an address and a password, typed twice."""

    class Meta:
        model = User
        fields = ["email"]

    def clean_email(self) -> str:
        email: str = self.cleaned_data["email"]
        return email.lower()
