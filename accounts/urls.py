from django.contrib.auth import views as auth
from django.urls import path, reverse_lazy
from django.views.generic import TemplateView

from accounts import views
from accounts.forms import SignInForm


def _page(name: str) -> str:
    return f"accounts/{name}.html"


urlpatterns = [
    path("", views.account, name="account"),
    path("sign-up/", views.sign_up, name="sign-up"),
    path(
        "sign-up/sent/",
        TemplateView.as_view(template_name=_page("sign_up_sent")),
        name="sign-up-sent",
    ),
    path("sign-up/<str:token>/", views.account_new, name="account-new"),
    path(
        "sign-in/",
        views.SignIn.as_view(
            template_name=_page("sign_in"),
            authentication_form=SignInForm,
        ),
        name="sign-in",
    ),
    path("sign-out/", auth.LogoutView.as_view(), name="sign-out"),
    path("sample/", views.enter_sample_account, name="sample-account"),
    path("welcome/", views.welcome, name="welcome"),
    path("sample-kit/", views.show_sample_kit, name="sample-kit"),
    path("forget/", views.forget_guest, name="forget-guest"),
    path("leave/", views.leave, name="leave"),
    path(
        "password/",
        views.PasswordChange.as_view(
            template_name=_page("password_change"), success_url=reverse_lazy("account")
        ),
        name="password-change",
    ),
    path(
        "forgotten/",
        views.Forgotten.as_view(
            template_name=_page("forgotten"),
            email_template_name="accounts/forgotten_mail.txt",
            subject_template_name="accounts/forgotten_subject.txt",
            success_url=reverse_lazy("forgotten-sent"),
        ),
        name="forgotten",
    ),
    path(
        "forgotten/sent/",
        auth.PasswordResetDoneView.as_view(template_name=_page("forgotten_sent")),
        name="forgotten-sent",
    ),
    path(
        "forgotten/<uidb64>/<token>/",
        views.PasswordNew.as_view(
            template_name=_page("password_new"), success_url=reverse_lazy("sign-in")
        ),
        name="password-new",
    ),
]
