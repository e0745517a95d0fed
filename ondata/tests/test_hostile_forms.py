"""Every field of every form takes nonsense: a sentence, and never an error."""

from collections.abc import Iterator
from itertools import cycle
from typing import Any

from django.contrib.auth import get_user_model
from django.forms import BaseForm, DecimalField, FloatField, IntegerField
from django.urls import reverse
from django_webtest import WebTest
from webtest.forms import Checkbox, File, Hidden, Submit

from kit import edit, sample
from kit.models import Body, Card, Reader

NONSENSE = ("nan", "-1", "1e999", "9" * 400, "9" * 10_000, "\0", "1.700", "٣", "<b>|&", "é" * 300)


def subclasses(of: type[Any]) -> Iterator[type[Any]]:
    """All that there are, of subclasses too."""
    for one in of.__subclasses__():
        yield one
        yield from subclasses(one)


class HostileForms(WebTest):
    def setUp(self) -> None:
        sample.load()
        self.ann = get_user_model().objects.create(email="ann@example.org")
        slugs = {
            name: edit.copy(model.objects.filter(owner=None).first(), self.ann).changed.slug
            for name, model in (("card", Card), ("body", Body), ("reader", Reader))
        }
        self.pages = [
            reverse(name)
            for name in ("card-new", "body-new", "reader-new", "prices", "exchange", "bench-test")
        ]
        for name, slug in slugs.items():
            self.pages += [reverse(name, args=[slug]), reverse(f"{name}-edit", args=[slug])]

    def test_no_form_takes_a_whole_number_that_no_column_holds(self) -> None:
        fields = [
            (form.__name__, name, field)
            for form in subclasses(BaseForm)
            for name, field in getattr(form, "base_fields", {}).items()
            if not form.__module__.startswith("django")
            and isinstance(field, IntegerField)
            and not isinstance(field, FloatField | DecimalField)
        ]
        self.assertTrue(fields)
        for form, name, field in fields:
            with self.subTest(form=form, field=name):
                self.assertIsNotNone(field.max_value)

    def test_nonsense_in_every_field_is_answered(self) -> None:
        texts = cycle(NONSENSE)
        for page in self.pages:
            forms = self.app.get(page, user=self.ann).forms
            for number in [key for key in forms if isinstance(key, int)]:
                form = self.app.get(page, user=self.ann).forms.get(number)
                if form is None or form.method.lower() != "post":
                    continue
                if form.action == reverse("prices-fetch"):
                    continue  # which asks another server, and says that there is none
                self.fill(form, texts)
                answer = form.submit(user=self.ann, expect_errors=True)
                with self.subTest(page=page, action=form.action):
                    self.assertLess(answer.status_code, 500)
                    self.assertIn(answer.status_code, (200, 302, 400, 404, 413, 422))

    def fill(self, form, texts: Iterator[str]) -> None:
        kept = {"csrfmiddlewaretoken", "version"}
        for name, fields in form.fields.items():
            for field in fields:
                if name in kept or isinstance(field, Checkbox | File | Submit):
                    continue
                if isinstance(field, Hidden) and name and name.endswith("_FORMS"):
                    continue
                field.force_value(next(texts))
