from datetime import date
from decimal import Decimal

from django.contrib.auth import get_user_model
from django.contrib.auth.models import AnonymousUser
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.test import TestCase

from engine.typed_numbers import NotANumber
from kit.tests.builders import card, saved
from prices import sample
from prices.amounts import price_in
from prices.lists import BadList, Usual, read_csv, save
from prices.models import ExchangeRate, Offer, PriceList
from prices.money import Costs, Rates, prices_of
from prices.stand_in import made_up_list, made_up_price
from prices.tests.builders import NOV

USUAL = Usual("Skerry Head Photo", NOV, "EUR")


def read(*lines: str) -> list[Offer]:
    return read_csv("\n".join(lines).encode(), USUAL)


class ReadingTests(TestCase):
    def test_a_list_says_its_shop_and_day_in_the_file_or_beside_it(self) -> None:
        save(read("maker;name;price;currency;shop;on", "Tarn;90 128;1.129,5 ;gbp;Weir;24.12.2026",
                  "Tarn;30 256;39;;;"), None)  # fmt: skip
        said = [(str(o.price_list), o.name, o.price, o.currency) for o in Offer.objects.all()]
        self.assertEqual(
            [("Skerry Head Photo, 1 Nov 2026", "30 256", Decimal(39), "EUR"),
             ("Weir, 24 Dec 2026", "90 128", Decimal("1129.50"), "GBP")], said,
        )  # fmt: skip

    def test_every_fault_is_told_with_its_line_and_nothing_is_saved(self) -> None:
        with self.assertRaises(BadList) as refused:
            read("maker,name,price,currency,on", "Tarn,A,free,EUR,", "Tarn,B,-1,EUR,",
                 "Tarn,C,5,euro,", "Tarn,D,5,EUR,soon", "Tarn,,5,EUR,", "Tarn,E,1e12,EUR,",
                 "Tarn,F,5,EUR,", "tarn,f,6,EUR,")  # fmt: skip
        told = refused.exception.faults
        self.assertEqual(
            [f"Line {n}" for n in (2, 3, 4, 5, 6, 7, 9)], [t.split(":")[0] for t in told]
        )
        self.assertEqual(["F"], [offer.name for offer in refused.exception.good])
        self.assertFalse(PriceList.objects.exists())

    def test_prices_are_read_as_people_write_them(self) -> None:
        for text, price, currency in (
            ("£170", 170, "GBP"), ("170 EUR", 170, "EUR"), ("1.700,50", "1700.50", ""),
            ("€ 1,700.50", "1700.50", "EUR"), ("45.000 JPY", None, ""), ("90000 ¥", 90_000, "JPY"),
            ("0", 0, ""), ("-5", None, ""), ("€5 GBP", None, ""), ("1e9", None, ""),
            ("nan", None, ""),
        ):  # fmt: skip
            with self.subTest(text):
                if price is None:
                    self.assertRaises(NotANumber, price_in, text)
                else:
                    self.assertEqual((Decimal(price), currency), price_in(text))

    def test_what_is_no_price_is_quoted_whole(self) -> None:
        for text in ("abc", "EUR", "ten", "5 or 6 EUR"):
            with self.subTest(text), self.assertRaisesMessage(NotANumber, f"“{text}”"):
                price_in(text)

    def test_what_is_no_list_is_refused(self) -> None:
        for data in (b"", b"\0\1", b"maker,price\nTarn,5", b"maker,name,price\n", b"a" * 2_000_001,
                     b"maker,name,price\n" + b"a" * 200_000):  # fmt: skip
            with self.subTest(data[:10]), self.assertRaises(BadList):
                read_csv(data, USUAL)

    def test_a_list_of_the_same_shop_and_day_takes_the_new_price(self) -> None:
        for price in (50, 45):
            save(read("maker,name,price", f"Tarn,Shoal,{price}"), None)
        self.assertEqual([45], [offer.price for offer in Offer.objects.all()])


