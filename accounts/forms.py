from django.contrib.auth.forms import AuthenticationForm, BaseUserCreationForm

from accounts.models import User


class SignInForm(AuthenticationForm):
    """Signing in; capitals in the address make no difference, nor another try at guessing."""

    def clean_username(self) -> str:
        username: str = self.cleaned_data["username"]
        return username.lower()


class SignUpForm(BaseUserCreationForm):
    """A new account: an address and a password, typed twice."""

    class Meta:
        model = User
        fields = ["email"]

    def clean_email(self) -> str:
        email: str = self.cleaned_data["email"]
        return email.lower()
