from django.test import TestCase
from django.urls import reverse


class Manifest(TestCase):
    def test_every_page_names_a_manifest_whose_icon_is_there(self) -> None:
        self.assertContains(self.client.get(reverse("outings")), 'rel="manifest"')
        told = self.client.get(reverse("manifest"))
        self.assertEqual("application/manifest+json", told["Content-Type"])
        (icon,) = told.json()["icons"]
        self.assertRegex(icon["src"], r"^/static/mark\.\w+\.svg$")
        self.assertEqual("standalone", told.json()["display"])
