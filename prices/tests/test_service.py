"""The client against a service that misbehaves in every way it can."""

import json
import threading
import time
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from unittest import mock

from django.contrib.auth import get_user_model
from django.core.cache import cache
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import SimpleTestCase, TestCase, override_settings
from django.urls import reverse
from django.utils.timezone import localdate

from kit.tests.builders import card, saved
from prices import service
from prices.lists import Usual, read_csv
from prices.models import ExchangeRate, Offer
from prices.service import ServiceFailed, fetch
from prices.tests.builders import NOV
from prices.views import FETCHING

USUAL = Usual("", NOV, "EUR")
GOOD = {"shop": "Weir", "on": "2026-11-01", "prices": [{"maker": "Tarn", "name": "A", "price": 9}]}


class Handler(BaseHTTPRequestHandler):
    tries = 0

    def do_GET(self) -> None:
        getattr(self, self.path.strip("/"))()

    def answer(self, body: bytes, status: int = 200) -> None:
        self.send_response(status)
        self.send_header("Content-Length", str(len(body)))
        self.end_headers()
        self.wfile.write(body)

    def good(self) -> None:
        self.answer(json.dumps(GOOD).encode())

    def busy_once(self) -> None:
        type(self).tries += 1
        self.answer(b"", 503) if type(self).tries == 1 else self.good()

    def busy(self) -> None:
        self.answer(b"", 503)

    def nonsense(self) -> None:
        self.answer(b"<html>\xff")

    def deep(self) -> None:
        self.answer(b"[" * 100_000)

    def shapeless(self) -> None:
        self.answer(b'{"prices": [1, 2]}')

    def bad_price(self) -> None:
        self.answer(
            json.dumps({"prices": [{"maker": "Tarn", "name": "A", "price": "NaN"}]}).encode()
        )

    def huge(self) -> None:
        self.answer(b" " * 50_000_000)

    def elsewhere(self) -> None:
        self.send_response(302)
        self.send_header("Location", "/good/")
        self.end_headers()

    def hangs(self) -> None:
        time.sleep(1)

    def drips(self) -> None:
        self.send_response(200)
        self.end_headers()
        for _ in range(20):
            self.wfile.write(b" ")
            self.wfile.flush()
            time.sleep(0.1)

    def drips_headers(self) -> None:
        self.wfile.write(b"HTTP/1.1 200 OK\r\n")
        for number in range(20):
            self.wfile.write(f"X-Wait-{number}: 1\r\n".encode())
            self.wfile.flush()
            time.sleep(0.1)

    def retry_later(self) -> None:
        self.send_response(503)
        self.send_header("Retry-After", "20")
        self.send_header("Content-Length", "0")
        self.end_headers()

    def log_message(self, *args: object) -> None:
        pass


class ServiceTests(SimpleTestCase):
    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        cls.server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
        cls.server.handle_error = lambda *args: None  # a client that leaves early is no fault
        threading.Thread(target=cls.server.serve_forever, daemon=True).start()
        cls.address = f"http://127.0.0.1:{cls.server.server_port}"

    @classmethod
    def tearDownClass(cls) -> None:
        cls.server.shutdown()
        cls.server.server_close()
        super().tearDownClass()

    def test_a_list_is_read_and_a_busy_service_is_asked_again(self) -> None:
        for way in ("good", "busy_once"):
            with self.subTest(way):
                (offer,) = fetch(f"{self.address}/{way}/", USUAL)
                self.assertEqual(("Weir", NOV), (offer.price_list.shop, offer.price_list.on))

    def test_whatever_goes_wrong_is_a_sentence_and_comes_to_an_end(self) -> None:
        with mock.patch.multiple(service, ALL_IN_ALL_S=0.8, READ_S=0.5):
            for way in ("busy", "nonsense", "deep", "shapeless", "bad_price", "huge", "elsewhere",
                        "hangs", "drips", "drips_headers", "retry_later"):  # fmt: skip
                with self.subTest(way), self.assertRaisesMessage(ServiceFailed, "price service"):
                    fetch(f"{self.address}/{way}/", USUAL)
        with self.assertRaisesMessage(ServiceFailed, "does not answer"):
            fetch("http://127.0.0.1:9/", USUAL)


