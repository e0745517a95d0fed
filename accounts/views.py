"""Signing up, passwords, the sample account, and leaving."""

from typing import Any
from urllib.parse import urlencode

from django.conf import settings
from django.contrib import messages
from django.contrib.auth import login, logout
from django.contrib.auth import views as auth
from django.contrib.auth.decorators import login_required
from django.contrib.auth.forms import AuthenticationForm
from django.contrib.messages.views import SuccessMessageMixin
from django.core.exceptions import NON_FIELD_ERRORS
from django.http import Http404, HttpRequest, HttpResponse
from django.http.response import HttpResponseBase
from django.shortcuts import redirect, render, resolve_url
from django.urls import reverse
from django.utils.decorators import method_decorator
from django.views.decorators.http import require_http_methods, require_POST, require_safe

from accounts import guests, sample_account, signing_up
from accounts.forms import (
    ForgottenForm,
    LeaveForm,
    NewAccountForm,
    SignUpForm,
    address_typed,
)
from accounts.models import User
from accounts.signing_up import Asked
from kit.views.shared import account_required, signed_in
from pages.limits import at_most
from pages.redirects import back_to, own_path
from pages.refusals import Refused

LONGEST_PATH = 1_000
BACKEND = "django.contrib.auth.backends.ModelBackend"


@at_most(20, per="ip")
@at_most(5, per=address_typed)
def sign_up(request: HttpRequest) -> HttpResponse:
    """The address of somebody who wants an account: a mail goes there, whatever comes of it."""
    form = SignUpForm(request.POST or None)
    back = request.POST.get("next", request.GET.get("next", ""))[:LONGEST_PATH]
    if request.method == "POST" and form.is_valid():
        signing_up.send_link(request, Asked(form.cleaned_data["email"], back))
        return redirect("sign-up-sent")
    status = 422 if form.errors else 200
    return render(request, "accounts/sign_up.html", {"form": form, "next": back}, status=status)


@at_most(20, per="ip")
def account_new(request: HttpRequest, token: str) -> HttpResponse:
    """The password of a new account, which is then signed in."""
    asked = signing_up.asked_in(token)
    if asked is None:
        return render(request, "accounts/sign_up_too_late.html", status=410)
    form = NewAccountForm(request.POST or None, instance=User(email=asked.email))
    if request.method == "POST" and form.is_valid() and (user := form.saved()):
        guest = guests.guest_of(request)
        login(request, user, BACKEND)
        _bring_along(request, guest, user)
        query = urlencode({"next": asked.back}) if asked.back else ""
        return redirect(f"{reverse('welcome')}?{query}")
    context = {"form": form, "email": asked.email}
    return render(request, "accounts/account_new.html", context, status=422 if form.errors else 200)


@account_required
@require_safe
def welcome(request: HttpRequest) -> HttpResponse:
    """What to do next with a new account, and the way back to where the visitor came from."""
    back = own_path(request.GET.get("next", "")[:LONGEST_PATH])
    return render(request, "accounts/welcome.html", {"back": back})


class SignIn(auth.LoginView):
    """Signing in, and back to the path of this site that the visitor came from."""

    def dispatch(self, request: HttpRequest, *args: Any, **kwargs: Any) -> HttpResponseBase:
        """Sends on who has signed in already; a guest has not."""
        self.redirect_authenticated_user = guests.guest_of(request) is None
        return super().dispatch(request, *args, **kwargs)

    def form_valid(self, form: AuthenticationForm) -> HttpResponse:
        """Moves what was added before signing in into the account."""
        guest = guests.guest_of(self.request)
        response = super().form_valid(form)
        _bring_along(self.request, guest, form.get_user())
        return response

    def form_invalid(self, form: AuthenticationForm) -> HttpResponse:
        """The form again, or that there were too many tries."""
        if form.has_error(NON_FIELD_ERRORS, "locked"):
            return render(self.request, "accounts/locked.html", status=429)
        return super().form_invalid(form)

    def get_redirect_url(self) -> str:  # type: ignore[override]  # as Django 5.2 calls it
        return own_path(super().get_redirect_url())


@method_decorator(at_most(20, per="ip"), name="dispatch")
@method_decorator(at_most(5, per=address_typed), name="dispatch")
class Forgotten(auth.PasswordResetView):
    """A mail with a link to another password, if the address has an account."""

    form_class = ForgottenForm


@method_decorator(account_required, name="dispatch")
@method_decorator(at_most(20, per="user"), name="dispatch")
class PasswordChange(SuccessMessageMixin, auth.PasswordChangeView):
    """Another password, which is said to hold."""

    success_message = "The new password holds from now on."


class PasswordNew(SuccessMessageMixin, auth.PasswordResetConfirmView):
    """A password in place of a forgotten one, which is said to hold."""

    success_message = "The new password holds: sign in with it."


@account_required
@require_safe
def account(request: HttpRequest) -> HttpResponse:
    """What somebody can do with their account."""
    return render(request, "accounts/account.html")


@account_required
@require_http_methods(["GET", "HEAD", "POST"])
@at_most(20, per="user")
def leave(request: HttpRequest) -> HttpResponse:
    """The end of an account and of all that it owns; the sample account, without one, stays."""
    user = signed_in(request)
    form = LeaveForm(request.POST or None, user=user)
    if request.method == "POST" and form.is_valid():
        user.delete()
        logout(request)
        messages.success(request, "Your account is gone, and all that was in it.")
        return redirect("desk")
    status = 422 if form.errors else 200
    return render(request, "accounts/leave.html", {"form": form}, status=status)


@require_POST
def forget_guest(request: HttpRequest) -> HttpResponse:
    """The end of all that a visitor without an account has added."""
    if guest := guests.guest_of(request):
        guest.delete()
        guests.part_with(request)
        messages.success(request, "All that you had added in this browser is gone.")
    return redirect("desk")


@login_required
@require_POST
def show_sample_kit(request: HttpRequest) -> HttpResponse:
    """Offers the sample kit beside the visitor's own, or leaves it out; kept with their kit."""
    visitor = User.objects.filter(pk=signed_in(request).pk)
    visitor.update(shows_sample=request.POST.get("shown") == "1")
    return back_to(request.POST.get("back", ""), reverse("desk"))


@require_POST
def enter_sample_account(request: HttpRequest) -> HttpResponse:
    """Signs in to the sample account; there is none outside the sample mode."""
    if not settings.SAMPLE_MODE:
        raise Http404("There is a sample account in the sample mode only.")
    login(request, sample_account.ready(), BACKEND)
    return _back(request.POST.get("next", ""))


def _bring_along(request: HttpRequest, guest: User | None, user: object) -> None:
    """Moves a guest's kit into the account that the guest now has."""
    if guest is not None and isinstance(user, User):
        try:
            guests.move_in(guest, user)
        except Refused as refused:
            messages.warning(request, " ".join(refused.sentences))
        else:
            guests.part_with(request)


def _back(wanted: str) -> HttpResponse:
    """To the page that the visitor came from, or else to the first of theirs."""
    return back_to(wanted, resolve_url(settings.LOGIN_REDIRECT_URL))
