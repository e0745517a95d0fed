"""What every request passes."""

from django.test import TestCase, override_settings
from django.urls import reverse


class BodyLimit(TestCase):
    @override_settings(MOST_BODY_BYTES=100)
    def test_a_body_is_refused_by_its_length(self) -> None:
        for length in ("101", "99999999999", "-1", "many"):
            answer = self.client.post(reverse("sign-out"), {}, CONTENT_LENGTH=length)
            self.assertContains(answer, "larger than this site takes", status_code=413)
