"""Accounts: made, entered, slowed against guessing, and the sample one."""

import re
import tempfile
from pathlib import Path
from unittest import mock

from django.core import mail
from django.db import IntegrityError, transaction
from django.test import TestCase, override_settings
from django.urls import reverse

from accounts.models import User
from accounts.signing_up import Asked, token_of
from kit import sample
from kit.models import Card
from kit.tests import builders

PASSWORD = "twelve-gannets"


@override_settings(PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"])
class Accounts(TestCase):
    def sign_in(self, password: str = PASSWORD, **place: str) -> int:
        data = {"username": "Ann@Example.org", "password": password}
        return self.client.post(reverse("sign-in"), data, **place).status_code

    def told(self, asked: dict[str, str]) -> tuple[object, str]:
        """What somebody sees who asks for an account, but for the token of forms."""
        sent = self.client.post(reverse("sign-up"), asked, follow=True)
        return sent.redirect_chain, re.sub(r'value="\w{64}"', "", sent.content.decode())

    def link_in_mail(self) -> str:
        link = re.search(r"http://testserver(\S+)", mail.outbox[-1].body)
        assert link
        return link[1]

    def test_an_account_is_made_once_whatever_its_capitals_and_entered(self) -> None:
        asked = {"email": "Ann@example.org", "next": reverse("body-new")}
        new = self.told(asked)
        link = self.link_in_mail()
        chosen = {"password1": PASSWORD, "password2": PASSWORD}
        welcome = self.client.post(link, chosen, follow=True)
        self.assertContains(welcome, f'href="{reverse("body-new")}">Back to where you were')
        self.client.post(reverse("sign-out"))
        again = self.client.post(link, chosen)
        self.assertContains(again, "There is an account with this address", status_code=422)
        self.assertEqual(new, self.told(asked))  # nobody is told which addresses there are
        self.assertIn("You have one already", mail.outbox[-1].body)
        self.assertEqual(302, self.sign_in())
        self.assertEqual(410, self.client.get(link[:-5] + "x/").status_code)
        with self.assertRaises(IntegrityError), transaction.atomic():
            User.objects.bulk_create([User(email="Bob@example.org")])

    def test_guessing_is_slowed_after_five_wrong_passwords(self) -> None:
        self.make_account()
        self.assertEqual([200] * 5 + [429], [self.sign_in("wrong") for _ in range(6)])
        self.assertEqual(429, self.sign_in())
        self.assertEqual(302, self.sign_in(REMOTE_ADDR="192.0.2.7"))  # from another place
        self.client.post(reverse("sign-out"))
        self.assertEqual([200] * 5 + [429], [self.sign_in("wrong") for _ in range(6)])

    def test_one_password_tried_at_many_accounts_is_slowed_before_it_is_hashed(self) -> None:
        def sign_in(number: int) -> int:
            data = {"username": f"{number}@example.org", "password": "wrong"}
            return self.client.post(reverse("sign-in"), data).status_code

        with mock.patch("pages.limits.TRIES_AT_ALL", 9):
            self.assertEqual([200] * 9, [sign_in(number) for number in range(9)])
            with mock.patch("django.contrib.auth.forms.authenticate") as hashing:
                self.assertEqual(429, sign_in(10))
            hashing.assert_not_called()

    def test_a_forgotten_password_is_set_anew_by_mail(self) -> None:
        self.make_account()
        self.assertEqual(429, [self.sign_in("wrong") for _ in range(6)][-1])
        self.client.post(reverse("forgotten"), {"email": "ann@example.org"})
        form = self.client.get(self.link_in_mail(), follow=True).redirect_chain[-1][0]
        new = {"new_password1": "eleven-puffins", "new_password2": "eleven-puffins"}
        self.assertRedirects(self.client.post(form, new), reverse("sign-in"))
        self.assertEqual(302, self.sign_in("eleven-puffins"))

    def test_a_page_that_needs_an_account_is_reached_after_signing_in(self) -> None:
        self.make_account()
        page = self.client.get(reverse("exchange"))
        data = {"username": "ann@example.org", "password": PASSWORD}
        self.assertRedirects(self.client.post(page.url, data), reverse("exchange"))

    def test_no_page_leads_to_another_site(self) -> None:
        sample.load()
        answer = self.client.post(reverse("sample-account"), {"next": "https://elsewhere.example/"})
        self.assertRedirects(answer, reverse("cards"))

    def test_a_relative_word_is_no_address(self) -> None:
        sample.load()
        chosen = {"password1": PASSWORD, "password2": PASSWORD}
        for wanted in ("printed", "cards", "..", "http:printed"):
            User.objects.filter(email="new@example.org").delete()
            self.client.logout()
            answer = self.client.post(reverse("sample-account"), {"next": wanted})
            self.assertRedirects(answer, reverse("cards"), fetch_redirect_response=False)
            self.client.logout()
            made = reverse("account-new", args=[token_of(Asked("new@example.org", wanted))])
            welcome = self.client.post(made, chosen, follow=True)
            self.assertNotContains(welcome, "Back to where you were")
        self.client.logout()
        known = {"username": "new@example.org", "password": PASSWORD, "next": "printed"}
        answer = self.client.post(reverse("sign-in"), known)
        self.assertRedirects(answer, reverse("cards"), fetch_redirect_response=False)

    def test_an_address_longer_than_any_is_a_sentence(self) -> None:
        sent = {"username": f"{'a' * 300}@example.org", "password": "x"}
        self.assertContains(self.client.post(reverse("sign-in"), sent), "as long as that")

    def test_the_sample_account_has_a_kit_of_its_own_and_is_in_the_sample_mode_only(self) -> None:
        sample.load()
        for _ in range(2):
            self.client.post(reverse("sample-account"))
        sampler = User.objects.get()
        self.assertFalse(sampler.has_usable_password())
        owned = Card.objects.owned_by(sampler)
        self.assertEqual(7, owned.count())
        self.assertTrue(all(card.log.exists() for card in owned))
        with override_settings(SAMPLE_MODE=False):
            self.assertEqual(404, self.client.post(reverse("sample-account")).status_code)

    def test_an_account_is_deleted_with_all_that_it_owns_by_its_password_only(self) -> None:
        self.make_account()
        self.sign_in()
        builders.saved(builders.card(owner=User.objects.get()))
        wrong = self.client.post(reverse("leave"), {"password": "guess"})
        self.assertContains(wrong, "That is not the password", status_code=422)
        self.assertRedirects(
            self.client.post(reverse("leave"), {"password": PASSWORD}), reverse("desk")
        )
        self.assertFalse(User.objects.exists() or Card.objects.exists())

    def test_mail_of_the_sample_mode_goes_to_a_folder(self) -> None:
        self.make_account()
        with (
            tempfile.TemporaryDirectory() as folder,
            override_settings(
                EMAIL_BACKEND="django.core.mail.backends.filebased.EmailBackend",
                EMAIL_FILE_PATH=folder,
            ),
        ):
            self.client.post(reverse("forgotten"), {"email": "ann@example.org"})
            self.assertEqual(1, len(list(Path(folder).iterdir())))

    def make_account(self) -> None:
        user = User(email="ann@example.org")
        user.set_password(PASSWORD)
        user.save()