class ScreenTests(TestCase):
    def setUp(self) -> None:
        self.user = get_user_model().objects.create(email="a@skerry.example")
        self.client.force_login(self.user)

    def test_a_service_that_is_down_is_said_to_be_and_the_page_still_works(self) -> None:
        with override_settings(PRICE_SERVICE="http://127.0.0.1:9/"):
            response = self.client.post(reverse("prices-fetch"))
        self.assertContains(response, "does not answer", status_code=502)
        self.assertContains(response, "Save the list", status_code=502)

    def test_the_made_up_list_is_fetched_into_the_visitors_lists_by_one_at_a_time(self) -> None:
        saved(card(maker="Tarn", name="Shoal", slug="gravelock-tide-512"))
        with override_settings(SAMPLE_MODE=True, PRICE_SERVICE=""):
            response = self.client.post(reverse("prices-fetch"), follow=True)
            self.assertContains(response, "1 prices saved")
            cache.add(FETCHING, True)
            busy = self.client.post(reverse("prices-fetch"))
            self.assertContains(busy, "just now", status_code=503)
            cache.delete(FETCHING)
        self.assertEqual([self.user], [offer.price_list.owner for offer in Offer.objects.all()])

    def test_a_price_is_noted_and_a_bad_one_keeps_what_was_typed(self) -> None:
        noted = {"maker": "Tarn", "name": "Shoal", "price": "19,90", "currency": "eur", "back": "/"}
        self.assertRedirects(self.client.post(reverse("price-note"), noted), "/",
                             fetch_redirect_response=False)  # fmt: skip
        self.assertEqual("Tarn Shoal: 19.90\u00a0EUR", str(Offer.objects.get()))
        response = self.client.post(reverse("price-note"), noted | {"price": "cheap"})
        self.assertContains(response, 'value="cheap"', status_code=422)
        for back in ("//elsewhere.example", "printed", "prices", "javascript:x"):
            elsewhere = self.client.post(reverse("price-note"), noted | {"back": back})
            self.assertRedirects(elsewhere, reverse("prices"))

    def test_the_good_lines_of_a_bad_list_can_be_kept(self) -> None:
        file = SimpleUploadedFile("list.csv", b"maker,name,price\nTarn,A,5\nTarn,B,cheap")
        sent = {"file": file, "shop": "Weir", "on": "2026-11-01", "currency": "GBP"}
        told = self.client.post(reverse("prices-receive"), sent)
        self.assertContains(told, "Line 3: “cheap” is not a number.", status_code=422)
        self.assertFalse(Offer.objects.exists())
        good = {"good": told.context["good_text"]}
        self.client.post(reverse("prices-receive-good"), good)
        (offer,) = Offer.objects.select_related("price_list")
        self.assertEqual("Tarn A: 5\u00a0GBP", str(offer))
        self.assertEqual("Weir, 1 Nov 2026", str(offer.price_list))

    def test_rates_are_noted_changed_and_dropped(self) -> None:
        row = {"currency": "gbp", "rate": "1,17", "against": "EUR", "on": "2026-11-01"}
        for rate in ("1,17", "1.2"):
            self.client.post(reverse("rate"), row | {"rate": rate})
        self.assertContains(self.client.get(reverse("prices")), "1 GBP = 1.2 EUR")
        refused = self.client.post(reverse("rate"), row | {"against": "GBP"})
        self.assertContains(refused, "between two currencies", status_code=422)
        (own,) = ExchangeRate.objects.all()
        self.client.post(reverse("rate-drop", args=[own.pk]))
        self.assertFalse(ExchangeRate.objects.exists())

    def test_what_goes_out_comes_in_again(self) -> None:
        noted = {"maker": "Tarn", "name": "-Shoal, 64", "price": "19,90", "currency": "GBP"}
        self.client.post(reverse("price-note"), noted)
        told = self.client.get(reverse("prices-export")).content
        (offer,) = read_csv(told, USUAL)
        self.assertEqual(str(Offer.objects.get()), str(offer))
        self.assertEqual(localdate(), offer.price_list.on)

    def test_nobody_else_sees_a_list(self) -> None:
        noted = {"maker": "Tarn", "name": "Shoal", "price": "1", "currency": "EUR"}
        self.client.post(reverse("price-note"), noted)
        self.client.logout()
        self.assertNotContains(self.client.get(reverse("prices")), "noted by hand,")