class PriceTests(TestCase):
    def setUp(self) -> None:
        self.user = get_user_model().objects.create(email="a@skerry.example")
        self.card = saved(
            card(
                maker="Tarn",
                name="Shoal",
            )
        )

    def now(self, visitor=None):
        return prices_of([self.card], visitor or self.user)[self.card.pk].now

    def offer(self, price: int, on: date, shop: str = "Weir", owner=None) -> None:
        save(
            read_csv(f"maker,name,price\nTARN,shoal,{price}".encode(), Usual(shop, on, "EUR")),
            owner,
        )

    def test_the_newest_price_holds_and_of_two_of_a_day_the_lower_or_the_noted_one(self) -> None:
        self.assertIsNone(self.now())
        self.offer(70, date(2026, 10, 1))
        self.offer(1, date(2999, 1, 1))  # a list of a day to come doesn't rule yet
        self.assertEqual(70, self.now().price)
        self.offer(80, NOV, "Weir")
        self.offer(75, NOV, "Quay")
        self.assertEqual(75, self.now().price)
        self.assertIn("the lower price", prices_of([self.card], self.user)[self.card.pk].why)
        self.offer(79, NOV, "", self.user)
        self.assertEqual(79, self.now().price)
        self.assertIn("noted by hand", prices_of([self.card], self.user)[self.card.pk].why)
        costs = Costs(self.user)
        self.assertEqual((7_900, 15_800), (costs.cents(self.card), costs.cents(self.card, 2)))
        self.assertEqual("79\u00a0EUR noted by hand, 1 Nov 2026", costs.words(self.card))
        mine = saved(card(maker="Tarn", name="Shoal", owner=self.user))
        self.assertEqual((0, 7_900), (costs.cents(mine), costs.cents(mine, 2)))
        self.assertEqual("yours", costs.words(mine))

    def test_what_others_noted_is_theirs(self) -> None:
        self.offer(1, NOV, "", self.user)
        self.assertIsNone(self.now(AnonymousUser()))

    def test_nothing_is_converted_without_a_rate_and_either_way_round_with_one(self) -> None:
        self.assertIsNone(Rates.of(self.user).cents(Decimal(10), "GBP", "EUR"))
        ExchangeRate.objects.create(currency="GBP", against="EUR", rate=1.5, on=NOV)
        rates = Rates.of(self.user)
        self.assertEqual(1_500, rates.cents(Decimal(10), "GBP", "EUR"))
        self.assertEqual(667, rates.cents(Decimal(10), "EUR", "GBP"))
        ExchangeRate.objects.create(
            currency="GBP", against="EUR", rate=1.2, on=NOV, owner=self.user
        )
        self.assertEqual(1_200, Rates.of(self.user).cents(Decimal(10), "GBP", "EUR"))
        # One's own counts before the sample's, also when it is noted the other way round.
        ExchangeRate.objects.create(currency="USD", against="EUR", rate=9, on=NOV)
        ExchangeRate.objects.create(currency="EUR", against="USD", rate=2, on=NOV, owner=self.user)
        self.assertEqual(500, Rates.of(self.user).cents(Decimal(10), "USD", "EUR"))

    def test_the_database_holds_what_the_forms_check(self) -> None:
        of_list = PriceList.objects.create(shop="Weir", on=NOV)
        bad = [
            Offer(
                price_list=of_list, maker="T", name="S", card_key="t s", price=-1, currency="EUR"
            ),
            Offer(price_list=of_list, maker="T", name="S", card_key="t s", price=1, currency="eur"),
            ExchangeRate(currency="EUR", against="EUR", rate=1, on=NOV),
            ExchangeRate(currency="GBP", against="EUR", rate=0, on=NOV),
            ExchangeRate(currency="GB", against="EUR", rate=1, on=NOV),
            PriceList(shop="Weir", on=NOV),
        ]
        for row in bad:
            with self.subTest(row=str(row)):
                with self.assertRaises(ValidationError):
                    row.full_clean()
                with self.assertRaises(IntegrityError), transaction.atomic():
                    type(row).objects.bulk_create([row])

    def test_the_sample_has_a_year_of_prices_and_is_put_back_as_it_was(self) -> None:
        saved(card(slug="gravelock-tide-512", name="Tide 512"))
        sample.load(NOV)
        self.assertEqual((13, 2), (Offer.objects.count(), ExchangeRate.objects.count()))

    def test_the_made_up_list_changes_from_day_to_day_and_is_the_same_when_asked_again(
        self,
    ) -> None:
        days = [date(2026, month, 1) for month in range(1, 13)]
        found = [made_up_price("shoal", 60, day) for day in days]
        self.assertGreater(len(set(found)), 6)
        self.assertEqual(found, [made_up_price("shoal", 60, day) for day in days])
        known = card(slug="gravelock-tide-512")
        self.assertEqual(1, len(made_up_list([self.card, known], NOV)["prices"]))
